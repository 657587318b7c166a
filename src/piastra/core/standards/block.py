"""Steel of a section with a rectangular block of compressed concrete: mechanics that standards share."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class BlockSteel:
    """Forces of steel by the metre (kN/m) of k sections: ``tension`` in the stretched face, a ``couple`` beside the block;
    relative moment ``mu``, what of it the block carries ``capped``, the mechanical ratio ``omega``."""

    mu: Array
    mu_limit: float
    capped: Array
    omega: Array
    couple: Array
    tension: Array


def block_steel(m: Array, n: Array, d: Array, d2: Array, fc: float, block_limit: float) -> BlockSteel:
    """Steel for moments about the tension steel ``m`` (k,) kNm/m with axial tension ``n`` (k,) kN/m.

    ``fc`` stress of the block (kN/m2), ``block_limit`` its greatest depth over d. ``mu = m / (fc d^2)``, ``omega = 1 - sqrt(1 -
    2 mu)``, tension ``omega fc d + n``; beyond the limit the rest is a couple of steel at ``d`` and ``d2``. Where m is
    negative the section is wholly in tension or compressed in this face: both layers share an axial tension by their levers,
    ``n + m / (d - d2)``, which is continuous with the block at m = 0.
    """
    lever = np.maximum(d - d2, 1e-3)
    mu = np.maximum(m, 0.0) / (fc * d**2)
    mu_limit = block_limit * (1 - block_limit / 2)
    capped = np.minimum(mu, mu_limit)
    omega = 1.0 - np.sqrt(1.0 - 2.0 * capped)
    couple = (mu - capped) * fc * d**2 / lever
    force = np.where(m >= 0, omega * fc * d + couple, m / lever)
    return BlockSteel(mu, mu_limit, capped, omega, couple, np.maximum(force + n, 0.0))


@dataclass(frozen=True, slots=True)
class Slopes:
    """How the tension of k sections grows with the moment about the steel: never slower than by 1 / ``long`` and never faster
    than by 1 / ``short`` (k,), lever arms in m."""

    long: Array
    short: Array


def block_slopes(d: Array, d2: Array, block_limit: float) -> Slopes:
    """Of :func:`block_steel`: dT/dm is 1/(d (1 - omega)) within the block, 1/(d - d2) before and beyond it."""
    return Slopes(d, np.minimum(d * (1 - block_limit), np.maximum(d - d2, 1e-3)))
