"""Shear reinforcement in two-way shear: ACI 318-19 (SI), 22.6.6 to 22.6.8, 8.7.6, 8.7.7."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from piastra.core.standards.aci318.section import size_effect, stress_rows
from piastra.core.standards.rail_design import rounded, searched
from piastra.core.standards.zone_rules import Laid, Lay, Rails, ZoneAction, ZoneUse
from piastra.core.trace import Step, Value
from piastra.core.trace.amounts import amount

if TYPE_CHECKING:
    from piastra.core.standards.aci318.punching import Zone

Array = npt.NDArray[np.float64]

STRENGTH, MOST, LEAST = "ACI 318-19, 22.6.6.1", "ACI 318-19, 22.6.6.3", "ACI 318-19, 22.6.8.3"
GREATEST = {"stud": 0.66, "link": 0.50}
"""Greatest v_u over phi sqrt(f'_c), MPa: 22.6.6.3."""
SHARE, OUTSIDE, LEAST_SHARE = {"stud": 0.25, "link": 0.17}, 0.17, 0.17
CLOSE = 0.50
"""Over sqrt(f'_c): beyond it, studs lie at d / 2 (8.7.7.1.2)."""
YIELD, MOST_YIELD = 350.0, 420.0
"""Of studs, and the most that counts in shear (20.2.2.4), MPa."""


@dataclass(frozen=True, slots=True)
class Reinforced:
    """A zone with studs or stirrups; stresses in kN/m2."""

    zone: Zone
    laid: Laid

    @property
    def _root(self) -> float:
        return self.zone.rules.root(self.zone.shape.concrete.strength_MPa)

    @property
    def _yield(self) -> float:
        return min(self.laid.rails.yield_MPa, MOST_YIELD)

    @property
    def least(self) -> float:
        """A_v of one line by 22.6.8.3, m2."""
        return LEAST_SHARE * self._root * self.zone.shape.perimeter.length * self.laid.rails.spacing / self._yield

    @property
    def size(self) -> float:
        """lambda_s, 1 with the least of 22.6.6.2."""
        return 1.0 if self.laid.area >= self.least * (1 - 1e-9) else size_effect(self.zone.d)

    @property
    def concrete(self) -> float:
        """v_c of table 22.6.6.1, MPa."""
        share = SHARE[self.laid.rails.kind]
        if self.laid.rails.kind == "stud":
            lam = size_effect(self.zone.d)
            share = min(share, *(v / (lam * self._root) for v in self.zone.v_c[1:]))
        return share * self.size * self._root

    @property
    def steel(self) -> float:
        """v_s = A_v f_yt / (b_o s), MPa."""
        return self.laid.area * self._yield / (self.zone.shape.perimeter.length * self.laid.rails.spacing)

    @property
    def resistance(self) -> float:
        """phi v_n, at most as 22.6.6.3 has it."""
        return 1e3 * self.zone.rules.phi * min(self.concrete + self.steel, GREATEST[self.laid.rails.kind] * self._root)

    @property
    def resistance_out(self) -> float:
        """phi v_c beyond the studs, 22.6.6.1."""
        return 1e3 * self.zone.rules.phi * OUTSIDE * self.size * self._root

    @property
    def outer_coefficients(self) -> Array:
        """8.4.4.2.3 at d / 2 beyond the last studs, of the force and moments at the inner section, the force moved to its centroid."""
        outer, z = self.laid.outer, self.zone
        if outer is None:
            return z.coefficients
        rows = stress_rows(outer, z.d, z.shape.angle)[0]
        c, s = np.cos(z.shape.angle), np.sin(z.shape.angle)
        dx, dy = np.array(z.shape.perimeter.centroid) - np.array(outer.centroid)
        x, y = c * dx + s * dy, -s * dx + c * dy
        moved = rows.copy()
        moved[:, 0] += rows[:, 1] * y - rows[:, 2] * x
        return moved

    def u_out(self, outer: ZoneAction) -> float | None:
        """The standard names no length but compares stresses; that of the section laid, times its utilisation."""
        if self.laid.outer is None:
            return None
        return (
            self.laid.outer.length
            * float(self.outer_coefficients[outer.row] @ (outer.V, outer.M_x, outer.M_y))
            / self.resistance_out
        )

    def _spacing(self, stress: float) -> float:
        if self.laid.rails.kind == "link" or stress > 1e3 * self.zone.rules.phi * CLOSE * self._root:
            return 0.5 * self.zone.d
        return 0.75 * self.zone.d

    def uses(self, action: ZoneAction, outer: ZoneAction) -> tuple[ZoneUse, ...]:
        """Strength at both sections; detailing."""
        z, r, d = self.zone, self.laid.rails, self.zone.d
        stress = float(z.coefficients[action.row] @ (action.V, action.M_x, action.M_y))
        out = float(self.outer_coefficients[outer.row] @ (outer.V, outer.M_x, outer.M_y))
        found = [
            ZoneUse("perimeter", stress, self.resistance),
            ZoneUse("outer", out, self.resistance_out),
            ZoneUse("spacing", r.spacing, self._spacing(stress), True),
            ZoneUse("first", r.first, 0.5 * d, True),
            ZoneUse("spacing along the first line", self.laid.first_spread, 2 * d, True),
        ]
        if r.kind == "stud":
            found.append(ZoneUse("least area", self.least, max(self.laid.area, 1e-12), True))
        else:
            # Stirrups act in slabs no thinner than 150 mm and 16 bar diameters: 22.6.7.1.
            found.append(ZoneUse("least depth", max(0.15, 16 * r.bar), d, True))
        return tuple(found)

    def steps(self, action: ZoneAction, outer: ZoneAction) -> tuple[Step, ...]:
        """After those of the zone."""
        z, r, l = self.zone, self.laid.rails, self.laid
        uses = self.uses(action, outer)
        root, b_o = Value("r_c", self._root, "stress", "sqrt(f'_c)"), Value("b_o", z.shape.perimeter.length, "length")
        one, n = Value("A_v1", 1e6 * r.one, "steel"), Value("n", len(l.lines), meaning="rails that lie in concrete")
        A, s = Value("A_v", 1e6 * l.area, "steel", "of one line"), Value("s", r.spacing, "size")
        f_yt, phi = Value("f_yt", self._yield, "stress"), Value("phi", z.rules.phi)
        v_c, v_s, least = (
            Value("v_c", self.concrete, "stress"),
            Value("v_s", self.steel, "stress"),
            Value("A_v,min", 1e6 * self.least, "steel"),
        )
        v_n, v_u = Value("v_Rd,cs", self.resistance, "shear_stress", "phi v_n"), Value("v_u", uses[0].stress, "shear_stress")
        left = f" {l.left_out} meet an opening or an edge and are left out." if l.left_out else ""
        steps = [
            Step("Shear reinforcement", STRENGTH, "A_v = n · A_v1", (n, one), A,
                 note=f"{r.per_rail} a rail, the first {amount(r.first, 'size')} from the face, {r.pattern}.{left}"),
            Step("Least shear reinforcement", LEAST, "A_v,min = 0.17 · r_c · b_o · s / f_yt", (root, b_o, s, f_yt), least,
                 note="lambda_s is 1 with it (22.6.6.2)." if self.size == 1.0 else ""),
            Step("Concrete with shear reinforcement", STRENGTH, "", (root, Value("lambda_s", self.size)), v_c),
            Step("Steel", "ACI 318-19, 22.6.7.2, 22.6.8.2", "v_s = A_v · f_yt / (b_o · s)", (A, f_yt, b_o, s), v_s),
            Step("Design strength", MOST, "v_Rd,cs = phi · min(v_c + v_s, most · r_c)",
                 (phi, v_c, v_s, Value("most", GREATEST[r.kind]), root), v_n),
            Step("Utilisation with shear reinforcement", "", "use = v_u / v_Rd,cs", (v_u, v_n), Value("use", uses[0].utilisation)),
        ]  # fmt: skip
        if l.outer is not None:
            out, limit = (
                Value("v_u,out", uses[1].stress, "shear_stress"),
                Value("v_c,out", self.resistance_out, "shear_stress", "phi v_c"),
            )
            steps += [
                Step("Beyond the studs", "ACI 318-19, 22.6.4.2", values=(Value("b_out", l.outer.length, "length", "d / 2 beyond the last"),), result=out),
                Step("Strength beyond the studs", STRENGTH, "v_c,out = phi · 0.17 · lambda_s · r_c", (phi, Value("lambda_s", self.size), root),
                     limit),
                Step("Utilisation beyond the studs", "", "use = v_u,out / v_c,out", (out, limit), Value("use", uses[1].utilisation)),
            ]  # fmt: skip
        worst = max(uses[2:], key=lambda x: x.utilisation)
        steps.append(
            Step(
                "Detailing",
                "ACI 318-19, 8.7.6, 8.7.7",
                note=f"Tightest: {worst.part}, {worst.utilisation:.2f} of what is allowed.",
            )
        )
        return tuple(steps)


def designed(zone: Zone, action: ZoneAction, lay: Lay) -> Laid | None:
    """The least studs that carry the action; None: phi 0.66 sqrt(f'_c) is less than the stress."""
    d = zone.d
    stress = zone.uses(action)[0].stress
    root, phi = zone.rules.root(zone.shape.concrete.strength_MPa), zone.rules.phi
    if stress > 1e3 * phi * GREATEST["stud"] * root:
        return None
    close = stress > 1e3 * phi * CLOSE * root
    spacing, first = rounded((0.5 if close else 0.75) * d), rounded(0.5 * d)
    b_o = zone.shape.perimeter.length
    lam = size_effect(d)
    v_c = min(0.25, *(v / (lam * root) for v in zone.v_c[1:])) * root
    area = max(stress / 1e3 / phi - v_c, LEAST_SHARE * root) * b_o * spacing / YIELD

    def rails(bar: float, count: int, per_rail: int) -> Rails:
        return Rails("stud", bar, YIELD, count, per_rail, first, spacing, "radial")

    def uses(laid: Laid) -> tuple[ZoneUse, ...]:
        found = Reinforced(zone, laid)
        outer = zone_row(found, action)
        return found.uses(action, outer)

    return searched(rails, area, max(int(np.ceil(b_o / (2 * d) - 1e-9)), 4), lay, uses)


def zone_row(found: Reinforced, action: ZoneAction) -> ZoneAction:
    """The action at the row of the outer section that it stresses most."""
    row = int(np.argmax(found.outer_coefficients @ (action.V, action.M_x, action.M_y)))
    return ZoneAction(action.joint, action.inside, action.V, action.M_x, action.M_y, row)
