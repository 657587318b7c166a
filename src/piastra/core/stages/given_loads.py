"""Unit load vectors of what is given; cases that tendons make are still empty."""

from __future__ import annotations

from piastra.core.loads.vectors import LoadVectors, load_vectors
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.ground import GROUND
from piastra.core.stages.groups import GROUPS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.panels import PANELS
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, of, only


def loading(floor: Floor) -> Floor:
    """The loads with what gives them their values; natures and categories only as far as self-weight is one."""
    plain = [c.model_copy(update={"nature": "self_weight" if c.nature == "self_weight" else "dead"}) for c in floor.load_cases]
    seen = only(
        floor, loads=ALL, load_materials=ALL, build_ups=ALL, partitions=ALL, occupancies=("id", "q_kPa", "partitions_kPa"),
        columns=("id", "at"), walls=("id", "line"),
    )  # fmt: skip
    seen.__dict__["load_cases"] = of(plain, ("id", "nature", "pattern"))
    return seen


def _make(floor: Floor, made: Made[LoadVectors]) -> LoadVectors:
    weight = made[SECTIONS].weight[made[MESH].face]
    known = made.earlier.shares if made.earlier else None
    return load_vectors(floor, made[GROUND], weight, made[PANELS], made[GROUPS], known)


GIVEN_LOADS = Stage("given loads", loading, _make, (GROUND, MESH, SECTIONS, PANELS, GROUPS), kin=(MESH,))
