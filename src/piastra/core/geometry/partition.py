"""Partition of the plane by lines: noded edges, and the faces between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

GRID = 1e-4
"""Coordinates closer than this (m) are one; the noder snaps to it."""


@dataclass(frozen=True, slots=True)
class Partition:
    """Faces of a plan.

    ``points`` (n, 2) m; ``edges`` (m, 2) indices of points; ``rings`` per face its outer ring and holes, each a
    list of (edge, +1 or -1); ``loose`` per face the edges that lie in it without bounding it; ``inside`` (f, 2)
    a point inside each face; ``polygons`` the faces themselves.
    """

    points: npt.NDArray[np.float64]
    edges: npt.NDArray[np.int64]
    rings: tuple[tuple[tuple[tuple[int, int], ...], ...], ...]
    loose: tuple[tuple[int, ...], ...]
    inside: npt.NDArray[np.float64]
    polygons: tuple[Polygon, ...]


class _Index:
    """Numbers points and edges as they are met."""

    def __init__(self) -> None:
        self.points: dict[tuple[int, int], int] = {}
        self.xy: list[tuple[float, float]] = []
        self.edges: dict[tuple[int, int], int] = {}

    def point(self, x: float, y: float) -> int:
        key = (round(x / GRID), round(y / GRID))
        if key not in self.points:
            self.points[key] = len(self.xy)
            self.xy.append((x, y))
        return self.points[key]

    def edge(self, i: int, j: int) -> tuple[int, int]:
        """The edge's number and its direction (+1 as stored)."""
        key = (min(i, j), max(i, j))
        number = self.edges.setdefault(key, len(self.edges))
        return number, 1 if i < j else -1

    def ring(self, coordinates: npt.NDArray[np.float64]) -> tuple[tuple[int, int], ...]:
        numbers = [self.point(x, y) for x, y in coordinates]
        return tuple(self.edge(i, j) for i, j in zip(numbers[:-1], numbers[1:], strict=True) if i != j)


def _merged(segments: Sequence[LineString], tolerance: float) -> list[LineString]:
    """Pull the ends of segments shorter than ``tolerance`` (m) together, to the end where more segments meet."""
    xy = np.array([shapely.get_coordinates(s) for s in segments])
    keys, number = np.unique(np.round(xy.reshape(-1, 2) / GRID).astype(np.int64), axis=0, return_inverse=True)
    ends = number.reshape(-1, 2)
    meeting = np.bincount(ends.ravel(), minlength=len(keys))
    target = np.arange(len(keys))
    length = np.hypot(*(xy[:, 1] - xy[:, 0]).T)
    for s in np.argsort(length):
        if length[s] >= tolerance:
            break
        a, b = ends[s]
        if target[a] == a and target[b] == b:
            keep, drop = (a, b) if meeting[a] >= meeting[b] else (b, a)
            # What was already pulled to the dropped end moves along with it.
            target[target == drop] = keep
    at = keys[target[ends]] * GRID
    return [LineString(p) for p in at if (p[0] != p[1]).any()]


TOUCHING = 3 * GRID
"""A corner so near (m) to a segment lies on it: rounded to the grid, edges at an angle pass each other's corners by as much."""


def _bent(segments: Sequence[LineString], touching: float) -> list[LineString]:
    """The segments led through every corner that all but lies on them, each once, and corners all but in one place made one. Without this, two edges that are one but
    for rounding leave a wedge between them that cannot be meshed."""
    ends = np.array([shapely.get_coordinates(s) for s in segments]).reshape(-1, 2)
    keys = np.round(ends / GRID).astype(np.int64)
    _, first, number = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    xy, points = ends[first], shapely.points(ends[first])
    near, other = shapely.STRtree(points).query(points, predicate="dwithin", distance=touching)
    # The corner at which more edges meet stays where it is: the others may be ends that stick out by a hair.
    meeting = np.bincount(number.ravel(), minlength=len(xy))
    same = np.arange(len(xy))
    for a, b in zip(near.tolist(), other.tolist(), strict=True):
        if (-meeting[a], a) < (-meeting[b], b):
            same[same == same[b]] = same[a]
    start, stop = same[number.reshape(-1, 2)].T
    kept = np.unique(same)
    found, segment = shapely.STRtree(shapely.linestrings(xy[np.column_stack([start, stop])])).query(
        points[kept], predicate="dwithin", distance=touching
    )
    point = kept[found]
    strange = (point != start[segment]) & (point != stop[segment]) & (start[segment] != stop[segment])
    if not strange.any() and len(kept) == len(xy):
        return list(segments)
    on: dict[int, list[int]] = {}
    for p, s in zip(point[strange].tolist(), segment[strange].tolist(), strict=True):
        on.setdefault(s, []).append(p)
    pairs: dict[tuple[int, int], LineString] = {}
    for s in range(len(segments)):
        way = xy[stop[s]] - xy[start[s]]
        between = sorted(on.get(s, []), key=lambda p: float((xy[p] - xy[start[s]]) @ way))
        chain = [int(start[s]), *between, int(stop[s])]
        for a, b in pairwise(chain):
            if a != b:
                pairs.setdefault((min(a, b), max(a, b)), LineString(xy[[a, b]]))
    return list(pairs.values())


ROUNDS = 5
"""How often short segments are sought and merged."""


def partition(lines: Sequence[BaseGeometry], region: BaseGeometry, tolerance: float = 0.0) -> Partition:
    """Cut ``region`` (polygonal) by ``lines`` into faces; lines outside the region are dropped.

    Points that a line joins over less than ``tolerance`` (m) become one, and a line goes through every point that is nearer
    to it than that. Source: snap-rounding noder of GEOS
    (Hobby 1999) with the grid ``GRID``.
    """
    # Rounded first, edges that coincide are equal; nearly equal ones would cross, and leave nodes where they do.
    region = shapely.set_precision(region, GRID, mode="pointwise")
    work = [region.boundary, *shapely.set_precision(list(lines), GRID, mode="pointwise")]
    noded = shapely.unary_union(work, grid_size=GRID)
    noded = shapely.intersection(noded, region.buffer(2 * GRID), grid_size=GRID)
    parts = [g for g in shapely.get_parts(noded) if isinstance(g, LineString) and g.length > GRID]
    # A polyline between two nodes is one edge a segment, so that no corner is lost.
    segments: list[LineString] = []
    for part in parts:
        xy = shapely.get_coordinates(part)
        segments.extend(LineString(xy[k : k + 2]) for k in range(len(xy) - 1))
    segments = list(shapely.get_parts(shapely.unary_union(segments, grid_size=GRID)))
    touching = max(TOUCHING, tolerance)
    segments = _bent(segments, touching)
    # What is pulled together or bent crosses other lines in new places, and may be short again there.
    for _ in range(ROUNDS):
        if min((s.length for s in segments), default=np.inf) >= tolerance:
            break
        segments = list(shapely.get_parts(shapely.unary_union(_merged(segments, tolerance), grid_size=GRID)))
        segments = _bent(segments, touching)
    candidates = shapely.get_parts(shapely.polygonize(segments))
    inside = np.array([shapely.get_coordinates(p.representative_point())[0] for p in candidates]).reshape(-1, 2)
    keep = shapely.contains_xy(region, inside[:, 0], inside[:, 1]) if len(inside) else np.zeros(0, bool)
    faces = [p for p, k in zip(candidates, keep, strict=True) if k and p.area > 1e-7]
    inside = np.array([shapely.get_coordinates(p.representative_point())[0] for p in faces]).reshape(-1, 2)

    index = _Index()
    rings: list[tuple[tuple[tuple[int, int], ...], ...]] = []
    for face in faces:
        rings.append(tuple(index.ring(shapely.get_coordinates(r)) for r in (face.exterior, *face.interiors)))
    bounding = set(index.edges)
    loose: list[list[int]] = [[] for _ in faces]
    tree = shapely.STRtree(faces)
    for segment in segments:
        xy = shapely.get_coordinates(segment)
        i, j = index.point(*xy[0]), index.point(*xy[1])
        if i == j or (min(i, j), max(i, j)) in bounding:
            continue
        middle = Point(xy.mean(axis=0))
        for f in tree.query(middle, predicate="within"):
            loose[int(f)].append(index.edge(i, j)[0])
    edges = np.array(list(index.edges), dtype=np.int64).reshape(-1, 2)
    return Partition(
        np.array(index.xy, dtype=np.float64).reshape(-1, 2), edges, tuple(rings),
        tuple(tuple(e) for e in loose), inside, tuple(faces),
    )  # fmt: skip
