"""Punching zones under their governing combination and arrangement."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zones import Zones, zones
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS, loading
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.stages.zone_places import ZONE_PLACES


def _make(floor: Floor, made: Made[Zones | None]) -> Zones | None:
    ultimate = [f for f in made[FACTORS] if f.limit_state == "ultimate"]
    if not ultimate:
        return None
    labels = made[STIFFNESS].system.held.labels
    found = zones(floor, made[ZONE_PLACES], made[LOADS], made[SOLUTIONS].solution.reactions, labels, ultimate)
    outlines = made[ZONE_OUTLINES]
    return Zones(found.zones, (*outlines.without, *found.without), (*outlines.messages, *found.messages))


ZONES = Stage("zones", loading, _make, (ZONE_OUTLINES, ZONE_PLACES, LOADS, SOLUTIONS, STIFFNESS, FACTORS))
