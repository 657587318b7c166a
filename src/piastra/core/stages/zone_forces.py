"""What presses on punching zones, whatever bars lie there."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.punching.zones import Inside, Pressed, Response, inside_of, pressed
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.forces import PLAIN_FORCES
from piastra.core.stages.given_loads import loading
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zone_outlines import ZONE_OUTLINES


def _lie_inside(floor: Floor, made: Made[Inside]) -> Inside:
    return inside_of(
        floor, made[ZONE_OUTLINES].outlines, made[LOADS], made[MESH].elements, made[STIFFNESS].kept, made.earlier
    )  # fmt: skip


INSIDE_ZONES = Stage(
    "loads inside zones",
    loading,
    _lie_inside,
    (ZONE_OUTLINES, LOADS, STIFFNESS, MESH),
    kin=(ZONE_OUTLINES, STIFFNESS, MESH),
)
"""Needs no solution, and is found while that is on its way."""


def _inputs(floor: Floor) -> Floor:
    seen = loading(floor)
    seen.__dict__.update(only(floor, supports=ALL).__dict__)
    return seen


def _make(floor: Floor, made: Made[Pressed]) -> Pressed:
    system, solution = made[STIFFNESS].system, made[SOLUTIONS].solution
    found = Response(
        made[LOADS], system.held.labels, solution.reactions, system, solution.u, made[STIFFNESS].kept, made[PLAIN_FORCES].at_places,
        made[MESH].elements,
    )  # fmt: skip
    return pressed(floor, made[ZONE_OUTLINES].outlines, found, made[INSIDE_ZONES])


ZONE_FORCES = Stage("zone forces", _inputs, _make, (ZONE_OUTLINES, INSIDE_ZONES, LOADS, SOLUTIONS, STIFFNESS, PLAIN_FORCES, MESH))
