"""Stresses in service of EN 1992-1-1, 7.2: of the bars everywhere, of the concrete where the exposure asks for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.cracked import neutral_axis, steel_stress
from piastra.core.standards.en1992.cracking import HARDLY_ANY, alpha_lasting, axis_and_arm, axis_steps, stress_steps
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import NOTHING, CrackUse, Stations
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

STEEL, CONCRETE = "EN 1992-1-1, 7.2 (5)", "EN 1992-1-1, 7.2 (2)"
PARAMETERS = (
    Parameter("k_yield", "k_3", "greatest stress of bars in the characteristic combination over f_yk", 0.8, STEEL, design=True),
)
MOST = 99.0
"""Utilisations are told up to this."""
PRESSED = ("XD", "XF", "XS")
"""Exposures in which high compression lets cracks along the bars do harm."""


@dataclass(frozen=True, slots=True)
class Stresses:
    """Cracked sections under characteristic combinations. Steel with the lasting ratio of moduli, which gives the shorter lever arm; concrete with
    that of 28 days, which gives it the greater stress. ``k_1`` of f_ck, ``k_3`` of f_yk."""

    materials: Materials
    k_1: float
    k_3: float
    exposure: str | None
    limit_states: Sequence[str] = ("characteristic",)

    @property
    def limits_concrete(self) -> bool:
        """Whether the exposure is one of 7.2 (2)."""
        return (self.exposure or "").startswith(PRESSED)

    def steel(self, at: Stations) -> CrackUse:
        """Stress of the bars that are given over k_3 f_yk."""
        area = np.maximum(at.given, 1e-7)

        def over(some: Stations, concrete: Concrete, rebar: Rebar) -> Array:
            alpha = alpha_lasting(self.materials, concrete, rebar)
            sigma = steel_stress(
                some.m_service, some.n_service, np.maximum(some.given, 1e-7), some.d, alpha, some.wide, some.flange
            )
            return sigma / (1e3 * self.k_3 * rebar.yield_MPa)

        use = np.minimum(at.each(over), MOST)
        few = np.flatnonzero((at.given < NOTHING) & (use > 0))
        idle = few[replace(at.some(few), given=np.full(len(few), NOTHING)).each(over) <= 1.0]
        use[idle] = 0.0

        def steps(i: int) -> tuple[Step, ...]:
            if i in idle:
                return (Step("Utilisation", STEEL, values=(HARDLY_ANY,), result=Value("use", 0.0)),)
            one = at.some(slice(i, i + 1))
            concrete, rebar = one.materials[int(one.kind[0])]
            _, sigma, found = stress_steps(
                one, float(area[i]), alpha_lasting(self.materials, concrete, rebar), "characteristic, about the steel"
            )
            limit = Value("sigma_lim", self.k_3 * rebar.yield_MPa, "stress")
            return (
                *found,
                Step("Greatest stress of bars", STEEL, "sigma_lim = k_3 · f_yk", (Value("k_3", self.k_3), Value("f_yk", rebar.yield_MPa, "stress")),
                     limit),
                Step("Utilisation", "", "use = min(sigma_s / sigma_lim, 99)", (sigma, limit), Value("use", float(use[i]))),
            )  # fmt: skip

        return CrackUse(use, steps)

    def concrete(self, at: Stations) -> CrackUse | None:
        """Compression of the other face over k_1 f_ck; None in exposures where it is not limited."""
        if not self.limits_concrete:
            return None

        def stress(some: Stations, concrete: Concrete, rebar: Rebar) -> Array:
            area, alpha = np.maximum(some.given, 1e-7), self._short(concrete, rebar)
            x = neutral_axis(area, some.d, alpha, some.wide, some.flange)
            # The steel's stress without any force, brought to the other face by the plane section.
            bent = steel_stress(some.m_service, np.zeros_like(x), area, some.d, alpha, some.wide, some.flange)
            return bent / alpha * x / (some.d - x)

        use = np.minimum(at.each(lambda s, c, r: stress(s, c, r) / (1e3 * self.k_1 * c.strength_MPa)), MOST)
        use = np.where(at.given > 0, use, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            concrete, rebar = one.materials[int(one.kind[0])]
            ratio, area = self._short(concrete, rebar), max(float(one.given[0]), 1e-7)
            first = axis_steps(one, area, ratio, "E_s / E_cm")
            x, arm = axis_and_arm(first)
            d, A, alpha = Value("d", float(one.d[0]), "size"), Value("A_s", 1e6 * area, "steel_per_m"), Value("alpha", ratio)
            m = Value("m", float(one.m_service[0]), "moment_per_m", "characteristic, about the steel")
            sigma = Value("sigma_c", float(stress(one, concrete, rebar)[0]) / 1e3, "stress", "compression")
            if arm is not None:
                pressed = Step(
                    "Stress of the concrete",
                    "",
                    "sigma_c = max(m, 0) / (z · A_s) / alpha · x / (d - x)",
                    (m, arm, A, alpha, x, d),
                    sigma,
                )
            else:
                pressed = Step("Stress of the concrete", "", "sigma_c = 2 · max(m, 0) / (x · (d - x / 3))", (m, x, d), sigma)
            limit = Value("sigma_lim", self.k_1 * concrete.strength_MPa, "stress")
            return (
                *first,
                pressed,
                Step("Greatest compression", CONCRETE, "sigma_lim = k_1 · f_ck",
                     (Value("k_1", self.k_1), Value("f_ck", concrete.strength_MPa, "stress")), limit,
                     note=f"In exposure {self.exposure}; more confinement or a richer mix would do as well."),
                Step("Utilisation", "", "use = min(sigma_c / sigma_lim, 99)", (sigma, limit), Value("use", float(use[i]))),
            )  # fmt: skip

        return CrackUse(use, steps)

    def _short(self, concrete: Concrete, rebar: Rebar) -> float:
        return 1e3 * rebar.E_MPa / self.materials.modulus(concrete)
