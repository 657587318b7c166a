"""Displacements and reactions of all unit loads; only new vectors are solved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.reuse import Directions, Known, directions_of, in_blocks, responses
from piastra.core.fe.solution import Solution, solve
from piastra.core.fe.system import System
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.stiffness import STIFFNESS

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Solutions:
    """The solution, by directions of its load vectors; ``solved`` of them anew."""

    solution: Solution
    directions: Directions
    solved: int


SOLVED = 24
"""Columns solved at once: the factor is read once for all of them, which takes more time than the sums."""


def _inputs(floor: Floor) -> None:
    return None


def _solved(system: System, vectors: Array) -> tuple[Array, Array]:
    found = solve(system, vectors)
    return found.u, found.reactions


def _make(given: None, made: Made[Solutions]) -> Solutions:
    system, loads = made[STIFFNESS].system, made[LOADS]
    last = made.earlier
    directions = directions_of(loads.matrix, last.directions if last else None)
    known = Known(last.directions, (last.solution.u, last.solution.reactions)) if last else None
    new = 0

    def solved(columns: npt.NDArray[np.int64]) -> tuple[Array, ...]:
        nonlocal new
        new = len(columns)
        return in_blocks(columns, lambda some: _solved(system, loads.vectors(some)), SOLVED, together=False)

    u, reactions = responses(directions, known, solved)
    return Solutions(Solution(u, reactions), directions, new)


SOLUTIONS = Stage("solutions", _inputs, _make, (STIFFNESS, LOADS), kin=(STIFFNESS,))
