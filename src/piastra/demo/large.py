"""Large floors, to measure how the interface and the computation bear them."""

from __future__ import annotations

from typing import Any


def large_floor(nx: int = 24, ny: int = 15, bay: float = 6.0, column: float = 1.3, size: float = 2.2) -> dict[str, Any]:
    """The document of a floor of nx by ny bays, a slab each, with (nx + 1)(ny + 1) columns."""
    storey = {"height_m": 3.2, "far_end": "fixed"}
    shape = {"kind": "rectangle", "b_m": column, "d_m": column}
    return {
        "format": "piastra-floor", "version": 1, "name": "Large floor", "standard": "EN 1992-1-1",
        "concretes": [{"id": "C30/37", "strength_MPa": 30.0}], "rebars": [{"id": "B500", "yield_MPa": 500.0}],
        "slabs": [
            {"id": f"S{i}-{j}", "thickness_m": round(0.22 + 0.01 * ((i + j) % 3), 2), "concrete": "C30/37", "rebar": "B500",
             "outline": [[i * bay, j * bay], [(i + 1) * bay, j * bay], [(i + 1) * bay, (j + 1) * bay], [i * bay, (j + 1) * bay]]}
            for i in range(nx) for j in range(ny)
        ],
        "columns": [
            {"id": f"C{i}-{j}", "at": [i * bay, j * bay], "shape": shape, "concrete": "C30/37", "below": storey, "above": storey}
            for i in range(nx + 1) for j in range(ny + 1)
        ],
        "load_cases": [{"id": "G", "nature": "self_weight"}], "loads": [],
        "combinations": [
            {"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35}},
            {"id": "S", "limit_state": "quasi_permanent", "factors": {"G": 1.0}},
        ],
        "mesh": {"size_m": size},
    }  # fmt: skip


def flat_floor(area_m2: float, size: float = 0.5, bay: float = 7.5) -> dict[str, Any]:
    """The document of a flat slab of about this area on a square grid, with pattern load on every bay."""
    count = max(1, round(area_m2 / bay**2))
    nx = max(n for n in range(1, count + 1) if n * n <= 1.6 * count)
    ny = max(1, round(count / nx))
    storey = {"height_m": 3.2, "far_end": "fixed"}
    shape = {"kind": "rectangle", "b_m": 0.5, "d_m": 0.5}
    x, y, b = nx * bay, ny * bay, 0.25
    return {
        "format": "piastra-floor", "version": 1, "name": "Flat floor", "standard": "EN 1992-1-1",
        "concretes": [{"id": "C30/37", "strength_MPa": 30.0}], "rebars": [{"id": "B500", "yield_MPa": 500.0}],
        "slabs": [{"id": "S", "thickness_m": 0.28, "concrete": "C30/37", "rebar": "B500",
                   "outline": [[-b, -b], [x + b, -b], [x + b, y + b], [-b, y + b]]}],
        "columns": [
            {"id": f"C{i}-{j}", "at": [i * bay, j * bay], "shape": shape, "concrete": "C30/37", "below": storey, "above": storey}
            for i in range(nx + 1) for j in range(ny + 1)
        ],
        "mats": [{"id": f"{face} {way}", "face": face, "direction": way, "bar_mm": 16.0, "spacing_mm": 150.0}
                 for face in ("top", "bottom") for way in "xy"],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "Q", "nature": "live", "category": "B", "pattern": True}],
        "loads": [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 4.0}],
        "combinations": [
            {"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35, "Q": 1.5}},
            {"id": "S", "limit_state": "quasi_permanent", "factors": {"G": 1.0, "Q": 0.3}},
        ],
        "mesh": {"size_m": size},
    }  # fmt: skip
