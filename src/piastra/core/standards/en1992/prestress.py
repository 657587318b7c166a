"""Prestress of EN 1992-1-1: 3.3, 5.10, 7.2, 7.3."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete
from piastra.core.model.tendons import Prestress, Strand
from piastra.core.standards.en1992 import ageing
from piastra.core.standards.en1992.flexure import block
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.prestress_rules import Losses, LossPlaces, StressLimits, UltimatePlaces
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

PARAMETERS = (
    Parameter("k_1,jack", "k_1", "greatest jacking stress over f_pk", 0.8, "EN 1992-1-1, 5.10.2.1 (1)", design=True),
    Parameter("k_2,jack", "k_2", "greatest jacking stress over f_p0.1k", 0.9, "EN 1992-1-1, 5.10.2.1 (1)", design=True),
    Parameter("k_transfer", "k", "greatest compression at transfer over f_ck(t)", 0.6, "EN 1992-1-1, 5.10.2.2 (5)", design=True),
    Parameter("k_characteristic", "k_1", "greatest compression in the characteristic combination over f_ck", 0.6,
              "EN 1992-1-1, 7.2 (2)", design=True),
    Parameter("k_quasi", "k_2", "greatest compression in the quasi-permanent combination over f_ck", 0.45, "EN 1992-1-1, 7.2 (3)",
              design=True),
    Parameter("r_sup", "r_sup", "greatest unbonded prestress in service over its mean", 1.05, "EN 1992-1-1, 5.10.9 (1)", design=True),
    Parameter("r_inf", "r_inf", "least unbonded prestress in service over its mean", 0.95, "EN 1992-1-1, 5.10.9 (1)", design=True),
    Parameter("r_sup_bonded", "r_sup", "greatest bonded prestress in service over its mean", 1.10, "EN 1992-1-1, 5.10.9 (1)", design=True),
    Parameter("r_inf_bonded", "r_inf", "least bonded prestress in service over its mean", 0.90, "EN 1992-1-1, 5.10.9 (1)", design=True),
    Parameter("rise_unbonded", "sigma_p,rise", "rise of the stress in unbonded tendons at the ultimate limit state, MPa", 100.0,
              "EN 1992-1-1, 5.10.8 (2)", design=True),
)  # fmt: skip
END_HOURS = 500000.0
"""3.3.2 (8): final values of relaxation after some 57 years."""
END_DAYS = END_HOURS / 24
RELAXATION = {1: (5.39, 6.7), 2: (0.66, 9.1), 3: (1.98, 8.0)}
"""(3.28) to (3.30): factor and exponent of each class."""
SALT = ("XD", "XS")
"""Table 7.1N: there they do under the frequent one."""
DECOMPRESSED = ("XC2", "XC3", "XC4")
"""Table 7.1N: bonded tendons lie in compressed concrete under the quasi-permanent combination."""
BURSTING_GAMMA = 1.2
"""2.4.2.2 (3): of prestress in local effects."""
BURSTING_STRESS = 300.0
"""8.10.3 (5): MPa."""
CLAUSE = "EN 1992-1-1, 5.10.2.2 (5), 7.2"


def relaxation(strand: Strand, sigma_p: Array, hours: float = END_HOURS) -> Array:
    """(3.28) to (3.30): loss of stress at a constant strain, MPa; ``sigma_p`` MPa at the beginning."""
    mu = sigma_p / strand.fpk_MPa
    factor, exponent = RELAXATION[strand.relaxation_class]
    share = factor * strand.rho1000_pct * np.exp(exponent * mu) * (hours / 1000) ** (0.75 * (1 - mu)) * 1e-5
    return np.asarray(share * sigma_p)


@dataclass(frozen=True, slots=True)
class PrestressRules:
    """Recommended values of 5.10 and 7.2, each of which a project may replace."""

    materials: Materials
    values: dict[str, float]
    exposure: str | None
    clause: str = CLAUSE

    def spread(self, strand: Strand) -> tuple[float, float]:
        """r_inf and r_sup of 5.10.9 (1)."""
        tail = "_bonded" if strand.bond == "bonded" else ""
        return self.values[f"r_inf{tail}"], self.values[f"r_sup{tail}"]

    def jack_limit(self, strand: Strand) -> Step:
        """5.10.2.1 (1) (5.41)."""
        k1, k2 = self.values["k_1,jack"], self.values["k_2,jack"]
        return Step(
            "Greatest stress at the jack", "EN 1992-1-1, 5.10.2.1 (1) (5.41)", "sigma_p,max = min(k_1 · f_pk, k_2 · f_p0,1k)",
            (Value("k_1", k1), Value("f_pk", strand.fpk_MPa, "stress"), Value("k_2", k2), Value("f_p0,1k", strand.fp01k_MPa, "stress")),
            Value("sigma_p,max", min(k1 * strand.fpk_MPa, k2 * strand.fp01k_MPa), "stress"),
        )  # fmt: skip

    def at_transfer(self, concrete: Concrete, how: Prestress) -> tuple[float, float]:
        """f_ck(t) of 3.1.2 (5), or as given, and E_cm(t) of 3.1.3 (3)."""
        mean = ageing.f_cm(concrete.strength_MPa)
        if concrete.transfer_strength_MPa is not None:
            f_ck = concrete.transfer_strength_MPa
        else:
            f_ck = max(float(ageing.beta_cc(min(how.transfer_days, 28.0))) * mean - 8.0, 1.0)
        ratio = float(ageing.modulus_ratio(min((f_ck + 8.0) / mean, 1.0)))
        return f_ck, ratio * self.materials.modulus(concrete) / 1e3

    def long_term(self, places: LossPlaces) -> Losses:
        """(5.46) at every place, from the strain that the analysis finds beside the tendon; drying from transfer on, both faces."""
        p, how, f_ck = places, places.how, places.concrete.strength_MPa
        end = np.array([END_DAYS])
        t0, RH = how.transfer_days, how.humidity_pct
        h0 = 1e3 * p.h
        phi = ageing.creep(end, t0, f_ck, h0, RH)
        before = float(ageing.autogenous_shrinkage(np.array([t0]), f_ck)[0])
        shrinkage = ageing.drying_shrinkage(end, t0, f_ck, h0, RH) + float(ageing.autogenous_shrinkage(end, f_ck)[0]) - before
        relaxed = relaxation(p.strand, p.sigma_p)
        alpha = p.strand.E_MPa / p.E
        sigma_c = -p.strain * p.E
        # Steel over concrete, by the precompression that it makes.
        ratio = np.maximum(-p.own, 0.0) * p.E / np.maximum(p.sigma_p, 1e-9)
        lever = 1 + 12 * (p.z / p.h) ** 2
        least = 1 + alpha * ratio * lever * (1 + 0.8 * phi)
        loss = np.maximum((shrinkage * p.strand.E_MPa + 0.8 * relaxed + alpha * phi * sigma_c) / least, 0.0)

        def steps(i: int) -> tuple[Step, ...]:
            creep, eps = (
                Value("phi", float(phi[i]), meaning=f"B.1, from day {t0:g}, {RH:g} % humidity"),
                Value("eps_cs", float(shrinkage[i])),
            )
            E_p, a = Value("E_p", p.strand.E_MPa, "stress"), Value("alpha", float(alpha), meaning="E_p / E_cm")
            rel = Value("Delta_pr", float(relaxed[i]), "stress", f"relaxation of class {p.strand.relaxation_class}, 3.3.2 (7)")
            c = Value("sigma_c", float(sigma_c[i]), "stress", "of the concrete beside the tendon, compression positive")
            rho, arm = (
                Value("rho", float(ratio[i]), meaning="A_p / A_c"),
                Value("k_z", float(lever[i]), meaning="1 + A_c z² / I_c"),
            )
            return (
                Step("Long-term losses", "EN 1992-1-1, 5.10.6 (2) (5.46)",
                     "Delta_p = (eps_cs · E_p + 0.8 · Delta_pr + alpha · phi · sigma_c) / (1 + alpha · rho · k_z · (1 + 0.8 · phi))",
                     (eps, E_p, rel, a, creep, c, rho, arm), Value("Delta_p", float(loss[i]), "stress")),
            )  # fmt: skip

        return Losses(loss, steps)

    def limits(self, state: str, concrete: Concrete, how: Prestress, bonded: bool) -> StressLimits:
        """At transfer 5.10.2.2 (5) and f_ctm(t); in service 7.2 and, of bonded tendons, decompression by table 7.1N. Tension beyond
        the mean strength is no failure: then cracks are checked."""
        if state == "transfer":
            f_t, _ = self.at_transfer(concrete, how)
            k = self.values["k_transfer"]
            pull = 0.30 * f_t ** (2 / 3)
            f = Value("f_ck,t", f_t, "stress", "strength when it is stressed")
            return StressLimits(
                k * f_t, pull,
                (Step("Compression at transfer", "EN 1992-1-1, 5.10.2.2 (5)", "sigma_lim = k · f_ck,t", (Value("k", k), f),
                      Value("sigma_lim", k * f_t, "stress")),
                 Step("Tension at transfer", "EN 1992-1-1, 3.1.2 (9), table 3.1", "f_ctm,t = 0.30 · f_ck,t^(2/3)", (f,),
                      Value("f_ctm,t", pull, "stress"), empirical=True)),
            )  # fmt: skip
        f_ck = concrete.strength_MPa
        f = Value("f_ck", f_ck, "stress")
        if state == "quasi_permanent":
            k = self.values["k_quasi"]
            none = bonded and (self.exposure or "XC1") in DECOMPRESSED
            steps = [Step("Compression under lasting loads", "EN 1992-1-1, 7.2 (3)", "sigma_lim = k · f_ck", (Value("k", k), f),
                          Value("sigma_lim", k * f_ck, "stress"))]  # fmt: skip
            if none:
                steps.append(Step("Decompression", "EN 1992-1-1, 7.3.1 (5), table 7.1N", "", (), Value("sigma_ct", 0.0, "stress"),
                                  note="Bonded tendons lie in compressed concrete; here the whole face is compressed."))  # fmt: skip
            return StressLimits(k * f_ck, 0.0 if none else None, tuple(steps), "Cracks are checked by their width.")
        if state in ("characteristic", "service"):
            k = self.values["k_characteristic"]
            return StressLimits(
                k * f_ck, None,
                (Step("Compression", "EN 1992-1-1, 7.2 (2)", "sigma_lim = k · f_ck", (Value("k", k), f), Value("sigma_lim", k * f_ck, "stress")),),
                "Cracks are checked by their width.",
            )  # fmt: skip
        if state == "frequent" and bonded and (self.exposure or "XC1").startswith(SALT):
            dry = Step("Decompression", "EN 1992-1-1, 7.3.1 (5), table 7.1N", "", (), Value("sigma_ct", 0.0, "stress"),
                        note="Bonded tendons lie in compressed concrete; here the whole face is compressed.")  # fmt: skip
            return StressLimits(None, 0.0, (dry,))
        return StressLimits(None, None, (), "Cracks are checked by their width.")

    def ultimate(self, places: UltimatePlaces) -> tuple[Array, tuple[Step, ...]]:
        """Unbonded: 5.10.8 (2). Bonded: strains of a plane section with the steel's own, up to f_pd on a horizontal branch (3.3.6)."""
        p = places
        f_pd = p.strand.fp01k_MPa / self.materials.gamma_S
        most = Value("f_pd", f_pd, "stress", "f_p0.1k / gamma_S")
        if p.strand.bond == "unbonded":
            rise = self.values["rise_unbonded"]
            stress = np.minimum(p.f_pe + rise, f_pd)
            first = Value("sigma_pe", float(p.f_pe[0]), "stress", "after all losses")
            return stress, (
                Step("Unbonded tendons at the ultimate limit state", "EN 1992-1-1, 5.10.8 (2)", "sigma_p = min(sigma_pe + rise, f_pd)",
                     (first, Value("rise", rise, "stress"), most), Value("sigma_p", float(stress[0]), "stress")),
            )  # fmt: skip
        lam, eta = block(p.concrete.strength_MPa)
        fc = eta * self.materials.f_cd(p.concrete) / 1e3
        f_yd = self.materials.f_yd(p.rebar) / 1e3
        f_ck = p.concrete.strength_MPa
        eps_cu = 3.5e-3 if f_ck <= 50 else (2.6 + 35 * ((90 - f_ck) / 100) ** 4) * 1e-3
        low, high = np.zeros_like(p.d_p), np.full_like(p.d_p, f_pd)
        # The stress that the strain at the depth of its own balance gives: the higher the stress, the deeper the axis.
        for _ in range(50):
            stress = (low + high) / 2
            x = np.maximum((p.A_p * stress + p.A_s * f_yd) / (lam * fc), 1e-9)
            reached = p.f_pe + p.strand.E_MPa * eps_cu * np.maximum(p.d_p / x - 1, 0.0)
            fine = np.minimum(reached, f_pd) >= stress
            low, high = np.where(fine, stress, low), np.where(fine, high, stress)
        stress = np.minimum(high, f_pd)
        return stress, (
            Step("Bonded tendons at the ultimate limit state", "EN 1992-1-1, 6.1 (2), 3.3.6 (7)", "",
                 (Value("sigma_pe", float(p.f_pe[0]), "stress", "after all losses"), most),
                 Value("sigma_p", float(stress[0]), "stress", "by strains of a plane section")),
        )  # fmt: skip

    def bursting(self, jacking: float, anchor: float, h: float, yield_MPa: float) -> tuple[Step, Step]:
        """8.10.3 (4), (5) with the strut model of 6.5.3 (3) (6.58): a partial discontinuity of the slab's depth."""
        P = Value("P_max", jacking, "force", "at the jack")
        gamma, a, b = Value("gamma_P", BURSTING_GAMMA), Value("a", anchor, "size"), Value("h", h, "size")
        T = 0.25 * BURSTING_GAMMA * jacking * max(1 - anchor / h, 0.0)
        force = Value("T", T, "force")
        stress = Value(
            "sigma_s", min(BURSTING_STRESS, yield_MPa / self.materials.gamma_S), "stress", "so that cracks need no check"
        )
        return (
            Step("Bursting behind the anchor", "EN 1992-1-1, 8.10.3 (4), 6.5.3 (3) (6.58)", "T = max(gamma_P · P_max / 4 · (1 - a / h), 0)",
                 (gamma, P, a, b), force),
            Step("Steel against bursting", "EN 1992-1-1, 8.10.3 (5)", "A_s = T / sigma_s", (force, stress),
                 Value("A_s", 1e3 * T / stress.value, "steel")),
        )  # fmt: skip

    @property
    def arrangement(self) -> None:
        """EN 1992-1-1 does not say."""
        return None

    def precompression(self) -> tuple[float, float, bool, str]:
        """No rule; between 0.7 and 2.5 MPa by common practice."""
        return 0.7, 2.5, False, "advice"
