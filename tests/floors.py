"""Small floors for tests."""

from __future__ import annotations

from typing import Any

from piastra.core.verification.case import edges, plate
from piastra.core.verification.plates import rectangle
from piastra.core.verification.structures import spans

__all__ = ["edges", "flat_slab", "one_bay", "plate", "rectangle", "spans"]


def one_bay() -> dict[str, Any]:
    """A slab of 6 m by 6 m on a column, a wall, line and point supports, with every kind of load."""
    return {
        "format": "piastra-floor", "version": 1, "name": "One bay", "standard": "EN 1992-1-1",
        "concretes": [{"id": "C30", "strength_MPa": 30, "unit_weight_kN_m3": 25, "E_MPa": None, "poisson": 0.2}],
        "rebars": [{"id": "B500", "yield_MPa": 500, "E_MPa": 200000}],
        "slabs": [{"id": "S1", "outline": [[0, 0], [6, 0], [6, 6], [0, 6]], "thickness_m": 0.25, "top_offset_m": 0, "concrete": "C30",
                   "rebar": "B500", "bar_angle_deg": 0, "cover_top_mm": 25, "cover_bottom_mm": 25}],
        "openings": [{"id": "O1", "outline": [[2, 2], [3, 2], [3, 3], [2, 3]]}],
        "thickenings": [{"id": "D1", "kind": "drop_panel", "outline": [[0, 0], [1, 0], [1, 1], [0, 1]], "thickness_m": 0.4}],
        "columns": [{"id": "C1", "at": [0, 0], "shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}, "angle_deg": 0,
                     "concrete": "C30", "below": {"height_m": 3.2, "far_end": "fixed"}, "above": None}],
        "walls": [{"id": "W1", "line": [[0, 6], [6, 6]], "thickness_m": 0.2, "concrete": "C30",
                   "below": {"height_m": 3.2, "far_end": "fixed"}, "above": None, "top": "monolithic"}],
        "supports": [{"id": "L1", "kind": "line", "line": [[2, 0], [6, 0]], "vertical": "fixed", "rotation": "free"},
                     {"id": "P1", "kind": "point", "at": [6, 3], "vertical": 50000, "rotation": "free"}],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"}, {"id": "Q", "nature": "live", "pattern": True}],
        "loads": [{"id": "a1", "case": "D", "kind": "area", "outline": None, "q_kPa": 1.5},
                  {"id": "a2", "case": "Q", "kind": "area", "outline": [[0.5, 0.7], [5.1, 1.3], [4.2, 5.2]], "q_kPa": 4.0},
                  {"id": "l1", "case": "D", "kind": "line", "line": [[0, 3], [6, 3.7]], "q_kN_m": [5, 8]},
                  {"id": "p1", "case": "Q", "kind": "point", "at": [3.4, 3.3], "F_kN": 10, "Mx_kNm": 2, "My_kNm": -3}],
        "combinations": [{"id": "U1", "limit_state": "ultimate", "factors": {"G": 1.35, "D": 1.35, "Q": 1.5}},
                         {"id": "S1", "limit_state": "quasi_permanent", "factors": {"G": 1, "D": 1, "Q": 0.3}}],
        "probes": [{"id": "K", "at": [4, 4]}],
        "mesh": {"size_m": 0.6},
    }  # fmt: skip


def flat_slab(nx: int = 3, ny: int = 3, a: float = 6.0, size: float = 0.6) -> dict[str, Any]:
    """A flat slab of nx by ny square bays on columns, with mats all over."""

    def column(i: int, j: int) -> dict[str, Any]:
        shape = {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}
        return {
            "id": f"C{i}{j}",
            "at": [i * a, j * a],
            "shape": shape,
            "concrete": "C30",
            "below": {"height_m": 3.2},
            "above": {"height_m": 3.2},
        }

    return {
        "format": "piastra-floor", "version": 1,
        "concretes": [{"id": "C30", "strength_MPa": 30}], "rebars": [{"id": "B500", "yield_MPa": 500}],
        "slabs": [{"id": "S1", "outline": [[-0.2, -0.2], [nx * a + 0.2, -0.2], [nx * a + 0.2, ny * a + 0.2], [-0.2, ny * a + 0.2]],
                   "thickness_m": 0.25, "concrete": "C30", "rebar": "B500"}],
        "columns": [column(i, j) for i in range(nx + 1) for j in range(ny + 1)],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "Q", "nature": "live", "pattern": True}],
        "loads": [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 4.0}],
        "combinations": [{"id": "U1", "limit_state": "ultimate", "factors": {"G": 1.35, "Q": 1.5}},
                         {"id": "S1", "limit_state": "quasi_permanent", "factors": {"G": 1, "Q": 0.3}}],
        "mats": [{"id": f"{f} {d}", "face": f, "direction": d, "bar_mm": 16, "spacing_mm": 150} for f in ("top", "bottom") for d in "xy"],
        "mesh": {"size_m": size},
    }  # fmt: skip
