"""What a project to ACI 318-19 begins with and may choose from."""

from __future__ import annotations

from piastra.core.standards.protocol import Library

_LAYERS = {
    "screed": 22.62, "mineral fibre": 0.94, "ceramic tile": 23.56, "timber": 5.5, "gypsum board": 7.85,
    "lightweight block": 16.49, "gravel": 16.34, "wet soil": 18.85, "asphalt": 22.0,
}  # fmt: skip
_USES = (
    ("office", "other", 50), ("lobby", "other", 100), ("corridor above ground", "other", 80), ("classroom", "other", 40),
    ("reading room", "other", 60), ("library stacks", "heavy", 150), ("dwelling", "other", 40),
    ("assembly, fixed seats", "assembly", 60), ("assembly, movable seats", "assembly", 100), ("parking", "garage", 40),
    ("retail, first floor", "other", 100), ("storage, light", "heavy", 125), ("roof, ordinary", "other", 20),
    ("roof garden", "assembly", 100),
)  # fmt: skip
PSF = 0.04788025898
"""One pound a square foot in kN/m2."""
PSI = 0.006894757293168
"""One pound a square inch in MPa."""

LIBRARY = Library(
    concretes=tuple(
        {"id": f"{psi} psi", "strength_MPa": round(psi * PSI, 6), "unit_weight_kN_m3": 23.563}
        for psi in (3000, 4000, 5000, 6000, 8000)
    ),
    rebars=tuple({"id": f"Grade {ksi}", "yield_MPa": round(1e3 * ksi * PSI, 6), "E_MPa": 199948.0} for ksi in (60, 80)),
    load_materials=tuple({"id": k, "unit_weight_kN_m3": w} for k, w in _LAYERS.items()),
    occupancies=tuple(
        {"id": name, "category": category, "q_kPa": round(psf * PSF, 9), "source": f"ASCE 7-16, table 4.3-1: {psf} psf"}
        for name, category, psf in _USES
    ),
    first=(1, 0),
)
"""19.2.1 and 20.2.2 (150 lb/ft3); materials of layers from ASCE 7-16, table C3.1-2."""
