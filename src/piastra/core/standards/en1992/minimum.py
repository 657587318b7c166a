"""Least steel of EN 1992-1-1: 9.3.1.1 (1) with 9.2.1.1 (1)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import Sections
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

CLAUSE = "EN 1992-1-1, 9.3.1.1 (1), 9.2.1.1 (1) (9.1N)"
PARAMETERS = (
    Parameter("k_As,min", "k_min", "least steel over f_ctm / f_yk", 0.26, CLAUSE, design=True),
    Parameter("rho_As,min", "rho_min", "least ratio of steel", 0.0013, CLAUSE, design=True),
)
TENSION_SHARE = 0.05
"""Least steel is asked for in a face whose design moment exceeds this share of the cracking moment."""


@dataclass(frozen=True, slots=True)
class Least:
    """Least steel ``area`` (k,) m2/m; ``m`` (k,) and ``cracking`` (k,) moments, kNm/m."""

    rules: LeastSteel
    sections: Sections
    m: Array
    cracking: Array
    area: Array

    def steps(self, i: int) -> tuple[Step, ...]:
        """Why the least steel is what it is."""
        s, known = self.sections, self.rules.materials
        f_ctm = Value("f_ctm", known.f_ctm(s.concrete) / 1e3, "stress")
        cracking = Step(
            "Cracking moment", "", "m_cr = f_ctm · h^2 / 6", (f_ctm, Value("h", float(s.h[i]), "size")),
            Value("m_cr", float(self.cracking[i]), "moment_per_m"),
            note="" if self.area[i] > 0 else f"The face is not in tension to speak of: its moment is below {TENSION_SHARE:g} m_cr, and no least "
            "steel is asked for.",
        )  # fmt: skip
        if not self.area[i] > 0:
            return known.f_ctm_step(s.concrete), cracking
        return (
            known.f_ctm_step(s.concrete), cracking,
            Step("Least steel", CLAUSE, "A_s,min = max(k_min · f_ctm / f_yk, rho_min) · d",
                 (Value("k_min", self.rules.k_min), f_ctm, Value("f_yk", s.rebar.yield_MPa, "stress"),
                  Value("rho_min", self.rules.rho_min), Value("d", float(s.d[i]), "size")),
                 Value("A_s,min", 1e6 * float(self.area[i]), "steel_per_m")),
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class LeastSteel:
    """Least flexural steel."""

    materials: Materials
    k_min: float
    rho_min: float

    def least(self, m: Array, sections: Sections) -> Least:
        """max(0.26 f_ctm / f_yk, 0.0013) d, m2/m, where the moment ``m`` (k,) kNm/m stretches the face to speak of."""
        s = sections
        ratio = max(self.k_min * self.materials.f_ctm(s.concrete) / (1e3 * s.rebar.yield_MPa), self.rho_min)
        cracking = self.materials.f_ctm(s.concrete) * s.h**2 / 6
        return Least(self, s, m, cracking, np.where(m > TENSION_SHARE * cracking, ratio * s.d, 0.0))
