"""Required and given steel at stations."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.bars.choices import choices_of
from piastra.core.bars.design import Site, apart, asked_of, design, design_bands, design_through, marked, rows_of
from piastra.core.bars.needed import joined, pruned
from piastra.core.bars.propose import propose
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group, extra_at, groups_of
from piastra.core.reinforcement.places import Joints
from piastra.core.reinforcement.stations import StationDesign, StationSteel, Tried
from piastra.core.reinforcement.through import Columns, Through
from piastra.core.stages.about_stations import ABOUT_STATIONS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.columns_met import COLUMNS_MET
from piastra.core.stages.factors import FACTORS, in_service
from piastra.core.stages.mats import MATS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.tendon_stations import TENDON_STATIONS
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in


@dataclass(frozen=True, slots=True)
class Steel:
    """Steel at stations; None where the standard's rules are not at hand or there is no ultimate combination. ``groups`` of bars beside the mats, but
    for the stations that they are there for; ``mats_alone`` (2, c) m2/m is what mats give at stations, ``through`` the bottom bars in columns."""

    stations: StationSteel | None
    groups: tuple[Group, ...] = ()
    mats_alone: npt.NDArray[np.float64] | None = None
    through: tuple[Through, ...] = ()
    tried: Tried | None = None
    """What another way of laying bars may take from here,"""
    tried_on: Floor | None = None
    """on a floor like this."""


TWICE = 2.0
"""No more than so many times what is missing is laid."""
ROUNDS = 4
"""Design is repeated so often at most: bars lie at other depths than those that it began with."""


_RULED = ("standard", "parameters", "exposure", "crack_width_limit_mm", "construction")
"""What the provisions hang on."""


def inputs(floor: Floor) -> Floor:
    """What is read of the floor."""
    return only(
        floor, *_RULED, "design_bars", "bar_sizes_mm", "spacings_mm", "extra_in_spans_pct",
        concretes=ALL, rebars=ALL, slabs=ALL, columns=("id", "at", "below"), designed_bars=ALL, mats=ALL,
    )  # fmt: skip


def site_of(floor: Floor, made: Made[Any]) -> Site:
    """Where bars are laid: from what this stage needs, and what those need too that say why bars are there."""
    standard, cuts, plan = standard_of(floor), made[STRIPS].cuts, made[PLAN]
    layout, situations = made[STRIPS].layout, acting_in(standard, made[FACTORS])
    first = np.searchsorted(cuts.samples.cut, np.arange(len(cuts.strip)))
    slab = plan.slab[made[MESH].face][cuts.samples.element[first]]
    return Site(floor, standard, plan.region, layout, cuts, slab, choices_of(floor), made[MATS].samples, rows_of(layout, cuts),
                {a.situation.name if a.situation else "": tuple(f.combination for f in a.combinations) for a in situations})  # fmt: skip


def _make(floor: Floor, made: Made[Steel]) -> Steel:
    standard, factors = standard_of(floor), made[FACTORS]
    situations = acting_in(standard, factors)
    if standard.flexure is None or standard.minimum is None or not situations[0].combinations or not floor.slabs:
        return Steel(None)
    strips, given, plan = made[STRIPS], made[MATS], made[PLAN]
    layout, cuts = strips.layout, strips.cuts
    slab_of = plan.slab[made[MESH].face]
    joints, around = Joints(
        made[STIFFNESS].system.held.labels, made[SOLUTIONS].solution.reactions,
        {o.source.id: (o.perimeter.length, sum(o.depths) / 2, o.perimeter.edges) for o in made[ZONE_OUTLINES].outlines
         if o.source.list == "columns" and o.around == "column"},
    ), made[ABOUT_STATIONS]  # fmt: skip
    spots, angle = given.samples, cuts.angle[cuts.samples.cut]
    last, like = made.earlier, only(floor, *_RULED, concretes=ALL, rebars=ALL, slabs=ALL)
    at_stations = StationDesign(
        floor, standard, layout, cuts, slab_of, given.at_stations, situations, in_service(standard, factors), around.bounds, joints, around.where,
        around.about, made[TENDON_STATIONS], last.tried if last is not None and last.tried_on == like else None,
    )  # fmt: skip

    def with_groups(groups: Sequence[Group]) -> StationSteel:
        return at_stations.steel(extra_at(groups, spots, angle))

    columns = made[COLUMNS_MET]

    def in_band(groups: Sequence[Group], band: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        return at_stations.in_band(extra_at(groups, spots, angle), band)

    kept = groups_of(floor, standard)
    stations = with_groups(kept)
    alone = stations.provided if not kept else with_groups([]).provided
    groups = kept
    if floor.design_bars:
        groups, stations = _designed(site_of(floor, made), kept, stations, with_groups, in_band, columns)
    through = columns.bars_through(groups) if columns is not None else ()
    return Steel(stations, tuple(groups), alone, through, at_stations.tried, like)


def _designed(
    site: Site,
    kept: Sequence[Group],
    stations: StationSteel,
    with_groups: Callable[[Sequence[Group]], StationSteel],
    in_band: Callable[[Sequence[Group], npt.NDArray[np.float64]], npt.NDArray[np.float64]],
    columns: Columns | None,
) -> tuple[list[Group], StationSteel]:
    """Groups beside the ``kept`` ones, with the steel that follows from them; repeated until every station has enough."""
    mats = propose(site, stations)
    now = with_groups([*kept, *mats]) if mats else stations
    base = now.provided
    rule = site.standard.integrity
    if rule is not None and columns is not None:
        meant = [t for t in columns.bars_through([*kept, *mats]) if t.inside or not rule.inside]
        mats = [*mats, *design_through(site, meant, rule.bars)]
    groups: list[Group] = list(kept)
    taken = {g.mark for g in kept} | {m.id for m in site.floor.mats}
    near, asked, gathered = apart(site, now), asked_of(now), now.faces[1].in_band
    for k in range(ROUNDS):
        # What any round asks for stays: other bars lie at other depths, and demands would go to and fro. Where bars then give less than they
        # should, ending in a corner of the concrete for one, more are asked for.
        asked = np.maximum(asked, asked_of(now) * _fallen(asked_of(now), now.provided, k))
        gathered = np.maximum(gathered, now.faces[1].in_band * _fallen(now.faces[1].in_band, now.in_band[1], k))
        own = [*mats, *design(site, now, asked, base, near)]
        there = in_band([*kept, *own], now.faces[1].at.band)
        groups = [*kept, *marked(joined(site, [*own, *design_bands(site, now, gathered, there)]), taken)]
        now = with_groups(groups)
        if now.steel.max(initial=0.0) <= 1.0:
            break
    fewer = [*kept, *marked(pruned(site, now, groups)[len(kept) :], taken)]
    least = with_groups(fewer)
    # What a station then has less of, others' depths may show: in that case all stays as it was.
    if least.utilisation.max(initial=0.0) <= max(1.0, now.utilisation.max(initial=0.0)):
        groups, now = fewer, least
    return groups, now


def _fallen(asked: npt.NDArray[np.float64], there: npt.NDArray[np.float64], rounds: int) -> npt.NDArray[np.float64]:
    """By how much more has to be asked for where after some rounds less is ``there`` than ``asked`` for."""
    return np.clip(asked / np.maximum(there, 1e-9), 1.0, TWICE if rounds else 1.0)


STEEL = Stage(
    "steel",
    inputs,
    _make,
    (FACTORS, STRIPS, ABOUT_STATIONS, MATS, PLAN, MESH, STIFFNESS, SOLUTIONS, COLUMNS_MET, ZONE_OUTLINES, TENDON_STATIONS),
    kin=(FACTORS, STRIPS, ABOUT_STATIONS, PLAN, MESH, TENDON_STATIONS),
)
