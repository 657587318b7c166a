"""Lines on which supports line up."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.strips.layout import PartAxes, make_axes

Axes = tuple[PartAxes, ...]


def holding(floor: Floor) -> dict[str, object]:
    """What of a floor tells where it is held, for :func:`only`."""
    return {"columns": ("id", "below", "seen_as"), "walls": ("id", "line", "thickness_m", "below", "seen_as"), "supports": ALL}


def _inputs(floor: Floor) -> Floor:
    return only(floor, slabs=("bar_angle_deg",), **holding(floor))  # type: ignore[arg-type]


def _make(floor: Floor, made: Made[Axes]) -> Axes:
    return make_axes(floor, made[PLAN])


AXES = Stage("axes", _inputs, _make, (PLAN,), content=lambda found: found)


def main_direction(axes: Axes) -> float:
    """That of the largest part, rad."""
    return axes[0].angle if axes else 0.0
