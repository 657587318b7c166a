"""Tables. Floor revisions are append-only; every result belongs to a run of one revision."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import Double, ForeignKey, Index, LargeBinary, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Blob = LargeBinary().with_variant(LONGBLOB(), "mysql", "mariadb")
Moment = DATETIME(fsp=3)


def now() -> datetime:
    """The time, UTC, without zone as the database keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """Base of all tables."""


class User(Base):
    """A person who works on floors; one without a ``password`` is a name in the history and cannot sign in.

    ``administrator`` looks after people, ``begins`` may begin projects, ``barred`` may not come in any more. ``factor``: the sealed key of a second factor,
    ``factor_step`` the last number of it that was used, ``spare`` the digests of codes for when it is lost.
    """

    __tablename__ = "users"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    email: Mapped[str | None] = mapped_column(String(254), unique=True, default=None)
    password: Mapped[str | None] = mapped_column(String(200), default=None)
    administrator: Mapped[bool] = mapped_column(default=False)
    begins: Mapped[bool] = mapped_column(default=False)
    barred: Mapped[bool] = mapped_column(default=False)
    factor: Mapped[str | None] = mapped_column(String(200), default=None)
    factor_step: Mapped[int | None] = mapped_column(default=None)
    spare: Mapped[str | None] = mapped_column(String(700), default=None)


class Notice(Base):
    """What happened to an account, for its person to see."""

    __tablename__ = "notices"
    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"), index=True)
    at: Mapped[datetime] = mapped_column(Moment, default=now)
    what: Mapped[str] = mapped_column(String(160))


class Attempts(Base):
    """Wrong passwords in a row, of a person or from a network address (``mark``, a digest); the next attempt waits (``wait_until``)."""

    __tablename__ = "attempts"
    mark: Mapped[str] = mapped_column(String(64), primary_key=True)
    failures: Mapped[int] = mapped_column(default=0)
    last: Mapped[datetime] = mapped_column(Moment, default=now)
    wait_until: Mapped[datetime | None] = mapped_column(Moment, default=None)


Role = Literal["owner", "designer", "checker", "reader"]
"""What a person is in a project."""
Kind = Literal["project", "practice", "administrator", "password"]
"""What a link lets somebody into."""


class Membership(Base):
    """What a person is in a project."""

    __tablename__ = "memberships"
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"), primary_key=True)
    role: Mapped[Role] = mapped_column(String(20))


class Invitation(Base):
    """A link that lets somebody in once: the digest of its secret, what ``kind`` it is of (a password is that of ``user_id``), and the ``role`` in its project."""

    __tablename__ = "invitations"
    id: Mapped[int] = mapped_column(primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    kind: Mapped[Kind] = mapped_column(String(20))
    project_id: Mapped[int | None] = mapped_column(ForeignKey("projects.id"), default=None)
    user_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"), default=None)
    role: Mapped[Role | None] = mapped_column(String(20), default=None)
    note: Mapped[str] = mapped_column(String(120), default="")
    made_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"), default=None)
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    expires: Mapped[datetime] = mapped_column(Moment)
    used: Mapped[datetime | None] = mapped_column(Moment, default=None)


class SignIn(Base):
    """A browser in which a person is signed in: the digest of its cookie's secret and of the one ``before`` it was ``turned``, and the
    ``guard`` that changes have to name."""

    __tablename__ = "sign_ins"
    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    before: Mapped[str | None] = mapped_column(String(64), default=None, index=True)
    guard: Mapped[str] = mapped_column(String(64))
    browser: Mapped[str] = mapped_column(String(60), default="")
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    turned: Mapped[datetime] = mapped_column(Moment, default=now)
    seen: Mapped[datetime] = mapped_column(Moment, default=now)


class Token(Base):
    """What lets a script in as a person: the digest of its secret."""

    __tablename__ = "tokens"
    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    name: Mapped[str] = mapped_column(String(80))
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    reads_only: Mapped[bool] = mapped_column(default=False)
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    expires: Mapped[datetime] = mapped_column(Moment)
    used: Mapped[datetime | None] = mapped_column(Moment, default=None)


class Project(Base):
    """A building: floors that belong together. One that was put away is kept, and not shown."""

    __tablename__ = "projects"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    put_away: Mapped[bool] = mapped_column(default=False)


class ProjectRevision(Base):
    """One state of what a project's floors share: its compressed document, who made it, when, what it changed."""

    __tablename__ = "project_revisions"
    __table_args__ = (UniqueConstraint("project_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    number: Mapped[int]
    author_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    line: Mapped[str] = mapped_column(String(300))
    restores: Mapped[int | None] = mapped_column(default=None)
    content: Mapped[bytes] = mapped_column(Blob)


class FloorRecord(Base):
    """A floor, by its project; what it holds is in its revisions.

    ``follows_id`` names the floor whose twin it is; ``level`` its level in the project; ``begins`` the number of
    the revision before which undo does not go. Floors are shown by their ``place``, then as they were made; one that was put away is
    kept with all its revisions, and not shown.
    """

    __tablename__ = "floors"
    __table_args__ = (UniqueConstraint("project_id", "name"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    name: Mapped[str] = mapped_column(String(120))
    follows_id: Mapped[int | None] = mapped_column(ForeignKey("floors.id"), default=None)
    level: Mapped[str | None] = mapped_column(String(60), default=None)
    begins: Mapped[int] = mapped_column(default=1)
    place: Mapped[int] = mapped_column(default=0)
    put_away: Mapped[bool] = mapped_column(default=False)


class Revision(Base):
    """One state of a floor: its compressed floor file, who made it, when, and what it changed.

    ``restores`` names the number of the revision whose content this one brings back. ``carried`` marks one that
    a change of the project made; undo passes it by. ``computes`` is a hash of what the computation reads: revisions that
    share it share their results.
    """

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("floor_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    floor_id: Mapped[int] = mapped_column(ForeignKey("floors.id"))
    number: Mapped[int]
    author_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    line: Mapped[str] = mapped_column(String(300))
    restores: Mapped[int | None] = mapped_column(default=None)
    carried: Mapped[bool] = mapped_column(default=False)
    computes: Mapped[str | None] = mapped_column(String(64), default=None)
    content: Mapped[bytes] = mapped_column(Blob)


class Drawing(Base):
    """A drawing that lies under a floor: its primitives by layer, compressed."""

    __tablename__ = "drawings"
    id: Mapped[int] = mapped_column(primary_key=True)
    floor_id: Mapped[int] = mapped_column(ForeignKey("floors.id"))
    name: Mapped[str] = mapped_column(String(200))
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    content: Mapped[bytes] = mapped_column(Blob)


class RunRecord(Base):
    """A computation of one revision. ``state``: queued, running, fresh, refused, failed, superseded or cancelled."""

    __tablename__ = "runs"
    __table_args__ = (Index("ix_runs_revision", "revision_id"), Index("ix_runs_state", "state"))
    id: Mapped[int] = mapped_column(primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    state: Mapped[str] = mapped_column(String(20))
    engine: Mapped[str] = mapped_column(String(20))
    begun: Mapped[datetime] = mapped_column(Moment, default=now)
    ended: Mapped[datetime | None] = mapped_column(Moment, default=None)
    seconds: Mapped[float | None] = mapped_column(default=None)
    attempts: Mapped[int] = mapped_column(default=0)
    told: Mapped[str] = mapped_column(Text, default="")


class VerdictRow(Base):
    """One check of a run's verdict, queried across floors."""

    __tablename__ = "verdict_rows"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"))
    check: Mapped[str] = mapped_column("check_name", String(40))
    utilisation: Mapped[float | None]
    place: Mapped[str] = mapped_column(String(160))
    combination: Mapped[str] = mapped_column(String(60))
    status: Mapped[str] = mapped_column(String(20))


class Comment(Base):
    """What somebody says about a floor at its revision of a ``number``, pinned to a place of the plan (m) or to the floor as a whole; one that
    ``answers`` another belongs to it. ``settled_by_id``: who found it settled."""

    __tablename__ = "comments"
    id: Mapped[int] = mapped_column(primary_key=True)
    floor_id: Mapped[int] = mapped_column(ForeignKey("floors.id"), index=True)
    author_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    number: Mapped[int]
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    x: Mapped[float | None] = mapped_column(Double, default=None)
    y: Mapped[float | None] = mapped_column(Double, default=None)
    answers_id: Mapped[int | None] = mapped_column(ForeignKey("comments.id", ondelete="CASCADE"), default=None)
    text: Mapped[str] = mapped_column(Text)
    settled_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"), default=None)


class Signature(Base):
    """A check of a floor that somebody answers for: of a revision, with what it ``computes`` and the ``mark`` of the check's rows. It holds while both are those of
    the floor's newest revision."""

    __tablename__ = "signatures"
    id: Mapped[int] = mapped_column(primary_key=True)
    floor_id: Mapped[int] = mapped_column(ForeignKey("floors.id"), index=True)
    check: Mapped[str] = mapped_column("check_name", String(40))
    author_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    number: Mapped[int]
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    note: Mapped[str] = mapped_column(String(400), default="")
    computes: Mapped[str | None] = mapped_column(String(64), default=None)
    mark: Mapped[str] = mapped_column(String(64))


class BuildingModel(Base):
    """What of a building model a project has ``taken`` in, floor files by level, and the ``newest`` one that was read for it."""

    __tablename__ = "building_models"
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    taken: Mapped[bytes] = mapped_column(Blob)
    newest: Mapped[bytes] = mapped_column(Blob)


class StudyRecord(Base):
    """A study of a project: what varies is in its ``content``. One that was ``stopped`` is computed no further."""

    __tablename__ = "studies"
    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), index=True)
    author_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made: Mapped[datetime] = mapped_column(Moment, default=now)
    name: Mapped[str] = mapped_column(String(120))
    stopped: Mapped[bool] = mapped_column(default=False)
    content: Mapped[bytes] = mapped_column(Blob)


class VariantRecord(Base):
    """A variant of a study by its number from 0: the revision of the floor that it varies, and what was found; null until then."""

    __tablename__ = "variants"
    __table_args__ = (UniqueConstraint("study_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    study_id: Mapped[int] = mapped_column(ForeignKey("studies.id", ondelete="CASCADE"))
    number: Mapped[int]
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    content: Mapped[bytes | None] = mapped_column(Blob, default=None)


class ResultArray(Base):
    """A compressed result of a run: its document (``results``) or its fields (``fields``)."""

    __tablename__ = "result_arrays"
    __table_args__ = (UniqueConstraint("run_id", "kind"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"))
    kind: Mapped[str] = mapped_column(String(20))
    content: Mapped[bytes] = mapped_column(Blob)
