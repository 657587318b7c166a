"""All checks, and the verdict."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.checks import CHECKS, Context
from piastra.core.checks.row import Row, Unchecked, worst
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.lifted import LIFTED
from piastra.core.stages.loads import LOADS
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sags import SAGS
from piastra.core.stages.sharing import SHARING
from piastra.core.stages.steel import STEEL
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zones import ZONES
from piastra.core.standards import standard_named


@dataclass(frozen=True, slots=True)
class Verdict:
    """The ``worst`` row of each check, and all rows."""

    worst: tuple[Row, ...]
    rows: tuple[Row, ...]


def _inputs(floor: Floor) -> tuple[Floor, tuple[str, ...]]:
    seen = only(
        floor, "standard", "parameters", "deflection", concretes=ALL, slabs=("concrete",), beams=("id", "line"),
        columns=("id", "at", "below"), walls=("id", "line", "below"), supports=ALL, loads=ALL, mats=("id",),
        combinations=("id", "factors"),
    )  # fmt: skip
    return seen, tuple(c.name for c in CHECKS)


def _make(given: tuple[Floor, tuple[str, ...]], made: Made[Verdict]) -> Verdict:
    floor, _ = given
    strips, factors = made[STRIPS], made[FACTORS]
    context = Context(
        floor, standard_named(floor.standard, floor.parameters), made[LOADS].units,
        [f for f in factors if f.limit_state == "ultimate"], [f for f in factors if f.lasting], made[PLAN].region,
        strips.layout, strips.cuts, made[STEEL].stations, made[ZONES], made[SAGS],
        made[LIFTED].loose, made[SHARING].change,
    )  # fmt: skip
    top: list[Row] = []
    rows: list[Row] = []
    for check in CHECKS:
        found = check.rows(context)
        if found is None:
            continue
        top.append(worst(check.name, found))
        rows += [] if isinstance(found, Unchecked) else found
    return Verdict(tuple(top), tuple(rows))


CHECKED = Stage("checks", _inputs, _make, (STRIPS, FACTORS, LOADS, LIFTED, PLAN, STEEL, ZONES, SAGS, SHARING))
