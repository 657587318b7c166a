"""Outlines whose edges may be arcs.

A vertex is ``(x, y, bulge)``; the bulge is the tangent of a quarter of the angle of the arc that leaves the
vertex, positive anticlockwise (the convention of DXF polylines). Coordinates in m.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

Array = npt.NDArray[np.float64]

FINE_SAGITTA = 0.001
"""Greatest distance (m) between an arc and the chords that stand for it where areas are computed."""


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular edge: centre (m), radius (m), start angle and swept angle (rad, positive anticlockwise)."""

    centre: tuple[float, float]
    radius: float
    start: float
    sweep: float

    def at(self, fraction: Array) -> Array:
        """Points at fractions 0..1 of the arc, shape (n, 2), m."""
        angle = self.start + self.sweep * fraction
        return np.column_stack([self.centre[0] + self.radius * np.cos(angle), self.centre[1] + self.radius * np.sin(angle)])


def arc_of(a: Sequence[float], b: Sequence[float], bulge: float) -> Arc:
    """The arc from ``a`` to ``b`` (m) with the given bulge (non-zero)."""
    ax, ay, bx, by = float(a[0]), float(a[1]), float(b[0]), float(b[1])
    sweep = 4.0 * np.arctan(bulge)
    chord = np.hypot(bx - ax, by - ay)
    radius = chord * (1.0 + bulge * bulge) / (4.0 * abs(bulge))
    # The centre lies to the left of the chord when the arc is anticlockwise and less than a half circle.
    offset = chord * (1.0 - bulge * bulge) / (4.0 * bulge)
    nx, ny = -(by - ay) / chord, (bx - ax) / chord
    centre = ((ax + bx) / 2.0 + nx * offset, (ay + by) / 2.0 + ny * offset)
    return Arc(centre, radius, float(np.arctan2(ay - centre[1], ax - centre[0])), float(sweep))


def chords(vertices: Sequence[Sequence[float]], step: float | None = None) -> Array:
    """Points along a closed outline with arcs replaced by chords, shape (n, 2), m, last point not repeated.

    With ``step`` (m) an arc is cut into chords of about that length, and at multiples of one angle common to
    its circle, so that two outlines that share a circle share the points; without, into chords whose sagitta
    is at most ``FINE_SAGITTA``.
    """
    return np.concatenate([_stretch(a, vertices[(i + 1) % len(vertices)], step) for i, a in enumerate(vertices)])


def polyline(vertices: Sequence[Sequence[float]], step: float | None = None) -> Array:
    """Points along an open line from its first vertex to its last, as in :func:`chords`, shape (n, 2), m."""
    parts = [_stretch(a, b, step) for a, b in pairwise(vertices)]
    last = np.array([vertices[-1][:2]], dtype=np.float64)
    return np.concatenate([*parts, last])


def length_of(vertices: Sequence[Sequence[float]]) -> float:
    """Length (m) of an open line from its first vertex to its last, arcs exactly."""
    total = 0.0
    for a, b in pairwise(vertices):
        bulge = float(a[2]) if len(a) > 2 else 0.0
        chord = float(np.hypot(b[0] - a[0], b[1] - a[1]))
        total += chord if abs(bulge) < 1e-9 else (lambda arc: arc.radius * abs(arc.sweep))(arc_of(a, b, bulge))
    return total


def _stretch(a: Sequence[float], b: Sequence[float], step: float | None) -> Array:
    """The points of one edge, its first vertex included and its last one not."""
    first = np.array([[a[0], a[1]]], dtype=np.float64)
    bulge = float(a[2]) if len(a) > 2 else 0.0
    if abs(bulge) < 1e-9:
        return first
    arc = arc_of(a, b, bulge)
    if step is None:
        # 2 arccos(1 - x), which would be nil for radii beside which the sagitta is rounded away.
        angle = 4.0 * np.arcsin(np.sqrt(min(1.0, FINE_SAGITTA / arc.radius) / 2.0))
        n = max(4, int(np.ceil(abs(arc.sweep) / angle)))
        return np.concatenate([first, arc.at(np.arange(1, n) / n)])
    n_circle = 4 * max(2, int(np.ceil(2.0 * np.pi * arc.radius / step / 4.0)))
    angle = 2.0 * np.pi / n_circle
    lo, hi = sorted((arc.start, arc.start + arc.sweep))
    ticks = np.arange(np.ceil(lo / angle), np.floor(hi / angle) + 1) * angle
    # A tick close to an end of the arc would make a sliver of an edge.
    ticks = ticks[(ticks - lo > 0.3 * angle) & (hi - ticks > 0.3 * angle)]
    if arc.sweep < 0:
        ticks = ticks[::-1]
    return np.concatenate([first, arc.at((ticks - arc.start) / arc.sweep)])


def stretch_outlines(path: Sequence[Sequence[float]], width: float) -> list[list[list[float]]]:
    """The outline of each stretch of a line with a width (m): four vertices, ends square, arcs as two arcs about one centre."""
    out = []
    for a, b in pairwise(path):
        bulge = float(a[2]) if len(a) > 2 else 0.0
        chord = np.arctan2(b[1] - a[1], b[0] - a[0])
        # A chord's ends differ from the arc's own direction by half of what the arc turns, each its own way.
        half = 2.0 * np.arctan(bulge)
        n = [np.array([-np.sin(t), np.cos(t)]) * width / 2 for t in (chord - half, chord + half)]
        p, q = np.array(a[:2], dtype=np.float64), np.array(b[:2], dtype=np.float64)
        bent = [bulge] if bulge else []
        back = [-bulge] if bulge else []
        out.append([[*(p - n[0]).tolist(), *bent], (q - n[1]).tolist(), [*(q + n[1]).tolist(), *back], (p + n[0]).tolist()])
    return out


def polygon(vertices: Sequence[Sequence[float]], step: float | None = None) -> Polygon:
    """The polygon of an outline (see :func:`chords`), anticlockwise; not checked for validity."""
    return shapely.orient_polygons(Polygon(chords(vertices, step)))
