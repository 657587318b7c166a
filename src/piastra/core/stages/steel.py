"""Required and given steel at stations and places."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors
from piastra.core.model import Floor
from piastra.core.reinforcement.mats import Provided
from piastra.core.reinforcement.points import point_steel
from piastra.core.reinforcement.stations import Joints, StationSteel, station_steel
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import FORCES
from piastra.core.stages.mats import MATS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import Standard, standard_of


@dataclass(frozen=True, slots=True)
class Steel:
    """Steel at stations, and at every place: ``required`` (4, p) m2/m with what is ``given`` there; None where the
    standard's rules are not at hand or there is no ultimate combination."""

    stations: StationSteel | None
    required: npt.NDArray[np.float64] | None
    given: Provided | None


def in_service(standard: Standard, factors: Sequence[Factors]) -> list[Factors]:
    """Combinations under which cracks are checked."""
    states = standard.cracking.limit_states if standard.cracking is not None else ()
    return [f for f in factors if f.limit_state in states]


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", concretes=ALL, rebars=ALL,
        slabs=("concrete", "rebar", "bar_angle_deg"), one_way_areas=("outline", "angle_deg"), columns=("id",), walls=("id", "top"), supports=ALL,
    )  # fmt: skip


def _make(floor: Floor, made: Made[Steel]) -> Steel:
    standard, factors = standard_of(floor), made[FACTORS]
    ultimate = [f for f in factors if f.limit_state == "ultimate"]
    if standard.flexure is None or standard.minimum is None or not ultimate or not floor.slabs:
        return Steel(None, None, None)
    strips, given, plan = made[STRIPS], made[MATS], made[PLAN]
    footprints = {c.id: p for c, p in zip(floor.columns, plan.footprints, strict=True) if not p.is_empty}
    joints = Joints(made[STIFFNESS].system.held.labels, made[SOLUTIONS].solution.reactions, footprints)
    stations = station_steel(
        floor, standard, strips.layout, strips.cuts, plan.slab[made[MESH].face], given.at_stations, ultimate, in_service(standard, factors),
        joints,
    )  # fmt: skip
    required = point_steel(
        floor, standard, made[STIFFNESS].kept, given.slab, made[FORCES].at_places, given.at_places, ultimate
    )  # fmt: skip
    return Steel(stations, required, given.at_places)


STEEL = Stage("steel", _inputs, _make, (FACTORS, STRIPS, MATS, PLAN, MESH, STIFFNESS, SOLUTIONS, FORCES))
