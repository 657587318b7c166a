"""EN 1992-1-1, 9.3.1.2: what continues to supports, and what holds unintended restraint."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

BOTTOM, TOP = "EN 1992-1-1, 9.3.1.2 (1)", "EN 1992-1-1, 9.3.1.2 (2)"
PARAMETERS = (
    Parameter("k_support", "k_sup", "span steel that continues to a support without restraint", 0.5, BOTTOM, design=True),
    Parameter("k_restraint", "k_rest", "top steel over span steel at edges modelled without restraint", 0.25, TOP, design=True),
)


@dataclass(frozen=True, slots=True)
class SupportBottom(Explained):
    """Half of the span's bottom steel continues to a simple support at the end."""

    share: float
    clause: str = BOTTOM
    name: str = "support_bottom"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "It follows the steel of the span; less load there makes it less."

    def demand(self, at: Stations) -> Demand:
        """At end supports that do not clamp the floor."""
        area = np.where(~at.top & at.end & at.simple, self.share * at.span, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Bottom steel at the support", self.clause, "A_s,sup = k_sup · A_s,span", (
                    Value("k_sup", self.share), Value("A_s,span", 1e6 * float(at.span[i]), "steel_per_m", "greatest of the span")),
                    Value("A_s,sup", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)


@dataclass(frozen=True, slots=True)
class Restraint(Explained):
    """A quarter of the span's bottom steel as top steel where an edge is modelled without restraint but has some."""

    share: float
    clause: str = TOP
    name: str = "restraint"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "Model the wall as joined to the floor: the moment is then computed, and this provision falls away."

    def demand(self, at: Stations) -> Demand:
        """At end supports that are modelled as hinges."""
        area = np.where(at.top & at.end & at.simple, self.share * at.span_bottom, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Unintended restraint", self.clause, "A_s,rest = k_rest · A_s,span", (
                    Value("k_rest", self.share), Value("A_s,span", 1e6 * float(at.span_bottom[i]), "steel_per_m", "bottom steel of the span")),
                    Value("A_s,rest", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
