"""Axes and strips on plan."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor
from piastra.core.stages.axes import AXES, holding
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named
from piastra.core.strips.layout import Layout, make_layout


def _inputs(floor: Floor) -> Floor:
    parts: dict[str, Any] = {
        "strip_axes": ALL, "strip_boundaries": ALL, "beams": ALL, **holding(floor),
    }  # fmt: skip
    if floor.beams:
        # Their flanges may be as wide as a slab is thick, so many times.
        parts["slabs"] = ("thickness_m",)
    return only(floor, "standard", "parameters", **parts)


def _make(floor: Floor, made: Made[Layout]) -> Layout:
    rules = standard_named(floor.standard, floor.parameters).beams
    return make_layout(floor, made[PLAN], made[AXES], rules.flange if rules else None)


LAYOUT = Stage("layout", _inputs, _make, (PLAN, AXES), content=lambda found: found)
