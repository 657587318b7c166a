"""What presses the floor on small areas, and the depths of the bars there; other changes of mats leave the zones' geometry as it is."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zone_places import Pressing, pressing
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, only


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm"), columns=ALL, walls=ALL, supports=ALL,
        loads=("id", "kind", "support", "F_kN", "at", "patch", "outline"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[Pressing]) -> Pressing:
    meshed, plan = made[MESH], made[PLAN]
    return pressing(floor, plan, meshed.elements, plan.slab[meshed.face], made[SECTIONS].h[meshed.face])


COLUMN_BARS = Stage("column bars", _inputs, _make, (MESH, PLAN, SECTIONS), content=lambda found: found)
