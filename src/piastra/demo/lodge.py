"""The field station's lodge for visiting scholars, designed to ACI 318-19 in US units; nothing in it is real."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor, floor_from
from piastra.core.model.loading import LoadCase
from piastra.core.model.project import Project, project_from, shared_keys
from piastra.core.standards.aci318.library import PSF
from piastra.core.standards.beginnings import new_project
from piastra.core.standards.generating import joined
from piastra.core.standards.registry import generated

PROJECT = "Saltmarsh Lodge"
LEVEL = "Second floor"

FOOT, INCH = 0.3048, 0.0254
XS = {"A": 0.0, "B": 22.0, "C": 44.0, "D": 66.0}
YS = {"1": 0.0, "2": 20.0, "3": 40.0}
EDGE = 0.75
"""Slab edge beyond the outer column lines, ft: flush with 18 in columns."""
PORCH = 5.0
"""How far the porch stands out to the sea, ft."""


def _ft(*values: float) -> list[float]:
    return [round(v * FOOT, 6) for v in values]


def _box(x0: float, y0: float, x1: float, y1: float) -> list[list[float]]:
    return [_ft(x, y) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]


def project() -> Project:
    """What the lodge's floors share."""
    document = new_project(PROJECT, "US", "ACI 318-19")
    document["concretes"] = [{"id": "5000 psi", "strength_MPa": 34.473786, "unit_weight_kN_m3": 23.563}]
    document["levels"] = [{"id": "First floor", "height_m": round(2 * FOOT, 6)}, {"id": LEVEL, "height_m": round(12 * FOOT, 6)},
                          {"id": "Roof", "height_m": round(11 * FOOT, 6)}]  # fmt: skip
    document["grid_sets"] = [
        {"id": f"line {k}", "kind": "single", "line": [_ft(x, -4), _ft(x, 48)]} for k, x in XS.items()
    ] + [{"id": f"line {k}", "kind": "single", "line": [_ft(-4, y), _ft(70, y)]} for k, y in YS.items()]  # fmt: skip
    for s in document["grid_sets"]:
        s["id"] = s["id"].removeprefix("line ")
    document["build_ups"] = [
        {"id": "cork on screed", "layers": [{"material": "screed", "thickness_mm": 38.1}, {"material": "timber", "thickness_mm": 12.7}],
         "extra_kPa": round(5 * PSF, 6)},
        {"id": "stud wall", "layers": [{"material": "gypsum board", "thickness_mm": 31.75}], "extra_kPa": round(3 * PSF, 6)},
    ]  # fmt: skip
    document["partitions"] = [{"id": "guest room wall", "build_up": "stud wall", "height_m": round(10 * FOOT, 6)}]
    return project_from(document)


def second_floor() -> Floor:
    """A flat plate of 10 in with guest rooms, a reading room and a porch."""
    shape = {"kind": "rectangle", "b_m": 18 * INCH, "d_m": 18 * INCH}
    storeys: dict[str, Any] = {
        "below": {"height_m": round(12 * FOOT, 6), "far_end": "fixed"},
        "above": {"height_m": round(11 * FOOT, 6), "far_end": "fixed"},
    }
    columns: list[dict[str, Any]] = [
        {"id": f"{line}{row}", "at": _ft(x, y), "shape": shape, "concrete": "5000 psi", **storeys}
        for row, y in YS.items()
        for line, x in XS.items()
    ]
    cases: list[dict[str, Any]] = [
        {"id": "SW", "nature": "self_weight"}, {"id": "D", "nature": "dead"},
        {"id": "L", "nature": "live", "category": "other", "pattern": True},
        {"id": "W", "nature": "wind", "direction": "x", "reversible": True},
    ]  # fmt: skip
    loads: list[dict[str, Any]] = [
        {"id": "floor build-up", "case": "D", "kind": "area", "build_up": "cork on screed"},
        {"id": "guest rooms", "case": "L", "kind": "area", "outline": _box(-EDGE, 20, 48, 40 + EDGE), "occupancy": "dwelling"},
        {"id": "end room", "case": "L", "kind": "area", "outline": _box(56, 20, 66 + EDGE, 40 + EDGE), "occupancy": "dwelling"},
        {"id": "reading room", "case": "L", "kind": "area", "outline": _box(-EDGE, -EDGE, 44, 20), "occupancy": "reading room"},
        {"id": "lobby", "case": "L", "kind": "area", "outline": _box(44, -EDGE, 66 + EDGE, 20), "occupancy": "lobby"},
        {
            "id": "porch",
            "case": "L",
            "kind": "area",
            "outline": _box(22, 40 + EDGE, 44, 40 + EDGE + PORCH),
            "occupancy": "assembly, movable seats",
        },
    ]
    loads += [
        {"id": f"wall {k + 1}", "case": "D", "kind": "line", "line": [_ft(x, 24), _ft(x, 40)], "partition": "guest room wall"}
        for k, x in enumerate((11, 22, 33, 44, 60))
    ]
    loads += [
        {"id": f"wind {c['id']}", "case": "W", "kind": "joint", "support": c["id"], "My_kNm": round(m * 1.3558179483, 6)}
        for c, m in zip(columns, [9.0, 14.0, 14.0, 9.0, 12.0, 18.0, 18.0, 12.0, 9.0, 14.0, 14.0, 9.0], strict=True)
    ]
    made = joined([], generated("ACI 318-19", [LoadCase(**c) for c in cases], {}))
    outline = [
        *_box(-EDGE, -EDGE, 66 + EDGE, 40 + EDGE)[:3], _ft(44, 40 + EDGE), _ft(44, 40 + EDGE + PORCH), _ft(22, 40 + EDGE + PORCH),
        _ft(22, 40 + EDGE), _ft(-EDGE, 40 + EDGE),
    ]  # fmt: skip
    return floor_from({
        "format": "piastra-floor", "version": 1, "name": "Second floor: guest rooms", "slabs": [
            {"id": "S1", "outline": outline, "thickness_m": 10 * INCH, "concrete": "5000 psi", "rebar": "Grade 60",
             "cover_top_mm": 19.05, "cover_bottom_mm": 19.05},
        ],
        "openings": [{"id": "stair", "outline": _box(48, 24, 56, 36)}], "columns": columns, "load_cases": cases, "loads": loads,
        "combinations": [c.model_dump(exclude_defaults=True) for c in made],
        "mats": [
            {"id": f"{face} {d}", "face": face, "direction": d, "bar_mm": 15.875, "spacing_mm": 8 * 25.4} for face in ("bottom", "top") for d in "xy"
        ],
        # No. 3 to No. 8, three inches to a foot apart.
        "design_bars": True, "bar_sizes_mm": [9.525, 12.7, 15.875, 19.05, 22.225, 25.4], "spacings_mm": [76.2, 101.6, 152.4, 203.2, 254.0, 304.8],
        "probes": [{"id": "reading room", "at": _ft(11, 10)}],
        "slices": [{"id": "across", "line": [_ft(-EDGE, 10), _ft(66 + EDGE, 10)], "quantity": "mn"}],
        **shared_keys(project()), "standard": "ACI 318-19",
    })  # fmt: skip
