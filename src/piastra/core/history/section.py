"""Reinforced sections a metre wide, uncracked and fully cracked, with all stress increments that were before.

Depth z from the middle plane, downwards; strain ``a + b z``, tension positive; a moment is positive where it stretches the bottom.
Arrays of sections have any leading shape, written (...).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

LAYERS = 14
"""Layers of concrete, thin at the faces: the compression zone of a slab takes a fifth of its depth."""
EDGES = -0.5 * np.cos(np.pi * np.arange(LAYERS + 1) / LAYERS)
MIDDLES = (EDGES[1:] + EDGES[:-1]) / 2
DEPTHS = np.diff(EDGES)
ROUNDS = 40
HARDENING = 0.01
"""Stiffness of bars that have yielded, over that before: next to nothing, as EN 1992-1-1, 3.2.7 (2) b, has none."""
CLOSE = 1e-4
"""Newton's method ends when the forces differ by so little of what the section carries."""


@dataclass(frozen=True, slots=True)
class Bars:
    """Steel of sections: ``EA`` (2, ...) kN/m of bottom and top bars, their depths ``z`` (2, ...) m, and the strain ``yields`` (2, ...) from which
    on they harden only; infinite where none is given."""

    EA: Array
    z: Array
    yields: Array | float = np.inf

    def sums(self) -> tuple[Array, Array, Array]:
        """Sums of EA, EA z and EA z^2."""
        return self.EA.sum(axis=0), (self.EA * self.z).sum(axis=0), (self.EA * self.z**2).sum(axis=0)

    def tension(self, a: Array, b: Array) -> tuple[Array, Array]:
        """Forces (2, ...) kN/m at the strain ``a`` (...) and curvature ``b`` (...) 1/m, and their stiffness (2, ...) there. Loads of a floor that lives grow:
        what has yielded goes back the way that it came."""
        strain = a + b * self.z
        over = np.maximum(np.abs(strain) - self.yields, 0.0)
        force = self.EA * (strain - np.sign(strain) * (1 - HARDENING) * over)
        return force, self.EA * np.where(over > 0, HARDENING, 1.0)

    def at(self, which: Any) -> Bars:
        """The bars of some sections."""
        yields = np.stack([v[which] for v in np.broadcast_to(self.yields, self.EA.shape)])
        return Bars(np.stack([v[which] for v in self.EA]), np.stack([v[which] for v in self.z]), yields)


@dataclass(frozen=True, slots=True)
class Bent:
    """Sections in equilibrium: strain ``a`` (...) and curvature ``b`` (...) 1/m, and the flexibility (..., 2, 2) of them to N and M."""

    a: Array
    b: Array
    flexibility: Array


def _inverse(k11: Array, k12: Array, k22: Array) -> Array:
    det = k11 * k22 - k12**2
    out = np.empty((*k11.shape, 2, 2))
    out[..., 0, 0], out[..., 1, 1] = k22 / det, k11 / det
    out[..., 0, 1] = out[..., 1, 0] = -k12 / det
    return out


def inverse(F: Array) -> Array:
    """Inverses of symmetric matrices (..., 2, 2)."""
    return _inverse(F[..., 0, 0], F[..., 0, 1], F[..., 1, 1])


def coupled(along: Array, across: Array, side: Array) -> tuple[Array, Array, Array]:
    """Blocks (..., 2, 2) of the inverse of ``[[along, side], [side, across]]``: both on its diagonal, and the one beside it. All given ones
    are symmetric (Schur's complement)."""
    alone = inverse(across)
    lean = side @ alone
    first = inverse(along - lean @ side)
    beside = -first @ lean
    return first, alone - lean.swapaxes(-1, -2) @ beside, beside


def uncracked(E: Array, h: Array, bars: Bars, free: tuple[Array, Array], N: Array, M: Array) -> Bent:
    """The whole concrete acts: ``E`` (...) kN/m2, its ``free`` strain and curvature, ``N`` kN/m, ``M`` kNm/m."""
    s0, s1, s2 = bars.sums()
    A, I = E * h, E * h**3 / 12
    F = _inverse(A + s0, s1, I + s2)
    n, m = N + A * free[0], M + I * free[1]
    return Bent(F[..., 0, 0] * n + F[..., 0, 1] * m, F[..., 0, 1] * n + F[..., 1, 1] * m, F)


def _pressed(E: Array, h: Array, a: Array, b: Array, free: Array, slope: Array) -> tuple[Array, ...]:
    """Mean stress (..., l) of layers that take no tension, its moment about each layer's middle, and the pressed share."""
    z, d = MIDDLES * h[..., None], DEPTHS * h[..., None]
    mean = a[..., None] + b[..., None] * z - free
    g = b[..., None] - slope
    half = np.abs(g) * d / 2
    level = half <= 1e-15
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip(0.5 - mean / (2 * half), 0.0, 1.0)
    if level.any():
        share[level] = mean[level] < 0
    # Of the pressed part, which lies at one side of the layer: its own mean strain, and where its middle is.
    off = -np.sign(g) * (1 - share) * d / 2
    stress = E[..., None] * (mean + g * off) * share
    thick = share * d
    # A power of three takes as long as all else.
    moment = stress * off * d + E[..., None] * g * (thick * thick * thick) / 12
    return stress, moment, share


def cracked(
    E: Array, h: Array, bars: Bars, free: Array, N: Array, M: Array, start: tuple[Array, Array]
) -> tuple[Bent, Array, npt.NDArray[np.bool_]]:
    """Concrete takes compression only: ``free`` (..., l) strains of its layers. By Newton's method from ``start``; also the layers' stress (..., l),
    and which sections (...) found no equilibrium."""
    a, b = (np.array(v) for v in start)
    z, d = MIDDLES * h[..., None], DEPTHS * h[..., None]
    slope = np.gradient(free, MIDDLES, axis=-1) / h[..., None]
    small_N = CLOSE * np.maximum(np.abs(N) + np.abs(M) / h, 1.0)
    open_ = np.ones(h.shape, dtype=bool)
    found, flexible = np.empty_like(free), np.empty((*h.shape, 2, 2))
    k = np.nonzero(open_)
    for turn in range(ROUNDS + 1):
        stress, moment, share = _pressed(E[k], h[k], a[k], b[k], free[k], slope[k])
        zk, dk, laid = z[k], d[k], bars.at(k)
        F = _flexibility(E[k], zk, dk, share, a[k], b[k], slope[k], laid)
        if turn == ROUNDS:
            # What has no equilibrium by now is left as it is.
            found[k], flexible[k] = stress, F
            break
        force = stress * dk
        T, _ = laid.tension(a[k], b[k])
        n = force.sum(axis=-1) + T.sum(axis=0) - N[k]
        m = (force * zk + moment).sum(axis=-1) + (T * laid.z).sum(axis=0) - M[k]
        done = np.maximum(np.abs(n), np.abs(m) / h[k]) < small_N[k]
        rest = tuple(i[done] for i in k)
        found[rest], flexible[rest], open_[rest] = stress[done], F[done], False
        still = ~done
        k = tuple(i[still] for i in k)
        if not len(k[0]):
            break
        F, n, m, slow = F[still], n[still], m[still], 1.0 if turn < 12 else 0.5
        a[k] -= slow * (F[..., 0, 0] * n + F[..., 0, 1] * m)
        b[k] -= slow * (F[..., 0, 1] * n + F[..., 1, 1] * m)
    return Bent(a, b, flexible), found, open_


def _flexibility(E: Array, z: Array, d: Array, share: Array, a: Array, b: Array, slope: Array, bars: Bars) -> Array:
    """Of sections of which layers are pressed in a ``share``."""
    part = E[..., None] * share * d
    # The pressed part's own middle lies beside its layer's.
    off = -np.sign(b[..., None] - slope) * (1 - share) * d / 2
    K = bars.tension(a, b)[1]
    k11 = part.sum(axis=-1) + K.sum(axis=0)
    k12 = (part * (z + off)).sum(axis=-1) + (K * bars.z).sum(axis=0)
    k22 = (part * ((z + off) ** 2 + (share * d) ** 2 / 12)).sum(axis=-1) + (K * bars.z**2).sum(axis=0)
    return _inverse(k11, k12, k22)
