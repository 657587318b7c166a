"""Top steel for the moment that passes from a slab into a column, by the metre of the width over which it passes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.protocol import FlexureRules, Sections
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value


@dataclass(frozen=True, slots=True)
class MomentTransfer(Explained):
    """The column's moment over a band about its axis: the share that the slab gives by flexure (``shared``), or all of it, at
    all columns or only at those ``at_edges``."""

    flexure: FlexureRules
    clause: str
    name: str
    gathers: Gathers
    shared: bool
    at_edges: bool
    band: str
    """What the width is."""
    derived: bool = True
    remedy: str = "A more flexible column, or spans and loads that are more alike on both sides, leave it less moment."

    def demand(self, at: Stations) -> Demand:
        """Top steel by the metre of that width."""
        here = at.top & at.column & (at.transfer > 0) & (at.band > 0) & (at.end if self.at_edges else True)

        def moment(some: Stations) -> Array:
            share = some.transfer_share if self.shared else 1.0
            return np.asarray(share * some.transfer / np.maximum(some.band, 1e-9))

        def band(some: Stations, c: Concrete, r: Rebar) -> Array:
            m = moment(some)
            return self.flexure.design(m, np.zeros_like(m), Sections(some.h, some.d, some.d2, c, r)).tension

        area = np.where(here, at.each(band), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            c, r = one.materials[int(one.kind[0])]
            m = moment(one)
            whole = Value("M_sc", float(at.transfer[i]), "moment", "into the column above and below")
            width = Value("b_slab", float(at.band[i]), "length", self.band)
            result = Value("M_u", float(m[0]), "moment_per_m")
            first = (
                Step("Moment taken by flexure", self.clause, "M_u = gamma_f · M_sc / b_slab",
                     (Value("gamma_f", float(at.transfer_share[i])), whole, width), result)
                if self.shared else
                Step("Moment into the column", self.clause, "M_u = M_sc / b_slab", (whole, width), result)
            )  # fmt: skip
            return first, *self.flexure.design(m, np.zeros(1), Sections(one.h, one.d, one.d2, c, r)).steps(0)

        return Demand(area, steps)
