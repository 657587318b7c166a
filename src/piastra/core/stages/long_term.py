"""The quick estimate of long-term deflection, of all unit loads."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from piastra.core.fe.restraints import restraints
from piastra.core.history.estimate import ORDINARY, Estimate, estimate, numbers_for
from piastra.core.model import Floor
from piastra.core.model.history import History
from piastra.core.stages.body import BODY, FROZEN
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS, StiffnessInputs, stiffness_inputs
from piastra.core.stages.view import only
from piastra.core.standards import standard_named


@dataclass(frozen=True, slots=True)
class LongTermInputs:
    """The standard, moduli and restraints of the floor, creep coefficients by concrete, and the air and the age that a history gives."""

    floor: Floor
    stiffness: StiffnessInputs
    creep: dict[str, float]
    history: History


def _inputs(floor: Floor) -> LongTermInputs | None:
    if standard_named(floor.standard, floor.parameters).ageing is None:
        return None
    given = floor.history
    history = ORDINARY if given is None else given.model_copy(update={"stages": [], "limits": []})
    creep = {c.id: c.creep_coefficient for c in floor.concretes}
    return LongTermInputs(only(floor, "standard", "parameters"), stiffness_inputs(floor), creep, history)


def _make(given: LongTermInputs | None, made: Made[Estimate | None]) -> Estimate | None:
    lasting = [f for f in made[FACTORS] if f.lasting]
    if given is None or not lasting:
        return None
    rules = standard_named(given.floor.standard, given.floor.parameters).ageing
    assert rules is not None
    body, loads, system = made[BODY], made[LOADS], made[STIFFNESS].system
    effective = {k: E / (1 + given.creep[k]) for k, E in given.stiffness.moduli.items()}
    held = restraints(given.stiffness.floor, made[PLAN], made[MESH].mesh, effective)
    numbers = numbers_for(rules, body, dict(given.stiffness.moduli), given.history)
    # Sections are cracked by the combination that loads the floor most.
    heaviest = max(lasting, key=lambda f: float(np.abs(loads.combined(f.full)[:, 2]).sum()))
    elastic = made[SOLUTIONS].solution.u @ heaviest.full
    return estimate(replace(system, held=held), made[FROZEN], body, numbers, loads, heaviest.full, elastic, made.waits)


LONG_TERM = Stage("long term", _inputs, _make, (FACTORS, SOLUTIONS, LOADS, PLAN, MESH, STIFFNESS, BODY, FROZEN))
