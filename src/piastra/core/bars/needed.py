"""Which of the laid groups are needed, and for which stations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.bars.design import Site, asked_of, closest, why
from piastra.core.reinforcement.groups import Group, reached
from piastra.core.reinforcement.stations import StationSteel, in_middle
from piastra.core.standards.provision import NOTHING

Array = npt.NDArray[np.float64]


DEPTHS = 1.005
"""Without a group the rest may lie a little higher, and more is asked for."""

RARE = 1e-6
"""Bars by the metre (1/m) that are none."""


@dataclass(frozen=True, slots=True)
class Given:
    """What one group gives at ``cuts`` (k,): over the ``strip`` and in the ``band`` about its axis, m2/m (k,); and how many bars, 1/m (k,)."""

    cuts: npt.NDArray[np.int64]
    strip: Array
    band: Array
    count: Array


def given_by(site: Site, steel: StationSteel, groups: Sequence[Group]) -> list[Given]:
    """What each group gives at the stations that it reaches, at which its bars are as deep as the rest."""
    if not groups:
        return []
    cuts = site.cuts
    samples = cuts.samples
    angle = cuts.angle[samples.cut]
    band = steel.faces[1].at.band
    middle = in_middle(site.layout, cuts, band)
    count = len(cuts.strip)
    width = np.maximum(cuts.width, 1e-9)
    in_band = np.bincount(samples.cut, samples.length * middle, minlength=count)
    there = reached(groups, site.spots, angle)
    area = np.array([g.area for g in groups])
    # Each group at each station that it reaches, once.
    pair, back = np.unique(there.group * count + samples.cut[there.point], return_inverse=True)
    group, mine = pair // max(count, 1), pair % max(count, 1)
    length = samples.length[there.point] * there.share * area[there.group]
    strip = np.bincount(back, length, minlength=len(pair)) / width[mine]
    over = np.bincount(back, length * middle[there.point], minlength=len(pair)) / np.maximum(in_band[mine], 1e-9)
    over = np.where((band[mine] > 0) & (in_band[mine] > 0), over, strip)
    ends = np.searchsorted(group, np.arange(1, len(groups)))
    # A bar that is not developed yet lies there all the same.
    lying = samples.length[there.point] * there.turned / np.array([g.spacing for g in groups])[there.group]
    bars = np.bincount(back, lying, minlength=len(pair)) / width[mine]
    return [Given(*one) for one in zip(*(np.split(v, ends) for v in (mine, strip, over, bars)), strict=True)]


def pruned(site: Site, steel: StationSteel, groups: Sequence[Group]) -> list[Group]:
    """The groups without those that no station needs, heaviest first: others are there by then. What holds the floor together at
    columns, mats, and what an engineer drew or locked stay."""
    gives = given_by(site, steel, groups)
    spare = steel.provided - DEPTHS * asked_of(steel)
    beyond = np.stack([steel.in_band[f] - DEPTHS * o.in_band for f, o in enumerate(steel.faces)])
    dense = _dense(site, steel)
    kept = set(range(len(groups)))
    for k in sorted(kept, key=lambda k: -groups[k].area * groups[k].outline.area):
        g, given = groups[k], gives[k]
        if g.origin != "designed" or g.locked or g.why or g.anchored <= 0:
            continue
        less, short = spare[g.face, given.cuts] - given.strip, beyond[g.face, given.cuts] - given.band
        rare = dense[g.face, given.cuts] - given.count
        if (less >= -NOTHING).all() and (short >= -NOTHING).all() and (rare >= -RARE).all():
            kept.discard(k)
            dense[g.face, given.cuts] = rare
            spare[g.face, given.cuts], beyond[g.face, given.cuts] = less, short
    return [groups[k] for k in sorted(kept)]


def explained(site: Site, steel: StationSteel, groups: Sequence[Group], gives: Sequence[Given]) -> list[Group]:
    """The groups, which give what ``gives`` tells, each with the stations that would fall short without it and the provisions that ask there; those that
    are there for a reason of their own keep it."""
    asked, dense, out = DEPTHS * asked_of(steel), _dense(site, steel), []
    for g, given in zip(groups, gives, strict=True):
        if g.why or g.origin == "mat" or g.anchored <= 0:
            out.append(g)
            continue
        own, at = steel.faces[g.face], given.cuts
        # Bars across a strip lie at its stations and give them nothing.
        bands = (given.band > NOTHING) & (steel.in_band[g.face, at] - given.band < DEPTHS * own.in_band[at] - NOTHING)
        strips = (given.strip > NOTHING) & (steel.provided[g.face, at] - given.strip < asked[g.face, at] - NOTHING)
        close = (given.count > RARE) & (dense[g.face, at] - given.count < -RARE)
        # Where both fall short, what asks for more is told.
        gathered = bands & (~strips | (own.in_band[at] > asked[g.face, at]))
        named = [
            why(site, own, int(c), bool(b), bool(b or s))
            for c, b, s, n in zip(at, gathered, strips, close, strict=True)
            if b or s or n
        ]
        out.append(replace(g, why=tuple(named)))
    return out


def _dense(site: Site, steel: StationSteel) -> Array:
    """How many bars (2, c) by the metre there are more than have to be, 1/m; inf where none have to."""
    most = closest(site, steel)
    there = np.stack([own.at.spacing for own in steel.faces])
    return np.where(most < np.inf, 1 / there - 1 / most, np.inf)


Box = tuple[float, float, float, float]
Kind = tuple[int, str, float, float]

SIDE_BY_SIDE = 0.05
"""Groups with no more than this (m) between them lie side by side."""
ENDS = 0.6
"""Bars whose ends differ by no more than this (m) may be of one length."""
MORE = 1.04
"""Groups are joined where that takes no more than so many times their steel."""


def joined(site: Site, groups: Sequence[Group]) -> list[Group]:
    """Groups side by side, of one diameter and spacing, as one where one length can serve."""
    rest, out = [(_kind(g), g.outline.bounds, g) for g in groups], []
    while rest:
        kind, box, g = rest.pop(0)
        match = _beside(site, kind, box, g, rest)
        while match is not None:
            rest.pop(match[0])
            g = match[1]
            match = _beside(site, kind, g.outline.bounds, g, rest)
        out.append(g)
    return out


def _beside(
    site: Site, kind: Kind | None, box: Box, g: Group, rest: Sequence[tuple[Kind | None, Box, Group]]
) -> tuple[int, Group] | None:
    """The first of the rest that can be joined to a group, by its number, and both as one."""
    if kind is None:
        return None
    left, low, right, high = box[0] - SIDE_BY_SIDE, box[1] - SIDE_BY_SIDE, box[2] + SIDE_BY_SIDE, box[3] + SIDE_BY_SIDE
    for k, (other, b, h) in enumerate(rest):
        # Most are far away, which their boxes tell at once.
        if other == kind and b[0] <= right and b[1] <= high and b[2] >= left and b[3] >= low and (both := _both(site, g, h)):
            return k, both
    return None


def _kind(g: Group) -> Kind | None:
    """What groups have in common that may be joined; None for those that stay as they are."""
    if g.origin != "designed" or g.locked or g.why or g.anchored <= 0:
        return None
    return g.face, g.direction, g.bar, g.spacing


def _both(site: Site, a: Group, b: Group) -> Group | None:
    if abs(a.angle - b.angle) > 1e-9:
        return None
    if a.outline.distance(b.outline) > SIDE_BY_SIDE or a.outline.intersection(b.outline).area > SIDE_BY_SIDE**2:
        return None
    ends = a.rectangle(), b.rectangle()
    if ends[0] is None or ends[1] is None or max(abs(ends[0][k] - ends[1][k]) for k in (0, 1)) > ENDS:
        return None
    c, s = np.cos(a.angle), np.sin(a.angle)
    xy = shapely.get_coordinates([a.outline, b.outline])
    along, aside = xy @ (c, s), xy @ (-s, c)
    x, y = (along.min(), along.max()), (aside.min(), aside.max())
    ring = np.array([[x[0], y[0]], [x[1], y[0]], [x[1], y[1]], [x[0], y[1]]]) @ np.array([[c, s], [-s, c]])
    whole = shapely.Polygon(ring)
    if whole.area > MORE * (a.outline.area + b.outline.area) or not site.region.buffer(1e-6).covers(whole):
        return None
    return replace(a, outline=whole, anchored=max(a.anchored, b.anchored))
