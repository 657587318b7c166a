"""Checking a floor: comments on it, checks that somebody answers for, and what changed between two revisions of it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, aliased

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.store import repository as store
from piastra.store.tables import Comment, Revision, RunRecord, Signature, User, VerdictRow

MOST_COMMENTS = 500
"""Comments on one floor."""

Row = dict[str, Any]


def comments(session: Session, floor_id: int) -> list[tuple[Comment, str, str | None]]:
    """Comments on a floor with their authors' names and that of who settled them, as they were made."""
    settler = aliased(User)
    query = select(Comment, User.name, settler.name).join(User, User.id == Comment.author_id)
    query = query.outerjoin(settler, settler.id == Comment.settled_by_id)
    return [(r[0], r[1], r[2]) for r in session.execute(query.where(Comment.floor_id == floor_id).order_by(Comment.id))]


def comment(
    session: Session, floor_id: int, author_id: int, text: str, at: tuple[float, float] | None = None, answers: int | None = None
) -> Comment:
    """Say something about a floor, at a place of the plan (m), about it as a whole, or in answer to another comment on it. Raises
    :class:`RefusedError` and :class:`piastra.store.repository.MissingError`."""
    if (session.scalar(select(func.count()).select_from(Comment).where(Comment.floor_id == floor_id)) or 0) >= MOST_COMMENTS:
        raise RefusedError(
            [Refusal("the comment", f"would be one too many: {MOST_COMMENTS} on one floor at most; take old ones away")]
        )
    if answers is not None and _comment(session, floor_id, answers).answers_id is not None:
        raise RefusedError([Refusal("answers", "must be a comment, not an answer to one")])
    made = Comment(
        floor_id=floor_id, author_id=author_id, number=store.newest(session, floor_id).number, text=text, answers_id=answers,
        x=at[0] if at else None, y=at[1] if at else None,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def settle(session: Session, floor_id: int, comment_id: int, user_id: int | None) -> None:
    """Find a comment settled, by somebody, or open again (None). Raises :class:`piastra.store.repository.MissingError`."""
    found = _comment(session, floor_id, comment_id)
    session.execute(update(Comment).where(Comment.id == found.id).values(settled_by_id=user_id))


def take_away(session: Session, floor_id: int, comment_id: int, user_id: int) -> None:
    """Take one's own comment away, with the answers to it; one that others answered stays. Raises :class:`RefusedError`,
    :class:`piastra.store.repository.MissingError`."""
    found = _comment(session, floor_id, comment_id)
    if found.author_id != user_id:
        raise RefusedError([Refusal("the comment", "is somebody else's; settle it instead")])
    others = select(func.count()).select_from(Comment).where(Comment.answers_id == found.id, Comment.author_id != user_id)
    if session.scalar(others):
        raise RefusedError([Refusal("the comment", "was answered; settle it instead")])
    session.execute(delete(Comment).where(Comment.id == found.id))


def _comment(session: Session, floor_id: int, comment_id: int) -> Comment:
    found = session.get(Comment, comment_id)
    if found is None or found.floor_id != floor_id:
        raise store.MissingError("there is no such comment on this floor; it may have been taken away")
    return found


KEPT = ("check", "where", "utilisation", "combination", "status")


def rows_of(session: Session, run_id: int) -> list[Row] | None:
    """The rows of a run's checks, each with its ``key``; None where its results are no longer kept."""
    try:
        document = store.unpack(store.result(session, run_id, "results"))
    except store.MissingError:
        return None
    return [{"key": r["id"]["key"], **{k: r[k] for k in KEPT}} for r in document["rows"]]


def worst_of(session: Session, run_id: int) -> list[Row]:
    """The worst of each of a run's checks, which is kept for good; its ``key`` is the check, for its place may move."""
    return [
        {
            "key": r.check,
            "check": r.check,
            "where": r.place,
            "utilisation": r.utilisation,
            "combination": r.combination,
            "status": r.status,
        }
        for r in store.verdict_rows(session, run_id)
    ]


@dataclass(frozen=True, slots=True)
class Moved:
    """A row of a check that moved between two runs; None where it is not there."""

    check: str
    where: str
    before: Row | None
    after: Row | None


def compared(session: Session, before: int, after: int) -> tuple[list[Moved], bool]:
    """What moved between two runs, and whether that is told of all rows or, where the results of one are no longer kept, of the worst of each check
    alone."""
    rows = [rows_of(session, run) for run in (before, after)]
    if rows[0] is not None and rows[1] is not None:
        return moved(rows[0], rows[1]), True
    return moved(worst_of(session, before), worst_of(session, after)), False


def mark_of(rows: Sequence[VerdictRow], check: str) -> str:
    """What a check came to, as a digest of its verdict to three decimals."""
    told = sorted(
        [r.place, r.combination, r.status, None if r.utilisation is None else round(r.utilisation, 3)]
        for r in rows
        if r.check == check
    )
    return hashlib.sha256(json.dumps(told).encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Signed:
    """A signature, by whom, and whether it ``holds``; if not, ``why``."""

    signature: Signature
    author: str
    holds: bool
    why: str


def signatures(session: Session, floor_id: int) -> list[Signed]:
    """Checks of a floor that somebody answers for, the newest first: which of these hold still."""
    query = select(Signature, User.name).join(User, User.id == Signature.author_id).where(Signature.floor_id == floor_id)
    found = [(r[0], r[1]) for r in session.execute(query.order_by(Signature.id.desc()))]
    if not found:
        return []
    last = store.newest(session, floor_id)
    run = store.standing_run(session, last)
    verdict = store.verdict_rows(session, run.id) if run is not None and run.state == "fresh" else None
    if run is not None and run.state == "refused":
        verdict = ()
    return [Signed(s, name, not (why := _why(session, s, last, verdict)), why) for s, name in found]


def _why(session: Session, signature: Signature, last: Revision, verdict: Sequence[VerdictRow] | None) -> str:
    """Why a signature does not hold; empty: it does."""
    same = last.number == signature.number or (last.computes is not None and last.computes == signature.computes)
    if not same:
        since = session.execute(
            select(Revision.number, Revision.line, User.name)
            .join(User, User.id == Revision.author_id)
            .where(Revision.floor_id == signature.floor_id, Revision.number > signature.number)
            .where((Revision.computes != signature.computes) | Revision.computes.is_(None))
            .order_by(Revision.number)
            .limit(1)
        ).first()
        return (
            f"{since[2]} changed the floor after it: {since[1]} (revision {since[0]})"
            if since
            else "the floor was changed after it"
        )
    if verdict is not None and mark_of(verdict, signature.check) != signature.mark:
        return "the floor was computed again since, and this check came to something else"
    return ""


def sign(session: Session, floor_id: int, author_id: int, check: str, note: str, seen: int) -> Signature:
    """Answer for a check of a floor as its newest results have it, those of the run that was ``seen``; one's earlier signature of it goes. Raises
    :class:`RefusedError` where there are none of the newest revision or others than those that were looked at, and for a check that is not passed without a note
    that says why."""
    last = store.newest(session, floor_id)
    run = store.standing_run(session, last)
    if run is None or run.state != "fresh":
        raise RefusedError([Refusal("the floor", "has no results of its newest revision yet; sign when the run has ended")])
    if run.id != seen:
        raise RefusedError([Refusal("the floor", "has other results by now than those that you saw; look at them, then sign")])
    verdict = store.verdict_rows(session, run.id)
    mine = [r for r in verdict if r.check == check]
    if not mine:
        raise RefusedError([Refusal("check", f"must be one of: {', '.join(dict.fromkeys(r.check for r in verdict))}")])
    if any(r.status != "pass" for r in mine) and not note.strip():
        raise RefusedError([Refusal("note", "is missing: this check is not passed; say why it is right all the same")])
    session.execute(
        delete(Signature).where(Signature.floor_id == floor_id, Signature.check == check, Signature.author_id == author_id)
    )
    made = Signature(
        floor_id=floor_id, check=check, author_id=author_id, number=last.number, note=note.strip(), computes=last.computes,
        mark=mark_of(verdict, check),
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def unsign(session: Session, floor_id: int, signature_id: int, user_id: int) -> None:
    """Take one's own signature back. Raises :class:`piastra.store.repository.MissingError`."""
    done = session.execute(
        delete(Signature).where(Signature.id == signature_id, Signature.floor_id == floor_id, Signature.author_id == user_id)
    )
    if not done.rowcount:  # type: ignore[attr-defined]
        raise store.MissingError("there is no such signature of yours on this floor")


HAIR = 5e-4
"""Utilisations that differ by less are the same as they are shown."""


def moved(before: Sequence[Row], after: Sequence[Row]) -> list[Moved]:
    """Rows that came, went, or moved, those that changed their status first, then by how far they moved."""
    old, new = ({(r["check"], r["key"]): r for r in rows} for rows in (before, after))

    def far(m: Moved) -> tuple[int, float]:
        if m.before is None or m.after is None:
            return 1, 0.0
        b, a = m.before["utilisation"], m.after["utilisation"]
        return int(m.before["status"] == m.after["status"]) * 2, -abs((a or 0.0) - (b or 0.0))

    found = []
    for key in dict.fromkeys([*old, *new]):
        b, a = old.get(key), new.get(key)
        if _moved(b, a):
            found.append(Moved(key[0], (a or b or {})["where"], b, a))
    return sorted(found, key=far)


def _moved(before: Row | None, after: Row | None) -> bool:
    if before is None or after is None:
        return True
    b, a = before["utilisation"], after["utilisation"]
    if before["status"] != after["status"] or (b is None) != (a is None):
        return True
    return b is not None and a is not None and abs(a - b) >= HAIR


def run_of(session: Session, revision: Revision) -> RunRecord | None:
    """The newest run with an end that is a revision's own, or that stands for it; of any engine."""
    same = (Revision.id == revision.id) | ((Revision.computes == revision.computes) & Revision.computes.is_not(None))
    return session.scalar(
        select(RunRecord)
        .join(Revision, Revision.id == RunRecord.revision_id)
        .where(Revision.floor_id == revision.floor_id, same, RunRecord.state == "fresh")
        .order_by(RunRecord.id.desc())
        .limit(1)
    )
