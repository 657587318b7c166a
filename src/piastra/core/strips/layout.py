"""Where strips and their stations lie."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polyline
from piastra.core.geometry.axes import Axis, Held, axes, main_angle
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor

Array = npt.NDArray[np.float64]

TENTHS = np.arange(11) / 10.0
INSIDE = 0.002
"""Stations at faces and edges lie so far (m) inside the span, in the element beside the face."""

LEAST_CANTILEVER = 0.3
"""An edge that stands out less than this (m) from the last support's face has no strip of its own."""

Kind = Literal["column", "middle", "whole"]


@dataclass(frozen=True, slots=True)
class Strip:
    """One strip of one span of an axis.

    ``left`` and ``right`` (m): its borders to the left of the axis (right ones negative or less). ``start`` and
    ``end`` (m along the axis): the clear span. ``length`` m between the supports' middles. ``number`` counts the
    axis's spans; a ``cantilever`` has one support.
    """

    axis: int
    direction: Literal["x", "y"]
    kind: Kind
    side: Literal["", "left", "right"]
    number: int
    left: float
    right: float
    start: float
    end: float
    length: float
    supports: tuple[str, ...]
    cantilever: bool

    @property
    def id(self) -> str:
        """The strip's identity in its layout."""
        return "-".join(filter(None, (f"{self.direction}{self.axis}", str(self.number), self.kind, self.side)))

    @property
    def label(self) -> str:
        """How the strip is called: its kind, and the supports that its span joins."""
        name = {"column": "column strip", "middle": f"middle strip {self.side} of", "whole": "whole width,"}[self.kind]
        return f"{name} {'–'.join(self.supports)}{' cantilever' if self.cantilever else ''}"


@dataclass(frozen=True, slots=True)
class Layout:
    """Axes of both directions, x before y, and their strips. ``angle`` rad of the direction called x."""

    angle: float
    axes: tuple[Axis, ...]
    strips: tuple[Strip, ...]


def supports_on_plan(floor: Floor, plan: Plan) -> list[Held]:
    """What holds the floor up, as outlines and lines."""
    held = [
        Held(c.id, p) for c, p in zip(floor.columns, plan.footprints, strict=True)
        if c.below is not None and not p.is_empty
    ]  # fmt: skip
    held += [piece for w in floor.walls if w.below is not None for piece in _pieces(w.id, w.line, w.thickness_m)]
    for s in floor.supports:
        if s.kind == "line" and s.vertical not in ("free", 0.0):
            held += _pieces(s.id, s.line)
        elif s.kind == "point" and s.vertical not in ("free", 0.0):
            held.append(Held(s.id, shapely.Point(s.at).buffer(0.01)))
    return held


def _pieces(label: str, path: list[list[float]], width: float = 0.0) -> list[Held]:
    """The straight pieces of a line of support; an arc counts as chords of about 2 m."""
    return [Held(label, LineString(piece), width) for piece in pairwise(polyline(path, 2.0))]


def make_axes(floor: Floor, plan: Plan) -> tuple[float, tuple[Axis, ...], tuple[Axis, ...]]:
    """The main angle, and the axes along and across it."""
    held = supports_on_plan(floor, plan)
    angle = main_angle(held)
    # Bars that lie within a few degrees of the supports' direction are what "x" means to the reader.
    turn = np.radians(floor.slabs[0].bar_angle_deg) - angle
    quarter = round(turn / (np.pi / 2))
    if abs(turn - quarter * np.pi / 2) < np.radians(6.0):
        angle += quarter * np.pi / 2
    elif angle > np.pi / 4:
        angle -= np.pi / 2
    along = tuple(axes(held, plan.region, angle))
    across = tuple(axes(held, plan.region, angle + np.pi / 2))
    return angle, along, across


def make_layout(plan: Plan, angle: float, along: Sequence[Axis], across: Sequence[Axis]) -> Layout:
    """Column and middle strips of every span.

    Tributary widths end half way to the next axis, or at the slab's edge. Column strips are a quarter of the
    lesser of the two spans wide on each side of the axis; the rest is middle strip.
    """
    solid = shapely.unary_union([Polygon(p.exterior) for p in shapely.get_parts(plan.region)])
    strips: list[Strip] = []
    for first, direction, family in ((0, "x", along), (len(along), "y", across)):
        for k, axis in enumerate(family):
            strips += _strips(first + k, direction, axis, family, solid)  # type: ignore[arg-type]
    return Layout(angle, (*along, *across), tuple(strips))


def _reach(solid: BaseGeometry, axis: Axis, s: float, aside: float, towards: float, furthest: float = 60.0) -> float:
    """Distance (m) from a point of the axis to the floor's edge, to the left (+1) or right (-1)."""
    line = LineString(axis.point(np.array([s, s]), np.array([aside, aside + towards * furthest])))
    start = shapely.Point(line.coords[0])
    for part in shapely.get_parts(line.intersection(solid)):
        if part.distance(start) < 0.02:
            return float(part.length)
    return 0.0


def _side(axis: Axis, family: Sequence[Axis], solid: BaseGeometry, s: float, towards: float, span: float) -> tuple[float, float]:
    """Widths (m) of the column strip and of the whole tributary strip on one side."""
    edge = _reach(solid, axis, s, 0.0, towards)
    gaps = [
        towards * (o.offset - axis.offset) for o in family
        if o.from_supports and o.bearings[0].start - 0.5 <= s <= o.bearings[-1].end + 0.5 and towards * (o.offset - axis.offset) > 0.5
    ]  # fmt: skip
    gap = min(gaps, default=np.inf)
    if gap < edge + 0.3:
        return min(span, gap) / 4, gap / 2
    return min(span / 4, edge), edge


def _strips(number: int, direction: Literal["x", "y"], axis: Axis, family: Sequence[Axis], solid: BaseGeometry) -> list[Strip]:
    made: list[Strip] = []
    bearings = axis.bearings
    spans: list[tuple[float, float, float, tuple[str, ...], bool]] = []
    ends = LineString(axis.point(np.array([bearings[0].start - 60.0, bearings[-1].end + 60.0])))
    inside = [
        sorted(float(np.dot(np.array(c) - axis.point(0.0), [np.cos(axis.angle), np.sin(axis.angle)])) for c in (p.coords[0], p.coords[-1]))
        for p in shapely.get_parts(ends.intersection(solid)) if isinstance(p, LineString) and not p.is_empty
    ]  # fmt: skip

    def run(at: float) -> list[float]:
        return next((r for r in inside if r[0] - 0.05 <= at <= r[1] + 0.05), [at, at])

    for a, b in zip(bearings[:-1], bearings[1:], strict=True):
        if run(a.end)[1] >= b.start - 0.05 and b.start - a.end > 0.2:
            spans.append((a.end, b.start, b.middle - a.middle, (a.labels[0], b.labels[0]), False))
        elif run(a.end)[1] < b.start - 0.05:
            spans.append((a.end, run(a.end)[1], run(a.end)[1] - a.end, (a.labels[0],), True))
            spans.append((run(b.start)[0], b.start, b.start - run(b.start)[0], (b.labels[0],), True))
    first, last = run(bearings[0].start)[0], run(bearings[-1].end)[1]
    spans.insert(0, (first, bearings[0].start, bearings[0].start - first, (bearings[0].labels[0],), True))
    spans.append((bearings[-1].end, last, last - bearings[-1].end, (bearings[-1].labels[0],), True))
    spans = [s for s in spans if s[1] - s[0] > LEAST_CANTILEVER]
    for n, (start, end, length, supports, cantilever) in enumerate(spans):
        middle = (start + end) / 2
        if not axis.from_supports:
            left, right = (_reach(solid, axis, middle, 0.0, t) for t in (1.0, -1.0))
            made.append(Strip(number, direction, "whole", "", n, left, -right, start, end, length, supports, cantilever))
            continue
        (cl, tl), (cr, tr) = (_side(axis, family, solid, middle, t, length) for t in (1.0, -1.0))
        if cl + cr > 0.1:
            made.append(Strip(number, direction, "column", "", n, cl, -cr, start, end, length, supports, cantilever))
        if tl - cl > 0.1:
            made.append(Strip(number, direction, "middle", "left", n, tl, cl, start, end, length, supports, cantilever))
        if tr - cr > 0.1:
            made.append(Strip(number, direction, "middle", "right", n, -cr, -tr, start, end, length, supports, cantilever))
    return made


def stations(strip: Strip) -> Array:
    """Stations (m along the axis): the faces and the tenths of the clear span."""
    # A hair beyond a tenth, so that a cut does not run along a line of the mesh.
    s = strip.start + (strip.end - strip.start) * TENTHS + 1e-4
    s[0] += INSIDE
    s[-1] -= INSIDE
    return s


def covered(layout: Layout, direction: Literal["x", "y"], region: BaseGeometry) -> BaseGeometry:
    """The part of the plan (m) that strips of one direction serve: each clear span with the supports at its ends up to
    their middles, or up to the floor's edge where the axis ends there."""
    shapes, edge = [], LEAST_CANTILEVER + 0.02
    for strip in layout.strips:
        if strip.direction != direction:
            continue
        axis = layout.axes[strip.axis]
        first, last = axis.bearings[0], axis.bearings[-1]
        start = next((b.middle for b in axis.bearings if abs(b.end - strip.start) < 1e-6), strip.start)
        end = next((b.middle for b in axis.bearings if abs(b.start - strip.end) < 1e-6), strip.end)
        # A narrow edge beyond the last support has no strip of its own and belongs to the span.
        start = first.start - edge if start == first.middle else start - LEAST_CANTILEVER * strip.cantilever
        end = last.end + edge if end == last.middle else end + LEAST_CANTILEVER * strip.cantilever
        s, aside = np.array([start, end, end, start]), np.array([strip.right, strip.right, strip.left, strip.left])
        shapes.append(Polygon(axis.point(s, aside)))
    return shapely.unary_union(shapes).buffer(0.05, join_style="mitre").intersection(region) if shapes else Polygon()
