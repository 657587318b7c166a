"""What a project to EN 1992-1-1 begins with and may choose from."""

from __future__ import annotations

from piastra.core.standards.protocol import Library

_LAYERS = {
    "screed": 22.0, "mineral wool": 1.5, "ceramic tiles": 21.0, "timber": 5.0, "gypsum board": 9.0, "lightweight block": 8.0,
    "gravel": 18.0, "wet soil": 20.0, "asphalt": 23.0, "raised floor": 6.0,
}  # fmt: skip
_USES = (
    ("dwelling", "A", 2.0, "6.2, A floors"), ("balcony", "A", 2.5, "6.2, A balconies"), ("office", "B", 3.0, "6.2, B"),
    ("café, classroom", "C", 3.0, "6.2, C1"), ("fixed seats", "C", 4.0, "6.2, C2"), ("museum, corridor", "C", 5.0, "6.2, C3"),
    ("gymnasium, stage", "C", 5.0, "6.2, C4"), ("crowds", "C", 5.0, "6.2, C5"), ("shop", "D", 4.0, "6.2, D1"),
    ("department store", "D", 5.0, "6.2, D2"), ("storage", "E", 7.5, "6.4, E1"), ("parking", "F", 2.5, "6.8, F, upper value"),
    ("roof, maintenance", "H", 0.4, "6.10"),
)  # fmt: skip

LIBRARY = Library(
    concretes=tuple(
        {"id": f"C{fck}/{cube}", "strength_MPa": float(fck), "unit_weight_kN_m3": 25.0}
        for fck, cube in ((20, 25), (25, 30), (30, 37), (35, 45), (40, 50), (45, 55), (50, 60))
    ),
    rebars=tuple({"id": f"B{f}", "yield_MPa": float(f), "E_MPa": 200000.0} for f in (500, 600)),
    load_materials=tuple({"id": k, "unit_weight_kN_m3": w} for k, w in _LAYERS.items()),
    occupancies=tuple(
        {"id": name, "category": category, "q_kPa": q, "source": f"EN 1991-1-1, table {row}"} for name, category, q, row in _USES
    ),
    first=(2, 0),
)
"""Table 3.1 (f_ck / cube) and annex C; materials of layers from EN 1991-1-1 annex A."""
