"""What it changes that panels share load vectors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from piastra.core.fe.recovery import section_forces
from piastra.core.fe.solution import solve
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.forces import FORCES
from piastra.core.stages.groups import GROUPS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.panels import PANELS
from piastra.core.stages.stiffness import STIFFNESS


@dataclass(frozen=True, slots=True)
class Sharing:
    """Numbers of ``panels`` and of the ``groups`` that share a vector. ``change``: where the load on one panel matters, its
    group's moments and its own differ by this share of its greatest; nil where every panel is by itself."""

    panels: int
    groups: int
    change: float


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Sharing]) -> Sharing:
    loads, groups = made[LOADS], made[GROUPS]
    if loads.apart is None:
        return Sharing(len(made[PANELS]), len(groups), 0.0)
    unit, label, vector = loads.apart
    stiffness = made[STIFFNESS]
    own = section_forces(stiffness.system, stiffness.kept, solve(stiffness.system, vector[..., None]).u)[:, 3:6, 0]
    whole = made[FORCES].at_places[:, 3:6, unit]
    shapes = dict(made[PANELS])
    others = shapely.union_all([shapes[p] for p in loads.units[unit].panels if p != label])
    at = shapely.points(made[MESH].mesh.xy[stiffness.kept.node])
    nearest = shapely.distance(at, shapes[label]) < shapely.distance(at, others)
    change = float(np.abs(whole - own)[nearest].max() / max(np.abs(own).max(), 1e-12))
    return Sharing(len(shapes), len(groups), change)


SHARING = Stage("sharing", _inputs, _make, (PANELS, GROUPS, LOADS, MESH, STIFFNESS, FORCES))
