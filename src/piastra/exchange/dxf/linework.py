"""Linework as it comes in drawings, made into closed faces: gaps closed, doubles and splits merged, arcs kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import Arc, arc_of, polyline
from piastra.core.geometry.outlines import outline_of
from piastra.exchange.dxf.drawing import Path

GAP = 0.006
"""Ends of lines closer than this (m) were meant to meet."""
GRID = 1e-4


@dataclass(frozen=True, slots=True)
class Faces:
    """Closed faces of linework, m; ``circles`` are those that its arcs lie on; ``doubles`` and ``tiny`` count what was
    dropped; ``open_ends`` are lines that bound no face."""

    faces: tuple[Polygon, ...]
    circles: tuple[Arc, ...]
    doubles: int
    tiny: int
    open_ends: tuple[LineString, ...]

    def outline(self, shape: Polygon) -> list[list[float]]:
        """The outer ring of a face or of a union of faces as an outline with arcs."""
        return outline_of(shapely.get_coordinates(shapely.orient_polygons(shape).exterior)[:-1], self.circles, straight=1e-3)


def stretches(paths: Sequence[Path]) -> list[list[list[float]]]:
    """Every straight or arc stretch of paths as two vertices."""
    out = []
    for p in paths:
        n = len(p.vertices)
        for i in range(n if p.closed else n - 1):
            a, b = p.vertices[i], p.vertices[(i + 1) % n]
            out.append([list(a), [b[0], b[1]]])
    return out


def meeting(pieces: list[list[list[float]]], gap: float = GAP) -> tuple[list[list[list[float]]], int, int]:
    """Stretches with ends that nearly meet pulled together, without doubles and without those shorter than the gap.

    Returns the stretches, the number of doubles and the number of tiny ones.
    """
    if not pieces:
        return [], 0, 0
    ends = np.array([v[:2] for p in pieces for v in p])
    tree = shapely.STRtree(shapely.points(ends))
    target = np.arange(len(ends))
    i, j = tree.query(shapely.points(ends), predicate="dwithin", distance=gap)
    for a, b in sorted(zip(i.tolist(), j.tolist(), strict=True)):
        # The lowest number of a cluster stands for all of it.
        target[b] = min(target[b], target[a])
    ends = ends[target]
    kept, seen, doubles, tiny = [], set(), 0, 0
    for k, (a, _) in enumerate(pieces):
        p, q = ends[2 * k], ends[2 * k + 1]
        if np.hypot(*(q - p)) < gap:
            tiny += 1
            continue
        bulge = a[2] if len(a) > 2 else 0.0
        one, other = (tuple(np.round(p, 4)), tuple(np.round(q, 4))), round(bulge, 3)
        key = (*one, other) if one[0] <= one[1] else (one[1], one[0], -other)
        if key in seen:
            doubles += 1
            continue
        seen.add(key)
        kept.append([[float(p[0]), float(p[1]), *([bulge] if bulge else [])], [float(q[0]), float(q[1])]])
    return kept, doubles, tiny


def faces_of(paths: Sequence[Path], gap: float = GAP) -> Faces:
    """The closed faces that linework bounds. Source: noding and polygonising of GEOS."""
    pieces, doubles, tiny = meeting(stretches(paths), gap)
    circles = tuple(arc_of(a, b, a[2]) for a, b in pieces if len(a) > 2)
    lines = [LineString(polyline(p)) for p in pieces]
    # A line that ends just short of another's middle was meant to touch it.
    tree = shapely.STRtree(lines) if lines else None
    for k, line in enumerate(lines):
        if len(line.coords) > 2 or tree is None:
            continue
        coords = [list(c) for c in line.coords]
        for end in (0, 1):
            tip = shapely.Point(coords[end])
            for other in tree.query(tip, predicate="dwithin", distance=gap):
                foot = shapely.shortest_line(tip, lines[int(other)]).coords[1]
                if int(other) != k and 0 < tip.distance(shapely.Point(foot)) <= gap:
                    coords[end] = list(foot)
                    break
        if coords[0] != coords[1]:
            lines[k] = LineString(coords)
    noded = shapely.unary_union(lines, grid_size=GRID) if lines else LineString()
    polygons, cuts, dangles, _ = shapely.polygonize_full(list(shapely.get_parts(noded)))
    found = [p for p in shapely.get_parts(polygons) if p.area > 1e-4]
    loose = [g for g in (*shapely.get_parts(cuts), *shapely.get_parts(dangles)) if isinstance(g, LineString) and g.length > gap]
    return Faces(tuple(found), circles, doubles, tiny, tuple(loose))


def joined(faces: Sequence[Polygon]) -> list[Polygon]:
    """Faces that share edges as one, holes kept."""
    union: BaseGeometry = shapely.unary_union(list(faces), grid_size=GRID)
    return [p for p in shapely.get_parts(union) if isinstance(p, Polygon)]
