"""From required steel to groups of bars: what mats and kept groups leave over, along each axis and in each face."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Axis
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group, Spots, Why, anchorage_at
from piastra.core.reinforcement.stations import NOTHING, FaceSteel, StationSteel
from piastra.core.reinforcement.through import Through
from piastra.core.standards import Standard
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.strips.territories import box, corners

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

STEP = 0.1
"""Lengths of bars are rounded up to this, m."""
BRIDGED = 1.6
"""Stations of neighbouring spans so near to each other (m) lie at one support: bars run through it."""
ALONG = 2.5
"""Neighbouring stations of one strip that lie further apart (m) have an opening between them."""
TWO_LENGTHS = 0.93
"""Bars of two lengths are laid where their mass is no more than this share of that of one length."""
SPARE = 1.01
"""So much more than is asked for is designed, as other bars lie at other depths."""


@dataclass(frozen=True, slots=True)
class Choice:
    """A diameter and a spacing that may be chosen, m."""

    bar: float
    spacing: float

    @property
    def area(self) -> float:
        """m2/m."""
        return float(np.pi * self.bar**2 / 4 / self.spacing)


def choices_of(floor: Floor) -> tuple[Choice, ...]:
    """What the floor lets design choose from, the least area first; of equal ones the thinner bars."""
    found = [Choice(b / 1e3, s / 1e3) for b, s in product(floor.bar_sizes_mm, floor.spacings_mm)]
    return tuple(sorted(found, key=lambda c: (c.area, c.bar)))


def least_for(choices: Sequence[Choice], area: float, spacing: float) -> Choice:
    """The least choice of at least an area (m2/m) and at most a spacing (m); where none is enough, the most there is."""
    close = [c for c in choices if c.spacing <= spacing + 1e-9] or list(choices)
    return next((c for c in close if c.area >= area * (1 - 1e-9)), close[-1])


@dataclass(frozen=True, slots=True)
class Site:
    """Where bars are laid: what they are chosen from, and by which rules they are anchored."""

    floor: Floor
    standard: Standard
    region: BaseGeometry
    layout: Layout
    cuts: Cuts
    slab: Ints
    """Of each cut."""
    choices: tuple[Choice, ...]
    spots: Spots
    """The samples of the cuts."""
    rows: Sequence[Ints]
    """Of cuts: see :func:`rows_of`."""
    combinations: Mapping[str, tuple[str, ...]]
    """By the design situation; empty: that of the finished floor."""


def rows_of(layout: Layout, cuts: Cuts) -> list[Ints]:
    """Numbers of the cuts along each axis through strips of one kind and side, from its start to its end: bars may run through
    all of them."""
    groups: dict[tuple[int, str, str, int], list[int]] = {}
    for k, s in enumerate(layout.strips):
        groups.setdefault((s.axis, s.kind, s.side, s.part), []).append(k)
    out = []
    for strips in groups.values():
        mine = np.flatnonzero(np.isin(cuts.strip, strips))
        out.append(mine[np.argsort(cuts.s[mine])])
    return out


def runs(missing: Array, s: Array, strip: Ints) -> list[tuple[int, int]]:
    """First and last number of each stretch of stations at which steel is ``missing`` (k,); stretches to both sides of a
    support are one. ``strip`` (k,) of each station."""
    out: list[tuple[int, int]] = []
    for k in np.flatnonzero(missing > NOTHING).tolist():
        last = out[-1][1] if out else -1
        if out and (s[k] - s[last] < BRIDGED or (k == last + 1 and strip[k] == strip[last] and s[k] - s[last] < ALONG)):
            out[-1] = (out[-1][0], k)
        else:
            out.append((k, k))
    return out


def extent(missing: Array, s: Array, run: tuple[int, int], area: float, shift: float, anchored: float) -> tuple[float, float]:
    """Where bars of an ``area`` (m2/m) start and end, m along the axis.

    At every station of the run they have, with the moment shifted, developed what is ``missing`` (k,); between stations that
    runs straight, and bars go on for the shift beyond where it comes to nothing.
    """
    k = np.arange(run[0], run[1] + 1)
    reach = np.clip(missing[k] / area, 0.0, 1.0) * anchored + shift
    low, high = float((s[k] - reach).min()), float((s[k] + reach).max())
    for inner, outer in ((run[0], run[0] - 1), (run[1], run[1] + 1)):
        if 0 <= outer < len(s) and missing[outer] < missing[inner]:
            nought = s[inner] + (s[outer] - s[inner]) * missing[inner] / (missing[inner] - min(missing[outer], 0.0))
            low, high = min(low, nought - shift), max(high, nought + shift)
    return low, high


def asked_of(steel: StationSteel) -> Array:
    """What provisions ask for (2, c) m2/m, but for the bands over columns; with compression steel."""
    return np.stack([np.maximum(own.in_strip, steel.faces[1 - f].compression) for f, own in enumerate(steel.faces)])


def design(site: Site, steel: StationSteel, asked: Array, base: Array) -> list[Group]:
    """Groups that give what is ``asked`` for (2, c) m2/m beyond the ``base`` (2, c)."""
    found: list[_Bars] = []
    for f, own in enumerate(steel.faces):
        missing = SPARE * asked[f] - base[f]
        for cuts in site.rows:
            s = site.cuts.s[cuts]
            for run in runs(missing[cuts], s, site.cuts.strip[cuts]):
                found += _lengths(site, f, own, cuts, missing[cuts], run, base[f][cuts])
    return _laid(site, found)


def design_bands(site: Site, steel: StationSteel, there: Array) -> list[Group]:
    """Groups that gather top bars over columns where the provisions for that ask for more than is ``there`` (c,) m2/m."""
    own = steel.faces[1]
    missing = SPARE * own.in_band - there
    found: list[_Bars] = []
    for cuts in site.rows:
        need = np.where(own.at.band[cuts] > 0, missing[cuts], -1.0)
        for run in runs(need, site.cuts.s[cuts], site.cuts.strip[cuts]):
            width = float(own.at.band[cuts[run[0] : run[1] + 1]].max())
            found += _lengths(site, 1, own, cuts, need, run, np.ones(len(cuts)), width)
    return _laid(site, found)


def design_through(site: Site, through: Sequence[Through], bars: int) -> list[Group]:
    """Bottom bars through columns that have fewer than ``bars`` of them: as long as the column is wide and anchored to both sides."""
    found: list[Group] = []
    for t in through:
        if t.count >= bars or t.width <= 0:
            continue
        wanted = bars / t.width - t.per_m
        bar = next((c.bar for c in site.choices if c.bar >= 0.01), site.choices[-1].bar)
        close = [c for c in site.choices if c.bar == bar and 1 / c.spacing >= wanted * (1 - 1e-9)]
        choice = (
            max(close, key=lambda c: c.spacing)
            if close
            else min((c for c in site.choices if c.bar == bar), key=lambda c: c.spacing)
        )
        anchored = anchorage_at(site.floor, site.standard, t.slab, bar, False)
        axis = Axis(t.angle, float(-t.at[0] * np.sin(t.angle) + t.at[1] * np.cos(t.angle)), ())
        s = float(t.at[0] * np.cos(t.angle) + t.at[1] * np.sin(t.angle))
        half = np.ceil((t.width + 2 * anchored) / STEP) * STEP / 2
        wide = max(t.width, choice.spacing) / 2
        parts = [
            p
            for p in shapely.get_parts(box(axis, s - half, s + half, -wide, wide).intersection(site.region))
            if isinstance(p, Polygon)
        ]
        if parts:
            outline = max(parts, key=lambda p: p.area)
            why = (Why(t.column, 0.0, "", "integrity"),)
            found.append(
                Group("", 0, t.direction, t.angle, choice.bar, choice.spacing, outline, anchored, "designed", False, why)
            )
    return found


@dataclass(frozen=True, slots=True)
class _Bars:
    """Bars of face ``f`` from ``low`` to ``high`` along the axis of a ``strip`` and from ``right`` to ``left`` of it, m, which the cuts ``asking`` (k,)
    ask for; ``anchored`` as of groups."""

    f: int
    strip: int
    choice: Choice
    anchored: float
    low: float
    high: float
    right: float
    left: float
    asking: Ints


def _lengths(site: Site, f: int, own: FaceSteel, cuts: Ints, missing: Array, run: tuple[int, int], base: Array,
             band: float | None = None) -> list[_Bars]:  # fmt: skip
    """The bars of one run: of one length, or of two where that saves steel; as wide as the cuts are, or in a ``band`` about the axis."""
    s, which = site.cuts.s[cuts], cuts[run[0] : run[1] + 1]
    need = missing[run[0] : run[1] + 1]
    peak = int(which[need.argmax()])
    limit = np.inf
    if site.standard.spacing is not None and (base[run[0] : run[1] + 1] <= NOTHING).any():
        limit = float(site.standard.spacing.greatest(own.at.some(which)).limit.min())
    shift = site.standard.anchorage.shift(float(own.at.d[peak])) if site.standard.anchorage is not None else float(own.at.d[peak])

    def one(below: float, most: float) -> tuple[Choice, float, float, float]:
        """Bars for what is missing beyond ``below``, up to ``most`` m2/m."""
        choice = least_for(site.choices, most, limit)
        anchored = anchorage_at(site.floor, site.standard, int(site.slab[peak]), choice.bar, f == 1)
        part = np.minimum(missing - below, most)
        inner = run[0] + np.flatnonzero(part[run[0] : run[1] + 1] > NOTHING)
        low, high = extent(part, s, (int(inner[0]), int(inner[-1])), choice.area, shift, anchored)
        return choice, anchored, low, high

    whole = [one(0.0, float(need.max()))]
    first = least_for(site.choices, float(need.max()) / 2, limit).area
    if first < float(need.max()) - NOTHING:
        two = [one(0.0, first), one(first, float(need.max()) - first)]
        if _mass(two) < TWO_LENGTHS * _mass(whole):
            whole = two
    free = which[own.at.free[which]] if f == 1 else which[:0]
    if len(free):
        # Legs of bars that are bent down at a free edge: EN 1992-1-1, 9.3.1.4.
        leg = 2 * own.at.h[free]
        edge = (float((site.cuts.s[free] - leg).min()), float((site.cuts.s[free] + leg).max()))
        whole = [(c, a, min(low, edge[0]), max(high, edge[1])) for c, a, low, high in whole]
    strip = int(site.cuts.strip[peak])
    if band is None:
        axis = site.layout.axes[site.layout.strips[strip].axis]
        offsets = site.cuts.ends[which] @ np.array([-np.sin(axis.angle), np.cos(axis.angle)]) - axis.offset
        right, left = float(offsets[:, 0].min()), float(offsets[:, 1].max())
    else:
        right, left = -band / 2, band / 2
    return [
        _Bars(f, strip, choice, anchored, low, high, right, left, which[need > NOTHING]) for choice, anchored, low, high in whole
    ]


def _laid(site: Site, bars: Sequence[_Bars]) -> list[Group]:
    """Groups of these bars as far as there is concrete, which an opening or a corner may part; no part that reaches none of the cuts that ask."""
    if not bars:
        return []
    axes = [site.layout.axes[site.layout.strips[b.strip].axis] for b in bars]
    spare = [np.ceil((b.high - b.low) / STEP - 1e-6) * STEP - (b.high - b.low) for b in bars]
    rings = [
        corners(axis, b.low - more / 2, b.high + more / 2, b.right, b.left)
        for b, axis, more in zip(bars, axes, spare, strict=True)
    ]
    parts, of = shapely.get_parts(shapely.intersection(shapely.polygons(np.array(rings)), site.region), return_index=True)
    whole = shapely.get_type_id(parts) == shapely.GeometryType.POLYGON
    parts, of = parts[whole], of[whole]
    asking = [bars[k].asking for k in of.tolist()]
    part = np.repeat(np.arange(len(parts)), [len(a) for a in asking])
    lines = shapely.linestrings(site.cuts.ends[np.concatenate(asking)]) if len(parts) else np.zeros(0)
    met = np.bincount(part[shapely.intersects(lines, parts[part])], minlength=len(parts)) > 0
    return [
        Group(
            "", bars[k].f, site.layout.strips[bars[k].strip].direction, axes[k].angle, bars[k].choice.bar, bars[k].choice.spacing, outline,
            bars[k].anchored, "designed", False,
        )
        for k, outline in zip(of[met].tolist(), parts[met], strict=True)
    ]  # fmt: skip


def why(site: Site, own: FaceSteel, cut: int, band: bool) -> Why:
    """Why a station asks for steel: its combination and its governing provision, of those that gather steel in a ``band`` or of the
    others."""
    asked = {k: float(own.provisions[k][cut]) for k in (own.gathered if band else own.spread)}
    # Of two that ask for the same the first, whatever their last digits.
    most = max(asked.values())
    name = next(k for k, area in asked.items() if area >= most * (1 - 1e-9))
    return Why(
        site.layout.strips[site.cuts.strip[cut]].id,
        round(float(site.cuts.s[cut]), 4),
        site.combinations[name][int(own.elsewhere[name][cut])]
        if name in own.elsewhere
        else site.combinations[""][int(own.combination[cut])],
        name,
    )


def _mass(some: Sequence[tuple[Choice, float, float, float]]) -> float:
    return sum(c.area * (high - low) for c, _, low, high in some)


def marked(groups: Sequence[Group]) -> list[Group]:
    """Groups with marks by face, direction and number, in the order of their places."""
    out = []
    count: dict[tuple[int, str], int] = {}
    for g in sorted(
        groups, key=lambda g: (g.face, g.direction, round(g.outline.centroid.y, 1), round(g.outline.centroid.x, 1), -g.bar)
    ):
        key = (g.face, g.direction)
        count[key] = count.get(key, 0) + 1
        out.append(replace(g, mark=f"{'BT'[g.face]}{g.direction.upper()}{count[key]}"))
    return out
