"""Displacements and reactions of all unit loads; only new vectors are solved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.reuse import Directions, Known, directions_of, responses
from piastra.core.fe.solution import Solution, solve
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.stiffness import STIFFNESS


@dataclass(frozen=True, slots=True)
class Solutions:
    """The solution, by directions of its load vectors; ``solved`` of them anew."""

    solution: Solution
    directions: Directions
    solved: int


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Solutions]) -> Solutions:
    system, vectors = made[STIFFNESS].system, made[LOADS].vectors
    directions = directions_of(vectors)
    last = made.earlier
    known = Known(last.directions, (last.solution.u, last.solution.reactions)) if last else None
    new = 0

    def solved(columns: npt.NDArray[np.int64]) -> tuple[npt.NDArray[np.float64], ...]:
        nonlocal new
        new = len(columns)
        found = solve(system, vectors[..., columns])
        return found.u, found.reactions

    u, reactions = responses(directions, known, solved)
    return Solutions(Solution(u, reactions), directions, new)


SOLUTIONS = Stage("solutions", _inputs, _make, (STIFFNESS, LOADS), kin=(STIFFNESS,))
