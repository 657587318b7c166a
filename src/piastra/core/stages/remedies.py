"""What would mend zones that fail in punching, or nearly."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from piastra.core.model import Floor
from piastra.core.punching.remedies import Bench, remedies
from piastra.core.punching.zone_places import Site, solid_of
from piastra.core.remedies.remedy import Remedy
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.column_bars import COLUMN_BARS
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zones import ZONES
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in

Found = Mapping[str, tuple[Remedy, ...]]


def _inputs(floor: Floor) -> Floor:
    # Remedies are edits of the floor: they carry whole objects of it.
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "design_rails", "zone_settings", "bar_sizes_mm", "spacings_mm",
        "carbon", "costs", concretes=ALL, rebars=ALL, slabs=ALL, thickenings=ALL, openings=ALL, columns=ALL, mats=ALL, designed_bars=ALL,
        load_cases=("id", "nature"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[Found]) -> Found:
    standard, zones = standard_of(floor), made[ZONES]
    if standard.punching is None or zones is None:
        return {}
    meshed, plan = made[MESH], made[PLAN]
    solid, openings = solid_of(floor, plan.region)
    site = Site(
        floor,
        standard.punching,
        meshed.elements,
        plan.slab[meshed.face],
        made[SECTIONS].h[meshed.face],
        solid,
        openings,
        made[COLUMN_BARS].holding,
    )
    benches: dict[str, Bench] = {}
    for a in acting_in(standard, made[FACTORS]):
        rules = a.standard.punching
        # Remedies carry objects of the floor, which must not be those of young concrete: under construction it is load or age that mends.
        if rules is not None and (a.situation is None or a.situation.name != "construction"):
            benches[a.situation.name if a.situation else ""] = Bench(
                floor, a.standard, rules, replace(site, rules=rules), made[COLUMN_BARS], made[BAR_GROUPS], plan.region, a.combinations, made[LOADS]
            )  # fmt: skip
    return remedies(benches, zones.zones)


REMEDIES = Stage("remedies", _inputs, _make, (MESH, PLAN, SECTIONS, COLUMN_BARS, BAR_GROUPS, FACTORS, LOADS, ZONES))
