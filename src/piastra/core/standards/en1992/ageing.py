"""Concrete over time in EN 1992-1-1: strength 3.1.2, modulus 3.1.3, creep Annex B.1, shrinkage 3.1.4 (6) and Annex B.2.

Ages in days, stresses in MPa, notional sizes h_0 in mm, humidities in per cent.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete
from piastra.core.standards.ageing_rules import Climate
from piastra.core.standards.en1992.materials import Materials
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]
Cement = Literal["S", "N", "R"]

S_CEMENT: dict[Cement, float] = {"S": 0.38, "N": 0.25, "R": 0.20}
"""3.1.2 (6)."""
ALPHA_CEMENT: dict[Cement, float] = {"S": -1.0, "N": 0.0, "R": 1.0}
"""B.1 (2)."""
DRYING: dict[Cement, tuple[float, float]] = {"S": (3.0, 0.13), "N": (4.0, 0.12), "R": (6.0, 0.11)}
"""B.2 (1)."""
K_H = ((100.0, 200.0, 300.0, 500.0), (1.0, 0.85, 0.75, 0.70))
"""Table 3.3."""


def f_cm(f_ck: float) -> float:
    """Table 3.1: mean strength at 28 days."""
    return f_ck + 8.0


def beta_cc(t: Array | float, cement: Cement = "N") -> Array:
    """(3.2): strength at age t over that at 28 days."""
    return np.exp(S_CEMENT[cement] * (1 - np.sqrt(28 / np.asarray(t, dtype=np.float64))))


def modulus_ratio(strength_ratio: Array | float) -> Array:
    """(3.5): E_cm(t) over E_cm, from f_cm(t) over f_cm."""
    return np.asarray(strength_ratio, dtype=np.float64) ** 0.3


def creep(t: Array, t0: float, f_ck: float, h0: Array | float, RH: float, cement: Cement = "N") -> Array:
    """phi(t, t_0) of B.1 (1), for a stress that begins at age ``t0``; nil before it."""
    mean = f_cm(f_ck)
    size = np.asarray(h0, dtype=np.float64)
    a1, a2, a3 = ((35 / mean) ** 0.7, (35 / mean) ** 0.2, (35 / mean) ** 0.5) if mean > 35 else (1.0, 1.0, 1.0)
    dry = (1 + (1 - RH / 100) / (0.1 * np.cbrt(size)) * a1) * a2
    aged = max(t0 * (9 / (2 + t0**1.2) + 1) ** ALPHA_CEMENT[cement], 0.5)
    notional = dry * 16.8 / np.sqrt(mean) / (0.1 + aged**0.20)
    beta_H = np.minimum(1.5 * (1 + (0.012 * RH) ** 18) * size + 250 * a3, 1500 * a3)
    under = np.maximum(np.asarray(t, dtype=np.float64) - t0, 0.0)
    return np.asarray(notional * (under / (beta_H + under)) ** 0.3)


def drying_shrinkage(t: Array, t_s: float, f_ck: float, h0: Array | float, RH: float, cement: Cement = "N") -> Array:
    """eps_cd(t) of 3.1.4 (6) (3.9) with B.2, positive where it shortens; drying begins at ``t_s``."""
    size = np.asarray(h0, dtype=np.float64)
    one, two = DRYING[cement]
    basic = 0.85 * (220 + 110 * one) * np.exp(-two * f_cm(f_ck) / 10) * 1e-6 * 1.55 * (1 - (RH / 100) ** 3)
    dry = np.maximum(np.asarray(t, dtype=np.float64) - t_s, 0.0)
    return np.asarray(dry / (dry + 0.04 * np.sqrt(size**3)) * np.interp(size, *K_H) * basic)


def autogenous_shrinkage(t: Array, f_ck: float) -> Array:
    """eps_ca(t) of (3.11) to (3.13), positive where it shortens."""
    return np.asarray((1 - np.exp(-0.2 * np.sqrt(np.asarray(t, dtype=np.float64)))) * 2.5 * (f_ck - 10) * 1e-6)


TANGENT = 1.05
"""3.1.4 (2): the tangent modulus that creep refers to, over the secant modulus."""


def tension_ratio(t: Array, cement: Cement = "N") -> Array:
    """(3.4): mean tensile strength at age t over that at 28 days."""
    ratio = beta_cc(t, cement)
    return np.where(np.asarray(t) < 28, ratio, ratio ** (2 / 3))


@dataclass(frozen=True, slots=True)
class Ageing:
    """The functions of this module as :class:`piastra.core.standards.ageing_rules.AgeingRules`."""

    materials: Materials
    clause: str = "EN 1992-1-1, 3.1.2 to 3.1.4, annex B"

    def modulus(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """(3.5)."""
        return self.materials.modulus(concrete) * modulus_ratio(beta_cc(t, climate.cement))

    def creep(self, concrete: Concrete, t: Array, t0: float, h0: float, climate: Climate) -> Array:
        """Annex B.1."""
        return creep(t, t0, concrete.strength_MPa, h0, climate.humidity, climate.cement)

    def reference(self, concrete: Concrete, t0: float, climate: Climate) -> float:
        """3.1.4 (2): 1.05 E_cm, whatever the age."""
        return TANGENT * self.materials.modulus(concrete)

    def shrinkage(self, concrete: Concrete, t: Array, h0: float, climate: Climate) -> Array:
        """(3.8): drying and autogenous."""
        dry = drying_shrinkage(t, climate.cured, concrete.strength_MPa, h0, climate.humidity, climate.cement)
        return dry + autogenous_shrinkage(t, concrete.strength_MPa)

    def tension(self, concrete: Concrete, t: Array, h: float, kind: Literal["mean", "flexural"], climate: Climate) -> Array:
        """f_ctm of table 3.1 with (3.4); in bending times (1.6 - h) of (3.23), at least 1."""
        given = concrete.tension_MPa
        at_28 = 1e3 * given if given is not None else self.materials.f_ctm(concrete)
        factor = max(1.6 - h, 1.0) if kind == "flexural" and given is None else 1.0
        return factor * at_28 * tension_ratio(t, climate.cement)

    def strength(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """3.1.2 (5): f_ck(t) = f_cm(t) - 8 MPa, and no more than f_ck; creep is linear to 0.45 of it (3.1.4 (4))."""
        aged = f_cm(concrete.strength_MPa) * beta_cc(t, climate.cement) - 8.0
        return 1e3 * np.clip(aged, 0.3 * concrete.strength_MPa, concrete.strength_MPa)

    def strength_steps(self, concrete: Concrete, t: float, climate: Climate) -> tuple[Step, ...]:
        """3.1.2 (5) and (6)."""
        age, s = Value("t", t, "time", "age"), Value("s", S_CEMENT[climate.cement], meaning=f"cement of class {climate.cement}")
        ratio = Value("beta_cc", float(beta_cc(t, climate.cement)))
        f_ck = Value("f_ck", concrete.strength_MPa, "stress")
        return (
            Step("Strength gained", "EN 1992-1-1, 3.1.2 (6) (3.2)", "beta_cc = exp(s · (1 - sqrt(28 / t)))", (s, age), ratio, empirical=True),
            Step("Strength at that age", "EN 1992-1-1, 3.1.2 (5)", "f_ck,t = (f_ck + 8) · beta_cc - 8", (f_ck, ratio),
                 Value("f_ck,t", f_cm(concrete.strength_MPa) * ratio.value - 8.0, "stress"), empirical=True,
                 note="It takes the place of f_ck below."),
        )  # fmt: skip
