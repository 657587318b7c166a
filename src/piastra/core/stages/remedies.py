"""What would mend zones that fail in punching, or nearly."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from piastra.core.fe.restraints import Restraints, restraints
from piastra.core.model import Floor
from piastra.core.model.message import Message
from piastra.core.punching.anew import Anew, Given
from piastra.core.punching.heads_and_openings import solid_of
from piastra.core.punching.remedies import FAILS, MOST, Bench, remedies
from piastra.core.punching.zone_places import Site
from piastra.core.punching.zones import Response
from piastra.core.remedies.remedy import Remedy
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.column_bars import COLUMN_BARS, PRESSING
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import PLAIN_FORCES
from piastra.core.stages.given_loads import loading
from piastra.core.stages.ground import GROUND
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS, StiffnessInputs, stiffness_inputs
from piastra.core.stages.view import ALL, only
from piastra.core.stages.zones import ZONES
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in


@dataclass(frozen=True, slots=True)
class Offered:
    """Remedies by zone, and ``notes`` on what was not looked for."""

    by_zone: Mapping[str, tuple[Remedy, ...]]
    notes: tuple[Message, ...] = ()


@dataclass(frozen=True, slots=True)
class Inputs:
    """Remedies are edits of the floor, and carry whole objects of it."""

    floor: Floor
    stiffness: StiffnessInputs


def _inputs(floor: Floor) -> Inputs:
    seen = loading(floor)
    whole = only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "design_rails", "zone_settings", "bar_sizes_mm", "spacings_mm",
        "carbon", "costs", concretes=ALL, rebars=ALL, slabs=ALL, thickenings=ALL, openings=ALL, columns=ALL, mats=ALL, designed_bars=ALL,
        supports=ALL,
    )  # fmt: skip
    seen.__dict__.update(whole.__dict__)
    return Inputs(seen, stiffness_inputs(floor))


def _make(given: Inputs, made: Made[Offered]) -> Offered:
    floor = given.floor
    standard, zones = standard_of(floor), made[ZONES]
    if standard.punching is None or zones is None:
        return Offered({})
    meshed, plan = made[MESH], made[PLAN]
    solid, openings = solid_of(floor, plan.region)
    site = Site(
        floor,
        standard.punching,
        meshed.elements,
        plan.slab[meshed.face],
        made[SECTIONS].h[meshed.face],
        solid,
        openings,
        made[PRESSING].holding,
    )
    anew = _anew(given, made)
    benches: dict[str, Bench] = {}
    for a in acting_in(standard, made[FACTORS]):
        rules = a.standard.punching
        # Remedies carry objects of the floor, which must not be those of young concrete: under construction it is load or age that mends.
        if rules is not None and (a.situation is None or a.situation.name != "construction"):
            benches[a.situation.name if a.situation else ""] = Bench(
                floor, a.standard, rules, replace(site, rules=rules), made[PRESSING], made[COLUMN_BARS], made[BAR_GROUPS], plan.region, a.combinations, made[LOADS], anew
            )  # fmt: skip
    try:
        found = remedies(benches, zones.zones)
    finally:
        anew.close()
    failing = sum(z.utilisation > FAILS for z in zones.zones)
    notes = []
    if failing > MOST:
        notes.append(f"{MOST} of {failing} zones that fail have them, the worst ones: what mends these changes the others")
    if anew.short:
        notes.append(
            "of so large a floor not every change could be solved for: the worst zones came first, others may have fewer than there are"
        )
    return Offered(found, tuple(Message("note", "remedies of punching", told, None) for told in notes))


def _anew(given: Inputs, made: Made[Offered]) -> Anew:
    meshed, system, solution = made[MESH], made[STIFFNESS].system, made[SOLUTIONS].solution
    moduli = dict(given.stiffness.moduli)

    def restrained(floor: Floor) -> Restraints:
        seen = given.stiffness.floor.model_copy(update={"columns": floor.columns})
        return restraints(seen, made[PLAN], meshed.mesh, moduli)

    response = Response(
        made[LOADS], system.held.labels, solution.reactions, system, solution.u, made[STIFFNESS].kept,
        made[PLAIN_FORCES].at_places, meshed.elements,
    )  # fmt: skip
    return Anew(Given(given.floor, response, made[SECTIONS], meshed.face, moduli, made[GROUND].whole, restrained), made.waits)


REMEDIES = Stage(
    "remedies",
    _inputs,
    _make,
    (MESH, PLAN, SECTIONS, STIFFNESS, GROUND, PRESSING, COLUMN_BARS, BAR_GROUPS, FACTORS, LOADS, SOLUTIONS, PLAIN_FORCES, ZONES),
)
