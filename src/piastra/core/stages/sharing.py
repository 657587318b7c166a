"""What it changes that panels share load vectors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from piastra.core.fe.solution import solve
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.groups import GROUPS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.panels import PANELS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS


@dataclass(frozen=True, slots=True)
class Sharing:
    """Numbers of ``panels`` and of the ``groups`` that share a vector. ``change``: where the load on one panel matters, its
    group's moments and its own differ in the elements' middles by this share of its greatest there; nil where every panel is by itself."""

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
    system = made[STIFFNESS].system
    own = solve(system, vector[..., None]).u
    of_others = made[SOLUTIONS].solution.u[..., [unit]] - own
    both = np.concatenate([own, of_others], axis=2)
    moments, at = [], []
    for family in system.families:
        count, corners = family.nodes.shape
        strain = family.mean @ both[family.nodes].reshape(count, 5 * corners, 2)
        moments.append(family.law[:, 3:6] @ strain)
        at.append(system.mesh.xy[family.nodes].mean(axis=1))
    found, middles = np.concatenate(moments), shapely.points(np.concatenate(at))
    shapes = dict(made[PANELS])
    others = shapely.union_all([shapes[p] for p in loads.units[unit].panels if p != label])
    nearest = shapely.distance(middles, shapes[label]) < shapely.distance(middles, others)
    change = float(np.abs(found[nearest, :, 1]).max() / max(np.abs(found[..., 0]).max(), 1e-12))
    return Sharing(len(shapes), len(groups), change)


SHARING = Stage("sharing", _inputs, _make, (PANELS, GROUPS, LOADS, STIFFNESS, SOLUTIONS))
