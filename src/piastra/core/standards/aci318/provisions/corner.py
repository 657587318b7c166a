"""ACI 318-19, 8.7.3: steel at outer corners that are held along both edges."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "ACI 318-19, 8.7.3.1"
REACH = 0.2
"""Of the span, from the corner (8.7.3.1.2)."""


@dataclass(frozen=True, slots=True)
class Corner(Explained):
    """As much as the greatest positive moment of the panel asks for, in both faces and parallel to both edges."""

    clause: str = CLAUSE
    name: str = "corner"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "An edge that can lift, or one without a wall or beam, has no such corner."

    def demand(self, at: Stations) -> Demand:
        """Within a fifth of the span from the corner."""

        def steps(i: int) -> tuple[Step, ...]:
            most = Value(
                "A_s,max", 1e6 * float(at.corner[i]), "steel_per_m", "greatest bottom steel of the spans that meet there"
            )
            return (
                Step("Corner held down", CLAUSE, "A_s,corner = A_s,max", (most,), Value("A_s,corner", most.value, "steel_per_m")),
            )

        return Demand(at.corner, steps)
