"""Outlines joined, cut and subtracted, with their arcs kept.

Set operations work on chords; afterwards the runs of chords that lie on one of the arcs that went in become that
arc again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import Arc, arc_of, polygon

Array = npt.NDArray[np.float64]
Outline = list[list[float]]

NEAR = 2e-3
"""A point that lies off a circle by less than this (m; chords lie off it by up to 1 mm) is on it."""


@dataclass(frozen=True, slots=True)
class Result:
    """Outlines that came out, the largest first; ``holes`` are openings inside of them, which an outline cannot have."""

    outlines: tuple[Outline, ...]
    holes: tuple[Outline, ...]


def join(outlines: Sequence[Sequence[Sequence[float]]]) -> Result:
    """The union of outlines (m)."""
    return _back(shapely.unary_union([polygon(o) for o in outlines]), outlines)


def subtract(outlines: Sequence[Sequence[Sequence[float]]]) -> Result:
    """The first outline less the others (m)."""
    first, *others = [polygon(o) for o in outlines]
    return _back(first.difference(shapely.unary_union(others)), outlines)


def cut(outline: Sequence[Sequence[float]], line: Sequence[Sequence[float]]) -> Result:
    """The pieces of an outline on both sides of the straight line through two points (m)."""
    (ax, ay), (bx, by) = line[0][:2], line[1][:2]
    length = float(np.hypot(bx - ax, by - ay))
    if length < 1e-6:
        return _back(polygon(outline), [outline])
    shape = polygon(outline)
    reach = (
        2 * max(shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1]) + shape.distance(LineString(line)) + length
    )
    ux, uy = (bx - ax) / length, (by - ay) / length
    far = [(ax - reach * ux, ay - reach * uy), (bx + reach * ux, by + reach * uy)]
    side = [(far[1][0] - reach * uy, far[1][1] + reach * ux), (far[0][0] - reach * uy, far[0][1] + reach * ux)]
    left = Polygon([*far, *side])
    return _back(shapely.geometrycollections([shape.intersection(left), shape.difference(left)]), [outline])


def _back(shape: BaseGeometry, sources: Sequence[Sequence[Sequence[float]]]) -> Result:
    circles = [arc_of(a, o[(i + 1) % len(o)], a[2]) for o in sources for i, a in enumerate(o) if len(a) > 2 and abs(a[2]) > 1e-9]
    parts = [p for p in _polygons(shape) if p.area > 1e-6]
    parts.sort(key=lambda p: -p.area)
    outer = tuple(outline_of(shapely.get_coordinates(p.exterior)[:-1], circles) for p in parts)
    inner = tuple(outline_of(shapely.get_coordinates(r)[:-1], circles) for p in parts for r in p.interiors)
    return Result(outer, inner)


def _polygons(shape: BaseGeometry) -> list[Polygon]:
    if isinstance(shape, Polygon):
        return [shapely.orient_polygons(shape)]
    return [p for g in getattr(shape, "geoms", []) for p in _polygons(g)]


def outline_of(xy: Array, circles: Sequence[Arc], straight: float = 1e-6) -> Outline:
    """Vertices of a ring of points (n, 2) m: arcs where consecutive points lie on one of the circles; points that lie
    off the straight way between their neighbours by at most ``straight`` (m) are dropped."""
    n = len(xy)
    on = np.full(n, -1)
    for k, c in enumerate(circles):
        off = np.abs(np.hypot(xy[:, 0] - c.centre[0], xy[:, 1] - c.centre[1]) - c.radius) < NEAR
        middle = (xy + np.roll(xy, -1, axis=0)) / 2
        # The chord's own middle tells an edge on the circle from a straight one between two of its points.
        sagitta = c.radius - np.hypot(middle[:, 0] - c.centre[0], middle[:, 1] - c.centre[1])
        step = np.hypot(*(np.roll(xy, -1, axis=0) - xy).T)
        edge = off & np.roll(off, -1) & (np.abs(sagitta - step**2 / (8 * c.radius)) < NEAR) & (sagitta < NEAR)
        on[edge & (on < 0)] = k
        if (on == k).all() and not _goes_round(xy, c):
            # A sliver between an arc and its chord: all of its points lie near the circle.
            on[:] = -1
    # Begin where the kind of edge changes, so that no run is split by the list's end.
    start = next((i for i in range(n) if on[i] != on[i - 1] or on[i] < 0), 0)
    order = [(start + i) % n for i in range(n)]
    out: Outline = []
    i = 0
    while i < n:
        k = on[order[i]]
        a = xy[order[i]]
        j = i + 1
        if k >= 0:
            while j < n and on[order[j]] == k:
                j += 1
            b = xy[order[j % n]]
            out += _arc(circles[k], a, b, xy[order[(i + 1) % n]], full=j - i == n)
        else:
            out.append([_tidy(a[0]), _tidy(a[1])])
        i = j
    return _straightened(out, straight)


def _goes_round(xy: Array, circle: Arc) -> bool:
    """Whether a ring of points (n, 2) m goes round the middle of a circle."""
    x, y = (xy - np.array(circle.centre)).T
    angle = np.arctan2(y, x)
    step = (np.roll(angle, -1) - angle + np.pi) % (2 * np.pi) - np.pi
    return bool(abs(step.sum()) > np.pi)


def _arc(circle: Arc, a: Array, b: Array, after: Array, full: bool) -> Outline:
    """The vertices of the arc from a to b that leaves a towards ``after``; a whole circle takes two."""
    cx, cy = circle.centre

    def angle(p: Array) -> float:
        return float(np.arctan2(p[1] - cy, p[0] - cx))

    way = np.sign(np.sin(angle(after) - angle(a))) or 1.0
    sweep = 2 * np.pi if full else float((way * (angle(b) - angle(a))) % (2 * np.pi))
    if full or sweep > np.pi * 1.5:
        half = angle(a) + way * sweep / 2
        middle = [_tidy(cx + circle.radius * np.cos(half)), _tidy(cy + circle.radius * np.sin(half))]
        bulge = float(way * np.tan(sweep / 8))
        return [[_tidy(a[0]), _tidy(a[1]), bulge], [*middle, bulge]]
    return [[_tidy(a[0]), _tidy(a[1]), float(way * np.tan(sweep / 4))]]


def _straightened(outline: Outline, off: float) -> Outline:
    """Without the corners that lie on the straight way between their neighbours."""
    kept = list(outline)
    i = 0
    while i < len(kept) and len(kept) > 3:
        p, v, q = kept[i - 1], kept[i], kept[(i + 1) % len(kept)]
        straight = len(p) < 3 and len(v) < 3
        across = (v[0] - p[0]) * (q[1] - p[1]) - (v[1] - p[1]) * (q[0] - p[0])
        if straight and abs(across) <= off * max(1e-9, np.hypot(q[0] - p[0], q[1] - p[1])):
            kept.pop(i)
            i = max(0, i - 1)
        else:
            i += 1
    return kept


def _tidy(value: float) -> float:
    return round(float(value), 6) + 0.0
