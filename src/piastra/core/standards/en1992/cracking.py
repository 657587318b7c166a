"""Crack width of EN 1992-1-1: 7.3.1 (limits), 7.3.2 (least area), 7.3.4 (direct calculation)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.cracked import lever_arm, neutral_axis, steel_stress
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.provision import NOTHING, CrackUse, Demand, Gathers, Served, Stations
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

GATHERED = 1.1
"""Bars whose mean area has them so many times farther apart than they lie are gathered in a part of the width."""
LIMIT, AREA, WIDTH = "EN 1992-1-1, 7.3.1 (5), table 7.1N", "EN 1992-1-1, 7.3.2 (2) (7.1)", "EN 1992-1-1, 7.3.4"
PARAMETERS = (
    Parameter("w_max_dry", "w_max", "crack width (mm) in exposure X0 and XC1", 0.4, LIMIT, design=True),
    Parameter("w_max", "w_max", "crack width (mm) in other exposures", 0.3, LIMIT, design=True),
    Parameter(
        "w_max_bonded", "w_max", "crack width (mm) of members with bonded tendons, frequent combination", 0.2, LIMIT, design=True
    ),
    Parameter("k_1", "k_1", "bond of the bars", 0.8, f"{WIDTH} (3)", design=True),
    Parameter("k_2", "k_2", "distribution of strain: bending", 0.5, f"{WIDTH} (3)", design=True),
    Parameter("k_3", "k_3", "cover's part of the spacing of cracks", 3.4, f"{WIDTH} (3)", design=True),
    Parameter("k_4", "k_4", "bars' part of the spacing of cracks", 0.425, f"{WIDTH} (3)", design=True),
    Parameter("k_t", "k_t", "duration of the load: long", 0.4, f"{WIDTH} (2)", design=True),
)
LEAST, MOST = 1e-6, 0.05
"""Steel for a width is sought between these, m2/m."""
DIGITS, STEPS = 1e-9, 100
"""How near the bounds of the steel for a width come to each other, and after how many steps at most."""
CLOSE = 5
"""Bars no further apart than so many times c + phi / 2 share the cracks: 7.3.4 (3)."""
LEAST_TENSION = 0.05
"""Least area for cracks is asked for where the ultimate moment exceeds this share of the cracking moment."""
HARDLY_ANY = Value("A_0", 1e6 * NOTHING, "steel_per_m", "would do, which counts as none")
DRY = ("X0", "XC1")


def limit_of(exposure: str | None, given_mm: float | None, dry: float, other: float) -> float:
    """Greatest crack width (m): a given one, or that of the exposure (none: XC1)."""
    if given_mm is not None:
        return given_mm / 1e3
    return (dry if exposure is None or exposure in DRY else other) / 1e3


def alpha_lasting(materials: Materials, concrete: Concrete, rebar: Rebar) -> float:
    """Ratio of moduli under lasting load: E_s (1 + phi) / E_cm."""
    return 1e3 * rebar.E_MPa * (1 + concrete.creep_coefficient) / materials.modulus(concrete)


def axis_steps(one: Stations, area: float, alpha: float, meant: str) -> tuple[Step, ...]:
    """Neutral axis of one cracked section with ``area`` m2/m and a ratio of moduli, and its lever arm where a flange and a part of the web are
    pressed."""
    A, w, h_f = np.array([area]), one.wide, one.flange
    x = float(neutral_axis(A, one.d, alpha, w, h_f)[0])
    d, steel = Value("d", float(one.d[0]), "size"), Value("A_s", 1e6 * area, "steel_per_m")
    axis, a = Value("x", x, "size", "neutral axis, cracked"), Value("alpha", alpha, meaning=meant)
    if w[0] <= 1:
        return (Step("Cracked section", "linear elastic", "x = d · (sqrt((alpha · A_s / d)^2 + 2 · alpha · A_s / d) - alpha · A_s / d)",
                     (d, a, steel), axis),)  # fmt: skip
    wide = Value("k_b", float(w[0]), meaning="width of the pressed side over the web's")
    if x <= h_f[0]:
        return (Step("Cracked section, pressed in the flange", "linear elastic",
                     "x = (sqrt((alpha · A_s)^2 + 2 · k_b · alpha · A_s · d) - alpha · A_s) / k_b", (wide, d, a, steel), axis),)  # fmt: skip
    flange = Value("h_f", float(h_f[0]), "size", "flange")
    both = Value("B", float((w[0] - 1) * h_f[0] + alpha * area), "size")
    z = Value("z", float(lever_arm(np.array([x]), A, one.d, alpha, w, h_f)[0]), "size", "lever arm")
    return (
        Step("Cracked section, pressed in flange and web", "linear elastic", "B = (k_b - 1) · h_f + alpha · A_s", (wide, flange, a, steel), both),
        Step("Neutral axis", "linear elastic", "x = sqrt(B^2 + (k_b - 1) · h_f^2 + 2 · alpha · A_s · d) - B", (both, wide, flange, a, steel, d), axis),
        Step("Lever arm", "linear elastic", "z = ((k_b · x^3 - (k_b - 1) · (x - h_f)^3) / 3 + alpha · A_s · (d - x)^2) / (alpha · A_s · (d - x))",
             (wide, axis, flange, a, steel, d), z),
    )  # fmt: skip


def axis_and_arm(steps: tuple[Step, ...]) -> tuple[Value, Value | None]:
    """Of the steps to a neutral axis: the axis, and the lever arm if it has a step of its own."""
    found = {s.result.symbol: s.result for s in steps if s.result is not None}
    return found["x"], found.get("z")


def stress_steps(one: Stations, area: float, alpha: float, meant: str) -> tuple[Value, Value, tuple[Step, ...]]:
    """Neutral axis, stress of the steel and the steps to them, of one cracked section with ``area`` m2/m and the lasting ratio ``alpha``."""
    first = axis_steps(one, area, alpha, "E_s · (1 + phi) / E_cm, lasting load")
    axis, arm = axis_and_arm(first)
    A = np.array([area])
    stress = float(steel_stress(one.m_service, one.n_service, A, one.d, alpha, one.wide, one.flange)[0])
    sigma = Value("sigma_s", stress / 1e3, "stress")
    m, n = Value("m", float(one.m_service[0]), "moment_per_m", meant), Value("n", float(one.n_service[0]), "force_per_m")
    steel, d = Value("A_s", 1e6 * area, "steel_per_m"), Value("d", float(one.d[0]), "size")
    if arm is not None:
        last = Step(
            "Stress of the steel", "", "sigma_s = max(max(m, 0) / z + min(m, 0) / d + n, 0) / A_s", (m, arm, d, n, steel), sigma
        )
    else:
        last = Step(
            "Stress of the steel",
            "",
            "sigma_s = max(max(m, 0) / (d - x / 3) + min(m, 0) / d + n, 0) / A_s",
            (m, d, axis, n, steel),
            sigma,
        )
    return axis, sigma, (*first, last)


@dataclass(frozen=True, slots=True)
class Widths:
    """What crack widths came from, each (k,): neutral axis ``x``, stress of the steel ``sigma`` kN/m2, effective height
    ``h_c`` and ratio ``rho``, mean strain ``strain``, spacing of cracks ``s_r`` m, the width ``w`` m; ``far`` where bars lie too
    far apart for (7.11)."""

    x: Array
    sigma: Array
    h_c: Array
    rho: Array
    strain: Array
    s_r: Array
    w: Array
    far: npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Cracking:
    """Direct calculation under quasi-permanent combinations. ``w_max`` m. ``bonded``: the same for members with bonded tendons, which are not counted as
    bars; what table 7.1N asks of them beside that, decompression, is a limit of the concrete's stress."""

    materials: Materials
    w_max: float
    k_1: float
    k_2: float
    k_3: float
    k_4: float
    k_t: float
    limit_states: Sequence[str] = ("quasi_permanent",)
    bonded: Cracking | None = None

    def alpha_e(self, concrete: Concrete, rebar: Rebar) -> float:
        """Ratio of moduli under lasting load."""
        return alpha_lasting(self.materials, concrete, rebar)

    def widths(self, at: Stations, area: Array, spacing: Array, concrete: Concrete, rebar: Rebar) -> Widths:
        """Of stations of one pair of materials with steel ``area`` (k,) m2/m at ``spacing`` (k,) m."""
        alpha = self.alpha_e(concrete, rebar)
        x = neutral_axis(area, at.d, alpha, at.wide, at.flange)
        sigma = steel_stress(at.m_service, at.n_service, area, at.d, alpha, at.wide, at.flange, x)
        E_s = np.full(len(x), 1e3 * rebar.E_MPa)
        return self._widths(Served(at.h, at.d, at.cover, at.bar, spacing, area, E_s, sigma), x, concrete)

    def closest(self, at: Stations) -> None:
        """None: cracks are limited by their width."""
        return None

    def width_of(self, served: Served, concrete: Concrete) -> Array:
        """7.3.4; the neutral axis as under lasting load."""
        alpha = served.E_s * (1 + concrete.creep_coefficient) / self.materials.modulus(concrete)
        return self._widths(served, neutral_axis(served.area, served.d, alpha), concrete).w

    def _widths(self, at: Served, x: Array, concrete: Concrete) -> Widths:
        f_ct, sigma = self.materials.f_ctm(concrete), at.sigma
        h_c = np.minimum(np.minimum(2.5 * (at.h - at.d), (at.h - x) / 3), at.h / 2)
        rho = at.area / h_c
        short_term = at.E_s / self.materials.modulus(concrete)
        strain = np.maximum(sigma - self.k_t * f_ct / rho * (1 + short_term * rho), 0.6 * sigma) / at.E_s
        far = at.spacing > CLOSE * (at.cover + at.bar / 2) + 1e-6
        s_r = np.where(far, 1.3 * (at.h - x), self.k_3 * at.cover + self.k_1 * self.k_2 * self.k_4 * at.bar / rho)
        return Widths(x, sigma, h_c, rho, strain, s_r, s_r * strain, far)

    def check(self, at: Stations) -> CrackUse:
        """w_k of the bars that are given over its limit."""
        area = np.maximum(at.given, 1e-7)
        # Bars that are gathered in a part of a station's width lie as far apart as their mean area has it where they have an end.
        mean = np.pi * at.bar**2 / 4 / area
        apart = np.where(mean > GATHERED * at.spacing, mean, at.spacing)
        laid = replace(at, given=area, spacing=apart)
        use = laid.each(lambda some, c, r: self.widths(some, some.given, some.spacing, c, r).w) / self.w_max
        # Where the prestress keeps the bars' level pressed, no bars are missing.
        pulled = laid.each(lambda some, c, r: self.widths(some, some.given, some.spacing, c, r).sigma) > 0
        none = (at.given <= 0) & (at.m_service > 0) & pulled
        use = np.where(none, 99.0, np.minimum(use, 99.0))
        use = np.where((at.m_service <= 0) & (at.n_service <= 0), 0.0, use)
        # As where steel for it is sought: where hardly any would do, none is missing.
        few = np.flatnonzero((at.given < NOTHING) & (use > 0))
        hardly = replace(at.some(few), given=np.full(len(few), NOTHING), spacing=apart[few])
        idle = few[hardly.each(lambda some, c, r: self.widths(some, some.given, some.spacing, c, r).w) <= self.w_max]
        use[idle] = 0.0

        def steps(i: int) -> tuple[Step, ...]:
            if i in idle:
                return (Step("Utilisation", LIMIT, values=(HARDLY_ANY,), result=Value("use", 0.0)),)
            one = at.some(slice(i, i + 1))
            found = self._steps(one, area[i : i + 1], apart[i : i + 1], float(use[i]))
            if not none[i]:
                return found
            return (*found[:-1], Step("Utilisation", LIMIT, note="There are no bars.", result=Value("use", float(use[i]))))

        return CrackUse(use, steps)

    def _steps(self, one: Stations, area: Array, spacing: Array, use: float) -> tuple[Step, ...]:
        concrete, rebar = one.materials[int(one.kind[0])]
        w = self.widths(one, area, spacing, concrete, rebar)
        f_ct = Value("f_ct,eff", self.materials.f_ctm(concrete) / 1e3, "stress")
        E_s, short = Value("E_s", rebar.E_MPa, "stress"), Value("alpha_e", 1e3 * rebar.E_MPa / self.materials.modulus(concrete))
        A, h = Value("A_s", 1e6 * float(area[0]), "steel_per_m"), Value("h", float(one.h[0]), "size")
        x, sigma, stressed = stress_steps(
            one, float(area[0]), self.alpha_e(concrete, rebar), f"{self.limit_states[0].replace('_', '-')}, about the steel"
        )
        rho, h_c = Value("rho_p,eff", float(w.rho[0])), Value("h_c,ef", float(w.h_c[0]), "size")
        strain, s_r = Value("eps_m", float(w.strain[0]), meaning="eps_sm - eps_cm"), Value("s_r,max", float(w.s_r[0]), "size")
        w_k, limit = Value("w_k", 1e3 * float(w.w[0]), "bar"), Value("w_max", 1e3 * self.w_max, "bar")
        bar, cover = (
            Value("phi", 1e3 * float(one.bar[0]), "bar"),
            Value("c", 1e3 * float(one.cover[0]), "cover", "cover to these bars"),
        )
        if w.far[0]:
            cracks = Step("Spacing of cracks", f"{WIDTH} (3) (7.14)", "s_r,max = 1.3 · (h - x)", (h, x), s_r,
                          note="Bars lie further apart than 5 (c + phi / 2).")  # fmt: skip
        else:
            cracks = Step("Spacing of cracks", f"{WIDTH} (3) (7.11)", "s_r,max = k_3 · c + k_1 · k_2 · k_4 · phi / rho_p,eff", (
                Value("k_3", self.k_3), cover, Value("k_1", self.k_1), Value("k_2", self.k_2), Value("k_4", self.k_4), bar, rho), s_r)  # fmt: skip
        return (
            *stressed,
            Step("Effective height", f"{WIDTH}, 7.3.2 (3)", "h_c,ef = min(2.5 · (h - d), (h - x) / 3, h / 2)",
                 (h, Value("d", float(one.d[0]), "size"), x), h_c),
            Step("Effective ratio", f"{WIDTH} (2) (7.10)", "rho_p,eff = A_s / h_c,ef", (A, h_c), rho),
            Step("Strain between cracks", f"{WIDTH} (2) (7.9)",
                 "eps_m = max(sigma_s - k_t · f_ct,eff / rho_p,eff · (1 + alpha_e · rho_p,eff), 0.6 · sigma_s) / E_s",
                 (sigma, Value("k_t", self.k_t), f_ct, rho, short, E_s), strain),
            cracks,
            Step("Crack width", f"{WIDTH} (1) (7.8)", "w_k = s_r,max · eps_m", (s_r, strain), w_k),
            Step("Utilisation", LIMIT, "use = min(w_k / w_max, 99)", (w_k, limit), Value("use", use)),
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class CrackSteel:
    """Steel that keeps cracks within the limit, and the least area of 7.3.2."""

    rules: Cracking
    clause: str = f"{AREA}; {WIDTH}"
    name: str = "crack_width"
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "Thinner bars closer together need less of it; a wider limit, where exposure and use allow one, does too."

    def demand(self, at: Stations) -> Demand:
        """Found for the diameter that is laid by false position: no more than that gives wider cracks. Bars that are just not too far apart for (7.11) may give wider
        ones by it than fewer bars by (7.14); where they exceed the limit, so many are asked for that (7.11) keeps it."""
        least, width = at.each(self._least), at.each(self._for_width)
        area = np.maximum(least, width)

        def steps(i: int) -> tuple[Step, ...]:
            return self.explain(at.some(slice(i, i + 1)), float(area[i]))

        return Demand(area, steps)

    def explain(self, one: Stations, area: float) -> tuple[Step, ...]:
        """The width that the area keeps, or the least area where that is more."""
        least = float(one.each(self._least)[0])
        if area <= least * (1 + 1e-9):
            return self._least_steps(one, least)
        needed = np.array([area])
        return self.rules._steps(one, needed, np.pi * one.bar**2 / 4 / needed, 1.0)[:-1]

    def _parts(self, at: Stations) -> tuple[Array, Array]:
        k = np.interp(at.h, [0.3, 0.8], [1.0, 0.65])
        return k, at.h / 2

    def _least(self, at: Stations, concrete: Concrete, rebar: Rebar) -> Array:
        f_ct = self.rules.materials.f_ctm(concrete)
        k, tension = self._parts(at)
        area = 0.4 * k * f_ct * tension / (1e3 * rebar.yield_MPa)
        # 7.3.3 (1): slabs up to 200 mm in bending need no such steel.
        return np.where((at.m > LEAST_TENSION * f_ct * at.h**2 / 6) & (at.h > 0.2), area, 0.0)

    def _least_steps(self, one: Stations, area: float) -> tuple[Step, ...]:
        concrete, rebar = one.materials[int(one.kind[0])]
        k, tension = self._parts(one)
        return (
            Step("Least area for cracks", AREA, "A_s,w = k_c · k · f_ct,eff · h_ct / f_yk", (
                Value("k_c", 0.4, meaning="bending"), Value("k", float(k[0])),
                Value("f_ct,eff", self.rules.materials.f_ctm(concrete) / 1e3, "stress"),
                Value("h_ct", float(tension[0]), "size", "height in tension before cracking"), Value("f_yk", rebar.yield_MPa, "stress")),
                Value("A_s,w", 1e6 * area, "steel_per_m")),
        )  # fmt: skip

    def _for_width(self, at: Stations, concrete: Concrete, rebar: Rebar) -> Array:
        out = np.zeros(len(at.h))
        stretched = np.flatnonzero((at.m_service > 0) | (at.n_service > 0))
        some = at.some(stretched)
        close = CLOSE * (some.cover + some.bar / 2)
        just = np.pi * some.bar**2 / 4 / close

        def wider(area: Array, apart: Array) -> Array:
            """By how much (k,) the logarithm of the width exceeds that of the limit."""
            w = self.rules.widths(some, area, apart, concrete, rebar).w
            return np.log(np.maximum(w, 1e-12) / self.rules.w_max)

        # Bars of the diameter that is laid, as close as their area asks: too far apart for (7.11) up to just so many of them.
        beyond = wider(just, close) > 0
        found = falling_root(
            lambda area: wider(area, np.where(beyond, 0.0, np.inf)), np.where(beyond, just, LEAST), np.where(beyond, MOST, just)
        )
        out[stretched] = np.where(found > LEAST * 1.01, found, 0.0)
        return out


def falling_root(excess: Callable[[Array], Array], low: Array, high: Array) -> Array:
    """Where (k,) between ``low`` and ``high`` (k,), both positive, what falls as a power does comes to nil, to nine digits; ``low`` where it never
    exceeds it, ``high`` where it always does. ``excess`` of values (k,) is the logarithm of what falls.

    Illinois's way of false position (Dowell and Jarratt 1971) over the logarithms, with every fourth step in the middle.
    """
    a, b = np.log(low), np.log(high)
    at_a, at_b = excess(low), excess(high)
    none, all_ = at_a <= 0, at_b > 0
    b, a = np.where(none, a, b), np.where(all_ & ~none, b, a)
    last = np.zeros(len(low))
    for step in range(1, STEPS + 1):
        going = b - a > DIGITS
        if not going.any():
            break
        x = (a + b) / 2
        if step % 4:
            with np.errstate(divide="ignore", invalid="ignore"):
                chord = b - at_b * (b - a) / (at_b - at_a)
            x = np.where((chord > a) & (chord < b), chord, x)
        there = excess(np.exp(x))
        left, right = going & (there > 0), going & (there <= 0)
        at_b = np.where(left & (last < 0), at_b / 2, at_b)
        at_a = np.where(right & (last > 0), at_a / 2, at_a)
        a, at_a = np.where(left, x, a), np.where(left, there, at_a)
        b, at_b = np.where(right, x, b), np.where(right, there, at_b)
        last = np.where(left, -1.0, np.where(right, 1.0, last))
        # As near as numbers tell: what falls does so no slower than the square root.
        b = np.where(left & (there < DIGITS), x + 2 * DIGITS, b)
        a = np.where(going & (np.abs(there) < DIGITS), b, a)
    return np.asarray(np.exp(b))
