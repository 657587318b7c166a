"""Concrete over time for ACI 318-19: the functions of ACI 209R-92, chapter 2.

Ages in days, stresses in kN/m2, notional sizes in mm: h_0 = 2 V/S. Slump, fines, cement content and air are those of the
standard conditions (factors of one).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete
from piastra.core.standards.aci318.materials import Materials
from piastra.core.standards.ageing_rules import Climate
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

STRENGTH: dict[str, tuple[float, float]] = {"S": (4.0, 0.85), "N": (4.0, 0.85), "R": (2.3, 0.92)}
"""Table 2.2.1, moist cured: types I and III."""
CREEP = 2.35
"""2.4: ultimate creep coefficient under standard conditions."""
SHRINKAGE = 780e-6
"""2.4: ultimate shrinkage under standard conditions."""
CURED = ((1.0, 3.0, 7.0, 14.0, 28.0, 90.0), (1.2, 1.1, 1.0, 0.93, 0.86, 0.75))
"""Table 2.5.3: shrinkage by the duration of moist curing."""


def strength_ratio(t: Array, cement: str) -> Array:
    """(2-1): strength at age t over that at 28 days."""
    a, b = STRENGTH[cement]
    return np.asarray(t / (a + b * t))


def creep(t: Array, t0: float, h0: float, humidity: float) -> Array:
    """(2-8) with the loading age (2-11), humidity (2-14) and size (2-21); nil before ``t0``."""
    under = np.maximum(np.asarray(t, dtype=np.float64) - t0, 0.0) ** 0.6
    age = min(1.25 * t0**-0.118, 1.25 * 1.0**-0.118)
    damp = 1.27 - 0.0067 * max(humidity, 40.0)
    size = 2 / 3 * (1 + 1.13 * np.exp(-0.0213 * h0 / 2))
    return np.asarray(under / (10 + under) * CREEP * age * damp * size)


def shrinkage(t: Array, h0: float, humidity: float, cured: float) -> Array:
    """(2-9) with curing, humidity (2-15), (2-16) and size (2-22); positive where it shortens."""
    dry = np.maximum(np.asarray(t, dtype=np.float64) - cured, 0.0)
    damp = 1.40 - 0.010 * max(humidity, 40.0) if humidity <= 80 else 3.00 - 0.030 * humidity
    size = 1.2 * np.exp(-0.00472 * h0 / 2)
    return np.asarray(dry / (35 + dry) * SHRINKAGE * damp * size * float(np.interp(cured, *CURED)))


@dataclass(frozen=True, slots=True)
class Ageing:
    """The functions of this module as :class:`piastra.core.standards.ageing_rules.AgeingRules`."""

    materials: Materials
    clause: str = "ACI 209R-92, 2.2 to 2.5"

    def modulus(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """19.2.2.1: with the root of the strength."""
        return self.materials.modulus(concrete) * np.sqrt(strength_ratio(np.asarray(t), climate.cement))

    def creep(self, concrete: Concrete, t: Array, t0: float, h0: float, climate: Climate) -> Array:
        """(2-8)."""
        return creep(t, t0, h0, climate.humidity)

    def reference(self, concrete: Concrete, t0: float, climate: Climate) -> float:
        """2.4: the modulus when the stress begins."""
        return float(self.modulus(concrete, np.array(t0), climate))

    def shrinkage(self, concrete: Concrete, t: Array, h0: float, climate: Climate) -> Array:
        """(2-9)."""
        return shrinkage(t, h0, climate.humidity, climate.cured)

    def tension(self, concrete: Concrete, t: Array, h: float, kind: Literal["mean", "flexural"], climate: Climate) -> Array:
        """In bending 0.62 sqrt(f'_c(t)) MPa (19.2.3.1); axial 0.33 sqrt(f'_c(t)) (ACI 224.2R-92, 3.2)."""
        ratio = np.sqrt(strength_ratio(np.asarray(t), climate.cement))
        if concrete.tension_MPa is not None:
            return 1e3 * concrete.tension_MPa * ratio
        return 1e3 * (0.62 if kind == "flexural" else 0.33) * np.sqrt(concrete.strength_MPa) * ratio

    def strength(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """f'_c(t)."""
        return 1e3 * concrete.strength_MPa * strength_ratio(np.asarray(t), climate.cement)

    def strength_steps(self, concrete: Concrete, t: float, climate: Climate) -> tuple[Step, ...]:
        """(2-1)."""
        a, b = STRENGTH[climate.cement]
        result = Value("f_c,t", concrete.strength_MPa * min(float(strength_ratio(np.array(t), climate.cement)), 1.0), "stress")
        values = (Value("f_c", concrete.strength_MPa, "stress"), Value("t", t, "time", "age"), Value("a", a), Value("b", b))
        note = "It takes the place of the specified strength below."
        return (
            Step(
                "Strength at that age",
                "ACI 209R-92, 2.2.1 (2-1)",
                "f_c,t = f_c · min(t / (a + b · t), 1)",
                values,
                result,
                note,
                True,
            ),
        )
