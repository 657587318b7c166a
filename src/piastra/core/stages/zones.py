"""Punching zones under their governing combination and arrangement."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zones import Response, Zones, zones
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import PLAIN_FORCES
from piastra.core.stages.given_loads import loading
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.tendons import TENDON_FORCES, TENDONS
from piastra.core.stages.view import ALL, only
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
    system, solution = made[STIFFNESS].system, made[SOLUTIONS].solution
    laid, tendons = made[TENDONS], made[TENDON_FORCES]
    response = Response(
        made[LOADS],
        system.held.labels,
        solution.reactions,
        system,
        solution.u,
        made[STIFFNESS].kept,
        made[PLAIN_FORCES].at_places,
        made[MESH].elements,
        (laid.curves, tendons.in_the_end) if laid is not None and tendons is not None else None,
    )
    found = zones(floor, situations, made[ZONE_PLACES], response)
    outlines = made[ZONE_OUTLINES]
    return Zones(found.zones, (*outlines.without, *found.without), (*outlines.messages, *found.messages))


def _inputs(floor: Floor) -> Floor:
    seen = loading(floor)
    seen.__dict__.update(
        only(floor, "standard", "parameters", "construction", "zone_settings", "design_rails", supports=ALL).__dict__
    )
    return seen


ZONES = Stage(
    "zones",
    _inputs,
    _make,
    (ZONE_OUTLINES, ZONE_PLACES, LOADS, SOLUTIONS, STIFFNESS, PLAIN_FORCES, MESH, FACTORS, TENDONS, TENDON_FORCES),
)
