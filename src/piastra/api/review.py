"""Checking a floor: comments, checks that somebody answers for, and what changed between two revisions."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from piastra.api.door import Asking
from piastra.api.messages import DifferenceState
from piastra.api.wiring import REFUSED, Manager, Sessions
from piastra.core.model.merge import differences as between
from piastra.core.model.shapes import Coordinate
from piastra.store import repository as store
from piastra.store import review

router = APIRouter(prefix="/api")

# Words of several lines, without control and direction characters.
SAID = r"^[^\x00-\x08\x0b-\x1f\x7f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]+$"
Text = Annotated[str, Field(min_length=1, max_length=2000, pattern=SAID)]
MOST = 400
"""Differences and rows that are told."""


class CommentState(BaseModel):
    """A comment, at a place of the plan (m) or on the floor as a whole, or an answer to another one; ``number`` of the revision it was made on."""

    id: int
    author: str
    made: datetime
    number: int
    x: float | None
    y: float | None
    answers: int | None
    text: str
    settled_by: str | None
    mine: bool


class NewComment(BaseModel):
    """Something to say."""

    text: Text
    x: Coordinate | None = None
    y: Coordinate | None = None
    answers: int | None = None


class Settled(BaseModel):
    """Whether a comment is settled."""

    settled: bool


class SignatureState(BaseModel):
    """A check that somebody answers for at a revision; ``holds`` while nothing was changed that bears on it, else ``why`` not."""

    id: int
    check: str
    author: str
    made: datetime
    number: int
    note: str
    holds: bool
    why: str
    mine: bool


class NewSignature(BaseModel):
    """A check to answer for, as the results of the ``run`` have it that were looked at."""

    run: int
    check: Annotated[str, Field(min_length=1, max_length=40)]
    note: Annotated[str, Field(max_length=400, pattern=f"^$|{SAID}")] = ""


class Review(BaseModel):
    """What checkers said of a floor and signed."""

    comments: list[CommentState]
    signatures: list[SignatureState]


class RowSide(BaseModel):
    """A row of a check at one of two revisions."""

    utilisation: float | None
    combination: str
    status: Literal["pass", "fail", "unchecked", "uncovered"]


class RowMoved(BaseModel):
    """A row of a check that moved, came (no ``before``) or went (no ``after``)."""

    check: str
    where: str
    before: RowSide | None
    after: RowSide | None


class Compared(BaseModel):
    """What changed between two revisions: ``values`` of the floor and ``rows`` of its checks (null: one of them was not computed), the first of so many
    each. Without ``whole`` the results of one are no longer kept, and the rows are the worst of each check alone."""

    values: list[DifferenceState]
    value_count: int
    rows: list[RowMoved] | None
    row_count: int
    whole: bool


@router.get("/floors/{floor_id}/review", responses=REFUSED)
def reviewed(floor_id: int, session: Sessions, person: Asking) -> Review:
    """Comments and signatures of a floor."""
    store.floor(session, floor_id)
    return Review(
        comments=[
            CommentState(
                id=c.id, author=author, made=c.made, number=c.number, x=c.x, y=c.y, answers=c.answers_id, text=c.text, settled_by=settler,
                mine=c.author_id == person.id,
            )
            for c, author, settler in review.comments(session, floor_id)
        ],
        signatures=[
            SignatureState(
                id=s.signature.id, check=s.signature.check, author=s.author, made=s.signature.made, number=s.signature.number,
                note=s.signature.note, holds=s.holds, why=s.why, mine=s.signature.author_id == person.id,
            )
            for s in review.signatures(session, floor_id)
        ],
    )  # fmt: skip


def _done(session: Session, manager: Manager, floor_id: int) -> Response:
    session.commit()
    manager.tell({"kind": "review", "floor": floor_id})
    return Response(status_code=204)


@router.post("/floors/{floor_id}/comments", status_code=204, responses=REFUSED)
def say(floor_id: int, body: NewComment, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Say something about a floor."""
    at = (body.x, body.y) if body.x is not None and body.y is not None else None
    review.comment(session, floor_id, person.id, body.text, at, body.answers)
    return _done(session, manager, floor_id)


@router.put("/floors/{floor_id}/comments/{comment_id}", status_code=204, responses=REFUSED)
def settle(floor_id: int, comment_id: int, body: Settled, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Find a comment settled, or open again."""
    review.settle(session, floor_id, comment_id, person.id if body.settled else None)
    return _done(session, manager, floor_id)


@router.delete("/floors/{floor_id}/comments/{comment_id}", status_code=204, responses=REFUSED)
def unsay(floor_id: int, comment_id: int, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Take one's own comment away."""
    review.take_away(session, floor_id, comment_id, person.id)
    return _done(session, manager, floor_id)


@router.post("/floors/{floor_id}/signatures", status_code=204, responses=REFUSED)
def sign(floor_id: int, body: NewSignature, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Answer for a check as the newest results have it."""
    review.sign(session, floor_id, person.id, body.check, body.note, body.run)
    return _done(session, manager, floor_id)


@router.delete("/floors/{floor_id}/signatures/{signature_id}", status_code=204, responses=REFUSED)
def unsign(floor_id: int, signature_id: int, session: Sessions, manager: Manager, person: Asking) -> Response:
    """Take one's own signature back."""
    review.unsign(session, floor_id, signature_id, person.id)
    return _done(session, manager, floor_id)


Number = Annotated[int, Query(ge=1)]


@router.get("/floors/{floor_id}/compared", responses=REFUSED)
def compared(floor_id: int, before: Number, after: Number, session: Sessions) -> Compared:
    """What changed from one revision to another."""
    old, new = (store.revision(session, floor_id, n) for n in (before, after))
    values = between(store.unpack(old.content), store.unpack(new.content))
    runs = [review.run_of(session, r) for r in (old, new)]
    found, whole = None, True
    if runs[0] is not None and runs[1] is not None:
        found, whole = review.compared(session, runs[0].id, runs[1].id)
    return Compared(
        values=[DifferenceState(**asdict(d)) for d in values[:MOST]], value_count=len(values),
        rows=None if found is None else [
            RowMoved(check=m.check, where=m.where, before=_side(m.before), after=_side(m.after)) for m in found[:MOST]
        ],
        row_count=len(found or ()), whole=whole,
    )  # fmt: skip


def _side(row: review.Row | None) -> RowSide | None:
    return None if row is None else RowSide(utilisation=row["utilisation"], combination=row["combination"], status=row["status"])
