"""Groups of bars beside the mats; what follows from them runs anew only where they change."""

from __future__ import annotations

from dataclasses import replace

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.steel import STEEL


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[tuple[Group, ...]]) -> tuple[Group, ...]:
    # Why they lie there changes with every load, and nothing follows from it.
    return tuple(replace(g, why=()) for g in made[STEEL].groups)


BAR_GROUPS = Stage("bar groups", _inputs, _make, (STEEL,), content=lambda found: found)
