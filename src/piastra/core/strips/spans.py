"""Spans of axes: where strips start and end, and how far aside they reach."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Axis, Bearing, Held, stretch
from piastra.core.strips.crossings import runs

Array = npt.NDArray[np.float64]

LEAST_CANTILEVER = 0.3
"""An edge that stands out less than this (m) from the last support's face has no strip of its own."""
LEAST_FIELD = 1.0
"""A wall that runs along an axis for more than this (m) has strips of its own beside it."""
BEYOND = LEAST_CANTILEVER + 0.02
FURTHEST = 60.0
ALIKE = 1e-6
"""Axes that turn by less than this (rad) are parallel: those from column to column are so but for rounding."""


Seen = Literal["column", "wall", "wall_end"]


@dataclass(frozen=True, slots=True)
class Hold:
    """What a span ends at: the support's ``label``, what it is ``seen`` as (a column, a wall across, the end of a wall along the
    axis), and whether it is the ``last`` of its axis."""

    label: str
    seen: Seen
    last: bool


@dataclass(frozen=True, slots=True)
class Span:
    """One span of an axis: from ``start`` to ``end`` (m along it, between faces), ``length`` m between the supports' middles,
    its ``supports``; a ``cantilever`` has one; beside a wall that runs along the axis (``on_wall``) it is as long as the
    wall. Its strips serve what lies from ``low`` to ``high`` (m along the axis). ``holds``: what it starts and ends at."""

    axis: int
    number: int
    start: float
    end: float
    length: float
    supports: tuple[str, ...]
    cantilever: bool
    on_wall: bool
    low: float
    high: float
    holds: tuple[Hold | None, Hold | None]

    @property
    def middle(self) -> float:
        """Middle of the clear span, m along the axis."""
        return (self.start + self.end) / 2


def spans_of(number: int, axis: Axis, solid: BaseGeometry, goes_on: Sequence[bool] = (False, False)) -> list[Span]:
    """The spans of an axis on the floor ``solid`` (without its openings): between neighbouring bearings, beside walls that run
    along it, and from the last bearings out to an edge. An axis without bearings runs from edge to edge. ``goes_on``: whether beyond its
    first and its last bearing others go on in its line."""
    bearings = axis.bearings
    reach = (bearings[0].start, bearings[-1].end) if bearings else stretch(axis.angle, solid)
    line = LineString(axis.point(np.array([reach[0] - FURTHEST, reach[1] + FURTHEST])))
    inside = [
        sorted(float(np.dot(np.array(c) - axis.point(0.0), [np.cos(axis.angle), np.sin(axis.angle)])) for c in (p.coords[0], p.coords[-1]))
        for p in shapely.get_parts(line.intersection(solid)) if isinstance(p, LineString) and not p.is_empty
    ]  # fmt: skip

    def run(at: float) -> list[float]:
        return next((r for r in inside if r[0] - 0.05 <= at <= r[1] + 0.05), [at, at])

    if not bearings:
        return [
            Span(number, k, a, b, b - a, (), False, False, a - BEYOND, b + BEYOND, (None, None))
            for k, (a, b) in enumerate(inside)
            if b - a > 0.2
        ]
    found: list[tuple[float, float, float, tuple[str, ...], bool, bool, float, float, tuple[Hold | None, Hold | None]]] = []
    field = [b.along and b.end - b.start > LEAST_FIELD and b.seen != "column" for b in bearings]
    last = len(bearings) - 1
    holds = [
        Hold(b.labels[0], _seen(b, field[k]), (k == 0 and not goes_on[0]) or (k == last and not goes_on[1])) for k, b in enumerate(bearings)
    ]  # fmt: skip
    for k, b in enumerate(bearings):
        before, after = run(b.start)[0], run(b.end)[1]
        label = b.labels[0]
        open_before = axis.runs_on[0] if k == 0 else run(bearings[k - 1].end)[1] < b.start - 0.05
        open_after = axis.runs_on[1] if k == last else after < bearings[k + 1].start - 0.05
        if open_before and b.start - before > LEAST_CANTILEVER:
            found.append((before, b.start, b.start - before, (label,), True, False, before - BEYOND, b.start if field[k] else b.middle,
                          (None, holds[k])))  # fmt: skip
        if field[k]:
            low = b.start - BEYOND if open_before and b.start - before <= LEAST_CANTILEVER else b.start
            high = b.end + BEYOND if open_after and after - b.end <= LEAST_CANTILEVER else b.end
            found.append((max(b.start, before), min(b.end, after), b.end - b.start, (label,), False, True, low, high,
                          (None, None)))  # fmt: skip
        if open_after and after - b.end > LEAST_CANTILEVER:
            found.append((b.end, after, after - b.end, (label,), True, False, b.end if field[k] else b.middle, after + BEYOND,
                          (holds[k], None)))  # fmt: skip
        if k < last and run(b.end)[1] >= bearings[k + 1].start - 0.05 and bearings[k + 1].start - b.end > 0.2:
            o = bearings[k + 1]
            ends_here = open_before and b.start - before <= LEAST_CANTILEVER
            there = run(o.end)[1]
            end = axis.runs_on[1] if k + 1 == last else there < bearings[k + 2].start - 0.05
            ends_there = end and there - o.end <= LEAST_CANTILEVER
            low = b.end if field[k] else b.start - BEYOND if ends_here else b.middle
            high = o.start if field[k + 1] else o.end + BEYOND if ends_there else o.middle
            found.append((b.end, o.start, o.middle - b.middle, (label, o.labels[0]), False, False, low, high,
                          (holds[k], holds[k + 1])))  # fmt: skip
    return [Span(number, k, *one) for k, one in enumerate(sorted(found, key=lambda one: one[:2]))]


def _seen(b: Bearing, field: bool) -> Seen:
    if b.seen in ("column", "wall"):
        return "column" if b.seen == "column" else "wall"
    return "wall_end" if field else "column" if b.column else "wall"


def reach(solid: BaseGeometry, axis: Axis, at: Array, towards: float) -> Array:
    """Distances (k,) m from points of the axis, at ``at`` (k,) m along it, to the floor's edge, to the left (+1) or right (-1)."""
    found = runs(axis, solid, at)
    aside = found.within(0.0, FURTHEST) if towards > 0 else found.within(-FURTHEST, 0.0)
    here = (aside.low if towards > 0 else -aside.high) < 0.02
    return np.asarray(np.bincount(aside.line, np.where(here, aside.length, 0.0), minlength=len(at)), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class Standing:
    """What stands on single places: ``labels`` and middles ``xy`` (k, 2) m, with the corners of each."""

    labels: npt.NDArray[np.str_]
    xy: Array
    corners: tuple[Array, ...]


def standing_of(supports: Sequence[Held]) -> Standing:
    """The columns among supports."""
    single = [h for h in supports if not h.is_line]
    middles = shapely.get_coordinates(shapely.centroid([h.shape for h in single]))
    return Standing(
        np.array([h.label for h in single], dtype=np.str_), middles, tuple(shapely.get_coordinates(h.shape) for h in single)
    )


@dataclass(frozen=True, slots=True)
class Side:
    """To one side of a span: widths (m) of the ``column`` strip and of the ``whole`` tributary strip, and how far its territory
    reaches at most (``furthest``, m): beyond the whole width only where that ends at a floor's edge that is not straight."""

    column: float
    whole: float
    furthest: float


def side(span: Span, axes: Sequence[Axis], reaches: Sequence[tuple[float, float]], columns: Standing, solid: BaseGeometry,
         borders: BaseGeometry, towards: float) -> Side:  # fmt: skip
    """How far a span's strips reach to one side: half way to the next axis of those ``axes`` whose strips, which run along each
    from ``reaches`` (m), pass it there, or to the next support that stands aside; or else to the edge. A border that was drawn
    ends them wherever it lies.

    Column strips are a quarter of the lesser of the two spans wide, and never narrower than the span's own columns: a short cantilever
    carries what they bring to it over their whole width.
    """
    axis = axes[span.axis]
    own = np.isin(columns.labels, span.supports)
    least = _own_columns(axis, columns, own, towards)
    # First the one in the middle, then those along the span.
    edge, *along = reach(solid, axis, np.array([span.middle, *np.linspace(span.start, span.end, 9)[1:-1]]), towards).tolist()
    gaps, beside = [], set[str]()
    middle = axis.point(span.middle)
    for k, o in enumerate(axes):
        if k == span.axis or abs(o.angle - axis.angle) > ALIKE or not o.from_supports:
            continue
        c, n = np.cos(o.angle), np.sin(o.angle)
        apart = towards * (o.offset - float(middle @ (-n, c)))
        if apart > 0.5 and reaches[k][0] <= float(middle @ (c, n)) <= reaches[k][1]:
            gaps.append(apart)
            beside.update(label for b in o.bearings for label in b.labels)
    gap = min(gaps, default=np.inf)
    # A support that stands on no axis here ends the strip half way to it: it carries what lies beyond. One a little off an axis does not: the strips of
    # this end half way to it, too, and would leave what lies between.
    standing = _standing_aside(span, axis, columns.xy[~own & ~np.isin(columns.labels, list(beside))], towards)
    width = max(min(span.length, gap) / 4, least)
    border = _drawn(borders, axis, span.middle, towards)
    if border < min(edge, gap, standing):
        return Side(min(width, border), border, border)
    if gap < edge + 0.3:
        whole = min(gap, standing) / 2
        return Side(min(width, whole), whole, whole)
    if standing < edge + 0.3:
        return Side(min(width, standing / 2), standing / 2, standing / 2)
    return Side(min(max(span.length / 4, least), edge), edge, max(edge, *along) + 0.35)


def _drawn(borders: BaseGeometry, axis: Axis, s: float, towards: float) -> float:
    """Distance (m) from a point of the axis to the nearest border drawn to one side of it."""
    if borders.is_empty:
        return np.inf
    ray = LineString(axis.point(np.array([s, s]), np.array([0.0, towards * FURTHEST])))
    met = ray.intersection(borders)
    return np.inf if met.is_empty else float(met.distance(shapely.Point(ray.coords[0])))


def _own_columns(axis: Axis, columns: Standing, own: npt.NDArray[np.bool_], towards: float) -> float:
    """How far (m) the span's own columns reach to one side of its axis."""
    left = np.array([-np.sin(axis.angle), np.cos(axis.angle)])
    beyond = [float((towards * (columns.corners[k] @ left - axis.offset)).max()) for k in np.flatnonzero(own)]
    return max([0.0, *beyond])


def _standing_aside(span: Span, axis: Axis, others: Array, towards: float) -> float:
    """Distance (m) to the nearest of columns, their middles (k, 2) m, beside the clear span that are none of its own supports."""
    c, n = np.cos(axis.angle), np.sin(axis.angle)
    s, aside = others @ (c, n), towards * (others @ (-n, c) - axis.offset)
    beside = (span.low + 0.3 < s) & (s < span.high - 0.3) & (aside > 0.5)
    return float(aside[beside].min(initial=np.inf))
