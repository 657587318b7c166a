"""Punching zones under their governing combination and arrangement."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zones import Zones, zones
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.tendons import TENDON_FORCES, TENDONS
from piastra.core.stages.view import only
from piastra.core.stages.zone_forces import ZONE_FORCES
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.stages.zone_places import ZONE_PLACES
from piastra.core.standards import standard_named
from piastra.core.standards.protocol import Service
from piastra.core.standards.situations import acting_in


def _make(floor: Floor, made: Made[Zones | None]) -> Zones | None:
    standard = standard_named(floor.standard, floor.parameters, Service(construction=floor.construction))
    situations = acting_in(standard, made[FACTORS])
    if not situations[0].combinations:
        return None
    if standard.punching is None:
        return Zones((), (), ())
    laid, tendons = made[TENDONS], made[TENDON_FORCES]
    carried = (laid.curves, tendons.in_the_end) if laid is not None and tendons is not None else None
    found = zones(
        floor, situations, made[ZONE_PLACES], made[ZONE_FORCES], made[STIFFNESS].system.held.labels, made[LOADS], carried
    )
    outlines = made[ZONE_OUTLINES]
    return Zones(found.zones, (*outlines.without, *found.without), (*outlines.messages, *found.messages))


def _inputs(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", "construction", "zone_settings", "design_rails")


ZONES = Stage(
    "zones", _inputs, _make, (ZONE_OUTLINES, ZONE_PLACES, ZONE_FORCES, LOADS, STIFFNESS, FACTORS, TENDONS, TENDON_FORCES)
)
