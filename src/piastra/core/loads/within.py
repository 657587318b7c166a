"""What of the loads lies inside an area, and what loads bring to a joint."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from piastra.core.loads.vectors import LoadVectors, patch_of, pressure_of, value_at
from piastra.core.mesh.locate import Elements
from piastra.core.model import Floor
from piastra.core.model.loading import AreaLoad, JointLoad, LineLoad, Load, PointLoad
from piastra.core.model.values import at_points, plane_of, volume

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Clipped:
    """An ``area`` with the elements that it cuts out: their numbers, the ``size`` (k,) m2 and ``middle`` (k, 2) m of
    each part inside."""

    area: BaseGeometry
    element: npt.NDArray[np.int64]
    size: Array
    middle: Array


def clip(elements: Elements, area: BaseGeometry) -> Clipped:
    """Cut an area out of the mesh."""
    near = elements.tree.query(area, predicate="intersects")
    parts = shapely.intersection(elements.shapes[near], area)
    size = shapely.area(parts)
    on = size > 0
    return Clipped(area, near[on], size[on], shapely.get_coordinates(shapely.centroid(parts[on])).reshape(-1, 2))


def load_within(floor: Floor, loads: LoadVectors, areas: Sequence[Clipped]) -> Array:
    """Load (kN) of each unit inside each of ``areas``, (areas, units)."""
    out = np.zeros((len(areas), len(loads.units)))
    heavy = {c.id for c in floor.load_cases if c.nature == "self_weight"}
    heavy_units = [k for k, u in enumerate(loads.units) if u.case in heavy]
    everywhere = [p for p in loads.pieces if p.shape is None]
    bounded = [(p, _reach(floor.loads[p.load], p.shape)) for p in loads.pieces if p.shape is not None]
    tree = shapely.STRtree([shape for _, shape in bounded])
    for a, part in enumerate(areas):
        if part.area.is_empty:
            continue
        out[a, heavy_units] += float((part.size * loads.weight[part.element]).sum())
        for piece in everywhere:
            load = floor.loads[piece.load]
            assert isinstance(load, AreaLoad)
            out[a, piece.unit] += float(at_points(plane_of(floor, load), part.middle) @ part.size)
        for k in tree.query(part.area, predicate="intersects"):
            piece, shape = bounded[k]
            load, common = floor.loads[piece.load], shape.intersection(part.area)
            if isinstance(load, AreaLoad):
                out[a, piece.unit] += volume(plane_of(floor, load), common)
            elif isinstance(load, LineLoad):
                line = LineString(load.line)
                out[a, piece.unit] += sum(
                    run.length * value_at(floor, load, line, run.interpolate(0.5, normalized=True))
                    for run in shapely.get_parts(common) if isinstance(run, LineString)
                )  # fmt: skip
            elif isinstance(load, PointLoad) and load.patch is not None:
                out[a, piece.unit] += volume(pressure_of(load), common)
            else:
                out[a, piece.unit] += load.F_kN * (common.length / shape.length if shape.length else 1.0)
    return out


def _reach(load: Load, shape: BaseGeometry) -> BaseGeometry:
    return (patch_of(load) if isinstance(load, PointLoad) else None) or shape


def joint_moments(floor: Floor, loads: LoadVectors, support: str) -> Array:
    """Moments (2, r) kNm about x and y that joint loads bring to a support in each unit."""
    out = np.zeros((2, len(loads.units)))
    for piece in loads.pieces:
        load = floor.loads[piece.load]
        if isinstance(load, JointLoad) and load.support == support:
            out[:, piece.unit] += (load.Mx_kNm, load.My_kNm)
    return out
