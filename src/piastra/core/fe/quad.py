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


def _side_slopes() -> Array:
    """Natural derivatives of the quadratic side functions at the Gauss points, (2, points, sides)."""
    xi, eta = GAUSS[:, :1], GAUSS[:, 1:]
    by_xi = np.hstack([-xi * (1 - eta), 0.5 * (1 - eta**2), -xi * (1 + eta), -0.5 * (1 - eta**2)])
    by_eta = np.hstack([-0.5 * (1 - xi**2), -eta * (1 + xi), 0.5 * (1 - xi**2), -eta * (1 - xi)])
    return np.stack([by_xi, by_eta])


_SLOPES = slope(GAUSS).transpose(1, 0, 2)
_SIDE_SLOPES = _side_slopes()
_FROM_SIDES = np.zeros((2, 4, 4))
"""Natural shear strains at the Gauss points from those along the sides, (2, points, sides)."""
_FROM_SIDES[0, :, 0], _FROM_SIDES[0, :, 2] = 0.25 * (1 - GAUSS[:, 1]), -0.25 * (1 + GAUSS[:, 1])
_FROM_SIDES[1, :, 1], _FROM_SIDES[1, :, 3] = 0.25 * (1 + GAUSS[:, 0]), -0.25 * (1 - GAUSS[:, 0])


def _inverse(matrix: Array) -> Array:
    """Inverses (e, 4, 4) of symmetric positive definite matrices, by halves: on all elements at once, each alone takes several times as long."""
    a, b, c = matrix[:, :2, :2], matrix[:, :2, 2:], matrix[:, 2:, 2:]
    own = _inverse_of_two(a)
    across = own @ b
    rest = _inverse_of_two(c - b.transpose(0, 2, 1) @ across)
    out = np.empty_like(matrix)
    out[:, 2:, 2:] = rest
    out[:, :2, 2:] = -across @ rest
    out[:, 2:, :2] = out[:, :2, 2:].transpose(0, 2, 1)
    out[:, :2, :2] = own - out[:, :2, 2:] @ across.transpose(0, 2, 1)
    return out


def _inverse_of_two(matrix: Array) -> Array:
    out = np.empty_like(matrix)
    out[:, 0, 0], out[:, 1, 1] = matrix[:, 1, 1], matrix[:, 0, 0]
    out[:, 0, 1], out[:, 1, 0] = -matrix[:, 0, 1], -matrix[:, 1, 0]
    return np.asarray(out / (matrix[:, 0, 0] * matrix[:, 1, 1] - matrix[:, 0, 1] * matrix[:, 1, 0])[:, None, None])


def operators(p: Array, sections: Sections) -> Operators:
    """Strain operators at the 2 x 2 Gauss points of quadrilaterals with corners ``p`` (e, 4, 2) m.

    Sources: bending and shear, Katili (1993) part II; membrane, the modes ``1 - xi^2`` and ``1 - eta^2`` with
    their derivatives taken at the centre (Taylor, Beresford and Wilson 1976), eliminated together with the
    coupling to bending, so that an eccentric section does not lock.
    """
    count = len(p)
    side = sides(p, sections)
    # The Jacobian's rows: derivatives of x and y by xi and eta, each (e, points).
    x, y = p[..., 0], p[..., 1]
    x_xi, x_eta, y_xi, y_eta = x @ _SLOPES[0].T, x @ _SLOPES[1].T, y @ _SLOPES[0].T, y @ _SLOPES[1].T
    det = x_xi * y_eta - y_xi * x_eta
    a, b, c, d = (v[..., None] for v in (y_eta / det, -y_xi / det, -x_eta / det, x_xi / det))
    strain = np.zeros((count, 8, 4, 20))
    N_x, N_y = a * _SLOPES[0] + b * _SLOPES[1], c * _SLOPES[0] + d * _SLOPES[1]
    strain[:, 0, :, 0::5] = strain[:, 2, :, 1::5] = strain[:, 3, :, 3::5] = strain[:, 5, :, 4::5] = N_x
    strain[:, 1, :, 1::5] = strain[:, 2, :, 0::5] = strain[:, 4, :, 4::5] = strain[:, 5, :, 3::5] = N_y
    P_x, P_y = a * _SIDE_SLOPES[0] + b * _SIDE_SLOPES[1], c * _SIDE_SLOPES[0] + d * _SIDE_SLOPES[1]
    C, S = side.C[:, None], side.S[:, None]
    along = side.L[:, None] * side.shear[:, None]
    G_x, G_y = ((u * _FROM_SIDES[0] + v * _FROM_SIDES[1]) * along for u, v in ((a, b), (c, d)))
    from_sides = np.stack([P_x * C, P_y * S, P_y * C + P_x * S, G_x, G_y], axis=1).reshape(count, 20, 4)
    strain[:, 3:] += (from_sides @ side.delta).reshape(count, 5, 4, 20)

    middle = slope(np.zeros((1, 2)))[0]
    cx_xi, cx_eta, cy_xi, cy_eta = x @ middle[0], x @ middle[1], y @ middle[0], y @ middle[1]
    # Modes times the ratio of determinants: the centre's inverse over its own determinant leaves these.
    one_x, one_y = (-2 * v[:, None] * GAUSS[:, 0] / det for v in (cy_eta, -cx_eta))
    two_x, two_y = (-2 * v[:, None] * GAUSS[:, 1] / det for v in (-cy_xi, cx_xi))
    modes = np.zeros((count, 3, 4, 4))
    for k, (m_x, m_y) in enumerate(((one_x, one_y), (two_x, two_y))):
        modes[:, 0, :, k] = modes[:, 2, :, k + 2] = m_x
        modes[:, 1, :, k + 2] = modes[:, 2, :, k] = m_y
    law = Operators.law_of(sections)
    weighted = (modes * det[:, None, :, None]).reshape(count, 12, 4).transpose(0, 2, 1)
    stressed = (law[:, :3, :3] @ modes.reshape(count, 3, 16)).reshape(count, 12, 4)
    mixed = (law[:, :3, :6] @ strain[:, :6].reshape(count, 6, 80)).reshape(count, 12, 20)
    held = _inverse(weighted @ stressed) @ (weighted @ mixed)
    strain[:, :3] -= (modes.reshape(count, 12, 4) @ held).reshape(count, 3, 4, 20)
    return Operators(strain, det, law, TO_CORNERS)
