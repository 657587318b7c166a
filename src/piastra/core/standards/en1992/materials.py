"""Materials of EN 1992-1-1: table 3.1, 3.1.6, 3.2.7."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.parameters import Parameter
from piastra.core.trace import Step, Value

_TABLE = "EN 1992-1-1, 2.4.2.4 (1), table 2.1N"
PARAMETERS = (
    Parameter("gamma_C", "gamma_C", "partial factor of concrete", 1.5, _TABLE, design=True),
    Parameter("gamma_S", "gamma_S", "partial factor of reinforcing steel", 1.15, _TABLE, design=True),
    Parameter("gamma_C_accidental", "gamma_C", "partial factor of concrete, accidental situations", 1.2, _TABLE, design=True),
    Parameter(
        "gamma_S_accidental", "gamma_S", "partial factor of reinforcing steel, accidental situations", 1.0, _TABLE, design=True
    ),
    Parameter(
        "alpha_cc", "alpha_cc", "long-term effects on the strength in compression", 1.0, "EN 1992-1-1, 3.1.6 (1)", design=True
    ),
)
COVERED = (12.0, 90.0)
"""f_ck (MPa) of the strength classes of table 3.1."""


@dataclass(frozen=True, slots=True)
class Materials:
    """Values of concretes and steels; stresses in kN/m2 unless they say MPa."""

    gamma_C: float
    gamma_S: float
    alpha_cc: float

    def modulus(self, concrete: Concrete) -> float:
        """E_cm = 22 (f_cm / 10)^0.3 GPa with f_cm = f_ck + 8 (table 3.1), kN/m2; a given one replaces it."""
        if concrete.E_MPa is not None:
            return 1e3 * concrete.E_MPa
        return 1e3 * 22000.0 * ((concrete.strength_MPa + 8) / 10) ** 0.3

    def not_covered(self, concrete: Concrete) -> str:
        """Table 3.1 runs from C12/15 to C90/105."""
        low, high = COVERED
        if low <= concrete.strength_MPa <= high:
            return ""
        return f"is {concrete.strength_MPa:g} MPa, but EN 1992-1-1, table 3.1 covers f_ck from {low:g} to {high:g} MPa; choose one of these"

    def f_cd(self, concrete: Concrete) -> float:
        """3.1.6 (1): alpha_cc f_ck / gamma_C, kN/m2."""
        return 1e3 * self.alpha_cc * concrete.strength_MPa / self.gamma_C

    def f_ctm(self, concrete: Concrete) -> float:
        """Table 3.1: 0.30 f_ck^(2/3) to C50/60, 2.12 ln(1 + f_cm / 10) above, kN/m2."""
        fck = concrete.strength_MPa
        return 1e3 * (0.30 * fck ** (2 / 3) if fck <= 50 else 2.12 * float(np.log(1 + (fck + 8) / 10)))

    def f_yd(self, rebar: Rebar) -> float:
        """3.2.7 (2): f_yk / gamma_S, kN/m2."""
        return 1e3 * rebar.yield_MPa / self.gamma_S

    def f_cd_step(self, concrete: Concrete) -> Step:
        """How f_cd comes about."""
        return Step(
            "Design strength of the concrete", "EN 1992-1-1, 3.1.6 (1)", "f_cd = alpha_cc · f_ck / gamma_C",
            (Value("alpha_cc", self.alpha_cc), Value("f_ck", concrete.strength_MPa, "stress"), Value("gamma_C", self.gamma_C)),
            Value("f_cd", self.f_cd(concrete) / 1e3, "stress"),
        )  # fmt: skip

    def f_yd_step(self, rebar: Rebar) -> Step:
        """How f_yd comes about."""
        return Step(
            "Design strength of the steel", "EN 1992-1-1, 3.2.7 (2)", "f_yd = f_yk / gamma_S",
            (Value("f_yk", rebar.yield_MPa, "stress"), Value("gamma_S", self.gamma_S)),
            Value("f_yd", self.f_yd(rebar) / 1e3, "stress"),
        )  # fmt: skip

    def f_ctm_step(self, concrete: Concrete) -> Step:
        """How f_ctm comes about."""
        high = concrete.strength_MPa > 50
        return Step(
            "Mean tensile strength", "EN 1992-1-1, table 3.1",
            "f_ctm = 2.12 · ln(1 + (f_ck + 8) / 10)" if high else "f_ctm = 0.30 · f_ck^(2/3)",
            (Value("f_ck", concrete.strength_MPa, "stress"),), Value("f_ctm", self.f_ctm(concrete) / 1e3, "stress"), empirical=True,
        )  # fmt: skip
