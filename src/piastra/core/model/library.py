"""Materials and uses that a new project begins with, by standard."""

from __future__ import annotations

from typing import Any

Library = dict[str, dict[str, list[dict[str, Any]]]]

MATERIALS: Library = {
    "EN 1992-1-1": {
        "concretes": [
            {"id": f"C{fck}/{cube}", "strength_MPa": float(fck), "unit_weight_kN_m3": 25.0}
            for fck, cube in ((20, 25), (25, 30), (30, 37), (35, 45), (40, 50), (45, 55), (50, 60))
        ],
        "rebars": [{"id": f"B{f}", "yield_MPa": float(f), "E_MPa": 200000.0} for f in (500, 600)],
    },
    "ACI 318-19": {
        "concretes": [
            {"id": f"{psi} psi", "strength_MPa": round(psi * 0.006894757293168, 6), "unit_weight_kN_m3": 23.563}
            for psi in (3000, 4000, 5000, 6000, 8000)
        ],
        "rebars": [{"id": f"Grade {ksi}", "yield_MPa": round(ksi * 6.894757293168, 6), "E_MPa": 199948.0} for ksi in (60, 80)],
    },
}
"""EN 1992-1-1 table 3.1 (f_ck / cube) and annex C; ACI 318-19 19.2.1 and 20.2.2 (150 lb/ft3)."""

_EN_LAYERS = {
    "screed": 22.0, "mineral wool": 1.5, "ceramic tiles": 21.0, "timber": 5.0, "gypsum board": 9.0, "lightweight block": 8.0,
    "gravel": 18.0, "wet soil": 20.0, "asphalt": 23.0, "raised floor": 6.0,
}  # fmt: skip
_EN_USES = (
    ("dwelling", "A", 2.0, "6.2, A floors"), ("balcony", "A", 2.5, "6.2, A balconies"), ("office", "B", 3.0, "6.2, B"),
    ("café, classroom", "C", 3.0, "6.2, C1"), ("fixed seats", "C", 4.0, "6.2, C2"), ("museum, corridor", "C", 5.0, "6.2, C3"),
    ("gymnasium, stage", "C", 5.0, "6.2, C4"), ("crowds", "C", 5.0, "6.2, C5"), ("shop", "D", 4.0, "6.2, D1"),
    ("department store", "D", 5.0, "6.2, D2"), ("storage", "E", 7.5, "6.4, E1"), ("parking", "F", 2.5, "6.8, F, upper value"),
    ("roof, maintenance", "H", 0.4, "6.10"),
)  # fmt: skip
_US_LAYERS = {
    "screed": 22.62, "mineral fibre": 0.94, "ceramic tile": 23.56, "timber": 5.5, "gypsum board": 7.85,
    "lightweight block": 16.49, "gravel": 16.34, "wet soil": 18.85, "asphalt": 22.0,
}  # fmt: skip
_US_USES = (
    ("office", "other", 50), ("lobby", "other", 100), ("corridor above ground", "other", 80), ("classroom", "other", 40),
    ("reading room", "other", 60), ("library stacks", "heavy", 150), ("dwelling", "other", 40),
    ("assembly, fixed seats", "assembly", 60), ("assembly, movable seats", "assembly", 100), ("parking", "garage", 40),
    ("retail, first floor", "other", 100), ("storage, light", "heavy", 125), ("roof, ordinary", "other", 20),
    ("roof garden", "assembly", 100),
)  # fmt: skip
PSF = 0.04788025898
"""One pound a square foot in kN/m2."""

LOADING: Library = {
    "EN 1992-1-1": {
        "load_materials": [{"id": k, "unit_weight_kN_m3": w} for k, w in _EN_LAYERS.items()],
        "occupancies": [
            {"id": name, "category": category, "q_kPa": q, "source": f"EN 1991-1-1, table {row}"}
            for name, category, q, row in _EN_USES
        ],
    },
    "ACI 318-19": {
        "load_materials": [{"id": k, "unit_weight_kN_m3": w} for k, w in _US_LAYERS.items()],
        "occupancies": [
            {"id": name, "category": category, "q_kPa": round(psf * PSF, 9), "source": f"ASCE 7-16, table 4.3-1: {psf} psf"}
            for name, category, psf in _US_USES
        ],
    },
}
"""Materials of layers (EN 1991-1-1 annex A; ASCE 7-16 table C3.1-2) and uses with their live load."""
