"""Two-way shear of ACI 318-19 (SI units): 22.6, 8.4.4.2, normalweight concrete."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.perimeter import Perimeter, control_perimeter
from piastra.core.standards.aci318.section import ALPHA_S, size_effect, stress_rows
from piastra.core.standards.aci318.studs import Reinforced, designed
from piastra.core.standards.zone_rules import Laid, Lay, ZoneAction, ZoneCheck, ZoneShape, ZoneUse
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

SECTION, STRESS, STRENGTH = "ACI 318-19, 22.6.4.1", "ACI 318-19, 8.4.4.2.3", "ACI 318-19, 22.6.5.2"
NO_LEVER = 1e9
"""Told as the line's modulus (m2) of a point that a moment does not load."""


@dataclass(frozen=True, slots=True)
class Zone:
    """The rules of one zone: b_o and the corners (k, 2) m of the critical section in the member's own axes about its centroid;
    ``gamma`` gamma_v of the moments about the own x and y axis; ``b`` (m) its extents along x and y; the ``coefficients``."""

    rules: Punching
    shape: ZoneShape
    d: float
    corners: Array
    gamma: tuple[float, float]
    b: tuple[float, float]
    coefficients: Array
    v_c: tuple[float, float, float]
    resistance: float

    @property
    def rho_l(self) -> float:
        """Ratio of the top bars; told, not read."""
        return float(np.sqrt(self.shape.rho[0] * self.shape.rho[1]))

    def beta(self, action: ZoneAction) -> float | None:
        """The standard has no such factor."""
        return None

    def _stress(self, a: ZoneAction) -> float:
        return float(self.coefficients[a.row] @ (a.V, a.M_x, a.M_y))

    def uses(self, action: ZoneAction) -> tuple[ZoneUse, ...]:
        """v_u <= phi v_c at the critical section."""
        return (ZoneUse("perimeter", self._stress(action), self.resistance),)

    def along(self, action: ZoneAction) -> Array:
        """8.4.4.2.3 along the section, linear."""
        p, s = self.shape.perimeter, self.shape
        c, sn = np.cos(s.angle), np.sin(s.angle)
        at = (p.segments.mean(axis=1) - np.array(p.centroid)) @ np.array([[c, -sn], [sn, c]])
        base = np.column_stack([self.corners, np.ones(len(self.corners))])
        # The stress is linear in place: what its corners have tells what it has anywhere.
        plane = np.linalg.lstsq(base, self.coefficients @ (action.V, action.M_x, action.M_y), rcond=None)[0]
        return np.asarray(at @ plane[:2] + plane[2])

    def steps(self, action: ZoneAction, reinforced: bool = False) -> tuple[Step, ...]:
        """From the effective depth to the comparison."""
        a, s, p = action, self.shape, self.shape.perimeter
        b_o, d = Value("b_o", p.length, "length", "critical section"), Value("d", self.d, "size")
        V, v_u = Value("V_u", a.V, "force"), Value("v_u", self._stress(a), "shear_stress")
        lost = "".join(f"; {length:.2f} m lost to opening {label}" for label, length in p.lost)
        varies = " Its depth is a mean along it, as it crosses steps." if s.d_varies else ""
        x, y = self.corners[a.row]
        gx, gy = self.gamma
        moduli = []
        for symbol, gamma, coefficient in (("L_x", gx, self.coefficients[a.row][1]), ("L_y", gy, self.coefficients[a.row][2])):
            modulus = gamma / (coefficient * self.d) if abs(coefficient) * self.d * NO_LEVER > gamma else NO_LEVER
            moduli.append(Value(symbol, modulus, "line_moment", "J / (lever · d) at that corner, with its sign"))
        M_x, M_y = Value("M_x", a.M_x, "moment", "about the section's centroid and the own x axis"), Value("M_y", a.M_y, "moment")
        vx, vy = Value("gamma_vx", gx), Value("gamma_vy", gy)
        root, lam = (
            Value("r_c", self.rules.root(s.concrete.strength_MPa), "stress", "sqrt(f'_c)"),
            Value("lambda_s", size_effect(self.d)),
        )
        t, bb = s.sides
        ratio = max(t, bb) / max(min(t, bb), 1e-9)
        alpha = ALPHA_S[p.place]
        v_c = Value("v_c", min(self.v_c), "stress")
        limit = Value("v_Rd,c", self.resistance, "shear_stress", "phi v_c")
        steps = [
            Step("Effective depth", "ACI 318-19, 22.6.2.1", "d = (d_x + d_y) / 2", (Value("d_x", s.d_x, "size"), Value("d_y", s.d_y, "size")), d),
            Step("Critical section", SECTION, "", (), b_o, note=f"At d / 2 from {s.around}, {p.place}{lost}.{varies}"),
            Step("Force", "", "V_u = V_joint - V_in",
                 (Value("V_joint", a.joint, "force", "joint's force"), Value("V_in", a.inside, "force", "load inside the section")), V),
            Step("Share of M_x by shear", "ACI 318-19, 8.4.4.2.2", "gamma_vx = 1 - 1 / (1 + 2 / 3 · sqrt(b_y / b_x))",
                 (Value("b_y", self.b[1], "size"), Value("b_x", self.b[0], "size")), vx),
            Step("Share of M_y by shear", "ACI 318-19, 8.4.4.2.2", "gamma_vy = 1 - 1 / (1 + 2 / 3 · sqrt(b_x / b_y))",
                 (Value("b_x", self.b[0], "size"), Value("b_y", self.b[1], "size")), vy),
            Step("Greatest stress", STRESS, "v_u = V_u / (b_o · d) + gamma_vx · M_x / (L_x · d) + gamma_vy · M_y / (L_y · d)",
                 (V, b_o, d, vx, M_x, moduli[0], vy, M_y, moduli[1]), v_u,
                 note=f"At the corner {x:.2f}, {y:.2f} m from the centroid; J of the real section with both axes and their product."),
            Step("Size effect", "ACI 318-19, 22.5.5.1.3", "lambda_s = min(sqrt(2 / (1 + 4 · d)), 1)", (d,), lam, empirical=True),
            Step("Strength of the concrete", STRENGTH,
                 "v_c = min(0.33, 0.17 · (1 + 2 / beta), 0.083 · (2 + alpha_s · d / b_o)) · lambda_s · r_c",
                 (Value("beta", ratio, meaning="long over short side of the column"), Value("alpha_s", alpha), d, b_o, lam, root), v_c),
            Step("Design strength", "ACI 318-19, table 21.2.1", "v_Rd,c = phi · v_c", (Value("phi", self.rules.phi), v_c), limit),
        ]  # fmt: skip
        if reinforced:
            return tuple(steps)
        return (*steps,
            Step("Utilisation at the critical section", "", "use = v_u / v_Rd,c", (v_u, limit), Value("use", v_u.value / limit.value),
                 note="" if v_u.value <= limit.value else "Shear reinforcement may carry more, up to phi 0.66 sqrt(f'_c) with studs (22.6.6.3)."),
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Punching:
    """Two-way shear."""

    phi: float

    def root(self, strength_MPa: float) -> float:
        """sqrt(f'_c), at most 8.3 MPa (22.6.3.1)."""
        return min(float(np.sqrt(strength_MPa)), 8.3)

    def perimeter(
        self, loaded: Polygon, solid: BaseGeometry, openings: Sequence[tuple[str, Polygon]], d: float, h: float, *,
        whole: BaseGeometry | None = None, keep: BaseGeometry | None = None, nearness: float | None = None, support: bool = True,
    ) -> Perimeter | None:  # fmt: skip
        """22.6.4.1 at d / 2, with straight sides (22.6.4.1.1); 22.6.4.3: less what openings within 4 h take."""
        return control_perimeter(loaded, d / 2, solid, openings, 4 * h, straight=True, whole=whole, keep=keep)

    def distances(self, bedded: bool) -> Sequence[float | None]:
        """One section, on beddings too."""
        return (None,)

    def outside(self, sides: tuple[float, float], head: tuple[float, float], d: float, perimeter: Perimeter) -> float:
        """22.6.4.1 (b): all of it."""
        return 1.0

    def bars_within(self, d: float) -> float:
        """Bars do not enter; told over 1.5 d."""
        return 1.5 * d

    def beyond(self, d: float) -> float:
        """22.6.4.2: d / 2."""
        return d / 2

    @property
    def outer_polygon(self) -> bool:
        """22.6.4.2: of least perimeter round the studs."""
        return True

    def zone(self, shape: ZoneShape) -> Zone:
        """8.4.4.2.3 and 22.6.5."""
        p = shape.perimeter
        d = (shape.d_x + shape.d_y) / 2
        rows, hull, gamma, extent = stress_rows(p, d, shape.angle, shape.shrink)
        root, lam = self.root(shape.concrete.strength_MPa), size_effect(d)
        t, bb = shape.sides
        ratio = max(t, bb) / max(min(t, bb), 1e-9)
        v_c = (0.33, 0.17 * (1 + 2 / ratio), 0.083 * (2 + ALPHA_S[p.place] * d / p.length))
        stresses = (v_c[0] * lam * root, v_c[1] * lam * root, v_c[2] * lam * root)
        return Zone(self, shape, d, hull, gamma, extent, rows, stresses, self.phi * 1e3 * min(stresses))

    def reinforced(self, check: ZoneCheck, laid: Laid) -> Reinforced:
        """22.6.6 to 22.6.8."""
        assert isinstance(check, Zone)
        return Reinforced(check, laid)

    def design(self, check: ZoneCheck, action: ZoneAction, lay: Lay) -> Laid | None:
        """Headed studs as 22.6.8 and 8.7.7 ask for."""
        assert isinstance(check, Zone)
        return designed(check, action, lay)
