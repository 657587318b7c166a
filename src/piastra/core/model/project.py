"""What the floors of a building share: units, standard, materials, levels and setting-out lines."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, ValidationError, model_validator

from piastra.core.model.floor import GridLine, layers_of_nothing
from piastra.core.model.loading import BuildUp, CombinationSet, LoadMaterial, Occupancy, Partition
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.refusal import Refusal, RefusedError, refusals_of
from piastra.core.model.shapes import Label, Line, Number, Point, Positive, Record
from piastra.core.model.standard_names import StandardName, design_values

SHARED = (
    "standard",
    "parameters",
    "concretes",
    "rebars",
    "grid",
    "load_materials",
    "build_ups",
    "partitions",
    "occupancies",
    "level",
)
"""Keys of the floor file that a floor takes from its project."""


LOADING = ("load_materials", "build_ups", "partitions", "occupancies")
"""Lists of a project from which loads take their values."""


class Level(Record):
    """A level of the building. ``height_m``: from the level below, or from the base for the lowest one."""

    id: Label
    height_m: Positive


class TitleLine(Record):
    """A line of the title block of reports: what it is (job, client, part), and what stands there."""

    id: Label
    text: Annotated[str, Field(max_length=200)] = ""


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
    standard: StandardName = "EN 1992-1-1"
    concretes: Annotated[list[Concrete], Field(min_length=1)]
    rebars: Annotated[list[Rebar], Field(min_length=1)]
    base_m: Number = 0.0
    """Elevation of the base from which the lowest level's height counts."""
    levels: list[Level] = []
    grid_sets: list[GridSet] = []
    load_materials: list[LoadMaterial] = []
    build_ups: list[BuildUp] = []
    partitions: list[Partition] = []
    occupancies: list[Occupancy] = []
    parameters: dict[Label, Number] = {}
    """National values that replace the standard's recommended ones, by key."""
    combination_sets: list[CombinationSet] = []
    title_block: Annotated[list[TitleLine], Field(max_length=12)] = []

    @model_validator(mode="after")
    def _labels_once(self) -> Project:
        found = []
        for name in ("concretes", "rebars", "levels", "grid_sets", *LOADING, "combination_sets", "title_block"):
            seen: set[str] = set()
            for i, item in enumerate(getattr(self, name)):
                if item.id in seen:
                    found.append(Refusal(f"{name}[{i}].id", f"repeats the id '{item.id}'; give it its own id"))
                seen.add(item.id)
        found += layers_of_nothing(self.build_ups, self.partitions, {m.id for m in self.load_materials})
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


def level_of(project: Project, level: str | None) -> dict[str, Any] | None:
    """The level of a floor as its floor file has it; None where the project has none of that name."""
    here = next((s for s in storeys(project) if s.id == level), None)
    return None if here is None else {"id": here.id, "below_m": here.below, "above_m": here.above}


def shared_keys(project: Project) -> dict[str, Any]:
    """The part of the floor file that a project gives to all of its floors."""
    return {
        "standard": project.standard,
        **({"parameters": own} if (own := design_values(project.standard, project.parameters)) else {}),
        "concretes": [c.model_dump(exclude_unset=True) for c in project.concretes],
        "rebars": [r.model_dump(exclude_unset=True) for r in project.rebars],
        "grid": [g.model_dump() for g in grid_lines(project)],
        **{name: [i.model_dump(exclude_unset=True) for i in getattr(project, name)] for name in LOADING},
    }


def project_of(document: dict[str, Any], name: str) -> dict[str, Any]:
    """A project document that fits a floor file: its standard and materials, its grid lines as single lines."""
    return {
        "format": "piastra-project",
        "version": 1,
        "name": name,
        "standard": document.get("standard", "EN 1992-1-1"),
        "parameters": document.get("parameters", {}),
        "concretes": document["concretes"],
        "rebars": document["rebars"],
        "grid_sets": [{"id": g["id"], "kind": "single", "line": g["line"]} for g in document.get("grid", [])],
        **{key: document[key] for key in LOADING if document.get(key)},
    }
