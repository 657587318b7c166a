"""The worst of moment and axial force together, over combinations and arrangements."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

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

    def about_steel(self, factors: Array) -> tuple[Array, Array]:
        """The moment about the steel without any twist (k, r), and the twists each with the sign (k, p) that it has under the
        full load of ``factors`` (r,)."""
        return self.moment - self.axial * self.arm[:, None], np.where(self.twist @ factors < 0, -1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Worst:
    """The pair ``m`` (k,) kNm/m about the steel and ``n`` (k,) kN/m by which the most steel is needed, the number of its
    ``combination`` (k,), and the greatest moment of any pair ``m_most`` (k,)."""

    m: Array
    n: Array
    combination: Ints
    m_most: Array


def functionals(found: Responses, lever: Array, full: Array) -> tuple[Array, Array, Array]:
    """``m / lever + n`` (k, r) for the tension that a lever arm (k,) gives, the twists in their signs added; the twists that
    signs turn against it (k, p, r), and the signs (k, p).

    The size of a twist t is s t + 2 max(-s t, 0): with s the sign under full load the rest is nil wherever no arrangement
    turns the twist round, so that the sum is a linear functional plus a small and safe rest.
    """
    moment, signs = found.about_steel(full)
    signed = signs[:, :, None] * found.twist
    return (moment + signed.sum(axis=1)) / lever[:, None] + found.axial, -signed, signs


def worst(
    found: Responses, combinations: Sequence[Factors], long: Array, short: Array, tension: Callable[[Array, Array], Array]
) -> Worst:  # fmt: skip
    """The pair of moment and force that bounds the steel of every arrangement.

    Tension grows with the force, and with the moment at a rate between 1 / ``long`` and 1 / ``short`` (k,): T = n + G(m).
    Where s0 and s1 are the greatest of m / long + n and of m / short + n over all arrangements, no pair lies beyond these two
    lines, and along both of them T falls away from their corner: so no arrangement needs more than the corner. If moment and
    force have their greatest under one arrangement, the corner is that arrangement exactly. ``tension`` of (m, n) (k, C) is
    the steel by which combinations are compared.
    """
    count = len(found.arm)
    if not count:
        none = np.zeros(0)
        return Worst(none, none, np.zeros(0, dtype=np.int64), none)
    full = combinations[0].full
    slow, against, _ = functionals(found, long, full)
    rest = np.zeros((count, len(combinations)))
    for part in range(against.shape[1]):
        rest += 2 * np.maximum(envelopes(against[:, part], combinations)[1], 0.0)
    fast, _, _ = functionals(found, short, full)
    a, b = 1 / long[:, None], 1 / short[:, None]
    s0, s1 = envelopes(slow, combinations)[1] + rest * a, envelopes(fast, combinations)[1] + rest * b
    m = (s1 - s0) / (b - a)
    n = s0 - m * a
    # Rounding of the difference, where there is no force to speak of.
    n[np.abs(n) < 1e-9 * np.abs(s0)] = 0.0
    chosen = tension(m, n).argmax(axis=1)
    row = np.arange(count)
    return Worst(m[row, chosen], n[row, chosen], chosen, m.max(axis=1))
