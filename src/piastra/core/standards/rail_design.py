"""The search for rails that carry a zone, by any standard's comparisons."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from piastra.core.standards.zone_rules import Laid, Lay, Rails, ZoneUse

BARS = (0.010, 0.012, 0.014, 0.016, 0.020)
"""Diameters of studs, m."""
MOST_A_RAIL, MOST_MORE = 14, 16
STEP = 0.005
"""Spacings are rounded down to this, m."""


def rounded(length: float) -> float:
    """Down to the step, m."""
    return max(float(np.floor(length / STEP + 1e-9)), 1.0) * STEP


def searched(
    rails: Callable[[float, int, int], Rails], area: float, least: int, lay: Lay, uses: Callable[[Laid], Sequence[ZoneUse]],
) -> Laid | None:  # fmt: skip
    """The thinnest studs of which no more than twice the ``least`` count of rails gives the ``area`` m2, then as many rails and studs
    a rail as all ``uses`` ask for; None where no number of them does."""
    for bar in BARS:
        one = float(np.pi * bar**2 / 4)
        count = max(least, int(np.ceil(area / one - 1e-9)))
        if count > 2 * least and bar != BARS[-1]:
            continue
        for more in range(0, MOST_MORE + 1, 2):
            for per_rail in range(2, MOST_A_RAIL + 1):
                laid = lay(rails(bar, count + more, per_rail))
                found = uses(laid)
                if all(u.utilisation <= 1 for u in found):
                    return laid
                # Longer rails mend what is beyond them, nothing else.
                if any(u.utilisation > 1 and u.part not in ("outer", "perimeters of studs") for u in found):
                    break
    return None
