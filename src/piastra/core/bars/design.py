"""From required steel to groups of bars: what mats and kept groups leave over, along each axis and in each face."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.bars.choices import Choice, Choices
from piastra.core.bars.lengths import Row, lengths, runs
from piastra.core.geometry.axes import Axis
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group, Spots, Why, anchorage_at
from piastra.core.reinforcement.stations import FaceSteel, StationSteel, in_middle
from piastra.core.reinforcement.through import Through
from piastra.core.standards import Standard
from piastra.core.standards.provision import NOTHING
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.strips.territories import box, corners

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Polygons = npt.NDArray[np.object_]

STEP = 0.1
"""Lengths of bars are rounded up to this, m."""
PLACED = 0.01
"""The middles of bars lie at multiples of this from that of the stations along their axis, m: a site sets them out by no finer measure, and what changes
demands by a hair leaves them where they are."""
SPARE = 1.005
"""So much more than is asked for is designed, as other bars lie at other depths."""


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
    choices: Choices
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


def asked_of(steel: StationSteel) -> Array:
    """What provisions ask for (2, c) m2/m, but for the bands over columns; with compression steel."""
    return np.stack([np.maximum(own.in_strip, steel.faces[1 - f].compression) for f, own in enumerate(steel.faces)])


def closest(site: Site, steel: StationSteel) -> Array:
    """Greatest spacing (2, c) m that bars may have: where the face is stretched, and where cracks are kept fine by it; inf elsewhere."""
    rules, slab = site.standard, np.array([not s.beam for s in site.layout.strips])[site.cuts.strip]
    out = np.full_like(steel.provided, np.inf)
    for f, own in enumerate(steel.faces):
        if rules.spacing is not None:
            stretched = own.provisions.get("least", own.in_strip) > NOTHING
            out[f, stretched] = rules.spacing.greatest(own.at).limit[stretched]
        fine = rules.cracking.closest(own.at) if rules.cracking is not None else None
        if fine is not None:
            out[f, slab] = np.minimum(out[f], fine)[slab]
    return out


def apart(site: Site, steel: StationSteel) -> Array:
    """Greatest spacing (2, c) m of bars beside those that are there, with which all of them together lie as close as they must; inf where they do."""
    there = np.stack([own.at.spacing for own in steel.faces])
    with np.errstate(divide="ignore"):
        return np.asarray(1 / np.maximum(1 / closest(site, steel) - 1 / there, 0.0))


def thinnest(site: Site, spacing: Array) -> Array:
    """Area (...,) m2/m of the thinnest bars at a ``spacing`` (...,) m."""
    return np.asarray(np.pi * min(c.bar for c in site.choices.all) ** 2 / 4 / spacing)


def design(site: Site, steel: StationSteel, asked: Array, base: Array, near: Array) -> list[Group]:
    """Groups that give what is ``asked`` for (2, c) m2/m beyond the ``base`` (2, c), and lie as ``near`` (2, c) m to each other as they must."""
    return _laid(
        site, [b for f, own in enumerate(steel.faces) for b in _along(site, f, own, site.rows, asked[f], base[f], near[f])]
    )


def extra_volume(site: Site, f: int, own: FaceSteel, rows: Sequence[Ints], asked: Array, base: Array, near: Array) -> float:
    """m3 of the bars that in face ``f`` give what is ``asked`` for (c,) m2/m beyond the ``base`` (c,) along these rows, as ``near`` (c,) m as they must be."""
    bars = _along(site, f, own, rows, asked, base, near)
    if not bars:
        return 0.0
    outlines, of = _outlines(site, bars)
    return float(np.array([b.choice.area for b in bars])[of] @ shapely.area(outlines))


def _along(site: Site, f: int, own: FaceSteel, rows: Sequence[Ints], asked: Array, base: Array, near: Array) -> list[_Bars]:
    missing = np.maximum(SPARE * asked - base, np.where(near < np.inf, thinnest(site, near), -np.inf))
    found: list[_Bars] = []
    for cuts in rows:
        for run in runs(missing[cuts], site.cuts.s[cuts], site.cuts.strip[cuts]):
            found += _lengths(site, f, own, cuts, missing[cuts], run, float(near[cuts[run[0] : run[1] + 1]].min()) * (1 - 1e-9))
    return found


def design_bands(site: Site, steel: StationSteel, asked: Array, there: Array) -> list[Group]:
    """Groups that gather top bars over columns where what is ``asked`` for there (c,) m2/m is more than what is ``there`` (c,)."""
    own, samples = steel.faces[1], site.cuts.samples
    missing = SPARE * asked - there
    middle = samples.length * in_middle(site.layout, site.cuts, own.at.band)
    narrow = np.bincount(samples.cut, middle, minlength=len(missing)) > 0
    found: list[_Bars] = []
    for cuts in site.rows:
        need = np.where(own.at.band[cuts] > 0, missing[cuts], -1.0)
        for run in runs(need, site.cuts.s[cuts], site.cuts.strip[cuts]):
            which = cuts[run[0] : run[1] + 1]
            # Where a strip lies beside the band about its axis, its bars count over its width.
            width = float(own.at.band[which].max()) if narrow[which[need[run[0] : run[1] + 1] > NOTHING]].all() else None
            found += _lengths(site, 1, own, cuts, need, run, np.inf, width)
    return _laid(site, found)


def design_through(site: Site, through: Sequence[Through], bars: int) -> list[Group]:
    """Bottom bars through columns that have fewer than ``bars`` of them: as long as the column is wide and anchored to both sides."""
    found: list[Group] = []
    for t in through:
        if t.count >= bars or t.width <= 0:
            continue
        wanted = bars / t.width - t.per_m
        bar = next((c.bar for c in site.choices.all if c.bar >= 0.01), site.choices.all[-1].bar)
        close = [c for c in site.choices.all if c.bar == bar and 1 / c.spacing >= wanted * (1 - 1e-9)]
        choice = (
            max(close, key=lambda c: c.spacing)
            if close
            else min((c for c in site.choices.all if c.bar == bar), key=lambda c: c.spacing)
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


def _lengths(site: Site, f: int, own: FaceSteel, cuts: Ints, missing: Array, run: tuple[int, int], limit: float,
             band: float | None = None) -> list[_Bars]:  # fmt: skip
    """The bars of one run, at most ``limit`` m apart and each as wide as the cuts that they are for, or in a ``band`` about the axis."""
    out = []
    for bars in lengths(_row(site, f, own, cuts), site.choices, missing, run, limit):
        which, need = cuts[bars.first : bars.last + 1], missing[bars.first : bars.last + 1]
        low, high = bars.low, bars.high
        free = which[own.at.free[which]] if f == 1 else which[:0]
        if len(free):
            # Legs of bars that are bent down at a free edge: EN 1992-1-1, 9.3.1.4.
            leg = 2 * own.at.h[free]
            low, high = min(low, float((site.cuts.s[free] - leg).min())), max(high, float((site.cuts.s[free] + leg).max()))
        strip = int(site.cuts.strip[which[need.argmax()]])
        right, left = (-band / 2, band / 2) if band is not None else (0.0, 0.0)
        if band is None:
            axis = site.layout.axes[site.layout.strips[strip].axis]
            offsets = site.cuts.ends[which] @ np.array([-np.sin(axis.angle), np.cos(axis.angle)]) - axis.offset
            right, left = float(offsets[:, 0].min()), float(offsets[:, 1].max())
        out.append(_Bars(f, strip, bars.choice, bars.anchored, low, high, right, left, which[need > NOTHING]))
    return out


def _row(site: Site, f: int, own: FaceSteel, cuts: Ints) -> Row:
    """The stations of these cuts, as bars of a face are laid along them."""
    rule = site.standard.anchorage

    def shift(k: int) -> float:
        d = float(own.at.d[cuts[k]])
        return rule.shift(d) if rule is not None else d

    def anchored(k: int, bar: float) -> float:
        return anchorage_at(site.floor, site.standard, int(site.slab[cuts[k]]), bar, f == 1)

    return Row(site.cuts.s[cuts], site.cuts.strip[cuts], shift, anchored)


def _laid(site: Site, bars: Sequence[_Bars]) -> list[Group]:
    """Groups of these bars."""
    if not bars:
        return []
    outlines, of = _outlines(site, bars)
    return [
        Group(
            "", b.f, site.layout.strips[b.strip].direction, site.layout.axes[site.layout.strips[b.strip].axis].angle, b.choice.bar, b.choice.spacing,
            outline, b.anchored, "designed", False,
        )
        for b, outline in zip([bars[k] for k in of.tolist()], outlines, strict=True)
    ]  # fmt: skip


def _outlines(site: Site, bars: Sequence[_Bars]) -> tuple[Polygons, Ints]:
    """Where these bars lie (k,) as far as there is concrete, which an opening or a corner may part, with the number (k,) of the bars that each part is of; no part
    that reaches none of the cuts that ask."""
    number = np.array([strip.axis for strip in site.layout.strips])
    along = number[site.cuts.strip]
    mine = number[[b.strip for b in bars]]
    middles = {a: (site.cuts.s[along == a].min() + site.cuts.s[along == a].max()) / 2 for a in np.unique(mine).tolist()}
    datum, low, high = (
        np.array([middles[a] for a in mine.tolist()]),
        np.array([b.low for b in bars]),
        np.array([b.high for b in bars]),
    )
    middle = datum + np.round(((low + high) / 2 - datum) / PLACED) * PLACED
    half = np.ceil(2 * np.maximum(middle - low, high - middle) / STEP - 1e-6) * STEP / 2
    rings = [
        corners(site.layout.axes[a], at - reach, at + reach, b.right, b.left)
        for a, at, reach, b in zip(mine.tolist(), middle.tolist(), half.tolist(), bars, strict=True)
    ]
    parts, of = shapely.get_parts(shapely.intersection(shapely.polygons(np.array(rings)), site.region), return_index=True)
    whole = shapely.get_type_id(parts) == shapely.GeometryType.POLYGON
    parts, of = parts[whole], of[whole]
    asking = [bars[k].asking for k in of.tolist()]
    part = np.repeat(np.arange(len(parts)), [len(a) for a in asking])
    lines = shapely.linestrings(site.cuts.ends[np.concatenate(asking)]) if len(parts) else np.zeros(0)
    met = np.bincount(part[shapely.intersects(lines, parts[part])], minlength=len(parts)) > 0
    return parts[met], of[met]


def why(site: Site, own: FaceSteel, cut: int, band: bool, area: bool = True) -> Why:
    """Why a station asks for steel: its combination and its governing provision, of those that gather steel in a ``band`` or of the
    others; the spacing of bars where it is not their ``area``."""
    strip, s = site.layout.strips[site.cuts.strip[cut]].id, round(float(site.cuts.s[cut]), 4)
    if not area:
        return Why(strip, s, "", "spacing")
    asked = {k: float(own.provisions[k][cut]) for k in (own.gathered if band else own.spread)}
    # Of two that ask for the same the first, whatever their last digits.
    most = max(asked.values())
    name = next(k for k, area in asked.items() if area >= most * (1 - 1e-9))
    return Why(
        strip,
        s,
        site.combinations[name][int(own.elsewhere[name][cut])]
        if name in own.elsewhere
        else site.combinations[""][int(own.combination[cut])],
        name,
    )


def marked(groups: Sequence[Group], taken: Collection[str]) -> list[Group]:
    """Groups with marks by face, direction and number, in the order of their places; none that is ``taken``: a mark that names two kinds of bars is laid
    wrongly."""
    out = []
    count: dict[tuple[int, str], int] = {}
    middles = shapely.get_coordinates(shapely.centroid(np.array([g.outline for g in groups], dtype=object))).tolist()
    places = [(g.face, g.direction, round(y, 1), round(x, 1), -g.bar) for g, (x, y) in zip(groups, middles, strict=True)]
    for k in sorted(range(len(groups)), key=places.__getitem__):
        g = groups[k]
        key = (g.face, g.direction)
        names = (f"{'BT'[g.face]}{g.direction.upper()}{n}" for n in itertools.count(count.get(key, 0) + 1))
        mark = next(name for name in names if name not in taken)
        count[key] = int(mark[2:])
        out.append(replace(g, mark=mark))
    return out
