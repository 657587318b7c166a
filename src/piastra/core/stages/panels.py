"""Panels of pattern load: drawn, or derived from the lines of supports."""

from __future__ import annotations

import shapely
from shapely.geometry import Polygon

from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.panels import derive_panels
from piastra.core.model import Floor
from piastra.core.stages.axes import AXES
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only

Panels = tuple[tuple[str, Polygon], ...]


def _inputs(floor: Floor) -> tuple[Floor, bool]:
    return only(floor, panels=ALL, slabs=("id", "outline")), any(c.pattern for c in floor.load_cases)


def _make(given: tuple[Floor, bool], made: Made[Panels]) -> Panels:
    floor, patterned = given
    if not patterned:
        return ()
    if floor.panels:
        return tuple((p.id, polygon(p.outline)) for p in floor.panels)
    region = shapely.unary_union(made[PLAN].parts.polygons)
    axes = made[AXES]
    both = (*axes.along, *axes.across)
    if any(a.from_supports for a in both):
        return tuple((f"P{k + 1}", p) for k, p in enumerate(derive_panels(region, both)))
    return tuple((s.id, polygon(s.outline)) for s in floor.slabs)


PANELS = Stage("panels", _inputs, _make, (PLAN, AXES), content=lambda found: found)
