"""ACI 318-19, 8.4.2.2: steel for the moment that a column takes by flexure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.protocol import FlexureRules, Sections
from piastra.core.standards.provision import Array, Demand, Stations
from piastra.core.trace import Step, Value

CLAUSE = "ACI 318-19, 8.4.2.2.1 to 8.4.2.2.5"


@dataclass(frozen=True, slots=True)
class ColumnBand:
    """gamma_f M_sc over the column's width and 1.5 h to each side."""

    flexure: FlexureRules
    clause: str = CLAUSE
    name: str = "column_band"
    derived: bool = True
    gathers: Literal["", "eighth", "column"] = "column"
    remedy: str = "A more flexible column, or spans and loads that are more alike on both sides, leave it less moment."

    def explain(self, one: Stations, area: float) -> tuple[Step, ...]:
        """Its steps for one station."""
        return self.demand(one).steps(0)

    def demand(self, at: Stations) -> Demand:
        """Top steel by the metre of that width."""
        here = at.top & at.column & (at.transfer > 0) & (at.band > 0)
        m = np.where(here, at.transfer_share * at.transfer / np.maximum(at.band, 1e-9), 0.0)

        def band(some: Stations, c: Concrete, r: Rebar) -> Array:
            moment = some.transfer_share * some.transfer / np.maximum(some.band, 1e-9)
            return self.flexure.design(moment, np.zeros_like(moment), Sections(some.h, some.d, some.d2, c, r)).tension

        area = np.where(here, at.each(band), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            c, r = one.materials[int(one.kind[0])]
            share = Step("Moment taken by flexure", CLAUSE, "M_u = gamma_f · M_sc / b_slab", (
                Value("gamma_f", float(at.transfer_share[i])), Value("M_sc", float(at.transfer[i]), "moment", "of the column above and below"),
                Value("b_slab", float(at.band[i]), "length", "the column and 1.5 h to each side")),
                Value("M_u", float(m[i]), "moment_per_m"))  # fmt: skip
            return share, *self.flexure.design(m[i : i + 1], np.zeros(1), Sections(one.h, one.d, one.d2, c, r)).steps(0)

        return Demand(area, steps)
