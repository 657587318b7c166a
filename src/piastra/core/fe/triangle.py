"""The three-node element: DKMT bending (Katili 1993) with a constant-strain membrane."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.fe.element import Operators
from piastra.core.fe.section import Sections
from piastra.core.fe.sides import sides

Array = npt.NDArray[np.float64]

# Area coordinates of the three-point rule, exact for quadratics.
POINTS = np.array([[2 / 3, 1 / 6, 1 / 6], [1 / 6, 2 / 3, 1 / 6], [1 / 6, 1 / 6, 2 / 3]])
TO_CORNERS = np.linalg.inv(POINTS)
"""Extrapolates values at the integration points to the corners."""


def operators(p: Array, sections: Sections) -> Operators:
    """Strain operators at three points of triangles with corners ``p`` (e, 3, 2) m.

    Source: Katili (1993) part I; the shear strain is linear between the corners, where it is that of the two
    sides that meet there.
    """
    count = len(p)
    side = sides(p, sections)
    x, y = p[..., 0], p[..., 1]
    b = np.roll(y, -1, axis=1) - np.roll(y, 1, axis=1)
    c = np.roll(x, 1, axis=1) - np.roll(x, -1, axis=1)
    twice = (x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (x[:, 2] - x[:, 0]) * (y[:, 1] - y[:, 0])
    dL = np.stack([b, c], axis=1) / twice[:, None, None]
    strain = np.zeros((count, 8, 3, 15))
    gamma = side.gamma
    before = np.roll(np.arange(3), 1)
    cross = side.C * side.S[:, before] - side.C[:, before] * side.S
    corner = np.zeros((count, 3, 2, 15))
    corner[:, :, 0] = (side.S[:, before, None] * gamma - side.S[..., None] * gamma[:, before]) / cross[..., None]
    corner[:, :, 1] = (-side.C[:, before, None] * gamma + side.C[..., None] * gamma[:, before]) / cross[..., None]
    for g, area in enumerate(POINTS):
        strain[:, 0, g, 0::5] = strain[:, 2, g, 1::5] = strain[:, 3, g, 3::5] = strain[:, 5, g, 4::5] = dL[:, 0]
        strain[:, 1, g, 1::5] = strain[:, 2, g, 0::5] = strain[:, 4, g, 4::5] = strain[:, 5, g, 3::5] = dL[:, 1]
        after = np.roll(np.arange(3), -1)
        dP = 4 * (area[None, None, :] * dL[:, :, after] + area[None, None, after] * dL)
        curve = np.stack([dP[:, 0] * side.C, dP[:, 1] * side.S, dP[:, 1] * side.C + dP[:, 0] * side.S], axis=1)
        strain[:, 3:6, g] += curve @ side.delta
        strain[:, 6:, g] = np.einsum("n,enck->eck", area, corner)
    weight = np.repeat(twice[:, None] / 6.0, 3, axis=1)
    return Operators(strain, weight, Operators.law_of(sections), TO_CORNERS)
