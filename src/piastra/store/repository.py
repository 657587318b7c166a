"""Reading and writing projects, floors, revisions and runs."""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic_core import to_json
from sqlalchemy import BindParameter, bindparam, delete, func, or_, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from piastra.core.model import floor_from
from piastra.core.model.computed import computed_from
from piastra.engine import engine
from piastra.store.tables import Drawing, FloorRecord, Project, ResultArray, Revision, RunRecord, User, VerdictRow, now

OPEN_STATES = ("queued", "running")


class MissingError(LookupError):
    """Something that was asked for does not exist; the message says what."""


@dataclass(frozen=True, slots=True)
class StaleError(Exception):
    """A save was based on a revision that is no longer the newest one."""

    based_on: int
    newest: int
    author: str
    mine: str
    line: str
    theirs: bytes
    base: bytes


@dataclass(frozen=True, slots=True)
class RevisionHead:
    """What the history shows of a revision."""

    id: int
    number: int
    author: str
    made: datetime
    line: str
    restores: int | None
    carried: bool


def pack(document: Any, level: int = 6) -> bytes:
    """A JSON document, compressed."""
    return zlib.compress(to_json(document, inf_nan_mode="constants"), level)


def unpack(content: bytes) -> Any:
    """The JSON document of :func:`pack`."""
    return json.loads(zlib.decompress(content))


def user_named(session: Session, name: str) -> User:
    """The user of a name, made on first sight."""
    found = session.scalar(select(User).where(User.name == name))
    if found is None:
        found = User(name=name)
        session.add(found)
        session.flush()
    return found


def add_project(session: Session, name: str) -> Project:
    """A new project."""
    project = Project(name=name)
    session.add(project)
    session.flush()
    return project


def projects(session: Session) -> Sequence[Project]:
    """All projects by name, also those that were put away."""
    return session.scalars(select(Project).order_by(Project.name)).all()


def floors(session: Session, project_id: int) -> Sequence[FloorRecord]:
    """A project's floors in their order, also those that were put away."""
    query = select(FloorRecord).where(FloorRecord.project_id == project_id)
    return session.scalars(query.order_by(FloorRecord.place, FloorRecord.id)).all()


def put_in_order(session: Session, project_id: int, ids: Sequence[int]) -> None:
    """Give a project's floors the places of ``ids``; what is not among them comes after. Raises :class:`MissingError`."""
    known = {f.id: f for f in floors(session, project_id)}
    for number in ids:
        if number not in known:
            raise MissingError(f"there is no floor {number} in this project; it may have been put away")
    for place, number in enumerate([*ids, *(k for k in known if k not in set(ids))]):
        known[number].place = place


# What every page asks for again and again is put into words once: that takes as long as the answer.
_THE_FLOOR: BindParameter[int] = bindparam("floor")
_NEWEST = select(Revision).where(Revision.floor_id == _THE_FLOOR).order_by(Revision.number.desc()).limit(1)
_FAMILY = (
    select(FloorRecord)
    .where((FloorRecord.id == bindparam("first")) | (FloorRecord.follows_id == bindparam("first")))
    .order_by(FloorRecord.id)
)
_OWN_CHANGES = (
    select(Revision.number, Revision.restores)
    .where(Revision.floor_id == _THE_FLOOR, Revision.number >= bindparam("begins"), Revision.carried.is_(False))
    .order_by(Revision.number)
)
_LATEST = (
    select(RunRecord, Revision.number)
    .join(Revision, Revision.id == RunRecord.revision_id)
    .where(Revision.floor_id == _THE_FLOOR)
    .order_by(RunRecord.id.desc())
    .limit(1)
)
_LATEST_OF = _LATEST.where(RunRecord.state == bindparam("state"))
_STANDING = (
    select(RunRecord)
    .join(Revision, Revision.id == RunRecord.revision_id)
    .where(
        Revision.floor_id == _THE_FLOOR,
        (Revision.id == bindparam("revision")) | (Revision.computes == bindparam("computes")),
        RunRecord.engine == bindparam("engine"),
        select(ResultArray.run_id).where(ResultArray.run_id == RunRecord.id, ResultArray.kind == "responses").exists()
        | RunRecord.state.in_(("refused", *OPEN_STATES)),
    )
    .order_by(RunRecord.id.desc())
    .limit(1)
)


def floor(session: Session, floor_id: int) -> FloorRecord:
    """A floor. Raises :class:`MissingError`."""
    found = session.get(FloorRecord, floor_id)
    if found is None:
        raise MissingError(f"there is no floor {floor_id}; it may have been deleted")
    return found


def floor_of(session: Session, project_id: int, floor_id: int) -> FloorRecord:
    """A floor of a project. Raises :class:`MissingError`, in the same words for floors of other projects and for none."""
    found = session.get(FloorRecord, floor_id)
    if found is None or found.project_id != project_id:
        raise MissingError(f"there is no floor {floor_id} in this project; it may have been deleted")
    return found


def add_floor(
    session: Session, project_id: int, name: str, document: Any, author: str, level: str | None = None,
    follows: int | None = None, line: str = "made the floor",
) -> FloorRecord:  # fmt: skip
    """A new floor with its first revision; ``follows`` names the floor whose twin it is."""
    last = session.scalar(select(func.max(FloorRecord.place)).where(FloorRecord.project_id == project_id))
    record = FloorRecord(project_id=project_id, name=name, level=level, follows_id=follows, place=0 if last is None else last + 1)
    session.add(record)
    session.flush()
    session.add(
        Revision(
            floor_id=record.id, number=1, author_id=user_named(session, author).id, line=line, content=pack(document),
            computes=computed_from(floor_from(document)),
        )
    )  # fmt: skip
    session.flush()
    return record


def newest(session: Session, floor_id: int) -> Revision:
    """A floor's newest revision. Raises :class:`MissingError`."""
    found = session.scalar(_NEWEST, {"floor": floor_id})
    if found is None:
        raise MissingError(f"there is no floor {floor_id}; it may have been deleted")
    return found


def revision(session: Session, floor_id: int, number: int) -> Revision:
    """A revision by number. Raises :class:`MissingError`."""
    found = session.scalar(select(Revision).where(Revision.floor_id == floor_id, Revision.number == number))
    if found is None:
        raise MissingError(f"floor {floor_id} has no revision {number}")
    return found


def history(session: Session, floor_id: int, limit: int = 200) -> list[RevisionHead]:
    """The newest revisions of a floor, newest first."""
    rows = session.execute(
        select(Revision.id, Revision.number, User.name, Revision.made, Revision.line, Revision.restores, Revision.carried)
        .join(User, User.id == Revision.author_id)
        .where(Revision.floor_id == floor_id)
        .order_by(Revision.number.desc())
        .limit(limit)
    )
    return [RevisionHead(*row) for row in rows]


def family(session: Session, record: FloorRecord) -> list[FloorRecord]:
    """The floor that others follow, first, then its twins; of a floor without twins, the floor alone."""
    first = record.follows_id or record.id
    return sorted(session.scalars(_FAMILY, {"first": first}), key=lambda f: (f.id != first, f.id))


def save_family(
    session: Session, floor_id: int, based_on: int, document: dict[str, Any], author: str, line: str, restores: int | None = None,
    fitted: Callable[[FloorRecord, dict[str, Any]], dict[str, Any]] = lambda record, document: document,
) -> list[tuple[FloorRecord, Revision]]:  # fmt: skip
    """Append a revision to a floor and to all that have the same model; the floor that others follow comes first.

    Others take it as ``fitted`` to them, which lie on other levels. ``restores`` is a number in the history of the floor that others follow. Each keeps its own name. Raises
    :class:`StaleError` when another revision of ``floor_id`` has come in after ``based_on``; nothing is kept then.
    """
    members = family(session, floor(session, floor_id))
    made = [save(session, floor_id, based_on, document, author, line, restores if members[0].id == floor_id else None)]
    for member in members:
        if member.id != floor_id:
            own = fitted(member, {**document, "name": member.name})
            brings = restores if member is members[0] else None
            made.append(save(session, member.id, newest(session, member.id).number, own, author, line, brings))
    by_id = {r.floor_id: r for r in made}
    return [(m, by_id[m.id]) for m in members]


def save(
    session: Session, floor_id: int, based_on: int, document: Any, author: str, line: str, restores: int | None = None,
    carried: bool = False,
) -> Revision:  # fmt: skip
    """Append a revision. Raises :class:`StaleError` when another one has come in after ``based_on``."""
    last = newest(session, floor_id)
    if last.number == based_on:
        made = Revision(
            floor_id=floor_id, number=based_on + 1, author_id=user_named(session, author).id, line=line[:300], restores=restores,
            carried=carried, content=pack(document), computes=computed_from(floor_from(document)),
        )  # fmt: skip
        session.add(made)
        try:
            session.flush()
        except IntegrityError:
            # Two saves at the same moment: the unique number lets one of them through.
            session.rollback()
            last = newest(session, floor_id)
        else:
            return made
    their = session.get(User, last.author_id)
    base = revision(session, floor_id, based_on).content
    raise StaleError(based_on, last.number, their.name if their else "somebody", author, last.line, last.content, base)


def timeline(session: Session, record: FloorRecord) -> Timeline:
    """A floor's own changes as undo and redo go along them."""
    rows = session.execute(_OWN_CHANGES, {"floor": record.id, "begins": record.begins}).all()
    return in_time([(r[0], r[1]) for r in rows])


def undo_and_redo(session: Session, record: FloorRecord, last: Revision) -> tuple[bool, bool]:
    """Whether there is something to undo, and to redo, among the own changes of a floor whose newest revision is ``last``."""
    if last.restores is None and not last.carried:
        # A new change drops what had been undone before it, however long the history is; only the one that it begins with is not undone.
        return last.number > record.begins, False
    along = timeline(session, record)
    return along.before is not None, along.after is not None


@dataclass(frozen=True, slots=True)
class Timeline:
    """A history as undo and redo go along it: numbers of its states in order, and which of them stands (``here``)."""

    line: tuple[int, ...]
    here: int

    @property
    def standing(self) -> int | None:
        """The state that stands, where there is one before it: undo takes it back."""
        return self.line[self.here] if self.here > 0 else None

    @property
    def before(self) -> int | None:
        """What undo brings back."""
        return self.line[self.here - 1] if self.here > 0 else None

    @property
    def after(self) -> int | None:
        """What redo brings back."""
        return self.line[self.here + 1] if self.here + 1 < len(self.line) else None


def in_time(rows: Sequence[tuple[int, int | None]]) -> Timeline:
    """The timeline of a history of (number, number it restores): a new revision drops what had been undone; one that restores moves along it."""
    line: list[int] = []
    here = -1
    for number, restores in rows:
        if restores in line:
            here = line.index(restores)
        else:
            line = [*line[: here + 1], number]
            here += 1
    return Timeline(tuple(line), here)


def begin_run(session: Session, revision_id: int) -> RunRecord:
    """A queued run of a revision."""
    run = RunRecord(revision_id=revision_id, state="queued", engine=engine(), told="")
    session.add(run)
    session.flush()
    return run


def set_state(
    session: Session, run_id: int, state: str, told: str = "", seconds: float | None = None, attempts: int | None = None
) -> bool:
    """Move an open run to a state; a run that has ended stays as it is. Whether it was open."""
    values: dict[str, Any] = {"state": state, "told": told}
    if state not in OPEN_STATES:
        values |= {"ended": now(), "seconds": seconds}
    if attempts is not None:
        values["attempts"] = attempts
    done = session.execute(update(RunRecord).where(RunRecord.id == run_id, RunRecord.state.in_(OPEN_STATES)).values(**values))
    return bool(done.rowcount)  # type: ignore[attr-defined]


@dataclass(frozen=True, slots=True)
class Packed:
    """A results document as it is stored: all of it, what outlives it in ``brief``, and the rows of its ``verdict``."""

    results: bytes
    brief: bytes
    verdict: list[dict[str, Any]]


def packed_results(document: dict[str, Any]) -> Packed:
    """A results document made ready by who computed it, so that who stores it does not take it apart."""
    brief = {**{k: document.get(k) for k in BRIEF}, "lived": document.get("history") is not None}
    kept = ("check", "utilisation", "where", "combination", "status")
    return Packed(pack(document), pack(brief), [{k: r[k] for k in kept} for r in document["verdict"]])


def keep_results(session: Session, run_id: int, found: Packed, arrays: dict[str, bytes], seconds: float) -> bool:
    """Store a run's results with its ``arrays`` by kind and mark it fresh, unless it was superseded or cancelled meanwhile.

    What its probes tell and how long its stages took is stored apart: it outlives the results.
    """
    if not set_state(session, run_id, "fresh", seconds=seconds):
        return False
    session.execute(delete(VerdictRow).where(VerdictRow.run_id == run_id))
    session.add_all(
        VerdictRow(run_id=run_id, check=r["check"], utilisation=r["utilisation"], place=r["where"][:160],
                   combination=r["combination"], status=r["status"])
        for r in found.verdict
    )  # fmt: skip
    session.add(ResultArray(run_id=run_id, kind="results", content=found.results))
    session.add(ResultArray(run_id=run_id, kind="brief", content=found.brief))
    for kind, content in arrays.items():
        keep_array(session, run_id, kind, content)
    return True


def keep_array(session: Session, run_id: int, kind: str, content: bytes) -> None:
    """Store an array of a run, in parts where it is large."""
    for k, start in enumerate(range(0, max(len(content), 1), LARGEST_PART)):
        part = content[start : start + LARGEST_PART]
        session.add(ResultArray(run_id=run_id, kind=f"{kind}.{k}" if k else kind, content=part))


LARGEST_PART = 64 * 2**20
"""Arrays are kept in parts no longer than this, well below what the database takes in one packet."""


BRIEF = ("probes", "envelopes", "seconds", "stages_run", "messages", "mesh", "verdict", "takeoff", "area_m2")
"""Parts of the results document that are kept for every run, beside whether the floor's history was computed (``lived``)."""


def latest_run(session: Session, floor_id: int, state: str | None = None) -> tuple[RunRecord, int] | None:
    """The newest run of a floor (of a state) with its revision's number."""
    found = session.execute(_LATEST if state is None else _LATEST_OF, {"floor": floor_id, "state": state}).first()
    return (found[0], found[1]) if found else None


def standing_run(session: Session, revision: Revision) -> RunRecord | None:
    """The newest run of this engine whose results are a revision's: those of the revision itself, or of another one of its
    floor that computes the same. Of fresh ones only those whose results are kept."""
    # Revisions that compute nothing have no mark (NULL), and are like none: not even each other.
    asked = {"floor": revision.floor_id, "revision": revision.id, "computes": revision.computes, "engine": engine()}
    return session.scalar(_STANDING, asked)


def lacking(session: Session) -> list[tuple[int, Revision]]:
    """Floors in use for whose newest revision no results of this engine are kept, or whose run has not ended, each with that revision."""
    found = []
    for project in projects(session):
        for record in () if project.put_away else floors(session, project.id):
            last = newest(session, record.id)
            standing = standing_run(session, last)
            there = not record.put_away and bool(unpack(last.content)["slabs"])
            if there and (standing is None or standing.state in OPEN_STATES):
                found.append((record.id, last))
    return found


def result(session: Session, run_id: int, kind: str) -> bytes:
    """A stored result, as it was given. Raises :class:`MissingError`."""
    wanted = or_(ResultArray.kind == kind, ResultArray.kind.startswith(f"{kind}."))
    rows = session.execute(select(ResultArray.kind, ResultArray.content).where(ResultArray.run_id == run_id, wanted)).all()
    if not rows:
        raise MissingError(f"run {run_id} has no {kind}; it has not ended, or is too old")
    return b"".join(content for _, content in sorted(rows, key=lambda r: (len(r[0]), r[0])))


def revision_of(session: Session, run_id: int) -> Revision:
    """The revision that a run computed. Raises :class:`MissingError`."""
    found = session.scalar(select(Revision).join(RunRecord, RunRecord.revision_id == Revision.id).where(RunRecord.id == run_id))
    if found is None:
        raise MissingError(f"there is no run {run_id}")
    return found


def verdict_rows(session: Session, run_id: int) -> Sequence[VerdictRow]:
    """The verdict of a run."""
    return session.scalars(select(VerdictRow).where(VerdictRow.run_id == run_id).order_by(VerdictRow.id)).all()


def open_runs(session: Session) -> list[tuple[RunRecord, int]]:
    """Runs that have not ended, with their floors."""
    rows = session.execute(
        select(RunRecord, Revision.floor_id)
        .join(Revision, Revision.id == RunRecord.revision_id)
        .where(RunRecord.state.in_(OPEN_STATES))
    )
    return [(r[0], r[1]) for r in rows]


KEPT_RUNS = 6
"""Runs of a floor whose results are kept."""
KEPT_BYTES = 400_000_000
"""Bytes of results that a floor keeps at most, but for its newest run."""


HELD_BODIES = 2
"""Newest runs of a floor for which values by element and totals of slices are kept; the one before the newest may still be looked at."""


def prune_results(session: Session, floor_id: int, keep: int = KEPT_RUNS, limit: int = KEPT_BYTES) -> None:
    """Drop the arrays of all but the newest runs of a floor, ``keep`` of them and no more than ``limit`` bytes, one of each revision but for what
    may still be looked at; the free bodies of all but the newest ``HELD_BODIES``. Revisions, verdict rows, probes and messages stay."""
    found = session.execute(
        select(RunRecord.id, RunRecord.revision_id)
        .join(Revision, Revision.id == RunRecord.revision_id)
        .where(Revision.floor_id == floor_id, RunRecord.state == "fresh")
        .order_by(RunRecord.id.desc())
        .limit(100 + keep)
    ).all()
    held = sizes(session, [run_id for run_id, _ in found])
    kept: list[int] = []
    old, passed, revisions = [], 0, set()
    for k, (run_id, revision_id) in enumerate(found):
        passed += held.get(run_id, 0)
        again = k >= HELD_BODIES and revision_id in revisions
        if again or len(kept) >= keep or (k > 0 and passed > limit):
            old.append(run_id)
        else:
            kept.append(run_id)
            revisions.add(revision_id)
    if old:
        session.execute(delete(ResultArray).where(ResultArray.run_id.in_(old), ResultArray.kind != "brief"))
    if bare := kept[HELD_BODIES:]:
        bodies = or_(ResultArray.kind == "bodies", ResultArray.kind.startswith("bodies."))
        session.execute(delete(ResultArray).where(ResultArray.run_id.in_(bare), bodies))


def sizes(session: Session, run_ids: Sequence[int]) -> dict[int, int]:
    """Bytes that are kept of runs, by run."""
    rows = session.execute(
        select(ResultArray.run_id, func.sum(func.length(ResultArray.content)))
        .where(ResultArray.run_id.in_(run_ids))
        .group_by(ResultArray.run_id)
    )
    return {r[0]: int(r[1]) for r in rows}


def runs(session: Session, floor_id: int, limit: int = 60) -> list[tuple[RunRecord, Revision]]:
    """The newest runs of a floor with their revisions, newest first."""
    rows = session.execute(
        select(RunRecord, Revision)
        .join(Revision, Revision.id == RunRecord.revision_id)
        .where(Revision.floor_id == floor_id)
        .order_by(RunRecord.id.desc())
        .limit(limit)
    )
    return [(r[0], r[1]) for r in rows]


def readable(session: Session, run_ids: Sequence[int]) -> set[int]:
    """Those of the runs whose responses are still kept."""
    rows = session.scalars(select(ResultArray.run_id).where(ResultArray.run_id.in_(run_ids), ResultArray.kind == "responses"))
    return set(rows.all())


def briefs(session: Session, run_ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """What is kept of runs for good, by run."""
    rows = session.execute(
        select(ResultArray.run_id, ResultArray.content).where(ResultArray.run_id.in_(run_ids), ResultArray.kind == "brief")
    )
    return {r[0]: unpack(r[1]) for r in rows}


def keep_drawing(session: Session, floor_id: int, name: str, document: Any) -> Drawing:
    """Lay a drawing under a floor; the one before goes."""
    session.execute(delete(Drawing).where(Drawing.floor_id == floor_id))
    made = Drawing(floor_id=floor_id, name=name[:200], content=pack(document))
    session.add(made)
    session.flush()
    return made


def drawing(session: Session, floor_id: int) -> Drawing | None:
    """The drawing under a floor."""
    return session.scalar(select(Drawing).where(Drawing.floor_id == floor_id).order_by(Drawing.id.desc()).limit(1))


def drop_drawing(session: Session, floor_id: int) -> None:
    """Take the drawing under a floor away."""
    session.execute(delete(Drawing).where(Drawing.floor_id == floor_id))
