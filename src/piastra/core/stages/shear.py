"""One-way shear along what carries the slab."""

from __future__ import annotations

import numpy as np

from piastra.core.mesh.locate import find
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import extra_at
from piastra.core.reinforcement.mats import ASSUMED_BAR, mats_of, provided
from piastra.core.reinforcement.stations import materials
from piastra.core.shear.places import lines_of
from piastra.core.shear.shear import ShearUse, shear_uses
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import PLAIN_FORCES
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", concretes=ALL, rebars=ALL, mats=ALL, slabs=ALL,
        walls=("id", "line", "thickness_m", "below"), supports=ALL, beams=("id", "line", "width_m"),
        thickenings=("id", "kind", "outline", "thickness_m"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[tuple[ShearUse, ...] | None]) -> tuple[ShearUse, ...] | None:
    standard = standard_of(floor)
    ultimate = [f for f in made[FACTORS] if f.limit_state == "ultimate"]
    if standard.shear is None or not ultimate or not floor.slabs:
        return None
    plan, meshed = made[PLAN], made[MESH]
    # Of the concrete: what tendons carry by their slope it does not, and it has their compression.
    # One distance for all lines: the least effective depth, which is nearest to the face and has the most shear.
    depth = min(s.thickness_m - s.cover_top_mm / 1e3 - ASSUMED_BAR for s in floor.slabs)
    lines = lines_of(floor, plan.region, plan.footprints, max(depth, 0.05))
    slab_of = plan.slab[meshed.face]
    xy = lines.xy.reshape(-1, 2)
    given = provided(mats_of(floor), xy, slab_of[np.maximum(find(meshed.elements, xy, within=2e-3), 0)])
    kind, pairs = materials(floor)
    bars = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))
    return tuple(shear_uses(
        standard.shear, lines, meshed.elements, made[STIFFNESS].kept, made[PLAIN_FORCES].at_places, slab_of, given, bars, kind, pairs, ultimate,
        made[LOADS].units, lambda at, angle: extra_at(made[BAR_GROUPS], at, angle, plan.region).area,
    ))  # fmt: skip


SHEAR = Stage("shear", _inputs, _make, (FACTORS, LOADS, BAR_GROUPS, PLAN, MESH, STIFFNESS, PLAIN_FORCES))
