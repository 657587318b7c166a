"""What the design asks of a standard. Stresses in kN/m2, lengths in m, forces in kN, a metre of width."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class ConcreteValues:
    """Values of a concrete: ``fck``, ``fcd``, ``fctm`` and ``Ecm``, kN/m2."""

    fck: float
    fcd: float
    fctm: float
    Ecm: float


@dataclass(frozen=True, slots=True)
class SteelValues:
    """Values of a reinforcing steel: ``fyk`` and ``fyd``, kN/m2."""

    fyk: float
    fyd: float


@dataclass(frozen=True, slots=True)
class Flexure:
    """Required steel (m2 per m): ``tension`` for strength, ``compression`` where the ductility limit asks for it;
    the relative depth ``x_d`` of the neutral axis and the lever arm ``z`` (m)."""

    tension: Array
    compression: Array
    x_d: Array
    z: Array


@dataclass(frozen=True, slots=True)
class PunchingResistance:
    """Stresses in kN/m2: ``v_rd_c`` at the control perimeter, ``v_min`` its floor, ``v_rd_max`` at the face,
    and the intermediate ``k`` (size factor) and ``rho_l``."""

    v_rd_c: float
    v_min: float
    v_rd_max: float
    k: float
    rho_l: float


class Standard(Protocol):
    """A design standard. ``designs`` is false where only its material values are at hand."""

    @property
    def name(self) -> str:
        """As the floor file names it."""
        ...

    @property
    def designs(self) -> bool:
        """Whether the checks are at hand."""
        ...

    @property
    def clauses(self) -> dict[str, str]:
        """Clauses of the steps that traces show."""
        ...

    def concrete(self, strength_MPa: float, E_MPa: float | None) -> ConcreteValues:
        """Material values of a concrete; a given modulus replaces the standard's."""
        ...

    def steel(self, yield_MPa: float) -> SteelValues:
        """Material values of a steel."""
        ...

    def flexure(self, m: Array, n: Array, d: Array, d2: Array, concrete: ConcreteValues, steel: SteelValues) -> Flexure:
        """Steel for a moment about the tension steel ``m`` (kNm/m) with axial tension ``n`` (kN/m), effective
        depth ``d`` and depth ``d2`` (m) of the steel in the compressed face."""
        ...

    def least_steel(self, d: Array, concrete: ConcreteValues, steel: SteelValues) -> Array:
        """Minimum flexural steel, m2 per m."""
        ...

    def punching(self, d: float, rho_x: float, rho_y: float, concrete: ConcreteValues) -> PunchingResistance:
        """Resistance to punching without shear reinforcement; ``d`` the mean effective depth (m)."""
        ...

    def moment_share(self, c1: float, c2: float) -> float:
        """Share of an unbalanced moment carried by shear, for column sides along (c1) and across its lever arm."""
        ...

    def perimeter_distance(self, d: float) -> float:
        """Distance (m) of the control perimeter from the column's face."""
        ...
