"""All checks, and the verdict."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from piastra.core.checks import CHECKS, Check, Context
from piastra.core.checks.row import Row, Unchecked, worst
from piastra.core.checks.station import BeamSection, Section, section_at
from piastra.core.model import Floor
from piastra.core.model.loading import STRENGTH
from piastra.core.reinforcement.points import used_in
from piastra.core.stages.beams import BEAMS
from piastra.core.stages.body import BODY
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS, in_service
from piastra.core.stages.flanges import FLANGES
from piastra.core.stages.history import NO_LIFE as LIFE_MADE
from piastra.core.stages.lifted import LIFTED
from piastra.core.stages.loads import LOADS
from piastra.core.stages.long_term import LONG_TERM
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.point_steel import STEEL_READ
from piastra.core.stages.sags import SAGS
from piastra.core.stages.sharing import SHARING
from piastra.core.stages.shear import SHEAR
from piastra.core.stages.steel import STEEL
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.tendon_arrangement import TENDON_ARRANGEMENT
from piastra.core.stages.tendon_stations import TENDON_STATIONS
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zones import ZONES
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in


@dataclass(frozen=True, slots=True)
class Verdict:
    """The ``worst`` row of each check, and all rows; ``section`` makes what :func:`piastra.core.checks.station.section_at` tells of a strip, the
    place along it and a face, as rows make their traces."""

    worst: tuple[Row, ...]
    rows: tuple[Row, ...]
    section: Callable[[str, float, str], Section | BeamSection]


def _names(checks: Sequence[Check]) -> tuple[str, ...]:
    return tuple(c.name for c in checks)


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "fire", "deflection", "prestress", "history", concretes=ALL,
        strands=ALL, tendons=("id", "strand", "jack_MPa", "line", "profile"), slabs=ALL, thickenings=("id", "outline", "thickness_m", "top_offset_m", "priority"),
        rebars=("id", "yield_MPa"), beams=("id", "line", "width_m", "concrete"), columns=("id", "at", "below"), walls=("id", "line", "below"), supports=ALL, loads=ALL,
        mats=ALL, combinations=("id", "limit_state", "factors"), load_cases=("id", "effect"),
    )  # fmt: skip


def _first(floor: Floor) -> tuple[Floor, tuple[str, ...]]:
    return _inputs(floor), _names(first_checks())


def _last(floor: Floor) -> tuple[Floor, tuple[str, ...]]:
    return _inputs(floor), _names(CHECKS)


def first_checks() -> list[Check]:
    """Checks that nothing of the long term is needed for; they are there long before the others."""
    return [c for c in CHECKS if not c.lasting]


def _context(floor: Floor, made: Made[Verdict]) -> Context:
    """What is known before the long term is."""
    strips, factors, standard = made[STRIPS], made[FACTORS], standard_of(floor)
    steel, at_places = made[STEEL], made[STEEL_READ]
    xy = made[MESH].mesh.xy[made[STIFFNESS].kept.node]
    beside = [
        used_in(piece, d, xy, at_places.required, at_places.given) if at_places is not None else None
        for d, piece in strips.layout.beside
    ]  # fmt: skip
    return Context(
        floor, standard, made[LOADS].units, [f for f in factors if f.limit_state == "ultimate"], in_service(standard, factors),
        [f for f in factors if f.lasting], made[PLAN].region, strips.layout, strips.cuts, steel.stations if floor.mats or steel.groups else None, beside, steel.through, made[SHEAR], made[BEAMS], made[ZONES], (),
        made[LIFTED].loose, made[SHARING].change, made[TENDON_STATIONS], [f for f in factors if f.limit_state == "transfer"],
        [f for f in factors if f.limit_state not in (*STRENGTH, "transfer")], arrangement=made[TENDON_ARRANGEMENT], situations=acting_in(standard, factors), flanges=made[FLANGES],
        groups=steel.groups,
    )  # fmt: skip


def _found(checks: Sequence[Check], context: Context) -> tuple[list[Row], list[Row]]:
    """The worst row of each of some checks, and all of them."""
    top: list[Row] = []
    rows: list[Row] = []
    for check in checks:
        found = check.rows(context)
        if found is None:
            continue
        top.append(worst(check.name, found))
        rows += [] if isinstance(found, Unchecked) else found
    return top, rows


def _make_first(given: tuple[Floor, tuple[str, ...]], made: Made[Verdict]) -> Verdict:
    context, slab = _context(given[0], made), made[PLAN].slab[made[MESH].face]
    top, rows = _found(first_checks(), context)
    # What is asked for is told where nothing is given yet as well.
    asked = replace(context, steel=made[STEEL].stations)
    return Verdict(tuple(top), tuple(rows), lambda strip, s, face: section_at(asked, slab, strip, s, face))


def _make(given: tuple[Floor, tuple[str, ...]], made: Made[Verdict]) -> Verdict:
    known = made[FIRST_CHECKED]
    context = replace(
        _context(given[0], made), sags=made[SAGS], estimate=made[LONG_TERM], life=made[LIFE_MADE], body=made[BODY], elements=made[MESH].elements
    )  # fmt: skip
    top, rows = _found([c for c in CHECKS if c.lasting], context)
    order = {name: k for k, name in enumerate(_names(CHECKS))}

    def sorted_(rows: Sequence[Row]) -> tuple[Row, ...]:
        return tuple(sorted(rows, key=lambda r: order[r.check]))

    return Verdict(sorted_([*known.worst, *top]), sorted_([*known.rows, *rows]), known.section)


_READ = (
    STRIPS, FACTORS, LOADS, LIFTED, PLAN, MESH, STIFFNESS, STEEL, STEEL_READ, SHEAR, BEAMS, FLANGES, ZONES, SHARING, TENDON_STATIONS, TENDON_ARRANGEMENT,
)  # fmt: skip
FIRST_CHECKED = Stage("checks", _first, _make_first, _READ)
CHECKED = Stage("lasting checks", _last, _make, (*_READ, FIRST_CHECKED, SAGS, LONG_TERM, LIFE_MADE, BODY))
