"""ACI 318-19 (SI units): the values that the analysis needs. Its design checks are not at hand yet."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NoReturn

import numpy as np
import numpy.typing as npt

from piastra.core.standards.protocol import ConcreteValues, Flexure, PunchingResistance, SteelValues

Array = npt.NDArray[np.float64]


class NotAtHandError(LookupError):
    """The standard's check is not at hand; ask ``designs`` first."""


@dataclass(frozen=True, slots=True)
class Aci318:
    """Material values; ``designs`` is false, so that every check is reported as unchecked."""

    name: str = "ACI 318-19"
    designs: bool = False
    clauses: dict[str, str] = field(default_factory=lambda: {"deflection": "span limit given by the user"})

    def concrete(self, strength_MPa: float, E_MPa: float | None) -> ConcreteValues:
        """19.2.2.1(b): E_c = 4700 sqrt(f'_c) MPa; 19.2.3.1: f_r = 0.62 sqrt(f'_c) MPa."""
        root = float(np.sqrt(strength_MPa))
        E = E_MPa if E_MPa is not None else 4700.0 * root
        return ConcreteValues(1e3 * strength_MPa, 0.85e3 * strength_MPa, 620.0 * root, 1e3 * E)

    def steel(self, yield_MPa: float) -> SteelValues:
        """20.2.2: f_y; strength reduction enters with the design checks."""
        return SteelValues(1e3 * yield_MPa, 1e3 * yield_MPa)

    def _refuse(self) -> NoReturn:
        raise NotAtHandError("ACI 318-19 design is not at hand")

    def flexure(self, m: Array, n: Array, d: Array, d2: Array, concrete: ConcreteValues, steel: SteelValues) -> Flexure:
        """Raises :class:`NotAtHandError`."""
        self._refuse()

    def least_steel(self, d: Array, concrete: ConcreteValues, steel: SteelValues) -> Array:
        """Raises :class:`NotAtHandError`."""
        self._refuse()

    def punching(self, d: float, rho_x: float, rho_y: float, concrete: ConcreteValues) -> PunchingResistance:
        """Raises :class:`NotAtHandError`."""
        self._refuse()

    def moment_share(self, c1: float, c2: float) -> float:
        """Raises :class:`NotAtHandError`."""
        self._refuse()

    def perimeter_distance(self, d: float) -> float:
        """Raises :class:`NotAtHandError`."""
        self._refuse()
