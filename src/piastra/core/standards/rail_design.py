"""The search for rails that carry a zone, by any standard's comparisons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from piastra.core.standards.zone_rules import Laid, Lay, Rails, ZoneUse

BARS = (0.010, 0.012, 0.014, 0.016, 0.020)
"""Diameters of studs, m."""
LEAST_A_RAIL, MOST_A_RAIL, MOST_MORE = 2, 14, 16
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
            laid = _long_enough(partial(rails, bar, count + more), lay, uses)
            if laid is not None:
                return laid
    return None


def _long_enough(rails: Callable[[int], Rails], lay: Lay, uses: Callable[[Laid], Sequence[ZoneUse]]) -> Laid | None:
    """The fewest studs a rail with which all ``uses`` are met; None where longer rails do not mend it.

    The perimeter beyond the studs grows by no more than 2 pi times a spacing with each, as it does round about a column: studs fewer than
    what it lacks asks for are not tried, and where it does not grow any more, rails are too far apart.
    """
    per_rail, tried, length = LEAST_A_RAIL, LEAST_A_RAIL - 1, 0.0
    while True:
        laid = lay(rails(per_rail))
        found = uses(laid)
        worst = max((u.utilisation for u in found if u.part == "outer"), default=0.0)
        if all(u.utilisation <= 1 for u in found):
            break
        # Longer rails mend what is beyond them, nothing else.
        if any(u.utilisation > 1 and u.part not in ("outer", "perimeters of studs") for u in found):
            return None
        now = laid.outer.length if laid.outer is not None else 0.0
        if per_rail == MOST_A_RAIL or 0.0 < now <= length:
            return None
        lacks = int(np.ceil((worst - 1.0) * now / (2 * np.pi * laid.rails.spacing) - 1e-9))
        tried, length = per_rail, now
        per_rail = min(per_rail + max(lacks, 1), MOST_A_RAIL)
    # Where openings or edges bend the perimeter, it grows by other lengths: it may have been enough before.
    for fewer in range(per_rail - 1, tried, -1):
        less = lay(rails(fewer))
        if any(u.utilisation > 1 for u in uses(less)):
            break
        laid = less
    return laid
