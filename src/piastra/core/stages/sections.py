"""Thickness, level, weight and modifiers of each face."""

from __future__ import annotations

from piastra.core.fe.floor_sections import FaceValues, face_values
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only


def _inputs(floor: Floor) -> Floor:
    section = ("thickness_m", "top_offset_m", "fill_kN_m3")
    return only(
        floor, concretes=("id", "unit_weight_kN_m3"), slabs=(*section, "concrete"), thickenings=section,
        beams=("line", "width_m", "depth_m", "top_offset_m", "concrete"), one_way_areas=ALL, stiffness_areas=ALL,
    )  # fmt: skip


def _make(floor: Floor, made: Made[FaceValues]) -> FaceValues:
    return face_values(floor, made[PLAN])


SECTIONS = Stage("sections", _inputs, _make, (PLAN,), content=lambda found: found)
