"""Lines between supports along which the sag is measured."""

from __future__ import annotations

from piastra.core.deflection.sag import Line, lines
from piastra.core.model import Floor
from piastra.core.stages.axes import holding
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import only
from piastra.core.strips.layout import supports_on_plan


def _inputs(floor: Floor) -> Floor:
    return only(floor, **holding(floor))  # type: ignore[arg-type]


def _make(floor: Floor, made: Made[tuple[Line, ...]]) -> tuple[Line, ...]:
    plan = made[PLAN]
    return tuple(lines(supports_on_plan(floor, plan), plan.region))


LINES = Stage("lines", _inputs, _make, (PLAN,))
