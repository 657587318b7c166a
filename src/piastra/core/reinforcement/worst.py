"""The worst of moment and axial force together, over combinations and arrangements."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, greatest

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]

ROUNDING = 1e-9
"""By what share bounds of tension may be off."""


@dataclass(frozen=True, slots=True)
class Responses:
    """Unit responses by the metre at k sections: ``moment`` (k, r) about the middle of the section, positive where it stretches
    the face; ``twist`` (k, p, r) of p parts of the width, each of which adds its size; ``axial`` (k, r), tension positive;
    ``arm`` (k,) m from the middle to the face's bars."""

    moment: Array
    twist: Array
    axial: Array
    arm: Array


def governing_signs(one: Responses, lever: Array, factors: Factors) -> Array:
    """Of one section, the signs (1, p) of twists with which an arrangement of a combination makes the most tension."""
    own = signs_of(one, factors.full)
    turned = [float(greatest(-own[:, p, None] * one.twist[:, p], [factors])[0, 0]) > 0 for p in range(own.shape[1])]
    if not any(turned):
        return own
    choices = [np.array([c]) for c in product((1.0, -1.0), repeat=one.twist.shape[1])]
    return max(choices, key=lambda signs: float(greatest(tension_of(one, lever, signs), [factors])[0, 0]))


@dataclass(frozen=True, slots=True)
class Worst:
    """The pair ``m`` (k,) kNm/m about the steel and ``n`` (k,) kN/m by which the most steel is needed, the number of its
    ``combination`` (k,), and the greatest moment of any pair ``m_most`` (k,)."""

    m: Array
    n: Array
    combination: Ints
    m_most: Array


def tension_of(found: Responses, lever: Array, signs: Array) -> Array:
    """``m / lever + n`` (k, r), the tension that a lever arm (k,) gives, with every part's twist in its sign of ``signs`` (k, p)."""
    moment = found.moment - found.axial * found.arm[:, None] + (signs[:, :, None] * found.twist).sum(axis=1)
    return moment / lever[:, None] + found.axial


def signs_of(found: Responses, full: Array) -> Array:
    """The signs (k, p) that twists have under the full load of factors ``full`` (r,)."""
    return np.where(found.twist @ full < 0, -1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Turns:
    """Twists of k sections in all signs that arrangements give them: j of them, a section's together. ``section`` (j,) is whose,
    ``twist`` (j, r) the parts' sum."""

    section: Ints
    twist: Array

    def some(self, mine: Flags) -> Turns:
        """Of the sections ``mine`` (k,)."""
        if mine.all():
            return self
        kept = mine[self.section]
        return Turns((np.cumsum(mine) - 1)[self.section[kept]], self.twist[kept])


def turns_of(found: Responses, combinations: Sequence[Factors]) -> Turns:
    """Every section with the signs that twists have under full load, then with each turn of signs that its arrangements can make."""
    own = signs_of(found, combinations[0].full)
    signed = own[:, :, None] * found.twist
    turned = most(greatest(-signed, combinations)) > 0
    parts = own.shape[1]
    choices = np.array(list(product((1.0, -1.0), repeat=parts)))
    # A part that no arrangement turns allows no choice with the other sign.
    section, choice = np.nonzero(~turned @ (choices < 0).T.astype(np.int64) == 0)
    # Sums of either half of the parts are made once for all choices of the other.
    half = parts // 2
    before, after = (
        np.tensordot(np.array(list(product((1.0, -1.0), repeat=signed[:, some].shape[1]))), signed[:, some], axes=(1, 1))
        for some in (slice(half), slice(half, parts))
    )
    rest = parts - half
    return Turns(section, before[choice >> rest, section] + after[choice & ((1 << rest) - 1), section])


def most(values: Array) -> Array:
    """The greatest along the last axis (..., c), which is short: numpy goes along it number by number."""
    found = values[..., 0].copy()
    for k in range(1, values.shape[-1]):
        np.maximum(found, values[..., k], out=found)
    return found


def worst(
    found: Responses, combinations: Sequence[Factors], long: Array, short: Array, tension: Callable[[Array, Array, Ints], Array],
    least: float = -np.inf, turns: Turns | None = None,
) -> Worst:  # fmt: skip
    """The pair of moment and force that bounds the steel of every arrangement.

    Tension grows with the force, and with the moment at a rate between 1 / ``long`` and 1 / ``short`` (k,): T = n + G(m).
    Where s0 and s1 are the greatest of m / long + n and of m / short + n over all arrangements, no pair lies beyond these two
    lines, and along both of them T falls away from their corner: so no arrangement needs more than the corner. If moment and
    force have their greatest under one arrangement, the corner is that arrangement exactly. Twists enter with either sign
    where an arrangement turns them round: ``turns``, if they are known. ``tension`` (m, n, which) is the steel of the sections ``which`` (q,)
    under pairs (q,), by which they are compared; it is never below ``least``. At the corner T lies between s0 and s1, so that what another
    pair of the section exceeds for certain need not be known.
    """
    count = len(found.arm)
    if not count:
        none = np.zeros(0)
        return Worst(none, none, np.zeros(0, dtype=np.int64), none)
    turns = turns_of(found, combinations) if turns is None else turns
    first = np.searchsorted(turns.section, np.arange(count))
    about = found.moment - found.axial * found.arm[:, None]
    # m / l + n is (m + n l) / l.
    arms = (long, short) if found.axial.any() else (long,)
    tops = [greatest((about + found.axial * arm[:, None])[turns.section] + turns.twist, combinations) for arm in arms]
    s0, s1 = (top / arm[turns.section, None] for top, arm in ((tops[0], long), (tops[-1], short)))
    slower, faster = 1 / long, 1 / short
    m_most = np.maximum.reduceat(most(s1 - s0), first) / (faster - slower)
    known = np.maximum(np.maximum.reduceat(most(np.minimum(s0, s1)), first), least)
    # Turns that another one of their section exceeds for certain are left out.
    may = most(np.maximum(s0, s1)) >= (known - ROUNDING * np.abs(known))[turns.section]
    may[first] = True
    kept = np.flatnonzero(may)
    section, s0, s1 = turns.section[kept], s0[kept], s1[kept]
    first = np.searchsorted(section, np.arange(count))
    a, b = slower[section, None], faster[section, None]
    m = (s1 - s0) / (b - a)
    n = s0 - m * a
    # Rounding of the difference, where there is no force to speak of.
    n[np.abs(n) < 1e-9 * np.abs(s0)] = 0.0
    high = np.maximum(s0, s1)
    needed = np.where(high <= least, least, -np.inf)
    row, pair = np.nonzero((high > least) & (high >= (known - ROUNDING * np.abs(known))[section, None]))
    needed[row, pair] = tension(m[row, pair], n[row, pair], section[row])
    # Of equal ones the first combination, and of its the first turn: own signs.
    equal = needed == np.maximum.reduceat(most(needed), first)[section, None]
    chosen = np.logical_or.reduceat(equal, first, axis=0).argmax(axis=1)
    governing = np.flatnonzero(equal[np.arange(len(section)), chosen[section]])
    at = governing[np.searchsorted(section[governing], np.arange(count))]
    return Worst(m[at, chosen], n[at, chosen], chosen, m_most)
