"""Strips and their stations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.strips.cuts import Cuts, place_cuts, with_sections
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Stations:
    """Strips, and the cuts at their stations, still without forces; ``more`` (k, 2) m are points that were asked for besides, and ``of``
    the places of elements' corners that the cuts are sampled from."""

    layout: Layout
    cuts: Cuts
    more: Array
    of: Ints


def _inputs(floor: Floor) -> list[tuple[float, float]]:
    return [(s.at[0], s.at[1]) for s in floor.strip_stations]


def _make(given: list[tuple[float, float]], made: Made[Stations]) -> Stations:
    plan, layout, kept, last = made[PLAN], made[LAYOUT], made[STIFFNESS].kept, made.earlier
    more = np.array(given, dtype=np.float64).reshape(-1, 2)
    # Other sections at the same places: the cuts stand where they stood.
    if last is not None and last.of is kept.of and np.array_equal(last.more, more):
        return Stations(layout, with_sections(last.cuts, kept), more, kept.of)
    borders = shapely.STRtree(shapely.linestrings(plan.parts.points[plan.parts.edges]))
    return Stations(layout, place_cuts(layout, made[MESH].elements, kept, plan.size / 2, borders, more), more, kept.of)


STATIONS = Stage("stations", _inputs, _make, (PLAN, LAYOUT, MESH, STIFFNESS), kin=(PLAN, LAYOUT, MESH))
