"""Plan shapes of solids: horizontal cuts through triangulated bodies, and what rectangle or circle a cut is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import MultiPolygon, Polygon

Array = npt.NDArray[np.float64]

FINE = 5e-4
"""Lengths (m) that differ by less are equal."""
STRAIGHT = 1e-5
"""Corners that stand out so little (m) come from triangles; chords of arcs stand out more."""


@dataclass(frozen=True, slots=True)
class Bar:
    """A rectangle on plan: its ``middle``, ``length`` along ``angle`` (radians) and ``width`` across it, m."""

    middle: tuple[float, float]
    length: float
    width: float
    angle: float

    @property
    def line(self) -> list[list[float]]:
        """Its centre line."""
        half = 0.5 * self.length * np.array([np.cos(self.angle), np.sin(self.angle)])
        return [(np.array(self.middle) - half).round(4).tolist(), (np.array(self.middle) + half).round(4).tolist()]


@dataclass(frozen=True)
class Solid:
    """A closed body of triangles: ``points`` (n, 3) m, ``faces`` (m, 3)."""

    points: Array
    faces: npt.NDArray[np.int64]

    @cached_property
    def bottom(self) -> float:
        """Its lowest level, m."""
        return float(self.points[:, 2].min())

    @cached_property
    def top(self) -> float:
        """Its highest level, m."""
        return float(self.points[:, 2].max())

    @property
    def height(self) -> float:
        """From bottom to top, m."""
        return self.top - self.bottom

    @cached_property
    def volume(self) -> float:
        """What it encloses, m3 (the divergence theorem over its triangles)."""
        a, b, c = (self.points[self.faces[:, k]] for k in range(3))
        return abs(float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum())) / 6

    def cut(self, share: float = 0.5) -> list[Polygon]:
        """What a level at a ``share`` of its height cuts of it, holes left out; the largest first."""
        level = self.bottom + share * self.height
        z = self.points[:, 2] - level
        # A level through a corner would cut edges twice: it passes just beside.
        z = np.where(np.abs(z) < 1e-9, 1e-9, z)
        sides = z[self.faces] > 0
        crossing = self.faces[sides.any(axis=1) & ~sides.all(axis=1)]
        if not len(crossing):
            return []
        lines = []
        for triangle in crossing:
            ends = []
            for i, j in ((0, 1), (1, 2), (2, 0)):
                a, b = triangle[i], triangle[j]
                if (z[a] > 0) != (z[b] > 0):
                    t = z[a] / (z[a] - z[b])
                    ends.append(self.points[a, :2] + t * (self.points[b, :2] - self.points[a, :2]))
            lines.append(np.array(ends).round(6))
        segments = shapely.linestrings(np.array([s for s in lines if len(s) == 2 and not np.allclose(s[0], s[1], atol=1e-6)]))
        rings = [p for p in shapely.get_parts(shapely.polygonize([shapely.unary_union(segments)])) if p.area > FINE**2]
        return _with_holes(rings, segments)


def _with_holes(rings: list[Polygon], segments: npt.NDArray[np.object_]) -> list[Polygon]:
    """Of the faces that a cut's lines enclose those inside of the body: by how often a ray from them meets the lines."""
    inside = []
    for ring in rings:
        at = ring.representative_point()
        ray = shapely.LineString([(at.x, at.y), (at.x + 1.000123e4, at.y + 3.7123e3)])
        if int(shapely.crosses(segments, ray).sum()) % 2:
            inside.append(ring)
    merged = shapely.union_all(inside)
    parts = list(merged.geoms) if isinstance(merged, MultiPolygon) else [merged] if isinstance(merged, Polygon) else []
    tidy = [
        shapely.orient_polygons(Polygon(_straight(p.exterior.coords), [_straight(h.coords) for h in p.interiors]))
        for p in parts
        if p.area > 1e-4
    ]
    return sorted(tidy, key=lambda p: -p.area)


def _straight(ring: Iterable[Sequence[float]]) -> Array:
    """A ring without the corners in which it goes straight on."""
    points = np.array([p[:2] for p in ring])[:-1]
    while len(points) > 3:
        before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
        along = after - before
        off = np.abs(along[:, 0] * (points - before)[:, 1] - along[:, 1] * (points - before)[:, 0]) / np.hypot(*along.T)
        on = np.flatnonzero(off < STRAIGHT)
        if not len(on):
            break
        # Of neighbours one at a time: the other may stand out without it.
        on = on[np.concatenate([[True], np.diff(on) > 1])]
        points = np.delete(points, on, axis=0)
    return points


def bar_of(shape: Polygon, least: float = 0.98) -> Bar | None:
    """The rectangle that a shape is; None for one that fills less than ``least`` of the rectangle about it."""
    around = shapely.minimum_rotated_rectangle(shape)
    if not isinstance(around, Polygon) or around.area < 1e-6 or shape.area < least * around.area:
        return None
    corners = np.array(around.exterior.coords)[:4]
    sides = np.diff(np.vstack([corners, corners[:1]]), axis=0)[:2]
    lengths = np.hypot(*sides.T)
    k = int(lengths[1] > lengths[0] + FINE)
    # Of both directions of a line the one that points to the right, or straight up.
    angle = float(np.arctan2(sides[k, 1], sides[k, 0])) % np.pi
    angle = angle - np.pi if angle > np.pi / 2 + 1e-6 else angle
    x, y = corners.mean(axis=0)
    return Bar((float(x), float(y)), float(lengths[k]), float(lengths[1 - k]), angle if abs(angle) > 1e-6 else 0.0)


def circle_of(shape: Polygon) -> tuple[tuple[float, float], float] | None:
    """Middle and diameter (m) of the circle that a shape of chords is; None for what is none."""
    points = np.array(shape.exterior.coords)[:-1]
    if len(points) < 8 or shape.interiors:
        return None
    middle = np.array([shape.centroid.x, shape.centroid.y])
    radii = np.hypot(*(points - middle).T)
    if np.ptp(radii) > 0.02 * radii.mean():
        return None
    return (float(middle[0]), float(middle[1])), 2 * float(radii.max())


def outline_of(ring: Array) -> list[list[float]]:
    """A ring of corners (n, 2), the first not repeated, as an outline: runs of equal chords become arcs with a bulge."""
    n = len(ring)
    sides = np.roll(ring, -1, axis=0) - ring
    lengths = np.hypot(*sides.T)
    headings = np.arctan2(sides[:, 1], sides[:, 0])
    # The turn at the end of each side.
    turns = (np.roll(headings, -1) - headings + np.pi) % (2 * np.pi) - np.pi
    joins = (np.abs(turns) > 1e-3) & (np.abs(turns) < 0.6) & (np.abs(np.roll(lengths, -1) - lengths) < 0.03 * lengths)
    # Sides k and k + 1 belong to one arc where their turn is that of the next pair too.
    same = joins & (np.abs(turns - np.roll(turns, 1)) < 0.03 * np.abs(turns) + 1e-4)
    linked = joins & (same | np.roll(same, -1))
    if not linked.any() or linked.all():
        return ring.round(4).tolist()
    first = int(np.flatnonzero(~linked)[0]) + 1
    out: list[list[float]] = []
    k = 0
    while k < n:
        at = (first + k) % n
        run = 0
        while k + run < n - 1 and linked[(first + k + run) % n]:
            run += 1
        if run >= 2:
            # Chords of one circle: each turns as much as its arc does.
            swept = float(turns[[(first + k + m) % n for m in range(run)]].mean()) * (run + 1)
            out.append([*ring[at].round(4).tolist(), round(float(np.tan(swept / 4)), 8)])
            k += run + 1
        else:
            out.append(ring[at].round(4).tolist())
            k += 1
    return out
