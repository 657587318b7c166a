"""Bars at an angle to their strip: what they give along it and across it, they resist together with a twist."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

NONE = 1e-6
"""Bars of less (m2/m) for strength are none."""


@dataclass(frozen=True, slots=True)
class Skew(Explained):
    """Two layers at an angle resist moments along the strip a_xx, across it a_yy and, unless they are alike, a twist a_xy that nothing asks for. By the
    yield criterion of orthotropic slabs (Johansen 1962; Kemp 1965) a demand is safe where (a_xx - a)(a_yy - b) is at least the square of what is between the twists:
    it is where a_xx r and a_yy r cover the demands with their own twist, r = 1 - |a_xy| / sqrt(a_xx a_yy)."""

    clause: str
    name: str = "skew_bars"
    derived: bool = True
    gathers: Gathers = ""
    remedy: str = "Bars along the strip, or alike in both layers, hold no twist of their own."

    def demand(self, at: Stations) -> Demand:
        """a_xx from a_xx - k sqrt(a_xx) = a with k = |a_xy| / sqrt(a_yy)."""
        area: Array = np.where((at.askew > 0) & (at.bent > NONE), ((at.askew + np.sqrt(at.askew**2 + 4 * at.bent)) / 2) ** 2, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            a_k = Value(
                "a_k",
                1e6 * float(at.askew[i]) ** 2,
                "steel_per_m",
                "square of the bars' own twist over what they give across the strip",
            )
            a = Value("a_s", 1e6 * float(at.bent[i]), "steel_per_m", "for strength along the strip")
            return (
                Step("Bars at an angle to the strip", self.clause, "a_xx = ((sqrt(a_k) + sqrt(a_k + 4 · a_s)) / 2)^2", (a_k, a),
                     Value("a_xx", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
