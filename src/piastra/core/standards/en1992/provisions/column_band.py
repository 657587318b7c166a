"""EN 1992-1-1, 9.4.1 (2): top steel gathered over inner columns."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "EN 1992-1-1, 9.4.1 (2)"
PARAMETERS = (
    Parameter("band_share", "k_band", "share of the top steel of a panel's width that is gathered over an inner column", 0.5, CLAUSE, design=True),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class ColumnBand(Explained):
    """Half of the top steel of the whole panel width lies within an eighth of the panel to each side of an inner column."""

    share: float
    clause: str = CLAUSE
    name: str = "column_band"
    derived: bool = True
    gathers: Gathers = "eighth"
    remedy: str = "A line of support or a wall instead of the column would end it; so would less top steel over the panel."

    def demand(self, at: Stations) -> Demand:
        """Steel by the metre of the band."""
        here = at.top & at.column & at.inner & (at.band > 0)
        area = np.where(here, self.share * at.total / np.maximum(at.band, 1e-9), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Gathered over the column", self.clause, "A_s,band = k_band · A_t / b_band", (
                    Value("k_band", self.share), Value("A_t", 1e6 * float(at.total[i]), "steel", "top steel of the whole panel width"),
                    Value("b_band", float(at.band[i]), "length", "an eighth of the panel to each side")),
                    Value("A_s,band", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
