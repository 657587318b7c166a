"""What an element gives to the floor: stiffness, and section forces from displacements."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.section import Sections

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Operators:
    """Strain operators of ``e`` elements at ``g`` integration points, ``d`` unknowns an element.

    ``strain`` (e, g, 6, d): membrane strains and curvatures xx, yy, xy; ``shear`` (e, g, 2, d); ``weight``
    (e, g) m2; ``law`` (e, 6, 6) and ``shear_law`` (e, 2, 2) section stiffness; ``to_corners`` (corners, g).
    """

    strain: Array
    shear: Array
    weight: Array
    law: Array
    shear_law: Array
    to_corners: Array

    @staticmethod
    def law_of(sections: Sections) -> Array:
        """The 6 x 6 law of membrane and bending together, (e, 6, 6)."""
        upper = np.concatenate([sections.A, sections.B], axis=2)
        lower = np.concatenate([sections.B, sections.D], axis=2)
        return np.concatenate([upper, lower], axis=1)

    def stiffness(self) -> Array:
        """Element stiffness matrices, (e, d, d)."""
        count, points, _, unknowns = self.strain.shape
        stress = (self.law[:, None] @ self.strain) * self.weight[..., None, None]
        force = (self.shear_law[:, None] @ self.shear) * self.weight[..., None, None]
        left = np.concatenate([self.strain, self.shear], axis=2).reshape(count, points * 8, unknowns)
        right = np.concatenate([stress, force], axis=2).reshape(count, points * 8, unknowns)
        return left.transpose(0, 2, 1) @ right

    def forces(self) -> Array:
        """Operator to section forces at the corners, (e, corners, 8, d).

        Rows: n_x, n_y, n_xy (kN/m), m_x, m_y, m_xy (kNm/m) about the reference plane, v_x, v_y (kN/m).
        """
        at_points = np.concatenate([self.law[:, None] @ self.strain, self.shear_law[:, None] @ self.shear], axis=2)
        count, points, rows, unknowns = at_points.shape
        flat = at_points.reshape(count, points, rows * unknowns)
        return (self.to_corners @ flat).reshape(count, -1, rows, unknowns)
