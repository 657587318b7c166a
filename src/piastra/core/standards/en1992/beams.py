"""Beams of EN 1992-1-1: 5.3.2.1 (flanges), 6.2.2, 6.2.3 (shear), 6.3 (torsion), 9.2 (least steel and links)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.beam_rules import Links, Webs, block_told
from piastra.core.standards.en1992.flanges import Flanges
from piastra.core.standards.en1992.flexure import block
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.en1992.minimum import LeastSteel
from piastra.core.standards.en1992.shear import Shear
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import ShearPlaces
from piastra.core.strips.layout import Position
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

ENDS, KEPT, SHIFT = "EN 1992-1-1, 9.2.1.2 (1)", "EN 1992-1-1, 9.2.1.4 (1), 9.2.1.5 (1)", "EN 1992-1-1, 9.2.1.3 (2) (9.2)"
SHEAR, TORSION, LEAST = "EN 1992-1-1, 6.2.3", "EN 1992-1-1, 6.3.2", "EN 1992-1-1, 9.2.2"
PARAMETERS = (
    Parameter("cot_max", "cot_max", "flattest struts", 2.5, f"{SHEAR} (2)", design=True),
    Parameter("rho_w,min", "k_w", "least links over sqrt(f_ck) / f_yk", 0.08, f"{LEAST} (5) (9.5N)", design=True),
    Parameter("s_l,max", "k_sl", "greatest spacing of links over d", 0.75, f"{LEAST} (6) (9.6N)", design=True),
    Parameter("beta_1", "beta_1", "top steel at a beam's ends over the steel of its span", 0.15, ENDS, design=True),
    Parameter("beta_2", "beta_2", "bottom steel that runs through to supports over that of the span", 0.25, KEPT, design=True),
)
COTS = np.array([1.0, 0.95, 0.9, 0.8, 0.7, 0.6, 0.5, 0.45, 0.4])
"""Inclinations that are tried, over the flattest: the flattest whose struts hold is taken."""
ZEROS = {"end": 0.85, "inner": 0.7, "cantilever": 2.0}
"""Distance between points of no moment over the span, figure 5.2; of a cantilever 0.15 l_2 + l_3, here its double length."""


@dataclass(frozen=True, slots=True)
class Beams:
    """Variable inclination of struts."""

    materials: Materials
    shear: Shear
    minimum: LeastSteel
    nu: float
    cot_max: float
    k_w: float
    k_s: float
    joint: Flanges
    beta_1: float
    beta_2: float
    restraint_clause: str = ENDS
    shift_clause: str = SHIFT

    @property
    def through(self) -> tuple[float, float]:
        """beta_2 of the bottom bars (9.2.1.4, 9.2.1.5)."""
        return self.beta_2, 0.0

    @property
    def restraint(self) -> float:
        """beta_1: of the moment, here of the steel for it."""
        return self.beta_1

    def shift(self, z: Array, d: Array, cot: Array, bar: float) -> Array:
        """(9.2) with upright links."""
        return z * cot / 2

    def flange(self, b_w: float, free: float, span: float, position: Position, h_f: float) -> float:
        """(5.7a): 0.2 b_i + 0.1 l_0, not more than 0.2 l_0 nor b_i."""
        l_0 = ZEROS[position] * span
        return min(0.2 * free + 0.1 * l_0, 0.2 * l_0, free)

    def clear(self, bar: float) -> float:
        """8.2 (2): the diameter, the aggregate's 16 mm + 5 mm, 20 mm."""
        return max(bar, 0.021)

    def least(self, b_t: Array, d: Array, concrete: Concrete, rebar: Rebar) -> Array:
        """9.2.1.1 (1) (9.1N)."""
        rules = self.minimum
        ratio = max(rules.k_min * self.materials.f_ctm(concrete) / (1e3 * rebar.yield_MPa), rules.rho_min)
        return ratio * b_t * d

    def _box(self, w: Webs) -> tuple[Array, Array, Array]:
        """t_ef, A_k and u_k of the thin-walled section, 6.3.2 (1)."""
        t = np.maximum(w.b_w * w.H / (2 * (w.b_w + w.H)), 2 * w.centre)
        t = np.minimum(t, 0.5 * np.minimum(w.b_w, w.H))
        return t, (w.b_w - t) * (w.H - t), 2 * (w.b_w + w.H - 2 * t)

    def _limits(self, w: Webs) -> tuple[Array, Array, Array]:
        """V_Rd,c, T_Rd,c and nu f_cd."""
        t, A_k, _ = self._box(w)
        v = self.shear.resistance(ShearPlaces(w.H, w.d, w.rho_l, np.zeros_like(w.d), w.concrete, w.rebar))
        f_ctd = 0.7 * self.materials.f_ctm(w.concrete) / self.materials.gamma_C
        nu = self.nu * (1 - w.concrete.strength_MPa / 250) * self.materials.f_cd(w.concrete)
        return v * w.b_w, 2 * A_k * t * f_ctd, np.full_like(w.d, nu)

    def links(self, V: Array, T: Array, webs: Webs) -> Links:
        """(6.8), (6.9), (6.26) to (6.31), (9.5N), (9.6N), 9.2.3 (3). Torsion whose share with the shear is carried by uncracked
        concrete (6.31) needs none."""
        w = webs
        t, A_k, u_k = self._box(w)
        V_c, T_c, strut = self._limits(w)
        f = self.materials.f_yd(w.rebar)
        cracked = V / V_c + T / T_c > 1
        turning = np.where(cracked, T, 0.0)
        cots = np.maximum(self.cot_max * COTS, 1.0)[:, None]
        both = cots + 1 / cots
        use = V * both / (w.b_w * w.z * strut) + turning * both / (2 * strut * A_k * t)
        holds = use <= 1
        pick = np.where(holds.any(axis=0), holds.argmax(axis=0), len(cots) - 1)
        cot = cots[pick, 0]
        struts = use[pick, np.arange(len(V))]
        least = self.k_w * np.sqrt(w.concrete.strength_MPa) / w.rebar.yield_MPa * w.b_w
        shear = np.where(V_c < V, V / (w.z * f * cot), 0.0)
        area = np.maximum(np.where(cracked, V / (w.z * f * cot), shear) + turning / (A_k * f * cot), least)
        along = turning * u_k * cot / (2 * A_k * f)
        around = np.where(turning > 0, np.minimum(2 * (w.b_w + w.H) / 8, np.minimum(w.b_w, w.H)), np.inf)
        return Links(area, struts, along, np.minimum(self.k_s * w.d, around), cot)

    def flexure_steps(self, area: float, parts: dict[str, float], concrete: Concrete, rebar: Rebar) -> tuple[Step, ...]:
        """Section 6.1 with the flange's part of the block."""
        m, d = Value("M", parts["M"], "moment", "about the tension steel"), Value("d", parts["d"], "size")
        lam, _ = block(concrete.strength_MPa)
        return (
            self.materials.f_cd_step(concrete),
            self.materials.f_yd_step(rebar),
            Step("Section", values=(m, d, Value("b", parts["b"], "length", "compressed width"), Value("h_f", parts["h_f"], "size", "flange")),
                 note=block_told(parts)),
            Step("Neutral axis", "EN 1992-1-1, 3.1.7 (3)", "x = a / lambda", (Value("a", parts["a"], "size", "depth of the block"), Value("lambda", lam)),
                 Value("x", parts["a"] / lam, "size", "from the compressed face")),
            Step("Tension steel", "EN 1992-1-1, 6.1, 3.1.7 (3)", "A_s = M / (f_yd · z_e) + N / f_yd", (
                m, Value("f_yd", parts["f_y"] / 1e3, "stress"), Value("z_e", parts["z"], "size", "lever arm of all that is compressed"),
                Value("N", parts["N"], "force", "tension positive")), Value("A_s", 1e6 * area, "steel")),
        )  # fmt: skip

    def link_steps(self, V: float, T: float, webs: Webs) -> tuple[Step, ...]:
        """Of one station."""
        found = self.links(np.array([V]), np.array([T]), webs)
        t, A_k, _ = (float(a[0]) for a in self._box(webs))
        V_c, T_c, strut = (float(a[0]) for a in self._limits(webs))
        cot = Value("cot", float(found.cot[0]), meaning="cot theta of the struts")
        v, tq = Value("V_Ed", V, "force"), Value("T_Ed", T, "moment")
        vc, tc = Value("V_Rd,c", V_c, "force"), Value("T_Rd,c", T_c, "moment")
        z, b_w = Value("z", float(webs.z[0]), "size"), Value("b_w", float(webs.b_w[0]), "size")
        f, s = (
            Value("f_ywd", self.materials.f_yd(webs.rebar) / 1e3, "stress"),
            Value("f_nu", strut / 1e3, "stress", "strength of struts"),
        )
        share = V / V_c + T / T_c
        ak, te = Value("A_k", A_k, "area"), Value("t_ef", t, "size")
        turning = T if share > 1 else 0.0
        tr = Value("T", turning, "moment", "that links take" if turning else "carried by uncracked concrete")
        least = self.k_w * np.sqrt(webs.concrete.strength_MPa) / webs.rebar.yield_MPa * float(webs.b_w[0])
        return (
            Step("Uncracked", f"{TORSION} (5) (6.31)", "use_c = V_Ed / V_Rd,c + T_Ed / T_Rd,c", (v, vc, tq, tc), Value("use_c", share)),
            Step("Struts", f"{SHEAR} (3) (6.9), {TORSION} (4) (6.29)",
                 "use = (cot + 1 / cot) · (V_Ed / (b_w · z · f_nu) + T / (2 · f_nu · A_k · t_ef))", (cot, v, b_w, z, s, tr, ak, te),
                 Value("use", float(found.struts[0]))),
            Step("Links, both legs", f"{SHEAR} (3) (6.8), {TORSION} (3)",
                 "a_sw = max(V_Ed / (z · f_ywd · cot) + T / (A_k · f_ywd · cot), a_w,min)" if share > 1 or V_c < V else "a_sw = a_w,min",
                 (v, z, f, cot, tr, ak, Value("a_w,min", 1e6 * least, "steel_per_m")) if share > 1 or V_c < V
                 else (Value("a_w,min", 1e6 * least, "steel_per_m", f"{LEAST} (5)"),),
                 Value("a_sw", 1e6 * float(found.area[0]), "steel_per_m")),
        )  # fmt: skip
