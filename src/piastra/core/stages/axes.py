"""Lines on which supports line up."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.geometry.axes import Axis
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.strips.layout import make_axes


@dataclass(frozen=True, slots=True)
class Axes:
    """The main direction (rad), and the axes along and across it."""

    angle: float
    along: tuple[Axis, ...]
    across: tuple[Axis, ...]


def holding(floor: Floor) -> dict[str, object]:
    """What of a floor tells where it is held, for :func:`only`."""
    return {"columns": ("id", "below", "seen_as"), "walls": ("id", "line", "thickness_m", "below", "seen_as"), "supports": ALL}


def _inputs(floor: Floor) -> Floor:
    return only(floor, slabs=("bar_angle_deg",), **holding(floor))  # type: ignore[arg-type]


def _make(floor: Floor, made: Made[Axes]) -> Axes:
    return Axes(*make_axes(floor, made[PLAN]))


AXES = Stage("axes", _inputs, _make, (PLAN,), content=lambda found: found)
