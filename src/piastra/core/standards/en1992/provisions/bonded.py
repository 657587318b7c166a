"""EN 1992-1-1, 9.2.1.1 (4): floors with tendons carry more than they crack at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.en1992.flexure import FlexuralStrength
from piastra.core.standards.protocol import Sections
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "EN 1992-1-1, 9.2.1.1 (4)"
BEYOND = 1.15
"""The ultimate bending capacity is at least so many times the cracking moment."""


@dataclass(frozen=True, slots=True)
class BeyondCracking(Explained):
    """Bonded bars by which a section with tendons carries 1.15 times the moment that cracks it, where service stretches the face: over
    supports, or in spans."""

    flexure: FlexuralStrength
    support: bool
    clause: str = CLAUSE
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "Less prestress cracks earlier and needs less; a wider field of tendons gives the same with less at one place."

    @property
    def name(self) -> str:
        """Two provisions by place."""
        return "bonded_support" if self.support else "bonded_span"

    def _moments(self, at: Stations, concrete: Concrete) -> tuple[Array, Array, Array]:
        """By the metre: cracking moment of the loads about the middle, and the design pair for 1.15 times it."""
        f_ctm = self.flexure.materials.f_ctm(concrete)
        cracking = (f_ctm + at.pressed) * at.h**2 / 6
        about = BEYOND * cracking - at.tendon * at.offset + at.tendon * (at.d - at.h / 2)
        return cracking, about, -at.tendon

    def demand(self, at: Stations) -> Demand:
        """Where there are tendons and the face is stretched in service."""
        here = (at.tendon > 0) & (at.fibre > 0) & (at.top if self.support else ~at.top)

        def steel(some: Stations, c: Concrete, r: Rebar) -> Array:
            _, m, n = self._moments(some, c)
            return self.flexure.design(m, n, Sections(some.h, some.d, some.d2, c, r)).tension

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            c, r = one.materials[int(one.kind[0])]
            cracking, m, n = self._moments(one, c)
            known = self.flexure.materials
            m_cr = Value("m_cr", float(cracking[0]), "moment_per_m", "of the loads, about the middle")
            h, d = Value("h", float(one.h[0]), "size"), Value("d", float(one.d[0]), "size")
            F, e = Value("F_p", float(one.tendon[0]), "force_per_m"), Value("e_p", float(one.offset[0]), "size")
            return (
                known.f_ctm_step(c),
                Step("Cracking moment", "", "m_cr = (f_ctm + sigma_p) · h^2 / 6",
                     (Value("f_ctm", known.f_ctm(c) / 1e3, "stress"), Value("sigma_p", float(one.pressed[0]) / 1e3, "stress", "of tendons alone, at this face"), h), m_cr),
                Step("Moment to be carried", CLAUSE, "m_Ed = 1.15 · m_cr - F_p · e_p + F_p · (d - h / 2)", (m_cr, F, e, d, h),
                     Value("m_Ed", float(m[0]), "moment_per_m", "about the bars")),
                *self.flexure.design(m, n, Sections(one.h, one.d, one.d2, c, r)).steps(0),
            )  # fmt: skip

        return Demand(np.where(here, at.each(steel), 0.0), steps)
