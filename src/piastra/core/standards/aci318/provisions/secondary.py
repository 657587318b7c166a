"""ACI 318-19, 24.4.3: shrinkage and temperature bars across those of a slab that spans one way."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "ACI 318-19, 24.4.3.2"
PARAMETERS = (
    Parameter("rho_temperature", "rho_t", "shrinkage and temperature steel over the gross section", 0.0018, CLAUSE, design=True),
)


@dataclass(frozen=True, slots=True)
class Secondary(Explained):
    """0.0018 of the gross section, in the lower face."""

    rho: float
    clause: str = CLAUSE
    name: str = "secondary"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "Supports along the other two edges would make the slab span both ways."

    def demand(self, at: Stations) -> Demand:
        """Where the slab spans one way, across the span."""
        area = np.where((at.principal > 0) & ~at.top, self.rho * at.h, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Shrinkage and temperature", CLAUSE, "A_s,t = rho_t · h", (
                    Value("rho_t", self.rho), Value("h", float(at.h[i]), "size")), Value("A_s,t", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
