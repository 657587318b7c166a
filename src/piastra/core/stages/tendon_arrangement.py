"""How tendons are spread, where the standard has rules for that."""

from __future__ import annotations

import numpy as np
import shapely

from piastra.core.mesh.locate import middles
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.steel import STEEL
from piastra.core.stages.tendons import TENDONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named
from piastra.core.tendons.arrangement import Arrangement, strands_over, widest


def _inputs(floor: Floor) -> Floor | None:
    if not floor.tendons:
        return None
    return only(
        floor, "standard", "parameters", strands=ALL, tendons=("id", "strand", "count"), columns=("id",), slabs=("bar_angle_deg",)
    )


def _make(floor: Floor | None, made: Made[Arrangement | None]) -> Arrangement | None:
    laid, meshed, plan = made[TENDONS], made[MESH], made[PLAN]
    prestress = standard_named(floor.standard, floor.parameters).prestress if floor is not None else None
    rules = prestress.arrangement if prestress is not None else None
    if floor is None or laid is None or rules is None:
        return None
    large = {s.id for s in floor.strands if s.area_mm2 >= rules.least_area}
    counts = [t.count if t.strand in large else 0 for t in floor.tendons]
    number = {c.id: k for k, c in enumerate(floor.columns)}
    through = made[STEEL].through
    footprints = [plan.footprints[number[t.column]] for t in through]
    strands = strands_over(footprints, np.array([t.angle for t in through]), rules.inset, laid.curves, counts)
    tree = shapely.STRtree(meshed.elements.shapes)
    over = [tree.query(f, predicate="intersects") for f in footprints]
    thickness = np.array([made[SECTIONS].h[meshed.face[k]].max() for k in over])
    slab = plan.slab[meshed.face]
    h = made[SECTIONS].h[meshed.face]
    angles = np.radians([s.bar_angle_deg for s in floor.slabs])
    xy = middles(meshed.elements)
    runs_in = np.unique(slab[laid.threads.element])
    spread = widest(xy, slab, h, rules.greatest_spacing(h), angles, plan.region, laid.curves, [int(k) for k in runs_in])
    return Arrangement(strands, thickness, spread)


TENDON_ARRANGEMENT = Stage("tendon arrangement", _inputs, _make, (TENDONS, MESH, PLAN, SECTIONS, STEEL))
