"""Perimeters of punching zones, with what they enclose."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zone_places import Outlines, outlines
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.column_bars import COLUMN_BARS, PRESSING
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", slabs=("thickness_m", "outline", "concrete"), supports=ALL,
        thickenings=("id", "outline", "thickness_m", "priority"), openings=("id", "outline"), beams=("id", "line", "width_m", "depth_m"), concretes=ALL,
    )  # fmt: skip


def _make(floor: Floor, made: Made[Outlines]) -> Outlines:
    rules = standard_named(floor.standard, floor.parameters).punching
    if rules is None:
        return Outlines((), (), ())
    meshed, plan, sections = made[MESH], made[PLAN], made[SECTIONS]
    return outlines(
        floor, rules, plan, meshed.elements, plan.slab[meshed.face], sections.h[meshed.face], made[PRESSING], made[COLUMN_BARS],
        sections.weight[meshed.face], meshed.area
    )  # fmt: skip


ZONE_OUTLINES = Stage("zone outlines", _inputs, _make, (PRESSING, COLUMN_BARS, MESH, PLAN, SECTIONS))
