"""Integrals of the shape functions over polygons and lines that need not fit the mesh."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from piastra.core.mesh.locate import Elements, find, weights
from piastra.core.model.values import Plane, at_points

Array = npt.NDArray[np.float64]

# Seven-point rule on the triangle, exact to degree five (Radon 1948).
_A, _B = (6 - np.sqrt(15)) / 21, (6 + np.sqrt(15)) / 21
_RULE = np.array([[1 / 3, 1 / 3, 1 / 3]] + [list(np.roll([1 - 2 * t, t, t], k)) for t in (_A, _B) for k in range(3)])
_RULE_WEIGHT = np.array([9 / 40] + [(155 - np.sqrt(15)) / 1200] * 3 + [(155 + np.sqrt(15)) / 1200] * 3)
_XI, _ETA = np.array([-1.0, 1.0, 1.0, -1.0]), np.array([-1.0, -1.0, 1.0, 1.0])
_GAUSS2 = np.column_stack([_XI, _ETA]) / np.sqrt(3.0)
_GAUSS3, _GAUSS3_WEIGHT = np.polynomial.legendre.leggauss(3)


UNIT: Plane = (1.0, 0.0, 0.0)


def element_weights(elements: Elements, plane: Plane = UNIT) -> Array:
    """Integral of each shape function times the load ``plane`` over its whole element, (e, 4) kN.

    Over quadrilaterals by 2 x 2 Gauss points, exact for the product of a plane, a bilinear function and the Jacobian's
    determinant.
    """
    out = np.zeros((len(elements.nodes), 4))
    corner = elements.xy[elements.nodes[: elements.quads]]
    for xi, eta in _GAUSS2:
        N = 0.25 * (1 + xi * _XI) * (1 + eta * _ETA)
        by_xi, by_eta = 0.25 * _XI * (1 + eta * _ETA), 0.25 * _ETA * (1 + xi * _XI)
        a, b = by_xi @ corner, by_eta @ corner
        det = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
        out[: elements.quads] += (at_points(plane, N @ corner) * det)[:, None] * N
    owner = np.arange(elements.quads, len(elements.nodes))
    np.add.at(out, owner, _over_triangles(elements, owner, elements.xy[elements.nodes[owner, :3]], plane))
    return out


def _over_triangles(elements: Elements, owner: npt.NDArray[np.int64], corners: Array, plane: Plane) -> Array:
    """Signed integrals (k, 4) of the owners' shape functions times the plane over triangles (k, 3, 2)."""
    d1, d2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    area = (d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]) / 2
    at = np.einsum("gc,kcd->kgd", _RULE, corners)
    values = weights(elements, np.repeat(owner, len(_RULE)), at.reshape(-1, 2)).reshape(-1, len(_RULE), 4)
    return np.einsum("g,kg,kgn->kn", _RULE_WEIGHT, at_points(plane, at), values) * area[:, None]


def over_area(elements: Elements, whole: Array, area: BaseGeometry, plane: Plane = UNIT) -> Array:
    """Nodal forces (n,) kN of the load ``plane`` (kN/m2) on the part of the mesh inside ``area``.

    ``whole`` is :func:`element_weights` of the same plane. An element that the outline cuts is integrated over
    exactly the part inside: the clipped polygon is fanned into signed triangles. The rule is exact for planes.
    """
    nodal = np.zeros(len(elements.xy) + 1)
    shapely.prepare(area)
    near = elements.tree.query(area, predicate="intersects")
    full = near[shapely.covers(area, elements.shapes[near])]
    np.add.at(nodal, elements.nodes[full], whole[full])
    cut = np.setdiff1d(near, full)
    clipped = shapely.intersection(elements.shapes[cut], area)
    parts, from_cut = shapely.get_parts(clipped, return_index=True)
    polygonal = shapely.get_dimensions(parts) == 2
    parts, from_cut = shapely.orient_polygons(parts[polygonal]), from_cut[polygonal]
    rings, from_part = shapely.get_rings(parts, return_index=True)
    xy, ring_of = shapely.get_coordinates(rings, return_index=True)
    if len(xy):
        number = np.arange(len(rings))
        first = np.searchsorted(ring_of, number)
        last = np.searchsorted(ring_of, number, side="right") - 1
        k = np.arange(len(xy))
        pick = k[(k > first[ring_of]) & (k < last[ring_of])]
        corners = np.stack([xy[first[ring_of[pick]]], xy[pick], xy[pick + 1]], axis=1)
        owner = cut[from_cut[from_part[ring_of[pick]]]]
        np.add.at(nodal, elements.nodes[owner], _over_triangles(elements, owner, corners, plane))
    return nodal[:-1]


def along_line(elements: Elements, line: LineString, q: tuple[float, float]) -> tuple[Array, float]:
    """Nodal forces (n,) kN of a load (kN/m) that varies linearly along a line, and the part (kN) off the mesh."""
    nodal = np.zeros(len(elements.xy) + 1)
    start, end = np.array(line.coords[0]), np.array(line.coords[-1])
    near = elements.tree.query(line, predicate="intersects")
    crossing = shapely.intersection(elements.shapes[near], line)
    stops = shapely.get_coordinates(crossing)
    direction = (end - start) / line.length
    t = np.unique(np.concatenate([[0.0, line.length], np.clip((stops - start) @ direction, 0.0, line.length)]))
    t0, t1 = t[:-1], t[1:]
    keep = t1 - t0 > 1e-9
    t0, t1 = t0[keep], t1[keep]
    element = find(elements, start + ((t0 + t1) / 2)[:, None] * direction)
    half = (t1 - t0) / 2
    at = (t0 + half)[:, None] + half[:, None] * _GAUSS3
    load = (q[0] + (q[1] - q[0]) * at / line.length) * half[:, None] * _GAUSS3_WEIGHT
    on = element >= 0
    lost = float(load[~on].sum())
    if on.any():
        xy = start + at[on].reshape(-1, 1) * direction
        owner = np.repeat(element[on], 3)
        np.add.at(nodal, elements.nodes[owner], weights(elements, owner, xy) * load[on].reshape(-1, 1))
    return nodal[:-1], lost


def pressed(elements: Elements, whole: Array, pressure: Array) -> Array:
    """Load vector (n, 5) kN of a ``pressure`` (e,) kN/m2 on each element, by the nodal shares ``whole`` (e, 4) m2."""
    # A triangle's fourth corner, which is none, falls into the row behind the last node.
    out = np.zeros((len(elements.xy) + 1, 5))
    np.add.at(out[:, 2], elements.nodes, whole * pressure[:, None])
    return out[:-1]
