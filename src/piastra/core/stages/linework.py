"""The floor cut into faces by lines; thicknesses of slabs play no part."""

from __future__ import annotations

from piastra.core.mesh.plan import Linework, Pressed, make_linework
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.view import only


def _inputs(floor: Floor) -> tuple[Floor, tuple[Pressed, ...]]:
    pressed = tuple(
        ((l.at[0], l.at[1]), min(l.patch.b_m, l.patch.d_m) if l.patch else 0.0, max(l.patch.b_m, l.patch.d_m) if l.patch else 0.0)
        for l in floor.loads if l.kind == "point"
    )  # fmt: skip
    seen = only(
        floor, "mesh", slabs=("outline",), openings=("outline",), thickenings=("kind", "outline"), beams=("line", "width_m"),
        one_way_areas=("outline",), stiffness_areas=("outline",), columns=("id", "at", "shape", "angle_deg"), walls=("id", "line", "thickness_m"),
        supports=("id", "kind", "at", "line", "outline", "vertical"),
    )  # fmt: skip
    return seen, tuple(sorted(set(pressed)))


def _make(given: tuple[Floor, tuple[Pressed, ...]], made: Made[Linework]) -> Linework:
    return make_linework(*given)


LINEWORK = Stage("linework", _inputs, _make, content=lambda found: found)
