"""The four-node element: DKMQ bending (Katili 1993) with an incompatible-mode membrane (Taylor 1976)."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.fe.element import Operators
from piastra.core.fe.section import Sections
from piastra.core.fe.sides import sides

Array = npt.NDArray[np.float64]

_G = 1.0 / np.sqrt(3.0)
GAUSS = np.array([[-_G, -_G], [_G, -_G], [_G, _G], [-_G, _G]])
_SIGNS = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])


def shape(natural: Array) -> Array:
    """Bilinear shape functions at natural points (n, 2): (n, 4)."""
    return 0.25 * (1 + natural[:, :1] * _SIGNS[:, 0]) * (1 + natural[:, 1:] * _SIGNS[:, 1])


def slope(natural: Array) -> Array:
    """Their natural derivatives, (n, 2, 4)."""
    xi, eta = natural[:, :1], natural[:, 1:]
    by_xi = 0.25 * _SIGNS[:, 0] * (1 + eta * _SIGNS[:, 1])
    by_eta = 0.25 * _SIGNS[:, 1] * (1 + xi * _SIGNS[:, 0])
    return np.stack([by_xi, by_eta], axis=1)


TO_CORNERS = shape(_SIGNS * np.sqrt(3.0))
"""Extrapolates values at the Gauss points to the corners, (4 corners, 4 points)."""


def _side_slopes(xi: float, eta: float) -> Array:
    """Natural derivatives of the quadratic side functions, (2, 4)."""
    return np.array(
        [
            [-xi * (1 - eta), 0.5 * (1 - eta**2), -xi * (1 + eta), -0.5 * (1 - eta**2)],
            [-0.5 * (1 - xi**2), -eta * (1 + xi), 0.5 * (1 - xi**2), -eta * (1 - xi)],
        ]
    )


def operators(p: Array, sections: Sections) -> Operators:
    """Strain operators at the 2 x 2 Gauss points of quadrilaterals with corners ``p`` (e, 4, 2) m.

    Sources: bending and shear, Katili (1993) part II; membrane, the modes ``1 - xi^2`` and ``1 - eta^2`` with
    their derivatives taken at the centre (Taylor, Beresford and Wilson 1976), eliminated together with the
    coupling to bending, so that an eccentric section does not lock.
    """
    count = len(p)
    side = sides(p, sections)
    strain = np.zeros((count, 4, 6, 20))
    shear = np.zeros((count, 4, 2, 20))
    modes = np.zeros((count, 4, 6, 4))
    jacobian = np.einsum("gka,eac->egkc", slope(GAUSS), p)
    det = jacobian[..., 0, 0] * jacobian[..., 1, 1] - jacobian[..., 0, 1] * jacobian[..., 1, 0]
    inverse = np.linalg.inv(jacobian)
    centre = np.einsum("ka,eac->ekc", slope(np.zeros((1, 2)))[0], p)
    centre_inverse = np.linalg.inv(centre)
    centre_det = centre[:, 0, 0] * centre[:, 1, 1] - centre[:, 0, 1] * centre[:, 1, 0]
    for g, (xi, eta) in enumerate(GAUSS):
        dN = inverse[:, g] @ slope(GAUSS[g : g + 1])[0]
        strain[:, g, 0, 0::5] = strain[:, g, 2, 1::5] = dN[:, 0]
        strain[:, g, 1, 1::5] = strain[:, g, 2, 0::5] = dN[:, 1]
        strain[:, g, 3, 3::5] = strain[:, g, 5, 4::5] = dN[:, 0]
        strain[:, g, 4, 4::5] = strain[:, g, 5, 3::5] = dN[:, 1]
        dP = inverse[:, g] @ _side_slopes(xi, eta)
        curve = np.stack([dP[:, 0] * side.C, dP[:, 1] * side.S, dP[:, 1] * side.C + dP[:, 0] * side.S], axis=1)
        strain[:, g, 3:] += curve @ side.delta
        natural = np.zeros((count, 2, 4))
        natural[:, 0, 0] = 0.25 * (1 - eta) * side.L[:, 0]
        natural[:, 0, 2] = -0.25 * (1 + eta) * side.L[:, 2]
        natural[:, 1, 1] = 0.25 * (1 + xi) * side.L[:, 1]
        natural[:, 1, 3] = -0.25 * (1 - xi) * side.L[:, 3]
        shear[:, g] = inverse[:, g] @ natural @ side.gamma
        ratio = (centre_det / det[:, g])[:, None]
        m1 = centre_inverse[:, :, 0] * (-2 * xi) * ratio
        m2 = centre_inverse[:, :, 1] * (-2 * eta) * ratio
        for k, m in ((0, m1), (1, m2)):
            modes[:, g, 0, k] = modes[:, g, 2, k + 2] = m[:, 0]
            modes[:, g, 1, k + 2] = modes[:, g, 2, k] = m[:, 1]
    law = Operators.law_of(sections)
    stressed = (law[:, None] @ modes) * det[..., None, None]
    inner = np.einsum("egsi,egsj->eij", modes, stressed, optimize=True)
    mixed = np.einsum("egsi,egsj->eij", stressed, strain, optimize=True)
    strain = strain - modes @ np.linalg.solve(inner, mixed)[:, None]
    return Operators(strain, shear, det, law, sections.shear, TO_CORNERS)
