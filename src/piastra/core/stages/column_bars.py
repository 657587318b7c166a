"""What presses the floor on small areas, and the depths of the bars there; other changes of mats leave the zones' geometry as it is."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor
from piastra.core.punching.zone_places import Pressing, depths_of, pressing
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, only


def _pressing_inputs(floor: Floor) -> Floor:
    return only(
        floor, slabs=("cover_top_mm",), columns=ALL, walls=ALL, supports=ALL,
        loads=("id", "kind", "support", "F_kN", "at", "patch", "outline"),
    )  # fmt: skip


def _press(floor: Floor, made: Made[Pressing]) -> Pressing:
    meshed, plan = made[MESH], made[PLAN]
    return pressing(floor, plan, meshed.elements, plan.slab[meshed.face], made[SECTIONS].h[meshed.face])


PRESSING = Stage("what presses", _pressing_inputs, _press, (MESH, PLAN, SECTIONS), content=lambda found: found)


def _inputs(floor: Floor) -> Floor:
    return only(floor, mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm"))


def _make(floor: Floor, made: Made[npt.NDArray[np.float64]]) -> npt.NDArray[np.float64]:
    return depths_of(floor, made[PRESSING], made[PLAN].slab[made[MESH].face])


COLUMN_BARS = Stage("column bars", _inputs, _make, (PRESSING, MESH, PLAN), content=lambda depth: depth)
