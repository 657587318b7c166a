"""Tabulated fire resistance of floors: EN 1992-1-2:2004, 5.6 and 5.7."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.fire import Fire
from piastra.core.standards.fire_rules import FireNeeds
from piastra.core.standards.parameters import Parameter
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

LEVEL, LEVEL_CLAUSE = 0.7, "EN 1992-1-2, 2.4.2 (3) and 5.2 (3)"
"""Level of load that the tables presuppose: another one is none that they hold for."""
SOLID, FLAT = "EN 1992-1-2, table 5.8", "EN 1992-1-2, table 5.9"
SIMPLE, CONTINUOUS = "EN 1992-1-2, table 5.5", "EN 1992-1-2, table 5.6"
TOP, OVER, BESIDE = "EN 1992-1-2, 5.7.4 (2)", "EN 1992-1-2, 5.7.3", "EN 1992-1-2, 5.6.3 (3)"
REACH = 0.3
"""Of the span, from a support."""
LEAST_OVER = 0.005
PARAMETERS = (
    Parameter("k_top,fi", "k_top", "share of the top steel over columns of flat slabs that runs through, from REI 90 on", 0.2, TOP, design=True),
)  # fmt: skip
SOLID_MM = {30: (60, 10, 10, 10), 60: (80, 20, 10, 15), 90: (100, 30, 15, 20), 120: (120, 40, 20, 25),
            180: (150, 55, 30, 40), 240: (175, 65, 40, 50)}  # fmt: skip
"""Thickness, and axis distance of slabs that span one way and of those held along four edges with spans up to 1.5 and up to 2."""
FLAT_MM = {30: (150, 10), 60: (180, 15), 90: (200, 25), 120: (200, 35), 180: (200, 45), 240: (200, 50)}
SIMPLE_MM: dict[int, tuple[tuple[int, int], ...]] = {
    30: ((80, 25), (120, 20), (160, 15), (200, 15)), 60: ((120, 40), (160, 35), (200, 30), (300, 25)),
    90: ((150, 55), (200, 45), (300, 40), (400, 35)), 120: ((200, 65), (240, 60), (300, 55), (500, 50)),
    180: ((240, 80), (300, 70), (400, 65), (600, 60)), 240: ((280, 90), (350, 80), (500, 75), (700, 70)),
}  # fmt: skip
"""Widths with the axis distances that go with them."""
CONTINUOUS_MM: dict[int, tuple[tuple[int, int], ...]] = {
    30: ((80, 15), (160, 12)), 60: ((120, 25), (200, 12)), 90: ((150, 35), (250, 25)),
    120: ((200, 45), (300, 35), (450, 35), (500, 30)), 180: ((240, 60), (400, 50), (550, 50), (600, 40)),
    240: ((280, 75), (500, 60), (650, 60), (700, 50)),
}  # fmt: skip
STRANDS_MM = 15.0
"""More axis distance of wires and strands, 5.2 (5)."""
SIDE_MM = 10.0
"""More side distance of the corner bars of a single layer."""
LESS = 0.9
"""Least sizes of calcareous and lightweight concretes over those of siliceous ones, 5.1 (2)."""


@dataclass(frozen=True, slots=True)
class Tables:
    """Axis distances; concretes up to C50/60 (6.4.3). Moments are redistributed nowhere, as 5.6.3 (2) and 5.7.4 (1) ask for."""

    top_share: float
    to_axis: bool = True
    most_MPa: float | None = 50.0

    def slab(self, fire: Fire, flat: bool) -> FireNeeds:
        """Table 5.9 for flat slabs, 5.8 for others: as spanning one way unless they are held along four edges."""
        less = 1.0 if fire.aggregate == "siliceous" else LESS
        if flat:
            h, a = FLAT_MM[fire.minutes]
            return _needs(less * h, a, _step(fire, less * h, a, FLAT, "Flat slab"))
        h, *distances = SOLID_MM[fire.minutes]
        ratio = fire.sides_ratio
        which = 0 if ratio is None or ratio > 2.0 else 1 if ratio <= 1.5 else 2
        held = ("Spanning one way", "Held along four edges, spans up to 1 : 1.5", "Held along four edges, spans up to 1 : 2")
        a = distances[which]
        return _needs(less * h, a, _step(fire, less * h, a, SOLID, held[which]))

    def beam(self, fire: Fire, width: float, continuous: bool, one_layer: bool) -> FireNeeds:
        """Between the widths of tables 5.5 and 5.6 straight (5.2 (10)). The top bars of 5.6.3 (3) are laid
        with the others: see :meth:`kept_beside`."""
        table = (CONTINUOUS_MM if continuous else SIMPLE_MM)[fire.minutes]
        less = 1.0 if fire.aggregate == "siliceous" else LESS
        widths = np.array([b for b, _ in table], dtype=float)
        a = float(np.interp(1e3 * width, widths, [a for _, a in table]))
        # From the width of column 4 of table 5.5 on, of column 3 of table 5.6, the sides need no more.
        side = one_layer and 1e3 * width <= widths[1 if continuous else 2]
        told = f"{'Continuous' if continuous else 'Simply supported'} beam"
        told += f"; {SIDE_MM:g} mm more to the side of a single layer" if side else ""
        least, deep = less * float(widths[0]), a + (SIDE_MM if side else 0.0)
        return _needs(least, deep, _step(fire, least, deep, CONTINUOUS if continuous else SIMPLE, told))

    @property
    def beside_clause(self) -> str:
        """Of continuous beams."""
        return BESIDE

    def kept_beside(self, fire: Fire, away: Array) -> Array | None:
        """From R 90 on: 1 - 2.5 x / l up to 0.3 l (5.11)."""
        return np.where(away <= REACH, 1 - 2.5 * away, 0.0) if fire.minutes >= 90 else None

    def kept_top(self, fire: Fire) -> Step | None:
        """From REI 90 on."""
        if fire.minutes < 90:
            return None
        return Step("Top bars that run through", TOP, result=Value("k_top", self.top_share))

    def least_over(self, fire: Fire) -> Step | None:
        """Whatever the time."""
        return Step("Top bars over an inner support", OVER, result=Value("k_over", LEAST_OVER),
                    note="Where bars are cold worked, ends of two spans are not clamped by design, or nothing else carries across the span.")  # fmt: skip


def _needs(size_mm: float, a_mm: float, step: Step) -> FireNeeds:
    return FireNeeds(size_mm / 1e3, a_mm / 1e3, (a_mm + STRANDS_MM) / 1e3, step)


def _step(fire: Fire, size_mm: float, a_mm: float, clause: str, told: str) -> Step:
    return Step(
        "Table of fire resistance",
        clause,
        values=(
            Value("s_min", size_mm / 1e3, "size", "thickness of slabs, width of beams"),
            Value("a_min", a_mm / 1e3, "size", "to the axes of bars; strands 15 mm more, 5.2 (5)"),
        ),
        note=f"{told}, R {fire.minutes}, {fire.aggregate} aggregate. The table presupposes a level of load of {LEVEL:g}, 2.4.2 (3).",
    )
