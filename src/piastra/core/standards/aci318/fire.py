"""Tabulated fire resistance of floors that goes with ACI 318-19, 4.11: ACI 216.1-14, chapter 4, converted from inches."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.fire import Fire
from piastra.core.standards.fire_rules import FireNeeds
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

SLABS = "ACI 216.1-14, tables 4.2 and 4.3.1.1"
BEAMS = "ACI 216.1-14, table 4.3.1.2"
INCH = 0.0254
HOURS = (60, 90, 120, 180, 240)
"""The columns of the tables (minutes); half an hour is read as one."""
SIZES = {
    "siliceous": (3.5, 4.3, 5.0, 6.2, 7.0),
    "calcareous": (3.2, 4.0, 4.6, 5.7, 6.6),
    "lightweight": (2.7, 3.3, 3.8, 4.6, 5.4),
}
"""Least thickness, in; lightweight is semi-lightweight."""
RESTRAINED = (0.75,) * 5
BARS = {"siliceous": (0.75, 0.75, 1.0, 1.25, 1.625), "calcareous": (0.75, 0.75, 0.75, 1.25, 1.25), "lightweight": (0.75, 0.75, 0.75, 1.25, 1.25)}  # fmt: skip
"""Cover of bars of unrestrained slabs, in."""
TENDONS = {"siliceous": (1.125, 1.5, 1.75, 2.375, 2.75), "calcareous": (1.0, 1.375, 1.625, 2.125, 2.25), "lightweight": (1.0, 1.375, 1.5, 2.0, 2.25)}  # fmt: skip
"""Cover of tendons of unrestrained slabs, in."""
BEAM_WIDTHS = (5.0, 7.0, 10.0)
BEAM_BARS: dict[bool, tuple[tuple[float | None, ...], ...]] = {
    True: ((0.75, 0.75, 0.75, 1.0, 1.25), (0.75,) * 5, (0.75,) * 5),
    False: ((0.75, 1.0, 1.25, None, None), (0.75, 0.75, 0.75, 1.75, 3.0), (0.75, 0.75, 0.75, 1.0, 1.75)),
}
"""Cover of bars of beams by restraint, width and time, in; None: no cover would do."""


@dataclass(frozen=True, slots=True)
class Tables:
    """Clear covers; the tables hold for the whole load of service, so that a fire needs no combination of its own."""

    to_axis: bool = False
    most_MPa: float | None = None

    def slab(self, fire: Fire, flat: bool) -> FireNeeds:
        """One table for all slabs, whatever carries them."""
        k = _column(fire)
        h = INCH * SIZES[fire.aggregate][k]
        bars = INCH * (RESTRAINED if fire.restrained else BARS[fire.aggregate])[k]
        strands = INCH * (RESTRAINED if fire.restrained else TENDONS[fire.aggregate])[k]
        step = Step("Tables of fire resistance", SLABS, values=(
            Value("s_min", h, "size", "thickness, table 4.2"), Value("a_min", bars, "size", "clear cover of bars"), Value("a_p,min", strands, "size", "clear cover of tendons")),
            note=_told(fire))  # fmt: skip
        return FireNeeds(h, bars, strands, step)

    def beam(self, fire: Fire, width: float, continuous: bool, one_layer: bool) -> FireNeeds:
        """By the next smaller width of the table."""
        row = max((k for k, b in enumerate(BEAM_WIDTHS) if width >= INCH * b - 1e-9), default=0)
        found = BEAM_BARS[fire.restrained][row][_column(fire)]
        bars = None if found is None else INCH * found
        least = Value("s_min", INCH * BEAM_WIDTHS[0], "size")
        if bars is None:
            step = Step(
                "Table of fire resistance", BEAMS, values=(least,), note=f"{_told(fire)} No cover would do at this width."
            )
        else:
            step = Step(
                "Table of fire resistance",
                BEAMS,
                values=(least, Value("a_min", bars, "size", "clear cover of bars")),
                note=_told(fire),
            )
        return FireNeeds(least.value, bars, bars, step)

    @property
    def beside_clause(self) -> str:
        """There is no such rule."""
        return ""

    def kept_top(self, fire: Fire) -> Step | None:
        """There is no such rule."""
        return None

    def least_over(self, fire: Fire) -> Step | None:
        """There is no such rule."""
        return None

    def kept_beside(self, fire: Fire, away: Array) -> Array | None:
        """There is no such rule."""
        return None


def _column(fire: Fire) -> int:
    return HOURS.index(max(fire.minutes, HOURS[0]))


def _told(fire: Fire) -> str:
    named = {"siliceous": "siliceous", "calcareous": "carbonate", "lightweight": "semi-lightweight"}[fire.aggregate]
    return f"{fire.minutes / 60:g} h, {named} aggregate, {'restrained' if fire.restrained else 'unrestrained'}."
