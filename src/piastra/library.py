"""Piastra from Python: a floor in, results with named access out."""

from __future__ import annotations

from functools import cached_property
from os import PathLike
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.checks.row import Row
from piastra.core.model import Floor, RefusedError, floor_from
from piastra.core.model.project import Project
from piastra.core.pipeline import Outcome, solve_floor
from piastra.core.punching.zones import Zone
from piastra.core.readings import reading
from piastra.core.readings.reading import Reading, UnknownReadingError
from piastra.core.readings.responses import Responses, responses_of
from piastra.core.standards import beginnings
from piastra.exchange import floor_file, results_file

__all__ = [
    "Floor",
    "Reading",
    "RefusedError",
    "Results",
    "Row",
    "UnknownReadingError",
    "Zone",
    "new_floor",
    "read",
    "solve",
    "write",
]

Array = npt.NDArray[np.float64]


class Results:
    """What one run computed. Lengths in m, forces in kN, moments in kNm or kNm/m; deflections in mm, down positive."""

    def __init__(self, outcome: Outcome) -> None:
        self.outcome = outcome

    @cached_property
    def _responses(self) -> Responses:
        return responses_of(self.outcome)

    @property
    def works(self) -> bool | None:
        """Whether every check passes and covers all; None where none fails, but something is unchecked or uncovered."""
        statuses = {r.status for r in self.verdict.values()}
        return False if "fail" in statuses else True if statuses == {"pass"} else None

    @property
    def verdict(self) -> dict[str, Row]:
        """The governing row of each check, by the check's name."""
        return {r.check: r for r in self.outcome.verdict}

    def rows(self, check: str) -> list[Row]:
        """All rows of a check. Raises :class:`KeyError` for a check that is none."""
        if check not in self.verdict:
            raise KeyError(f"{check} is no check; choose one of {', '.join(self.verdict)}")
        return [r for r in self.outcome.rows if r.check == check]

    def zones(self, column: str) -> list[Zone]:
        """The punching perimeters of a column, the innermost first; empty where it has none."""
        return [z for z in self.outcome.zones if z.column == column]

    def value(self, quantity: str, x: float, y: float, of: str) -> Reading | None:
        """A quantity at a point (m) under a case or combination: with all live load, and least and greatest over its
        arrangements. None beside the floor. Raises :class:`UnknownReadingError`."""
        return reading.at_point(self._responses, (x, y), quantity, of)

    def reaction(self, support: str, of: str, component: str = "F") -> Reading:
        """``F`` (kN, up), ``Mx`` or ``My`` (kNm) of a column, wall or support. Raises :class:`UnknownReadingError`."""
        return reading.at_support(self._responses, support, component, of)

    def field(self, quantity: str, of: str, kind: str = "all") -> tuple[Array, Array]:
        """Places (p, 2) m and the quantity's values (p,) there; ``kind`` ``all``, ``least`` or ``greatest``. A border
        of two sections has a place on either side. Raises :class:`UnknownReadingError`."""
        return self._responses.elements.xy, reading.field(self._responses, quantity, reading.Chosen(of, kind))

    @cached_property
    def document(self) -> dict[str, Any]:
        """The results file."""
        return results_file.results(self.outcome, self._responses)


def new_floor(name: str, standard: str = "EN 1992-1-1", units: str = "SI", **lists: Any) -> Floor:
    """A floor with the standard's common materials, self-weight, a dead and a patterned live case, and their combinations.

    ``lists`` are keys of the floor file. Raises :class:`RefusedError`.
    """
    project = Project.model_validate(beginnings.new_project(name, units, standard))
    return floor_from({**beginnings.new_floor(project, name), **lists})


def read(path: str | PathLike[str]) -> Floor:
    """The floor in a file. Raises :class:`RefusedError` saying what is wrong, and where."""
    return floor_file.read(Path(path))


def write(floor: Floor, path: str | PathLike[str]) -> None:
    """Write a floor file."""
    floor_file.write(floor, Path(path))


def solve(floor: Floor) -> Results:
    """Compute and check a floor. Raises :class:`RefusedError` for a floor that cannot be computed."""
    return Results(solve_floor(floor))
