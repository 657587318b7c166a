"""Named arrangements of the live load, and those that the standard asks for."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.combine.arrangements import Arrangement, arrangements
from piastra.core.loads.vectors import LoadVectors
from piastra.core.model import Floor
from piastra.core.stages.axes import AXES, holding, main_direction
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.panels import PANELS
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import only
from piastra.core.standards import standard_named
from piastra.core.strips.layout import supports_on_plan


@dataclass(frozen=True, slots=True)
class Arranged:
    """All ``named`` arrangements, and those that are ``required``."""

    named: tuple[Arrangement, ...]
    required: tuple[Arrangement, ...]


def live_over_dead(floor: Floor, loads: LoadVectors) -> float:
    """All pattern load over all permanent load of the floor."""
    pattern = {c.id for c in floor.load_cases if c.pattern}
    dead = {c.id for c in floor.load_cases if c.nature in ("self_weight", "dead")}
    sums = {True: 0.0, False: 0.0}
    for s in loads.sums:
        if s.case in pattern or s.case in dead:
            sums[s.case in pattern] += s.on_floor_kN
    return sums[True] / max(sums[False], 1e-9)


def _named_inputs(floor: Floor) -> Floor:
    return only(floor, **holding(floor))  # type: ignore[arg-type]


def _name(floor: Floor, made: Made[tuple[Arrangement, ...]]) -> tuple[Arrangement, ...]:
    return tuple(arrangements(made[PANELS], main_direction(made[AXES]), supports_on_plan(floor, made[PLAN])))


NAMED = Stage("named arrangements", _named_inputs, _name, (PANELS, AXES, PLAN))
"""All arrangements that have a name, however much is loaded."""


def _inputs(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", load_cases=("id", "nature", "pattern"))


def _make(floor: Floor, made: Made[Arranged]) -> Arranged:
    named = made[NAMED]
    rules = standard_named(floor.standard, floor.parameters).arrangements
    required = rules.required(named, live_over_dead(floor, made[LOADS]))
    # Where the standard asks for a part of the live load only, that part is what is read under the arrangement too.
    asked = {a.name: a for a in required}
    return Arranged(tuple(asked.get(a.name, a) for a in named), tuple(required))


ARRANGEMENTS = Stage("arrangements", _inputs, _make, (NAMED, LOADS), content=lambda found: found)
