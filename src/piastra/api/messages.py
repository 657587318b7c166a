"""What the API takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field


class Problem(BaseModel):
    """One thing that is wrong with a request: the field's path, and a sentence."""

    path: str
    sentence: str


class Problems(BaseModel):
    """Everything that is wrong with a request."""

    problems: list[Problem]


class CheckSummary(BaseModel):
    """The worst of one check."""

    check: str
    utilisation: float | None
    place: str
    combination: str
    status: str


class RunSummary(BaseModel):
    """A run's state; ``revision`` is the number of the revision that it computes."""

    id: int
    revision: int
    state: str
    seconds: float | None
    told: str


class FloorSummary(BaseModel):
    """A floor in the list of a project."""

    id: int
    name: str
    revision: int
    run: RunSummary | None
    verdict: list[CheckSummary]


class ProjectSummary(BaseModel):
    """A project with its floors."""

    id: int
    name: str
    floors: list[FloorSummary]


class FloorState(BaseModel):
    """A floor with its newest revision. ``undo`` and ``redo`` tell whether there is something to take back."""

    id: int
    name: str
    project: str
    revision: int
    author: str
    line: str
    document: dict[str, Any]
    run: RunSummary | None
    fresh: RunSummary | None
    undo: bool
    redo: bool


class Save(BaseModel):
    """A new revision of a floor, and the revision that it is based on."""

    based_on: int
    document: dict[str, Any]
    line: str = Field(min_length=1, max_length=300)
    author: str = Field(default="designer", min_length=1, max_length=80)


class Step(BaseModel):
    """Undo or redo, and the revision that it is based on."""

    based_on: int
    author: str = Field(default="designer", min_length=1, max_length=80)


class Saved(BaseModel):
    """A revision that was made."""

    revision: int
    line: str
    run: int


class Conflict(BaseModel):
    """A save came too late: whose revision stands in between, and what differs from it."""

    sentence: str
    based_on: int
    newest: int
    author: str
    mine: str
    line: str
    differs: list[str]


class HistoryEntry(BaseModel):
    """A revision in the history."""

    number: int
    author: str
    made: datetime
    line: str


class NewFloor(BaseModel):
    """A floor file to add to a project."""

    document: dict[str, Any]
    author: str = Field(default="designer", min_length=1, max_length=80)
