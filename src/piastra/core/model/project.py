"""What the floors of a building share: units, standard, materials, levels and setting-out lines."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, ValidationError, model_validator

from piastra.core.model.floor import GridLine
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.refusal import Refusal, RefusedError, refusals_of
from piastra.core.model.shapes import Label, Line, Number, Point, Positive, Record

SHARED = ("standard", "concretes", "rebars", "grid")
"""Keys of the floor file that a floor takes from its project."""


class Level(Record):
    """A level of the building. ``height_m``: from the level below, or from the base for the lowest one."""

    id: Label
    height_m: Positive


class ParallelLines(Record):
    """Parallel setting-out lines: the first through ``origin``, the others to its left by the spacings.

    The lines run at ``angle_deg`` from ``start_m`` to ``end_m``, measured along them from the origin.
    """

    id: Label
    kind: Literal["parallel"]
    origin: Point = [0.0, 0.0]
    angle_deg: Number = 0.0
    spacings_m: Annotated[list[Positive], Field(max_length=200)]
    labels: Annotated[list[Label], Field(min_length=1, max_length=201)]
    start_m: Number
    end_m: Number

    @model_validator(mode="after")
    def _one_label_a_line(self) -> ParallelLines:
        if len(self.labels) != len(self.spacings_m) + 1:
            raise ValueError(f"has {len(self.labels)} labels for {len(self.spacings_m) + 1} lines; give one to each")
        if self.end_m - self.start_m < 0.001:
            raise ValueError("ends where it starts; give its lines a length")
        return self


class SingleLine(Record):
    """One setting-out line."""

    id: Label
    kind: Literal["single"]
    line: Line


GridSet = Annotated[ParallelLines | SingleLine, Field(discriminator="kind")]


class Project(Record):
    """What a building's floors share."""

    format: Literal["piastra-project"]
    version: Literal[1]
    name: Label
    units: Literal["SI", "US"] = "SI"
    """Units of the interface. Everything is kept in SI; switching changes no stored number."""
    standard: Literal["EN 1992-1-1", "ACI 318-19"] = "EN 1992-1-1"
    concretes: Annotated[list[Concrete], Field(min_length=1)]
    rebars: Annotated[list[Rebar], Field(min_length=1)]
    base_m: Number = 0.0
    """Elevation of the base from which the lowest level's height counts."""
    levels: list[Level] = []
    grid_sets: list[GridSet] = []

    @model_validator(mode="after")
    def _labels_once(self) -> Project:
        found = []
        for name in ("concretes", "rebars", "levels", "grid_sets"):
            seen: set[str] = set()
            for i, item in enumerate(getattr(self, name)):
                if item.id in seen:
                    found.append(Refusal(f"{name}[{i}].id", f"repeats the id '{item.id}'; give it its own id"))
                seen.add(item.id)
        lines: set[str] = set()
        for line in grid_lines(self):
            if line.id in lines:
                found.append(Refusal("grid_sets", f"has two lines labelled '{line.id}'; give each its own label"))
            lines.add(line.id)
        if found:
            raise RefusedError(found)
        return self


@dataclass(frozen=True, slots=True)
class Storeys:
    """A level as computed: elevation of its floor, heights of the storeys below and above (None at the top), m."""

    id: str
    elevation: float
    below: float
    above: float | None


def project_from(data: Any) -> Project:
    """The project that a parsed JSON document describes. Raises :class:`RefusedError`."""
    if not isinstance(data, dict):
        raise RefusedError([Refusal("the project", "must be a JSON object with the key 'format'")])
    try:
        return Project.model_validate(data)
    except ValidationError as error:
        raise RefusedError(refusals_of(error, data)) from None


def storeys(project: Project) -> list[Storeys]:
    """The levels from the lowest up, with their elevations (m)."""
    heights = [level.height_m for level in project.levels]
    elevations = project.base_m + np.cumsum([0.0, *heights])[1:]
    above: list[float | None] = [*heights[1:], None]
    return [
        Storeys(level.id, float(e), h, a)
        for level, e, h, a in zip(project.levels, elevations, heights, above[: len(heights)], strict=True)
    ]


def grid_lines(project: Project) -> list[GridLine]:
    """Every setting-out line of a project, m."""
    return [line for s in project.grid_sets for line in _lines_of(s)]


def _lines_of(grid_set: ParallelLines | SingleLine) -> Iterable[GridLine]:
    if isinstance(grid_set, SingleLine):
        yield GridLine(id=grid_set.id, line=grid_set.line)
        return
    angle = np.radians(grid_set.angle_deg)
    along, left = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    for label, offset in zip(grid_set.labels, np.cumsum([0.0, *grid_set.spacings_m]), strict=True):
        foot = np.array(grid_set.origin) + offset * left
        ends = [foot + grid_set.start_m * along, foot + grid_set.end_m * along]
        # Coordinates to a tenth of a micrometre, so that a right angle's cosine does not show.
        yield GridLine(id=label, line=[[float(np.round(v, 7)) + 0.0 for v in p] for p in ends])


def shared_keys(project: Project) -> dict[str, Any]:
    """The part of the floor file that a project gives to its floors."""
    return {
        "standard": project.standard,
        "concretes": [c.model_dump(exclude_unset=True) for c in project.concretes],
        "rebars": [r.model_dump(exclude_unset=True) for r in project.rebars],
        "grid": [g.model_dump() for g in grid_lines(project)],
    }


def project_of(document: dict[str, Any], name: str) -> dict[str, Any]:
    """A project document that fits a floor file: its standard and materials, its grid lines as single lines."""
    return {
        "format": "piastra-project",
        "version": 1,
        "name": name,
        "standard": document.get("standard", "EN 1992-1-1"),
        "concretes": document["concretes"],
        "rebars": document["rebars"],
        "grid_sets": [{"id": g["id"], "kind": "single", "line": g["line"]} for g in document.get("grid", [])],
    }


LIBRARY: dict[str, dict[str, list[dict[str, Any]]]] = {
    "EN 1992-1-1": {
        "concretes": [
            {"id": f"C{fck}/{cube}", "strength_MPa": float(fck), "unit_weight_kN_m3": 25.0}
            for fck, cube in ((20, 25), (25, 30), (30, 37), (35, 45), (40, 50), (45, 55), (50, 60))
        ],
        "rebars": [{"id": f"B{f}", "yield_MPa": float(f), "E_MPa": 200000.0} for f in (500, 600)],
    },
    "ACI 318-19": {
        "concretes": [
            {"id": f"{psi} psi", "strength_MPa": round(psi * 0.006894757293168, 6), "unit_weight_kN_m3": 23.563}
            for psi in (3000, 4000, 5000, 6000, 8000)
        ],
        "rebars": [{"id": f"Grade {ksi}", "yield_MPa": round(ksi * 6.894757293168, 6), "E_MPa": 199948.0} for ksi in (60, 80)],
    },
}
"""Materials by standard: EN 1992-1-1 table 3.1 (f_ck / cube) and annex C; ACI 318-19 19.2.1 and 20.2.2 (150 lb/ft3)."""


def new_project(name: str, units: str, standard: str) -> dict[str, Any]:
    """The document of an empty project with the standard's common materials and one level."""
    library = LIBRARY[standard]
    first = 2 if standard == "EN 1992-1-1" else 1
    return {
        "format": "piastra-project", "version": 1, "name": name, "units": units, "standard": standard,
        "concretes": [library["concretes"][first]], "rebars": [library["rebars"][0]],
        "levels": [{"id": "Level 1", "height_m": 3.6 if units == "SI" else 3.6576}], "grid_sets": [],
    }  # fmt: skip


def new_floor(project: Project, name: str) -> dict[str, Any]:
    """The document of a floor with nothing on it but self-weight, a dead, a live case and their combinations."""
    en = project.standard == "EN 1992-1-1"
    ultimate = {"G": 1.35, "D": 1.35, "Q": 1.5} if en else {"G": 1.2, "D": 1.2, "Q": 1.6}
    return {
        "format": "piastra-floor", "version": 1, "name": name, "slabs": [],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"},
                       {"id": "Q", "nature": "live", "pattern": True}],
        "combinations": [
            {"id": "Ultimate", "limit_state": "ultimate", "factors": ultimate},
            {"id": "Lasting", "limit_state": "quasi_permanent", "factors": {"G": 1.0, "D": 1.0, "Q": 0.3}},
        ],
        **shared_keys(project),
    }  # fmt: skip
