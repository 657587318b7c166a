"""Beams of ACI 318-19 (SI units): 6.3.2.1 (flanges), 9.6.1.2, 9.6.3.4 (least), 22.5 (shear), 22.7 (torsion), 9.7.6.2."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.aci318.flanges import Flanges
from piastra.core.standards.aci318.flexure import beta_1
from piastra.core.standards.aci318.shear import Shear
from piastra.core.standards.beam_rules import Links, Webs, block_told
from piastra.core.strips.layout import Position
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

SHEAR, TORSION, LEAST = "ACI 318-19, 22.5.8.5.3", "ACI 318-19, 22.7.6.1", "ACI 318-19, 9.6.3.4"


@dataclass(frozen=True, slots=True)
class Beams:
    """Struts at 45 degrees, normalweight concrete."""

    phi: float
    phi_tension: float
    shear: Shear
    joint: Flanges
    through: tuple[float, float] = (1 / 3, 1 / 3)
    """9.7.3.8.1 (a quarter does at supports that are not simple, 9.7.3.8.2) and 9.7.3.8.4."""
    restraint: float = 0.0
    restraint_clause: str = ""
    shift_clause: str = "ACI 318-19, 9.7.3.3"

    def shift(self, z: Array, d: Array, cot: Array, bar: float) -> Array:
        """9.7.3.3: d, but no less than 12 diameters."""
        return np.maximum(d, 12 * bar)

    def flange(self, b_w: float, free: float, span: float, position: Position, h_f: float) -> float:
        """Table 6.3.2.1: the least of 8 h_f, half of the clear distance and an eighth of the span; a flange to one side only is not
        told apart, which its free width does."""
        return min(8 * h_f, free, span / 8)

    def clear(self, bar: float) -> float:
        """25.2.1, 25.2.2: 25 mm, the diameter, 4/3 of the aggregate's 16 mm."""
        return max(bar, 0.025)

    def least(self, b_t: Array, d: Array, concrete: Concrete, rebar: Rebar) -> Array:
        """9.6.1.2."""
        return np.maximum(0.25 * np.sqrt(concrete.strength_MPa), 1.4) / rebar.yield_MPa * b_t * d

    def _limits(self, w: Webs) -> tuple[Array, Array, Array, Array, Array]:
        """phi V_c with least links, phi T_th, A_oh, p_h, sqrt(f'_c) in kN and m."""
        root = min(float(np.sqrt(w.concrete.strength_MPa)), 8.3)
        V_c = self.phi * 0.17 * 1e3 * root * w.b_w * w.d
        T_th = self.phi * 0.083 * 1e3 * root * (w.b_w * w.H) ** 2 / (2 * (w.b_w + w.H))
        a, b = w.b_w - 2 * w.centre, w.H - 2 * w.centre
        return V_c, T_th, a * b, 2 * (a + b), np.full_like(w.d, 1e3 * root)

    def links(self, V: Array, T: Array, webs: Webs) -> Links:
        """22.5.8.5.3, 22.7.6.1 with theta 45 degrees, 22.7.7.1, 9.6.3.4, 9.7.6.2.2, 9.7.6.3.3. Torsion below its threshold (22.7.4.1)
        is neglected."""
        w = webs
        V_c, T_th, A_oh, p_h, root = self._limits(w)
        turning = np.where(T_th < T, T, 0.0)
        f_yt = 1e3 * min(w.rebar.yield_MPa, 420.0)
        shear = np.maximum(V - V_c, 0.0) / (self.phi * f_yt * w.d)
        twist = turning / (self.phi * 0.85 * A_oh * f_yt)
        least = max(0.062 * float(np.sqrt(w.concrete.strength_MPa)), 0.35) / (f_yt / 1e3) * w.b_w
        stress = np.hypot(V / (w.b_w * w.d), turning * p_h / (1.7 * A_oh**2))
        struts = stress / (V_c / (w.b_w * w.d) + self.phi * 0.66 * root)
        along = turning * p_h / (self.phi * 2 * 0.85 * A_oh * 1e3 * w.rebar.yield_MPa)
        close = np.maximum(V - V_c, 0.0) / self.phi > 0.33 * root * w.b_w * w.d
        spacing = np.where(close, np.minimum(w.d / 4, 0.3), np.minimum(w.d / 2, 0.6))
        spacing = np.where(turning > 0, np.minimum(spacing, np.minimum(p_h / 8, 0.3)), spacing)
        # Least links where the shear exceeds half of what the concrete carries (9.6.3.1): here wherever there is a beam.
        return Links(np.maximum(shear + twist, least), struts, along, spacing, np.ones_like(V))

    def flexure_steps(self, area: float, parts: dict[str, float], concrete: Concrete, rebar: Rebar) -> tuple[Step, ...]:
        """22.2.2.4 with the flange's part of the block."""
        m, d = Value("M_u", parts["M"], "moment", "about the tension steel"), Value("d", parts["d"], "size")
        b1 = Value("beta_1", beta_1(concrete.strength_MPa))
        return (
            Step("Section", values=(m, d, Value("b", parts["b"], "length", "compressed width"), Value("h_f", parts["h_f"], "size", "flange")),
                 note=block_told(parts)),
            Step("Neutral axis", "ACI 318-19, 22.2.2.4.1", "c = a / beta_1", (Value("a", parts["a"], "size", "depth of the block"), b1),
                 Value("c", parts["a"] / b1.value, "size", "from the compressed face")),
            Step("Tension steel", "ACI 318-19, 22.2.2.4, 21.2.2", "A_s = M_u / (phi · f_y · z_e) + N_u / (phi · f_y)", (
                m, Value("phi", self.phi_tension), Value("f_y", rebar.yield_MPa, "stress"),
                Value("z_e", parts["z"], "size", "lever arm of all that is compressed"),
                Value("N_u", parts["N"], "force", "tension positive")), Value("A_s", 1e6 * area, "steel")),
        )  # fmt: skip

    def link_steps(self, V: float, T: float, webs: Webs) -> tuple[Step, ...]:
        """Of one station."""
        found = self.links(np.array([V]), np.array([T]), webs)
        V_c, T_th, A_oh, _, root = (float(a[0]) for a in self._limits(webs))
        v, t = (
            Value("V_u", V, "force"),
            Value("T_u", T if T_th < T else 0.0, "moment", "" if T_th < T else "what there is lies below the threshold"),
        )
        f_yt = Value("f_yt", min(webs.rebar.yield_MPa, 420.0), "stress")
        phi, d, b_w = Value("phi", self.phi), Value("d", float(webs.d[0]), "size"), Value("b_w", float(webs.b_w[0]), "size")
        vc, a = Value("phiV_c", V_c, "force", "phi V_c"), Value("A_oh", A_oh, "area")
        least = max(0.062 * float(np.sqrt(webs.concrete.strength_MPa)), 0.35) / f_yt.value * float(webs.b_w[0])
        r = Value("r_c", root / 1e3, "stress", "sqrt(f'_c)")
        vs = Value(
            "v_u",
            float(found.struts[0]) * (V_c / (webs.b_w[0] * webs.d[0]) + self.phi * 0.66 * root) / 1e3,
            "stress",
            "of shear and torsion together, 22.7.7.1",
        )
        return (
            Step("Threshold of torsion", "ACI 318-19, 22.7.4.1", values=(Value("T_u", T, "moment"), Value("T_th", T_th, "moment", "phi T_th"))),
            Step("Greatest stress", "ACI 318-19, 22.7.7.1, 22.5.1.2", "use = v_u / (phiV_c / (b_w · d) + phi · 0.66 · r_c)", (vs, vc, b_w, d, phi, r),
                 Value("use", float(found.struts[0]))),
            Step("Links, both legs", f"{SHEAR}, {TORSION}", "a_v = max(max(V_u - phiV_c, 0) / (phi · f_yt · d) + T_u / (phi · 0.85 · A_oh · f_yt), a_v,min)",
                 (v, vc, phi, f_yt, d, t, a, Value("a_v,min", 1e6 * least, "steel_per_m", LEAST)), Value("a_v", 1e6 * float(found.area[0]), "steel_per_m")),
        )  # fmt: skip
