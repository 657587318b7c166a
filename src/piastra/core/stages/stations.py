"""Strips and their stations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.strips.cuts import Cuts, place_cuts
from piastra.core.strips.layout import Layout


@dataclass(frozen=True, slots=True)
class Stations:
    """Strips, and the cuts at their stations, still without forces."""

    layout: Layout
    cuts: Cuts


def _inputs(floor: Floor) -> list[tuple[float, float]]:
    return [(s.at[0], s.at[1]) for s in floor.strip_stations]


def _make(given: list[tuple[float, float]], made: Made[Stations]) -> Stations:
    plan, layout = made[PLAN], made[LAYOUT]
    borders = shapely.STRtree(shapely.linestrings(plan.parts.points[plan.parts.edges]))
    more = np.array(given, dtype=np.float64).reshape(-1, 2)
    return Stations(layout, place_cuts(layout, made[MESH].elements, made[STIFFNESS].kept, plan.size / 2, borders, more))


STATIONS = Stage("stations", _inputs, _make, (PLAN, LAYOUT, MESH, STIFFNESS))
