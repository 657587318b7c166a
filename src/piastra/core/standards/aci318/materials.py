"""Materials of ACI 318-19 (SI units): chapter 19."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete

LEAST_STRENGTH = 17.0
"""Least f'_c (MPa) of structural concrete, table 19.2.1.1."""


@dataclass(frozen=True, slots=True)
class Materials:
    """Values of concretes, kN/m2."""

    def modulus(self, concrete: Concrete) -> float:
        """19.2.2.1 (b): E_c = 4700 sqrt(f'_c) MPa; a given one replaces it."""
        return 1e3 * (concrete.E_MPa if concrete.E_MPa is not None else 4700.0 * float(np.sqrt(concrete.strength_MPa)))

    def not_covered(self, concrete: Concrete) -> str:
        """Table 19.2.1.1: at least 17 MPa (2500 psi); no upper limit for normalweight concrete."""
        if concrete.strength_MPa >= LEAST_STRENGTH:
            return ""
        return f"is {concrete.strength_MPa:g} MPa, but ACI 318-19, table 19.2.1.1 asks for at least {LEAST_STRENGTH:g} MPa; choose a stronger one"
