"""Bars chosen for beams: the diameter of each line of spans that weighs least, fits, and keeps cracks within their limit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.beams.curtailment import (
    LAYERS,
    Laid,
    Line,
    Piece,
    across,
    curtailed,
    fitted,
    lines_of,
    lying,
    shifted,
    volume_of,
)
from piastra.core.beams.sections import BeamSections
from piastra.core.model import Floor
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards import Standard
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ROUNDS = 8
"""So often bars are added where cracks are too wide."""
MORE = 1.3
"""No more at a time than so many times what is there."""
MOST = 99.0


@dataclass(frozen=True, slots=True)
class Needs:
    """Bars that one face's stations (k,) ask for, m2, at the depth that the design measured with: by their ``own`` moment and torsion, by the envelope ``shifted``
    along the beam, by unintended ``restraint`` at the beam's ends, and in a fire beside supports (``burning``)."""

    own: Array
    shifted: Array
    restraint: Array
    burning: Array

    @property
    def most(self) -> Array:
        """(k,) m2."""
        return np.maximum.reduce([self.own, self.shifted, self.restraint, self.burning])


@dataclass(frozen=True, slots=True)
class FaceBars:
    """Bars of one face at k stations: ``area`` (k,) m2 as far as they are developed, diameter ``bar`` (k,) m, how many lie ``beside`` (k,) each other,
    how much ``further`` (k,) m from the face than the design measured; the ``needs``, the factor ``deeper`` (k,) by which these grow, and the ``use`` (k,)."""

    area: Array
    bar: Array
    beside: Array
    further: Array
    needs: Needs
    deeper: Array
    use: Array
    pieces: tuple[Piece, ...]
    laid: dict[int, Laid]
    """Most of the bars of each span, by the number of its strip."""


@dataclass(frozen=True, slots=True)
class Site:
    """Where bars are laid: ``cover`` m, effective depths ``d`` (2, k) m, number of the ``strip`` of each station, of which concrete and steel
    its ``kind`` (k,) is."""

    floor: Floor
    standard: Standard
    layout: Layout
    cuts: Cuts
    sections: BeamSections
    cover: float
    d: tuple[Array, Array]
    kind: Ints
    materials: Sequence[tuple[Concrete, Rebar]]

    @property
    def strip(self) -> Ints:
        """(k,)."""
        return np.asarray(self.cuts.strip[self.sections.cuts])


Cracks = Callable[[FaceBars], Array]
"""Utilisation (k,) of the width of cracks."""


def needs_of(site: Site, face: int, own: Array, along: Array, bottom: Array, shift: Array) -> Needs:
    """What a face asks for: its ``own`` (k,) m2 for moments, half of the bars ``along`` (k,) m2 for torsion; ``bottom`` (k,) m2 what the lower face asks for,
    ``shift`` (k,) m that of the envelope."""
    rules, fire = site.standard.beams, site.standard.fire
    assert rules is not None
    moved, restraint, burning = own.copy(), np.zeros_like(own), np.zeros_like(own)
    for line in lines_of(site.layout, site.cuts, site.sections.cuts):
        moved[line.stations] = shifted(own[line.stations], line.s, shift[line.stations])
    if face == 1:
        for number in np.unique(site.strip).tolist():
            mine, strip = np.flatnonzero(site.strip == number), site.layout.strips[number]
            s = site.cuts.s[site.sections.cuts[mine]]
            for end, hold in zip((strip.start, strip.end), strip.holds, strict=True):
                if hold is None:
                    continue
                away, near = np.abs(s - end), int(mine[np.abs(s - end).argmin()])
                if hold.last and not strip.cantilever:
                    restraint[near] = rules.restraint * float(bottom[mine].max())
                share = (
                    fire.kept_beside(site.floor.fire, away / strip.length)
                    if fire is not None and site.floor.fire is not None
                    else None
                )
                if share is not None and not hold.last:
                    burning[mine] = np.maximum(burning[mine], share * own[near])
    return Needs(own + along / 2, moved + along / 2, restraint, burning)


@dataclass(frozen=True, slots=True)
class _OnLine:
    """Bars of one diameter along one line: at its stations (n,) what :class:`FaceBars` tells, its ``pieces`` and spans."""

    line: Line
    bar: float
    area: Array
    beside: Array
    further: Array
    deeper: Array
    pieces: tuple[Piece, ...]
    laid: dict[int, Laid]

    @property
    def fit(self) -> bool:
        return all(own.fit for own in self.laid.values())


def lay(site: Site, face: int, needs: Needs, cracks: Cracks | None) -> FaceBars:
    """Bars for the ``needs``: of each line the diameter whose bars fit, whose cracks are narrow enough, and which weighs least. Where bars that fit cannot keep
    cracks narrow they do for strength, and the check of cracks tells."""
    lines = lines_of(site.layout, site.cuts, site.sections.cuts)
    best: list[tuple[tuple[int, bool, float], _OnLine] | None] = [None] * len(lines)
    for mm in site.floor.bar_sizes_mm:
        wanted = needs.most
        now = [_of_line(site, face, line, wanted, mm / 1e3) for line in lines]
        use = _cracked(site, needs, now, cracks)
        wide = {k for k, one in enumerate(now) if one.fit and (use[one.line.stations] > 1).any()}
        for _ in range(ROUNDS):
            if not wide:
                break
            joined = _joined(needs, now)
            more = joined.area / joined.deeper * np.minimum(use, MORE) * (1 + 1e-3)
            wanted = np.where(use > 1, np.maximum(wanted, more), wanted)
            tried = [_of_line(site, face, one.line, wanted, mm / 1e3) if k in wide else one for k, one in enumerate(now)]
            found = _cracked(site, needs, tried, cracks)
            for k in sorted(wide):
                at = lines[k].stations
                if tried[k].fit:
                    now[k], use[at] = tried[k], found[at]
                if not tried[k].fit or not (use[at] > 1).any():
                    wide.remove(k)
        for k, one in enumerate(now):
            # Of bars that fit nowhere those with the fewest layers come nearest.
            layers = 0 if one.fit else max(own.layers for own in one.laid.values())
            merit = layers, bool((use[one.line.stations] > 1).any()), volume_of(one.pieces)
            known = best[k]
            if known is None or merit < known[0]:
                best[k] = merit, one
    return _joined(needs, [found[1] for found in best if found is not None])


def _cracked(site: Site, needs: Needs, found: Sequence[_OnLine], cracks: Cracks | None) -> Array:
    return cracks(_joined(needs, found)) if cracks is not None else np.zeros(len(needs.own))


def _joined(needs: Needs, found: Sequence[_OnLine]) -> FaceBars:
    """Of all lines."""
    count = len(needs.own)
    area, bar, beside = np.zeros(count), np.zeros(count), np.ones(count)
    further, deeper, fits = np.zeros(count), np.ones(count), np.ones(count, dtype=bool)
    laid: dict[int, Laid] = {}
    for one in found:
        at = one.line.stations
        area[at], bar[at], beside[at], further[at], deeper[at] = one.area, one.bar, one.beside, one.further, one.deeper
        fits[at] = one.fit
        laid.update(one.laid)
    use = np.where(needs.most > 0, np.minimum(needs.most * deeper / np.maximum(area, 1e-12), MOST), 0.0)
    pieces = tuple(p for one in found for p in one.pieces)
    return FaceBars(area, bar, beside, further, needs, deeper, np.where(fits, use, MOST), pieces, laid)


def _of_line(site: Site, face: int, line: Line, wanted: Array, bar: float) -> _OnLine:
    """Bars of one diameter along a line for what is ``wanted`` (k,) m2 at the measured depth."""
    rules, anchorage, one = site.standard.beams, site.standard.anchorage, np.pi * bar**2 / 4
    assert rules is not None
    mine, strip = line.stations, site.strip[line.stations]
    web, H = float(site.sections.b_w[mine[0]]), float(site.sections.H[mine].max())
    d = float(site.d[face][mine].min())
    concrete, rebar = site.materials[int(site.kind[mine[0]])]
    anchored = anchorage.length(bar, H, face == 1, concrete, rebar) if anchorage is not None else 40 * bar
    lap = anchorage.lap(bar, H, face == 1, concrete, rebar) if anchorage is not None else 40 * bar
    own = {k: fitted(bar, float(wanted[mine[strip == k]].max()), web, site.cover, d, rules) for k in line.strips}
    axis = site.layout.strips[line.strips[0]].axis
    while True:
        asked = wanted[mine] * np.array([own[int(k)].deeper for k in strip])
        least = max(2, int(np.ceil(rules.through[face] * np.ceil(asked.max() / one - 1e-9) - 1e-9)))
        found = curtailed(line, axis, face, asked, strip, bar, least, anchored, lap)
        number = np.sum([p.count * p.there(line.s) for p in found], axis=0)
        now = {k: lying(bar, max(int(number[strip == k].max()), own[k].count), web, site.cover, d, rules) for k in line.strips}
        same = all(now[k].deeper <= own[k].deeper + 1e-12 for k in line.strips)
        own = now
        if same or max(own[k].layers for k in line.strips) > LAYERS:
            break
    through = sum(p.count for p in found if all(p.bent))
    deeper, further = np.ones(len(mine)), np.zeros(len(mine))
    for k in line.strips:
        most = int(number[strip == k].max())
        own[k] = replace(
            lying(bar, most, web, site.cover, d, rules), deeper=own[k].deeper, through=through if through < most else 0
        )
        deeper[strip == k] = own[k].deeper
        further[strip == k] = d * (1 - 1 / np.sqrt(own[k].deeper))
    layers = np.maximum(np.ceil(number / across(bar, web, site.cover, rules)), 1)
    area = np.sum([p.area * p.developed(line.s) for p in found], axis=0)
    return _OnLine(line, bar, area, np.ceil(number / layers), further, deeper, tuple(found), own)
