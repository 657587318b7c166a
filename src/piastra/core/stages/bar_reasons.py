"""Why groups of bars are there: found once the first verdict is told, as nothing follows from it."""

from __future__ import annotations

from piastra.core.bars.needed import explained, given_by
from piastra.core.bars.shortfalls import with_shortfalls
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.mats import MATS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.steel import STEEL, inputs, site_of
from piastra.core.stages.strips import STRIPS


def _make(floor: Floor, made: Made[tuple[Group, ...]]) -> tuple[Group, ...]:
    steel = made[STEEL]
    if steel.stations is None or not steel.groups:
        return steel.groups
    site = site_of(floor, made)
    gives = given_by(site, steel.stations, steel.groups)
    return tuple(with_shortfalls(site, steel.stations, explained(site, steel.stations, steel.groups, gives), gives))


BAR_REASONS = Stage("bar reasons", inputs, _make, (STEEL, STRIPS, FACTORS, PLAN, MESH, MATS))
"""The groups, each with the stations that would fall short without it, and what those that are kept leave over."""
