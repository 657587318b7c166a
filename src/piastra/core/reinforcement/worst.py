"""The worst of moment and axial force together, over combinations and arrangements."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, envelopes

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
    turned = [float(envelopes(-own[:, p, None] * one.twist[:, p], [factors])[1][0, 0]) > 0 for p in range(own.shape[1])]
    if not any(turned):
        return own
    choices = [np.array([c]) for c in product((1.0, -1.0), repeat=one.twist.shape[1])]
    return max(choices, key=lambda signs: float(envelopes(tension_of(one, lever, signs), [factors])[1][0, 0]))


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
    every = np.arange(count)
    m, n = _corners(found, combinations, long, short, own)
    needed = tension(m, n, every)
    turned = np.stack(
        [envelopes(-own[:, p, None] * found.twist[:, p], combinations)[1].max(axis=1) > 0 for p in range(own.shape[1])], axis=1
    )
    for choice in list(product((1.0, -1.0), repeat=own.shape[1]))[1:]:
        some = np.flatnonzero((turned | (np.array(choice) > 0)).all(axis=1))
        if not len(some):
            continue
        part = Responses(found.moment[some], found.twist[some], found.axial[some], found.arm[some])
        other = _corners(part, combinations, long[some], short[some], own[some] * choice)
        more = tension(*other, some)
        better = more > needed[some]
        for array, new in ((m, other[0]), (n, other[1]), (needed, more)):
            array[some] = np.where(better, new, array[some])
    chosen = needed.argmax(axis=1)
    return Worst(m[every, chosen], n[every, chosen], chosen, m.max(axis=1))


def _corners(found: Responses, combinations: Sequence[Factors], long: Array, short: Array, signs: Array) -> tuple[Array, Array]:
    """Moment and force (k, C) at the corner of the two lines, twists in the given signs (k, p)."""
    a, b = 1 / long[:, None], 1 / short[:, None]
    s0 = envelopes(tension_of(found, long, signs), combinations)[1]
    s1 = envelopes(tension_of(found, short, signs), combinations)[1]
    m = (s1 - s0) / (b - a)
    n = s0 - m * a
    # Rounding of the difference, where there is no force to speak of.
    n[np.abs(n) < 1e-9 * np.abs(s0)] = 0.0
    return m, n
