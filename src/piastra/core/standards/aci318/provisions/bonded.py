"""ACI 318-19, 8.6.2.3: least bonded bars of slabs with tendons."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "ACI 318-19, table 8.6.2.3"
OVER_COLUMNS = 0.00075
FREE = 0.17
"""f_t over sqrt(f'_c) (MPa) up to which spans need none."""
F_Y = 420.0
"""f_y in the table is at most this (MPa): 8.6.2.3, 20.2.2.4."""


@dataclass(frozen=True, slots=True)
class OverColumns(Explained):
    """0.00075 A_cf over the column and 1.5 h to each side; none in the field of a wall."""

    clause: str = CLAUSE
    name: str = "bonded_support"
    derived: bool = True
    gathers: Gathers = "column"
    remedy: str = "It follows from the frames' section alone; four bars at 300 mm at most lie there in any case (8.7.5.3)."

    def demand(self, at: Stations) -> Demand:
        """Top steel by the metre of the band."""
        here = at.top & at.column & (at.frame > 0) & (at.band > 0)
        area = np.where(here, OVER_COLUMNS * at.frame / np.maximum(at.band, 1e-9), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            frame = Value("A_cf", float(at.frame[i]), "area", "greater gross section of the two frames at this column")
            band = Value("b", float(at.band[i]), "length", "the column and 1.5 h to each side")
            return (
                Step("Bonded bars over the column", CLAUSE, "A_s = 0.00075 · A_cf / b", (frame, band),
                     Value("A_s", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)


@dataclass(frozen=True, slots=True)
class InSpans(Explained):
    """N_c / (0.5 f_y) where the tension in service passes 0.17 sqrt(f'_c)."""

    clause: str = CLAUSE
    name: str = "bonded_span"
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "More prestress or drape takes the tension below 0.17 sqrt(f'_c), where spans need none."

    def demand(self, at: Stations) -> Demand:
        """Bottom steel of spans."""

        def area(some: Stations, c: Concrete, r: Rebar) -> Array:
            cracked = ~some.top & (some.tendon > 0) & (some.fibre > 1e3 * FREE * np.sqrt(c.strength_MPa))
            return np.where(cracked, some.pull / (0.5e3 * min(r.yield_MPa, F_Y)), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            c, r = at.materials[int(at.kind[i])]
            f_t = Value("f_t", float(at.fibre[i]) / 1e3, "stress", "greatest tension in service, whole design strip")
            N, f_y = (
                Value("N_c", float(at.pull[i]), "force_per_m", "tension of the concrete"),
                Value("f_y", min(r.yield_MPa, F_Y), "stress"),
            )
            return (
                Step("Tension in service", CLAUSE, values=(f_t, Value("f_t,free", FREE * float(np.sqrt(c.strength_MPa)), "stress"))),
                Step("Bonded bars of the span", CLAUSE, "A_s = N_c / (0.5 · f_y)", (N, f_y),
                     Value("A_s", 1e6 * float(at.pull[i]) / (0.5e3 * min(r.yield_MPa, F_Y)), "steel_per_m")),
            )  # fmt: skip

        return Demand(at.each(area), steps)
