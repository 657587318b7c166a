"""Lines along which one-way shear is looked at, whatever loads and bars there are."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.model import Floor
from piastra.core.reinforcement.mats import ASSUMED_BAR
from piastra.core.shear.places import Lines, lines_of
from piastra.core.shear.shear import Read, read
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only


@dataclass(frozen=True, slots=True)
class ShearLines:
    """The effective ``depth`` m at which shear is looked at, and within which of a column it is punching's, and the ``lines`` at that distance."""

    depth: float
    lines: Lines


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, slabs=("id", "outline", "thickness_m", "cover_top_mm"), walls=("id", "line", "thickness_m", "below"), supports=ALL,
        beams=("id", "line", "width_m"), thickenings=("id", "kind", "outline", "thickness_m"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[ShearLines | None]) -> ShearLines | None:
    if not floor.slabs:
        return None
    # One distance for all lines: the least effective depth, which is nearest to the face and has the most shear.
    depth = max(min(s.thickness_m - s.cover_top_mm / 1e3 - ASSUMED_BAR for s in floor.slabs), 0.05)
    return ShearLines(depth, lines_of(floor, made[PLAN].region, made[PLAN].footprints, depth))


SHEAR_LINES = Stage("shear lines", _inputs, _make, (PLAN,))


def _read(given: None, made: Made[Read | None]) -> Read | None:
    known, plan, meshed = made[SHEAR_LINES], made[PLAN], made[MESH]
    if known is None:
        return None
    return read(known.lines, meshed.elements, made[STIFFNESS].kept, plan.slab[meshed.face], plan.region)


SHEAR_READ = Stage("places along shear lines", lambda floor: None, _read, (SHEAR_LINES, PLAN, MESH, STIFFNESS))
