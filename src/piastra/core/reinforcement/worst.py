"""The worst of moment and axial force together, over combinations and arrangements."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, greatest

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


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


def worst(
    found: Responses, combinations: Sequence[Factors], long: Array, short: Array, tension: Callable[[Array, Array, Ints], Array]
) -> Worst:  # fmt: skip
    """The pair of moment and force that bounds the steel of every arrangement.

    Tension grows with the force, and with the moment at a rate between 1 / ``long`` and 1 / ``short`` (k,): T = n + G(m).
    Where s0 and s1 are the greatest of m / long + n and of m / short + n over all arrangements, no pair lies beyond these two
    lines, and along both of them T falls away from their corner: so no arrangement needs more than the corner. If moment and
    force have their greatest under one arrangement, the corner is that arrangement exactly. Twists enter with either sign
    where an arrangement turns them round. ``tension`` (m, n, which) is the steel of the sections ``which`` (j,) under pairs
    (j, C), by which combinations are compared.
    """
    count = len(found.arm)
    if not count:
        none = np.zeros(0)
        return Worst(none, none, np.zeros(0, dtype=np.int64), none)
    own = signs_of(found, combinations[0].full)
    turned = greatest(-own[:, :, None] * found.twist, combinations).max(axis=2) > 0
    choices = np.array(list(product((1.0, -1.0), repeat=own.shape[1])))
    # Every section with its own signs, then with each turn of signs that its arrangements can make.
    choice, section = np.nonzero((turned[None] | (choices[:, None] > 0)).all(axis=2))
    m, n = _corners(found, section, own[section] * choices[choice], combinations, long, short)
    row, needed = np.zeros((len(choices), count), dtype=np.int64), np.full((len(choices), count, m.shape[1]), -np.inf)
    row[choice, section], needed[choice, section] = np.arange(len(section)), tension(m, n, section)
    # Of equal ones the first: its own signs.
    signs, every = needed.argmax(axis=0), np.arange(count)
    taken = row[signs, every[:, None]]
    m, n = (np.take_along_axis(v, taken, axis=0) for v in (m, n))
    chosen = needed.max(axis=0).argmax(axis=1)
    return Worst(m[every, chosen], n[every, chosen], chosen, m.max(axis=1))


def _corners(
    found: Responses, section: Ints, signs: Array, combinations: Sequence[Factors], long: Array, short: Array
) -> tuple[Array, Array]:
    """Moment and force (j, C) at the corner of the two lines, of the sections ``section`` (j,) with twists in the given signs (j, p)."""
    a, b = 1 / long[section, None], 1 / short[section, None]
    axial = found.axial[section]
    about = found.moment[section] - axial * found.arm[section, None]
    for p in range(signs.shape[1]):
        about += signs[:, p, None] * found.twist[section, p]
    s0, s1 = greatest(about * a + axial, combinations), greatest(about * b + axial, combinations)
    m = (s1 - s0) / (b - a)
    n = s0 - m * a
    # Rounding of the difference, where there is no force to speak of.
    n[np.abs(n) < 1e-9 * np.abs(s0)] = 0.0
    return m, n
