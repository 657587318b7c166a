"""The floor cut into faces by lines; thicknesses play no part."""

from __future__ import annotations

from piastra.core.mesh.plan import Linework, make_linework
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.view import only


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "mesh", slabs=("outline",), openings=("outline",), thickenings=("outline",), beams=("line", "width_m"),
        one_way_areas=("outline",), stiffness_areas=("outline",), columns=("id", "at", "shape", "angle_deg"), walls=("id", "line"),
        supports=("id", "kind", "at", "line", "outline"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[Linework]) -> Linework:
    return make_linework(floor)


LINEWORK = Stage("linework", _inputs, _make, content=lambda found: found)
