"""What loads fall on."""

from __future__ import annotations

import numpy as np
import shapely

from piastra.core.loads.integrate import element_weights
from piastra.core.loads.vectors import Ground
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN


def _inputs(floor: Floor) -> tuple[str, ...]:
    return tuple(s.id for s in floor.slabs)


def _make(slabs: tuple[str, ...], made: Made[Ground]) -> Ground:
    meshed, plan = made[MESH], made[PLAN]
    polygons = np.array(plan.parts.polygons, dtype=object)
    areas = {label: shapely.unary_union(polygons[plan.slab == k]) for k, label in enumerate(slabs)}
    return Ground(meshed.elements, element_weights(meshed.elements), meshed.area, areas, tuple(meshed.mesh.footprints))


GROUND = Stage("ground", _inputs, _make, (MESH, PLAN))
