"""Shear reinforcement against punching: EN 1992-1-1, 6.4.5 and 9.4.3 (A1:2014)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from piastra.core.standards.rail_design import rounded, searched
from piastra.core.standards.zone_rules import Laid, Lay, Rails, ZoneAction, ZoneUse
from piastra.core.trace import Step, Value
from piastra.core.trace.amounts import amount

if TYPE_CHECKING:
    from piastra.core.standards.en1992.punching import Zone

Array = npt.NDArray[np.float64]

STUDS, DETAILS = "EN 1992-1-1, 6.4.5 (1) (6.52)", "EN 1992-1-1, 9.4.3"
CONCRETE_SHARE, STEEL_SHARE = 0.75, 1.5
RADIAL, FIRST_LEAST, FIRST_MOST, INSIDE, OUTSIDE = 0.75, 0.3, 0.5, 1.5, 2.0
"""Over d: greatest radial spacing, bounds of the first, greatest tangential spacing within u_1 and beyond: 9.4.3 (1)."""
YIELD = 500.0


@dataclass(frozen=True, slots=True)
class Reinforced:
    """A zone with rails: resistances in kN/m2, ``f_y`` the strength that counts, kN/m2."""

    zone: Zone
    laid: Laid

    @property
    def f_y(self) -> float:
        """f_ywd,ef = 250 + 0.25 d <= f_ywd, d in mm."""
        yields = 1e3 * self.laid.rails.yield_MPa / self.zone.rules.materials.gamma_S
        return float(min(1e3 * (250 + 0.25 * 1e3 * self.zone.d), yields))

    @property
    def resistance(self) -> float:
        """v_Rd,cs of (6.52), at most k_max v_Rd,c (A1)."""
        z = self.zone
        steel = STEEL_SHARE * z.d / self.laid.rails.spacing * self.laid.area * self.f_y / (z.u * z.d)
        return float(min(CONCRETE_SHARE * z.resistance + steel, z.rules.k_max * z.resistance))

    @property
    def outer_coefficients(self) -> Array:
        """beta V_Ed / (u_out d): as at the control perimeter, over the other length (6.54)."""
        outer = self.laid.outer
        return self.zone.coefficients * (self.zone.u / outer.length if outer is not None else 1.0)

    def u_out(self, outer: ZoneAction) -> float:
        """(6.54): beta V_Ed / (v_Rd,c d)."""
        return self.zone.beta(outer) * outer.V / (self.zone.resistance * self.zone.d)

    def _stress_out(self, outer: ZoneAction) -> float:
        return float(self.outer_coefficients[outer.row] @ (outer.V, outer.M_x, outer.M_y))

    def _least(self) -> float:
        """(9.11) of one leg, m2."""
        r, s = self.laid.rails, self.zone.shape
        return float(0.08 * np.sqrt(s.concrete.strength_MPa) / r.yield_MPa * r.spacing * self.laid.spread / STEEL_SHARE)

    def uses(self, action: ZoneAction, outer: ZoneAction) -> tuple[ZoneUse, ...]:
        """Strength at u_1, at the face, beyond the studs; detailing."""
        z, r, d = self.zone, self.laid.rails, self.zone.d
        stress = float(z.coefficients[action.row] @ (action.V, action.M_x, action.M_y))
        return (
            ZoneUse("perimeter", stress, self.resistance),
            *(u for u in z.uses(action) if u.part == "face"),
            ZoneUse("outer", self._stress_out(outer), z.resistance),
            ZoneUse("radial spacing", r.spacing, RADIAL * d, True),
            ZoneUse("first stud, most", r.first, FIRST_MOST * d, True),
            ZoneUse("first stud, least", FIRST_LEAST * d, r.first, True),
            ZoneUse("tangential spacing", self.laid.spread, INSIDE * d, True),
            ZoneUse("least area", self._least(), r.one, True),
            ZoneUse("perimeters of studs", 2.0, float(r.per_rail), True),
        )

    def steps(self, action: ZoneAction, outer: ZoneAction) -> tuple[Step, ...]:
        """After those of the zone."""
        z, r, l = self.zone, self.laid.rails, self.laid
        d, u = Value("d", z.d, "size"), Value("u", z.u, "length")
        one, n = Value("A_sw1", 1e6 * r.one, "steel"), Value("n", len(l.lines), meaning="rails that lie in concrete")
        A = Value("A_sw", 1e6 * l.area, "steel", "of one perimeter")
        f_y, f_k = Value("f_ywd,ef", self.f_y / 1e3, "stress"), Value("f_ywk", r.yield_MPa, "stress")
        v_c, v_ed = (
            Value("v_Rd,c", z.resistance, "shear_stress"),
            Value("v_Ed", self.uses(action, outer)[0].stress, "shear_stress"),
        )
        v_cs = Value("v_Rd,cs", self.resistance, "shear_stress")
        s_r = Value("s_r", r.spacing, "size")
        left = f" {l.left_out} meet an opening or an edge and are left out." if l.left_out else ""
        steps = [
            Step("Studs", STUDS, "A_sw = n · A_sw1", (n, one), A,
                 note=f"{r.per_rail} a rail, the first {amount(r.first, 'size')} from the face, {r.pattern}.{left}"),
            Step("Strength of the studs", "EN 1992-1-1, 6.4.5 (1)", "f_ywd,ef = min(250 + 0.25 · d, f_ywk / gamma_S)",
                 (Value("d", 1e3 * z.d, "cover"), f_k, Value("gamma_S", z.rules.materials.gamma_S)), f_y, empirical=True),
            Step("Resistance with studs", STUDS,
                 "v_Rd,cs = min(0.75 · v_Rd,c + 1.5 · d / s_r · A_sw · f_ywd,ef / (u · d), k_max · v_Rd,c)",
                 (v_c, d, s_r, A, f_y, u, Value("k_max", z.rules.k_max)), v_cs),
            Step("Utilisation with studs", "", "use = v_Ed / v_Rd,cs", (v_ed, v_cs), Value("use", v_ed.value / v_cs.value)),
        ]  # fmt: skip
        if l.outer is not None:
            out = Value("v_Ed,out", self._stress_out(outer), "shear_stress")
            beta, V = Value("beta", z.beta(outer)), Value("V_Ed", outer.V, "force")
            steps += [
                Step("Perimeter that needs none", "EN 1992-1-1, 6.4.5 (4) (6.54)", "u_out,ef = beta · V_Ed / (v_Rd,c · d)", (beta, V, v_c, d),
                     Value("u_out,ef", self.u_out(outer), "length")),
                Step("Beyond the studs", "EN 1992-1-1, 6.4.5 (4), figure 6.22", "v_Ed,out = beta · V_Ed / (u_laid · d)",
                     (beta, V, Value("u_laid", l.outer.length, "length", "1.5 d beyond the last studs, counted up to d beside a rail"), d), out),
                Step("Utilisation beyond the studs", "", "use = v_Ed,out / v_Rd,c", (out, v_c), Value("use", out.value / v_c.value)),
            ]  # fmt: skip
        worst = max(self.uses(action, outer)[-6:], key=lambda x: x.utilisation)
        steps.append(
            Step("Detailing", DETAILS, note=f"Tightest: {worst.part}, {worst.utilisation:.2f} of what is allowed (s_r {amount(r.spacing, 'size')}, "
                 f"s_t {amount(l.spread, 'size')} within 2 d, least area {amount(1e6 * self._least(), 'steel')} a leg).")
        )  # fmt: skip
        return tuple(steps)


def designed(zone: Zone, action: ZoneAction, lay: Lay) -> Laid | None:
    """The least studs that carry the action; None: the concrete at the face or k_max v_Rd,c does not."""
    d = zone.d
    at = zone.uses(action)
    if any(u.part == "face" and u.utilisation > 1 for u in at) or at[0].stress > zone.rules.k_max * zone.resistance:
        return None
    spacing, first = rounded(RADIAL * d), rounded(FIRST_MOST * d)
    missing = max(at[0].stress - CONCRETE_SHARE * zone.resistance, 0.0)
    f_y = min(1e3 * (250 + 0.25 * 1e3 * d), 1e3 * YIELD / zone.rules.materials.gamma_S)
    area = missing * zone.u * spacing / (STEEL_SHARE * f_y)
    # Rails no farther apart than 1.5 d where they cross the control perimeter.
    least = max(int(np.ceil(zone.u / (INSIDE * d) - 1e-9)), 4)

    def rails(bar: float, count: int, per_rail: int) -> Rails:
        return Rails("stud", bar, YIELD, count, per_rail, first, spacing, "radial")

    def uses(laid: Laid) -> tuple[ZoneUse, ...]:
        found = Reinforced(zone, laid)
        return found.uses(action, action)

    return searched(rails, area, least, lay, uses)
