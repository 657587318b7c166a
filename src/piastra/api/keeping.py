"""Keeping projects and floors: their order, what is put away and comes back, whole projects as files."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Response
from sqlalchemy.orm import Session

from piastra.api.bounds import few_enough
from piastra.api.door import Asking, Person
from piastra.api.messages import Awayness, FloorInFile, FloorOrder, Made, ProjectFile, PutAway, TakenIn
from piastra.api.projects import with_project
from piastra.api.wiring import REFUSED, Manager, Sessions, start_runs
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.project import project_from
from piastra.core.model.sharing import taken_in
from piastra.exchange import floor_file
from piastra.store import people
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord

router = APIRouter(prefix="/api")


@router.get("/put-away")
def put_away(session: Sessions, person: Asking) -> list[PutAway]:
    """What was put away of the projects that a person works in: whole ones, and floors of those that are there."""
    out = []
    for project, _ in people.projects_of(session, person.id):
        if project.put_away:
            out.append(PutAway(project=project.id, project_name=project.name, floor=None, name=project.name))
            continue
        away = [f for f in store.floors(session, project.id) if f.put_away]
        out += [PutAway(project=project.id, project_name=project.name, floor=f.id, name=f.name) for f in away]
    return out


@router.put("/floors/{floor_id}/away", status_code=204, responses=REFUSED)
def keep_floor(floor_id: int, body: Awayness, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Put a floor away, with all its revisions, or bring it back; the last one of a project stays."""
    record = store.floor(session, floor_id)
    there = [f for f in store.floors(session, record.project_id) if not f.put_away]
    if body.away and [f.id for f in there] == [floor_id]:
        raise RefusedError([Refusal("the floor", f"{record.name} is the last one of its project; put the project away instead")])
    record.put_away = body.away
    session.commit()
    if body.away:
        manager.stop(floor_id, "cancelled")
    else:
        # Its results may have been let go meanwhile.
        start_runs(manager, session, [(record, store.newest(session, floor_id))], person.name)
    return Response(status_code=204)


@router.put("/projects/{project_id}/away", status_code=204, responses=REFUSED)
def keep_project(project_id: int, body: Awayness, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Put a project away, or bring it back."""
    shared.head(session, project_id).record.put_away = body.away
    session.commit()
    there = [f for f in store.floors(session, project_id) if not f.put_away]
    if body.away:
        for floor in there:
            manager.stop(floor.id, "cancelled")
    else:
        start_runs(manager, session, [(f, store.newest(session, f.id)) for f in there], person.name)
    return Response(status_code=204)


@router.put("/projects/{project_id}/order", status_code=204, responses=REFUSED)
def order(project_id: int, body: FloorOrder, session: Sessions) -> Response:
    """Put the floors of a project in order."""
    shared.head(session, project_id)
    store.put_in_order(session, project_id, body.floors)
    session.commit()
    return Response(status_code=204)


@router.get("/projects/{project_id}/file", responses=REFUSED)
def project_file(project_id: int, session: Sessions) -> Response:
    """The whole project as a file: what its floors share, and its floors."""
    head = shared.head(session, project_id)
    there = [f for f in store.floors(session, project_id) if not f.put_away]
    number = {f.id: k for k, f in enumerate(there)}
    floors = [
        FloorInFile(
            document=with_project(session, f, store.unpack(store.newest(session, f.id).content)), level=f.level,
            follows=number.get(f.follows_id) if f.follows_id else None,
        )
        for f in there
    ]  # fmt: skip
    content = ProjectFile(project=head.document, floors=floors).model_dump(mode="json")
    name = quote(f"{head.record.name}.json", safe="")
    return Response(
        json.dumps(content, indent=1, ensure_ascii=False), media_type="application/json",
        headers={"Content-Disposition": f"attachment; filename=project.json; filename*=UTF-8''{name}"},
    )  # fmt: skip


@router.post("/projects/file", responses=REFUSED, status_code=201)
def from_file(body: TakenIn, session: Sessions, manager: Manager, person: Asking) -> Made:
    """A new project from a project file; a name that is taken gets a number. Nothing is kept unless all of it is right."""
    if not body.file.floors:
        raise RefusedError([Refusal("floors", "are none; a project needs at least one")])
    people.not_too_many(session, person.id)
    for floor in body.file.floors:
        few_enough(floor.document)
    names = [f.document.get("name", f"Floor {k + 1}") for k, f in enumerate(body.file.floors)]
    if twice := sorted({str(n) for n in names if names.count(n) > 1}):
        raise RefusedError([Refusal("floors", f"{twice[0]} is the name of two; give each its own")])
    document = project_from(body.file.project).model_dump(mode="json", exclude_unset=True)
    document["name"] = _free(session, person, body.name or document["name"])
    made = shared.add(session, document, person.name)
    people.give_role(session, made.record.id, person.id, "owner")
    records: list[FloorRecord] = []
    for k, floor in enumerate(body.file.floors):
        own, changed = _floor(floor, k, document)
        if changed != document:
            shared.save(session, made.record.id, made.number, changed, person.name, f"took in what {own['name']} uses")
            document, made = changed, shared.head(session, made.record.id)
        follows = None
        if floor.follows is not None:
            if not (0 <= floor.follows < k) or body.file.floors[floor.follows].follows is not None:
                raise RefusedError([Refusal(f"floors[{k}].follows", "must be the number of a floor before it that follows none")])
            follows = records[floor.follows].id
        records.append(
            store.add_floor(session, made.record.id, own["name"], own, person.name, floor.level, follows, "came with a file")
        )
    session.commit()
    start_runs(manager, session, [(r, store.newest(session, r.id)) for r in records], person.name)
    return Made(project=made.record.id, floor=records[0].id)


def _floor(floor: FloorInFile, k: int, project: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The k-th floor of a file as it is kept, and the project with what it takes in from it."""
    try:
        own = floor_file.document(floor_file.floor_from({"name": f"Floor {k + 1}", **floor.document}))
        return taken_in(own, project)
    except RefusedError as error:
        raise RefusedError([Refusal(f"floors[{k}].{r.path}", r.sentence) for r in error.refusals]) from None


def _free(session: Session, person: Person, wanted: str) -> str:
    taken = people.names_known_to(session, person.id)
    name, n = wanted, 2
    while name in taken:
        name, n = f"{wanted} ({n})", n + 1
    return name
