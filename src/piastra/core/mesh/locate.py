"""Where a point lies in the mesh."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.mesh.cells import Cells
from piastra.core.mesh.mesher import Mesh

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Elements:
    """All elements of a mesh in one list: ``quads`` quadrilaterals first, then triangles (fourth node repeated as -1).

    ``xy`` (n, 2) m of the nodes, ``nodes`` (e, 4); ``shapes`` (e,) polygons; ``tree`` their index, ``cells`` that for points.
    """

    xy: Array
    nodes: Ints
    quads: int
    shapes: npt.NDArray[np.object_]
    tree: shapely.STRtree = field(repr=False)
    cells: Cells = field(repr=False)


def elements_of(mesh: Mesh) -> Elements:
    """Index the elements of a mesh."""
    nodes = np.full((mesh.elements, 4), -1, dtype=np.int64)
    nodes[: len(mesh.quads)] = mesh.quads
    nodes[len(mesh.quads) :, :3] = mesh.tris
    return indexed(mesh.xy, nodes, len(mesh.quads))


def indexed(xy: Array, nodes: Ints, quads: int) -> Elements:
    """Index elements given by their nodes (e, 4), as :class:`Elements` keeps them."""
    shapes = np.concatenate([shapely.polygons(xy[nodes[:quads]]), shapely.polygons(xy[nodes[quads:, :3]])])
    shapely.prepare(shapes)
    return Elements(xy, nodes, quads, shapes, shapely.STRtree(shapes), Cells(xy, nodes))


def middles(elements: Elements, pick: Ints | None = None) -> Array:
    """Centroids (e, 2) m of the elements, or of some of them."""
    nodes = elements.nodes if pick is None else elements.nodes[pick]
    p = elements.xy[np.where(nodes < 0, nodes[:, [2]], nodes)]
    one, other = p[:, 1:3] - p[:, [0]], p[:, 2:4] - p[:, [0]]
    areas = np.stack([a[:, 0, 0] * a[:, 1, 1] - a[:, 0, 1] * a[:, 1, 0] for a in (one, other)], axis=1)
    thirds = p[:, [0]] + np.stack([one.sum(axis=1), other.sum(axis=1)], axis=1) / 3
    return np.asarray((areas[:, :, None] * thirds).sum(axis=1) / areas.sum(axis=1)[:, None])


def find(elements: Elements, xy: Array, within: float = 1e-6) -> Ints:
    """The element in which each point (p, 2) lies, or else the nearest one; -1 if none is within ``within`` m."""
    if not len(xy):
        return np.zeros(0, dtype=np.int64)
    found = elements.cells.holding(xy)
    rest = np.flatnonzero(found < 0)
    if len(rest):
        points = shapely.points(xy[rest])
        which, element = elements.tree.query(points, predicate="dwithin", distance=within)
        # Elements may be smaller than what is allowed; of several that hold a point the first one met stays.
        away = shapely.distance(points[which], elements.shapes[element])
        order = np.lexsort((np.arange(len(which)), away, which))[::-1]
        found[rest[which[order]]] = element[order]
    return found


def onto(elements: Elements, element: Ints, xy: Array) -> Array:
    """The places (p, 2) of the given elements that are nearest to points (p, 2): the points themselves where they lie in them."""
    nearest = shapely.get_coordinates(shapely.shortest_line(elements.shapes[element], shapely.points(xy)))[::2]
    outside = np.hypot(*(nearest - xy).T) > 1e-9
    return np.where(outside[:, None], nearest, xy)


def weights(elements: Elements, element: Ints, xy: Array) -> Array:
    """Shape functions (p, 4) of the given elements at points (p, 2); a triangle's fourth is nil."""
    out = np.zeros((len(xy), 4))
    is_quad = element < elements.quads
    coordinates = elements.xy
    if is_quad.any():
        p = coordinates[elements.nodes[element[is_quad]]]
        out[is_quad] = _bilinear(p, xy[is_quad])
    if (~is_quad).any():
        p = coordinates[elements.nodes[element[~is_quad], :3]]
        q = xy[~is_quad]
        d1, d2, d = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0], q - p[:, 0]
        det = d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]
        a = (d[:, 0] * d2[:, 1] - d[:, 1] * d2[:, 0]) / det
        b = (d1[:, 0] * d[:, 1] - d1[:, 1] * d[:, 0]) / det
        out[~is_quad, :3] = np.column_stack([1 - a - b, a, b])
    return out


def _bilinear(p: Array, q: Array) -> Array:
    """Bilinear functions of quadrilaterals (k, 4, 2) at points (k, 2), by Newton's method."""
    centre = p.mean(axis=1)
    a = (-p[:, 0] + p[:, 1] + p[:, 2] - p[:, 3]) / 4
    b = (-p[:, 0] - p[:, 1] + p[:, 2] + p[:, 3]) / 4
    c = (p[:, 0] - p[:, 1] + p[:, 2] - p[:, 3]) / 4
    xi = np.zeros(len(q))
    eta = np.zeros(len(q))
    for _ in range(12):
        r = centre + a * xi[:, None] + b * eta[:, None] + c * (xi * eta)[:, None] - q
        j1, j2 = a + c * eta[:, None], b + c * xi[:, None]
        det = j1[:, 0] * j2[:, 1] - j1[:, 1] * j2[:, 0]
        dx = (r[:, 0] * j2[:, 1] - r[:, 1] * j2[:, 0]) / det
        dy = (j1[:, 0] * r[:, 1] - j1[:, 1] * r[:, 0]) / det
        xi, eta = xi - dx, eta - dy
        if max(np.abs(dx).max(), np.abs(dy).max()) < 1e-11:
            break
    return 0.25 * np.column_stack([(1 - xi) * (1 - eta), (1 + xi) * (1 - eta), (1 + xi) * (1 + eta), (1 - xi) * (1 + eta)])


ALONG = 1e-9
"""A line so near to a side (m) runs along it."""


def lengths_inside(elements: Elements, element: Ints, start: Array, end: Array) -> Array:
    """Length (k,) m of each straight line from ``start`` to ``end`` (k, 2) that lies in its element (k,)."""
    first, last = stretch_inside(elements, element, start, end)
    return np.asarray(np.maximum(last - first, 0.0) * np.hypot(*(end - start).T))


def stretch_inside(elements: Elements, element: Ints, start: Array, end: Array) -> tuple[Array, Array]:
    """Between which parts (k,) of its way from ``start`` to ``end`` (k, 2) m, from 0 to 1, each straight line lies in its element (k,); the last before the
    first where it does not.

    Elements are convex: the line is clipped by one side after the other (Cyrus and Beck 1978).
    """
    nodes = elements.nodes[element]
    # A triangle's fourth corner is its first once more, a side without length that clips nothing.
    nodes = np.where(nodes < 0, nodes[:, :1], nodes)
    p = elements.xy[nodes]
    side = np.roll(p, -1, axis=1) - p
    way = end - start
    first, last = np.zeros(len(element)), np.ones(len(element))
    for k in range(4):
        # Inside is to the left of every side.
        inward = np.column_stack([-side[:, k, 1], side[:, k, 0]])
        at = ((start - p[:, k]) * inward).sum(axis=1)
        speed = (way * inward).sum(axis=1)
        slow = np.abs(speed) < 1e-14
        t = -at / np.where(slow, 1.0, speed)
        first = np.where(~slow & (speed > 0), np.maximum(first, t), first)
        last = np.where(~slow & (speed < 0), np.minimum(last, t), last)
        # What runs along a side, but for rounding, lies in the elements on both sides of it: else it might lie in none.
        last = np.where(slow & (at < -ALONG * np.hypot(*inward.T)), -1.0, last)
    return first, last
