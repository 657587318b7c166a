"""What loads are worth: given numbers, planes, build-ups, partitions and occupancies."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from shapely.geometry.base import BaseGeometry

from piastra.core.model.floor import Floor
from piastra.core.model.loading import AreaLoad, BuildUp, LineLoad, LoadMaterial

Plane = tuple[float, float, float]
"""``(a, b, c)``: the load at ``(x, y)`` is ``a + b x + c y``, kN/m2."""


def weight_of(build_up: BuildUp, materials: dict[str, LoadMaterial]) -> float:
    """Weight of a build-up, kN/m2: thickness times unit weight of each layer, and what is not layers."""
    layers = (materials[l.material].unit_weight_kN_m3 * l.thickness_mm / 1e3 for l in build_up.layers)
    return float(sum(layers) + build_up.extra_kPa)


def plane_of(floor: Floor, load: AreaLoad) -> Plane:
    """The plane of an area load; uniform loads have no slope."""
    if load.varies is not None and load.varies.kind == "three_points":
        corners = np.column_stack([np.ones(3), np.array(load.varies.points)])
        a, b, c = np.linalg.solve(corners, np.array(load.varies.q_kPa))
        return float(a), float(b), float(c)
    if load.varies is not None:
        start, end = (np.array(p) for p in load.varies.line)
        q0, q1 = load.varies.q_kPa
        slope = (q1 - q0) * (end - start) / float((end - start) @ (end - start))
        return float(q0 - slope @ start), float(slope[0]), float(slope[1])
    if load.build_up is not None:
        build_up = next(b for b in floor.build_ups if b.id == load.build_up)
        return weight_of(build_up, {m.id: m for m in floor.load_materials}), 0.0, 0.0
    if load.occupancy is not None:
        use = next(o for o in floor.occupancies if o.id == load.occupancy)
        return use.q_kPa + use.partitions_kPa, 0.0, 0.0
    assert load.q_kPa is not None
    return load.q_kPa, 0.0, 0.0


def ends_of(floor: Floor, load: LineLoad) -> tuple[float, float]:
    """Values of a line load at its ends, kN/m."""
    if load.partition is not None:
        partition = next(p for p in floor.partitions if p.id == load.partition)
        build_up = next(b for b in floor.build_ups if b.id == partition.build_up)
        q = partition.height_m * weight_of(build_up, {m.id: m for m in floor.load_materials})
        return q, q
    assert load.q_kN_m is not None
    return load.q_kN_m[0], load.q_kN_m[1]


def at_points(plane: Plane, xy: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The load (...,) kN/m2 at points (..., 2) m."""
    return plane[0] + plane[1] * xy[..., 0] + plane[2] * xy[..., 1]


def volume(plane: Plane, shape: BaseGeometry) -> float:
    """Integral of a plane over a polygonal shape, kN: its value at the centroid times the area."""
    if shape.is_empty or shape.area == 0:
        return 0.0
    return float(at_points(plane, np.array([shape.centroid.x, shape.centroid.y])) * shape.area)
