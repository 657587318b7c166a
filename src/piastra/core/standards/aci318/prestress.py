"""Prestress of ACI 318-19 (SI units): 20.3, 21.2, 24.5. Losses by Zia, Preston, Scott and Workman, Concrete International 1(6), 1979,
the detailed method that R20.3.2.6 names."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete
from piastra.core.model.tendons import Prestress, Strand
from piastra.core.standards.aci318.flexure import beta_1
from piastra.core.standards.aci318.materials import Materials
from piastra.core.standards.prestress_rules import Losses, LossPlaces, StressLimits, UltimatePlaces
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

PSI = 0.00689476
"""MPa of one."""
K_CR = 1.6
"""Creep of post-tensioned normalweight members."""
K_SH = ((1.0, 3.0, 5.0, 7.0, 10.0, 20.0, 30.0, 60.0), (0.92, 0.85, 0.80, 0.77, 0.73, 0.64, 0.58, 0.45))
"""Shrinkage left, by days from the end of moist curing to stressing."""
K_RE = {1: (20000.0, 0.15), 2: (5000.0, 0.04), 3: (6000.0, 0.05)}
"""psi and J of stress-relieved strand, low-relaxation strand, bars."""
INITIAL = np.arange(0.60, 0.805, 0.01)
LOW = (
    0.33,
    0.37,
    0.41,
    0.45,
    0.49,
    0.53,
    0.57,
    0.61,
    0.66,
    0.70,
    0.75,
    0.80,
    0.85,
    0.90,
    0.95,
    1.00,
    1.05,
    1.11,
    1.16,
    1.22,
    1.28,
)
RELIEVED = (
    0.49,
    0.53,
    0.58,
    0.63,
    0.68,
    0.73,
    0.78,
    0.83,
    0.89,
    0.94,
    1.00,
    1.09,
    1.18,
    1.27,
    1.36,
    1.45,
    1.45,
    1.45,
    1.45,
    1.45,
    1.45,
)
"""C of low-relaxation and stress-relieved strand by the initial stress over the strength."""
SOURCE = "Zia and others 1979 (ACI 318-19, R20.3.2.6)"
BURSTING_PHI = 0.85
CLASS_U = 0.50
"""24.5.2.1: two-way slabs are class U, f_t to 0.50 sqrt(f'_c)."""


@dataclass(frozen=True, slots=True)
class Arrangement:
    """8.7.2.3 and 8.7.5.6."""

    inset: float = 0.05
    """Cover of a column and half of its bars."""
    strands: int = 2
    least_area: float = 98.0
    """A strand of half an inch has 98.7 mm2."""
    clause: str = "ACI 318-19, 8.7.5.6.1"

    def greatest_spacing(self, h: Array) -> Array:
        """8.7.2.3: 8 h, 1.5 m."""
        return np.minimum(8 * h, 1.5)

    def spacing_step(self, h: float) -> Step:
        """8.7.2.3."""
        return Step("Greatest spacing of tendons", "ACI 318-19, 8.7.2.3", "s_max = min(8 · h, 1.5)", (Value("h", h, "size"),),
                    Value("s_max", min(8 * h, 1.5), "size"), note="In at least one direction.")  # fmt: skip

    def bars_instead(self, strength: float, yield_MPa: float, width: float, d: float) -> Step:
        """8.7.5.6.3.1: the greater of 4.5 sqrt(f'c) c2 d / fy and 300 c2 d / fy in psi."""
        A = max(0.37 * float(np.sqrt(strength)), 2.1) * 1e6 * width * d / yield_MPa
        return Step("Bottom bars in the place of tendons", "ACI 318-19, 8.7.5.6.3.1", "A_s,min = max(0.37 · f'_c^0.5, 2.1) · c_2 · d / f_y · 1000000",
                    (Value("f'_c", strength, "stress"), Value("c_2", width, "size"), Value("d", d, "size"), Value("f_y", yield_MPa, "stress")),
                    Value("A_s,min", A, "steel"), empirical=True)  # fmt: skip


@dataclass(frozen=True, slots=True)
class PrestressRules:
    """Limits and strengths of chapters 20 and 24."""

    phi: float
    materials: Materials
    clause: str = "ACI 318-19, 24.5.3, 24.5.4"

    def spread(self, strand: Strand) -> tuple[float, float]:
        """The mean force."""
        return 1.0, 1.0

    def jack_limit(self, strand: Strand) -> Step:
        """Table 20.3.2.5.1, during stressing."""
        py, pu = Value("f_py", strand.fp01k_MPa, "stress"), Value("f_pu", strand.fpk_MPa, "stress")
        return Step("Greatest stress at the jack", "ACI 318-19, table 20.3.2.5.1", "f_pj = min(0.94 · f_py, 0.80 · f_pu)", (py, pu),
                    Value("f_pj", min(0.94 * strand.fp01k_MPa, 0.80 * strand.fpk_MPa), "stress"))  # fmt: skip

    def at_transfer(self, concrete: Concrete, how: Prestress) -> tuple[float, float]:
        """f'_ci as given, or t / (4 + 0.85 t) f'_c (ACI 209R-92, moist cured, type I), and its modulus by 19.2.2.1."""
        t = min(how.transfer_days, 28.0)
        f_ci = concrete.transfer_strength_MPa or t / (4 + 0.85 * t) * concrete.strength_MPa
        ratio = float(np.sqrt(min(f_ci / concrete.strength_MPa, 1.0)))
        return f_ci, ratio * self.materials.modulus(concrete) / 1e3

    def long_term(self, places: LossPlaces) -> Losses:
        """Creep, shrinkage and relaxation; the stress of unbonded tendons follows the mean compression of the member."""
        p, how = places, places.how
        E_s = p.strand.E_MPa
        bonded = p.strand.bond == "bonded"
        f_c = np.maximum(-(p.strain if bonded else p.own) * p.E, 0.0)
        creep = K_CR * E_s / p.E * f_c
        surface = p.h / 2 / 0.0254
        k_sh = float(np.interp(how.transfer_days, *K_SH))
        shrinkage = 8.2e-6 * k_sh * E_s * (1 - 0.06 * surface) * (100 - how.humidity_pct)
        k_re, J = K_RE[p.strand.relaxation_class]
        initial = (p.sigma_p + p.short) / p.strand.fpk_MPa
        C = np.interp(initial, INITIAL, LOW if p.strand.relaxation_class != 1 else RELIEVED)
        relaxed = np.maximum((k_re * PSI - J * (shrinkage + creep + p.short)) * C, 0.0)
        loss = creep + shrinkage + relaxed

        def steps(i: int) -> tuple[Step, ...]:
            s, c, r = (Value(k, float(v[i]), "stress") for k, v in (("SH", shrinkage), ("CR", creep), ("RE", relaxed)))
            E, ratio = Value("E_s", E_s, "stress"), Value("n", E_s / p.E, meaning="E_s / E_c")
            f = Value("f_c", float(f_c[i]), "stress", "beside the tendon" if bonded else "mean compression")
            size = Value("V_S", float(surface[i]), meaning="volume over surface, inches")
            return (
                Step("Creep of the concrete", SOURCE, "CR = 1.6 · n · f_c", (ratio, f), c),
                Step("Shrinkage", SOURCE, "SH = 0.0000082 · K_sh · E_s · (1 - 0.06 · V_S) · (100 - RH)",
                     (Value("K_sh", k_sh), E, size, Value("RH", how.humidity_pct)), s),
                Step("Relaxation", SOURCE, "RE = max((K_re - J · (SH + CR + ES)) · C, 0)",
                     (Value("K_re", k_re * PSI, "stress"), Value("J", J), s, c, Value("ES", float(p.short[i]), "stress"), Value("C", float(C[i]))), r),
                Step("Long-term losses", SOURCE, "Delta_p = CR + SH + RE", (c, s, r), Value("Delta_p", float(loss[i]), "stress")),
            )  # fmt: skip

        return Losses(loss, steps)

    def limits(self, state: str, concrete: Concrete, how: Prestress, bonded: bool) -> StressLimits:
        """24.5.3 at transfer, 24.5.4 and class U (24.5.2.1) in service."""
        f_ci, _ = self.at_transfer(concrete, how)
        strength = f_ci if state == "transfer" else concrete.strength_MPa
        f = Value("f_ci" if state == "transfer" else "f'_c", strength, "stress")
        share, pull, table = {
            "transfer": (0.60, 0.25, "tables 24.5.3.1 and 24.5.3.2"),
            "sustained": (0.45, CLASS_U, "table 24.5.4.1, 24.5.2.1"),
            "service": (0.60, CLASS_U, "table 24.5.4.1, 24.5.2.1"),
        }.get(state, (None, None, ""))
        if share is None or pull is None:
            return StressLimits(None, None, ())
        most, tension = share * strength, pull * float(np.sqrt(strength))
        return StressLimits(
            most, tension,
            (Step("Compression", f"ACI 318-19, {table}", f"f_lim = k · {f.symbol}", (Value("k", share), f), Value("f_lim", most, "stress")),
             Step("Tension", f"ACI 318-19, {table}", f"f_t,lim = k_t · {f.symbol}^0.5", (Value("k_t", pull), f),
                  Value("f_t,lim", tension, "stress"), empirical=True)),
            "Bonded bars carry the tension beyond it (24.5.3.2.1)." if state == "transfer" else "",
        )  # fmt: skip

    def ultimate(self, places: UltimatePlaces) -> tuple[Array, tuple[Step, ...]]:
        """phi times f_ps of 20.3.2.3.1 (bonded) or table 20.3.2.4.1 (unbonded)."""
        p, f_c = places, places.concrete.strength_MPa
        f_pu, f_py = p.strand.fpk_MPa, p.strand.fp01k_MPa
        rho = np.maximum(p.A_p / np.maximum(p.d_p, 1e-9), 1e-9)
        first = [Value("f_se", float(p.f_pe[0]), "stress", "after all losses"), Value("rho_p", float(rho[0]))]
        fc, phi = Value("f'_c", f_c, "stress"), Value("phi", self.phi)
        if p.strand.bond == "unbonded":
            shallow = p.span_over_h <= 35
            by = np.where(shallow, 100.0, 300.0)
            rise = np.where(shallow, 420.0, 210.0)
            f_ps = np.minimum(np.minimum(p.f_pe + 70 + f_c / (by * rho), p.f_pe + rise), f_py)
            steps = (
                Step("Unbonded tendons at nominal strength", "ACI 318-19, table 20.3.2.4.1",
                     "f_ps = min(f_se + 70 + f'_c / (k · rho_p), f_se + rise, f_py)",
                     (first[0], fc, Value("k", float(by[0]), meaning=f"span over thickness {float(p.span_over_h[0]):.1f}"), first[1],
                      Value("rise", float(rise[0]), "stress"), Value("f_py", f_py, "stress")), Value("f_ps", float(f_ps[0]), "stress"), empirical=True),
            )  # fmt: skip
        else:
            ratio = f_py / f_pu
            gamma = 0.28 if ratio >= 0.90 else 0.40 if ratio >= 0.85 else 0.55
            bars = p.d / np.maximum(p.d_p, 1e-9) * p.rebar.yield_MPa / f_c * p.A_s / np.maximum(p.d, 1e-9)
            b1 = beta_1(f_c)
            f_ps = f_pu * (1 - gamma / b1 * (rho * f_pu / f_c + bars))
            steps = (
                Step("Bonded tendons at nominal strength", "ACI 318-19, 20.3.2.3.1",
                     "f_ps = f_pu · (1 - gamma_p / beta_1 · (rho_p · f_pu / f'_c + omega))",
                     (Value("f_pu", f_pu, "stress"), Value("gamma_p", gamma), Value("beta_1", b1), first[1], fc,
                      Value("omega", float(bars[0]), meaning="of the bars, d / d_p f_y / f'_c rho")), Value("f_ps", float(f_ps[0]), "stress")),
            )  # fmt: skip
        stress = self.phi * np.maximum(f_ps, 0.0)
        return stress, (*steps, Step("With the strength reduction", "ACI 318-19, table 21.2.2", "sigma_p = phi · f_ps",
                                     (phi, Value("f_ps", float(f_ps[0]), "stress")), Value("sigma_p", float(stress[0]), "stress")))  # fmt: skip

    def bursting(self, jacking: float, anchor: float, h: float, yield_MPa: float) -> tuple[Step, Step]:
        """25.9.4.4.2 (a) for a concentric anchor, with 1.2 of the jacking force (5.3.12) and phi 0.85 (table 21.2.1)."""
        P = Value("P_pj", jacking, "force", "at the jack")
        gamma, a, b = Value("gamma", 1.2), Value("h_anc", anchor, "size"), Value("h", h, "size")
        T = 0.25 * 1.2 * jacking * max(1 - anchor / h, 0.0)
        force = Value("T_burst", T, "force")
        phi, f_y = Value("phi", BURSTING_PHI), Value("f_y", min(yield_MPa, 420.0), "stress")
        return (
            Step("Bursting behind the anchor", "ACI 318-19, 25.9.4.4.2", "T_burst = max(0.25 · gamma · P_pj · (1 - h_anc / h), 0)",
                 (gamma, P, a, b), force),
            Step("Steel against bursting", "ACI 318-19, 25.9.4.4.5, table 21.2.1", "A_s = T_burst / (phi · f_y)", (force, phi, f_y),
                 Value("A_s", 1e3 * T / (phi.value * f_y.value), "steel")),
        )  # fmt: skip

    @property
    def arrangement(self) -> Arrangement:
        """8.7.2.3, 8.7.5.6."""
        return Arrangement()

    def precompression(self) -> tuple[float, float, bool, str]:
        """8.6.2.1: at least 0.9 MPa after all losses."""
        return 0.9, 3.5, True, "ACI 318-19, 8.6.2.1"
