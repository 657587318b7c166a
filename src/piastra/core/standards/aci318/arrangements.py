"""Arrangements of live load that ACI 318-19 asks for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from piastra.core.combine.arrangements import Arrangement

ALL_PANELS_ALONE = 0.75
"""Live over dead load up to which all panels alone are enough, 6.4.3.2."""
SHARE = 0.75
"""Part of the live load on alternate panels and on those around a support, 6.4.3.3."""


class Arrangements:
    """6.4.3."""

    def required(self, found: Sequence[Arrangement], live_over_dead: float) -> list[Arrangement]:
        """6.4.3.2: all panels alone where the live load is at most three quarters of the dead load; 6.4.3.3: else three
        quarters of the live load on alternate panels and on the panels around a support, and all of it on all panels."""
        if live_over_dead <= ALL_PANELS_ALONE:
            return [a for a in found if "all" in a.rules]
        chosen = [a for a in found if a.rules & {"all", "alternate", "around"}]
        return [a if "all" in a.rules else replace(a, share=SHARE) for a in chosen]
