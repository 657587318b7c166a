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


def lay(site: Site, face: int, needs: Needs, cracks: Cracks | None) -> FaceBars:
    """Bars for the ``needs``: of each line the diameter whose bars fit, whose cracks are narrow enough, and which weighs least."""
    tried: list[tuple[FaceBars, Array]] = []
    for mm in site.floor.bar_sizes_mm:
        wanted, none = needs.most, np.zeros(len(needs.own))
        found = _of_one(site, face, needs, wanted, mm / 1e3)
        use = cracks(found) if cracks is not None else none
        for _ in range(ROUNDS):
            if not (use > 1).any():
                break
            more = found.area / found.deeper * np.minimum(use, MORE) * (1 + 1e-3)
            wanted = np.where(use > 1, np.maximum(wanted, more), wanted)
            found = _of_one(site, face, needs, wanted, mm / 1e3)
            use = cracks(found) if cracks is not None else none
        tried.append((found, use))

    def merit(line: Line, found: FaceBars, use: Array) -> tuple[int, bool, float]:
        wide = bool((use[line.stations] > 1).any())
        # Of bars that fit nowhere those with the fewest layers come nearest.
        layers = max(found.laid[k].layers for k in line.strips if not found.laid[k].fit) if not _fit(line, found) else 0
        return layers, wide, volume_of(_own(site, line, found))

    arrays = {name: np.zeros(len(needs.own)) for name in ("area", "bar", "beside", "further", "deeper", "use")}
    pieces: list[Piece] = []
    laid: dict[int, Laid] = {}
    for line in lines_of(site.layout, site.cuts, site.sections.cuts):
        merits = [merit(line, *t) for t in tried]
        found = tried[merits.index(min(merits))][0]
        for name, values in arrays.items():
            values[line.stations] = getattr(found, name)[line.stations]
        pieces += _own(site, line, found)
        laid.update({k: found.laid[k] for k in line.strips})
    return FaceBars(**arrays, needs=needs, pieces=tuple(pieces), laid=laid)


def _fit(line: Line, found: FaceBars) -> bool:
    return all(found.laid[k].fit for k in line.strips)


def _own(site: Site, line: Line, found: FaceBars) -> list[Piece]:
    axis = site.layout.strips[line.strips[0]].axis
    return [p for p in found.pieces if (p.beam, p.axis) == (line.beam, axis)]


def _of_one(site: Site, face: int, needs: Needs, wanted: Array, bar: float) -> FaceBars:
    """Bars of one diameter for what is ``wanted`` (k,) m2 at the measured depth."""
    rules, anchorage, one = site.standard.beams, site.standard.anchorage, np.pi * bar**2 / 4
    assert rules is not None
    count = len(wanted)
    area, beside, further, deeper = np.zeros(count), np.ones(count), np.zeros(count), np.ones(count)
    fits = np.ones(count, dtype=bool)
    pieces: list[Piece] = []
    laid: dict[int, Laid] = {}
    for line in lines_of(site.layout, site.cuts, site.sections.cuts):
        mine, strip = line.stations, site.strip[line.stations]
        web, H = float(site.sections.b_w[mine[0]]), float(site.sections.H[mine].max())
        d = float(site.d[face][mine].min())
        concrete, rebar = site.materials[int(site.kind[mine[0]])]
        anchored = anchorage.length(bar, H, face == 1, concrete, rebar) if anchorage is not None else 40 * bar
        lap = anchorage.lap(bar, H, face == 1, concrete, rebar) if anchorage is not None else 40 * bar
        own = {k: fitted(bar, float(wanted[mine[strip == k]].max()), web, site.cover, d, rules) for k in line.strips}
        axis = site.layout.strips[line.strips[0]].axis
        while True:
            grown = np.array([own[int(k)].deeper for k in strip])
            asked = wanted[mine] * grown
            least = max(2, int(np.ceil(rules.through[face] * np.ceil(asked.max() / one - 1e-9) - 1e-9)))
            found = curtailed(line, axis, face, asked, strip, bar, least, anchored, lap)
            number = np.sum([p.count * p.there(line.s) for p in found], axis=0)
            now = {
                k: lying(bar, max(int(number[strip == k].max()), own[k].count), web, site.cover, d, rules) for k in line.strips
            }
            same = all(now[k].deeper <= own[k].deeper + 1e-12 for k in line.strips)
            own = now
            if same or max(own[k].layers for k in line.strips) > LAYERS:
                break
        through = sum(p.count for p in found if all(p.bent))
        for k in line.strips:
            most = int(number[strip == k].max())
            own[k] = replace(
                lying(bar, most, web, site.cover, d, rules), deeper=own[k].deeper, through=through if through < most else 0
            )
            at = mine[strip == k]
            deeper[at], fits[at] = own[k].deeper, own[k].fit
            further[at] = d * (1 - 1 / np.sqrt(own[k].deeper))
        layers = np.maximum(np.ceil(number / across(bar, web, site.cover, rules)), 1)
        beside[mine] = np.ceil(number / layers)
        area[mine] = np.sum([p.area * p.developed(line.s) for p in found], axis=0)
        pieces += found
        laid.update(own)
    use = np.where(needs.most > 0, np.minimum(needs.most * deeper / np.maximum(area, 1e-12), MOST), 0.0)
    use = np.where(fits, use, MOST)
    return FaceBars(area, np.full(count, bar), beside, further, needs, deeper, use, tuple(pieces), laid)
