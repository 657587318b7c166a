"""What the sides of the bending elements contribute: a quadratic rotation along each side (Katili 1993)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.section import Sections

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Sides:
    """Sides of ``e`` elements with ``s`` corners; side k runs from corner k to the next.

    ``C``, ``S`` (e, s) direction cosines; ``L`` (e, s) m; ``delta`` (e, s, 5 s) gives the side's quadratic
    rotation from the unknowns; ``shear`` (e, s) times that rotation is the constant shear strain along it.
    """

    C: Array
    S: Array
    L: Array
    delta: Array
    shear: Array

    @property
    def gamma(self) -> Array:
        """The constant shear strain along each side from the unknowns, (e, s, 5 s)."""
        return self.shear[..., None] * self.delta


def sides(p: Array, sections: Sections) -> Sides:
    """Sides of elements with corners ``p`` (e, s, 2) m.

    The quadratic rotation follows from the mean of ``w,s + beta_s - gamma`` along the side being nil, with the
    shear strain ``gamma = -2/3 phi delta`` from the side's own equilibrium and ``phi = 12 D_s / (G_s L^2)``.
    Source: Katili, Int. J. Num. Meth. Eng. 36 (1993), 1859-1883 and 1885-1908.
    """
    count, corners = p.shape[:2]
    d = np.roll(p, -1, axis=1) - p
    L = np.hypot(d[..., 0], d[..., 1])
    C, S = d[..., 0] / L, d[..., 1] / L
    CC, SS, CS = C * C, S * S, C * S
    D, G = (v.transpose(1, 2, 0)[..., None] for v in (sections.own, sections.shear))
    bending = (
        CC * CC * D[0, 0] + SS * SS * D[1, 1] + 2 * CS * CS * (D[0, 1] + 2 * D[2, 2]) + 4 * CS * (CC * D[0, 2] + SS * D[1, 2])
    )
    shear = CC * G[0, 0] + SS * G[1, 1] + 2 * CS * G[0, 1]
    phi = 12.0 * bending / (shear * L**2)
    delta = np.zeros((count, corners, corners, 5))
    scale = 1.5 / (L * (1.0 + phi))
    half_x, half_y = -0.5 * scale * L * C, -0.5 * scale * L * S
    for k in range(corners):
        j = (k + 1) % corners
        delta[:, k, k, 2] = scale[:, k]
        delta[:, k, j, 2] = -scale[:, k]
        for node in (k, j):
            delta[:, k, node, 3] = half_x[:, k]
            delta[:, k, node, 4] = half_y[:, k]
    flat = delta.reshape(count, corners, 5 * corners)
    return Sides(C, S, L, flat, -(2.0 / 3.0) * phi)
