"""Projects: what their floors share, and the floors that are made in them."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from sqlalchemy.orm import Session

from piastra.api.bounds import few_enough
from piastra.api.door import Asking, Person
from piastra.api.messages import (
    CheckSummary,
    ChoiceState,
    FloorSummary,
    Made,
    NewFloor,
    NewProject,
    OptionState,
    ProjectState,
    ProjectSummary,
    RunSummary,
    Save,
    Saved,
    StandardState,
    Step,
    StoreyState,
)
from piastra.api.wiring import REFUSED, STALE, Manager, Sessions, late, run_summaries, start_runs
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.project import project_from, storeys
from piastra.core.model.sharing import taken_in, with_shared
from piastra.core.standards import registry
from piastra.core.standards.beginnings import library, new_floor, new_project
from piastra.exchange import floor_file
from piastra.jobs.listening import Runs
from piastra.store import people
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord

router = APIRouter(prefix="/api")

MOST_FLOORS = 300
"""Floors that one project may have."""


def _verdict(session: Session, run: RunSummary | None) -> list[CheckSummary]:
    if run is None:
        return []
    return [
        CheckSummary(check=r.check, utilisation=r.utilisation, place=r.place, combination=r.combination, status=r.status)
        for r in store.verdict_rows(session, run.id)
    ]


@router.get("/standards")
def standards() -> list[StandardState]:
    """The design standards at hand, with what an interface needs to know of them."""
    out = []
    for name in registry.names():
        actions = registry.standard_named(name).actions
        options = [
            OptionState(key=o.key, name=o.name, default=o.default, choices=[ChoiceState(value=v, words=w) for v, w in o.choices])
            for o in actions.options
        ]
        out.append(StandardState(name=name, categories=dict(actions.categories), options=options))
    return out


@router.get("/projects")
def projects(session: Sessions, person: Asking) -> list[ProjectSummary]:
    """The projects that a person works in with their floors and verdicts, but for what was put away."""
    out = []
    for project, role in people.projects_of(session, person.id):
        if project.put_away:
            continue
        floors = []
        for record in store.floors(session, project.id):
            if record.put_away:
                continue
            last = store.newest(session, record.id)
            run, fresh = run_summaries(session, record.id, last)
            floors.append(
                FloorSummary(
                    id=record.id, name=record.name, revision=last.number, level=record.level,
                    follows=record.follows_id, run=run,
                    verdict=_verdict(session, fresh),
                )
            )  # fmt: skip
        units = shared.head(session, project.id).document.get("units", "SI")
        out.append(ProjectSummary(id=project.id, name=project.name, role=role, units=units, floors=floors))
    return out


@router.post("/projects", responses=REFUSED, status_code=201)
def begin(body: NewProject, session: Sessions, person: Asking) -> Made:
    """Begin a project with one empty floor."""
    if body.standard not in registry.names():
        raise RefusedError([Refusal("standard", f"must be one of: {', '.join(registry.names())}")])
    people.not_too_many(session, person.id)
    taken = people.names_known_to(session, person.id)
    made = shared.add(session, new_project(body.name, body.units, body.standard), person.name, taken)
    people.give_role(session, made.record.id, person.id, "owner")
    level = made.model.levels[0].id
    record = store.add_floor(session, made.record.id, level, new_floor(made.model, level), person.name, level)
    session.commit()
    return Made(project=made.record.id, floor=record.id)


@router.get("/projects/{project_id}", responses=REFUSED)
def project(project_id: int, session: Sessions) -> ProjectState:
    """What a project's floors share."""
    head = shared.head(session, project_id)
    along = shared.timeline(session, project_id)
    return ProjectState(
        id=project_id, revision=head.number, author=head.author, line=head.line, document=head.document,
        storeys=[
            StoreyState(id=s.id, elevation_m=round(s.elevation, 6), below_m=s.below, above_m=s.above) for s in storeys(head.model)
        ],
        library=library(head.model.standard), undo=along.before is not None, redo=along.after is not None,
    )  # fmt: skip


def _append(
    session: Session, manager: Runs, project_id: int, based_on: int, document: dict[str, Any], person: Person, line: str,
    restores: int | None = None,
) -> Saved:  # fmt: skip
    try:
        carried = shared.save(
            session, project_id, based_on, document, person.name, line, restores, people.names_known_to(session, person.id)
        )
    except store.StaleError as stale:
        session.rollback()
        raise late(stale, document, line) from None
    session.commit()
    start_runs(manager, session, carried, person.name)
    return Saved(revision=based_on + 1, line=line, run=None, twins=[r.name for r, _ in carried])


@router.put("/projects/{project_id}", responses=STALE)
def save_project(project_id: int, body: Save, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Save what the floors share; floors that compute otherwise with it get a new revision and run."""
    document = project_from(body.document).model_dump(mode="json", exclude_unset=True)
    return _append(session, manager, project_id, body.based_on, document, person, body.line)


def _travel(project_id: int, body: Step, session: Session, manager: Runs, person: Person, back: bool) -> Saved:
    along = shared.timeline(session, project_id)
    target = along.before if back else along.after
    if target is None:
        raise store.MissingError(f"there is nothing to {'undo' if back else 'redo'}")
    kept = shared.revision(session, project_id, target)
    done = shared.revision(session, project_id, along.standing) if back and along.standing is not None else kept
    line = f"{'undid' if back else 'redid'}: {done.line}"
    return _append(session, manager, project_id, body.based_on, store.unpack(kept.content), person, line, target)


@router.post("/projects/{project_id}/undo", responses=STALE)
def undo_project(project_id: int, body: Step, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Bring the state before back, as a new revision."""
    return _travel(project_id, body, session, manager, person, back=True)


@router.post("/projects/{project_id}/redo", responses=STALE)
def redo_project(project_id: int, body: Step, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Bring back what undo took away."""
    return _travel(project_id, body, session, manager, person, back=False)


def _free_name(session: Session, project_id: int, wanted: str) -> str:
    taken = {f.name for f in store.floors(session, project_id)}
    name, n = wanted, 2
    while name in taken:
        name, n = f"{wanted} ({n})", n + 1
    return name


@router.post("/projects/{project_id}/floors", responses=REFUSED, status_code=201)
def add_floor(project_id: int, body: NewFloor, session: Sessions, manager: Manager, person: Asking) -> Made:
    """Add a floor: from a floor file, as a copy or a twin of another, or empty."""
    if len(store.floors(session, project_id)) >= MOST_FLOORS:
        raise RefusedError([Refusal("the floor", f"would be one too many: {MOST_FLOORS} of one project at most")])
    head = shared.head(session, project_id)
    follows, source, line = None, body.copy_of or body.twin_of, "made the floor"
    if source is not None:
        origin = store.floor_of(session, project_id, source)
        document = store.unpack(store.newest(session, origin.id).content)
        line = f"{'made as a twin of' if body.twin_of else 'copied from'} {origin.name}"
        if body.twin_of:
            follows = store.family(session, origin)[0].id
    elif body.document is not None:
        few_enough(body.document)
        document = floor_file.document(floor_file.floor_from(body.document))
        document, changed = taken_in(document, head.document)
        if changed != head.document:
            shared.save(session, project_id, head.number, changed, person.name, f"took in what {document['name']} uses")
    else:
        document = new_floor(head.model, body.name or "Floor")
    name = _free_name(session, project_id, body.name or document.get("name", "Floor"))
    here = with_shared({**document, "name": name}, shared.head(session, project_id).model, body.level)
    document = floor_file.document(floor_file.floor_from(here))
    record = store.add_floor(session, project_id, name, document, person.name, body.level, follows, line)
    session.commit()
    start_runs(manager, session, [(record, store.newest(session, record.id))], person.name)
    return Made(project=project_id, floor=record.id)


def with_project(session: Session, record: FloorRecord, document: dict[str, Any]) -> dict[str, Any]:
    """A floor file with what its project shares."""
    return with_shared(document, shared.head(session, record.project_id).model, record.level)
