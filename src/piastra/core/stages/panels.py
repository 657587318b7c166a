"""Panels of pattern load: drawn, or derived from the lines of supports."""

from __future__ import annotations

import numpy as np
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
    parts = made[AXES]
    lines = [(*part.along, *part.across) for part in parts]
    lined = [any(a.from_supports for a in both) for both in lines]
    if not any(lined):
        return tuple((s.id, polygon(s.outline)) for s in floor.slabs)
    pieces = shapely.get_parts(region)
    at = shapely.point_on_surface(pieces)
    of = np.argmin([shapely.distance(part.region, at) for part in parts], axis=0)
    derived: list[Polygon] = []
    for k, both in enumerate(lines):
        own = pieces[of == k]
        # A part that stands on no lines of supports is one panel.
        derived += derive_panels(shapely.unary_union(own), both) if lined[k] and len(own) else list(own)
    return tuple((f"P{k + 1}", p) for k, p in enumerate(derived))


PANELS = Stage("panels", _inputs, _make, (PLAN, AXES), content=lambda found: found)
