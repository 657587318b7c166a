"""Bars along a beam: what runs through, what stops where the shifted envelope no longer needs it, and what is developed at each station."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.bars.design import STEP
from piastra.core.bars.lengths import extent, runs
from piastra.core.standards.beam_rules import BeamRules
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

LINK = 0.01
"""Diameter of links (m) that depths are measured with."""
BAR = 0.02
"""Diameter of bars (m) that depths are measured with."""
TWO_LENGTHS = 0.93
"""Bars of two lengths are laid where their mass is no more than this share of that of one length."""
LAYERS = 2
MOST_BARS = 60
"""No more bars of one face are thought of."""


@dataclass(frozen=True, slots=True)
class Line:
    """Spans of one beam along one axis, whose bars may run through all of them: numbers of the ``strips`` and, sorted by their place ``s`` (n,) m along
    the axis, of the ``stations`` (n,); from the middle ``low`` of the first support to that of the last, ``high``, m."""

    beam: str
    strips: tuple[int, ...]
    stations: Ints
    s: Array
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Piece:
    """``count`` bars of a diameter from ``start`` to ``end`` m along the axis, straight but where they end with the beam; ``anchored`` m over which a
    straight end comes to full stress, nil for bars that run through; ``lap`` m of a splice."""

    beam: str
    axis: int
    face: int
    bar: float
    count: int
    start: float
    end: float
    anchored: float
    lap: float
    bent: tuple[bool, bool]

    @property
    def area(self) -> float:
        """m2."""
        return float(self.count * np.pi * self.bar**2 / 4)

    def there(self, s: Array) -> npt.NDArray[np.bool_]:
        """Where (k,) along the axis it lies."""
        return (s >= self.start - 1e-9) & (s <= self.end + 1e-9)

    def developed(self, s: Array) -> Array:
        """The share (k,) of its strength at places along the axis."""
        share = np.where(self.there(s), 1.0, 0.0)
        for away, bent in ((s - self.start, self.bent[0]), (self.end - s, self.bent[1])):
            if not bent and self.anchored > 0:
                share = np.minimum(share, np.clip(away / self.anchored, 0.0, 1.0))
        return share


@dataclass(frozen=True, slots=True)
class Laid:
    """Bars in one face of a span: ``count`` of a diameter (m) where most of them lie, in ``layers``; whether they ``fit``; how many run ``through``, nil: all. ``deeper`` (-): the factor by which they
    need more area than at the depth that the design measured with, since they lie deeper."""

    bar: float
    count: int
    layers: int
    fit: bool
    deeper: float = 1.0
    through: int = 0

    @property
    def area(self) -> float:
        """m2."""
        return float(self.count * np.pi * self.bar**2 / 4)


def across(bar: float, width: float, cover: float, rules: BeamRules) -> int:
    """How many bars of a diameter lie beside each other within the links of a web ``width`` m wide."""
    gap = rules.clear(bar)
    return max(int((width - 2 * (cover + LINK) + gap) / (bar + gap) + 1e-9), 1)


def lying(bar: float, count: int, width: float, cover: float, d: float, rules: BeamRules) -> Laid:
    """So many bars of a diameter in a web ``width`` m wide, where the design measured with the depth ``d`` m."""
    gap, beside = rules.clear(bar), across(bar, width, cover, rules)
    layers = int(np.ceil(count / beside))
    further = sum(k // beside for k in range(count)) / count * (bar + gap) + (bar - BAR) / 2
    deeper = (d / max(d - further, 0.1 * d)) ** 2 if further > 0 else 1.0
    return Laid(bar, count, layers, layers <= LAYERS and bar >= 0.01 - 1e-9, deeper)


def fitted(bar: float, area: float, width: float, cover: float, d: float, rules: BeamRules) -> Laid:
    """Bars of a diameter, at least two, that give an ``area`` (m2) in at most two layers of a web ``width`` m wide.

    The area is that of bars at the depth ``d`` (m), which thick bars and second layers do not reach. Up to the greatest block of
    a section without compression steel the steel for a moment grows by no more than the square of the loss of depth: with
    omega = 1 - sqrt(1 - 2 mu) and mu = m / (f d^2), d (ln omega) / d (ln mu) = (1 - omega / 2) / (1 - omega), which is below 1.5
    as long as omega is below one half.
    """
    one, beside = np.pi * bar**2 / 4, across(bar, width, cover, rules)
    found = lying(bar, max(int(np.ceil(area / one - 1e-9)), 2), width, cover, d, rules)
    while found.count <= LAYERS * beside and found.area < area * found.deeper * (1 - 1e-9):
        found = lying(bar, found.count + 1, width, cover, d, rules)
    return found


def lines_of(layout: Layout, cuts: Cuts, stations: Ints) -> list[Line]:
    """Spans of beams in line; ``stations`` (k,) are the numbers of the cuts of beams."""
    groups: dict[tuple[str, int], list[int]] = {}
    for number in np.unique(cuts.strip[stations]).tolist():
        strip = layout.strips[number]
        groups.setdefault((strip.beam, strip.axis), []).append(number)
    out = []
    for (beam, axis), strips in groups.items():
        way = np.array([np.cos(layout.axes[axis].angle), np.sin(layout.axes[axis].angle)])
        along = np.concatenate([shapely.get_coordinates(layout.strips[k].outline) @ way for k in strips])
        mine = np.flatnonzero(np.isin(cuts.strip[stations], strips))
        s = cuts.s[stations[mine]]
        order = np.argsort(s, kind="stable")
        out.append(Line(beam, tuple(strips), mine[order], s[order], float(along.min()), float(along.max())))
    return out


def shifted(asked: Array, s: Array, by: Array) -> Array:
    """The envelope (n,) of what is ``asked`` (n,) at places ``s`` (n,) m, shifted to both sides ``by`` (n,) m."""
    near = np.abs(s[None] - s[:, None]) <= by[:, None] + 1e-9
    most = np.where(near, asked[None], 0.0).max(axis=1)
    ends = [np.interp(np.clip(s + k * by, s[0], s[-1]), s, asked) for k in (-1.0, 1.0)]
    return np.asarray(np.maximum.reduce([most, *ends]))


def curtailed(
    line: Line, axis: int, face: int, asked: Array, strip: Ints, bar: float, least: int, anchored: float, lap: float
) -> list[Piece]:  # fmt: skip
    """Pieces of one diameter that give, developed, what is ``asked`` (n,) m2 for at the line's stations: at least so many bars run through; how
    many do, and how many lengths the others have, is what weighs least."""
    one = np.pi * bar**2 / 4
    whole = max(int(np.ceil(float(asked.max(initial=0.0)) / one - 1e-9)), least)
    if whole > MOST_BARS:
        return [Piece(line.beam, axis, face, bar, whole, line.low, line.high, 0.0, lap, (True, True))]
    best: list[Piece] = []
    mass = np.inf
    for through in range(least, whole + 1):
        found = [Piece(line.beam, axis, face, bar, through, line.low, line.high, 0.0, lap, (True, True))]
        missing = asked - through * one
        for run in runs(missing, line.s, strip):
            most = float(missing[run[0] : run[1] + 1].max())
            number = int(np.ceil(most / one - 1e-9))
            single = [_piece(line, axis, face, bar, number, missing, 0.0, run, anchored, lap)]
            first = (number + 1) // 2
            double = (
                [
                    _piece(line, axis, face, bar, first, missing, 0.0, run, anchored, lap),
                    _piece(line, axis, face, bar, number - first, missing, first * one, run, anchored, lap),
                ]
                if number > 1
                else single
            )
            found += double if volume_of(double) < TWO_LENGTHS * volume_of(single) else single
        if volume_of(found) < mass * (1 - 1e-9):
            best, mass = found, volume_of(found)
    return best


def _piece(
    line: Line, axis: int, face: int, bar: float, count: int, missing: Array, below: float, run: tuple[int, int], anchored: float, lap: float
) -> Piece:  # fmt: skip
    """Bars for what is missing beyond ``below``, within one run of stations."""
    area = count * np.pi * bar**2 / 4
    part = np.minimum(missing - below, area)
    inner = [k for k in range(run[0], run[1] + 1) if part[k] > 0]
    low, high = extent(part, line.s, (inner[0], inner[-1]), area, 0.0, anchored)
    more = (np.ceil((high - low) / STEP - 1e-6) * STEP - (high - low)) / 2
    low, high = low - more, high + more
    bent = (low <= line.low, high >= line.high)
    return Piece(line.beam, axis, face, bar, count, max(low, line.low), min(high, line.high), anchored, lap, bent)


def volume_of(pieces: Sequence[Piece]) -> float:
    """Volume of steel, m3."""
    return sum(p.area * (p.end - p.start) for p in pieces)
