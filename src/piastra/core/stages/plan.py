"""What holds in each face; of thicknesses only their order."""

from __future__ import annotations

from piastra.core.mesh.plan import Plan, Ranks, make_plan, ranks_of
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.linework import LINEWORK
from piastra.core.stages.view import only


def _inputs(floor: Floor) -> tuple[Floor, Ranks]:
    seen = only(
        floor, slabs=("id", "outline", "priority", "top_offset_m"), thickenings=("outline", "priority"),
        beams=("line", "width_m", "priority"), one_way_areas=("outline",), stiffness_areas=("outline",), supports=("kind", "outline"),
    )  # fmt: skip
    return seen, ranks_of(floor)


def _make(given: tuple[Floor, Ranks], made: Made[Plan]) -> Plan:
    floor, ranks = given
    return make_plan(floor, made[LINEWORK], ranks)


PLAN = Stage("plan", _inputs, _make, (LINEWORK,), content=lambda found: found)
