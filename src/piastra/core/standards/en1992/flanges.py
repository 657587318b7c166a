"""Shear between web and flanges: EN 1992-1-1, 6.2.4."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.standards.beam_rules import FlangePlaces
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

CLAUSE = "EN 1992-1-1, 6.2.4"
PARAMETERS = (
    Parameter("cot_f,max", "cot_f,max", "flattest struts in compressed flanges", 2.0, f"{CLAUSE} (4)", design=True),
    Parameter("k_flange", "k", "shear of a flange over f_ctd that asks for no bars", 0.4, f"{CLAUSE} (6)", design=True),
)
COTS = np.linspace(1.0, 0.5, 21)
"""Inclinations that are tried, over the flattest, which comes first."""
MOST = 99.0


@dataclass(frozen=True, slots=True)
class Flanges:
    """Struts of variable inclination in compressed flanges; ``nu`` of (6.6N), ``cot_max`` the flattest, ``k`` of (6)."""

    materials: Materials
    nu: float
    cot_max: float
    k: float
    along: str = f"{CLAUSE} (3) (6.20)"

    def _found(self, p: FlangePlaces) -> tuple[float, float, Array, Array, Array]:
        """f_ctd and nu f_cd kN/m2, cot (k,), bars (k,) m2/m for the shear alone and those asked for."""
        f_ctd = 0.7 * self.materials.f_ctm(p.concrete) / self.materials.gamma_C
        strut = self.nu * (1 - p.concrete.strength_MPa / 250) * self.materials.f_cd(p.concrete)
        cots = np.maximum(self.cot_max * COTS, 1.0)[:, None]
        # Flat struts spare bars and press harder: of all inclinations the one that has both used least.
        shear = p.v * p.h_f / (cots * self.materials.f_yd(p.rebar))
        asked = np.maximum(shear, shear / 2 + p.bent)
        best = np.maximum(asked / np.maximum(p.laid, 1e-9), p.v * (cots + 1 / cots) / strut).argmin(axis=0)
        every = np.arange(len(best))
        return f_ctd, strut, cots[best, 0], shear[best, every], asked[best, every]

    def use(self, places: FlangePlaces) -> Array:
        """(6.21), (6.22), (5) and (6)."""
        f_ctd, strut, cot, _, asked = self._found(places)
        plain = places.v / (self.k * f_ctd)
        by_bars = np.maximum(asked / np.maximum(places.laid, 1e-9), places.v * (cot + 1 / cot) / strut)
        return np.minimum(np.where(plain <= 1, plain, by_bars), MOST)

    def steps(self, places: FlangePlaces) -> tuple[Step, ...]:
        """By the concrete alone, or by bars and struts."""
        p = places
        f_ctd, strut, cots, shear, asked = self._found(p)
        v, f, k = Value("v_Ed", float(p.v[0]) / 1e3, "stress"), Value("f_ctd", f_ctd / 1e3, "stress"), Value("k", self.k)
        use = Value("use", float(self.use(p)[0]))
        if p.v[0] <= self.k * f_ctd:
            return (Step("Without bars beyond those for bending", f"{CLAUSE} (6)", "use = v_Ed / (k · f_ctd)", (v, k, f), use),)
        cot, nu = (
            Value("cot", float(cots[0]), meaning="cot theta_f of the struts"),
            Value("f_nu", strut / 1e3, "stress", "strength of struts"),
        )
        h_f, f_yd = Value("h_f", float(p.h_f[0]), "size", "flange"), Value("f_yd", self.materials.f_yd(p.rebar) / 1e3, "stress")
        a_v, bent = (
            Value("a_v", 1e6 * float(shear[0]), "steel_per_m"),
            Value("a_b", 1e6 * float(p.bent[0]), "steel_per_m", "that bending across asks for"),
        )
        a, laid = (
            Value("a_sf", 1e6 * float(asked[0]), "steel_per_m"),
            Value("a_prov", 1e6 * float(p.laid[0]), "steel_per_m", "across, both faces"),
        )
        if p.laid[0] <= 0:
            last = Step("Utilisation", values=(a, laid), result=use, note="No bars lie across the joint.")
        else:
            last = Step("Utilisation", f"{CLAUSE} (4) (6.21), (6.22)", "use = min(max(a_sf / a_prov, v_Ed · (cot + 1 / cot) / f_nu), 99)",
                        (a, laid, v, cot, nu), use)  # fmt: skip
        return (
            Step("Bars for the shear", f"{CLAUSE} (4) (6.21)", "a_v = v_Ed · h_f / (f_yd · cot)", (v, h_f, f_yd, cot), a_v),
            Step("With bending across", f"{CLAUSE} (5)", "a_sf = max(a_v, a_v / 2 + a_b)", (a_v, bent), a),
            last,
        )  # fmt: skip
