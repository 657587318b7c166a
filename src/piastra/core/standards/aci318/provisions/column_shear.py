"""ACI 318-19, 8.6.1.2: least steel about columns whose critical sections are highly stressed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.aci318.section import ALPHA_S, PLACES, size_effect
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step, Value

CLAUSE = "ACI 318-19, 8.6.1.2"
LIMIT, FACTOR = 0.17, 5.0


@dataclass(frozen=True, slots=True)
class ColumnShear(Explained):
    """5 v_uv b_o / (phi alpha_s f_y) by the metre of b_slab, where v_uv is more than phi 0.17 lambda_s sqrt(f'_c)."""

    phi: float
    clause: str = CLAUSE
    name: str = "column_shear"
    derived: bool = True
    gathers: Gathers = "column"
    remedy: str = "A thicker slab, a drop panel or a larger column lowers the stress below the limit, and it falls away."

    def _limit(self, at: Stations, concrete: Concrete, rebar: Rebar) -> Array:
        size = np.array([size_effect(float(d)) for d in at.d])
        return 1e3 * self.phi * LIMIT * size * min(float(np.sqrt(concrete.strength_MPa)), 8.3)

    def _area(self, at: Stations, concrete: Concrete, rebar: Rebar) -> Array:
        alpha = np.array([ALPHA_S[PLACES[min(int(e), 2)]] for e in at.edges])
        return np.asarray(FACTOR * at.shear * at.section / (self.phi * alpha * 1e3 * rebar.yield_MPa))

    def demand(self, at: Stations) -> Demand:
        """Top steel at columns."""
        high = at.top & at.column & (at.band > 0) & (at.shear > at.each(self._limit))
        area = np.where(high, at.each(self._area), 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            concrete, rebar = one.materials[int(one.kind[0])]
            v = Value("v_uv", float(at.shear[i]), "shear_stress", "greatest mean stress on the critical section")
            limit = Value("v_lim", float(self._limit(one, concrete, rebar)[0]), "shear_stress", "phi 0.17 lambda_s sqrt(f'_c)")
            alpha = ALPHA_S[PLACES[min(int(at.edges[i]), 2)]]
            return (
                Step("Highly stressed critical section", CLAUSE, "over = v_uv / v_lim", (v, limit), Value("over", v.value / limit.value)),
                Step("Least steel about the column", CLAUSE, "A_s,col = 5 · v_uv · b_o / (phi · alpha_s · f_y)", (
                    v, Value("b_o", float(at.section[i]), "length"), Value("phi", self.phi), Value("alpha_s", alpha),
                    Value("f_y", rebar.yield_MPa, "stress")), Value("A_s,col", 1e6 * float(area[i]), "steel_per_m")),
            )  # fmt: skip

        return Demand(area, steps)
