"""The slabs' outlines: what stays as it is through most edits of a floor, and tells it from other floors."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.view import only

Outlines = tuple[object, ...]


def _inputs(floor: Floor) -> Floor:
    return only(floor, slabs=("outline",))


def _make(floor: Floor, made: Made[Outlines]) -> Outlines:
    return tuple(s.outline for s in floor.slabs)


SLAB_OUTLINES = Stage("slab outlines", _inputs, _make)
