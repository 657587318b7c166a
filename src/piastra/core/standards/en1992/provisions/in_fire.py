"""EN 1992-1-2, 5.7.4 (2): top bars of flat slabs that run through their spans."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.en1992.fire import TOP
from piastra.core.standards.provision import Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value


@dataclass(frozen=True, slots=True)
class KeptTop(Explained):
    """A share of the top steel over intermediate columns, in the column strip, where the fire resistance asks for it."""

    share: float
    clause: str = TOP
    name: str = "fire_through"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "It follows the top steel over the columns; a lower fire resistance than REI 90 does not ask for it."

    def demand(self, at: Stations) -> Demand:
        """In column strips of flat slabs, in the upper face."""
        area = np.where(at.top, at.kept, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Top bars through the span in a fire", self.clause, "a_s = k_top · A_s / b", (
                    Value("k_top", self.share), Value("A_s", 1e6 * float(at.kept[i] * at.width[i]) / self.share, "steel", "of the panel over the greater support"),
                    Value("b", float(at.width[i]), "length", "of the column strip here")),
                    Value("a_s", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
