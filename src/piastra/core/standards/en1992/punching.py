"""Punching of EN 1992-1-1: 6.4."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.perimeter import STRAIGHT, Perimeter, control_perimeter
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.en1992.studs import Reinforced, designed
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.zone_rules import Laid, Lay, ZoneAction, ZoneCheck, ZoneShape, ZoneUse
from piastra.core.trace import Step, Value
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

_RESISTANCE, _FACE = "EN 1992-1-1, 6.4.4 (1) (6.47)", "EN 1992-1-1, 6.4.5 (3) (6.53)"
PARAMETERS = (
    Parameter("C_Rd,c", "C_c", "C_Rd,c times γ_C", 0.18, "EN 1992-1-1, 6.4.4 (1)", design=True),
    Parameter("v_min", "C_min", "v_min over k^1.5 f_ck^0.5, MPa^0.5", 0.035, "EN 1992-1-1, 6.2.2 (1) (6.3N)", design=True),
    Parameter("k_max", "k_max", "greatest resistance with shear reinforcement over v_Rd,c", 1.5, "EN 1992-1-1/A1, 6.4.5 (1)", design=True),
    Parameter("v_Rd,max", "C_max", "v_Rd,max over ν f_cd", 0.4, "EN 1992-1-1/A1, 6.4.5 (3)", design=True),
    Parameter("nu", "C_nu", "ν over (1 - f_ck / 250 MPa)", 0.6, "EN 1992-1-1, 6.2.2 (6) (6.6N)", design=True),
    Parameter("rho_l,max", "rho_max", "greatest ratio of bars that counts", 0.02, "EN 1992-1-1, 6.4.4 (1)", design=True),
)  # fmt: skip
DISTANCE = 2.0
"""Distance of the control perimeter over d, 6.4.2 (1)."""
OPENINGS = 6.0
"""Openings within so much d take a part of the perimeter, 6.4.2 (3)."""
BARS = 3.0
"""Bars within so much d of the loaded area count, 6.4.4 (1)."""
GREATEST_K = 2.0
K_CP = 0.1
"""k_1 of (6.47)."""
LONG_SIDE, CORNER = 3.0, 1.5
"""Of a side longer than the first over d, only what lies within the second over d of its ends counts: shear gathers at corners."""
SIMPLIFIED = {"interior": 1.15, "edge": 1.4, "corner": 1.5}
"""beta of 6.4.3 (6), figure 6.21N."""
NEAREST = (0.5, 0.75, 1.0, 1.25, 1.5, 1.75, 2.0)
"""Distances over d of perimeters on a bedding, 6.4.4 (2)."""
SIGNS = tuple(product((1.0, -1.0), repeat=2))
"""Signs with which the moments enter the rows of the stress: the plastic distribution has two sides to each axis."""


def moment_share(c1: float, c2: float) -> float:
    """k of table 6.1, linear between its values; ``c1`` the side along the eccentricity, ``c2`` the other one."""
    return float(np.interp(c1 / c2, [0.5, 1.0, 2.0, 3.0], [0.45, 0.60, 0.70, 0.80]))


def face_length(loaded: Polygon, perimeter: Perimeter, d: float) -> tuple[float, Step]:
    """u_0 (m), 6.4.5 (3): interior the footprint's girth; edge c2 + 3d <= c2 + 2 c1; corner 3d <= c1 + c2."""
    depth = Value("d", d, "size")

    def step(formula: str, values: tuple[Value, ...], u0: float) -> tuple[float, Step]:
        face = Value("u_face", perimeter.face, "length", "of the face in concrete")
        u0 = min(u0, perimeter.face)
        return u0, Step("Length of the column's face", _FACE, formula, (*values, face), Value("u_0", u0, "length"))

    if perimeter.edges == 0:
        girth = min(float(loaded.length), perimeter.face)
        note = "The column's girth." if girth > loaded.length - 1e-4 else "The column's girth, less what openings take."
        return girth, Step("Length of the column's face", _FACE, "", (), Value("u_0", girth, "length"), note=note)
    xy = shapely.get_coordinates(loaded.minimum_rotated_rectangle)
    a, b = (float(np.hypot(*(xy[i + 1] - xy[i]))) for i in (0, 1))
    if perimeter.edges >= 2:
        values = (depth, Value("c_1", a, "size"), Value("c_2", b, "size"))
        return step("u_0 = min(3 · d, c_1 + c_2, u_face)", values, min(3 * d, a + b))
    # c2 runs along the edge: the side at right angles to the way from the column to the perimeter's centroid.
    inward = np.array(perimeter.centroid) - np.array([loaded.centroid.x, loaded.centroid.y])
    along_first = abs((xy[1] - xy[0]) @ inward) / a
    along_second = abs((xy[2] - xy[1]) @ inward) / b
    c1, c2 = (a, b) if along_first > along_second else (b, a)
    values = (Value("c_2", c2, "size", "along the edge"), depth, Value("c_1", c1, "size", "across it"))
    return step("u_0 = min(c_2 + min(3 · d, 2 · c_1), u_face)", values, c2 + min(3 * d, 2 * c1))


@dataclass(frozen=True, slots=True)
class Zone:
    """The rules of one zone. ``k`` the shares of the moments about the own x and y axis (table 6.1), ``W`` their plastic
    first moments (m2, (6.40)); ``u`` (m) the length that counts, ``u_star`` that of 6.4.3 (4), (5) beside edges, else nil; ``along_edge``:
    k and W of the moment across the edge. Resistances in kN/m2. Rows of the coefficients: ``SIGNS`` of the general rule, then those
    beside edges."""

    rules: Punching
    shape: ZoneShape
    d: float
    u: float
    k: tuple[float, float]
    W: tuple[float, float]
    u_star: float
    along_edge: tuple[float, float]
    size: float
    rho_l: float
    v_min: float
    resistance: float
    u0: float
    u0_step: Step | None
    v_rd_max: float
    coefficients: Array

    def _stress(self, a: ZoneAction) -> float:
        return float(self.coefficients[a.row] @ (a.V, a.M_x, a.M_y))

    def beta(self, action: ZoneAction) -> float:
        """(6.39) for both axes: stress over the mean stress."""
        return self._stress(action) * self.u * self.d / action.V

    @property
    def d_face(self) -> float:
        """Effective depth at the support's face, m."""
        return self.d if self.shape.d_face is None else self.shape.d_face

    @property
    def tendon_share(self) -> float:
        """All of it: 6.2.1 (3), by 6.4.3 (9)."""
        return 1.0

    def along(self, action: ZoneAction) -> Array:
        """(6.39) along the perimeter: the plastic distribution of both moments, with its sign."""
        p, s = self.shape.perimeter, self.shape
        if action.row >= len(SIGNS) or s.simplified:
            return np.full(len(p.segments), self._stress(action))
        c, sn = np.cos(s.angle), np.sin(s.angle)
        at = (p.segments.mean(axis=1) - np.array(p.centroid)) @ np.array([[c, -sn], [sn, c]])
        # An upward force left of its perimeter's centroid turns about +y: the side of -x has more.
        m_x, m_y = (self.coefficients[0, k] * m for k, m in ((1, action.M_x), (2, action.M_y)))
        return np.asarray(action.V / (self.u * self.d) + m_x * np.sign(at[:, 1]) - m_y * np.sign(at[:, 0]))

    def _at_face(self, a: ZoneAction) -> float:
        return self.beta(a) * a.joint / (self.u0 * self.d_face)

    def uses(self, action: ZoneAction) -> tuple[ZoneUse, ...]:
        """v_Ed <= v_Rd,c at the perimeter, v_Ed,0 <= v_Rd,max at the face."""
        at_perimeter = ZoneUse("perimeter", self._stress(action), self.resistance)
        if not self.shape.face:
            return (at_perimeter,)
        at_face = ZoneUse("face", self._at_face(action), self.v_rd_max)
        return (at_perimeter, at_face) if self.shape.perimeter_counts else (at_face,)

    def steps(self, action: ZoneAction, reinforced: bool = False) -> tuple[Step, ...]:
        """From the effective depth to the comparisons."""
        a, s, p = action, self.shape, self.shape.perimeter
        u, d = Value("u", self.u, "length", "control perimeter"), Value("d", self.d, "size")
        V = Value("V_Ed", a.V, "force")
        v_ed, beta = Value("v_Ed", self._stress(a), "shear_stress"), Value("beta", self.beta(a))
        v_c = Value("v_Rd,c", self.resistance, "shear_stress")
        lost = "".join(f"; {amount(length, 'length')} lost to opening {label}" for label, length in p.lost)
        distance = DISTANCE if s.nearness is None else s.nearness
        varies = " A mean along the perimeter, which crosses steps." if s.d_varies else ""
        shrunk = f" {100 * s.shrink:.0f} % of it count: 6.4.2 (8)." if s.shrink < 1 else ""
        steps = [
            Step("Effective depth", "EN 1992-1-1, 6.4.2 (1) (6.32)", "d = (d_x + d_y) / 2",
                 (Value("d_x", s.d_x, "size"), Value("d_y", s.d_y, "size")), d, note=varies.strip()),
            Step("Control perimeter", "EN 1992-1-1, 6.4.2", "", (), u,
                 note=f"At {distance:g} d from {s.around}, {p.place}{lost}.{shrunk}"),
            Step("Force", "", "V_Ed = V_joint - V_in - V_p" if a.carried else "V_Ed = V_joint - V_in",
                 (Value("V_joint", a.joint, "force", "joint's force"), Value("V_in", a.inside, "force", "load inside the perimeter"),
                  *a.by_tendons()), V),
            self._eccentricity(a, u, V, beta),
            Step("Stress at the perimeter", "EN 1992-1-1, 6.4.3 (3) (6.38)", "v_Ed = beta · V_Ed / (u · d)", (beta, V, u, d), v_ed),
            *self._resistance_steps(),
        ]  # fmt: skip
        if not reinforced:
            steps.append(
                Step("Utilisation at the perimeter", "", "use = v_Ed / v_Rd,c", (v_ed, v_c), Value("use", v_ed.value / v_c.value))
            )
        if not s.perimeter_counts:
            told = Step(
                "Perimeter",
                "EN 1992-1-1, 6.4.2 (8)",
                note="It lies beyond the thickening, whose own perimeter is checked instead.",
            )
            return (steps[0], steps[1], told, *steps[2:4], *self._face_steps(a))
        if v_ed.value > v_c.value and not reinforced:
            most = Value("v_Rd,cs", self.rules.k_max * self.resistance, "shear_stress", "at most")
            can = v_ed.value <= most.value
            steps.append(
                Step("With shear reinforcement at most", "EN 1992-1-1/A1, 6.4.5 (1)", "v_Rd,cs = k_max · v_Rd,c",
                     (Value("k_max", self.rules.k_max), v_c), most,
                     note="Shear reinforcement can carry the rest." if can else "Shear reinforcement alone cannot mend this zone.")
            )  # fmt: skip
        if s.face and self.u0_step is not None:
            steps += self._face_steps(a)
        return tuple(steps)

    def _eccentricity(self, a: ZoneAction, u: Value, V: Value, beta: Value) -> Step:
        """The factor of the row that governs."""
        if self.shape.simplified:
            return Step("Eccentricity", "EN 1992-1-1, 6.4.3 (6)", "", (), beta,
                        note="The flat factor, as chosen: the floor does not sway, and neighbouring spans differ by no more than a quarter.")  # fmt: skip
        if a.row < len(SIGNS):
            sx, sy = SIGNS[a.row]
            return Step(
                "Eccentricity", "EN 1992-1-1, 6.4.3 (3) (6.39), (6.40)", "beta = 1 + u / V_Ed · (k_x · M_x / W_x + k_y · M_y / W_y)",
                (u, V, Value("k_x", self.k[0], meaning="table 6.1"),
                 Value("M_x", sx * a.M_x, "moment", "about the perimeter's centroid and the own x axis"),
                 Value("W_x", self.W[0], "line_moment"), Value("k_y", self.k[1], meaning="table 6.1"),
                 Value("M_y", sy * a.M_y, "moment"), Value("W_y", self.W[1], "line_moment")), beta,
                note="W = ∫|e| dl along the real perimeter; moments with the signs that are adverse together."
                + (" Where k is nil the perimeter is straight, and the moment about it is bending's." if 0.0 in self.k else ""),
            )  # fmt: skip
        star = Value("u_star", self.u_star, "length", "figure 6.20")
        if a.row == len(self.coefficients) - 1 and self.shape.perimeter.edges >= 2:
            return Step("Eccentricity", "EN 1992-1-1, 6.4.3 (5) (6.46)", "beta = u / u_star", (u, star), beta,
                        note="More than (6.39) gives for the computed moments.")  # fmt: skip
        k, W = self.along_edge
        m = (self.coefficients[a.row, 1] * a.M_x + self.coefficients[a.row, 2] * a.M_y) * W * self.d / k
        return Step(
            "Eccentricity", "EN 1992-1-1, 6.4.3 (4) (6.44)", "beta = u / u_star + k · u · M_par / (W · V_Ed)",
            (u, star, Value("k", k, meaning="table 6.1 with c_1 / (2 c_2)"), Value("M_par", m, "moment", "about the axis across the edge"),
             Value("W", W, "line_moment"), V), beta, note="More than (6.39) gives for the computed moments.",
        )  # fmt: skip

    def _resistance_steps(self) -> list[Step]:
        r, s = self.rules, self.shape
        fck = Value("f_ck", s.concrete.strength_MPa, "stress")
        k = Value("k", self.size, meaning="size factor")
        rho = Value("rho_l", self.rho_l)
        C = Value("C_Rd,c", r.C_c / r.materials.gamma_C)
        v_min = Value("v_min", self.v_min / 1e3, "stress")
        return [
            Step("Size factor", _RESISTANCE, "k = min(1 + sqrt(200 / d), k_most)",
                 (Value("d", 1e3 * self.d, "cover"), Value("k_most", GREATEST_K)), k, empirical=True),
            Step("Ratio of the bars", "EN 1992-1-1, 6.4.4 (1)", "rho_l = min(sqrt(rho_x · rho_y), rho_max)",
                 (Value("rho_x", s.rho[0]), Value("rho_y", s.rho[1]), Value("rho_max", r.rho_max)), rho,
                 note=f"Top bars within {BARS:g} d of the loaded area."),
            Step("Coefficient", "EN 1992-1-1, 6.4.4 (1)", "C_Rd,c = C_c / gamma_C",
                 (Value("C_c", r.C_c), Value("gamma_C", r.materials.gamma_C)), C),
            Step("Least resistance", "EN 1992-1-1, 6.2.2 (1) (6.3N)", "v_min = C_min · k^1.5 · f_ck^0.5",
                 (Value("C_min", r.C_min), k, fck), v_min, empirical=True),
            Step("Resistance without shear reinforcement", _RESISTANCE,
                 "v_Rd,c = max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min)", (C, k, rho, fck, v_min),
                 Value("v_Rd,c", (self.resistance - K_CP * s.sigma_cp) / 1e3, "stress"), empirical=True) if s.nearness is None else
            Step("Resistance near a support on the ground", "EN 1992-1-1, 6.4.4 (2) (6.50)",
                 "v_Rd,c = max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min) · 2 / a_d",
                 (C, k, rho, fck, v_min, Value("a_d", s.nearness, meaning="distance of the perimeter over d")),
                 Value("v_Rd,c", (self.resistance - K_CP * s.sigma_cp) / 1e3, "stress"), empirical=True),
            *self._axial_steps(),
        ]  # fmt: skip

    def _axial_steps(self) -> list[Step]:
        """What axial forces add, where there are some."""
        sigma = self.shape.sigma_cp
        if not sigma:
            return []
        bare = Value("v_Rd,c,0", self.resistance - K_CP * sigma, "shear_stress", "without it")
        least = Value("sigma_cp", sigma, "shear_stress", "least mean compression of both directions along the perimeter")
        return [
            Step("Axial forces", _RESISTANCE, "v_Rd,c = v_Rd,c,0 + k_1 · sigma_cp", (bare, Value("k_1", K_CP), least),
                 Value("v_Rd,c", self.resistance, "shear_stress")),
        ]  # fmt: skip

    def _face_steps(self, a: ZoneAction) -> list[Step]:
        r, s = self.rules, self.shape
        assert self.u0_step is not None
        u0, d = Value("u_0", self.u0, "length"), Value("d", self.d_face, "size")
        v0, most = Value("v_Ed,0", self._at_face(a), "shear_stress"), Value("v_Rd,max", self.v_rd_max, "shear_stress")
        nu = Value("nu", r.nu(s.concrete.strength_MPa))
        f_cd = Value("f_cd", r.materials.f_cd(s.concrete) / 1e3, "stress")
        return [
            self.u0_step,
            Step("Stress at the column's face", _FACE, "v_Ed,0 = beta · V_joint / (u_0 · d)",
                 (Value("beta", self.beta(a)), Value("V_joint", a.joint, "force"), u0, d), v0),
            r.materials.f_cd_step(s.concrete),
            Step("Strength of cracked concrete", "EN 1992-1-1, 6.2.2 (6) (6.6N)", "nu = C_nu · (1 - f_ck / 250)",
                 (Value("C_nu", r.C_nu), Value("f_ck", s.concrete.strength_MPa, "stress")), nu, empirical=True),
            Step("Greatest resistance", _FACE, "v_Rd,max = C_max · nu · f_cd", (Value("C_max", r.C_max), nu, f_cd), most),
            Step("Utilisation at the face", "", "use = v_Ed,0 / v_Rd,max", (v0, most), Value("use", v0.value / most.value)),
        ]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Punching:
    """Punching."""

    materials: Materials
    C_c: float
    C_min: float
    k_max: float
    C_max: float
    C_nu: float
    rho_max: float

    def perimeter(
        self, loaded: Polygon, solid: BaseGeometry, openings: Sequence[tuple[str, Polygon]], d: float, h: float, *,
        whole: BaseGeometry | None = None, keep: BaseGeometry | None = None, nearness: float | None = None, support: bool = True,
        others: BaseGeometry | None = None,
    ) -> Perimeter | None:  # fmt: skip
        """6.4.2 (1) to (4): at 2 d, less what openings within 6 d take; along sides longer than 3 d only near their corners."""
        distance = (DISTANCE if nearness is None else nearness) * d
        count_on = near_corners(loaded, d) if support and whole is None else None
        return control_perimeter(
            loaded, distance, solid, openings, OPENINGS * d, whole=whole, keep=keep, count_on=count_on, others=others
        )

    def distances(self, bedded: bool) -> Sequence[float | None]:
        """6.4.4 (2) on beddings."""
        return NEAREST if bedded else (None,)

    def outside(self, sides: tuple[float, float], head: tuple[float, float], d: float, perimeter: Perimeter) -> float:
        """6.4.2 (8): r_cont of (6.33), or the lesser of (6.34) for rectangles, where the perimeter runs farther out than its circle."""
        l1, l2 = sorted(head)
        round_head = 2 * np.pi * (DISTANCE * d + min(0.56 * np.sqrt(l1 * l2), 0.69 * l1))
        whole = 2 * (l1 + l2) + 2 * np.pi * DISTANCE * d
        return float(min(round_head / whole, 1.0))

    def beyond(self, d: float) -> float:
        """6.4.5 (4): 1.5 d."""
        return CORNER * d

    @property
    def outer_polygon(self) -> bool:
        """Figure 6.22: it follows the loaded area."""
        return False

    def bars_within(self, d: float) -> float:
        """6.4.4 (1): 3 d."""
        return BARS * d

    def nu(self, fck_MPa: float) -> float:
        """(6.6N)."""
        return self.C_nu * (1 - fck_MPa / 250)

    def zone(self, shape: ZoneShape, like: ZoneCheck | None = None) -> Zone:
        """6.4.4 (1) with C_Rd,c = 0.18 / gamma_C, v_min = 0.035 k^1.5 f_ck^0.5; 6.4.5 (3) with 0.4 nu f_cd (A1)."""
        p, fck = shape.perimeter, shape.concrete.strength_MPa
        d = (shape.d_x + shape.d_y) / 2
        k = min(1.0 + float(np.sqrt(0.2 / d)), GREATEST_K)
        rho = min(float(np.sqrt(shape.rho[0] * shape.rho[1])), self.rho_max)
        v_min = float(self.C_min * k**1.5 * np.sqrt(fck))
        v_c = max(self.C_c / self.materials.gamma_C * k * (100 * rho * fck) ** (1 / 3), v_min)
        if shape.nearness is not None:
            v_c *= DISTANCE / shape.nearness
        v_c = max(v_c + K_CP * shape.sigma_cp / 1e3, 0.0)
        v_max = self.C_max * self.nu(fck) * self.materials.f_cd(shape.concrete)
        if isinstance(like, Zone) and like.shape.alike(shape):
            return replace(
                like, rules=self, shape=shape, size=k, rho_l=rho, v_min=1e3 * v_min, resistance=1e3 * float(v_c), v_rd_max=v_max
            )
        u = p.length * shape.shrink
        W = (p.first_moment(shape.angle) * shape.shrink, p.first_moment(shape.angle + np.pi / 2) * shape.shrink)
        b, t = shape.sides
        # M_x turns about the own x axis, so its eccentricity lies along the own y axis.
        shares = (moment_share(t, b), moment_share(b, t))
        # A straight perimeter resists no moment about itself: bending across it does, and flexure is checked.
        straight = [w <= STRAIGHT * p.length**2 for w in W]
        shares = (0.0 if straight[0] else shares[0], 0.0 if straight[1] else shares[1])
        W = (1.0 if straight[0] else W[0], 1.0 if straight[1] else W[1])
        levers = [s / (w * d) for s, w in zip(shares, W, strict=True)]
        rows = [[1 / (u * d), sx * levers[0], sy * levers[1]] for sx, sy in SIGNS]
        star, beside = 0.0, (0.0, 0.0)
        if shape.simplified:
            rows = [[SIMPLIFIED[p.place] / (u * d), 0.0, 0.0]]
        elif p.edges and shape.face and shape.whole:
            star, beside, more = self._beside_edges(shape, d)
            rows += more
        u0, step = (
            face_length(shape.loaded, p, d if shape.d_face is None else shape.d_face) if shape.face else (float("nan"), None)
        )
        return Zone(
            self, shape, d, u, shares, W, star, beside, k, rho, 1e3 * v_min, 1e3 * float(v_c), u0, step, v_max, np.array(rows)
        )

    def _beside_edges(self, shape: ZoneShape, d: float) -> tuple[float, tuple[float, float], list[list[float]]]:
        """6.4.3 (4), (5): the length of figure 6.20 (legs no longer than 1.5 d or half the side), k and W of the moment across the edge,
        and the rows of the stress."""
        p = shape.perimeter
        star: Perimeter | None = p
        xy = shapely.get_coordinates(shape.loaded)
        middle = xy.mean(axis=0)
        for n in np.array(p.outward[:2]):
            into = (xy - middle) @ n
            side = float(np.ptp(into))
            limit = into.min() + min(CORNER * d, side / 2)
            t = np.array([-n[1], n[0]])
            origin = middle + n * limit
            half = Polygon([origin - 200 * t, origin + 200 * t, origin + 200 * t - 200 * n, origin - 200 * t - 200 * n])
            star = star.within(half) if star is not None else None
        length = star.length if star is not None else p.length
        if p.edges >= 2:
            return length, (0.0, 0.0), [[1 / (length * d), 0.0, 0.0]]
        n = np.array(p.outward[0])
        c1, c2 = float(np.ptp(xy @ n)), float(np.ptp(xy @ (-n[1], n[0])))
        k, W = moment_share(c1, 2 * c2), p.first_moment(float(np.arctan2(n[1], n[0])))
        own = (n[0] * np.cos(shape.angle) + n[1] * np.sin(shape.angle), -n[0] * np.sin(shape.angle) + n[1] * np.cos(shape.angle))
        lever = k / (W * d) if STRAIGHT * p.length**2 < W else 0.0
        return length, (k, W), [[1 / (length * d), sign * lever * own[0], sign * lever * own[1]] for sign in (1.0, -1.0)]

    def reinforced(self, check: ZoneCheck, laid: Laid) -> Reinforced:
        """6.4.5, 9.4.3."""
        assert isinstance(check, Zone)
        return Reinforced(check, laid)

    def design(self, check: ZoneCheck, action: ZoneAction, lay: Lay) -> Laid | None:
        """Studs as 6.4.5 and 9.4.3 ask for."""
        assert isinstance(check, Zone)
        return designed(check, action, lay)


def near_corners(loaded: Polygon, d: float) -> BaseGeometry | None:
    """Where a perimeter counts beside a rectangle with sides longer than 3 d: all but beside what lies farther than 1.5 d from a
    corner. None: everywhere."""
    box = loaded.minimum_rotated_rectangle
    if not isinstance(box, Polygon) or loaded.area < 0.98 * box.area:
        return None
    xy = shapely.get_coordinates(box)[:4]
    middle = xy.mean(axis=0)
    dead = []
    for k in (0, 1):
        side = xy[k + 1] - xy[k]
        length = float(np.hypot(*side))
        half = length / 2 - CORNER * d
        if length > LONG_SIDE * d + 1e-9 and half > 0:
            t = side / length
            n = np.array([-t[1], t[0]])
            dead.append(
                Polygon([middle + x * t + y * n for x, y in ((-half, -100.0), (half, -100.0), (half, 100.0), (-half, 100.0))])
            )
    return shapely.box(*(middle - 100), *(middle + 100)).difference(shapely.union_all(dead)) if dead else None
