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
    strain = np.zeros((count, 3, 6, 15))
    shear = np.zeros((count, 3, 2, 15))
    before = np.roll(np.arange(3), 1)
    cross = side.C * side.S[:, before] - side.C[:, before] * side.S
    corner = np.zeros((count, 3, 2, 15))
    corner[:, :, 0] = (side.S[:, before, None] * side.gamma - side.S[..., None] * side.gamma[:, before]) / cross[..., None]
    corner[:, :, 1] = (-side.C[:, before, None] * side.gamma + side.C[..., None] * side.gamma[:, before]) / cross[..., None]
    for g, area in enumerate(POINTS):
        strain[:, g, 0, 0::5] = strain[:, g, 2, 1::5] = dL[:, 0]
        strain[:, g, 1, 1::5] = strain[:, g, 2, 0::5] = dL[:, 1]
        strain[:, g, 3, 3::5] = strain[:, g, 5, 4::5] = dL[:, 0]
        strain[:, g, 4, 4::5] = strain[:, g, 5, 3::5] = dL[:, 1]
        after = np.roll(np.arange(3), -1)
        dP = 4 * (area[None, None, :] * dL[:, :, after] + area[None, None, after] * dL)
        curve = np.stack([dP[:, 0] * side.C, dP[:, 1] * side.S, dP[:, 1] * side.C + dP[:, 0] * side.S], axis=1)
        strain[:, g, 3:] += curve @ side.delta
        shear[:, g] = np.einsum("n,enck->eck", area, corner)
    weight = np.repeat(twice[:, None] / 6.0, 3, axis=1)
    return Operators(strain, shear, weight, Operators.law_of(sections), sections.shear, TO_CORNERS)
