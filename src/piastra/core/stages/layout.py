"""Axes and strips on plan."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.stages.axes import AXES, holding
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import only
from piastra.core.strips.layout import Layout, make_layout


def _inputs(floor: Floor) -> Floor:
    return only(floor, **holding(floor))  # type: ignore[arg-type]


def _make(floor: Floor, made: Made[Layout]) -> Layout:
    axes = made[AXES]
    return make_layout(floor, made[PLAN], axes.angle, axes.along, axes.across)


LAYOUT = Stage("layout", _inputs, _make, (PLAN, AXES), content=lambda found: found)
