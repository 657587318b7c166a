"""Deflection of all unit loads with the effective modulus."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.solution import solve
from piastra.core.model import Floor
from piastra.core.model.floor import concretes_used
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import StiffnessInputs, make_stiffness, stiffness_inputs
from piastra.core.standards import standard_named

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class LongTermInputs:
    """``scaled``: by how much deflections grow, where every stiffness is concrete of one creep coefficient; else None, and
    ``effective`` has the moduli to solve anew with."""

    scaled: float | None
    effective: StiffnessInputs | None


def _inputs(floor: Floor) -> LongTermInputs | None:
    rules = standard_named(floor.standard, floor.parameters).time
    if rules is None:
        return None
    used = concretes_used(floor)
    ratios = {1.0 / rules.effective(1.0, c.creep_coefficient) for c in floor.concretes if c.id in used}
    springs = any(s.kind == "area" or any(isinstance(k, float | int) for k in (s.vertical, s.rotation)) for s in floor.supports)
    if len(ratios) == 1 and not springs:
        return LongTermInputs(ratios.pop(), None)
    short = stiffness_inputs(floor)
    creep = {c.id: c.creep_coefficient for c in floor.concretes}
    effective = {k: rules.effective(E, creep[k]) for k, E in short.moduli.items()}
    return LongTermInputs(None, StiffnessInputs(short.floor, effective))


def _make(given: LongTermInputs | None, made: Made[Array | None]) -> Array | None:
    lasting = any(f.lasting for f in made[FACTORS])
    if given is None or not lasting:
        return None
    if given.effective is None:
        assert given.scaled is not None
        return made[SOLUTIONS].solution.u[:, 2] * given.scaled
    stiffness = make_stiffness(given.effective, made[PLAN], made[MESH], made[SECTIONS])
    w = solve(stiffness.system, made[LOADS].vectors()).u[:, 2]
    stiffness.free()
    return w


LONG_TERM = Stage("long term", _inputs, _make, (FACTORS, SOLUTIONS, LOADS, PLAN, MESH, SECTIONS))
