"""The concrete and the steel of every element, for states that change them."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.beams.bars import along_beams
from piastra.core.fe.states import Frozen, frozen
from piastra.core.history.body import Body, axes_of, body_of
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.beams import BEAMS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only

Array = npt.NDArray[np.float64]


def _body_inputs(floor: Floor) -> Floor:
    return only(floor, concretes=ALL, rebars=("id", "E_MPa", "yield_MPa"), slabs=("bar_angle_deg", "cover_bottom_mm", "cover_top_mm", "rebar"),
                mats=ALL, beams=("id", "width_m", "depth_m"))  # fmt: skip


def _body(floor: Floor, made: Made[Body]) -> Body:
    meshed, plan = made[MESH], made[PLAN]
    beams = bars_in_beams(floor, made)
    return body_of(
        floor, plan, meshed.face, made[SECTIONS], meshed.elements, made[BAR_GROUPS], beams, plan.region, made[BODY_AXES]
    )


def bars_in_beams(floor: Floor, made: Made[Any]) -> list[Group]:
    """Bars along the beams, as groups."""
    design = made[BEAMS]
    return [group for _, group in along_beams(floor, made[LAYOUT], design)] if design is not None else []


def _frozen(given: None, made: Made[tuple[Frozen, ...]]) -> tuple[Frozen, ...]:
    return frozen(made[STIFFNESS].system, made[BODY_AXES])


def _axes(floor: Floor, made: Made[Array]) -> Array:
    return axes_of(floor, made[PLAN], made[MESH].face, made[SECTIONS])


BODY_AXES = Stage(
    "body axes", lambda floor: only(floor, slabs=("bar_angle_deg",)), _axes, (MESH, PLAN, SECTIONS), content=lambda found: found
)
"""Direction of the bars, a beam or a stiffness area in every element."""
BODY = Stage(
    "body", _body_inputs, _body, (MESH, PLAN, SECTIONS, BODY_AXES, BAR_GROUPS, BEAMS, LAYOUT), content=lambda found: found
)
"""Concrete and steel of every element."""
FROZEN = Stage("frozen", lambda floor: None, _frozen, (STIFFNESS, BODY_AXES))
"""Strain operators, whatever the sections' stiffness."""
