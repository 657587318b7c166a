"""EN 1992-1-1:2004 with A1:2014, recommended values."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from piastra.core.standards.protocol import ConcreteValues, Flexure, PunchingResistance, SteelValues

Array = npt.NDArray[np.float64]

CLAUSES = {
    "flexure": "EN 1992-1-1, 6.1 and 3.1.7 (3)",
    "ductility": "EN 1992-1-1, 5.5 (4)",
    "least_steel": "EN 1992-1-1, 9.3.1.1 (1), 9.2.1.1 (1)",
    "punching_stress": "EN 1992-1-1, 6.4.3 (3) (6.38)",
    "punching_beta": "EN 1992-1-1, 6.4.3 (3) (6.39)",
    "punching_perimeter": "EN 1992-1-1, 6.4.2",
    "punching_resistance": "EN 1992-1-1, 6.4.4 (1) (6.47)",
    "punching_face": "EN 1992-1-1, 6.4.5 (3) (6.53)",
    "punching_d": "EN 1992-1-1, 6.4.2 (1) (6.32)",
    "deflection": "EN 1992-1-1, 7.4.1 (4)",
    "effective_modulus": "EN 1992-1-1, 7.4.3 (5) (7.20)",
}


@dataclass(frozen=True, slots=True)
class En1992:
    """Flexure, minimum steel and punching of EN 1992-1-1 with gamma_C 1.5, gamma_S 1.15, alpha_cc 1.0."""

    gamma_c: float = 1.5
    gamma_s: float = 1.15
    alpha_cc: float = 1.0
    name: str = "EN 1992-1-1"
    designs: bool = True
    clauses: dict[str, str] = field(default_factory=lambda: CLAUSES)

    def concrete(self, strength_MPa: float, E_MPa: float | None) -> ConcreteValues:
        """Table 3.1: f_cm = f_ck + 8, E_cm = 22 (f_cm/10)^0.3 GPa, f_ctm; f_cd by 3.1.6 (1)."""
        fck = strength_MPa
        fctm = 0.30 * fck ** (2 / 3) if fck <= 50 else 2.12 * np.log(1 + (fck + 8) / 10)
        Ecm = E_MPa if E_MPa is not None else 22000.0 * ((fck + 8) / 10) ** 0.3
        return ConcreteValues(1e3 * fck, 1e3 * self.alpha_cc * fck / self.gamma_c, 1e3 * float(fctm), 1e3 * Ecm)

    def steel(self, yield_MPa: float) -> SteelValues:
        """3.2.7: f_yd = f_yk / gamma_S."""
        return SteelValues(1e3 * yield_MPa, 1e3 * yield_MPa / self.gamma_s)

    @staticmethod
    def block(fck: float) -> tuple[float, float]:
        """lambda and eta of the rectangular stress block, 3.1.7 (3); fck in kN/m2."""
        excess = max(fck / 1e3 - 50, 0.0)
        return 0.8 - excess / 400, 1.0 - excess / 200

    @staticmethod
    def greatest_depth(fck: float) -> float:
        """x/d up to which no compression steel is asked for: 5.6.2 (2), 0.45 to C50/60 and 0.35 above."""
        return 0.45 if fck <= 50e3 else 0.35

    def flexure(self, m: Array, n: Array, d: Array, d2: Array, concrete: ConcreteValues, steel: SteelValues) -> Flexure:
        """6.1 with the stress block of 3.1.7 (3), steel yielding with a horizontal top branch.

        ``mu = m / (eta f_cd d^2)``, ``omega = 1 - sqrt(1 - 2 mu)``, ``A_s = (omega eta f_cd d + n) / f_yd``; beyond
        x/d of 5.6.2 (2) the rest of the moment is a couple of steel at ``d`` and ``d2``. Nil where m and n ask for
        none.
        """
        lam, eta = self.block(concrete.fck)
        fcd, fyd = eta * concrete.fcd, steel.fyd
        limit = lam * self.greatest_depth(concrete.fck)
        mu = np.maximum(m, 0.0) / (fcd * d**2)
        mu_limit = limit * (1 - limit / 2)
        capped = np.minimum(mu, mu_limit)
        omega = 1.0 - np.sqrt(1.0 - 2.0 * capped)
        rest = (mu - capped) * fcd * d**2 / np.maximum(d - d2, 1e-3)
        tension = np.maximum(omega * fcd * d + rest + n, 0.0) / fyd
        return Flexure(tension, rest / fyd, omega / lam, d * (1 - omega / 2))

    def least_steel(self, d: Array, concrete: ConcreteValues, steel: SteelValues) -> Array:
        """9.2.1.1 (9.1N): max(0.26 f_ctm / f_yk, 0.0013) b d."""
        return max(0.26 * concrete.fctm / steel.fyk, 0.0013) * d

    def punching(self, d: float, rho_x: float, rho_y: float, concrete: ConcreteValues) -> PunchingResistance:
        """6.4.4 (1) with C_Rd,c = 0.18/gamma_C, v_min = 0.035 k^1.5 f_ck^0.5; 6.4.5 (3) with 0.4 nu f_cd (A1)."""
        fck = concrete.fck / 1e3
        k = min(1.0 + float(np.sqrt(0.2 / d)), 2.0)
        rho = min(float(np.sqrt(rho_x * rho_y)), 0.02)
        v_min = 0.035 * k**1.5 * np.sqrt(fck)
        v_c = max(0.18 / self.gamma_c * k * (100 * rho * fck) ** (1 / 3), v_min)
        nu = 0.6 * (1 - fck / 250)
        return PunchingResistance(1e3 * float(v_c), 1e3 * float(v_min), 0.4 * nu * concrete.fcd, k, rho)

    def moment_share(self, c1: float, c2: float) -> float:
        """k of table 6.1, linear between its values."""
        return float(np.interp(c1 / c2, [0.5, 1.0, 2.0, 3.0], [0.45, 0.60, 0.70, 0.80]))

    def perimeter_distance(self, d: float) -> float:
        """6.4.2 (1): 2 d."""
        return 2.0 * d
