"""What the API takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, RootModel, WithJsonSchema

from piastra.core.model.shapes import Coordinate, Label
from piastra.exchange.results_model import CheckRow
from piastra.store.tables import Role

FloorDocument = Annotated[dict[str, Any], WithJsonSchema({"type": "object", "x-document": "Floor"})]
"""A floor file."""
ProjectDocument = Annotated[dict[str, Any], WithJsonSchema({"type": "object", "x-document": "Project"})]
"""A project file."""


Vertex = Annotated[list[Coordinate], Field(min_length=2, max_length=3)]
"""A point of the plan (m), with the bulge of the edge after it."""


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


class RunEvent(BaseModel):
    """What listeners of a floor hear of a run: its state, the stage it is in and the share done; the verdict as soon as it is
    known, first without what lasts and then ``whole``."""

    kind: Literal["run"]
    floor: int
    run: int
    revision: int
    state: str
    stage: str = ""
    share: float = 0.0
    told: str = ""
    verdict: list[CheckRow] | None = None
    whole: bool = True


class RevisionEvent(BaseModel):
    """What listeners of a floor hear of a new revision."""

    kind: Literal["revision"]
    floor: int
    revision: int
    author: str
    line: str


class ReviewEvent(BaseModel):
    """What listeners of a floor hear of a comment or a signature: there is something new."""

    kind: Literal["review"]
    floor: int


class FloorEvent(RootModel[RunEvent | RevisionEvent | ReviewEvent]):
    """One event of a floor."""


class FloorSummary(BaseModel):
    """A floor in the list of a project."""

    id: int
    name: str
    revision: int
    level: str | None
    follows: int | None
    run: RunSummary | None
    verdict: list[CheckSummary]


class ProjectSummary(BaseModel):
    """A project with its floors, and what who asks is in it."""

    id: int
    name: str
    role: Role
    units: str
    floors: list[FloorSummary]


class Awayness(BaseModel):
    """Whether something is put away."""

    away: bool


class FloorOrder(BaseModel):
    """The order of a project's floors."""

    floors: list[int] = Field(min_length=1, max_length=1000)


class PutAway(BaseModel):
    """What was put away: a floor, or a whole project where ``floor`` is null."""

    project: int
    project_name: str
    floor: int | None
    name: str


class FloorInFile(BaseModel):
    """A floor of a project file."""

    document: FloorDocument
    level: str | None = None
    follows: int | None = None


class ProjectFile(BaseModel):
    """A whole project, to keep or to take elsewhere: what its floors share, and each floor as a floor file, with the number (from 0) of the floor
    that it ``follows`` as a twin."""

    format: Literal["piastra-project"] = "piastra-project"
    version: Literal[1] = 1
    project: ProjectDocument
    floors: list[FloorInFile] = Field(max_length=1000)


class TakenIn(BaseModel):
    """A project file, and the name of the new project (null: its own)."""

    file: ProjectFile
    name: Label | None = None


class StoreyState(BaseModel):
    """A level as computed: elevation of its floor, heights of the storeys below and above, m."""

    id: str
    elevation_m: float
    below_m: float
    above_m: float | None


class ProjectState(BaseModel):
    """What a project's floors share, at its newest revision; ``library`` has the standard's common materials."""

    id: int
    revision: int
    author: str
    line: str
    document: ProjectDocument
    storeys: list[StoreyState]
    library: dict[str, list[dict[str, Any]]]
    undo: bool
    redo: bool


class NewProject(BaseModel):
    """A project to begin."""

    name: Label
    units: Literal["SI", "US"] = "SI"
    standard: str = "EN 1992-1-1"


class Made(BaseModel):
    """A project or a floor that was made: the floor to open."""

    project: int
    floor: int


class Named(BaseModel):
    """A floor by its name."""

    id: int
    name: str


class FloorState(BaseModel):
    """A floor with its newest revision. ``undo`` and ``redo`` tell whether there is something to take back.

    ``follows`` is the floor whose twin it is; ``twins`` are the floors that have the same model.
    """

    id: int
    name: str
    project: str
    project_id: int
    level: str | None
    follows: Named | None
    twins: list[Named]
    revision: int
    author: str
    line: str
    document: FloorDocument
    run: RunSummary | None
    fresh: RunSummary | None
    undo: bool
    redo: bool


class Save(BaseModel):
    """A new revision of a floor or project, and the revision that it is based on.

    ``settle``: what to do when another revision has come in between. ``ask`` answers 409; ``both`` keeps both
    changes if they do not touch; ``mine`` keeps both, and mine where they do.
    """

    based_on: int
    document: dict[str, Any]
    line: str = Field(min_length=1, max_length=300)
    settle: Literal["ask", "both", "mine"] = "ask"


class Step(BaseModel):
    """Undo or redo, and the revision that it is based on."""

    based_on: int


class StepState(BaseModel):
    """A change that undo takes back or redo brings back: of the floor or of the project."""

    of: Literal["floor", "project"]
    line: str


class Steps(BaseModel):
    """What undo and redo would do now; null: nothing."""

    undo: StepState | None
    redo: StepState | None


class Saved(BaseModel):
    """A revision that was made."""

    revision: int
    line: str
    run: int | None
    twins: list[str] = []
    """Names of the floors with the same model that were changed along."""
    stands: int | None = None
    """A run of an earlier revision, ended or under way, whose results are those of the new one as well; then nothing runs."""


class DifferenceState(BaseModel):
    """One value that differs between two revisions, at a path within an object or a setting (without ``id``); what is new or gone has no path."""

    list: str
    id: str
    kind: Literal["added", "deleted", "changed"]
    path: str
    before: Any = None
    after: Any = None


class Differences(BaseModel):
    """How many values differ, and the ``first`` of them."""

    count: int
    first: list[DifferenceState]


class Clash(BaseModel):
    """An object, or a setting (without ``id``), that both changed."""

    list: str
    id: str


class Conflict(BaseModel):
    """A save came too late: whose revision stands in between, what each changed since the revision that both know,
    and where both changed the same thing."""

    sentence: str
    based_on: int
    newest: int
    author: str
    mine: str
    line: str
    theirs: Differences
    yours: Differences
    clashes: list[Clash]


class HistoryEntry(BaseModel):
    """A revision in the history."""

    number: int
    author: str
    made: datetime
    line: str


class NewFloor(BaseModel):
    """A floor to add to a project: from a floor file, as a copy or a twin of another floor, or empty."""

    document: FloorDocument | None = None
    name: Label | None = None
    level: str | None = None
    copy_of: int | None = None
    twin_of: int | None = None


class CopyTo(BaseModel):
    """Copy kinds of objects to other floors; of loads, those of the cases (none given: all)."""

    floors: list[int] = Field(min_length=1)
    kinds: list[str] = Field(min_length=1)
    cases: list[str] = []


class Copied(BaseModel):
    """The floors that took over what was copied, with how many objects each gained."""

    floors: dict[str, int]


class MendStep(BaseModel):
    """One step of a mend: an ``item`` is added, otherwise without a ``key`` the object is removed, or that value of it is set."""

    list: str
    id: str
    key: str | None = None
    value: Any = None
    item: dict[str, Any] | None = None


class MendState(BaseModel):
    """What one click does. ``shared``: it changes the project."""

    line: str
    said: str
    """The line with its amounts marked."""
    steps: list[MendStep]
    shared: bool


class FindingState(BaseModel):
    """One finding of the audit."""

    rule: str
    list: str
    id: str
    what: str
    why: str
    said: str
    """What and why with their amounts marked, for readers in other units; parted by a line's end."""
    at: tuple[float, float] | None
    mend: MendState | None


class OutlineWork(BaseModel):
    """Outlines to join, to cut by the line, or to subtract from the first."""

    operation: Literal["join", "cut", "subtract"]
    outlines: list[list[Vertex]] = Field(min_length=1, max_length=500)
    line: list[Vertex] | None = None


class OutlineAnswer(BaseModel):
    """What came out, the largest first, and holes inside of it."""

    outlines: list[list[list[float]]]
    holes: list[list[list[float]]]


class DrawingLine(BaseModel):
    """A line of a drawing as points, m, arcs as chords."""

    layer: str
    points: list[list[float]]


class LayerState(BaseModel):
    """A layer of a drawing: how many lines and texts it has."""

    name: str
    lines: int
    texts: int


class UnreadState(BaseModel):
    """What could not be read or was not used: how many of what, where, and why."""

    layer: str
    what: str
    count: int
    why: str


class DrawingState(BaseModel):
    """The drawing under a floor, to show and to choose layers of."""

    id: int
    name: str
    unit: str
    layers: list[LayerState]
    lines: list[DrawingLine]
    notes: list[str]
    unread: list[UnreadState]


class LayerChoice(BaseModel):
    """What each chosen layer is to become; the thickness (m) of walls drawn as centre lines."""

    layers: dict[str, str] = Field(min_length=1)
    wall_thickness_m: float = Field(default=0.2, gt=0, le=5)


class RecognisedState(BaseModel):
    """Geometry found on the chosen layers, by kind, and what was not used."""

    slabs: list[dict[str, Any]]
    openings: list[dict[str, Any]]
    drop_panels: list[dict[str, Any]]
    columns: list[dict[str, Any]]
    beams: list[dict[str, Any]]
    walls: list[dict[str, Any]]
    grid: list[dict[str, Any]]
    unused: list[UnreadState]


class SectionLine(BaseModel):
    """The line of a section: two points, m."""

    line: list[Vertex] = Field(min_length=2, max_length=2)


class PieceState(BaseModel):
    """A cut rectangle of a section, m."""

    list: str
    id: str
    start: float
    end: float
    bottom: float
    top: float


class LevelChoice(BaseModel):
    """The level of the project that a floor lies on; null: none."""

    level: str | None


class ChoiceState(BaseModel):
    """One value of an option, and its words."""

    value: str
    words: str


class OptionState(BaseModel):
    """A choice in generating combinations: among ``choices``, or yes and no without any."""

    key: str
    name: str
    default: str | bool
    choices: list[ChoiceState]


class StandardState(BaseModel):
    """A design standard: categories of use with their meaning, and the options of its combinations."""

    name: str
    categories: dict[str, str]
    options: list[OptionState]
