"""EN 1992-1-1, 9.3.1.1 (2): bars across those of a slab that spans one way."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "EN 1992-1-1, 9.3.1.1 (2)"
PARAMETERS = (Parameter("k_secondary", "k_sec", "bars across over principal bars of one-way slabs", 0.2, CLAUSE, design=True),)


@dataclass(frozen=True, slots=True)
class Secondary(Explained):
    """A fifth of the principal bars."""

    share: float
    clause: str = CLAUSE
    name: str = "secondary"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "Supports along the other two edges would make the slab span both ways."

    def demand(self, at: Stations) -> Demand:
        """Where the slab spans one way, across the span."""
        area = self.share * at.principal

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Bars across the span", self.clause, "A_s,sec = k_sec · A_s,pr", (
                    Value("k_sec", self.share), Value("A_s,pr", 1e6 * float(at.principal[i]), "steel_per_m", "principal bars, required")),
                    Value("A_s,sec", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
