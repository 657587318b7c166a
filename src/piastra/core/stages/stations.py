"""Strips and their stations."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from piastra.core.model import Floor
from piastra.core.stages.axes import AXES, holding
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import only
from piastra.core.strips.cuts import Cuts, place_cuts
from piastra.core.strips.layout import Layout, make_layout


@dataclass(frozen=True, slots=True)
class Stations:
    """Strips, and the cuts at their stations, still without forces."""

    layout: Layout
    cuts: Cuts


def _inputs(floor: Floor) -> Floor:
    return only(floor, **holding(floor))  # type: ignore[arg-type]


def _make(floor: Floor, made: Made[Stations]) -> Stations:
    plan, axes = made[PLAN], made[AXES]
    layout = make_layout(floor, plan, axes.angle, axes.along, axes.across)
    borders = shapely.STRtree(shapely.linestrings(plan.parts.points[plan.parts.edges]))
    return Stations(layout, place_cuts(layout, made[MESH].elements, made[STIFFNESS].kept, plan.size / 2, borders))


STATIONS = Stage("stations", _inputs, _make, (PLAN, AXES, MESH, STIFFNESS))
