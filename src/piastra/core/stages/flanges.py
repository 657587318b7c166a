"""Shear between flanges and webs of beams."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.beams.flanges import FlangeUse, flange_uses
from piastra.core.mesh.locate import find, weights
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Spots, extra_at
from piastra.core.reinforcement.mats import mats_of, provided
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.beams import BEAMS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.point_steel import STEEL_READ
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of

Array = npt.NDArray[np.float64]


def _inputs(floor: Floor) -> Floor:
    return only(
        floor,
        "standard",
        "parameters",
        "exposure",
        "crack_width_limit_mm",
        "construction",
        rebars=ALL,
        mats=ALL,
        slabs=ALL,
        beams=("id",),
    )


def _make(floor: Floor, made: Made[tuple[FlangeUse, ...] | None]) -> tuple[FlangeUse, ...] | None:
    standard, design = standard_of(floor), made[BEAMS]
    if standard.beams is None or standard.beams.joint is None or design is None:
        return None
    plan, meshed, kept = made[PLAN], made[MESH], made[STIFFNESS].kept
    steel, slab_of = made[STEEL_READ], plan.slab[meshed.face]
    turned = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))

    def bars(xy: Array, angle: Array) -> tuple[Array, Array]:
        element = find(meshed.elements, xy, within=2e-3)
        on = element >= 0
        slab = slab_of[np.maximum(element, 0)]
        mats = provided(mats_of(floor), xy, slab).area
        turn = angle - turned[slab]
        along = np.stack([np.cos(turn) ** 2, np.sin(turn) ** 2])
        laid = (along[None] * mats.reshape(2, 2, -1)).sum(axis=1) + extra_at(made[BAR_GROUPS], Spots(xy, plan.region), angle).area
        bent = np.zeros(len(xy))
        if steel is not None:
            share = weights(meshed.elements, np.maximum(element, 0), xy)
            asked = (steel.required[:, kept.of[np.maximum(element, 0)]] * share).sum(axis=2)
            bent = (along[None] * asked.reshape(2, 2, -1)).sum(axis=1).max(axis=0)
        # Where there is no flange to this side, nothing has to be joined.
        return np.where(on, laid.sum(axis=0), np.inf), np.where(on, bent, 0.0)

    worst: dict[int, FlangeUse] = {}
    for a in design.situations:
        for use in flange_uses(a, made[STRIPS].cuts, design, bars, made[LOADS].units):
            if use.strip not in worst or worst[use.strip].utilisation < use.utilisation:
                worst[use.strip] = use
    return tuple(worst.values())


FLANGES = Stage("flanges", _inputs, _make, (LOADS, STRIPS, STEEL_READ, BAR_GROUPS, BEAMS, PLAN, MESH, STIFFNESS))
