"""Punching zones before anything loads them."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zone_places import ZonePlace, zone_places
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.standards import standard_named


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "zone_settings", mats=ALL, concretes=ALL, slabs=("concrete", "cover_top_mm", "cover_bottom_mm", "bar_angle_deg"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[tuple[ZonePlace, ...]]) -> tuple[ZonePlace, ...]:
    rules = standard_named(floor.standard, floor.parameters).punching
    if rules is None:
        return ()
    return zone_places(floor, rules, made[PLAN].region, made[ZONE_OUTLINES].outlines, made[BAR_GROUPS])


ZONE_PLACES = Stage("zone places", _inputs, _make, (PLAN, ZONE_OUTLINES, BAR_GROUPS))
