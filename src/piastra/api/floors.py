"""Floors: their revisions, twins, runs and results."""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response, StreamingResponse
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from piastra.api.bounds import few_enough
from piastra.api.door import Asking
from piastra.api.drawn import drawn
from piastra.api.messages import (
    Copied,
    CopyTo,
    FindingState,
    FloorState,
    HistoryEntry,
    LevelChoice,
    MendState,
    MendStep,
    Named,
    PieceState,
    Save,
    Saved,
    SectionLine,
    Step,
    Steps,
    StepState,
)
from piastra.api.projects import with_project
from piastra.api.streams import stream_of
from piastra.api.wiring import REFUSED, STALE, LateError, Manager, Sessions, late, run_summaries, start_runs
from piastra.core.audit import Add, Finding, Remove, Set, audit
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.core.model.copying import copied
from piastra.core.model.cutaway import section_along
from piastra.core.model.merge import changes, merge
from piastra.core.model.sharing import materials_of, with_shared
from piastra.core.trace.amounts import plain
from piastra.exchange import floor_file
from piastra.exchange.bar_drawing import bars_dxf, bars_svg
from piastra.exchange.fields import read_fields
from piastra.exchange.results_model import ResultsDocument
from piastra.exchange.tendon_drawing import tendons_dxf
from piastra.exchange.zone_drawing import zone_dxf, zone_svg
from piastra.jobs.listening import Runs
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, ProjectRevision, Revision

router = APIRouter(prefix="/api")


@router.get("/floors/{floor_id}", responses=REFUSED, response_model=FloorState)
def floor(floor_id: int, session: Sessions) -> Response:
    """A floor with its newest revision and its runs."""
    found = shared.opened(session, floor_id)
    record, last, head = found.record, found.last, found.head
    run, fresh = run_summaries(session, floor_id, last)
    family = [record] if found.alone else store.family(session, record)
    first = family[0]
    undo, redo = store.undo_and_redo(session, first, last if first is record else store.newest(session, first.id))
    # Given back here, in the thread that asked.
    session.close()
    state = FloorState(
        id=floor_id, name=record.name, project=head.record.name, project_id=record.project_id,
        level=record.level, follows=Named(id=first.id, name=first.name) if record.follows_id else None,
        twins=[Named(id=f.id, name=f.name) for f in family if f.id != floor_id],
        revision=last.number, author=found.author, line=last.line,
        document=with_shared(store.unpack(last.content), head.model, record.level), run=run, fresh=fresh, undo=undo, redo=redo,
    )  # fmt: skip
    # Written here and not by the framework, which checks and writes what an operation gives in further threads.
    return Response(state.model_dump_json(), media_type="application/json")


def fitted(session: Session) -> Callable[[FloorRecord, dict[str, Any]], dict[str, Any]]:
    """How a twin takes a document: with the heights of its own level."""
    return lambda record, document: floor_file.document(floor_file.floor_from(with_project(session, record, document)))


def _append(session: Session, manager: Runs, floor_id: int, based_on: int, document: dict[str, Any], author: str, line: str,
            restores: int | None = None) -> Saved:  # fmt: skip
    try:
        made = store.save_family(session, floor_id, based_on, document, author, line, restores, fitted(session))
    except store.StaleError as stale:
        session.rollback()
        raise late(stale, document, line) from None
    _rename(session, floor_id, document)
    session.commit()
    runs = start_runs(manager, session, made, author)
    mine = next(r for f, r in made if f.id == floor_id)
    run, stands = runs.get(floor_id), None
    # It is saved by now, whatever becomes of the database.
    with suppress(DBAPIError):
        # What was begun for it is the newest that it has.
        standing = store.standing_run(session, mine) if run is None else None
        stands = standing.id if standing is not None else None
    return Saved(
        revision=mine.number, line=mine.line, run=run, twins=[f.name for f, _ in made if f.id != floor_id],
        stands=stands,
    )  # fmt: skip


def _rename(session: Session, floor_id: int, document: dict[str, Any]) -> None:
    record = store.floor(session, floor_id)
    name = document.get("name", record.name)
    if name != record.name:
        if name in {f.name for f in store.floors(session, record.project_id)}:
            raise RefusedError([Refusal("name", f"is taken: there is a floor called {name} in this project; choose another")])
        record.name = name


@router.put("/floors/{floor_id}", responses=STALE)
def save(floor_id: int, body: Save, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Save a new revision and run it, with the floor's twins. 409 if another revision has come in since ``based_on``."""
    record = store.floor(session, floor_id)
    few_enough(body.document)
    mine = floor_file.document(floor_file.floor_from(with_project(session, record, body.document)))
    try:
        return _append(session, manager, floor_id, body.based_on, mine, person.name, body.line)
    except LateError as error:
        again = _sent_again(session, floor_id, body, mine, person.name)
        if again is not None:
            return again
        if body.settle == "ask" or (error.conflict.clashes and body.settle == "both"):
            raise
    last = store.newest(session, floor_id)
    base = store.unpack(store.revision(session, floor_id, body.based_on).content)
    both = merge(base, store.unpack(last.content), mine)
    document = floor_file.document(floor_file.floor_from(with_project(session, record, both.document)))
    return _append(session, manager, floor_id, last.number, document, person.name, body.line)


def _sent_again(session: Session, floor_id: int, body: Save, mine: dict[str, Any], author: str) -> Saved | None:
    """What was answered to this very save before, if that answer was lost on its way and it is sent again."""
    last, (head, *_) = store.newest(session, floor_id), store.history(session, floor_id, limit=1)
    if last.number != body.based_on + 1 or (head.author, head.line) != (author, body.line):
        return None
    if store.unpack(last.content) != mine:
        return None
    run = store.standing_run(session, last)
    return Saved(revision=last.number, line=last.line, run=run.id if run is not None else None)


def _travel(floor_id: int, body: Step, session: Session, manager: Runs, author: str, back: bool) -> Saved:
    # Twins share one line of changes: that of the floor they follow.
    record = store.floor(session, floor_id)
    first = store.family(session, record)[0]
    along = store.timeline(session, first)
    target = along.before if back else along.after
    if target is None:
        raise store.MissingError(f"there is nothing to {'undo' if back else 'redo'}")
    heads = {h.number: h for h in store.history(session, first.id, limit=10_000)}
    last = next(heads[n] for n in sorted(heads, reverse=True) if not heads[n].carried)
    done = heads[last.restores].line if last.restores in heads else last.line
    line = f"undid: {done}" if back else f"redid: {heads[target].line}"
    document = with_project(session, record, store.unpack(store.revision(session, first.id, target).content))
    if first.id != floor_id:
        document["name"] = record.name
    # A revision may name a material that the project has lost since.
    floor_file.floor_from(document)
    return _append(session, manager, floor_id, body.based_on, document, author, line, restores=target)


@router.post("/floors/{floor_id}/undo", responses=STALE)
def undo(floor_id: int, body: Step, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Bring the revision before back, as a new one."""
    return _travel(floor_id, body, session, manager, person.name, back=True)


@router.post("/floors/{floor_id}/redo", responses=STALE)
def redo(floor_id: int, body: Step, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Bring back what undo took away, as a new revision."""
    return _travel(floor_id, body, session, manager, person.name, back=False)


@router.get("/floors/{floor_id}/steps", responses=REFUSED)
def steps(floor_id: int, session: Sessions) -> Steps:
    """What undo would take back and redo would bring back: whichever of the floor's and the project's changes was made last, in one order."""
    record = store.floor(session, floor_id)
    first = store.family(session, record)[0]
    lines = (store.timeline(session, first), shared.timeline(session, record.project_id))

    def found(numbers: tuple[int | None, int | None]) -> dict[Literal["floor", "project"], Revision | ProjectRevision]:
        out: dict[Literal["floor", "project"], Revision | ProjectRevision] = {}
        if numbers[0] is not None:
            out["floor"] = store.revision(session, first.id, numbers[0])
        if numbers[1] is not None:
            out["project"] = shared.revision(session, record.project_id, numbers[1])
        return out

    standing = found((lines[0].standing, lines[1].standing))
    undone = found((lines[0].after, lines[1].after))
    last = max(standing, key=lambda of: (standing[of].made, of), default=None)
    # A change of either kind drops what had been undone before it.
    latest = max((r.made for r in standing.values()), default=None)
    open_ones = {of: r for of, r in undone.items() if latest is None or r.made > latest}
    following = min(open_ones, key=lambda of: (open_ones[of].made, of), default=None)
    return Steps(
        undo=StepState(of=last, line=standing[last].line) if last else None,
        redo=StepState(of=following, line=open_ones[following].line) if following else None,
    )


@router.post("/floors/{floor_id}/loose", responses=REFUSED)
def cut_loose(floor_id: int, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Make a twin a floor of its own, as it is."""
    record = store.floor(session, floor_id)
    if record.follows_id is None:
        raise RefusedError([Refusal("the floor", f"{record.name} follows no other floor")])
    first = store.floor(session, record.follows_id)
    last = store.newest(session, floor_id)
    line = f"cut loose from {first.name}"
    record.follows_id = None
    made = store.save(session, floor_id, last.number, store.unpack(last.content), person.name, line)
    record.begins = made.number
    session.commit()
    return Saved(revision=made.number, line=line, run=start_runs(manager, session, [(record, made)], person.name).get(floor_id))


@router.put("/floors/{floor_id}/level", status_code=204, responses=REFUSED)
def choose_level(floor_id: int, body: LevelChoice, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Say on which level of the project a floor lies; columns and walls that follow it take its heights, and new ones do."""
    record = store.floor(session, floor_id)
    known = [level.id for level in shared.head(session, record.project_id).model.levels]
    if body.level is not None and body.level not in known:
        raise RefusedError(
            [Refusal("level", f"{body.level} is not one of the project's levels: {', '.join(known) or 'none yet'}")]
        )
    record.level = body.level
    last = store.newest(session, floor_id)
    before = store.unpack(last.content)
    after = with_project(session, record, before)
    made = []
    if any(before.get(name) != after.get(name) for name in ("columns", "walls")):
        document = floor_file.document(floor_file.floor_from(after))
        line = f"heights of level {body.level}"
        made = [(record, store.save(session, floor_id, last.number, document, person.name, line, carried=True))]
    session.commit()
    start_runs(manager, session, made, person.name)
    return Response(status_code=204)


@router.post("/floors/{floor_id}/copy", responses=REFUSED)
def copy_to(floor_id: int, body: CopyTo, session: Sessions, manager: Manager, person: Asking) -> Copied:
    """Copy chosen kinds of objects to other floors of the project; each gets a revision that can be undone."""
    origin = store.floor(session, floor_id)
    source = store.unpack(store.newest(session, floor_id).content)
    same = {f.id for f in store.family(session, origin)}
    gained: dict[str, int] = {}
    made = []
    for target in dict.fromkeys(body.floors):
        record = store.floor_of(session, origin.project_id, target)
        if target in same:
            raise RefusedError([Refusal("floors", f"{record.name} has the same model as {origin.name}; choose other floors")])
        last = store.newest(session, target)
        before = store.unpack(last.content)
        try:
            after = copied(source, before, body.kinds, body.cases)
        except ValueError as error:
            raise RefusedError([Refusal("kinds", str(error))]) from None
        count = sum(c.kind == "added" for c in changes(before, after))
        gained[record.name] = count
        if count:
            document = floor_file.document(floor_file.floor_from(with_project(session, record, after)))
            line = f"copied {', '.join(k.replace('_', ' ') for k in body.kinds)} from {origin.name}"
            made += store.save_family(session, target, last.number, document, person.name, line, None, fitted(session))
    session.commit()
    start_runs(manager, session, made, person.name)
    return Copied(floors=gained)


def _step(s: Remove | Set | Add) -> MendStep:
    if isinstance(s, Add):
        return MendStep(list=s.list, id=s.item["id"], item=s.item)
    if isinstance(s, Remove):
        return MendStep(list=s.list, id=s.id)
    return MendStep(list=s.list, id=s.id, key=s.key, value=s.value)


def _finding(f: Finding) -> FindingState:
    steps = [_step(s) for s in (f.mend.steps if f.mend else ())]
    mend = MendState(line=plain(f.mend.line), said=f.mend.line, steps=steps, shared=f.mend.shared) if f.mend else None
    return FindingState(
        rule=f.rule,
        list=f.list,
        id=f.id,
        what=plain(f.what),
        why=plain(f.why),
        said=f"{f.what}\n{f.why}",
        at=list(f.at) if f.at else None,
        mend=mend,
    )


@router.get("/floors/{floor_id}/findings", responses=REFUSED)
def findings(floor_id: int, session: Sessions) -> list[FindingState]:
    """What the audit finds in the floor's newest revision."""
    record = store.floor(session, floor_id)
    document = with_project(session, record, store.unpack(store.newest(session, floor_id).content))
    others = [f for f in store.floors(session, record.project_id) if f.id != floor_id]
    elsewhere: set[str] = set()
    for other in others:
        elsewhere |= materials_of(store.unpack(store.newest(session, other.id).content))
    return [_finding(f) for f in audit(floor_file.floor_from(document), elsewhere)]


@router.post("/floors/{floor_id}/section", responses=REFUSED)
def section(floor_id: int, body: SectionLine, session: Sessions) -> list[PieceState]:
    """What a vertical plane through a line cuts."""
    record = store.floor(session, floor_id)
    document = with_project(session, record, store.unpack(store.newest(session, floor_id).content))
    return [PieceState(**asdict(p)) for p in section_along(floor_file.floor_from(document), body.line)]


@router.get("/floors/{floor_id}/file", responses=REFUSED)
def as_file(floor_id: int, session: Sessions) -> Response:
    """The floor as a floor file, to keep or to run elsewhere."""
    record = store.floor(session, floor_id)
    document = with_project(session, record, store.unpack(store.newest(session, floor_id).content))
    return Response(
        json.dumps(document, indent=1, ensure_ascii=False), media_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="floor.json"'},
    )  # fmt: skip


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


@router.post("/floors/{floor_id}/history", status_code=202, responses=REFUSED)
def compute_history(floor_id: int, session: Sessions, manager: Manager) -> Response:
    """Compute the floor with its history, where that does not follow by itself or was cancelled."""
    store.floor(session, floor_id)
    newest = store.newest(session, floor_id)
    document = store.unpack(newest.content)
    if not document.get("history"):
        raise RefusedError([Refusal("history", "is not given; begin one first")])
    manager.submit(floor_id, newest.id, newest.number, document, rigorous=True)
    return Response(status_code=202)


@router.get("/runs/{run_id}/results", responses=REFUSED, response_model=ResultsDocument)
def results(run_id: int, session: Sessions, request: Request) -> Response:
    """The results document of a run; to who reads that, as it is kept: compressed."""
    found, headers = store.result(session, run_id, "results"), {"Vary": "Accept-Encoding"}
    session.close()
    if _takes(request.headers.get("accept-encoding", ""), "deflate"):
        headers["Content-Encoding"] = "deflate"
    else:
        found = zlib.decompress(found)
    return Response(found, media_type="application/json", headers=headers)


def _takes(accepted: str, coding: str) -> bool:
    """Whether a coding is among those ``accepted`` (RFC 9110, 12.5.3), and not as one that is never to be used."""
    for one in accepted.lower().split(","):
        name, *weights = (part.strip() for part in one.split(";"))
        if name == coding:
            return not any(weight.removeprefix("q=").strip("0.") == "" for weight in weights)
    return False


@router.get("/runs/{run_id}/zone.{kind}", responses=REFUSED, response_class=Response)
def zone_sheet(run_id: int, kind: Literal["svg", "dxf"], row: str, session: Sessions) -> Response:
    """A punching zone of a run, by the key of its row, as a drawing."""
    floor, document = drawn(session, run_id)
    zone = next((z for z in document["zones"] if z["row"] == row), None)
    if zone is None:
        raise RefusedError([Refusal("row", f"this run has no zone '{row}'; open one from the ledger")])
    write, media = (zone_svg, "image/svg+xml") if kind == "svg" else (zone_dxf, "application/dxf")
    name = f"zone-{zone['id']}.{kind}".encode("ascii", "replace").decode().replace("?", "-").replace(" ", "-")
    return Response(write(floor, zone), media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/runs/{run_id}/bars.{kind}", responses=REFUSED, response_class=Response)
def bar_drawing(
    run_id: int, kind: Literal["svg", "dxf"], face: Literal["top", "bottom"], direction: Literal["x", "y"], session: Sessions
) -> Response:
    """The bars of one face and direction of a run, as a drawing."""
    floor, document = drawn(session, run_id)
    write, media = (bars_svg, "image/svg+xml") if kind == "svg" else (bars_dxf, "application/dxf")
    name = f"bars-{face}-{direction}.{kind}"
    return Response(
        write(floor, document, face, direction),
        media_type=media,
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.get("/runs/{run_id}/tendons.dxf", responses=REFUSED, response_class=Response)
def tendon_layout(run_id: int, session: Sessions) -> Response:
    """The layout of the tendons of a run, with their levels, as a drawing."""
    floor, document = drawn(session, run_id)
    headers = {"Content-Disposition": 'attachment; filename="tendons.dxf"'}
    return Response(tendons_dxf(floor, document), media_type="application/dxf", headers=headers)


@router.get("/runs/{run_id}/fields", responses=REFUSED, response_class=Response)
def fields(run_id: int, session: Sessions) -> Response:
    """The fields of a run, binary (see :mod:`piastra.exchange.fields`)."""
    return Response(read_fields(store.result(session, run_id, "fields")), media_type="application/octet-stream")


@router.get("/schema", response_class=Response)
def schema() -> Response:
    """The JSON Schema of the floor file."""
    return Response(json.dumps(Floor.model_json_schema()), media_type="application/json")


def _there(request: Request, floor_id: int) -> None:
    """Raises :class:`store.MissingError` for a floor that is not there; keeps no connection while the stream runs."""
    with request.app.state.sessions() as session:
        store.floor(session, floor_id)


@router.get("/floors/{floor_id}/events", responses=REFUSED, response_class=StreamingResponse)
async def events(floor_id: int, manager: Manager, request: Request) -> StreamingResponse:
    """Progress of the floor's runs, as server-sent events."""
    await run_in_threadpool(_there, request, floor_id)
    return stream_of([floor_id], manager, request)
