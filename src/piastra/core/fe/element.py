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

    ``strain`` (e, 8, g, d): membrane strains and curvatures xx, yy, xy, shear strains xz, yz; ``weight`` (e, g) m2;
    ``law`` (e, 8, 8) section stiffness; ``to_corners`` (corners, g). The points lie behind the strains, so that the law is
    applied to all points of an element by one product.
    """

    strain: Array
    weight: Array
    law: Array
    to_corners: Array

    @staticmethod
    def law_of(sections: Sections) -> Array:
        """The law of membrane, bending and shear together, (e, 8, 8)."""
        law = np.zeros((len(sections.h), 8, 8))
        law[:, :3, :3], law[:, :3, 3:6], law[:, 3:6, :3], law[:, 3:6, 3:6] = sections.A, sections.B, sections.B, sections.D
        law[:, 6:, 6:] = sections.shear
        return law

    def _at_points(self) -> Array:
        """Operator to section forces at the points, (e, 8, g, d)."""
        count, rows, points, unknowns = self.strain.shape
        return (self.law @ self.strain.reshape(count, rows, points * unknowns)).reshape(self.strain.shape)

    def stiffness(self) -> Array:
        """Element stiffness matrices, (e, d, d)."""
        count, rows, points, unknowns = self.strain.shape
        force = self._at_points()
        force *= self.weight[:, None, :, None]
        left = self.strain.reshape(count, rows * points, unknowns)
        return left.transpose(0, 2, 1) @ force.reshape(count, rows * points, unknowns)

    def forces(self) -> Array:
        """Operator to section forces at the corners, (e, corners, 8, d).

        Rows: n_x, n_y, n_xy (kN/m), m_x, m_y, m_xy (kNm/m) about the reference plane, v_x, v_y (kN/m).
        """
        return np.ascontiguousarray((self.to_corners @ self._at_points()).transpose(0, 2, 1, 3))

    def mean_strain(self) -> Array:
        """Operator to the mean of the strains at the corners, (e, 8, d)."""
        count, rows, points, unknowns = self.strain.shape
        mean = self.to_corners.mean(axis=0)
        return (mean @ self.strain.reshape(count * rows, points, unknowns)).reshape(count, rows, unknowns)

    def integral(self) -> Array:
        """Operator to the strains integrated over the elements, (e, 8, d) m2."""
        return (self.weight[:, None, None] @ self.strain)[:, :, 0]
