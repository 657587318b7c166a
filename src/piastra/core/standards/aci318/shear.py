"""One-way shear of slabs without shear reinforcement: ACI 318-19 (SI units), 22.5.5.1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import LinkLimits, ShearPlaces
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

CLAUSE = "ACI 318-19, 22.5.5.1, table 22.5.5.1 (c)"
SIZE = "ACI 318-19, 22.5.5.1.3"
# Legs across no further apart than half the depth, which holds for any shear; where that is small, d would do.
LINKS = LinkLimits(0.0, 0.5, "ACI 318-19, table 9.7.6.2.2")
PARAMETERS = (Parameter("phi_shear", "phi", "strength reduction, shear", 0.75, "ACI 318-19, table 21.2.1", design=True),)


@dataclass(frozen=True, slots=True)
class Shear:
    """phi V_c with the size effect, normalweight concrete."""

    phi: float
    links: LinkLimits = LINKS

    def _parts(self, p: ShearPlaces) -> tuple[Array, Array, Array, Array]:
        root = np.sqrt(min(p.concrete.strength_MPa, 69.0))
        size = np.minimum(np.sqrt(2 / (1 + 0.004 * 1e3 * p.d)), 1.0)
        axial = np.minimum(-p.n / (6 * p.h) / 1e3, 0.05 * p.concrete.strength_MPa)
        stress = np.clip(0.66 * size * np.cbrt(p.rho_l) * root + axial, 0.0, 0.42 * root)
        return np.full_like(p.d, root), size, axial, stress

    def resistance(self, places: ShearPlaces) -> Array:
        """phi (0.66 lambda_s rho_w^(1/3) sqrt(f'_c) + N_u / (6 A_g)) d, kN/m; at most 0.42 sqrt(f'_c), never negative."""
        return self.phi * 1e3 * self._parts(places)[3] * places.d

    def steps(self, places: ShearPlaces, i: int) -> tuple[Step, ...]:
        """Size effect, stress, strength."""
        root, size, axial, stress = (float(a[i]) for a in self._parts(places))
        d = Value("d", float(places.d[i]), "size")
        lam, v_c = Value("lambda_s", size), Value("v_c", stress, "stress")
        r = Value("r_c", root, meaning="sqrt(f'_c), capped by 22.5.3.1")
        return (
            Step("Size effect", SIZE, "lambda_s = min(sqrt(2 / (1 + 4 · d)), 1)", (d,), lam, empirical=True),
            Step("Stress of the concrete", CLAUSE, "v_c = min(max(0.66 · lambda_s · rho_w^(1/3) · r_c + n_g, 0), 0.42 · r_c)", (
                lam, Value("rho_w", float(places.rho_l[i])), r, Value("n_g", axial, "stress", "N_u / (6 A_g), compression positive")), v_c,
                empirical=True),
            Step("Design strength", "ACI 318-19, table 21.2.1", "v_Rd,c = phi · v_c · d", (Value("phi", self.phi), v_c, d),
                 Value("v_Rd,c", float(self.resistance(places)[i]), "force_per_m", "phi V_c by the metre")),
        )  # fmt: skip
