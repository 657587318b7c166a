"""Studies of a project: variants of its floors, computed behind what people wait for."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from piastra.api.combinations import download
from piastra.api.door import Asking
from piastra.api.floors import save
from piastra.api.messages import Made, NewFloor, Save
from piastra.api.projects import add_floor
from piastra.api.wiring import REFUSED, STALE, Manager, Sessions
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.shapes import Label
from piastra.core.model.variation import Varied, placed, variation
from piastra.exchange.study import Computed, table, varied_from
from piastra.exchange.tables import read_table
from piastra.store import repository as store
from piastra.store import studies as kept

router = APIRouter(prefix="/api")


class NewStudy(BaseModel):
    """A study to begin: of the newest revisions of some floors; what varies as in a study file."""

    name: Label
    floors: Annotated[list[int], Field(min_length=1, max_length=50)]
    vary: list[Varied]
    how: Literal["grid", "one_at_a_time", "list"] = "grid"
    history: bool = False


class StudyHead(BaseModel):
    """A study in the list of its project: so many of its variants are ``done``, ``of`` so many; one that is ``stopped`` is computed no further."""

    id: int
    name: str
    author: str
    made: datetime
    stopped: bool
    done: int
    of: int


class VariantState(BaseModel):
    """A variant by its number from 1: of which revision of which floor; what was ``found``, null until then."""

    number: int
    floor: int
    floor_name: str
    revision: int
    values: dict[str, Any]
    found: Computed | None


class StudyState(BaseModel):
    """A study with all its variants. ``behind``: floors that have been changed since."""

    id: int
    name: str
    stopped: bool
    vary: list[Varied]
    how: str
    history: bool
    variants: list[VariantState]
    behind: list[str]


class StudyMade(BaseModel):
    """A study that was begun."""

    id: int


class Stopping(BaseModel):
    """Whether a study is stopped."""

    stopped: bool


class Taking(BaseModel):
    """Whether a variant becomes a floor of its own, beside its floor, or the floor itself, as a revision that can be undone."""

    into: Literal["new", "floor"]
    told: Annotated[str, Field(max_length=200)] = ""
    """What the variant is, in the words and units of who takes it; by its paths if it is not given."""


class ReadVariants(BaseModel):
    """What varies, out of a table."""

    vary: list[Varied]


@router.get("/projects/{project_id}/studies", responses=REFUSED)
def studies(project_id: int, session: Sessions) -> list[StudyHead]:
    """The studies of a project, the newest first."""
    return [StudyHead.model_validate(h, from_attributes=True) for h in kept.heads(session, project_id)]


@router.post("/projects/{project_id}/studies", responses=REFUSED, status_code=201)
def begin_study(project_id: int, body: NewStudy, session: Sessions, manager: Manager, person: Asking) -> StudyMade:
    """Begin a study; its variants are computed while no run lacks a worker."""
    varied = variation({"vary": [v.model_dump() for v in body.vary], "how": body.how, "history": body.history})
    made = kept.add(session, project_id, person.id, body.name, varied, body.floors)
    session.commit()
    manager.study()
    return StudyMade(id=made.id)


@router.post("/projects/{project_id}/studies/read", responses=REFUSED)
async def read_variants(project_id: int, request: Request, name: str = "the table") -> ReadVariants:
    """What varies, out of a CSV or XLSX file: paths in its first row, a variant in each row below. Nothing is saved."""
    content = await request.body()
    return ReadVariants(vary=await run_in_threadpool(lambda: varied_from(read_table(content, name))))


@router.get("/projects/{project_id}/studies/{study_id}", responses=REFUSED)
def study(project_id: int, study_id: int, session: Sessions) -> StudyState:
    """A study with all its variants and what was found of them."""
    record = kept.study(session, project_id, study_id)
    varied = kept.varied_of(record)
    values = list(varied.variants())
    found = kept.variants(session, study_id)
    varied_revisions = {v.floor_id: (v.floor_name, v.revision) for v in found}
    return StudyState(
        id=study_id, name=record.name, stopped=record.stopped, vary=varied.vary, how=varied.how, history=varied.history,
        variants=[
            VariantState(
                number=v.number + 1, floor=v.floor_id, floor_name=v.floor_name, revision=v.revision,
                values=values[v.number % varied.count], found=Computed.model_validate(v.found) if v.found else None,
            )
            for v in found
        ],
        behind=[name for floor, (name, number) in varied_revisions.items() if store.newest(session, floor).number != number],
    )  # fmt: skip


@router.put("/projects/{project_id}/studies/{study_id}/stopped", responses=REFUSED, status_code=204)
def stop_study(project_id: int, study_id: int, body: Stopping, session: Sessions, manager: Manager) -> None:
    """Compute a study no further, or go on with it."""
    kept.stop(session, kept.study(session, project_id, study_id), body.stopped)
    session.commit()
    manager.study()


@router.delete("/projects/{project_id}/studies/{study_id}", responses=REFUSED, status_code=204)
def take_study_away(project_id: int, study_id: int, session: Sessions, manager: Manager) -> None:
    """Take a study away, with what was found."""
    kept.take_away(session, kept.study(session, project_id, study_id))
    session.commit()
    manager.study()


def _found(session: Session, study_id: int) -> list[Computed]:
    return [Computed.model_validate(v.found) for v in kept.variants(session, study_id) if v.found]


@router.get("/projects/{project_id}/studies/{study_id}/table.{kind}", responses=REFUSED, response_class=Response)
def study_table(project_id: int, study_id: int, kind: Literal["csv", "xlsx"], session: Sessions) -> Response:
    """What was found so far as the table that the command line writes."""
    record = kept.study(session, project_id, study_id)
    return download(table(kept.varied_of(record), _found(session, study_id)), kind)


@router.get("/projects/{project_id}/studies/{study_id}/file", responses=REFUSED, response_class=Response)
def study_file(project_id: int, study_id: int, session: Sessions) -> Response:
    """A study as a study file with its floors in it, for the command line."""
    record = kept.study(session, project_id, study_id)
    varied = kept.varied_of(record).model_dump(mode="json")
    content = {"format": "piastra-study", "version": 1, **varied, "floors": kept.documents(session, study_id)}
    return JSONResponse(content, headers={"Content-Disposition": 'attachment; filename="study.json"'})


@router.post("/projects/{project_id}/studies/{study_id}/variants/{number}/floor", responses=STALE)
def take_variant(
    project_id: int, study_id: int, number: int, body: Taking, session: Sessions, manager: Manager, person: Asking
) -> Made:
    """Make a variant a floor of its own, or the floor itself: its values are put into the floor's newest revision."""
    record = kept.study(session, project_id, study_id)
    variants = kept.variants(session, study_id)
    if not 1 <= number <= len(variants):
        raise store.MissingError(f"there is no variant {number} in this study; it has {len(variants)}")
    variant, varied = variants[number - 1], kept.varied_of(record)
    values = list(varied.variants())[variant.number % varied.count]
    floor, newest = store.floor(session, variant.floor_id), store.newest(session, variant.floor_id)
    document = store.unpack(newest.content)
    for path, value in values.items():
        document = placed(document, path, value)
    told = body.told or ", ".join(f"{p} {v}" for p, v in values.items())
    line = f"variant {number} of {record.name}: {told}"[:300]
    if body.into == "floor":
        if not values:
            raise RefusedError([Refusal("the variant", f"is {floor.name} as it is; nothing would change")])
        save(floor.id, Save(based_on=newest.number, document=document, line=line), session, manager, person)
        return Made(project=project_id, floor=floor.id)
    name = f"{floor.name}, variant {number}"
    return add_floor(project_id, NewFloor(document=document, name=name, level=floor.level), session, manager, person)
