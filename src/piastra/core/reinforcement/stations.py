"""Required and provided steel at the stations of strips, with every provision that asks for some."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, with_constant
from piastra.core.model import Floor
from piastra.core.reinforcement.derived import About, derived, taken
from piastra.core.reinforcement.groups import Extra
from piastra.core.reinforcement.mats import ASSUMED_BAR, Provided
from piastra.core.reinforcement.places import Bounds, Joints, Where
from piastra.core.reinforcement.worst import Responses, Turns, Worst, turns_of, worst
from piastra.core.standards import Standard
from piastra.core.standards.protocol import Sections
from piastra.core.standards.provision import NOTHING, Pair, Stations
from piastra.core.standards.situations import Acting, all_of
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.tendons.crossings import FaceTendons
from piastra.core.tendons.stations import StationPrestress

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]

SQUARE = 1e-9
"""Bars that resist less twist (m2/m) lie along the strip, or alike in two directions."""
AMONG_GREATEST = 0.8
"""A moment over so much of its strip's greatest counts as one of the greatest, where bars lie closer."""
MOST = 99.0
"""Utilisations are told up to this."""
SIGNS = (1.0, -1.0)
"""Of moments that stretch the bottom and the top face."""
SERVICE_ARM = (1.0, 0.8)
"""Lever arms over d between which those of cracked sections in service lie."""


@dataclass(frozen=True, slots=True)
class FaceSteel:
    """Steel in one face at c stations: what the provisions read (``at``), what each asks for (m2/m by name), the governing
    ``combination`` (c,) of the ultimate ones and that of cracks, ``compression`` (c,) m2/m in the other face, ``over`` (c,) the
    moment over the greatest that is allowed."""

    at: Stations
    provisions: dict[str, Array]
    combination: Ints
    crack_combination: Ints
    compression: Array
    over: Array
    gathered: tuple[str, ...] = ()
    """Provisions whose steel lies in a band about the axis."""
    elsewhere: Mapping[str, Ints] = field(default_factory=dict)
    """Governing combinations (c,) of other design situations, by name, as numbers among those of each."""

    @property
    def spread(self) -> dict[str, Array]:
        """Provisions whose steel lies over the whole strip."""
        return {k: v for k, v in self.provisions.items() if k not in self.gathered}

    @property
    def in_strip(self) -> Array:
        """The greatest of those, m2/m."""
        return np.maximum.reduce(list(self.spread.values()))

    @property
    def in_band(self) -> Array:
        """The greatest of those whose steel lies in a band, m2/m of the band."""
        return np.maximum.reduce([np.zeros_like(self.over), *(self.provisions[k] for k in self.gathered)])

    @property
    def required(self) -> Array:
        """The greatest of the provisions, m2/m."""
        return np.maximum.reduce(list(self.provisions.values()))


@dataclass(frozen=True, slots=True)
class StationSteel:
    """Steel at every cut, faces bottom and top: ``provided`` (2, c) m2/m along the strip, ``in_band`` (2, c) m2/m in the band
    over a column, and the utilisations (2, c): of ``steel``, of the ``spacing`` of bars and, None without a combination in
    service, of ``cracks``."""

    faces: tuple[FaceSteel, FaceSteel]
    provided: Array
    in_band: Array
    steel: Array
    spacing: Array
    cracks: Array | None

    @property
    def utilisation(self) -> Array:
        """The greater of the steel's and the spacing's."""
        return np.maximum(self.steel, self.spacing)


def ratio(required: Array, given: Array) -> Array:
    """Required over provided, 0 where nothing is required, and at most 99 where nothing is provided."""
    return np.where(required > NOTHING, np.minimum(required / np.maximum(given, 1e-12), MOST), 0.0)


def materials(floor: Floor) -> tuple[Ints, tuple[Pair, ...]]:
    """Per slab the number of its pair of concrete and steel, and the pairs, weaker concretes first."""
    concretes = {c.id: c for c in floor.concretes}
    rebars = {r.id: r for r in floor.rebars}
    pairs = sorted({(s.concrete, s.rebar) for s in floor.slabs},
                   key=lambda p: (concretes[p[0]].strength_MPa, rebars[p[1]].yield_MPa, p))  # fmt: skip
    kind = np.array([pairs.index((s.concrete, s.rebar)) for s in floor.slabs], dtype=np.int64)
    return kind, tuple((concretes[c], rebars[r]) for c, r in pairs)


@dataclass(frozen=True, slots=True)
class Laid:
    """What is laid at c stations along their strips, for bottom and top: ``area`` (2, c) m2/m, ``depth`` (2, c) m from the face,
    ``bar`` and ``spacing`` (2, c) m, and ``in_band`` (2, c) m2/m over the middle of the strip. ``askew`` (2, c): what twist bars at an angle to the strip resist of
    themselves over the root of what they give across it, (m2/m)^1/2."""

    area: Array
    depth: Array
    bar: Array
    spacing: Array
    in_band: Array
    askew: Array


def in_middle(layout: Layout, cuts: Cuts, band: Array) -> Flags:
    """Which samples (k,) lie in the ``band`` (c,) m about their strip's axis."""
    samples = cuts.samples
    axes = [layout.axes[s.axis] for s in layout.strips]
    offset = np.array([a.offset for a in axes])[cuts.strip] if len(cuts.strip) else np.zeros(0)
    # The band lies about the axis, whose place on a cut is where its offset is nil.
    x, y = samples.xy.T
    left = -x * np.sin(cuts.angle)[samples.cut] + y * np.cos(cuts.angle)[samples.cut]
    return np.asarray(np.abs(left - offset[samples.cut]) <= np.maximum(band / 2, 1e-9)[samples.cut])


def _mean(cuts: Cuts, values: Array, over: Flags | None = None) -> Array:
    """Means (c,) of what samples have (k,), over the strips' widths or over those of them that count."""
    samples, count = cuts.samples, len(cuts.strip)
    length = samples.length if over is None else samples.length * over
    width = cuts.width if over is None else np.bincount(samples.cut, length, minlength=count)
    return np.asarray(np.bincount(samples.cut, length * values, minlength=count) / np.maximum(width, 1e-9))


def turned(floor: Floor, cuts: Cuts, slab: Ints) -> tuple[Array, Array]:
    """Angle (k,) rad from the bars of each sample's ``slab`` (k,) to its strip, and what of a bar along and across them counts along the strip (2, k)."""
    angle = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab]
    turn = cuts.angle[cuts.samples.cut] - angle
    along = np.stack([np.cos(turn) ** 2, np.sin(turn) ** 2])
    along[along < 1e-9] = 0.0
    return turn, along


def banded(cuts: Cuts, given: Array, area: Array, band: Array, middle: Flags) -> Array:
    """What of the ``given`` (k,) lies in the ``band`` (c,) m about the axis, m2/m; ``area`` (c,) where there is none."""
    reached = np.bincount(cuts.samples.cut, middle.astype(np.float64), minlength=len(band)) > 0
    # A strip that others cut back may not reach its own axis: then the mean of all of it stands for the band.
    return np.where((band > 0) & reached, _mean(cuts, given, middle), area)


@dataclass(frozen=True, slots=True)
class OfMats:
    """What mats alone come to at samples, along their strips in bottom and top, each (2, k): ``area`` m2/m; ``weight`` m2/m by which the ``deep`` m3/m, their
    areas times their depths, become a mean depth; ``level`` m the depth of their near sides; ``thick`` and ``close`` their diameters and number by the metre, m/m
    and 1/m; ``twist`` m2/m what of them resists twisting askew to the strip."""

    area: Array
    weight: Array
    deep: Array
    level: Array
    thick: Array
    close: Array
    twist: Array

    @classmethod
    def along(cls, turn: Array, along: Array, here: Provided) -> OfMats:
        """``turn`` and ``along`` as :func:`turned` gives them, ``here`` what mats give there in the slabs' own directions."""
        askew = -np.sin(turn) * np.cos(turn)
        askew[np.abs(askew) < 1e-9] = 0.0
        found = cls(*(np.empty((2, len(turn))) for _ in range(7)))
        for f, rows in enumerate(((0, 1), (2, 3))):
            areas = [np.maximum(here.area[r], 1e-9) for r in rows]
            # Bars of a group lie beside those of the mats: their near sides are level.
            radius = [here.radius(r) for r in rows]
            found.area[f] = sum(along[k] * here.area[r] for k, r in enumerate(rows))
            found.weight[f] = sum(along[k] * areas[k] for k in (0, 1))
            found.deep[f] = sum(along[k] * areas[k] * here.depth[r] for k, r in enumerate(rows))
            found.level[f] = sum(along[k] * (here.depth[r] - radius[k]) for k, r in enumerate(rows)) / along.sum(axis=0)
            found.thick[f] = sum(along[k] * here.diameters[r] for k, r in enumerate(rows))
            found.close[f] = sum(along[k] * here.count[r] for k, r in enumerate(rows))
            found.twist[f] = askew * (here.area[rows[0]] - here.area[rows[1]])
        return found


def laid(cuts: Cuts, mats: OfMats, along: Array, here: Provided, more: Extra, band: Array, middle: Flags) -> Laid:
    """Bars along and askew to the strips: a bar at an angle counts with the square of its cosine (Johansen 1962).

    ``along`` as :func:`turned` gives it, ``here`` what the ``mats`` give there in the slabs' own directions, ``more`` what groups give along
    the strips, ``band`` (c,) m the width about the axis in which bars are gathered, in the ``middle`` (k,) of which samples lie.
    """
    count = len(cuts.strip)
    mean = partial(_mean, cuts)
    area, depth, bar, spacing, in_band, askew = (np.zeros((2, count)) for _ in range(6))
    for f in (0, 1):
        twisted = np.abs(mats.twist[f] + more.twist[f])
        if (twisted > SQUARE).any():
            across = along[1] * here.area[2 * f] + along[0] * here.area[2 * f + 1] + more.across[f]
            askew[f] = mean(twisted) / np.sqrt(np.maximum(mean(across), 1e-12))
        given = mats.area[f] + more.area[f]
        deep = mats.deep[f] + more.area[f] * mats.level[f] + more.radii[f]
        area[f] = mean(given)
        depth[f] = mean(deep) / np.maximum(mean(mats.weight[f] + more.area[f]), 1e-12)
        bar[f] = np.where(
            area[f] > 1e-9, 4 / np.pi * area[f] / np.maximum(mean(mats.thick[f] + more.diameters[f]), 1e-9), ASSUMED_BAR
        )
        close = mean(mats.close[f] + more.count[f], given > 1e-9)
        spacing[f] = np.where(area[f] > 1e-9, 1 / np.maximum(close, 1e-9), 1e3)
        in_band[f] = banded(cuts, given, area[f], band, middle)
    return Laid(area, depth, bar, spacing, in_band, askew)


def responses_of(cuts: Cuts, sign: float, d: Array, some: slice = slice(None), tendons: FaceTendons | None = None) -> Responses:
    """Unit responses at some of the cuts, by the metre of their widths; ``d`` (c,) of all. With ``tendons`` their force is one unit
    more, a compression of the section where it lies."""
    width = np.maximum(cuts.width[some], 1e-9)[:, None]
    forces = cuts.forces[some]
    arm = d[some] - cuts.h[some] / 2
    moment, twist, axial = sign * forces[:, 0] / width, cuts.twists[some] / width[:, :, None], forces[:, 3] / width
    if tendons is not None:
        F = tendons.force[some]
        moment = np.hstack([moment, -(F * tendons.offset[some])[:, None]])
        axial = np.hstack([axial, -F[:, None]])
        twist = np.concatenate([twist, np.zeros((*twist.shape[:2], 1))], axis=2)
    return Responses(moment, twist, axial, arm)


def ultimate_pair(found: Responses, h: Array, d: Array, d2: Array, standard: Standard, kind: Ints, pairs: Sequence[Pair],
                  combinations: Sequence[Factors], turns: Turns | None = None) -> Worst:  # fmt: skip
    """The worst pair for strength at k sections; ``turns`` of their twists, if they are known."""
    assert standard.flexure is not None
    count = len(h)
    m, n, m_most = np.zeros(count), np.zeros(count), np.zeros(count)
    chosen = np.zeros(count, dtype=np.int64)
    for k, pair in enumerate(pairs):
        mine = kind == k
        if not mine.any():
            continue
        own = _some(found, mine)
        sections = Sections(h[mine], d[mine], d2[mine], *pair)
        slopes = standard.flexure.slopes(sections)

        def tension(a: Array, b: Array, which: Ints, mine: Ints = np.flatnonzero(mine), pair: Pair = pair) -> Array:
            number = mine[which]
            return standard.flexure.design(a, b, Sections(h[number], d[number], d2[number], *pair)).tension  # type: ignore[union-attr]

        w = worst(own, combinations, slopes.long, slopes.short, tension, 0.0, turns.some(mine) if turns is not None else None)
        m[mine], n[mine], chosen[mine], m_most[mine] = w.m, w.n, w.combination, w.m_most
    return Worst(m, n, chosen, m_most)


def service_pair(found: Responses, d: Array, combinations: Sequence[Factors], turns: Turns | None = None) -> Worst:
    """The worst pair for the stress of the steel in service, by a lever arm of 0.9 d; ``turns`` of twists, if they are known."""
    if not combinations:
        none = np.zeros(len(d))
        return Worst(none, none, np.zeros(len(d), dtype=np.int64), none)
    arm = 0.9 * d
    return worst(found, combinations, SERVICE_ARM[0] * d, SERVICE_ARM[1] * d, lambda m, n, which: m / arm[which] + n, turns=turns)


def _some(found: Responses, mine: Flags) -> Responses:
    if mine.all():
        return found
    return Responses(found.moment[mine], found.twist[mine], found.axial[mine], found.arm[mine])


@dataclass(slots=True)
class _Found:
    """What one face's stations came to with bars ``d`` and ``d2`` (c,) m deep: the worst pairs of each situation, and that in service."""

    d: Array
    d2: Array
    worsts: list[Worst]
    served: Worst


@dataclass(frozen=True, slots=True)
class _Asked:
    """What provisions ask for (m2/m by name) at one face's stations."""

    at: Stations
    areas: dict[str, Array]


class Tried:
    """What was found last for each face: another way of laying bars on the same floor asks for much of it again. It is no part of a result: without it
    all is as it is with it."""

    def __init__(self, last: Tried | None = None) -> None:
        self.found: list[_Found | None] = list(last.found) if last else [None, None]
        self.asked: list[_Asked | None] = list(last.asked) if last else [None, None]

    @property
    def bytes_held(self) -> int:
        """About how much memory it takes: sixty numbers a station and face."""
        return sum(500 * len(f.d) for f in self.found if f is not None)


class StationDesign:
    """Steel at the stations, for one way after another of laying bars: what does not hang on them is found once, and a station's worst pairs and
    demands anew only where its bars lie otherwise."""

    def __init__(
        self, floor: Floor, standard: Standard, layout: Layout, cuts: Cuts, slab_of: Ints, here: Provided, situations: Sequence[Acting],
        service: Sequence[Factors], bounds: Bounds, joints: Joints, where: Where, about: About, prestress: StationPrestress | None = None,
        last: Tried | None = None,
    ) -> None:  # fmt: skip
        """``slab_of`` (e,) the slab of each element, ``here`` what mats give at the samples. The first of the ``situations`` is that of the finished
        floor. ``last``: what was found with all of this but for ``here`` and ``joints``."""
        self.floor, self.standard, self.layout, self.cuts = floor, standard, layout, cuts
        self.here, self.situations, self.service, self.prestress = here, situations, service, prestress
        slab = slab_of[cuts.samples.element]
        self.turn, self.along = turned(floor, cuts, slab)
        pair, self.pairs = materials(floor)
        count = len(cuts.strip)
        # The weaker concrete of those that a station crosses.
        self.kind = np.full(count, len(self.pairs), dtype=np.int64)
        np.minimum.at(self.kind, cuts.samples.cut, pair[slab])
        # Beams are designed as such, not by the metre of a slab.
        self.slab_own = np.array([not s.beam for s in layout.strips], dtype=float)[cuts.strip] if count else np.zeros(0)
        self.where, self.about = where, about
        self.taken = taken(layout, cuts, bounds, joints, all_of(situations), where)
        self.mats = OfMats.along(self.turn, self.along, here)
        self.middle = in_middle(layout, cuts, where.band)
        self.turns: list[Turns] = []
        self.turns_served: Turns | None = None
        self.tendons = [prestress.at.faces[f] if prestress else None for f in (0, 1)]
        plain = [responses_of(cuts, sign, cuts.h) for sign in SIGNS]
        self.responses = [
            (plain[f], responses_of(cuts, SIGNS[f], cuts.h, tendons=t) if t else plain[f]) for f, t in enumerate(self.tendons)
        ]
        self.tried = Tried(last)

    def in_band(self, more: Extra, band: Array) -> Array:
        """Top bars (c,) m2/m in the ``band`` (c,) m about the axis, over the whole strip where there is none."""
        given = self.mats.area[1] + more.area[1]
        middle = self.middle if np.array_equal(band, self.where.band) else in_middle(self.layout, self.cuts, band)
        return banded(self.cuts, given, _mean(self.cuts, given), band, middle)

    def _combinations(self, a: Acting) -> Sequence[Factors]:
        """Of a situation, with the force of tendons where there are some."""
        return [with_constant(c) for c in a.combinations] if self.prestress else a.combinations

    def _pairs(self, d: Array, d2: Array) -> list[_Found]:
        """The worst pairs of both faces, whose bars lie ``d`` (2, c) m deep."""
        lasts, h = self.tried.found, self.cuts.h
        new = np.any([np.ones(len(h), dtype=bool) if o is None else (x != o.d) | (y != o.d2)
                      for x, y, o in zip(d, d2, lasts, strict=True)], axis=0)  # fmt: skip
        served, pressed = (
            [replace(_some(self.responses[f][k], new), arm=d[f, new] - h[new] / 2) for f in (0, 1)] for k in (0, 1)
        )
        worsts: tuple[list[Worst], list[Worst]] = ([], [])
        if not self.turns:
            # Twists are the same for both faces, and however deep bars lie.
            self.turns = [turns_of(self.responses[0][1], self._combinations(a)) for a in self.situations]
            self.turns_served = turns_of(self.responses[0][0], self.service) if self.service else None
        for a, all_turns in zip(self.situations, self.turns, strict=True):
            combinations, turns = self._combinations(a), all_turns.some(new)
            for f in (0, 1):
                worsts[f].append(
                    ultimate_pair(
                        pressed[f],
                        h[new],
                        d[f, new],
                        d2[f, new],
                        a.standard,
                        self.kind[new],
                        a.pairs(self.pairs),
                        combinations,
                        turns,
                    )
                )
        turns_served = self.turns_served.some(new) if self.turns_served is not None else None
        for f, last in enumerate(lasts):
            found = _Found(d[f], d2[f], worsts[f], service_pair(served[f], d[f, new], self.service, turns_served))
            if last is not None:
                found.worsts = [_merged(old, w, new) for old, w in zip(last.worsts, found.worsts, strict=True)]
                found.served = _merged(last.served, found.served, new)
            self.tried.found[f] = found
        return [found for found in self.tried.found if found is not None]

    def _asked(self, f: int, at: Stations) -> dict[str, Array]:
        """What the provisions that look at one station alone ask for in face ``f``."""
        last = self.tried.asked[f]
        new = at.unlike(last.at) if last is not None else np.ones(len(at.h), dtype=bool)
        some = at if new.all() else at.some(new)
        areas: dict[str, Array] = {}
        for p in self.standard.provisions:
            if not p.derived:
                areas[p.name] = last.areas[p.name].copy() if last is not None else np.zeros(len(at.h))
                areas[p.name][new] = p.demand(some).area * self.slab_own[new]
        self.tried.asked[f] = _Asked(at, areas)
        return areas

    def steel(self, more: Extra) -> StationSteel:
        """With what groups of bars give beside the mats."""
        cuts, standard, situations, where, slab_own = self.cuts, self.standard, self.situations, self.where, self.slab_own
        pairs, kind, prestress, count = self.pairs, self.kind, self.prestress, len(self.cuts.strip)
        given = laid(cuts, self.mats, self.along, self.here, more, where.band, self.middle)
        gathered = tuple(p.name for p in standard.provisions if p.gathers)
        made: list[FaceSteel] = []
        base: list[dict[str, Array]] = []
        depths, opposite = np.maximum(cuts.h - given.depth, 0.02), given.depth[::-1].copy()
        pairs_found = self._pairs(depths, opposite)
        for f, tendons in enumerate(self.tendons):
            d, d2, worsts, s = depths[f], opposite[f], pairs_found[f].worsts, pairs_found[f].served
            u, elsewhere = worsts[0], {a.situation.name: w for a, w in zip(situations, worsts, strict=True) if a.situation}
            forces = {f"{q}_{name}": getattr(w, q) for name, w in elsewhere.items() for q in ("m", "n")}
            at = Stations.of(
                pairs, count, top=np.full(count, f == 1), h=cuts.h, d=d, d2=d2, cover=np.maximum(given.depth[f] - given.bar[f] / 2, 0.0),
                width=cuts.width, kind=kind, m=u.m, n=u.n, **forces, m_service=s.m, n_service=s.n, given=given.area[f], bar=given.bar[f],
                spacing=given.spacing[f], greatest=_among_greatest(cuts.strip, u.m), column=where.column, inner=where.inner, free=where.free,
                end=where.end, simple=where.simple, band=where.band,
            )  # fmt: skip
            if prestress and tendons:
                at = replace(
                    at,
                    tendon=tendons.force,
                    offset=tendons.offset,
                    fibre=prestress.fibre[f],
                    pull=prestress.pull[f],
                    pressed=prestress.pressed[f],
                )
            base.append(self._asked(f, at))
            compression, over = np.zeros(count), np.zeros(count)
            for a, w in zip(situations, worsts, strict=True):
                for k, (concrete, rebar) in enumerate(a.pairs(pairs)):
                    mine = kind == k
                    if mine.any():
                        sections = Sections(cuts.h[mine], d[mine], d2[mine], concrete, rebar)
                        steel = a.standard.flexure.design(w.m_most[mine], np.zeros(int(mine.sum())), sections)  # type: ignore[union-attr]
                        compression[mine] = np.maximum(compression[mine], steel.compression * slab_own[mine])
                        over[mine] = np.maximum(over[mine], steel.over * slab_own[mine])
            chosen: dict[str, Ints] = {name: w.combination for name, w in elsewhere.items()}
            made.append(FaceSteel(at, {}, u.combination, s.combination, compression, over, gathered, chosen))
        first = [np.maximum.reduce(list(b.values())) for b in base]
        faces = []
        for f in (0, 1):
            bent = np.maximum.reduce([base[f][s] for s in ("strength", *(a.situation.name for a in situations if a.situation))])
            at = replace(made[f].at, askew=given.askew[f], bent=bent)
            at = derived(at, f, first, self.layout, cuts, self.taken, where, self.about)
            demands = dict(base[f])
            for p in standard.provisions:
                if p.derived:
                    demands[p.name] = p.demand(at).area * slab_own
            faces.append(replace(made[f], at=at, provisions=demands))
        return _compared(standard, (faces[0], faces[1]), given, slab_own, bool(self.service))


def _merged(old: Worst, found: Worst, new: Flags) -> Worst:
    """The ``old`` pairs with those ``found`` at the ``new`` (c,) stations."""
    out = [getattr(old, name).copy() for name in ("m", "n", "combination", "m_most")]
    for values, name in zip(out, ("m", "n", "combination", "m_most"), strict=True):
        values[new] = getattr(found, name)
    return Worst(*out)


def _compared(
    standard: Standard, faces: tuple[FaceSteel, FaceSteel], given: Laid, slab_own: Array, service: bool
) -> StationSteel:
    steel, spacing, cracks = (np.zeros_like(given.area) for _ in range(3))
    for f, face in enumerate(faces):
        rest = face.in_strip
        steel[f] = np.maximum(ratio(rest, given.area[f]), ratio(face.in_band, given.in_band[f]))
        # Compression steel has to be there as well: the other face's bars give it. What none may give is told by the moment.
        steel[f] = np.maximum(np.maximum(steel[f], ratio(face.compression, given.area[1 - f])), np.minimum(face.over, MOST))
        if standard.spacing is not None:
            limit = standard.spacing.greatest(face.at).limit
            least: Array = face.provisions.get("least", rest)
            stretched = least > NOTHING
            spacing[f] = np.where(stretched & (given.area[f] > NOTHING), np.minimum(given.spacing[f] / limit, MOST), 0.0)
        if standard.cracking is not None and service:
            cracks[f] = standard.cracking.check(face.at).use * slab_own
    checked = standard.cracking is not None and service
    return StationSteel(faces, given.area, given.in_band, steel, spacing, cracks if checked else None)


def _among_greatest(strip: Ints, m: Array) -> Flags:
    greatest = np.zeros(int(strip.max()) + 1 if len(strip) else 0)
    np.maximum.at(greatest, strip, m)
    return (m > 0) & (m >= AMONG_GREATEST * greatest[strip])
