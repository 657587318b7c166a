"""Required and given steel at stations and places."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor
from piastra.core.reinforcement.demand import Rules, StationSteel, point_steel, station_steel
from piastra.core.reinforcement.mats import Provided
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import FORCES
from piastra.core.stages.mats import MATS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named


@dataclass(frozen=True, slots=True)
class Steel:
    """Steel at stations, and at every place: ``required`` (4, p) m2/m with what is ``given`` there; None where the
    standard's rules are not at hand or there is no ultimate combination."""

    stations: StationSteel | None
    required: npt.NDArray[np.float64] | None
    given: Provided | None


def _inputs(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", concretes=ALL, rebars=ALL, slabs=("concrete", "rebar", "bar_angle_deg"))


def _make(floor: Floor, made: Made[Steel]) -> Steel:
    standard = standard_named(floor.standard, floor.parameters)
    ultimate = [f for f in made[FACTORS] if f.limit_state == "ultimate"]
    if standard.flexure is None or standard.minimum is None or not ultimate:
        return Steel(None, None, None)
    rules, strips, given = Rules(standard.flexure, standard.minimum), made[STRIPS], made[MATS]
    slab_of = made[PLAN].slab[made[MESH].face]
    stations = station_steel(floor, rules, strips.layout, strips.cuts, slab_of, given.at_stations, ultimate)
    required = point_steel(
        floor, rules, made[STIFFNESS].kept, given.slab, made[FORCES].at_places, given.at_places, ultimate
    )  # fmt: skip
    return Steel(stations, required, given.at_places)


STEEL = Stage("steel", _inputs, _make, (FACTORS, STRIPS, MATS, PLAN, MESH, STIFFNESS, FORCES))
