"""Factors of every unit load in every combination."""

from __future__ import annotations

from collections.abc import Sequence

from piastra.core.combine.arrangements import shares_of
from piastra.core.combine.envelope import Factors, factors_of
from piastra.core.model import Floor
from piastra.core.stages.arrangements import ARRANGEMENTS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.view import only
from piastra.core.standards import Standard


def _inputs(floor: Floor) -> Floor:
    return only(floor, "arrangements", load_cases=("id", "pattern"), combinations=("id", "limit_state", "factors"))


def _make(floor: Floor, made: Made[tuple[Factors, ...]]) -> tuple[Factors, ...]:
    units = made[LOADS].units
    shares = shares_of(made[ARRANGEMENTS].required, units) if floor.arrangements == "standard" else None
    return tuple(factors_of(floor, units, c, shares) for c in floor.combinations)


FACTORS = Stage("factors", _inputs, _make, (LOADS, ARRANGEMENTS), content=lambda found: found)


def in_service(standard: Standard, factors: Sequence[Factors]) -> list[Factors]:
    """Combinations under which cracks are checked."""
    states = standard.cracking.limit_states if standard.cracking is not None else ()
    return [f for f in factors if f.limit_state in states]
