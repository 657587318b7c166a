"""Studies of projects: what varies, on which revisions of which floors, and what was found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.model.variation import Variation, variation
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, Revision, StudyRecord, User, VariantRecord

MOST_STUDIES = 200
"""Studies that a project keeps."""


@dataclass(frozen=True, slots=True)
class Head:
    """What a list shows of a study: how many of its variants are ``done``, ``of`` how many."""

    id: int
    name: str
    author: str
    made: Any
    stopped: bool
    done: int
    of: int


@dataclass(frozen=True, slots=True)
class Variant:
    """A variant by its number from 0: its floor, the number of the revision that it varies, and what was ``found``; None until then."""

    number: int
    floor_id: int
    floor_name: str
    revision: int
    found: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class Waiting:
    """A variant that is to be computed: the study's, the floor file that it varies, and its values."""

    id: int
    document: dict[str, Any]
    values: dict[str, Any]
    history: bool


def add(session: Session, project_id: int, author_id: int, name: str, varied: Variation, floor_ids: Sequence[int]) -> StudyRecord:
    """Begin a study of the newest revisions of some floors. Raises :class:`RefusedError`, :class:`piastra.store.repository.MissingError`."""
    if (
        session.scalar(select(func.count()).select_from(StudyRecord).where(StudyRecord.project_id == project_id)) or 0
    ) >= MOST_STUDIES:
        raise RefusedError(
            [Refusal("the study", f"would be one too many: {MOST_STUDIES} of one project at most; take old ones away")]
        )
    records = [store.floor_of(session, project_id, floor_id) for floor_id in dict.fromkeys(floor_ids)]
    newest = [store.newest(session, r.id) for r in records]
    varied.over({r.name: store.unpack(n.content) for r, n in zip(records, newest, strict=True)})
    made = StudyRecord(project_id=project_id, author_id=author_id, name=name, content=store.pack(varied.model_dump(mode="json")))
    session.add(made)
    session.flush()
    revisions = [n.id for n in newest for _ in range(varied.count)]
    session.add_all(VariantRecord(study_id=made.id, number=k, revision_id=r) for k, r in enumerate(revisions))
    session.flush()
    return made


def study(session: Session, project_id: int, study_id: int) -> StudyRecord:
    """A study of a project. Raises :class:`piastra.store.repository.MissingError`, in the same words for studies of other projects and for none."""
    found = session.get(StudyRecord, study_id)
    if found is None or found.project_id != project_id:
        raise store.MissingError(f"there is no study {study_id} in this project; it may have been taken away")
    return found


def varied_of(record: StudyRecord) -> Variation:
    """What varies in a study."""
    return variation(store.unpack(record.content))


def heads(session: Session, project_id: int) -> list[Head]:
    """The studies of a project, the newest first."""
    # The length of what was found tells whether it is there; the whole of it is not read.
    done, of = func.count(func.length(VariantRecord.content)), func.count(VariantRecord.id)
    rows = session.execute(
        select(StudyRecord.id, StudyRecord.name, User.name, StudyRecord.made, StudyRecord.stopped, done, of)
        .join(User, User.id == StudyRecord.author_id)
        .join(VariantRecord, VariantRecord.study_id == StudyRecord.id)
        .where(StudyRecord.project_id == project_id)
        .group_by(StudyRecord.id, StudyRecord.name, User.name, StudyRecord.made, StudyRecord.stopped)
        .order_by(StudyRecord.id.desc())
    )
    return [Head(*row) for row in rows]


def variants(session: Session, study_id: int) -> list[Variant]:
    """All variants of a study in its order."""
    rows = session.execute(
        select(VariantRecord.number, FloorRecord.id, FloorRecord.name, Revision.number, VariantRecord.content)
        .join(Revision, Revision.id == VariantRecord.revision_id)
        .join(FloorRecord, FloorRecord.id == Revision.floor_id)
        .where(VariantRecord.study_id == study_id)
        .order_by(VariantRecord.number)
    )
    return [Variant(n, f, name, r, None if c is None else store.unpack(c)) for n, f, name, r, c in rows]


def documents(session: Session, study_id: int) -> list[dict[str, Any]]:
    """The floor files that a study varies, each once, in its order."""
    rows = session.execute(
        select(VariantRecord.revision_id)
        .where(VariantRecord.study_id == study_id)
        .group_by(VariantRecord.revision_id)
        .order_by(func.min(VariantRecord.number))
    )
    return [store.unpack(session.get_one(Revision, revision_id).content) for (revision_id,) in rows]


def waiting(session: Session, most: int, without: Sequence[int] = ()) -> list[Waiting]:
    """The first variants that are to be computed, of studies that are not stopped, the oldest study first; but for those ``without``."""
    query = (
        select(VariantRecord.id, VariantRecord.number, StudyRecord, Revision.content)
        .join(StudyRecord, StudyRecord.id == VariantRecord.study_id)
        .join(Revision, Revision.id == VariantRecord.revision_id)
        .where(VariantRecord.content.is_(None), StudyRecord.stopped.is_(False), VariantRecord.id.not_in(without))
        .order_by(StudyRecord.id, VariantRecord.number)
        .limit(most)
    )
    out = []
    for variant_id, number, record, content in session.execute(query):
        varied = varied_of(record)
        values = list(varied.variants())[number % varied.count]
        out.append(Waiting(variant_id, store.unpack(content), values, varied.history))
    return out


def keep(session: Session, variant_id: int, found: dict[str, Any]) -> None:
    """Keep what was found of a variant; one that was taken away meanwhile stays away."""
    session.execute(update(VariantRecord).where(VariantRecord.id == variant_id).values(content=store.pack(found)))


def stop(session: Session, record: StudyRecord, stopped: bool) -> None:
    """Compute a study no further, or go on with it."""
    record.stopped = stopped
    session.flush()


def take_away(session: Session, record: StudyRecord) -> None:
    """Take a study away with its variants."""
    session.execute(delete(VariantRecord).where(VariantRecord.study_id == record.id))
    session.delete(record)
    session.flush()


def of_variants(session: Session, ids: Sequence[int]) -> set[int]:
    """Those of the variants that are there and whose study goes on."""
    query = select(VariantRecord.id).join(StudyRecord, StudyRecord.id == VariantRecord.study_id)
    return set(session.scalars(query.where(VariantRecord.id.in_(ids), StudyRecord.stopped.is_(False))))
