"""The checks of a floor, each with identity; the verdict, the ledger, the meters and the report go over ``CHECKS``."""

from __future__ import annotations

from piastra.core.checks.beams import Beams
from piastra.core.checks.check import Check, Context
from piastra.core.checks.cracks import CrackWidth
from piastra.core.checks.deflection import Deflection
from piastra.core.checks.fire import FireResistance
from piastra.core.checks.flexure import Flexure
from piastra.core.checks.prestress import ConcreteStress, Precompression, TendonSpacing
from piastra.core.checks.punching import Punching
from piastra.core.checks.row import Row
from piastra.core.checks.shear import Shear
from piastra.core.checks.stress_limits import LimitedStress

__all__ = ["CHECKS", "Check", "Context", "Row"]

CHECKS: tuple[Check, ...] = (
    Flexure(),
    Shear(),
    Punching(),
    CrackWidth(),
    LimitedStress(),
    Deflection(),
    Beams(),
    ConcreteStress("transfer_stress", True),
    ConcreteStress("service_stress", False),
    Precompression(),
    TendonSpacing(),
    FireResistance(),
)
