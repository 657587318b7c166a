"""What the API takes and gives of readings, runs, combinations and tables."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from piastra.api.messages import FloorDocument, Vertex
from piastra.core.model.loading import Combination, CombinationSet, JointLoad
from piastra.core.model.shapes import Coordinate, Label
from piastra.exchange.results_model import LoadedPanel, MessageState


class QuantityState(BaseModel):
    """A quantity that can be read."""

    key: str
    symbol: str
    name: str
    unit: str
    senses: list[str]
    direction: bool


class SelectionState(BaseModel):
    """A case or combination that can be read; ``pattern``: whether arrangements change it."""

    of: str
    kind: Literal["case", "combination"]
    limit_state: str | None
    pattern: bool


class ArrangementState(BaseModel):
    """A named arrangement: the ``share`` of the live load on its panels, and whether the standard asks for it."""

    name: str
    share: float
    panels: list[str]
    required: bool


class Catalogue(BaseModel):
    """Everything that can be read of a run."""

    quantities: list[QuantityState]
    selections: list[SelectionState]
    arrangements: list[ArrangementState]
    bedded: bool


class GovernedState(BaseModel):
    """A value and the panels that are loaded for it."""

    value: float
    panels: list[LoadedPanel]


class UnderState(BaseModel):
    """The value under a named arrangement."""

    arrangement: str
    value: float
    required: bool


class ReadingState(BaseModel):
    """One quantity at one place under one case or combination."""

    quantity: str
    unit: str
    of: str
    all: float
    none: float
    least: GovernedState | None
    greatest: GovernedState | None
    under: list[UnderState]


class PeakState(BaseModel):
    """An extreme value along a slice: where on it (m), and the panels that are loaded for it."""

    value: float | None
    at_m: float
    panels: list[LoadedPanel]


class PlacesRead(BaseModel):
    """Points of the plan (m) to read under a case or combination with all live load."""

    of: str
    at: list[tuple[Coordinate, Coordinate]] = Field(max_length=500)


class PlaceValues(BaseModel):
    """What is read at a point; null beside the floor."""

    w_mm: float | None
    mx_kNm_m: float | None
    my_kNm_m: float | None
    mxy_kNm_m: float | None
    vx_kN_m: float | None
    vy_kN_m: float | None


class SliceLine(BaseModel):
    """A slice to read: two points, m."""

    line: list[Vertex] = Field(min_length=2, max_length=2)
    quantity: str
    of: str
    width_m: float = Field(default=0.0, ge=0, le=100)


class DiagramState(BaseModel):
    """A quantity along a slice; null beside the floor."""

    quantity: str
    unit: str
    of: str
    s_m: list[float]
    all: list[float | None]
    least: list[float | None]
    greatest: list[float | None]
    low: PeakState
    high: PeakState
    area: float
    total: float | None
    """Moment or shear of the free body on one side of the slice; null where there is none, as for other quantities."""
    length_m: float
    mean: float | None


class StripPeak(BaseModel):
    """The extreme of an effect along a strip, with the combination and the panels that are loaded."""

    value: float
    at_m: float
    combination: str
    panels: list[LoadedPanel]


class StripAlong(BaseModel):
    """An effect at the stations of a strip: least and greatest, by whichever combinations; both the same under one arrangement."""

    strip: str
    effect: str
    unit: str
    s_m: list[float]
    width_m: list[float]
    least: list[float]
    greatest: list[float]
    least_of: list[str]
    greatest_of: list[str]
    low: StripPeak
    high: StripPeak


class ReactionRow(BaseModel):
    """The reaction of one support."""

    support: str
    F_kN: float
    Mx_kNm: float
    My_kNm: float


class ReactionTable(BaseModel):
    """Reactions of all supports with their sum and the load that is applied (null over arrangements)."""

    rows: list[ReactionRow]
    sum_kN: float | None
    applied_kN: float | None


class RunEntry(BaseModel):
    """A run in the list: of which revision, what changed, its state and times by stage."""

    id: int
    revision: int
    line: str
    state: str
    begun: datetime
    seconds: float | None
    stages: dict[str, float]
    messages: list[MessageState]
    told: str
    readable: bool
    kept_MB: float
    """What is kept of it."""
    model_kB: float
    """The revision's floor file as it is stored."""


class RunList(BaseModel):
    """The newest runs of a floor, and the rule by which their results are kept."""

    runs: list[RunEntry]
    kept_runs: int
    kept_MB: float
    """At most; the newest run's are kept however large they are."""


class ProbeEntry(BaseModel):
    """What a probe read in one run, by case and combination."""

    run: int
    revision: int
    line: str
    values: dict[str, dict[str, float | None]]


class ParameterState(BaseModel):
    """A value of the standard that may be chosen nationally, with the project's own value."""

    key: str
    symbol: str
    meaning: str
    value: float
    own: float | None
    source: str
    design: bool


class Generate(BaseModel):
    """A floor whose combinations are to be generated."""

    document: FloorDocument
    options: dict[str, str | bool] = {}
    """Options of the standard by key; those left out are as it has them."""


class CombinationRows(BaseModel):
    """Combinations as the floor file has them, and what changed against those that were there."""

    combinations: list[Combination]
    added: int
    removed: int
    kept: int
    missing: list[str] = []
    """Kinds of case that a set combines and the floor does not have."""


class CombinationSetState(BaseModel):
    """A set of combinations, and the project that keeps it."""

    project: str
    set: CombinationSet


class SetName(BaseModel):
    """What a set is to be called."""

    name: Label


class TakeSet(BaseModel):
    """A set to take rows from."""

    set: dict[str, Any]


class CellProblem(BaseModel):
    """What is wrong with one cell of a table that was read."""

    cell: str
    sentence: str


class ReadTable(BaseModel):
    """Rows that were read of a table, or the cells that are wrong."""

    combinations: list[Combination]
    problems: list[CellProblem]


class ReadLoads(BaseModel):
    """Loads at joints that were read of a table, or the cells that are wrong."""

    loads: list[JointLoad]
    problems: list[CellProblem]


class TableFile(BaseModel):
    """A table to download: its title, the columns' names, and rows of texts, numbers and empty cells."""

    title: str = Field(min_length=1, max_length=80)
    columns: list[str] = Field(min_length=1, max_length=400)
    rows: list[list[str | float | None]] = Field(max_length=20000)
