"""Flexure with axial force of EN 1992-1-1: 6.1 with the rectangular block of 3.1.7 (3)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.block import Slopes, block_slopes, block_steel
from piastra.core.standards.en1992.materials import Materials
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import Sections
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]

_LIMIT = "EN 1992-1-1, 5.6.3 (2)"
PARAMETERS = (
    Parameter("x_d_limit", "x_lim", "greatest x/d without compression steel, to C50/60", 0.45, _LIMIT, design=True),
    Parameter("x_d_limit_high", "x_lim", "greatest x/d without compression steel, above C50/60", 0.35, _LIMIT, design=True),
)


def block(fck_MPa: float) -> tuple[float, float]:
    """lambda and eta of the rectangular stress block, 3.1.7 (3), (3.19) to (3.22)."""
    excess = max(fck_MPa - 50, 0.0)
    return 0.8 - excess / 400, 1.0 - excess / 200


@dataclass(frozen=True, slots=True)
class FlexuralSteel:
    """Steel of k sections and what led to it: relative moment ``mu``, the
    mechanical ratio ``omega``, the force ``rest`` (kN/m) of a couple of steel beside the block, ``tension`` and
    ``compression`` (m2/m), depth of the neutral axis ``x_d`` and lever arm ``z`` (m)."""

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
    x_d: Array
    z: Array

    @property
    def over(self) -> Array:
        """Nil: what a section cannot carry without, compression steel carries."""
        return np.zeros_like(self.tension)

    def steps(self, i: int) -> tuple[Step, ...]:
        """From the design strengths to A_s."""
        s, known = self.sections, self.rules.materials
        m, n, d, d2 = (float(a[i]) for a in (self.m, self.n, s.d, s.d2))
        f_yd = Value("f_yd", known.f_yd(s.rebar) / 1e3, "stress")
        area = Value("A_s", 1e6 * float(self.tension[i]), "steel_per_m", "for strength, in the stretched face")
        if m <= 0:
            return (
                known.f_yd_step(s.rebar),
                Step("Steel for strength", "EN 1992-1-1, 6.1", "A_s = max(n + m_Ed / (d - d_2), 0) / f_yd",
                     (Value("n", n, "force_per_m", "axial force, tension positive"),
                      Value("m_Ed", m, "moment_per_m", "about the tension steel"), Value("d", d, "size", "effective depth"),
                      Value("d_2", d2, "size", "depth of the other face's bars"), f_yd), area,
                     note="No concrete is compressed by this face's steel: the layers of both faces share the axial force by their levers."),
            )  # fmt: skip
        lam, eta = block(s.concrete.strength_MPa)
        fcd = Value("f_cd", known.f_cd(s.concrete) / 1e3, "stress")
        depth = Value("d", d, "size", "effective depth")
        mu, limit = Value("mu", float(self.mu[i])), Value("mu_lim", self.mu_limit)
        omega = Value("omega", float(self.omega[i]))
        rest = Value("m_rest", float(self.rest[i] * max(d - d2, 1e-3)), "moment_per_m", "carried by a couple of steel")
        x_lim = Value("x_lim", self.rules.limit(s.concrete.strength_MPa), meaning="greatest x/d without compression steel")
        steps = [
            known.f_cd_step(s.concrete),
            known.f_yd_step(s.rebar),
            Step("Relative moment", "EN 1992-1-1, 6.1 and 3.1.7 (3)", "mu = m_Ed / (eta · f_cd · d^2)",
                 (Value("m_Ed", m, "moment_per_m", "about the tension steel"), Value("eta", eta), fcd, depth), mu),
            Step("What the concrete carries", _LIMIT, "mu_lim = lambda · x_lim · (1 - lambda · x_lim / 2)",
                 (Value("lambda", lam), x_lim), limit),
            Step("Compressed block", "EN 1992-1-1, 3.1.7 (3)", "omega = 1 - sqrt(1 - 2 · min(mu, mu_lim))", (mu, limit), omega),
        ]  # fmt: skip
        steps.append(
            Step("Neutral axis", "EN 1992-1-1, 3.1.7 (3)", "x = omega · d / lambda", (omega, depth, Value("lambda", lam)),
                 Value("x", float(self.x_d[i]) * d, "size", "from the compressed face"))
        )  # fmt: skip
        more: tuple[Value, ...] = ()
        if self.rest[i] > 0:
            steps += [
                Step("Moment beyond it", "", "m_rest = (mu - mu_lim) · eta · f_cd · d^2", (mu, limit, Value("eta", eta), fcd, depth), rest),
                Step("Compression steel", _LIMIT, "A_s2 = m_rest / ((d - d_2) · f_yd)",
                     (rest, depth, Value("d_2", d2, "size", "depth of the other face's bars"), f_yd),
                     Value("A_s2", 1e6 * float(self.compression[i]), "steel_per_m", "in the compressed face")),
            ]  # fmt: skip
            more = (rest, Value("d_2", d2, "size"))
        force = Value("n", n, "force_per_m", "axial force, tension positive")
        steps.append(
            Step("Steel for strength", "EN 1992-1-1, 6.1",
                 "A_s = max(omega · eta · f_cd · d + m_rest / (d - d_2) + n, 0) / f_yd" if more
                 else "A_s = max(omega · eta · f_cd · d + n, 0) / f_yd",
                 (omega, Value("eta", eta), fcd, depth, *more, force, f_yd), area)
        )  # fmt: skip
        return tuple(steps)


@dataclass(frozen=True, slots=True)
class FlexuralStrength:
    """Flexural strength with steel yielding on a horizontal branch."""

    materials: Materials
    to_c50: float
    above: float
    clause: str = "EN 1992-1-1, 6.1, 3.1.7 (3)"

    def limit(self, fck_MPa: float) -> float:
        """x/d up to which no compression steel is asked for: 5.6.3 (2), as the bound of rotation capacity."""
        return self.to_c50 if fck_MPa <= 50 else self.above

    def design(self, m: Array, n: Array, sections: Sections) -> FlexuralSteel:
        """Steel for moments about the tension steel ``m`` (k,) kNm/m with axial tension ``n`` (k,) kN/m.

        :func:`piastra.core.standards.block.block_steel` with the stress eta f_cd of the block; beyond x/d of 5.6.3 (2) the rest of
        the moment is a couple of steel.
        """
        s = sections
        fc, f_yd, block_limit = self.strengths(s.concrete, s.rebar)
        lam, _ = block(s.concrete.strength_MPa)
        found = block_steel(m, n, s.d, s.d2, fc, block_limit)
        return FlexuralSteel(
            self, s, m, n, found.mu, found.mu_limit, found.omega, found.couple, found.tension / f_yd, found.couple / f_yd,
            found.omega / lam, s.d * (1 - found.omega / 2),
        )  # fmt: skip

    def slopes(self, sections: Sections) -> Slopes:
        """How the tension grows with the moment."""
        return block_slopes(sections.d, sections.d2, self.strengths(sections.concrete, sections.rebar)[2])

    def strengths(self, concrete: Concrete, rebar: Rebar) -> tuple[float, float, float]:
        """eta f_cd, f_yd, and lambda times the greatest x/d."""
        lam, eta = block(concrete.strength_MPa)
        return eta * self.materials.f_cd(concrete), self.materials.f_yd(rebar), lam * self.limit(concrete.strength_MPa)
