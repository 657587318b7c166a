"""Development and splices of bars: ACI 318-19 (SI units), 25.4.2, 25.5.2; extension of bars, 7.7.3.3."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar

CAST_BELOW = 0.3
"""Bars with more fresh concrete below them than this (m) develop over a longer length, table 25.4.2.5."""
SMALL = 0.0195
"""Bars up to No. 19 have the more favourable factor of table 25.4.2.3."""
CLASS_B = 1.3


@dataclass(frozen=True, slots=True)
class Anchorage:
    """Lengths in m."""

    def length(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """l_d by table 25.4.2.3 for bars with clear spacing of 2 d_b, uncoated, normalweight concrete, sqrt(f'_c) at most 8.3
        MPa; not less than 300 mm."""
        root = min(np.sqrt(concrete.strength_MPa), 8.3)
        psi_t = 1.3 if top and h - 0.05 > CAST_BELOW else 1.0
        psi_g = 1.0 if rebar.yield_MPa <= 420 else 1.15 if rebar.yield_MPa <= 550 else 1.3
        factor = 2.1 if bar <= SMALL else 1.7
        return max(float(rebar.yield_MPa * psi_t * psi_g / (factor * root)) * bar, 0.3)

    def lap(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """Class B, 25.5.2.1."""
        return max(CLASS_B * self.length(bar, h, top, concrete, rebar), 0.3)

    def shift(self, d: float) -> float:
        """7.7.3.3: bars go on for the effective depth beyond where they are not needed."""
        return d
