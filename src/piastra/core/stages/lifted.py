"""Combinations under which a compression-only bedding lets go."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import envelope
from piastra.core.fe.recovery import section_forces
from piastra.core.fe.solution import can_lift, lifts, solve_lifting
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.loads import LOADS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Combined:
    """Responses of combinations that cannot be superposed, because a bedding lets go: by combination ``u``
    (n, 5), ``forces`` (p, 8) and ``reactions`` (s, 3) with all live load present. ``loose``: the combinations under which it
    lets go in some arrangement."""

    u: dict[str, Array]
    forces: dict[str, Array]
    reactions: dict[str, Array]
    loose: frozenset[str] = frozenset()


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Combined]) -> Combined:
    out = Combined({}, {}, {})
    stiffness = made[STIFFNESS]
    if not can_lift(stiffness.system):
        return out
    u, loose = made[SOLUTIONS].solution.u, set()
    for f in made[FACTORS]:
        # Values over arrangements are superposed, so any arrangement that lifts makes them untrue.
        if lifts(stiffness.system, envelope(u, f)[0]):
            loose.add(f.combination)
        if lifts(stiffness.system, u @ f.full):
            found = solve_lifting(stiffness.system, made[LOADS].combined(f.full), f"combination {f.combination}")
            out.u[f.combination] = found.u[..., 0]
            out.forces[f.combination] = section_forces(stiffness.system, stiffness.kept, found.u)[..., 0]
            out.reactions[f.combination] = found.reactions[..., 0]
    return replace(out, loose=frozenset(loose))


LIFTED = Stage("lifted", _inputs, _make, (STIFFNESS, LOADS, SOLUTIONS, FACTORS))
