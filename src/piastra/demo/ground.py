"""The boat store of the demo project: a slab on the ground."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor, floor_from
from piastra.core.model.loading import LoadCase
from piastra.core.standards.generating import joined
from piastra.core.standards.registry import generated

LEVEL = "Ground"
LENGTH, WIDTH = 21.6, 14.4
EDGE = 0.6
"""Width of the thickened edges, m."""
WHEEL = {"b_m": 0.25, "d_m": 0.35}
AXLES = {"door": (3.0, 7.2), "bay": (12.0, 4.0)}
TRACK = 1.9
"""Between the wheels of a trailer, m."""


def _box(x0: float, y0: float, x1: float, y1: float) -> list[list[float]]:
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


def boat_store() -> Floor:
    """A slab of 200 mm with thickened edges on a bedding of 40 MN/m3, under racks of boats and a trailer at two places."""
    cases: list[dict[str, Any]] = [
        {"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"}, {"id": "T", "nature": "storage", "category": "E"},
        {"id": "A", "nature": "live", "category": "F"},
    ]  # fmt: skip
    bands = {
        "south": _box(0, 0, LENGTH, EDGE), "north": _box(0, WIDTH - EDGE, LENGTH, WIDTH),
        "west": _box(0, EDGE, EDGE, WIDTH - EDGE), "east": _box(LENGTH - EDGE, EDGE, LENGTH, WIDTH - EDGE),
    }  # fmt: skip
    wheels = [
        {"id": f"{place} {side}", "case": "A", "kind": "point", "at": [x, y + 0.5 * way * TRACK], "F_kN": 35.0, "patch": WHEEL}
        for place, (x, y) in AXLES.items() for side, way in (("left", 1), ("right", -1))
    ]  # fmt: skip
    data = {
        "format": "piastra-floor", "version": 1, "name": "Ground: boat store", "standard": "EN 1992-1-1",
        "concretes": [{"id": "C40", "strength_MPa": 40, "unit_weight_kN_m3": 25, "E_MPa": None, "poisson": 0.2, "creep_coefficient": 2.2}],
        "rebars": [{"id": "B500", "yield_MPa": 500, "E_MPa": 200000}],
        "slabs": [{"id": "S1", "outline": _box(0, 0, LENGTH, WIDTH), "thickness_m": 0.2, "concrete": "C40", "rebar": "B500",
                   "cover_top_mm": 35, "cover_bottom_mm": 40}],
        "thickenings": [
            {"id": f"edge {k}", "kind": "band", "outline": outline, "thickness_m": 0.45, "priority": 1} for k, outline in bands.items()
        ],
        "supports": [{"id": "subgrade", "kind": "area", "outline": _box(0, 0, LENGTH, WIDTH), "modulus_kN_m3": 40000.0,
                      "compression_only": True}],
        "load_cases": cases,
        "loads": [
            {"id": "racks", "case": "T", "kind": "area", "outline": _box(1.2, 9.6, 20.4, 13.2), "q_kPa": 7.5},
            {"id": "wall", "case": "D", "kind": "line", "line": [[0.2, 0.2], [LENGTH - 0.2, 0.2]], "q_kN_m": [12.0, 12.0]},
            *wheels,
        ],
        "combinations": [
            c.model_dump(exclude_defaults=True) for c in joined([], generated("EN 1992-1-1", [LoadCase(**c) for c in cases], {}))
        ],
        "mats": [
            {"id": f"{face} {way}", "face": face, "direction": way, "bar_mm": 10, "spacing_mm": 150}
            for face in ("bottom", "top") for way in "xy"
        ],
        "design_bars": True,
        "probes": [{"id": "axle", "at": list(AXLES["bay"])}],
        "mesh": {"size_m": 0.5},
    }  # fmt: skip
    return floor_from(data)
