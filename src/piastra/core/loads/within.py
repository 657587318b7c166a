"""What of the loads lies inside an area, and what loads bring to a joint."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.loads.vectors import LoadVectors, patch_of, pressure_of, value_at
from piastra.core.mesh.locate import Elements, middles
from piastra.core.model import Floor
from piastra.core.model.loading import AreaLoad, JointLoad, LineLoad, Load, PointLoad
from piastra.core.model.values import at_points, plane_of

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

_GAUSS2 = (-np.sqrt(1 / 12), np.sqrt(1 / 12))


@dataclass(frozen=True, slots=True)
class Clipped:
    """An ``area`` with the elements that it cuts out: their numbers, the ``size`` (k,) m2 and ``middle`` (k, 2) m of
    each part inside; of parts that are told as one, the number of one of their elements. ``border`` (b,): those within a millimetre of its outline.
    ``covered``: elements leave nothing of it out."""

    area: BaseGeometry
    element: Ints
    size: Array
    middle: Array
    border: Ints
    covered: bool


BORDER = 1e-3
"""An element is at an outline that is so near (m)."""


def clip(elements: Elements, area: BaseGeometry, weight: Array | None = None) -> Clipped:
    """Cut an area out of the mesh. ``weight`` (e,) kN/m2 of the elements, where they cover all of the area and what lies on those of one weight
    may be one part."""
    inner = area.buffer(-BORDER, quad_segs=1)
    for shape in (area, inner):
        shapely.prepare(shape)
    near = elements.tree.query(area, predicate="intersects")
    # Only what the outline crosses has to be cut, which takes a hundred times as long as the test.
    border = ~shapely.covers(inner, elements.shapes[near])
    apart, known = np.ones(len(near), dtype=bool), None
    if weight is not None and border.any():
        # What is left of the area by all others is one part.
        kinds, count = np.unique(weight[near[border]], return_counts=True)
        apart = weight[near] != kinds[count.argmax()]
        known = int(near[~apart][0])
    element, cut = near[apart], border[apart]
    parts = elements.shapes[element]
    parts[cut] = shapely.intersection(parts[cut], area)
    size, middle = shapely.area(parts), np.full((len(element), 2), np.nan)
    on = size > 0
    middle[~cut] = middles(elements, element[~cut])
    middle[cut & on] = shapely.get_coordinates(shapely.centroid(parts[cut & on]))
    element, size, middle = element[on], size[on], middle[on]
    rest = area.area - float(size.sum())
    if known is not None and rest > 0:
        at = (np.array(area.centroid.coords[0]) * area.area - size @ middle) / rest
        element, size, middle = np.append(element, known), np.append(size, rest), np.vstack([middle, at])
    return Clipped(area, element, size, middle, near[border], weight is not None)


class Parts:
    """Where loads on areas lie inside other areas, as weights (k,) m2 and points (k, 2) m that integrate over what both share. Most edits change
    values of loads only: what the ``last`` ones knew of the same areas is taken from there."""

    def __init__(self, last: Parts | None = None) -> None:
        self._known: Mapping[tuple[int, bytes], tuple[Array, Array]] = last._used if last is not None else {}
        self._used: dict[tuple[int, bytes], tuple[Array, Array]] = {}

    @property
    def bytes_held(self) -> int:
        """About how much memory they take."""
        return sum(len(shape) + sizes.nbytes + at.nbytes for (_, shape), (sizes, at) in self._used.items())

    def of(self, number: int, area: BaseGeometry, shape: BaseGeometry) -> tuple[Array, Array]:
        """Of a load's ``shape`` inside the ``area`` of this number."""
        key = (number, shape.wkb)
        if key not in self._used:
            # What is left of an area load on a panel may be a line or a point: it weighs nothing.
            self._used[key] = self._known.get(key) or _quadrature(
                [p for p in shapely.get_parts(shape.intersection(area)) if p.area > 0]
            )
        return self._used[key]


def load_within(floor: Floor, loads: LoadVectors, areas: Sequence[Clipped], parts: Parts | None = None) -> Array:
    """Load of each unit inside each of ``areas``, (areas, 3, units): its sum (kN), and its first moments ``sum of x F`` and
    ``sum of y F`` (kNm) in the plan's axes. ``parts``: what is known of these areas."""
    parts = parts or Parts()
    out = np.zeros((len(areas), 3, len(loads.units)))
    heavy = {c.id for c in floor.load_cases if c.nature == "self_weight"}
    heavy_units = [k for k, u in enumerate(loads.units) if u.case in heavy]
    everywhere = [p for p in loads.pieces if p.shape is None]
    bounded = [(p, _reach(floor.loads[p.load], p.shape)) for p in loads.pieces if p.shape is not None]
    tree = shapely.STRtree([shape for _, shape in bounded])

    def add(a: int, units: int | list[int], force: Array, at: Array) -> None:
        """Add forces (k,) kN that act at points (k, 2)."""
        for row, sum_of in enumerate((force.sum(), at[:, 0] @ force, at[:, 1] @ force)):
            out[a, row, units] += float(sum_of)

    for a, part in enumerate(areas):
        if part.area.is_empty:
            continue
        add(a, heavy_units, part.size * loads.weight[part.element], part.middle)
        for piece in everywhere:
            load = floor.loads[piece.load]
            assert isinstance(load, AreaLoad)
            # What slopes has first moments that a part's middle does not give.
            size, middle = parts.of(a, part.area, part.area) if load.varies and part.covered else (part.size, part.middle)
            add(a, piece.unit, at_points(plane_of(floor, load), middle) * size, middle)
    every = np.array([part.area for part in areas], dtype=object)
    for a, k in zip(*tree.query(every, predicate="intersects").tolist(), strict=True):
        area, (piece, shape) = areas[a].area, bounded[k]
        load = floor.loads[piece.load]
        if isinstance(load, AreaLoad) or (isinstance(load, PointLoad) and shape.area > 0):
            plane = plane_of(floor, load) if isinstance(load, AreaLoad) else pressure_of(load)
            sizes, at = parts.of(a, area, shape)
            add(a, piece.unit, at_points(plane, at) * sizes, at)
        else:
            add(a, piece.unit, *_common(floor, load, shape, shape.intersection(area)))
        if isinstance(load, PointLoad) and load.patch is None:
            # A moment that is given at a point turns what is inside: as a couple of forces does.
            out[a, 1, piece.unit] += load.My_kNm
            out[a, 2, piece.unit] -= load.Mx_kNm
    return out


def _quadrature(parts: Sequence[Polygon]) -> tuple[Array, Array]:
    """Weights (k,) m2 and points (k, 2) m that integrate what is quadratic in place exactly over polygons: the middles of the sides of
    the triangles from each ring's first corner, with their sign."""
    sizes, at = [np.zeros(0)], [np.zeros((0, 2))]
    for part in parts:
        turned = shapely.orient_polygons(part)
        for ring in (turned.exterior, *turned.interiors):
            xy = shapely.get_coordinates(ring)[:-1]
            a, b, c = xy[:1], xy[1:-1], xy[2:]
            signed = ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2
            sizes += [signed / 3] * 3
            at += [(a + b) / 2, (b + c) / 2, (c + a) / 2]
    return np.concatenate(sizes), np.concatenate(at)


def _common(floor: Floor, load: Load, shape: BaseGeometry, common: BaseGeometry) -> tuple[Array, Array]:
    """Forces (k,) kN of the part that a load on a line, at a point or at a joint has in ``common`` with an area, and the points (k, 2) at which they
    act, exact in sum and moments."""
    if isinstance(load, LineLoad):
        line = LineString(load.line)
        runs = [r for r in shapely.get_parts(common) if isinstance(r, LineString)]
        # Two Gauss points a run: exact for the moments of a load that varies along it.
        points = [(r.length / 2, r.interpolate(0.5 + t, normalized=True)) for r in runs for t in _GAUSS2]
        force = [half * value_at(floor, load, line, p) for half, p in points]
        return np.array(force), np.array([(p.x, p.y) for _, p in points]).reshape(-1, 2)
    assert not isinstance(load, AreaLoad)
    share = common.length / shape.length if shape.length else 1.0
    at = common.centroid
    return np.array([load.F_kN * share]), np.array([[at.x, at.y]])


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
