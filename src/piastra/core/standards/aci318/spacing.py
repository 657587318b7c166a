"""Greatest spacing of bars in slabs: ACI 318-19 (SI units), 8.7.2.2, 24.4.3.3; and for cracks 24.3.2."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import NOTHING, Array, CrackUse, Served, SpacingLimit, Stations
from piastra.core.trace import Step, Value

CLAUSE, ACROSS, CRACKS = "ACI 318-19, 8.7.2.2", "ACI 318-19, 24.4.3.3", "ACI 318-19, 24.3.2, table 24.3.2"
PARAMETERS = (
    Parameter("s_max", "s_lim", "greatest spacing of bars, m", 0.45, CLAUSE, design=True),
    Parameter("f_s_share", "k_fs", "stress of bars in service over f_y", 2 / 3, "ACI 318-19, 24.3.2.1", design=True),
)


@dataclass(frozen=True, slots=True)
class Spacing:
    """2h at critical sections, 3h elsewhere, 5h across one-way slabs; never more than ``bound`` m."""

    bound: float

    def greatest(self, at: Stations) -> SpacingLimit:
        """By where the station lies."""
        factor = np.where(at.principal > 0, 5.0, np.where(at.greatest, 2.0, 3.0))
        limit = np.minimum(factor * at.h, self.bound)

        def steps(i: int) -> tuple[Step, ...]:
            return (
                Step("Greatest spacing", ACROSS if at.principal[i] > 0 else CLAUSE, "s_max = min(k_s · h, s_lim)", (
                    Value("k_s", float(factor[i])), Value("h", float(at.h[i]), "size"), Value("s_lim", self.bound, "size")),
                    Value("s_max", float(limit[i]), "size")),
            )  # fmt: skip

        return SpacingLimit(limit, steps)


@dataclass(frozen=True, slots=True)
class Cracking:
    """Control of cracks by the spacing of bars; f_s is ``share`` of f_y."""

    share: float
    limit_states: Sequence[str] = ("service",)
    bonded: None = None
    """24.3.2 counts bonded tendons as bars; without them more bars are asked for."""

    def _greatest(self, at: Stations, rebar: Rebar) -> Array:
        f_s = self.share * rebar.yield_MPa
        return np.minimum(0.380 * 280 / f_s - 2.5 * at.cover, 0.300 * 280 / f_s)

    def width_of(self, served: Served, concrete: Concrete) -> None:
        """None: R24.3.1 has cracks kept fine by the spacing of bars, as no width can be relied on."""
        return None

    def closest(self, at: Stations) -> Array:
        """24.3.2 where a service combination stretches the face by more than steel that counts as none would carry; a moment that stretches the other one
        relieves it by no more than m / d."""
        hardly = at.each(lambda some, concrete, rebar: np.full(len(some.h), NOTHING * 1e3 * self.share * rebar.yield_MPa))
        pull = at.m_service / at.d
        return np.where((pull > hardly) | (pull + at.n_service > hardly), self._limit(at), np.inf)

    def _limit(self, at: Stations) -> Array:
        def greatest(some: Stations, concrete: Concrete, rebar: Rebar) -> Array:
            return self._greatest(some, rebar)

        return np.maximum(at.each(greatest), 1e-3)

    def check(self, at: Stations) -> CrackUse:
        """Spacing of the bars nearest to the stretched face over the greatest one, where a service combination stretches it."""
        limit = self._limit(at)
        use = np.minimum(at.spacing / self.closest(at), 99.0)

        def steps(i: int) -> tuple[Step, ...]:
            rebar = at.materials[int(at.kind[i])][1]
            f_s = Value("f_s", self.share * rebar.yield_MPa, "stress")
            c_c, s_c = (
                Value("c_c", 1e3 * float(at.cover[i]), "cover", "clear cover of these bars"),
                Value("s_c", float(limit[i]), "size"),
            )
            s = Value("s", min(float(at.spacing[i]), 99.0), "size")
            return (
                Step("Stress in service", "ACI 318-19, 24.3.2.1", "f_s = k_fs · f_y", (
                    Value("k_fs", self.share), Value("f_y", rebar.yield_MPa, "stress")), f_s),
                Step("Greatest spacing for cracks", CRACKS, "s_c = min(380 · 280 / f_s - 2.5 · c_c, 300 · 280 / f_s) / 1000", (f_s, c_c), s_c,
                     empirical=True),
                Step("Utilisation", "", "use = min(s / s_c, 99)", (s, s_c), Value("use", float(use[i]))),
            )  # fmt: skip

        return CrackUse(use, steps)
