"""Anchorage and laps of bars: EN 1992-1-1, 8.4 and 8.7; the shift of the moment, 9.2.1.3."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.en1992.materials import Materials

DEEP = 0.25
"""Top bars of slabs deeper than this (m) have poor bond, 8.4.2 (2), figure 8.2."""
LAPPED = 1.5
"""alpha_6 where more than half of the bars are lapped, table 8.3."""


@dataclass(frozen=True, slots=True)
class Anchorage:
    """Lengths in m."""

    materials: Materials

    def length(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """l_bd of a straight bar at full stress: (8.3), (8.4), not less than (8.6). f_bd = 2.25 eta_1 eta_2 f_ctd, f_ctd limited
        to C60/75."""
        f_ctd = 0.7 * min(self.materials.f_ctm(concrete), 4354.0) / self.materials.gamma_C
        eta_1 = 0.7 if top and h > DEEP else 1.0
        eta_2 = min(1.0, (132 - 1e3 * bar) / 100)
        f_bd = 2.25 * eta_1 * eta_2 * f_ctd
        needed = bar / 4 * self.materials.f_yd(rebar) / f_bd
        return max(needed, 10 * bar, 0.1)

    def lap(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """l_0 with all bars lapped in one place: (8.10), not less than (8.11)."""
        return max(LAPPED * self.length(bar, h, top, concrete, rebar), 15 * bar, 0.2)

    def shift(self, d: float) -> float:
        """a_l of slabs without shear reinforcement: 9.2.1.3 (2), 6.2.2 (5)."""
        return d
