"""What a project's floors share: its revisions, and how a change of it reaches the floors."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from sqlalchemy import bindparam, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, aliased

from piastra.core.model.project import Project as ProjectModel
from piastra.core.model.project import project_from, project_of
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.model.sharing import computes_otherwise, with_shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, Project, ProjectRevision, Revision, User


@dataclass(frozen=True, slots=True)
class Head:
    """A project's newest state."""

    record: Project
    number: int
    author: str
    line: str
    document: dict[str, Any]

    @property
    def model(self) -> ProjectModel:
        """The project, validated."""
        return project_from(self.document)


_HEAD = (
    select(ProjectRevision, User.name, Project)
    .join(User, User.id == ProjectRevision.author_id)
    .join(Project, Project.id == ProjectRevision.project_id)
    .where(ProjectRevision.project_id == bindparam("project"))
    .order_by(ProjectRevision.number.desc())
    .limit(1)
)


def head(session: Session, project_id: int) -> Head:
    """A project's newest state. Raises :class:`piastra.store.repository.MissingError`."""
    found = session.execute(_HEAD, {"project": project_id}).first()
    if found is None:
        raise store.MissingError(f"there is no project {project_id}; it may have been deleted")
    last, author, record = found
    return Head(record, last.number, author, last.line, store.unpack(last.content))


@dataclass(frozen=True, slots=True)
class Opened:
    """A floor with its newest revision and its author, and its project's newest state. ``alone``: it is no twin and has none."""

    record: FloorRecord
    last: Revision
    author: str
    head: Head
    alone: bool


_OF_FLOOR, _OF_PROJECT, _TWIN = aliased(User), aliased(User), aliased(FloorRecord)
_NEWEST = select(func.max(Revision.number)).where(Revision.floor_id == FloorRecord.id).correlate(FloorRecord)
_NEWEST_OF_PROJECT = select(func.max(ProjectRevision.number)).where(ProjectRevision.project_id == Project.id).correlate(Project)
# One question, as every page asks it again and again.
_OPENED = (
    select(
        FloorRecord, Revision, _OF_FLOOR.name, Project, ProjectRevision, _OF_PROJECT.name,
        select(_TWIN.id).where(_TWIN.follows_id == FloorRecord.id).correlate(FloorRecord).exists(),
    )
    .join(Revision, Revision.floor_id == FloorRecord.id)
    .join(_OF_FLOOR, _OF_FLOOR.id == Revision.author_id)
    .join(Project, Project.id == FloorRecord.project_id)
    .join(ProjectRevision, ProjectRevision.project_id == Project.id)
    .join(_OF_PROJECT, _OF_PROJECT.id == ProjectRevision.author_id)
    .where(
        FloorRecord.id == bindparam("floor"),
        Revision.number == _NEWEST.scalar_subquery(),
        ProjectRevision.number == _NEWEST_OF_PROJECT.scalar_subquery(),
    )
)  # fmt: skip


def opened(session: Session, floor_id: int) -> Opened:
    """A floor as it is opened. Raises :class:`piastra.store.repository.MissingError`."""
    found = session.execute(_OPENED, {"floor": floor_id}).first()
    if found is None:
        raise store.MissingError(f"there is no floor {floor_id}; it may have been deleted")
    record, last, author, project, shared, by, followed = found
    head = Head(project, shared.number, by, shared.line, store.unpack(shared.content))
    return Opened(record, last, author, head, record.follows_id is None and not followed)


def add(session: Session, document: dict[str, Any], author: str, taken: Collection[str] = ()) -> Head:
    """A new project. Raises :class:`RefusedError` for a bad document or a name that is ``taken``."""
    model = project_from(document)
    if model.name in taken:
        raise _taken(model.name)
    record = store.add_project(session, model.name)
    _append(session, record.id, 1, document, author, "made the project", None)
    return head(session, record.id)


def _taken(name: str) -> RefusedError:
    return RefusedError([Refusal("name", f"is taken: there is a project called {name}; choose another")])


def give_documents(session: Session) -> None:
    """Give projects from before they had documents one that fits their first floor."""
    for record in store.projects(session):
        known = session.scalar(select(ProjectRevision.id).where(ProjectRevision.project_id == record.id).limit(1))
        floors = store.floors(session, record.id)
        if known is None and floors:
            document = store.unpack(store.newest(session, floors[0].id).content)
            _append(session, record.id, 1, project_of(document, record.name), "Piastra", "made the project", None)


def save(
    session: Session,
    project_id: int,
    based_on: int,
    document: dict[str, Any],
    author: str,
    line: str,
    restores: int | None = None,
    taken: Collection[str] = (),
) -> list[tuple[FloorRecord, Revision]]:
    """Append a revision of the project and carry it to the floors that it changes; those with their new revisions.

    Raises :class:`RefusedError` when a floor uses a material that is gone or a new name is ``taken``, and
    :class:`piastra.store.repository.StaleError` when another revision has come in after ``based_on``.
    """
    model = project_from(document)
    last = head(session, project_id)
    if last.number == based_on:
        try:
            _append(session, project_id, based_on + 1, document, author, line, restores)
        except IntegrityError:
            session.rollback()
            last = head(session, project_id)
    if last.number != based_on:
        base = session.scalar(
            select(ProjectRevision.content).where(ProjectRevision.project_id == project_id, ProjectRevision.number == based_on)
        )
        raise store.StaleError(
            based_on, last.number, last.author, author, last.line, store.pack(last.document), base or store.pack({})
        )
    if model.name != last.record.name:
        if model.name in taken:
            raise _taken(model.name)
        last.record.name = model.name
    return _carry(session, project_id, model, author, line)


def _carry(session: Session, project_id: int, model: ProjectModel, author: str, line: str) -> list[tuple[FloorRecord, Revision]]:
    carried = []
    refusals = []
    for record in store.floors(session, project_id):
        newest = store.newest(session, record.id)
        document = store.unpack(newest.content)
        try:
            differs = computes_otherwise(document, model, record.level)
        except RefusedError as error:
            refusals += [Refusal(f"{record.name}: {r.path}", r.sentence) for r in error.refusals]
            continue
        if differs:
            shared = with_shared(document, model, record.level)
            carried.append(
                (record, store.save(session, record.id, newest.number, shared, author, f"project: {line}", carried=True))
            )
    if refusals:
        raise RefusedError(refusals)
    return carried


def timeline(session: Session, project_id: int) -> store.Timeline:
    """The project's changes as undo and redo go along them."""
    rows = session.execute(
        select(ProjectRevision.number, ProjectRevision.restores)
        .where(ProjectRevision.project_id == project_id)
        .order_by(ProjectRevision.number)
    ).all()
    return store.in_time([(r[0], r[1]) for r in rows])


def revision(session: Session, project_id: int, number: int) -> ProjectRevision:
    """A revision by number. Raises :class:`piastra.store.repository.MissingError`."""
    found = session.scalar(
        select(ProjectRevision).where(ProjectRevision.project_id == project_id, ProjectRevision.number == number)
    )
    if found is None:
        raise store.MissingError(f"project {project_id} has no revision {number}")
    return found


def _append(
    session: Session, project_id: int, number: int, document: dict[str, Any], author: str, line: str, restores: int | None
) -> None:
    session.add(
        ProjectRevision(
            project_id=project_id, number=number, author_id=store.user_named(session, author).id, line=line[:300],
            restores=restores, content=store.pack(document),
        )
    )  # fmt: skip
    session.flush()
