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
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

SECTION, STRESS, STRENGTH = "ACI 318-19, 22.6.4.1", "ACI 318-19, 8.4.4.2.3", "ACI 318-19, 22.6.5.2"
PRESSED = "ACI 318-19, 22.6.5.4, 22.6.5.5"
LEAST_PRESSED = 0.9
"""Least effective prestress (MPa) in each direction: 22.6.5.4 (c)."""
MOST_PRESSED, MOST_ROOT = 3.5, 5.8
"""Greatest f_pc and sqrt(f'_c) (MPa): 22.6.5.5."""
EDGE = 4.0
"""No part of the column lies nearer than so many h to an edge: 22.6.5.4 (b)."""
NO_LEVER = 1e9
"""Told as the line's modulus (m2) of a point that a moment does not load."""


def conforms(shape: ZoneShape) -> bool:
    """Whether the strength of prestressed members holds: 22.6.5.4. Its bonded bars are a provision of their own."""
    return shape.tendons and shape.least_pressed >= 1e3 * LEAST_PRESSED and shape.clear >= EDGE * shape.h


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
    v_cp: float = 0.0
    """Of 22.6.5.5, MPa; nil where its conditions are not kept."""

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

    @property
    def tendon_share(self) -> float:
        """22.6.5.5 adds V_p / (b_o d) to v_c, which phi reduces; elsewhere it does not count."""
        return self.rules.phi if conforms(self.shape) else 0.0

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
        lost = "".join(f"; {amount(length, 'length')} lost to opening {label}" for label, length in p.lost)
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
            Step("Force", "", "V_u = V_joint - V_in - V_p" if a.carried else "V_u = V_joint - V_in",
                 (Value("V_joint", a.joint, "force", "joint's force"), Value("V_in", a.inside, "force", "load inside the section"),
                  *a.by_tendons()), V),
            Step("Share of M_x by shear", "ACI 318-19, 8.4.4.2.2", "gamma_vx = 1 - 1 / (1 + 2 / 3 · sqrt(b_y / b_x))",
                 (Value("b_y", self.b[1], "size"), Value("b_x", self.b[0], "size")), vx),
            Step("Share of M_y by shear", "ACI 318-19, 8.4.4.2.2", "gamma_vy = 1 - 1 / (1 + 2 / 3 · sqrt(b_x / b_y))",
                 (Value("b_x", self.b[0], "size"), Value("b_y", self.b[1], "size")), vy),
            Step("Greatest stress", STRESS, "v_u = V_u / (b_o · d) + gamma_vx · M_x / (L_x · d) + gamma_vy · M_y / (L_y · d)",
                 (V, b_o, d, vx, M_x, moduli[0], vy, M_y, moduli[1]), v_u,
                 note=f"At the corner {amount(x, 'length')}, {amount(y, 'length')} from the centroid; J of the real section with both axes and their product."),
            Step("Size effect", "ACI 318-19, 22.5.5.1.3", "lambda_s = min(sqrt(2 / (1 + 4 · d)), 1)", (d,), lam, empirical=True),
            Step("Strength of the concrete", STRENGTH,
                 "v_c = min(0.33, 0.17 · (1 + 2 / beta), 0.083 · (2 + alpha_s · d / b_o)) · lambda_s · r_c",
                 (Value("beta", ratio, meaning="long over short side of the column"), Value("alpha_s", alpha), d, b_o, lam, root), v_c),
            *self._prestressed_steps(v_c),
            Step("Design strength", "ACI 318-19, table 21.2.1", "v_Rd,c = phi · v_c",
                 (Value("phi", self.rules.phi), Value("v_c", max(min(self.v_c), self.v_cp), "stress")), limit),
        ]  # fmt: skip
        if reinforced:
            return tuple(steps)
        return (*steps,
            Step("Utilisation at the critical section", "", "use = v_u / v_Rd,c", (v_u, limit), Value("use", v_u.value / limit.value),
                 note="" if v_u.value <= limit.value else "Shear reinforcement may carry more, up to phi 0.66 sqrt(f'_c) with studs (22.6.6.3)."),
        )  # fmt: skip

    def _prestressed_steps(self, plain: Value) -> tuple[Step, ...]:
        """22.6.5.5, or why it does not hold, in floors with tendons."""
        s, p = self.shape, self.shape.perimeter
        if not s.tendons:
            return ()
        if not conforms(s):
            near = s.clear < EDGE * s.h
            why = "the column lies nearer than 4 h to an edge" if near else "a direction is pressed with less than 0.9 MPa"
            return (Step("Prestressed strength", PRESSED, note=f"It does not hold here: {why}."),)
        root = Value("r_c", min(float(np.sqrt(s.concrete.strength_MPa)), MOST_ROOT), "stress", "sqrt(f'_c), capped by 22.6.5.5")
        f_pc = Value("f_pc", min(s.sigma_cp / 1e3, MOST_PRESSED), "stress", "mean of both directions along the section")
        alpha, d, b_o = Value("alpha_s", ALPHA_S[p.place]), Value("d", self.d, "size"), Value("b_o", p.length, "length")
        return (
            Step("Prestressed strength", PRESSED, "v_cp = min(0.29, 0.083 · (1.5 + alpha_s · d / b_o)) · r_c + 0.3 · f_pc",
                 (alpha, d, b_o, root, f_pc), Value("v_cp", self.v_cp, "stress")),
            Step("The greater of both", PRESSED, "v_c = max(v_c,0, v_cp)", (Value("v_c,0", plain.value, "stress"), Value("v_cp", self.v_cp, "stress")),
                 Value("v_c", max(plain.value, self.v_cp), "stress")),
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
        others: BaseGeometry | None = None,
    ) -> Perimeter | None:  # fmt: skip
        """22.6.4.1 at d / 2, with straight sides (22.6.4.1.1); 22.6.4.3: less what openings within 4 h take."""
        return control_perimeter(loaded, d / 2, solid, openings, 4 * h, straight=True, whole=whole, keep=keep, others=others)

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

    def zone(self, shape: ZoneShape, like: ZoneCheck | None = None) -> Zone:
        """8.4.4.2.3 and 22.6.5."""
        p = shape.perimeter
        d = (shape.d_x + shape.d_y) / 2
        if isinstance(like, Zone) and like.shape.alike(shape):
            rows, hull, gamma, extent = like.coefficients, like.corners, like.gamma, like.b
        else:
            rows, hull, gamma, extent = stress_rows(p, d, shape.angle, shape.shrink)
        root, lam = self.root(shape.concrete.strength_MPa), size_effect(d)
        t, bb = shape.sides
        ratio = max(t, bb) / max(min(t, bb), 1e-9)
        v_c = (0.33, 0.17 * (1 + 2 / ratio), 0.083 * (2 + ALPHA_S[p.place] * d / p.length))
        stresses = (v_c[0] * lam * root, v_c[1] * lam * root, v_c[2] * lam * root)
        plain = min(stresses)
        pressed = self.prestressed(shape, d) if conforms(shape) else 0.0
        return Zone(self, shape, d, hull, gamma, extent, rows, stresses, self.phi * 1e3 * max(plain, pressed), pressed)

    def prestressed(self, shape: ZoneShape, d: float) -> float:
        """v_c of 22.6.5.5 without V_p, MPa."""
        root = min(float(np.sqrt(shape.concrete.strength_MPa)), MOST_ROOT)
        f_pc = min(shape.sigma_cp / 1e3, MOST_PRESSED)
        return min(0.29, 0.083 * (1.5 + ALPHA_S[shape.perimeter.place] * d / shape.perimeter.length)) * root + 0.3 * f_pc

    def reinforced(self, check: ZoneCheck, laid: Laid) -> Reinforced:
        """22.6.6 to 22.6.8."""
        assert isinstance(check, Zone)
        return Reinforced(check, laid)

    def design(self, check: ZoneCheck, action: ZoneAction, lay: Lay) -> Laid | None:
        """Headed studs as 22.6.8 and 8.7.7 ask for."""
        assert isinstance(check, Zone)
        return designed(check, action, lay)
