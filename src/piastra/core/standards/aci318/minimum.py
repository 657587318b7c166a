"""Least steel of ACI 318-19 (SI units): 8.6.1.1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import Sections
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

CLAUSE = "ACI 318-19, 8.6.1.1"
PARAMETERS = (Parameter("rho_least", "rho_min", "least flexural steel over the gross section", 0.0018, CLAUSE, design=True),)


@dataclass(frozen=True, slots=True)
class Least:
    """Least steel ``area`` (k,) m2/m near the tension face."""

    rho: float
    sections: Sections
    area: Array

    def steps(self, i: int) -> tuple[Step, ...]:
        """The ratio of the gross section."""
        h, area = Value("h", float(self.sections.h[i]), "size"), Value("A_s,min", 1e6 * float(self.area[i]), "steel_per_m")
        if not self.area[i] > 0:
            return (
                Step(
                    "Least steel",
                    CLAUSE,
                    values=(h,),
                    note="The face is in tension in no combination, and no least steel is asked for.",
                ),
            )
        return (Step("Least steel", CLAUSE, "A_s,min = rho_min · h", (Value("rho_min", self.rho), h), area),)


@dataclass(frozen=True, slots=True)
class LeastSteel:
    """0.0018 of the gross section near the tension face."""

    rho: float

    def least(self, m: Array, sections: Sections) -> Least:
        """Where the moment ``m`` (k,) kNm/m stretches the face."""
        return Least(self.rho, sections, np.where(m > 0, self.rho * sections.h, 0.0))
