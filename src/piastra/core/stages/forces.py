"""Section forces of all unit loads."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.recovery import forces_by
from piastra.core.fe.reuse import Directions, Known, in_blocks, responses
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Forces:
    """Section forces about the reference plane, ``at_places`` (p, 8, r)."""

    at_places: Array
    directions: Directions


RECOVERED = 8
"""Columns whose forces are found at once: on the way there they take several times the room of the result."""


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Forces]) -> Forces:
    stiffness, solutions, last = made[STIFFNESS], made[SOLUTIONS], made.earlier
    u = solutions.solution.u
    known = Known(last.directions, (last.at_places,)) if last else None

    def made_of(columns: npt.NDArray[np.int64]) -> tuple[Array, ...]:
        # Made only where a direction is new: a changed value scales what is known.
        found = forces_by(stiffness.system, stiffness.kept)
        return in_blocks(columns, lambda some: (found(u[..., some], None),), RECOVERED)

    (at_places,) = responses(solutions.directions, known, made_of)
    return Forces(at_places, solutions.directions)


FORCES = Stage("forces", _inputs, _make, (STIFFNESS, SOLUTIONS), kin=(STIFFNESS,))
