"""Flexure with axial force of ACI 318-19 (SI units): 22.2 with the block of 22.2.2.4, phi of 21.2.2, 8.3.3.1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.block import Slopes, block_slopes, block_steel
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import Sections
from piastra.core.trace import Step, Value
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

BLOCK, PHI, LIMIT = "ACI 318-19, 22.2.2.4", "ACI 318-19, 21.2.2", "ACI 318-19, 8.3.3.1, 21.2.2"
STRAIN = 0.003
"""Greatest strain of concrete, 22.2.2.1."""
PARAMETERS = (
    Parameter("phi_tension", "phi", "strength reduction, tension-controlled", 0.9, f"{PHI}, table 21.2.2", design=True),
)


def beta_1(strength_MPa: float) -> float:
    """Depth of the block over that of the neutral axis, table 22.2.2.4.3 (28 and 55 MPa; 0.05 a 7 MPa)."""
    return float(np.clip(0.85 - 0.05 * (strength_MPa - 28) / 7, 0.65, 0.85))


def controlled(rebar: Rebar) -> float:
    """c/d up to which a section is tension-controlled: eps_t >= eps_ty + 0.003 (table 21.2.2)."""
    return STRAIN / (STRAIN + rebar.yield_MPa / rebar.E_MPa + 0.003)


@dataclass(frozen=True, slots=True)
class FlexuralSteel:
    """Steel of k sections: ``mu`` relative moment, ``omega`` a/d, ``rest`` (kN/m) beyond what a tension-controlled section
    carries, ``tension`` m2/m; ``over`` (k,): the moment over the greatest of a tension-controlled section."""

    rules: FlexuralStrength
    sections: Sections
    m: Array
    n: Array
    mu: Array
    mu_limit: float
    omega: Array
    rest: Array
    tension: Array
    compression: Array

    @property
    def over(self) -> Array:
        """Above 1 the section is not tension-controlled, and more steel does not mend it."""
        return np.where(self.mu > self.mu_limit, self.mu / self.mu_limit, 0.0)

    def steps(self, i: int) -> tuple[Step, ...]:
        """From the strengths to A_s."""
        s, rules = self.sections, self.rules
        m, n, d, d2 = (float(a[i]) for a in (self.m, self.n, s.d, s.d2))
        f_y, phi = Value("f_y", s.rebar.yield_MPa, "stress"), Value("phi", rules.phi)
        area = Value("A_s", 1e6 * float(self.tension[i]), "steel_per_m", "for strength, in the stretched face")
        force, depth = Value("N_u", n, "force_per_m", "axial force, tension positive"), Value("d", d, "size", "effective depth")
        moment = Value("M_u", m, "moment_per_m", "about the tension steel")
        if m <= 0:
            return (
                Step("Steel for strength", "ACI 318-19, 22.4, 21.2.2", "A_s = max(N_u + M_u / (d - d_2), 0) / (phi · f_y)",
                     (force, moment, depth, Value("d_2", d2, "size", "depth of the other face's bars"), phi, f_y), area,
                     note="No concrete is compressed by this face's steel: the layers of both faces share the axial force by their levers."),
            )  # fmt: skip
        f_c, b1 = Value("f'_c", s.concrete.strength_MPa, "stress"), Value("beta_1", beta_1(s.concrete.strength_MPa))
        mu, limit, omega = (
            Value("mu", float(self.mu[i])),
            Value("mu_lim", self.mu_limit),
            Value("omega", float(self.omega[i]), meaning="a / d"),
        )
        c_d = Value("c_lim", controlled(s.rebar), meaning="greatest c / d, tension-controlled")
        steps = [
            Step("Greatest depth of the neutral axis", LIMIT, "c_lim = 0.003 / (0.006 + f_y / E_s)", (f_y, Value("E_s", s.rebar.E_MPa, "stress")), c_d),
            Step("Relative moment", f"{BLOCK}, {PHI}", "mu = M_u / (phi · 0.85 · f'_c · d^2)", (moment, phi, f_c, depth), mu),
            Step("Greatest of it", LIMIT, "mu_lim = beta_1 · c_lim · (1 - beta_1 · c_lim / 2)", (b1, c_d), limit),
            Step("Compressed block", BLOCK, "omega = 1 - sqrt(1 - 2 · min(mu, mu_lim))", (mu, limit), omega),
        ]  # fmt: skip
        steps.append(
            Step("Neutral axis", BLOCK, "c = omega · d / beta_1", (omega, depth, b1),
                 Value("c", float(self.omega[i]) * d / b1.value, "size", "from the compressed face"))
        )  # fmt: skip
        if self.rest[i] > 0:
            rest = Value("T_rest", float(self.rest[i]), "force_per_m", "beyond a tension-controlled section")
            needed = d * float(np.sqrt(self.mu[i] / self.mu_limit))
            steps += [
                Step("Moment beyond it", LIMIT, "T_rest = (mu - mu_lim) · phi · 0.85 · f'_c · d^2 / (d - d_2)",
                     (mu, limit, phi, f_c, depth, Value("d_2", d2, "size")), rest,
                     note=f"The section would not be tension-controlled, which 8.3.3.1 forbids in slabs; more bars do not mend it, an effective "
                     f"depth of {amount(needed, 'size')} would (thicker by {amount(needed - d, 'size')})."),
                Step("Steel for strength", f"{BLOCK}, {PHI}", "A_s = max(phi · 0.85 · f'_c · omega · d + T_rest + N_u, 0) / (phi · f_y)",
                     (phi, f_c, omega, depth, rest, force, f_y), area),
            ]  # fmt: skip
        else:
            steps.append(Step("Steel for strength", f"{BLOCK}, {PHI}", "A_s = max(phi · 0.85 · f'_c · omega · d + N_u, 0) / (phi · f_y)",
                              (phi, f_c, omega, depth, force, f_y), area))  # fmt: skip
        return tuple(steps)


@dataclass(frozen=True, slots=True)
class FlexuralStrength:
    """Flexural strength of tension-controlled slabs."""

    phi: float
    clause: str = f"{BLOCK}, {PHI}"

    def strengths(self, concrete: Concrete, rebar: Rebar) -> tuple[float, float, float]:
        """phi 0.85 f'_c, phi f_y, and a/d of a tension-controlled section."""
        block_limit = beta_1(concrete.strength_MPa) * controlled(rebar)
        return self.phi * 850 * concrete.strength_MPa, self.phi * 1e3 * rebar.yield_MPa, block_limit

    def design(self, m: Array, n: Array, sections: Sections) -> FlexuralSteel:
        """Steel for moments about the tension steel ``m`` (k,) kNm/m with axial tension ``n`` (k,) kN/m.

        :func:`piastra.core.standards.block.block_steel` with phi 0.85 f'_c and phi f_y. Beyond the greatest moment of a
        tension-controlled section the tension is told as if a couple of steel took it, and ``over`` says that none may.
        """
        s = sections
        fc, fy, block_limit = self.strengths(s.concrete, s.rebar)
        found = block_steel(m, n, s.d, s.d2, fc, block_limit)
        nothing = np.zeros_like(found.tension)
        return FlexuralSteel(self, s, m, n, found.mu, found.mu_limit, found.omega, found.couple, found.tension / fy, nothing)

    def slopes(self, sections: Sections) -> Slopes:
        """How the tension grows with the moment."""
        return block_slopes(sections.d, sections.d2, self.strengths(sections.concrete, sections.rebar)[2])
