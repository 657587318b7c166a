"""Shear between web and flanges by shear friction: ACI 318-19 (SI units), 22.9."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.beam_rules import FlangePlaces
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

MU = 1.4
"""Concrete placed monolithically, normalweight: table 22.9.4.2 (a)."""
MOST_YIELD = 420.0
"""MPa, 20.2.2.4."""
MOST = 99.0


@dataclass(frozen=True, slots=True)
class Flanges:
    """Bars across the joint count whole: bending across it stretches some and presses the joint elsewhere as much (R22.9.4.6)."""

    phi: float
    along: str = "ACI 318-19, 22.9.1.1; the flange's force by statics"

    def _found(self, p: FlangePlaces) -> tuple[Array, float]:
        """phi v_n by bars (k,) and at most, kN/m2."""
        f_y, fc = 1e3 * min(p.rebar.yield_MPa, MOST_YIELD), p.concrete.strength_MPa
        return self.phi * MU * p.laid * f_y / p.h_f, self.phi * 1e3 * min(0.2 * fc, 3.3 + 0.08 * fc, 11.0)

    def use(self, places: FlangePlaces) -> Array:
        """22.9.4.2 and 22.9.4.4."""
        bars, most = self._found(places)
        return np.minimum(places.v / np.maximum(np.minimum(bars, most), 1e-9), MOST)

    def steps(self, places: FlangePlaces) -> tuple[Step, ...]:
        """Bars, the greatest strength, utilisation."""
        bars, most = self._found(places)
        phi, mu, fc = (
            Value("phi", self.phi),
            Value("mu", MU, meaning="monolithic"),
            Value("f_c", places.concrete.strength_MPa, "stress"),
        )
        a, h_f = (
            Value("a_vf", 1e6 * float(places.laid[0]), "steel_per_m", "across, both faces"),
            Value("h_f", float(places.h_f[0]), "size"),
        )
        f_y = Value("f_y", min(places.rebar.yield_MPa, MOST_YIELD), "stress")
        by, limit = Value("v_f", float(bars[0]) / 1e3, "stress"), Value("v_max", most / 1e3, "stress")
        v, use = Value("v_u", float(places.v[0]) / 1e3, "stress"), Value("use", float(self.use(places)[0]))
        last = (
            Step("Utilisation", "", "use = v_u / min(v_f, v_max)", (v, by, limit), use) if use.value < MOST
            else Step("Utilisation", values=(v, by, limit), result=use, note="No bars lie across the joint.")
        )  # fmt: skip
        return (
            Step("By bars across", "ACI 318-19, 22.9.4.2", "v_f = phi · mu · a_vf · f_y / h_f", (phi, mu, a, f_y, h_f), by),
            Step("At most", "ACI 318-19, 22.9.4.4", "v_max = phi · min(0.2 · f_c, 3.3 + 0.08 · f_c, 11)", (phi, fc), limit),
            last,
        )
