"""Stiffness of slab sections about the floor's reference plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

SHEAR_FACTOR = 5.0 / 6.0


@dataclass(frozen=True, slots=True)
class Sections:
    """Stiffness of ``e`` elements.

    ``A`` kN/m, ``B`` kN, ``D`` kNm, each (e, 3, 3): ``n = A eps + B kappa``, ``m = B eps + D kappa`` about the
    reference plane; ``own`` (e, 3, 3) kNm the bending stiffness about the section's own middle plane; ``shear``
    (e, 2, 2) kN/m; ``zeta`` (e,) m the middle plane's depth below the reference plane; ``h`` (e,) m.
    """

    A: Array
    B: Array
    D: Array
    own: Array
    shear: Array
    zeta: Array
    h: Array

    def __getitem__(self, pick: npt.NDArray[np.int64] | slice) -> Sections:
        return Sections(self.A[pick], self.B[pick], self.D[pick], self.own[pick], self.shear[pick], self.zeta[pick], self.h[pick])


def strain_turned(angle: Array) -> Array:
    """Matrices (e, 3, 3) that give the strains ``xx, yy, gamma_xy`` in axes turned anticlockwise by ``angle`` (e,) rad."""
    c, s = np.cos(angle), np.sin(angle)
    return np.stack(
        [np.stack([c * c, s * s, c * s], axis=1), np.stack([s * s, c * c, -c * s], axis=1),
         np.stack([-2 * c * s, 2 * c * s, c * c - s * s], axis=1)], axis=1,
    )  # fmt: skip


def sections(E: Array, nu: Array, h: Array, zeta: Array, modifiers: Array | None = None, angle: Array | None = None) -> Sections:
    """Sections of one material a piece.

    ``E`` (e,) kN/m2, ``nu`` (e,), ``h`` (e,) m, ``zeta`` (e,) m. ``modifiers`` (e, 6), factors on membrane along,
    across and in shear, and on bending along, across and twist, in axes turned by ``angle`` (e,) rad; a factor
    scales its row and column by its square root, so the stiffness stays symmetric and positive. Source: Reissner-Mindlin plate with shear factor 5/6; laminate theory for A, B, D.
    """
    count = len(h)
    plane = np.zeros((count, 3, 3))
    plane[:, 0, 0] = plane[:, 1, 1] = 1.0
    plane[:, 0, 1] = plane[:, 1, 0] = nu
    plane[:, 2, 2] = (1.0 - nu) / 2.0
    plane *= (E / (1.0 - nu**2))[:, None, None]
    A = plane * h[:, None, None]
    own = plane * (h**3 / 12.0)[:, None, None]
    if modifiers is not None:
        root = np.sqrt(modifiers)
        A = A * root[:, :3, None] * root[:, None, :3]
        own = own * root[:, 3:, None] * root[:, None, 3:]
        if angle is not None:
            T = strain_turned(angle)
            A, own = T.transpose(0, 2, 1) @ A @ T, T.transpose(0, 2, 1) @ own @ T
    B = A * zeta[:, None, None]
    D = own + A * (zeta**2)[:, None, None]
    shear = np.zeros((count, 2, 2))
    shear[:, 0, 0] = shear[:, 1, 1] = SHEAR_FACTOR * E / (2.0 * (1.0 + nu)) * h
    return Sections(A, B, D, own, shear, zeta, h)
