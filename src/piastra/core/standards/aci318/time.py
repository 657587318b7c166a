"""Long-term deflection for ACI 318-19: an effective modulus with the creep coefficient that is given."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.model.materials import Concrete
from piastra.core.trace import Step, Value


@dataclass(frozen=True, slots=True)
class EffectiveModulus:
    """E_c,eff = E_c / (1 + phi); 24.2.4.1.1 admits a more comprehensive analysis than its multiplier."""

    limit_clause: str = "span limit given by the user"

    def effective(self, E: float, creep: float) -> float:
        """kN/m2."""
        return E / (1 + creep)

    def steps(self, concrete: Concrete, E: float) -> tuple[Step, ...]:
        """19.2.2.1 (b) and the effective modulus for one concrete whose modulus is ``E`` kN/m2."""
        E_c, phi = (
            Value("E_c", E / 1e3, "stress"),
            Value("phi", concrete.creep_coefficient, meaning="final creep coefficient, given"),
        )
        own = concrete.E_MPa is not None
        modulus = Step(
            f"Modulus of {concrete.id}", "given" if own else "ACI 318-19, 19.2.2.1 (b)", "" if own else "E_c = 4700 · sqrt(f'_c)",
            () if own else (Value("f'_c", concrete.strength_MPa, "stress"),), E_c, empirical=not own,
        )  # fmt: skip
        effective = Value("E_c,eff", self.effective(E, concrete.creep_coefficient) / 1e3, "stress")
        return modulus, Step(
            f"Effective modulus of {concrete.id}", "ACI 318-19, 24.2.4.1.1", "E_c,eff = E_c / (1 + phi)", (E_c, phi), effective
        )  # fmt: skip
