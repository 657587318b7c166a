"""Forces of a frame analysis for all floors of a building out of one table: read, its cases told apart, and taken over."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from piastra.api.building import floors_that_count
from piastra.api.door import Asking
from piastra.api.floors import save
from piastra.api.messages import Save
from piastra.api.projects import with_project
from piastra.api.reading_messages import CellProblem
from piastra.api.wiring import REFUSED, Manager, Sessions
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.exchange import floor_file
from piastra.exchange.joint_table import ACTING, AtJoint, forces_from, joints_of, loads_of
from piastra.exchange.tables import read_table
from piastra.store import repository as store
from piastra.store.tables import FloorRecord

router = APIRouter(prefix="/api")

DIRECTION = re.compile(r"(?:^|[^a-z])([xy])(?:[^a-z]|$)|^[a-z]{1,2}([xy])(?:[^a-z]|$)")
"""Of a case by its name: Wx, EQy, wind x."""
Number = Annotated[float, Field(allow_inf_nan=False)]


class _Told(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Force(_Told):
    """What acts on one column or wall of a floor: a force downwards, kN, and moments about the plan's axes, kNm."""

    floor: int
    case: str
    support: str
    F_kN: Number = 0.0
    Mx_kNm: Number = 0.0
    My_kNm: Number = 0.0


class CaseOf(_Told):
    """A case of the table (``name``), and what it becomes: the load case ``takes`` of the floors, empty: it is left out. A floor that lacks that case
    is given it with the ``nature``, the ``direction`` and whether it comes with either sign."""

    name: str
    takes: str
    nature: Literal["wind", "seismic"] = "wind"
    direction: Literal["x", "y"] | None = None
    reversible: bool = True


class CaseRead(CaseOf):
    """With what is known of it: on how many floors there is such a case, and how many forces at joints it has there, which make way."""

    rows: int
    known: int
    there: int


class FloorRead(_Told):
    """A floor that the table has forces for."""

    id: int
    name: str
    level: str
    rows: int


class LateralRead(_Told):
    """What was read: forces whose floors, columns and walls are there, their cases as they may be taken over, and the cells that are wrong; ``labels`` of
    the floors' cases of wind and earthquakes."""

    forces: list[Force]
    cases: list[CaseRead]
    floors: list[FloorRead]
    labels: list[str]
    problems: list[CellProblem]


class TakeLateral(_Told):
    """Forces to take over, from a table of that ``name``."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    forces: Annotated[list[Force], Field(min_length=1, max_length=20_000)]
    cases: list[CaseOf]


class Taken(_Told):
    """A floor with the revision that it got."""

    floor: int
    name: str
    revision: int
    forces: int


def _floors(session: Session, project_id: int) -> dict[str, tuple[FloorRecord, Floor]]:
    """The floors that count, by their level and by their name, in small letters."""
    out = {}
    for record, state in floors_that_count(session, project_id):
        content = store.unpack(store.newest(session, record.id).content)
        found = (record, floor_file.floor_from(with_project(session, record, content)))
        # A name stands for its floor also where it is another one's level.
        out[state.level.casefold()] = found
        out[record.name.casefold()] = found
    return out


@router.post("/projects/{project_id}/lateral/read", responses=REFUSED)
async def read_lateral(project_id: int, request: Request, session: Sessions, name: str = "the table") -> LateralRead:
    """Forces out of a CSV or XLSX file with the columns Level, Case, Support, F, Mx, My. Nothing is saved."""
    content = await request.body()
    return await run_in_threadpool(lambda: _read(session, project_id, content, name))


def _read(session: Session, project_id: int, content: bytes, name: str) -> LateralRead:
    found, wrong = forces_from(read_table(content, name), levelled=True)
    floors = _floors(session, project_id)
    forces: list[Force] = []
    problems = [CellProblem(cell=w.cell, sentence=w.sentence) for w in wrong]
    joints = {record.id: joints_of(floor) for record, floor in floors.values()}
    for one in found:
        mine = floors.get(one.level.casefold())
        if mine is None:
            problems.append(CellProblem(cell=one.cells["level"], sentence=f"“{one.level}” is no level or floor that counts here"))
        elif one.support not in joints[mine[0].id]:
            told = f"“{one.support}” is no column or wall of {mine[0].name}"
            problems.append(CellProblem(cell=one.cells["support"], sentence=told))
        elif not one.case:
            problems.append(CellProblem(cell=one.cells["case"], sentence="is empty; every row needs its load case"))
        elif one.whole:
            forces.append(Force(floor=mine[0].id, case=one.case, support=one.support, **one.forces))
    problems.sort(key=lambda p: (int("".join(c for c in p.cell if c.isdigit())), p.cell))
    met = {f.floor for f in forces}
    mine_only = {record.id: (record, floor) for record, floor in floors.values() if record.id in met}
    cases = [_case(label, forces, [floor for _, floor in mine_only.values()]) for label in dict.fromkeys(f.case for f in forces)]
    rows = [
        FloorRead(id=id, name=record.name, level=record.level or "", rows=sum(f.floor == id for f in forces))
        for id, (record, _) in mine_only.items()
    ]
    labels = dict.fromkeys(c.id for _, f in mine_only.values() for c in f.load_cases if c.nature in ("wind", "seismic"))
    return LateralRead(forces=forces, cases=cases, floors=rows, labels=list(labels), problems=problems)


def _case(name: str, forces: list[Force], floors: list[Floor]) -> CaseRead:
    """A case of the table: the floors' case of that name, however it is spelled, or a new one, guessed by its name."""
    there = [c for f in floors for c in f.load_cases if c.id.casefold() == name.casefold()]
    takes = there[0].id if there else name
    along = DIRECTION.search(name.casefold())
    direction: Any = (along[1] or along[2]) if along else None
    return CaseRead(
        name=name, takes=takes, nature="seismic" if name[:1].casefold() in ("e", "s") else "wind", direction=direction,
        rows=sum(f.case == name for f in forces), known=len(there),
        there=sum(load.kind == "joint" and load.case == takes for f in floors for load in f.loads),
    )  # fmt: skip


@router.post("/projects/{project_id}/lateral", responses=REFUSED)
def take_lateral(project_id: int, body: TakeLateral, session: Sessions, manager: Manager, person: Asking) -> list[Taken]:
    """Give every floor its forces as loads at joints, in place of those that its cases had there; each floor gets a revision, which undoes by itself."""
    becomes = {c.name: c for c in body.cases if c.takes}
    counted = {record.id: record for record, _ in floors_that_count(session, project_id)}
    foreign = sorted({f.floor for f in body.forces} - set(counted))
    if foreign:
        raise RefusedError([Refusal("forces", "are for a floor that does not count in this building; read the table again")])
    wanted = []
    for floor_id in dict.fromkeys(f.floor for f in body.forces if f.case in becomes):
        mine = [f for f in body.forces if f.floor == floor_id and f.case in becomes]
        newest = store.newest(session, floor_id)
        document = _with(store.unpack(newest.content), mine, becomes)
        # What one floor refuses is refused for all, before any of them is changed.
        floor_file.floor_from(with_project(session, counted[floor_id], document))
        wanted.append((floor_id, mine, newest, document))
    out = []
    for floor_id, mine, newest, document in wanted:
        line = f"{len(mine)} {'force' if len(mine) == 1 else 'forces'} at columns and walls read from {body.name}"[:300]
        saved = save(floor_id, Save(based_on=newest.number, document=document, line=line), session, manager, person)
        out.append(Taken(floor=floor_id, name=counted[floor_id].name, revision=saved.revision, forces=len(mine)))
    if not out:
        raise RefusedError([Refusal("cases", "are all left out; let at least one of them become a load case")])
    return out


def _with(document: dict[str, Any], forces: list[Force], becomes: dict[str, CaseOf]) -> dict[str, Any]:
    """A floor's document with forces as loads of the cases that they become."""
    wanted = {becomes[f.case].takes: becomes[f.case] for f in forces}
    known = {c["id"] for c in document.get("load_cases", [])}
    cases = [
        {"id": label, "nature": c.nature, "reversible": c.reversible, **({"direction": c.direction} if c.direction else {})}
        for label, c in wanted.items() if label not in known
    ]  # fmt: skip
    kept = [l for l in document.get("loads", []) if l["kind"] != "joint" or l["case"] not in wanted]
    acting = [
        AtJoint("", becomes[f.case].takes, f.support, {key: v for key in ACTING if (v := getattr(f, key))}, {}) for f in forces
    ]
    loads = [*kept, *loads_of(acting, {l["id"] for l in kept})]
    return {**document, "load_cases": [*document.get("load_cases", []), *cases], "loads": loads}
