"""What of the floor each strip serves: regions that do not overlap."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from shapely import affinity
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Axis
from piastra.core.strips.spans import Span

Array = npt.NDArray[np.float64]

HUGE = 500.0
"""A half-plane reaches so far from what lies in it, m."""


def corners(axis: Axis, low: float, high: float, right: float, left: float) -> Array:
    """Those (4, 2) m of the rectangle from ``low`` to ``high`` along an axis and from ``right`` to ``left`` of it, m."""
    return axis.point(np.array([low, high, high, low]), np.array([right, right, left, left]))


def box(axis: Axis, low: float, high: float, right: float, left: float) -> Polygon:
    """The rectangle from ``low`` to ``high`` along an axis and from ``right`` to ``left`` of it, m."""
    return Polygon(corners(axis, low, high, right, left))


def _beside(point: Array, way: Array, inner: Array) -> Polygon:
    """The half-plane beside the line through ``point`` along ``way`` that holds ``inner``."""
    way = way / np.hypot(*way)
    normal = np.array([-way[1], way[0]])
    if (inner - point) @ normal < 0:
        normal = -normal
    # Where two axes meet may be far from what they part, and so may be the origin.
    point = point + ((inner - point) @ way) * way
    a, b = point - HUGE * way, point + HUGE * way
    return Polygon([a, b, b + HUGE * normal, a + HUGE * normal])


def parted(one: tuple[Axis, Span], other: tuple[Axis, Span]) -> tuple[Polygon, Polygon]:
    """Two half-planes that part the territories of two spans: along the line half way between their axes, or along the one
    that halves the angle between them."""
    (p, a), (q, b) = one, other
    here, there = p.point(a.middle), q.point(b.middle)
    turn = (q.angle - p.angle + np.pi / 2) % np.pi - np.pi / 2
    way = np.array([np.cos(p.angle + turn / 2), np.sin(p.angle + turn / 2)])
    u, v = (np.array([np.cos(x.angle), np.sin(x.angle)]) for x in (p, q))
    r = there - here
    if abs(turn) < 1e-3:
        # Half way from each middle to the other axis, and between these two.
        point = (here + there) / 2 + ((r @ u) * u - (r @ v) * v) / 4
    else:
        point = here + u * (r[0] * v[1] - r[1] * v[0]) / (u[0] * v[1] - u[1] * v[0])
    normal = np.array([-way[1], way[0]])
    if ((here - point) @ normal) * ((there - point) @ normal) >= 0:
        # Both stand on one side of it: they are parted half way between their middles instead.
        point, gap = (here + there) / 2, there - here
        if np.hypot(*gap) < 1e-3:
            return _beside(point - HUGE / 2 * normal, way, here), Polygon()
        way = np.array([-gap[1], gap[0]])
    return _beside(point, way, here), _beside(point, way, there)


def disjoint(spans: Sequence[tuple[Axis, Span]], boxes: Sequence[Polygon], region: BaseGeometry) -> list[Polygon]:
    """The boxes of spans cut back where they overlap on the floor: convex, and no two share concrete."""
    out = list(boxes)
    if not out:
        return out
    tree = shapely.STRtree(out)
    pairs = {(min(i, j), max(i, j)) for i, j in zip(*tree.query(out, predicate="intersects").tolist(), strict=True) if i != j}
    for i, j in sorted(pairs):
        if out[i].intersection(out[j]).intersection(region).area < 1e-6:
            continue
        first, second = parted(spans[i], spans[j])
        out[i], out[j] = (_polygon(shape.intersection(half)) for shape, half in ((out[i], first), (out[j], second)))
    return out


def _polygon(shape: BaseGeometry) -> Polygon:
    parts = [p for p in shapely.get_parts(shape) if isinstance(p, Polygon)]
    return max(parts, key=lambda p: p.area) if parts else Polygon()


def bands(piece: Polygon, angle: float, depth: int = 6) -> list[Polygon]:
    """A piece of the floor cut along ``angle`` at its re-entrant corners, until it all but fills its rectangle."""
    turned = affinity.rotate(piece, -angle, origin=(0, 0), use_radians=True)
    x0, y0, x1, y1 = turned.bounds
    if depth == 0 or Polygon(piece.exterior).area > 0.85 * (x1 - x0) * (y1 - y0):
        return [piece]
    xy = shapely.get_coordinates(shapely.orient_polygons(turned).exterior)[:-1]
    before, after = np.roll(xy, 1, axis=0), np.roll(xy, -1, axis=0)
    bend = (xy[:, 0] - before[:, 0]) * (after[:, 1] - xy[:, 1]) - (xy[:, 1] - before[:, 1]) * (after[:, 0] - xy[:, 0])
    levels = [y for y in xy[bend < -1e-6][:, 1] if y0 + 0.3 < y < y1 - 0.3]
    if not levels:
        return [piece]
    level = min(levels, key=lambda y: abs(y - (y0 + y1) / 2))
    line = LineString([[x0 - 1, level], [x1 + 1, level]])
    parts = shapely.get_parts(shapely.polygonize(list(shapely.get_parts(shapely.unary_union([turned.boundary, line])))))
    own = [p for p in parts if turned.contains(p.representative_point())]
    back = [affinity.rotate(p, angle, origin=(0, 0), use_radians=True) for p in own]
    return [b for p in back for b in bands(p, angle, depth - 1)]
