"""Equivalent frames: moments of columns by hand methods."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Frame:
    """A frame along one line of supports: ``lengths`` (n - 1,) m between them, stiffness ``EI`` (n - 1,) kNm2 of the slab of each span, and
    rotational stiffness ``columns`` (n,) kNm of what holds each joint."""

    lengths: Array
    EI: Array
    columns: Array

    def moments(self, w: Array, ends: Array) -> Array:
        """Moments (n, r) kNm that the columns take from the slab, for uniform loads ``w`` (n - 1, r) kN/m downwards and moments ``ends``
        (2, r) kNm of cantilevers at the first and the last joint, both as positive loads give them.

        Positive where the span after the joint weighs more than the one before. Slope-deflection, members prismatic between
        the supports' middles: ACI 318-14, 13.7; EN 1992-1-1, annex I.1.
        """
        n = len(self.columns)
        stiffness = np.diag(self.columns.astype(np.float64))
        out_of_balance = np.zeros((n, w.shape[1]))
        for k, (length, EI) in enumerate(zip(self.lengths, self.EI, strict=True)):
            s = EI / length
            stiffness[k, k] += 4 * s
            stiffness[k + 1, k + 1] += 4 * s
            stiffness[k, k + 1] += 2 * s
            stiffness[k + 1, k] += 2 * s
            fixed = w[k] * length**2 / 12
            out_of_balance[k] += fixed
            out_of_balance[k + 1] -= fixed
        out_of_balance[0] -= ends[0]
        out_of_balance[-1] += ends[1]
        return np.asarray(self.columns[:, None] * np.linalg.solve(stiffness, out_of_balance))


def torsion_constant(h: float, c1: float) -> float:
    """C of a slab's torsional member as wide as the column, m4: ACI 318-14, 13.6.4.2."""
    x, y = min(h, c1), max(h, c1)
    return (1 - 0.63 * x / y) * x**3 * y / 3


def equivalent_column(columns: float, E: float, C: float, c2: float, sides: tuple[float, ...]) -> float:
    """K_ec (kNm) of columns of stiffness ``columns`` that turn with torsional members to both ``sides``, whose spans across are so
    long (m): ACI 318-14, 13.7.4 and 13.7.5."""
    torsion = sum(9 * E * C / (l2 * (1 - c2 / l2) ** 3) for l2 in sides if l2 > c2)
    return 1 / (1 / columns + 1 / torsion) if torsion > 0 and columns > 0 else 0.0
