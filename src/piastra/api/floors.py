"""Projects, floors, revisions and results."""

from __future__ import annotations

import asyncio
import json
import zlib
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response, StreamingResponse
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from piastra.api.differences import differences
from piastra.api.messages import (
    CheckSummary,
    Conflict,
    FloorState,
    FloorSummary,
    HistoryEntry,
    NewFloor,
    Problems,
    ProjectSummary,
    RunSummary,
    Save,
    Saved,
    Step,
)  # fmt: skip
from piastra.core.model import Floor
from piastra.exchange import floor_file
from piastra.jobs.manager import RunManager
from piastra.store import repository as store
from piastra.store.tables import RunRecord

router = APIRouter(prefix="/api")

REFUSED: dict[int | str, dict[str, Any]] = {422: {"model": Problems}, 404: {"model": Problems}}
STALE: dict[int | str, dict[str, Any]] = {409: {"model": Conflict}, **REFUSED}


def _session(request: Request) -> Any:
    session = request.app.state.sessions()
    try:
        yield session
    finally:
        # The answer is on its way by now; a database that went away meanwhile must not break it off.
        with suppress(DBAPIError):
            session.close()


def _manager(request: Request) -> RunManager:
    manager: RunManager = request.app.state.manager
    return manager


Sessions = Annotated[Session, Depends(_session)]
Manager = Annotated[RunManager, Depends(_manager)]


def _run(found: tuple[RunRecord, int] | None) -> RunSummary | None:
    if found is None:
        return None
    run, number = found
    return RunSummary(id=run.id, revision=number, state=run.state, seconds=run.seconds, told=run.told)


def _verdict(session: Session, run: RunSummary | None) -> list[CheckSummary]:
    if run is None:
        return []
    return [
        CheckSummary(check=r.check, utilisation=r.utilisation, place=r.place, combination=r.combination, status=r.status)
        for r in store.verdict_rows(session, run.id)
    ]


@router.get("/projects")
def projects(session: Sessions) -> list[ProjectSummary]:
    """All projects with their floors and verdicts."""
    out = []
    for project in store.projects(session):
        floors = []
        for record in store.floors(session, project.id):
            fresh = _run(store.latest_run(session, record.id, "fresh"))
            floors.append(
                FloorSummary(
                    id=record.id, name=record.name, revision=store.newest(session, record.id).number,
                    run=_run(store.latest_run(session, record.id)), verdict=_verdict(session, fresh),
                )
            )  # fmt: skip
        out.append(ProjectSummary(id=project.id, name=project.name, floors=floors))
    return out


@router.post("/projects/{project_id}/floors", responses=REFUSED, status_code=201)
def add_floor(project_id: int, body: NewFloor, session: Sessions, manager: Manager) -> Saved:
    """Add a floor from a floor file."""
    floor = floor_file.floor_from(body.document)
    if project_id not in {p.id for p in store.projects(session)}:
        raise store.MissingError(f"there is no project {project_id}")
    taken = {f.name for f in store.floors(session, project_id)}
    name = floor.name
    while name in taken:
        name = f"{name} copy"
    record = store.add_floor(session, project_id, name, floor_file.document(floor), body.author)
    session.commit()
    last = store.newest(session, record.id)
    run = manager.submit(record.id, last.id, last.number, store.unpack(last.content))
    return Saved(revision=last.number, line=last.line, run=run)


@router.get("/floors/{floor_id}", responses=REFUSED)
def floor(floor_id: int, session: Sessions) -> FloorState:
    """A floor with its newest revision and its runs."""
    record = store.floor(session, floor_id)
    last = store.newest(session, floor_id)
    head = store.history(session, floor_id, limit=1)[0]
    project = next(p.name for p in store.projects(session) if p.id == record.project_id)
    undo, redo = store.neighbours_in_time(session, floor_id)
    return FloorState(
        id=floor_id, name=record.name, project=project, revision=last.number, author=head.author, line=last.line,
        document=store.unpack(last.content), run=_run(store.latest_run(session, floor_id)),
        fresh=_run(store.latest_run(session, floor_id, "fresh")), undo=undo is not None, redo=redo is not None,
    )  # fmt: skip


class LateError(Exception):
    """A save came too late; what to tell the one who saved."""

    def __init__(self, conflict: Conflict) -> None:
        super().__init__(conflict.sentence)
        self.conflict = conflict


def _append(session: Session, manager: RunManager, floor_id: int, based_on: int, document: Any, author: str, line: str,
            restores: int | None = None) -> Saved:  # fmt: skip
    try:
        made = store.save(session, floor_id, based_on, document, author, line, restores)
    except store.StaleError as stale:
        sentence = (
            f"{stale.author} saved revision {stale.newest} ({stale.line}) after the revision {stale.based_on} that your change "
            "is based on. Your change is not saved; load theirs, then apply yours again."
        )
        raise LateError(
            Conflict(
                sentence=sentence, based_on=stale.based_on, newest=stale.newest, author=stale.author, mine=line, line=stale.line,
                differs=differences(store.unpack(stale.theirs), document),
            )
        ) from None  # fmt: skip
    session.commit()
    run = manager.submit(floor_id, made.id, made.number, document)
    return Saved(revision=made.number, line=made.line, run=run)


@router.put("/floors/{floor_id}", responses=STALE)
def save(floor_id: int, body: Save, session: Sessions, manager: Manager) -> Saved:
    """Save a new revision and run it. 409 if another revision has come in since ``based_on``; nothing is lost."""
    checked = floor_file.document(floor_file.floor_from(body.document))
    return _append(session, manager, floor_id, body.based_on, checked, body.author, body.line)


def _travel(floor_id: int, body: Step, session: Session, manager: RunManager, back: bool) -> Saved:
    store.floor(session, floor_id)
    undo, redo = store.neighbours_in_time(session, floor_id)
    target = undo if back else redo
    if target is None:
        raise store.MissingError(f"there is nothing to {'undo' if back else 'redo'}")
    heads = {h.number: h for h in store.history(session, floor_id, limit=10_000)}
    last = heads[max(heads)]
    done = heads[last.restores].line if last.restores in heads else last.line
    line = f"undid: {done}" if back else f"redid: {heads[target].line}"
    document = store.unpack(store.revision(session, floor_id, target).content)
    return _append(session, manager, floor_id, body.based_on, document, body.author, line, restores=target)


@router.post("/floors/{floor_id}/undo", responses=STALE)
def undo(floor_id: int, body: Step, session: Sessions, manager: Manager) -> Saved:
    """Bring the revision before back, as a new one."""
    return _travel(floor_id, body, session, manager, back=True)


@router.post("/floors/{floor_id}/redo", responses=STALE)
def redo(floor_id: int, body: Step, session: Sessions, manager: Manager) -> Saved:
    """Bring back what undo took away, as a new revision."""
    return _travel(floor_id, body, session, manager, back=False)


@router.get("/floors/{floor_id}/history", responses=REFUSED)
def history(floor_id: int, session: Sessions) -> list[HistoryEntry]:
    """The newest revisions, newest first."""
    store.floor(session, floor_id)
    return [HistoryEntry(number=h.number, author=h.author, made=h.made, line=h.line) for h in store.history(session, floor_id)]


@router.post("/floors/{floor_id}/cancel", status_code=204, responses=REFUSED)
def cancel(floor_id: int, session: Sessions, manager: Manager) -> Response:
    """Cancel the floor's open run."""
    store.floor(session, floor_id)
    manager.stop(floor_id, "cancelled")
    return Response(status_code=204)


@router.get("/runs/{run_id}/results", responses=REFUSED)
def results(run_id: int, session: Sessions) -> Response:
    """The results document of a run."""
    return Response(zlib.decompress(store.result(session, run_id, "results")), media_type="application/json")


@router.get("/runs/{run_id}/fields", responses=REFUSED, response_class=Response)
def fields(run_id: int, session: Sessions) -> Response:
    """The fields of a run, binary (see :mod:`piastra.exchange.fields`)."""
    return Response(zlib.decompress(store.result(session, run_id, "fields")), media_type="application/octet-stream")


@router.get("/schema", response_class=Response)
def schema() -> Response:
    """The JSON Schema of the floor file."""
    return Response(json.dumps(Floor.model_json_schema()), media_type="application/json")


@router.get("/floors/{floor_id}/events", responses=REFUSED, response_class=StreamingResponse)
async def events(floor_id: int, manager: Manager) -> StreamingResponse:
    """Progress of the floor's runs, as server-sent events."""
    loop = asyncio.get_running_loop()
    queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
    stop = manager.listen(floor_id, lambda event: loop.call_soon_threadsafe(queue.put_nowait, event) and None)

    async def stream() -> AsyncIterator[str]:
        try:
            yield ": listening\n\n"
            while True:
                try:
                    event = await asyncio.wait_for(queue.get(), 15.0)
                    yield f"data: {json.dumps(event)}\n\n"
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            stop()

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-cache"})
