"""Reduction of live loads on columns and walls: ASCE 7-16 (SI units), 4.7."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.descent_rules import Carried, Reduction
from piastra.core.trace import Step, Value

CLAUSE, HEAVY, GARAGES, ASSEMBLY = "ASCE 7-16, 4.7.2 (4.7-1)", "ASCE 7-16, 4.7.3", "ASCE 7-16, 4.7.4", "ASCE 7-16, 4.7.5"
K_COLUMN, K_WALL = 4.0, 1.0
"""K_LL of table 4.7-1: of interior columns and of edge columns without cantilever slabs; of all members that it does not name."""
FROM = 37.16
"""K_LL A_T from which loads are reduced, m2."""
FULL = 4.79
"""Loads above this (kN/m2) are reduced by no more than a fifth, on members with two floors or more."""
LEAST = (0.5, 0.4)
"""With one floor, and with more."""


@dataclass(frozen=True, slots=True)
class Descent:
    """By influence area."""

    accompanying = True

    def reduction(self, carried: Carried) -> Reduction:
        """Of one live case: by its category, else by its mean load."""
        most = carried.storeys > 1
        if carried.category == "assembly":
            return Reduction(1.0, (Step("No reduction", ASSEMBLY, note="Places of public assembly."),))
        heavy = carried.category == "heavy" or carried.mean > FULL
        if heavy or carried.category == "garage":
            clause, factor = (GARAGES if carried.category == "garage" else HEAVY), 0.8 if most else 1.0
            told = "A fifth less, as two floors or more are carried." if most else "One floor alone: no reduction."
            return Reduction(factor, (Step("Heavy loads and garages", note=f"{told} {clause}.", result=Value("R", factor)),))
        K, A = Value("K_LL", K_WALL if carried.wall else K_COLUMN), Value("A_T", carried.area, "area", "tributary")
        if K.value * A.value < FROM:
            return Reduction(1.0, (Step("Area", CLAUSE, values=(K, A), note=f"K_LL A_T is less than {FROM} m2: no reduction."),))
        least = Value("R_min", LEAST[int(most)])
        factor = min(max(0.25 + 4.57 / float(np.sqrt(K.value * A.value)), least.value), 1.0)
        return Reduction(factor, (
            Step("By influence area", CLAUSE, "R = min(max(0.25 + 4.57 / sqrt(K_LL · A_T), R_min), 1)", (K, A, least), Value("R", factor), empirical=True),
        ))  # fmt: skip
