"""Small floors for tests."""

from __future__ import annotations

import copy
from typing import Any

import numpy as np

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


def flat_slab(nx: int = 3, ny: int = 3, a: float = 6.0, size: float = 0.6, **more: Any) -> dict[str, Any]:
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
        "mesh": {"size_m": size}, **more,
    }  # fmt: skip


def every_kind(standard: str = "EN 1992-1-1") -> dict[str, Any]:
    """A small floor with an object of every kind, and every key of each that the computation may read."""
    C, S = "C30", {"height_m": 3.2, "far_end": "fixed"}
    aci = standard == "ACI 318-19"
    return {
        "format": "piastra-floor", "version": 1, "name": "Every kind", "standard": standard,
        "parameters": {} if aci else {"gamma_C": 1.5, "k_max": 1.5},
        "concretes": [
            {"id": C, "strength_MPa": 30.0, "unit_weight_kN_m3": 25.0, "E_MPa": 31000.0, "poisson": 0.2, "creep_coefficient": 2.0},
            {"id": "C40", "strength_MPa": 40.0, "unit_weight_kN_m3": 24.0, "poisson": 0.18, "creep_coefficient": 1.8}],
        "rebars": [{"id": "B500", "yield_MPa": 500.0, "E_MPa": 200000.0}],
        "slabs": [
            {"id": "S1", "outline": [[-0.2, -0.2], [6, -0.2], [6, 6.2], [-0.2, 6.2]], "thickness_m": 0.25, "top_offset_m": 0.0, "fill_kN_m3": 0.0,
             "concrete": C, "rebar": "B500", "bar_angle_deg": 0.0, "cover_top_mm": 25.0, "cover_bottom_mm": 30.0, "priority": 0},
            {"id": "S2", "outline": [[6, -0.2], [12.2, -0.2], [12.2, 6.2], [6, 6.2]], "thickness_m": 0.22, "top_offset_m": -0.04,
             "fill_kN_m3": 18.0, "concrete": "C40", "rebar": "B500", "bar_angle_deg": 10.0, "cover_top_mm": 25.0, "cover_bottom_mm": 25.0,
             "priority": 1}],
        "openings": [{"id": "O1", "outline": [[2, 2], [3, 2], [3, 3], [2, 3]]}],
        "thickenings": [{"id": "D1", "kind": "drop_panel", "outline": [[5.2, 5.2], [6.8, 5.2], [6.8, 6.2], [5.2, 6.2]], "thickness_m": 0.4,
                         "top_offset_m": 0.0, "fill_kN_m3": 0.0, "priority": 0},
                        {"id": "R1", "kind": "recess", "outline": [[9, 4], [10, 4], [10, 5], [9, 5]], "thickness_m": 0.18,
                         "top_offset_m": -0.08, "fill_kN_m3": 20.0, "priority": 1}],
        "beams": [{"id": "B1", "line": [[0, 0], [6, 0]], "width_m": 0.3, "depth_m": 0.5, "top_offset_m": 0.0, "concrete": "C40", "torsion": "equilibrium",
                   "priority": 0}],
        "notes": [{"id": "N1", "at": [1, 1], "text": "check on site"}],
        "one_way_areas": [{"id": "W1", "outline": [[7, 1], [8.5, 1], [8.5, 2.5], [7, 2.5]], "angle_deg": 20.0}],
        "stiffness_areas": [{"id": "K1", "outline": [[10.5, 1], [11.5, 1], [11.5, 2], [10.5, 2]], "angle_deg": 15.0, "bending_along": 0.5,
                             "bending_across": 0.7, "twist": 0.4, "membrane_along": 0.8, "membrane_across": 0.9, "membrane_shear": 0.6}],
        "columns": [
            {"id": "C1", "at": [6, 6], "shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.5}, "angle_deg": 10.0, "concrete": C, "below": S, "above": S,
             "seen_as": "column"},
            {"id": "C2", "at": [12, 6], "shape": {"kind": "circle", "diameter_m": 0.4}, "angle_deg": 0.0, "concrete": "C40", "below": S, "above": None},
            {"id": "C3", "at": [0, 0], "shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}, "angle_deg": 0.0, "concrete": C, "below": S},
            {"id": "C4", "at": [6, 0], "shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}, "angle_deg": 0.0, "concrete": C, "below": S},
            {"id": "C5", "at": [9, 3], "shape": {"kind": "rectangle", "b_m": 0.3, "d_m": 0.3}, "angle_deg": 0.0, "concrete": C, "below": S}],
        "walls": [{"id": "W", "line": [[0, 4], [0, 6]], "thickness_m": 0.2, "concrete": C, "below": S, "above": S, "top": "monolithic",
                   "seen_as": "wall"}],
        "supports": [{"id": "L", "kind": "line", "line": [[12.2, 0], [12.2, 4]], "vertical": "fixed", "rotation": "free"},
                     {"id": "P", "kind": "point", "at": [9.2, 0.2], "vertical": 40000.0, "rotation": 500.0},
                     {"id": "A", "kind": "area", "outline": [[1, 4.5], [2, 4.5], [2, 5.5], [1, 5.5]], "modulus_kN_m3": 5000.0,
                      "compression_only": True}],
        "load_materials": [{"id": "screed", "unit_weight_kN_m3": 22.0}],
        "build_ups": [{"id": "floor", "layers": [{"material": "screed", "thickness_mm": 60.0}], "extra_kPa": 0.3}],
        "partitions": [{"id": "wall", "build_up": "floor", "height_m": 3.0}],
        "occupancies": [{"id": "office", "q_kPa": 3.0, "partitions_kPa": 0.8, "source": "own"}],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"},
                       {"id": "Q", "nature": "live", "pattern": True, "category": "other" if aci else "B"},
                       {"id": "X", "nature": "wind", "reversible": True, "direction": "x", "group": "wind"}],
        "loads": [{"id": "a1", "case": "D", "kind": "area", "build_up": "floor", "slabs": ["S1"]},
                  {"id": "a2", "case": "Q", "kind": "area", "occupancy": "office"},
                  {"id": "a3", "case": "D", "kind": "area", "outline": [[7, 1], [11, 1], [11, 5]],
                   "varies": {"kind": "three_points", "points": [[7, 1], [11, 1], [11, 5]], "q_kPa": [1.0, 2.0, 3.0]}},
                  {"id": "a4", "case": "D", "kind": "area", "outline": [[1, 1], [4, 1], [4, 4]],
                   "varies": {"kind": "direction", "line": [[1, 1], [4, 1]], "q_kPa": [1.0, 2.0]}},
                  {"id": "l1", "case": "D", "kind": "line", "line": [[1, 3.5], [5, 3.7]], "q_kN_m": [5.0, 8.0]},
                  {"id": "l2", "case": "D", "kind": "line", "line": [[8, 1], [8, 5]], "partition": "wall"},
                  {"id": "p1", "case": "Q", "kind": "point", "at": [3.4, 4.3], "F_kN": 10.0, "Mx_kNm": 2.0, "My_kNm": -3.0,
                   "patch": {"b_m": 0.5, "d_m": 0.3, "angle_deg": 20.0}},
                  {"id": "j1", "case": "X", "kind": "joint", "support": "C1", "F_kN": 3.0, "Mx_kNm": 12.0, "My_kNm": 9.0}],
        "combinations": [{"id": "U1", "limit_state": "ultimate", "factors": {"G": 1.35, "D": 1.35, "Q": 1.5, "X": 0.9}},
                         {"id": "S1", "limit_state": "sustained" if aci else "quasi_permanent", "factors": {"G": 1.0, "D": 1.0, "Q": 0.3}}],
        "panels": [{"id": "N1", "outline": [[-0.2, -0.2], [6, -0.2], [6, 6.2], [-0.2, 6.2]]},
                   {"id": "N2", "outline": [[6, -0.2], [12.2, -0.2], [12.2, 6.2], [6, 6.2]]}],
        "arrangements": "standard", "panels_together": "auto",
        "probes": [{"id": "K", "at": [4.0, 4.0]}],
        "slices": [{"id": "X1", "line": [[0, 3], [12, 3]], "quantity": "mn", "width_m": 0.5}],
        "mats": [{"id": f"{f[0]}{d}", "face": f, "direction": d, "bar_mm": 12.0, "spacing_mm": 150.0, "layer": "outer" if d == "x" else "inner"}
                 for f in ("top", "bottom") for d in ("x", "y")]
                + [{"id": "more", "face": "top", "direction": "x", "bar_mm": 16.0, "spacing_mm": 150.0, "outline": [[5, 5], [7, 5], [7, 6.2], [5, 6.2]]}],
        "designed_bars": [{"id": "K1", "face": "top", "direction": "y", "bar_mm": 12.0, "spacing_mm": 150.0, "angle_deg": 85.0,
                           "outline": [[5, 4], [7, 4], [7, 6], [5, 6]], "origin": "designed", "locked": True}],
        "design_bars": True, "bar_sizes_mm": [10.0, 16.0], "spacings_mm": [125.0, 250.0], "stock_length_m": 9.0,
        "exposure": None if aci else "XC3", "crack_width_limit_mm": 0.25,
        "strip_axes": [{"id": "A1", "line": [[6, 0], [6, 6]]}], "strip_boundaries": [{"id": "E1", "line": [[0, 2.5], [6, 2.6]]}],
        "grid": [{"id": "1", "line": [[0, -1], [0, 7]]}],
        "mesh": {"size_m": 1.2, "refinements": [{"at": [3.4, 4.3], "size_m": 0.5, "radius_m": 0.5}]},
        "deflection": {"span_over": 250.0},
    }  # fmt: skip


def turned(document, degrees):
    """The same floor turned about the origin."""
    out = copy.deepcopy(document)
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))

    def turn(p):
        return [c * p[0] - s * p[1], s * p[0] + c * p[1], *p[2:]]

    for name in (
        "slabs",
        "openings",
        "thickenings",
        "supports",
        "loads",
        "columns",
        "walls",
        "beams",
        "tendons",
        "probes",
        "mats",
    ):
        for item in out.get(name, []):
            for key in ("outline", "line"):
                if item.get(key):
                    item[key] = [turn(p) for p in item[key]]
            if "at" in item:
                item["at"] = turn(item["at"])
            if name == "columns":
                item["angle_deg"] = item.get("angle_deg", 0) + degrees
            if name == "slabs":
                item["bar_angle_deg"] = item.get("bar_angle_deg", 0) + degrees
            if "Mx_kNm" in item:
                item["Mx_kNm"], item["My_kNm"] = turn([item["Mx_kNm"], item["My_kNm"]])
    return out
