"""What a number is a measure of. Every number of the floor file and of the results has its quantity in the schema, by which
the interface shows it in the project's units."""

from __future__ import annotations

from typing import Any, Literal, get_args

from pydantic import BaseModel

Quantity = Literal[
    "length", "size", "cover", "bar", "deflection", "area", "angle", "time", "stress", "shear_stress", "pressure", "lineload",
    "force", "moment", "force_per_m", "moment_per_m", "weight", "bedding", "steel", "steel_per_m", "per_m", "line_moment", "share", "none",
]  # fmt: skip
"""``size`` is a length shown in small units (a thickness), ``cover`` one kept in small units, ``bar`` a diameter;
``line_moment`` the first moment of a line (m2); ``share`` a part of one."""

KEPT: dict[Quantity, tuple[str, float]] = {
    "length": ("m", 1.0), "size": ("m", 1.0), "cover": ("mm", 1e-3), "bar": ("mm", 1e-3), "deflection": ("mm", 1e-3),
    "area": ("m²", 1.0), "angle": ("°", 1.0), "time": ("days", 1.0), "stress": ("MPa", 1e3), "shear_stress": ("kPa", 1.0),
    "pressure": ("kPa", 1.0), "lineload": ("kN/m", 1.0), "force": ("kN", 1.0), "moment": ("kNm", 1.0), "force_per_m": ("kN/m", 1.0),
    "moment_per_m": ("kNm/m", 1.0), "weight": ("kN/m³", 1.0), "bedding": ("kN/m³", 1.0), "steel": ("mm²", 1e-6), "per_m": ("1/m", 1.0),
    "steel_per_m": ("mm²/m", 1e-6),     "line_moment": ("m²", 1.0), "share": ("", 1.0), "none": ("", 1.0),
}  # fmt: skip
"""Unit in which each quantity is kept and told to the interface, and what one of it is in kN and m."""

_SUFFIX: tuple[tuple[str, Quantity], ...] = (
    ("_kNm_m", "moment_per_m"), ("_mm2_m", "steel_per_m"), ("_mm2", "steel"), ("_kN_m3", "weight"), ("_kN_m", "lineload"), ("_kNm", "moment"),
    ("_kN", "force"), ("_kPa", "pressure"), ("_MPa", "stress"), ("_m2", "area"), ("_mm", "cover"), ("_m", "length"),
    ("_deg", "angle"), ("_days", "time"),
)  # fmt: skip
_SIZES = ("thickness_m", "b_m", "d_m", "diameter_m", "depth_m", "top_offset_m", "Beam.width_m")
_SPECIAL: dict[str, Quantity] = {
    "bar_mm": "bar", "wobble_rad_m": "per_m", "mass_kg_m": "none", "modulus_kN_m3": "bedding", "at": "length", "line": "length", "outline": "length", "origin": "length",
    "points": "length", "w_mm": "deflection", "sag_mm": "deflection", "band_mm": "deflection", "greatest_w_mm": "deflection", "parts_mm": "deflection", "reach_mm": "deflection", "days": "time", "cracked_share": "share", "unbalanced": "share", "chance": "share", "limit_mm": "deflection", "v_Ed_kPa": "shear_stress",
    "v_Rd_c_kPa": "shear_stress", "v_Rd_cs_kPa": "shear_stress", "v_Ed_out_kPa": "shear_stress", "stress_kPa": "shear_stress", "loaded": "length", "lines": "length", "outer": "length", "v_Ed_0_kPa": "shear_stress", "v_Rd_max_kPa": "shear_stress", "vx_kN_m": "force_per_m",
    "vy_kN_m": "force_per_m", "ends": "length", "segments": "length", "axis": "length", "support_at": "length", "centre": "length",
    **dict.fromkeys(_SIZES, "size"),
}  # fmt: skip


def quantity_of(owner: str, key: str) -> Quantity:
    """The quantity of a key of the floor file or the results: its suffix is its unit; some keys need more than that."""
    for name in (f"{owner}.{key}", key):
        if name in _SPECIAL:
            return _SPECIAL[name]
    return next((q for suffix, q in _SUFFIX if key.endswith(suffix)), "none")


def _numeric(schema: dict[str, Any]) -> bool:
    parts = [schema, *schema.get("anyOf", [])]
    kinds = {p.get("type") for p in parts}
    return bool(kinds & {"number", "integer"}) or any(p.get("type") == "array" and _numeric(p.get("items", {})) for p in parts)


def with_quantities(schema: dict[str, Any], model: type[BaseModel]) -> None:
    """Put the quantity of each number of a model into its JSON Schema, as ``x-quantity``."""
    for key, value in schema.get("properties", {}).items():
        if _numeric(value):
            value["x-quantity"] = quantity_of(model.__name__, key)


assert set(KEPT) == set(get_args(Quantity))
