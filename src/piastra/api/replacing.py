"""One material, build-up, partition or occupancy in the place of another, on floors that are chosen."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from piastra.api.door import Asking
from piastra.api.floors import fitted
from piastra.api.projects import with_project
from piastra.api.wiring import REFUSED, Manager, Sessions, start_runs
from piastra.core.model import floor_from
from piastra.core.model.loading import Load
from piastra.core.model.replacing import Replaced, in_project, known, on_floor
from piastra.core.model.values import ends_of, plane_of
from piastra.exchange import floor_file
from piastra.store import projects as shared
from piastra.store import repository as store

router = APIRouter(prefix="/api")


class Replacing(BaseModel):
    """What is to be replaced by what."""

    kind: Replaced
    old: str
    new: str


class Replace(Replacing):
    """... and on which floors; ``project``: also where the project itself names it."""

    floors: list[int]
    project: bool = True


class ObjectChange(BaseModel):
    """An object that would name another one: its list and id; of loads also the value before and after (kN/m2 or kN/m)."""

    list: str
    id: str
    before: float | None = None
    after: float | None = None


class FloorChange(BaseModel):
    """What would change on a floor; a null ``floor`` is the project itself."""

    floor: int | None
    name: str
    objects: list[ObjectChange]


class ReplacePreview(BaseModel):
    """Everything that names what is to be replaced."""

    changes: list[FloorChange]


class ReplacedState(BaseModel):
    """How many objects name the other one now, on how many floors."""

    objects: int
    floors: int


def _worth(floor: Any, load: Load) -> float | None:
    if load.kind == "area":
        plane = plane_of(floor, load)
        return float(plane[0]) if plane is not None else None
    return float(ends_of(floor, load)[0]) if load.kind == "line" else None


def _changes(before: dict[str, Any], after: dict[str, Any], named: list[Any]) -> list[ObjectChange]:
    out = [ObjectChange(list=n.list, id=n.id) for n in named]
    if any(c.list == "loads" for c in out):
        was, now = floor_from(before), floor_from(after)
        loads = {l.id: (_worth(was, l), _worth(now, m)) for l, m in zip(was.loads, now.loads, strict=True)}
        out = [ObjectChange(list=c.list, id=c.id, before=loads[c.id][0], after=loads[c.id][1]) for c in out]
    return out


@router.post("/projects/{project_id}/replace/preview", responses=REFUSED)
def preview(project_id: int, body: Replacing, session: Sessions) -> ReplacePreview:
    """What names an item, floor by floor, and what loads would be worth afterwards. Twins are told with the floor they follow."""
    head = shared.head(session, project_id)
    known(head.document, body.kind, body.old, body.new)
    found = []
    _, own = in_project(head.document, body.kind, body.old, body.new)
    if own:
        found.append(FloorChange(floor=None, name=head.model.name, objects=[ObjectChange(list=n.list, id=n.id) for n in own]))
    for record in store.floors(session, project_id):
        if record.follows_id is not None:
            continue
        before = with_project(session, record, store.unpack(store.newest(session, record.id).content))
        after, named = on_floor(before, body.kind, body.old, body.new)
        if named:
            found.append(FloorChange(floor=record.id, name=record.name, objects=_changes(before, after, named)))
    return ReplacePreview(changes=found)


@router.post("/projects/{project_id}/replace", responses=REFUSED)
def replace(project_id: int, body: Replace, session: Sessions, manager: Manager, person: Asking) -> ReplacedState:
    """Do it in one step: a revision of every floor on which something changes, and of the project."""
    head = shared.head(session, project_id)
    known(head.document, body.kind, body.old, body.new)
    line = f"{body.old} replaced by {body.new}"
    made, count = [], 0
    for floor_id in dict.fromkeys(body.floors):
        record = store.floor_of(session, project_id, floor_id)
        last = store.newest(session, floor_id)
        document, named = on_floor(with_project(session, record, store.unpack(last.content)), body.kind, body.old, body.new)
        if named:
            whole = floor_file.document(floor_file.floor_from(document))
            made += store.save_family(session, floor_id, last.number, whole, person.name, line, None, fitted(session))
            count += len(named)
    if body.project:
        changed, own = in_project(head.document, body.kind, body.old, body.new)
        if own:
            carried = shared.save(session, project_id, head.number, changed, person.name, line)
            newer = {record.id for record, _ in carried}
            made = [(record, revision) for record, revision in made if record.id not in newer] + carried
            count += len(own)
    session.commit()
    start_runs(manager, session, made, person.name)
    return ReplacedState(objects=count, floors=len({record.id for record, _ in made}))
