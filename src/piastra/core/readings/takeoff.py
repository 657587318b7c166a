"""What a floor is made of: concrete, bars, strands, and the carbon of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from piastra.core.bars.schedule import Scheduled
from piastra.core.model.tendons import Strand
from piastra.core.pipeline import Outcome

STEEL = 7850.0
"""Kilograms a cubic metre (EN 1992-1-1 3.2.7 (3))."""


@dataclass(frozen=True, slots=True)
class Takeoff:
    """Quantities of a floor: ``concrete`` m3 of its slabs, thickenings and beams, what columns and walls are made of apart; masses of its ``bars`` and
    ``strands``, kg; ``carbon``, kg of CO2 by the floor's factors."""

    concrete: float
    bars: float
    strands: float
    carbon: float


def strand_mass(strand: Strand, count: int) -> float:
    """Kilograms a metre of ``count`` strands: by their own figure, else by their area."""
    each = strand.mass_kg_m if strand.mass_kg_m is not None else strand.area_mm2 * 1e-6 * STEEL
    return each * count


def takeoff(outcome: Outcome, schedule: Sequence[Scheduled]) -> Takeoff:
    """What a computed floor takes, with all its bars in a ``schedule``."""
    concrete = float((outcome.body.h * outcome.meshed.mesh.areas).sum())
    bars = float(sum(b.mass for b in schedule))
    kinds = {s.id: s for s in outcome.floor.strands}
    curves = outcome.tendons.curves if outcome.tendons is not None else ()
    strands = float(
        sum(
            strand_mass(kinds[t.strand], t.count) * float(c.along()[-1])
            for t, c in zip(outcome.floor.tendons, curves, strict=False)
        )
    )
    factors = outcome.floor.carbon
    return Takeoff(concrete, bars, strands, concrete * factors.concrete_kg_m3 + (bars + strands) * factors.steel_kg_per_kg)
