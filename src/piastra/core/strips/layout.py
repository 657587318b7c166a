"""Where strips and their stations lie."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polyline
from piastra.core.geometry.axes import PARALLEL, Axis, Held, axes, axes_of_neighbours, bearings_on, main_angle
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline
from piastra.core.strips.crossings import runs
from piastra.core.strips.spans import BEYOND, Hold, Side, Span, reach, side, spans_of, standing_of
from piastra.core.strips.territories import bands, box, disjoint
from piastra.core.strips.whole_beams import WholeBeam, bends, whole_beams

Array = npt.NDArray[np.float64]

TENTHS = np.arange(11) / 10.0
INSIDE = 0.002
"""Stations at faces and edges lie so far (m) inside the span, in the element beside the face."""

THIN = 0.15
"""What is left of the floor beside the strips counts where it is wider than twice this (m)."""
SMALL = 0.25
"""And larger than this (m2)."""
LEAST_CUT = 0.05
"""A cut through less concrete than this (m) is none."""
LEAST_AREA = 0.02
"""A strip that serves less than this (m2) is none."""
DIRECTIONS: tuple[Literal["x", "y"], Literal["x", "y"]] = ("x", "y")

Kind = Literal["column", "middle", "whole", "beam"]


Position = Literal["end", "inner", "cantilever"]
Flange = Callable[[float, float, float, Position, float], float]
"""Effective width (m) of a flange to one side: of a web's width, the free width beside it, the span, its place, the flange's
thickness."""


@dataclass(frozen=True, slots=True)
class Strip:
    """One strip of one span of an axis.

    ``left`` and ``right`` (m): its borders to the left of the axis (right ones negative or less) in the span's middle.
    ``start`` and ``end`` (m along the axis): the clear span. ``length`` m between the supports' middles. ``number`` counts
    the axis's spans; a ``cantilever`` has one support; one ``on_wall`` runs along a wall. ``shape``: where cuts may lie;
    ``outline``: the concrete that it serves, which no other strip of the direction does. ``holds``: what it starts and ends at.
    ``band`` m: of column strips that lie inside the floor, an eighth of the panel's width to each side of the axis; else nil.
    ``beam``: whose strip it is: it serves the web, and cuts take its flanges too; ``beams``: which of those that are designed as one with it lie in it.
    ``part`` counts the parts, from the left, into which beams cut a strip.
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
    on_wall: bool
    shape: Polygon
    outline: BaseGeometry
    holds: tuple[Hold | None, Hold | None]
    band: float
    beam: str = ""
    beams: tuple[str, ...] = ()
    part: int = -1

    @property
    def beam_name(self) -> str:
        """How these are called together."""
        return " + ".join(self.beams)

    @property
    def id(self) -> str:
        """The strip's identity in its layout."""
        part = str(self.part + 1) if self.part >= 0 else ""
        return "-".join(filter(None, (f"{self.direction}{self.axis}", str(self.number), self.kind, self.side, part)))

    @property
    def label(self) -> str:
        """How the strip is called: its kind, and the supports that its span joins."""
        if self.beam:
            return " ".join(filter(None, ("beam", self.beam_name, "–".join(self.supports))))
        name = {"column": "column strip", "middle": f"middle strip {self.side} of", "whole": "whole width,"}[self.kind]
        ends = "–".join(self.supports) if self.supports else "edge to edge"
        part = f", part {self.part + 1}" if self.part >= 0 else ""
        return f"{name} {ends}{' cantilever' if self.cantilever else ' along it' if self.on_wall else ''}{part}"


@dataclass(frozen=True, slots=True)
class Layout:
    """Axes of both directions, x before y, and their strips. ``beside``: the concrete that belongs to no strip of a direction."""

    axes: tuple[Axis, ...]
    strips: tuple[Strip, ...]
    beside: tuple[tuple[Literal["x", "y"], Polygon], ...]


def supports_on_plan(floor: Floor, plan: Plan) -> list[Held]:
    """What holds the floor up, as outlines and lines."""
    held = [
        Held(c.id, p, seen=c.seen_as) for c, p in zip(floor.columns, plan.footprints, strict=True)
        if c.below is not None and not p.is_empty
    ]  # fmt: skip
    held += [
        replace(piece, seen=w.seen_as)
        for w in floor.walls
        if w.below is not None
        for piece in _chords(w.id, w.line, w.thickness_m)
    ]
    for s in floor.supports:
        if s.kind == "line" and s.vertical not in ("free", 0.0):
            held += _chords(s.id, s.line)
        elif s.kind == "point" and s.vertical not in ("free", 0.0):
            held.append(Held(s.id, shapely.Point(s.at).buffer(0.01)))
    return held


def _chords(label: str, path: list[list[float]], width: float = 0.0) -> list[Held]:
    """The straight pieces of a line of support; an arc counts as chords of about 2 m."""
    return [Held(label, LineString(piece), width) for piece in pairwise(polyline(path, 2.0))]


@dataclass(frozen=True, slots=True)
class PartAxes:
    """Of one part of a floor: the ``region`` (m) that it is, its main direction, ``angle`` (rad), and the axes ``along`` and ``across`` it. What stands on
    another part, as beyond a movement joint, is nothing to it."""

    region: Polygon
    angle: float
    along: tuple[Axis, ...]
    across: tuple[Axis, ...]


def make_axes(floor: Floor, plan: Plan) -> tuple[PartAxes, ...]:
    """The axes of every part of the floor, the largest first."""
    held = supports_on_plan(floor, plan)
    parts = [p for p in shapely.get_parts(plan.region) if isinstance(p, Polygon) and p.area >= LEAST_AREA]
    made = []
    for part in sorted(parts, key=lambda p: (-round(p.area, 3), *np.round(p.centroid.coords[0], 3))):
        own = held_by(held, part)
        angle = main_angle(own)
        # Of the supports' two directions the one nearer to the bars along x is what "x" means to the reader, and to mats that are proposed for its strips.
        angle += round((np.radians(floor.slabs[0].bar_angle_deg) - angle) / (np.pi / 2) - 1e-9) * np.pi / 2
        along, across = (tuple(axes(own, part, turn)) for turn in (angle, angle + np.pi / 2))
        made.append(PartAxes(part, angle, along, across))
    return tuple(made)


def held_by(held: Sequence[Held], part: Polygon) -> list[Held]:
    """The supports on which a ``part`` of the floor (m) stands."""
    near = part.buffer(ON_EDGE)
    shapely.prepare(near)
    return [h for h in held if (h.shape.intersection(near).length > ON_EDGE if h.is_line else near.intersects(h.shape))]


ON_EDGE = 5e-3
"""A support that lies no further (m) off an edge lies on it."""


def make_layout(floor: Floor, plan: Plan, parts: Sequence[PartAxes], flange: Flange | None = None) -> Layout:
    """Column and middle strips of every span, and strips of what these leave over.

    Tributary widths end half way to the next axis or support, or at the slab's edge. Column strips are a quarter of the
    lesser of the two spans wide on each side of the axis; the rest is middle strip. Strips of one direction share no
    concrete; what belongs to none of them is in ``beside``. Beams have strips of their own, with flanges by the rule
    ``flange``.
    """
    held = supports_on_plan(floor, plan)
    borders = shapely.union_all([LineString(b.line) for b in floor.strip_boundaries])
    axes: list[Axis] = []
    strips: list[Strip] = []
    beside: list[tuple[Literal["x", "y"], Polygon]] = []
    for k, direction in enumerate(DIRECTIONS):
        for part in parts:
            own, turn = held_by(held, part.region), part.angle + k * np.pi / 2
            solid = Polygon(part.region.exterior)
            shapely.prepare(solid)
            first = len(axes)
            found = _with_drawn(floor, direction, turn, (part.along, part.across)[k], own)
            axes += [*found, *axes_of_neighbours(own, found, solid, turn)]
            lone = len(axes)
            beams = beam_strips(floor, flange, direction, turn, axes, own, solid, part.region)
            webs = _together(beams) if beams else Polygon()
            region = part.region.difference(webs)
            made = [
                s
                for s in _of_axes(
                    direction, first, axes[:lone], own, solid, region, [(axes[b.axis], b.outline) for b in beams], borders
                )
                if _is_met(axes[s.axis], s)
            ]
            rest = region.difference(_together(made))
            for piece in (b for p in _pieces(rest) for b in bands(p, turn)):
                made += [s for s in _of_piece(direction, turn, piece, axes, own) if _is_met(axes[s.axis], s)]
            made, left = _with_slivers([*beams, *made], part.region)
            strips += made
            left += [p for s in made for p in _uncut(axes[s.axis], s)]
            beside += [(direction, p) for p in left]
    return Layout(tuple(axes), tuple(strips), tuple(beside))


AS_DRAWN = 1.0
"""A derived axis within so much (m) of a drawn one along it gives way to it; supports so near to it are its own."""


def _with_drawn(
    floor: Floor, direction: Literal["x", "y"], angle: float, found: Sequence[Axis], held: Sequence[Held]
) -> list[Axis]:
    """The axes of a direction (``angle`` rad) with those that are drawn in the place of derived ones."""
    drawn = []
    for a in floor.strip_axes:
        corners = np.array(polyline(a.line, 2.0))
        for k, (p, q) in enumerate(pairwise(corners)):
            way = float(np.arctan2(*(q - p)[::-1]))
            turn = (way - angle + np.pi / 2) % np.pi - np.pi / 2
            if not -np.pi / 4 <= turn < np.pi / 4:
                continue
            # Beyond a bend the next stretch goes on.
            runs_on = (k == 0, k == len(corners) - 2)
            if np.cos(way - angle) < 0:
                runs_on = runs_on[::-1]
            way = angle + turn
            along, aside = np.array([np.cos(way), np.sin(way)]), np.array([-np.sin(way), np.cos(way)])
            offset, (s0, s1) = float(p @ aside), sorted((float(p @ along), float(q @ along)))
            line = LineString([p, q])
            members = {n for n, h in enumerate(held) if h.shape.distance(line) < AS_DRAWN and (not h.is_line or _along(h, way))}
            met = [b for b in bearings_on(held, way, offset, members) if b.end > s0 - AS_DRAWN and b.start < s1 + AS_DRAWN]
            if met:
                drawn.append((line, Axis(way, offset, tuple(met), runs_on=runs_on)))

    # Strips that overlap are parted in order: it shall not matter which way, and in which order, axes were drawn.
    drawn.sort(key=lambda d: tuple(np.round(d[0].centroid.coords[0], 6)))

    kept = [part for axis in found for part in _left_over(axis, [line for line, _ in drawn])]
    joined = {a.bearings[k].labels for a in kept if a not in found for k in (0, -1) if not a.runs_on[k]}

    def stopped(axis: Axis) -> Axis:
        """A drawn axis ends where what is left of a derived one goes on."""
        first, last = (axis.bearings[k].labels not in joined for k in (0, -1))
        return replace(axis, runs_on=(axis.runs_on[0] and first, axis.runs_on[1] and last))

    return [*kept, *(stopped(axis) for _, axis in drawn)]


def _left_over(axis: Axis, lines: Sequence[LineString]) -> list[Axis]:
    """What drawn ``lines`` leave of a derived axis: all of it where none lies along it; else runs of its spans that none covers."""
    own = LineString(axis.point(np.array([axis.bearings[0].start, axis.bearings[-1].end])))
    along = [line for line in lines if own.intersection(line.buffer(AS_DRAWN)).length > 0.5 * min(own.length, line.length)]
    if not along:
        return [axis]
    bearings, last = axis.bearings, len(axis.bearings) - 1
    middles = [shapely.Point(axis.point((b.end + c.start) / 2)) for b, c in pairwise(bearings)]
    bare = [all(line.distance(middle) > AS_DRAWN for line in along) for middle in middles]
    out = []
    k = 0
    while k < last:
        if not bare[k]:
            k += 1
            continue
        m = k
        while m < last and bare[m]:
            m += 1
        runs_on = (k == 0 and axis.runs_on[0], m == last and axis.runs_on[1])
        out.append(replace(axis, bearings=bearings[k : m + 1], runs_on=runs_on))
        k = m
    return out


def _along(h: Held, way: float) -> bool:
    a, b = np.array(h.shape.coords[0]), np.array(h.shape.coords[-1])
    return abs(float(np.sin(np.arctan2(*(b - a)[::-1]) - way))) < PARALLEL


def _of_axes(direction: Literal["x", "y"], first: int, axes: Sequence[Axis], held: Sequence[Held], solid: BaseGeometry,
             region: BaseGeometry, webs: Sequence[Web], borders: BaseGeometry) -> list[Strip]:  # fmt: skip
    """Strips along the axes from number ``first`` on; beside the ``webs`` of beams, up to the ``borders`` drawn."""
    own = axes[first:]
    spans = [spans_of(k, axis, solid) for k, axis in enumerate(own)]
    reaches = [(min((s.start for s in some), default=0.0), max((s.end for s in some), default=0.0)) for some in spans]
    every = [s for some in spans for s in some]
    standing = standing_of(held)
    sides = [[side(s, own, reaches, standing, solid, borders, t) for t in (1.0, -1.0)] for s in every]
    boxes = [box(own[s.axis], s.low, s.high, -r.furthest, l.furthest) for s, (l, r) in zip(every, sides, strict=True)]
    shapes = disjoint([(own[s.axis], s) for s in every], boxes, region)
    made: list[Strip] = []
    for s, (l, r), shape in zip(every, sides, shapes, strict=True):
        axis = own[s.axis]
        made += _parts(direction, first, s, axis, l, r, shape.intersection(solid), region, webs)
    return made


Web = tuple[Axis, BaseGeometry]
"""A beam's axis, and what of the floor its web takes (m)."""


def _beside_webs(own: BaseGeometry, webs: Sequence[Web]) -> list[Polygon]:
    """What of a strip lies to either side of webs. Where one ends short of it the line of its axis parts it: the stations of both sides in one would run
    through one of them alone."""
    pieces = [own.difference(shapely.union_all([web for _, web in webs]))]
    for axis, _ in webs:
        sides = [box(axis, -FAR, FAR, *side) for side in ((0.0, FAR), (-FAR, 0.0))]
        pieces = [piece.intersection(side) for piece in pieces for side in sides]
    return [part for piece in pieces for part in _polygons(_without_hairs(piece))]


def _parts(direction: Literal["x", "y"], first: int, s: Span, axis: Axis, l: Side, r: Side, shape: BaseGeometry,
           region: BaseGeometry, webs: Sequence[Web]) -> list[Strip]:  # fmt: skip
    """Column and middle strips of one span, out of its territory; one that a web cuts is one to each side of it."""
    if not axis.from_supports:
        cuts: list[tuple[Kind, Literal["", "left", "right"], float, float]] = [("whole", "", l.furthest, -r.furthest)]
    else:
        # What lies beyond the last border of a side without a middle strip is the column strip's.
        cl, cr = (x.column if x.whole - x.column > 0.1 else x.furthest for x in (l, r))
        cuts = [("column", "", cl, -cr)]
        cuts += [("middle", "left", l.furthest, cl)] if cl == l.column else []
        cuts += [("middle", "right", -cr, -r.furthest)] if cr == r.column else []
    inside = l.furthest == l.whole and r.furthest == r.whole
    band = (l.whole + r.whole) / 4 if inside else 0.0
    made = []
    for kind, where, left, right in cuts:
        own = shape.intersection(box(axis, s.low, s.high, right, left))
        parts: list[BaseGeometry] = [own]
        if met := [web for web in webs if own.intersection(web[1]).area > LEAST_AREA]:
            parts = sorted(_beside_webs(own, met), key=lambda p: -_aside(axis, p))
        for k, part in enumerate(parts):
            outline = _areas(part.intersection(region))
            if left - right <= 0.1 or outline.area < LEAST_AREA:
                continue
            made.append(Strip(
                first + s.axis, direction, kind, where, s.number, min(left, l.whole), max(right, -r.whole), s.start, s.end, s.length, s.supports,
                s.cantilever, s.on_wall, _largest(part), outline, s.holds, band if kind == "column" else 0.0, part=k if len(parts) > 1 else -1,
            ))  # fmt: skip
    return made


def beam_strips(
    floor: Floor, flange: Flange | None, direction: Literal["x", "y"], angle: float, axes: list[Axis], held: Sequence[Held],
    solid: BaseGeometry, region: BaseGeometry,
) -> list[Strip]:  # fmt: skip
    """Strips of the beams that run nearer to a direction (``angle`` rad) than to the other one, span by span; their axes join
    ``axes``."""
    made: list[Strip] = []
    taken: BaseGeometry = Polygon()
    for whole in sorted(whole_beams(floor.beams, held), key=lambda w: (-w.beam.priority, -w.beam.depth_m)):
        beam = whole.beam
        if not region.intersects(whole.outline):
            continue
        half = beam.width_m / 2
        deeper = [
            Held(o.id, LineString(piece), o.width_m) for o in floor.beams if o.depth_m > beam.depth_m
            for piece in pairwise(polyline(o.line, 2.0))
        ]  # fmt: skip
        for a, b in pairwise(whole.line):
            way = float(np.arctan2(*(b - a)[::-1]))
            turn = (way - angle + np.pi / 2) % np.pi - np.pi / 2
            if not -np.pi / 4 <= turn < np.pi / 4:
                continue
            way = angle + turn
            offset = float(a @ (-np.sin(way), np.cos(way)))
            s0, s1 = sorted(float(p @ (np.cos(way), np.sin(way))) for p in (a, b))
            web = box(Axis(way, offset, ()), s0, s1, -half, half)
            # Of a wall along it only what is next to the beam bears it.
            beside = web.buffer(0.3)
            near = [
                replace(h, shape=h.shape.intersection(beside)) if h.is_line else h
                for h in [*held, *(h for h in deeper if not _along(h, way))] if h.shape.distance(web) < 0.02
            ]  # fmt: skip
            met = bearings_on(near, way, offset, {k for k, h in enumerate(near) if not h.is_line})
            axis = Axis(way, offset, tuple(x for x in met if x.end > s0 - 0.3 and x.start < s1 + 0.3))
            number = len(axes)
            axes.append(axis)
            # Beams that are drawn bay by bay go on beyond a column as one that is drawn at once.
            ends = (axis.bearings[0].start - BEYOND, axis.bearings[-1].end + BEYOND) if axis.bearings else ()
            goes_on = tuple(_in_line(floor, whole, axis, at) for at in ends)
            for s in spans_of(number, axis, web, goes_on):
                # Not cut out of the web: where sides of both coincide but for rounding, what they share may come out as none.
                own = box(axis, max(s.low, s0), min(s.high, s1), -half, half).intersection(region)
                outline = _areas(own.difference(taken))
                if outline.area < LEAST_AREA:
                    continue
                taken = taken.union(outline)
                left, right = (half + _flange(whole, floor, flange, axis, s, solid, t) for t in (1.0, -1.0))
                shape = _largest(box(axis, s.low, s.high, -right, left).intersection(solid))
                made.append(Strip(number, direction, "beam", "", s.number, left, -right, s.start, s.end, s.length, s.supports, s.cantilever,
                                  s.on_wall, shape, outline, s.holds, 0.0, beam.id, whole.within(outline)))  # fmt: skip
    return [s for s in made if _is_met(axes[s.axis], s)]


def _in_line(floor: Floor, whole: WholeBeam, axis: Axis, at: float) -> bool:
    """Whether another beam along the axis lies ``at`` (m along it)."""
    here = shapely.Point(axis.point(at))
    return any(
        piece.dwithin(here, o.width_m / 2) and _along(Held(o.id, piece), axis.angle)
        for o in floor.beams if o.id not in whole.pieces for piece in (LineString(ends) for ends in pairwise(bends(o)))
    )  # fmt: skip


def _flange(
    whole: WholeBeam, floor: Floor, rule: Flange | None, axis: Axis, s: Span, solid: BaseGeometry, towards: float
) -> float:
    """Effective width (m) of the slab to one side of a beam's web: of what is free up to the edge or half way to the next beam."""
    half = whole.beam.width_m / 2
    free = float(reach(solid, axis, np.array([s.middle]), towards)[0]) - half
    here = axis.point(s.middle)
    aside = towards * np.array([-np.sin(axis.angle), np.cos(axis.angle)])
    line = LineString([here + aside * (half + 0.01), here + aside * 60.0])
    for other in floor.beams:
        if other.id not in whole.pieces and not (met := line.intersection(beam_outline(other))).is_empty:
            free = min(free, (float(met.distance(shapely.Point(here))) - half) / 2)
    if free <= 0:
        return 0.0
    if rule is None:
        return min(free, s.length / 10)
    last = [h is None or h.last for h in s.holds]
    position: Position = "cantilever" if s.cantilever else "end" if any(last) else "inner"
    return max(rule(whole.beam.width_m, free, s.length, position, min(x.thickness_m for x in floor.slabs)), 0.0)


def _of_piece(direction: Literal["x", "y"], angle: float, piece: Polygon, axes: list[Axis], held: Sequence[Held]) -> list[Strip]:
    """Strips of a piece of the floor that no axis serves: along its middle, from support or edge to support or edge."""
    across = np.array([-np.sin(angle), np.cos(angle)])
    offsets = shapely.get_coordinates(piece) @ across
    low, high = float(offsets.min()), float(offsets.max())
    middle = (low + high) / 2
    bearings = bearings_on([h for h in held if h.is_line and h.shape.distance(piece) < 0.5], angle, middle, set())
    axis = Axis(angle, middle, bearings, from_supports=False)
    solid = Polygon(piece.exterior).buffer(0.25, join_style="mitre")
    left, right = (high - low) / 2, (low - high) / 2
    made = []
    for s in spans_of(len(axes), axis, solid):
        own = piece.intersection(box(axis, s.low, s.high, right, left))
        piece = piece.difference(own)
        outline = _areas(own)
        if outline.area >= LEAST_AREA:
            made.append(Strip(len(axes), direction, "whole", "", s.number, left, right, s.start, s.end, s.length, s.supports, s.cantilever,
                              s.on_wall, _largest(own), outline, s.holds, 0.0))  # fmt: skip
    if made:
        axes.append(axis)
    return made


def _with_slivers(strips: list[Strip], region: BaseGeometry) -> tuple[list[Strip], list[Polygon]]:
    """The strips with the slivers beside them, and what of the floor is left that is more than slivers."""
    rest = region.difference(_together(strips))
    left: list[Polygon] = []
    more: list[list[Polygon]] = [[] for _ in strips]
    for piece in shapely.get_parts(rest):
        if not isinstance(piece, Polygon) or piece.is_empty:
            continue
        if _is_wide(piece) or not strips:
            left.append(piece)
            continue
        near = [float(s.outline.distance(piece)) for s in strips]
        more[int(np.argmin(near))].append(piece)
    whole = [
        replace(s, outline=_areas(shapely.unary_union([s.outline, *m]))) if m else s for s, m in zip(strips, more, strict=True)
    ]
    return whole, sorted(left, key=lambda p: -p.area)


def _together(strips: Sequence[Strip]) -> BaseGeometry:
    # On a grid: borders that all but coincide have made the union without one lose whole strips.
    return shapely.union_all([s.outline for s in strips], grid_size=1e-6)


def _is_wide(piece: Polygon) -> bool:
    return piece.area > SMALL and piece.buffer(-THIN).area > 1e-3


def _pieces(shape: BaseGeometry) -> list[Polygon]:
    """The parts of a shape that are more than slivers, the largest first."""
    # Overlays leave lines beside polygons, and a collection of both cannot be cut with nothing.
    areas = shapely.union_all([p for p in shapely.get_parts(shape) if isinstance(p, Polygon)])
    wide = areas.buffer(-THIN)
    if wide.is_empty:
        return []
    opened = wide.buffer(THIN + 1e-3, join_style="mitre").intersection(areas)
    found = [p for p in shapely.get_parts(opened) if isinstance(p, Polygon) and p.area > SMALL]
    return sorted(found, key=lambda p: -p.area)


def _areas(shape: BaseGeometry) -> BaseGeometry:
    """What of a shape has an area, on a grid of a micrometre: vertices that all but coincide mislead later overlays."""
    own = shapely.set_precision(shape, 1e-6)
    return shapely.union_all([p for p in shapely.get_parts(own) if isinstance(p, Polygon)])


def _without_hairs(shape: BaseGeometry) -> BaseGeometry:
    """A shape without what is narrower than a hair: where a web ends with a span but for rounding, one past its end ties both sides of it together."""
    return shape.buffer(-HAIR / 2, join_style="mitre").buffer(HAIR / 2, join_style="mitre")


def _polygons(shape: BaseGeometry) -> list[Polygon]:
    return [p for p in shapely.get_parts(shape) if isinstance(p, Polygon) and p.area >= LEAST_AREA]


def _aside(axis: Axis, part: Polygon) -> float:
    """How far to the left of an axis a part lies, m."""
    return float(-part.centroid.x * np.sin(axis.angle) + part.centroid.y * np.cos(axis.angle)) - axis.offset


def _largest(shape: BaseGeometry) -> Polygon:
    parts = [p for p in shapely.get_parts(shape) if isinstance(p, Polygon)]
    return max(parts, key=lambda p: p.area) if parts else Polygon()


CONVEX = 0.999
"""An outline that fills so much of its convex hull is met by every line in one piece."""
FAR = 1e6
"""A half-plane beside an axis reaches so far, m: places along axes count from the plan's origin, which may be 100 km away."""
HAIR = 2e-4
"""What is narrower than this (m) is left by rounding."""
APART = 0.02
"""Two stations of a strip lie at least so far (m) apart."""


def stations(strip: Strip, more: Array | None = None) -> Array:
    """Stations (m along the axis): the faces and the tenths of the clear span, and ``more`` of them between that lie apart from these."""
    # A hair beyond a tenth, so that a cut does not run along a line of the mesh.
    s = strip.start + (strip.end - strip.start) * TENTHS + 1e-4
    s[0] += INSIDE
    s[-1] -= INSIDE
    for other in more if more is not None else ():
        if s[0] < other < s[-1] and np.abs(s - other).min() >= APART:
            s = np.insert(s, int(np.searchsorted(s, other)), other)
    return s


def _is_met(axis: Axis, strip: Strip) -> bool:
    """Whether a station lies on concrete of the strip: what none reaches is left to others."""
    at = stations(strip)
    low, high = _longest(axis, strip, at)
    own = runs(axis, strip.outline, at)
    # Between nil and nil where the line misses the strip.
    inside = own.within(*(np.nan_to_num(end[own.line]) for end in (low, high)))
    return bool((np.bincount(own.line, inside.length) > LEAST_CUT).any())


def _uncut(axis: Axis, strip: Strip) -> list[Polygon]:
    """What of a strip its stations do not run through, each for what lies half way to its neighbours, where it is more than slivers: beside a notch or a slot
    lines are in several pieces, of which they take the longest."""
    if strip.outline.area > CONVEX * strip.outline.convex_hull.area:
        return []
    at = stations(strip)
    low, high = np.nan_to_num(_longest(axis, strip, at))
    own = runs(axis, strip.outline, at)
    taken = own.within(low[own.line], high[own.line])
    missed = np.bincount(own.line, own.length - taken.length, minlength=len(at)) > 2 * THIN
    half = (at[1:] + at[:-1]) / 2
    starts, ends = np.append(at[0] - FAR, half), np.append(half, at[-1] + FAR)
    rest = [
        strip.outline.intersection(box(axis, starts[k], ends[k], -FAR, FAR)).difference(
            box(axis, starts[k], ends[k], low[k], high[k])
        )
        for k in np.flatnonzero(missed)
    ]
    return [p for p in shapely.get_parts(shapely.union_all(rest, grid_size=1e-6)) if isinstance(p, Polygon) and _is_wide(p)]


def _longest(axis: Axis, strip: Strip, at: Array) -> tuple[Array, Array]:
    """Where the longest pieces of lines at ``at`` (k,) m along the axis in a strip begin and end (m to the left); not a number where they miss it."""
    found = runs(axis, strip.shape, at)
    low, high = np.full(len(at), np.nan), np.full(len(at), np.nan)
    # The longest one of each comes last; of equally long ones the first.
    order = np.lexsort((-np.arange(len(found.line)), found.length, found.line))
    order = order[found.length[order] > 1e-6]
    last = order[np.diff(found.line[order], append=-1) != 0]
    low[found.line[last]], high[found.line[last]] = found.low[last], found.high[last]
    return low, high


def ends_of(axis: Axis, strip: Strip, at: Array) -> Array:
    """Where cuts at ``at`` (k,) m along the axis enter and leave the strip: (k, 2, 2) m, from right to left; of a strip of
    several parts the longest piece. Not a number where a cut misses it."""
    return axis.point(at[:, None], np.stack(_longest(axis, strip, at), axis=1))
