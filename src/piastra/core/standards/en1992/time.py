"""Long-term deflection of EN 1992-1-1: 7.4.3 (5), uncracked."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.model.materials import Concrete
from piastra.core.standards.en1992.materials import Materials
from piastra.core.trace import Step, Value

CLAUSE = "EN 1992-1-1, 7.4.3 (5) (7.20)"


@dataclass(frozen=True, slots=True)
class EffectiveModulus:
    """E_c,eff = E_cm / (1 + phi)."""

    materials: Materials
    limit_clause: str = "EN 1992-1-1, 7.4.1 (4)"

    def effective(self, E: float, creep: float) -> float:
        """(7.20), kN/m2."""
        return E / (1 + creep)

    def steps(self, concrete: Concrete, E: float) -> tuple[Step, ...]:
        """Table 3.1 and (7.20) for one concrete whose modulus is ``E`` kN/m2."""
        E_cm, phi = (
            Value("E_cm", E / 1e3, "stress"),
            Value("phi", concrete.creep_coefficient, meaning="final creep coefficient, given"),
        )
        own = concrete.E_MPa is not None
        modulus = Step(
            f"Modulus of {concrete.id}", "given" if own else "EN 1992-1-1, table 3.1", "" if own else "E_cm = 22000 · ((f_ck + 8) / 10)^0.3",
            () if own else (Value("f_ck", concrete.strength_MPa, "stress"),), E_cm, empirical=not own,
        )  # fmt: skip
        effective = Value("E_c,eff", self.effective(E, concrete.creep_coefficient) / 1e3, "stress")
        return modulus, Step(f"Effective modulus of {concrete.id}", CLAUSE, "E_c,eff = E_cm / (1 + phi)", (E_cm, phi), effective)
