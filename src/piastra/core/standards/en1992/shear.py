"""One-way shear of slabs without links: EN 1992-1-1, 6.2.2."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import LinkLimits, ShearPlaces
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

CLAUSE = "EN 1992-1-1, 6.2.2 (1) (6.2)"
LINKS = "EN 1992-1-1, 9.3.2 (1), (5)"
PARAMETERS = (
    Parameter("k_1,cp", "k_1", "effect of axial compression on shear", 0.15, "EN 1992-1-1, 6.2.2 (1)", design=True),
    Parameter("h_links", "h_min", "least thickness (m) of slabs with links", 0.2, "EN 1992-1-1, 9.3.2 (1)", design=True),
    Parameter("s_t,links", "s_max", "greatest distance of legs across, over d", 1.5, "EN 1992-1-1, 9.3.2 (5)", design=True),
)


@dataclass(frozen=True, slots=True)
class Shear:
    """v_Rd,c; ``c`` C_Rd,c, ``v_min`` the factor of (6.3N), ``k_max`` and ``rho_max`` the greatest k and rho_l, ``k_1`` the
    effect of axial compression."""

    materials: Materials
    c: float
    v_min: float
    k_max: float
    rho_max: float
    k_1: float
    links: LinkLimits

    def _parts(self, p: ShearPlaces) -> tuple[Array, Array, Array, Array, Array]:
        f_ck = p.concrete.strength_MPa
        k = np.minimum(1 + np.sqrt(0.2 / p.d), self.k_max)
        rho = np.minimum(p.rho_l, self.rho_max)
        sigma = np.clip(-p.n / p.h / 1e3, -np.inf, 0.2 * self.materials.f_cd(p.concrete) / 1e3)
        by_bars = self.c * k * np.cbrt(100 * rho * f_ck) + self.k_1 * sigma
        least = self.v_min * k**1.5 * np.sqrt(f_ck) + self.k_1 * sigma
        return k, rho, sigma, by_bars, least

    def resistance(self, places: ShearPlaces) -> Array:
        """max(C_Rd,c k (100 rho_l f_ck)^(1/3), v_min) d + k_1 sigma_cp d, kN/m; never negative."""
        *_, by_bars, least = self._parts(places)
        return 1e3 * np.maximum(np.maximum(by_bars, least), 0.0) * places.d

    def steps(self, places: ShearPlaces, i: int) -> tuple[Step, ...]:
        """(6.2a), (6.2b), (6.3N)."""
        k, rho, sigma, *_ = (float(a[i]) for a in self._parts(places))
        f_ck, d = Value("f_ck", places.concrete.strength_MPa, "stress"), Value("d", float(places.d[i]), "size")
        kv, rv, sv = Value("k", k), Value("rho_l", rho), Value("sigma_cp", sigma, "stress", "compression positive")
        v = Value("v_Rd,c", float(self.resistance(places)[i]), "force_per_m")
        stress = Value("v_c", v.value / places.d[i] / 1e3, "stress")
        return (
            Step("Size", CLAUSE, "k = min(1 + sqrt(0.2 / d), k_max)", (d, Value("k_max", self.k_max)), kv, empirical=True),
            Step("Stress that is carried", CLAUSE,
                 "v_c = max(max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min · k^1.5 · sqrt(f_ck)) + k_1 · sigma_cp, 0)",
                 (Value("C_Rd,c", self.c), kv, rv, f_ck, Value("v_min", self.v_min), Value("k_1", self.k_1), sv), stress, empirical=True),
            Step("Resistance without links", CLAUSE, "v_Rd,c = v_c · d", (stress, d), v),
        )  # fmt: skip
