"""One's own account: the second factor, where one is signed in, what happened, what is kept, and leaving."""

from __future__ import annotations

import io
from datetime import datetime
from math import ceil
from typing import Annotated, Any

import segno
from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from piastra.api.door import Asking, cookie
from piastra.api.entrance import TURNED_AWAY, Password, refused
from piastra.api.messages import Problems
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.model import Refusal, RefusedError
from piastra.store import entry, factor, people
from piastra.store.repository import MissingError
from piastra.store.sealed import secret

router = APIRouter(prefix="/api")

Number = Annotated[str, Field(min_length=1, max_length=40)]


class FactorState(BaseModel):
    """Whether a second factor is ``on``, how many spare codes are left, and whether this server can keep one."""

    on: bool
    spare: int
    possible: bool


class BegunFactor(BaseModel):
    """A factor to be confirmed: its ``key`` for typing, a ``picture`` (SVG) of its address for an authenticator, and ``sealed``, which comes back."""

    key: str
    picture: str
    sealed: str


class Confirming(BaseModel):
    """The number that the authenticator shows."""

    sealed: Annotated[str, Field(min_length=1, max_length=1000)]
    number: Number


class SpareCodes(BaseModel):
    """Codes for when the device is lost; told this once."""

    codes: list[str]


class Known(BaseModel):
    """What one knows: the password of now, and the number of the second factor where there is one."""

    password: Password
    number: Annotated[str, Field(max_length=40)] = ""


class BrowserState(BaseModel):
    """A browser in which one is signed in; ``here``: this one."""

    id: int
    browser: str
    made: datetime
    seen: datetime
    here: bool


class NoticeState(BaseModel):
    """What happened to the account."""

    at: datetime
    what: str


@router.get("/me/second-factor")
def second_factor(session: Sessions, person: Asking) -> FactorState:
    """Whether one has a second factor."""
    user = people.person(session, person.id)
    return FactorState(on=user.factor is not None, spare=factor.spare_left(user), possible=secret() is not None)


@router.post("/me/second-factor", responses=TURNED_AWAY, response_model=BegunFactor)
def begin_factor(session: Sessions, person: Asking) -> BegunFactor | Response:
    """A key for an authenticator. Nothing holds until it is confirmed."""
    if person.sign_in is None:
        return refused(403, "a token", "cannot set up a second factor; sign in")
    user = people.person(session, person.id)
    if user.factor is not None:
        raise RefusedError([Refusal("the second factor", "is set up already; take it off first")])
    if secret() is None:
        raise RefusedError([Refusal("this server", "has no secret of its own to keep a key with; PIASTRA_SECRET is not set")])
    begun = factor.begin(user)
    picture = io.BytesIO()
    segno.make(begun.address, error="m").save(picture, kind="svg", scale=4, border=2, xmldecl=False, svgns=True)
    return BegunFactor(key=begun.key, picture=picture.getvalue().decode(), sealed=begun.sealed)


@router.put("/me/second-factor", responses=TURNED_AWAY, response_model=SpareCodes)
def confirm_factor(body: Confirming, session: Sessions, person: Asking) -> SpareCodes | Response:
    """Let it hold, with the number that the authenticator shows; signs out of all other browsers."""
    if person.sign_in is None:
        return refused(403, "a token", "cannot set up a second factor; sign in")
    user = people.person(session, person.id)
    if user.factor is not None:
        raise RefusedError([Refusal("the second factor", "is set up already; take it off first")])
    codes = factor.confirm(session, user, body.sealed, body.number)
    if codes is None:
        return refused(422, "the number", "is not the one of now; type the newest, and see that the device's clock is right")
    entry.end_sign_ins(session, user.id, person.sign_in)
    entry.note(session, user.id, "a second factor was set up")
    session.commit()
    return SpareCodes(codes=codes)


def known(body: Known, session: Sessions, person: Asking, request: Request) -> Response | None:
    """An answer for who does not know what the person knows; None for who does."""
    if person.sign_in is None:
        return refused(403, "a token", "is not enough for this; sign in")
    try:
        user = entry.checked(session, person.email, body.password, request.client.host if request.client else "", body.number)
    except entry.TooManyError as error:
        return refused(429, "the password", f"was wrong too often; wait {ceil(error.seconds)} s, then try again")
    except entry.NumberMissingError:
        return refused(422, "the number", "of your second factor is missing")
    return None if user is not None else refused(422, "the password or the number", "is not right")


@router.post("/me/second-factor/off", status_code=204, responses={**TURNED_AWAY, 429: {"model": Problems}})
def take_off_factor(body: Known, session: Sessions, person: Asking, request: Request) -> Response:
    """Come in by the password alone again."""
    if (away := known(body, session, person, request)) is not None:
        return away
    factor.take_off(people.person(session, person.id))
    entry.note(session, person.id, "the second factor was taken off")
    session.commit()
    return Response(status_code=204)


@router.get("/me/sign-ins")
def sign_ins(session: Sessions, person: Asking) -> list[BrowserState]:
    """Where one is signed in."""
    return [
        BrowserState(id=s.id, browser=s.browser, made=s.made, seen=s.seen, here=s.id == person.sign_in)
        for s in entry.sign_ins_of(session, person.id)
    ]


@router.delete("/me/sign-ins/{sign_in_id}", status_code=204, responses=REFUSED)
def end_sign_in(sign_in_id: int, session: Sessions, person: Asking) -> Response:
    """Sign one browser out."""
    if not entry.end_sign_in(session, person.id, sign_in_id):
        raise MissingError("there is no such browser of yours; it may have been signed out")
    session.commit()
    return Response(status_code=204)


@router.get("/me/notices")
def notices(session: Sessions, person: Asking) -> list[NoticeState]:
    """What happened to the account, the newest first."""
    return [NoticeState(at=n.at, what=n.what) for n in entry.notices(session, person.id)]


@router.get("/me/data")
def own_data(session: Sessions, person: Asking) -> dict[str, Any]:
    """All that is kept about the person who asks, but for digests of secrets."""
    user = people.person(session, person.id)
    return {
        "name": user.name, "email": user.email, "administrator": user.administrator, "begins projects": user.begins,
        "second factor": user.factor is not None,
        "projects": [{"name": p.name, "role": role} for p, role in people.projects_of(session, user.id)],
        "changes made": people.changes_of(session, user.id),
        "sign-ins": [{"browser": s.browser, "made": s.made, "seen": s.seen} for s in entry.sign_ins_of(session, user.id)],
        "tokens": [{"name": t.name, "made": t.made, "expires": t.expires, "used": t.used} for t in entry.tokens_of(session, user.id)],
        "notices": [{"at": n.at, "what": n.what} for n in entry.notices(session, user.id)],
    }  # fmt: skip


@router.post("/me/leave", status_code=204, responses={**TURNED_AWAY, 429: {"model": Problems}})
def leave(body: Known, session: Sessions, person: Asking, request: Request) -> Response:
    """Take one's own account away. The name stays with what one changed or signed, for it is the projects' history."""
    if (away := known(body, session, person, request)) is not None:
        return away
    people.forget(session, people.person(session, person.id))
    session.commit()
    return Response(status_code=204, headers={"Set-Cookie": cookie(""), "Clear-Site-Data": '"cache"'})
