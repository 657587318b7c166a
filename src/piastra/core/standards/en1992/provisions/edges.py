"""EN 1992-1-1, 9.3.1.4: bars across free edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.protocol import MinimumRules, Sections
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step

CLAUSE = "EN 1992-1-1, 9.3.1.4"
STRETCHED = 1e6
"""The clause gives no area: the least steel of a face is taken as under any moment (kNm/m) that stretches it."""


@dataclass(frozen=True, slots=True)
class FreeEdge(Explained):
    """Top bars across an edge that nothing holds, bent down at it as a U, with legs of 2 h."""

    rules: MinimumRules
    clause: str = CLAUSE
    name: str = "free_edge"
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "A top mat that is bent down at the edge serves as well; so does a beam along the edge."

    def demand(self, at: Stations) -> Demand:
        """At free edges, in the upper face."""

        def least(some: Stations, c: Concrete, r: Rebar) -> Array:
            return self.rules.least(np.full(len(some.h), STRETCHED), Sections(some.h, some.d, some.d2, c, r)).area

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            found = self.rules.least(np.full(1, STRETCHED), Sections(one.h, one.d, one.d2, *one.materials[int(one.kind[0])]))
            told = Step("Bars across the free edge", CLAUSE, note="The clause gives no area; the least flexural steel is taken.")
            return told, *found.steps(0)

        return Demand(np.where(at.top & at.free, at.each(least), 0.0), steps)
