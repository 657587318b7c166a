"""What stations of strips have about them, whatever loads the floor and whatever bars lie there."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polyline
from piastra.core.model import Floor
from piastra.core.reinforcement.derived import About, about
from piastra.core.reinforcement.in_fire import outline_of
from piastra.core.reinforcement.places import Bounds, Where, places_of
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stations import STATIONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of


@dataclass(frozen=True, slots=True)
class AboutStations:
    """What bounds the floor, what stations lie at, and which others they hang on."""

    bounds: Bounds
    where: Where
    about: About


def _holding_edges(floor: Floor) -> BaseGeometry:
    """Lines of walls and supports that hold the floor up, and of beams."""
    lines = [w.line for w in floor.walls if w.below is not None]
    lines += [s.line for s in floor.supports if s.kind == "line" and s.vertical not in ("free", 0.0)]
    return shapely.union_all([shapely.LineString(polyline(l)) for l in (*lines, *(b.line for b in floor.beams))])


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "fire", slabs=("id", "outline"),
        one_way_areas=("outline", "angle_deg"), columns=("id", "at", "below"),
        beams=("line", "width_m"), walls=("id", "top", "line", "below"), supports=ALL,
    )  # fmt: skip


def _make(floor: Floor, made: Made[AboutStations]) -> AboutStations:
    plan, standard = made[PLAN], standard_of(floor)
    layout, cuts = made[STATIONS].layout, made[STATIONS].cuts
    footprints = {c.id: p for c, p in zip(floor.columns, plan.footprints, strict=True) if not p.is_empty}
    bounds = Bounds(footprints, outline_of(plan.region), _holding_edges(floor))
    where = places_of(floor, standard, layout, cuts, bounds)
    return AboutStations(bounds, where, about(floor, standard, layout, cuts, bounds, where))


ABOUT_STATIONS = Stage("about stations", _inputs, _make, (PLAN, STATIONS))
