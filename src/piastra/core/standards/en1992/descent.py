"""Reduction of imposed loads on columns and walls: EN 1991-1-1, 6.3.1.2 (10) and (11)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from piastra.core.standards.descent_rules import Carried, Reduction
from piastra.core.trace import Step, Value

AREA, STOREYS = "EN 1991-1-1, 6.3.1.2 (10) (6.1)", "EN 1991-1-1, 6.3.1.2 (11) (6.2)"
REDUCED = ("A", "B", "C", "D")
"""Categories whose loads may be reduced."""
REFERENCE = 10.0
"""A_0, m2."""
LEAST_CD = 0.6
"""alpha_A of categories C and D at least."""


@dataclass(frozen=True, slots=True)
class Descent:
    """By area or by number of storeys, whichever is less: not both at once. ``psi_0`` by category."""

    psi_0: Mapping[str, float]
    accompanying = False
    """One of psi and alpha_n alone: EN 1991-1-1, 3.3.2 (2)."""

    def reduction(self, carried: Carried) -> Reduction:
        """Of categories A to D, live load without one counts as B; none is made of others."""
        category = carried.category or "B"
        if category not in REDUCED:
            return Reduction(1.0, (Step("No reduction", STOREYS, note=f"Loads of category {category} are not reduced."),))
        psi = Value("psi_0", self.psi_0[category])
        A0, A = Value("A_0", REFERENCE, "area"), Value("A", carried.area, "area", "that the column or wall carries")
        least = LEAST_CD if category in ("C", "D") else 0.0
        by_area = min(max(5 / 7 * psi.value + REFERENCE / max(carried.area, 1e-9), least), 1.0) if carried.area > 0 else 1.0
        steps = [
            Step("By area", AREA, "alpha_A = min(max(5 / 7 · psi_0 + A_0 / A, alpha_min), 1)", (psi, A0, A, Value("alpha_min", least)), Value("alpha_A", by_area))
        ] if carried.area > 0 else []  # fmt: skip
        by_storeys = 1.0
        if carried.storeys > 2:
            n = Value("n", float(carried.storeys), meaning="storeys above")
            by_storeys = (2 + (carried.storeys - 2) * psi.value) / carried.storeys
            steps.append(
                Step("By storeys", STOREYS, "alpha_n = (2 + (n - 2) · psi_0) / n", (n, psi), Value("alpha_n", by_storeys))
            )
        factor = min(by_area, by_storeys)
        steps.append(Step("Reduction", note="The lesser of the two, not both at once.", result=Value("alpha", factor)))
        return Reduction(factor, tuple(steps))
