"""Punching zones before anything loads them."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zone_places import OverZones, Spread, ZonePlace, bare_places, over_zones, spread_over, zone_places
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.standards import standard_named


def _axes(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", slabs=("bar_angle_deg",))


def _mats(floor: Floor) -> Floor:
    return only(floor, mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm"))


def _spread(floor: Floor, made: Made[Spread | None]) -> Spread | None:
    rules = standard_named(floor.standard, floor.parameters).punching
    return None if rules is None else spread_over(floor, rules, made[PLAN].region, made[ZONE_OUTLINES].outlines)


def _over(floor: Floor, made: Made[OverZones | None]) -> OverZones | None:
    spread = made[OVER_ZONES]
    return None if spread is None else over_zones(floor, spread)


def _inputs(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", "zone_settings", concretes=ALL, slabs=("concrete",))


def _without_bars(floor: Floor, made: Made[tuple[ZonePlace, ...]]) -> tuple[ZonePlace, ...]:
    rules = standard_named(floor.standard, floor.parameters).punching
    return () if rules is None else bare_places(floor, rules, made[ZONE_OUTLINES].outlines)


def _make(floor: Floor, made: Made[tuple[ZonePlace, ...]]) -> tuple[ZonePlace, ...]:
    rules, over = standard_named(floor.standard, floor.parameters).punching, made[MATS_OVER_ZONES]
    if rules is None or over is None:
        return ()
    return zone_places(floor, rules, made[BARE_ZONES], over, made[BAR_GROUPS])


OVER_ZONES = Stage("places over zones", _axes, _spread, (PLAN, ZONE_OUTLINES))
MATS_OVER_ZONES = Stage("mats over zones", _mats, _over, (OVER_ZONES,))
BARE_ZONES = Stage("bare zones", _inputs, _without_bars, (ZONE_OUTLINES,))
"""Without bars, which are known last of all: what follows from outlines alone takes the longest, and is found while the floor is being solved."""
ZONE_PLACES = Stage("zone places", _inputs, _make, (BARE_ZONES, MATS_OVER_ZONES, BAR_GROUPS))
