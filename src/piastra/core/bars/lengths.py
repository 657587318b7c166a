"""Of which lengths the bars are that give what is missing along a row of stations."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.bars.choices import Choice, Choices
from piastra.core.standards.provision import NOTHING

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

BRIDGED = 1.6
"""Stations of neighbouring spans so near to each other (m) lie at one support: bars run through it."""
ALONG = 2.5
"""Neighbouring stations of one strip that lie further apart (m) have an opening between them."""
LESS = 0.97
"""Bars of further lengths are laid where the mass of all is no more than this share of that of one length."""
OVER = 4
"""No more lengths than this lie over each other."""


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
    here = slice(run[0], run[1] + 1)
    reach = np.minimum(np.maximum(missing[here], 0.0) / area, 1.0) * anchored + shift
    low, high = float((s[here] - reach).min()), float((s[here] + reach).max())
    for inner, outer in ((run[0], run[0] - 1), (run[1], run[1] + 1)):
        if 0 <= outer < len(s) and missing[outer] < missing[inner]:
            nought = s[inner] + (s[outer] - s[inner]) * missing[inner] / (missing[inner] - min(missing[outer], 0.0))
            low, high = min(low, nought - shift), max(high, nought + shift)
    return low, high


@dataclass(frozen=True, slots=True)
class Row:
    """Stations along an axis: their places ``s`` (k,) m, their ``strip`` (k,); how far bars go on beyond what needs them at a station (m), and the length (m) over
    which a bar of a diameter (m) comes to full stress there."""

    s: Array
    strip: Ints
    shift: Callable[[int], float]
    anchored: Callable[[int, float], float]


@dataclass(frozen=True, slots=True)
class Length:
    """Bars from ``low`` to ``high`` m along the axis for the stations from ``first`` to ``last``; ``anchored`` m as of groups."""

    choice: Choice
    anchored: float
    low: float
    high: float
    first: int
    last: int

    @property
    def mass(self) -> float:
        """By the metre of width, m3/m."""
        return self.choice.area * (self.high - self.low)


def lengths(row: Row, choices: Choices, missing: Array, run: tuple[int, int], limit: float, over: int = OVER) -> list[Length]:
    """Bars that give what is ``missing`` (k,) m2/m over a run of stations: of one length, or, where that saves steel, a lighter length throughout and further
    ones over what it leaves, no more than ``over`` above each other. The undermost are at most ``limit`` m apart."""
    whole = _one(row, choices, missing, run, limit)
    under = _under(row, choices, missing, run, limit, whole) if over > 1 else None
    if under is None:
        return [whole]
    first = _one(row, choices, np.minimum(missing, under.area), run, limit)
    rest, out = missing - first.choice.area, [first]
    here = slice(run[0], run[1] + 1)
    for low, high in runs(rest[here], row.s[here], row.strip[here]):
        out += lengths(row, choices, rest, (run[0] + low, run[0] + high), np.inf, over - 1)
    return out if sum(b.mass for b in out) <= LESS * whole.mass else [whole]


def _one(row: Row, choices: Choices, missing: Array, run: tuple[int, int], limit: float) -> Length:
    peak = run[0] + int(missing[run[0] : run[1] + 1].argmax())
    choice = choices.least(float(missing[peak]), limit)
    anchored = row.anchored(peak, choice.bar)
    return Length(choice, anchored, *extent(missing, row.s, run, choice.area, row.shift(peak), anchored), *run)


def _under(row: Row, choices: Choices, missing: Array, run: tuple[int, int], limit: float, whole: Length) -> Choice | None:
    """The choice that as the undermost of several lengths promises the least mass; None where none promises less than one length."""
    if run[0] == run[1]:
        return None
    need, s = missing[run[0] : run[1] + 1], row.s[run[0] : run[1] + 1]
    lighter = choices.close(limit)
    # Where all stations ask for more than the undermost give, further ones are as long.
    least = need[need > NOTHING].min()
    lighter = lighter[(choices.areas[lighter] < whole.choice.area - NOTHING) & (choices.areas[lighter] >= least)]
    if not len(lighter):
        return None
    area = choices.areas[lighter]
    anchored, shift = row.anchored(run[0], choices.all[lighter[0]].bar), row.shift(run[0])
    reach = np.minimum(np.maximum(need, 0.0) / area[:, None], 1.0) * anchored + shift
    long = (s + reach).max(axis=1) - (s - reach).min(axis=1)
    mass = area * long + above(need - area[:, None], s, anchored + shift, choices)
    best = int(mass.argmin())
    return choices.all[lighter[best]] if mass[best] <= LESS * whole.mass else None


def above(missing: Array, s: Array, end: float, choices: Choices) -> Array:
    """Mass (...,) of bars for what is ``missing`` (..., k) m2/m along places ``s`` (k,) m, by the metre of width m3/m: the least that may be chosen at each place, with
    an ``end`` (m) to both sides of each rise."""
    steps = np.concatenate([[0.0], choices.areas])
    laid = steps[np.minimum(steps.searchsorted(np.where(missing > NOTHING, missing * (1 - 1e-9), 0.0)), len(steps) - 1)]
    rises = laid[..., 0] + np.maximum(laid[..., 1:] - laid[..., :-1], 0.0).sum(axis=-1)
    return (laid[..., 1:] + laid[..., :-1]) @ (s[1:] - s[:-1]) / 2 + 2 * end * rises
