"""What stations need because of what is needed elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.combine.envelope import Factors, greatest
from piastra.core.model import Floor
from piastra.core.reinforcement.in_fire import Intermediate, intermediate, kept_through
from piastra.core.reinforcement.places import HOLDS, Bounds, Joints, Where, sides
from piastra.core.standards import Standard
from piastra.core.standards.provision import Stations
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]

AT_FACE = 0.05
"""The outermost station of a strip lies at its support if it is no further (m) from its clear span's end."""


@dataclass(frozen=True, slots=True)
class About:
    """What stations have about them, whatever their bars: found once for a floor. ``shared`` (c,): a number for all stations at one side of one support
    along an axis, -1 elsewhere. ``across``: strips with the stations whose bars only spread the load to those of the strip. ``corners``:
    stations near a held corner, with the strips about it. ``frame`` (c,) as of :class:`Stations`. ``kept``: what runs through in a fire."""

    shared: Ints
    across: tuple[tuple[int, Ints], ...]
    corners: tuple[tuple[Ints, Ints], ...]
    frame: Array
    kept: Intermediate


def about(floor: Floor, standard: Standard, layout: Layout, cuts: Cuts, bounds: Bounds, where: Where) -> About:
    """Of all stations."""
    strips = layout.strips
    place = np.array([(s.axis, s.number) for s in strips], dtype=np.int64).reshape(-1, 2)[cuts.strip]
    _, shared = np.unique(np.column_stack([place, where.place]), axis=0, return_inverse=True)
    return About(
        np.where(where.place >= 0, shared.ravel(), -1),
        _across(floor, layout, cuts),
        _near_corners(layout, cuts, bounds),
        _frames(layout, cuts, where),
        intermediate(floor, standard.fire, layout, cuts, bounds.solid),
    )


def derived(
    at: Stations, f: int, first: Sequence[Array], layout: Layout, cuts: Cuts, held: Taken, where: Where, around: About
) -> Stations:
    """What follows from the steel that strength and service ask for elsewhere, and from what columns take (``held``)."""
    most = np.zeros((2, len(layout.strips)))
    for face in (0, 1):
        np.maximum.at(most[face], cuts.strip, first[face])
    total = np.zeros(len(cuts.strip))
    side = np.flatnonzero(around.shared >= 0)
    sums = np.bincount(around.shared[side], (first[f] * cuts.width)[side])
    total[side] = np.where(where.column[side], sums[around.shared[side]], 0.0)
    # The share that the slab gives columns by flexure: ACI 318-19, 8.4.2.2.2 (other standards do not read it).
    at_column = held.sides[:, 0] > 0
    c1, c2 = held.sides.T
    share = np.where(at_column, 1 / (1 + 2 / 3 * np.sqrt((c1 + at.d) / (c2 + at.d))), 0.0)
    principal, corner = np.zeros_like(total), np.zeros_like(total)
    for strip, mine in around.across:
        principal[mine] = np.maximum(principal[mine], most[f, strip])
    for mine, strips in around.corners:
        corner[mine] = np.maximum(corner[mine], most[0, strips].max())
    return replace(
        at, total=total, span=most[f][cuts.strip], span_bottom=most[0][cuts.strip], principal=principal, transfer=held.moment,
        transfer_share=share, corner=corner, kept=kept_through(around.kept, cuts, total) if f == 1 else at.kept, shear=held.shear,
        section=held.section, edges=held.edges, frame=around.frame if at.tendon.any() else at.frame,
    )  # fmt: skip


CORNER = 0.2
"""Steel at held corners reaches so much of the span from them: ACI 318-19, 8.7.3.1.2 (other standards do not read it)."""


def held_corners(bounds: Bounds) -> Array:
    """Outer corners (k, 2) m of the floor whose two edges are held along a metre from them, or half the edge where that is less."""
    found = []
    for part in shapely.get_parts(bounds.solid):
        ring = shapely.get_coordinates(shapely.normalize(part.exterior))[:-1][::-1]
        back, on = np.roll(ring, 1, axis=0) - ring, np.roll(ring, -1, axis=0) - ring
        convex = on[:, 0] * back[:, 1] - on[:, 1] * back[:, 0] > 0.5 * np.hypot(*on.T) * np.hypot(*back.T)
        for k in np.flatnonzero(convex):
            tips = [ring[k] + e * min(1.0 / np.hypot(*e), 0.5) for e in (back[k], on[k])]
            if all(shapely.dwithin(bounds.held, shapely.Point(t), HOLDS) for t in tips):
                found.append(ring[k])
    return np.array(found).reshape(-1, 2)


def _near_corners(layout: Layout, cuts: Cuts, bounds: Bounds) -> tuple[tuple[Ints, Ints], ...]:
    """Of each held corner the stations near it, and the strips about it."""
    found = []
    lines = shapely.linestrings(cuts.ends) if len(cuts.strip) else np.zeros(0)
    reach = CORNER * np.array([s.length for s in layout.strips])
    for corner in held_corners(bounds):
        here = shapely.Point(corner)
        near = [k for k, s in enumerate(layout.strips) if not s.beam and shapely.dwithin(s.outline, here, reach[k])]
        if near:
            mine = np.isin(cuts.strip, near) & (shapely.distance(lines, here) <= reach[cuts.strip])
            found.append((np.flatnonzero(mine), np.array(near)))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Frame:
    """One of the frames that cross at a ``column``: in its ``direction`` the stations ``cuts`` (k,) that lie at the column, side by side, and their gross
    ``area`` m2."""

    column: str
    direction: str
    cuts: Ints
    area: float


def frames_at(layout: Layout, cuts: Cuts, column: Flags) -> list[Frame]:
    """Frames at columns, to each side one; ``column`` (c,): stations at faces of columns. In the field of a wall there is none."""
    found: dict[tuple[int, int, int], list[int]] = {}
    labels: dict[tuple[int, int, int], str] = {}
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if not len(mine):
            continue
        for which, hold in enumerate(strip.holds):
            c = int(mine[0 if which == 0 else -1])
            key = (strip.axis, strip.number, which)
            if hold is None or abs(cuts.s[c] - (strip.start if which == 0 else strip.end)) > AT_FACE:
                continue
            found.setdefault(key, []).append(c)
            if column[c] and hold.seen == "column":
                labels[key] = hold.label
    return [
        Frame(label, layout.strips[int(cuts.strip[found[key][0]])].direction, np.array(found[key], dtype=np.int64),
              float((cuts.width * cuts.h)[found[key]].sum()))
        for key, label in labels.items()
    ]  # fmt: skip


def _frames(layout: Layout, cuts: Cuts, where: Where) -> Array:
    """At columns the greater of the gross sections (m2) of the strips of the two frames that cross there: ACI 318-19, 8.6.2.3 (other
    standards do not read it)."""
    found = frames_at(layout, cuts, where.column)
    most: dict[str, float] = {}
    for frame in found:
        most[frame.column] = max(most.get(frame.column, 0.0), frame.area)
    out = np.zeros(len(cuts.strip))
    for frame in found:
        mine = frame.cuts[where.column[frame.cuts]]
        out[mine] = most[frame.column]
    return out


def _across(floor: Floor, layout: Layout, cuts: Cuts) -> tuple[tuple[int, Ints], ...]:
    """Strips that carry one way, each with the stations whose bars lie across those that carry and only spread the load."""
    if not len(cuts.strip):
        return ()
    areas = [(shapely.Polygon([(p[0], p[1]) for p in a.outline]), np.radians(a.angle_deg)) for a in floor.one_way_areas]
    points = shapely.points(cuts.ends.mean(axis=1))
    direction = np.array([s.direction for s in layout.strips])[cuts.strip]
    carries = np.array([s.kind == "whole" and bool(s.supports) for s in layout.strips])
    found = []
    for k, strip in enumerate(layout.strips):
        across = direction != strip.direction
        one_way = np.zeros(len(points), dtype=bool)
        if carries[k]:
            one_way = across & ~carries[cuts.strip]
        for outline, angle in areas:
            if abs(np.cos(angle - layout.axes[strip.axis].angle)) > 0.9 and outline.intersects(strip.outline):
                one_way |= across & shapely.intersects(points, outline)
        here = np.flatnonzero(one_way)
        if len(here):
            found.append((k, here[shapely.intersects(points[here], strip.outline)]))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Taken:
    """What columns take at the stations (c,) at them, whatever the bars there: the ``moment`` (kNm) about the axis across the strip, the column's
    ``sides`` (c, 2) m along and across it, the greatest reaction over the critical section (``shear``, kN/m2), its length (``section``, m), and
    the ``edges`` that it runs out to. Nil at other stations."""

    moment: Array
    sides: Array
    shear: Array
    section: Array
    edges: Array


def taken(layout: Layout, cuts: Cuts, bounds: Bounds, joints: Joints, ultimate: Sequence[Factors], where: Where) -> Taken:
    """At the ends of axes, where the standard means moments at faces: those that stretch the top at the column's inner face, which its force lessens
    on the way from its axis."""
    count = len(cuts.strip)
    out = Taken(np.zeros(count), np.zeros((count, 2)), *(np.zeros(count) for _ in range(3)))
    number = {label: k for k, label in enumerate(joints.labels)}
    bent: list[int] = []
    about: list[Array] = []
    pressed: list[int] = []
    for c in np.flatnonzero(where.column).tolist():
        hold = layout.strips[cuts.strip[c]].holds[int(where.place[c])]
        if hold is None or hold.label not in number:
            continue
        unit = joints.reactions[number[hold.label]]
        if hold.label in bounds.footprints:
            a = cuts.angle[c]
            out.sides[c] = sides(bounds.footprints[hold.label], float(a))
            moment = unit[1] * np.sin(a) - unit[2] * np.cos(a)
            if where.at_face and where.end[c]:
                moment = (moment if where.place[c] == 0 else -moment) - unit[0] * out.sides[c, 0] / 2
            bent.append(c)
            about.append(moment)
        if hold.label in joints.sections:
            length, d, edges = joints.sections[hold.label]
            out.section[c], out.edges[c], out.shear[c] = length, edges, 1 / (length * d)
            pressed.append(c)
    if bent:
        stretched = greatest(np.array(about), ultimate).max(axis=1)
        turned = greatest(-np.array(about), ultimate).max(axis=1)
        at_face = where.at_face & where.end[bent]
        out.moment[bent] = np.where(at_face, np.maximum(stretched, 0.0), np.maximum(stretched, turned))
    if pressed:
        labels = [hold.label for c in pressed if (hold := layout.strips[cuts.strip[c]].holds[int(where.place[c])])]
        force = greatest(joints.reactions[[number[label] for label in labels], 0], ultimate).max(axis=1)
        out.shear[pressed] *= np.maximum(force, 0.0)
    return out
