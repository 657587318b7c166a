"""Depths of the top bars at columns; other changes of mats leave the zones' geometry as it is."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zone_places import ColumnBars, column_bars
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only


def _inputs(floor: Floor) -> Floor:
    return only(floor, mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm"), columns=("at",))


def _make(floor: Floor, made: Made[ColumnBars]) -> ColumnBars:
    meshed, plan = made[MESH], made[PLAN]
    return column_bars(floor, plan, meshed.elements, plan.slab[meshed.face])


COLUMN_BARS = Stage("column bars", _inputs, _make, (MESH, PLAN), content=lambda found: found)
