"""Coming in and going: sign-in, invitations that are accepted, one's password and tokens."""

from __future__ import annotations

from datetime import datetime
from math import ceil
from typing import Annotated

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from sqlalchemy import delete
from sqlalchemy.orm import Session

from piastra.api.door import Asking, Maybe, cookie, demo
from piastra.api.messages import Problem, Problems
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.shapes import NAME, Label
from piastra.demo.people import DESIGNER
from piastra.store import entry, factor, people
from piastra.store.repository import MissingError
from piastra.store.tables import Kind, Project, Role, SignIn, Token, User

router = APIRouter(prefix="/api")
NUMBER = "the number"
"""What a page asks for once a password is right, and its account has a second factor."""
TURNED_AWAY = {401: {"model": Problems}, 403: {"model": Problems}, **REFUSED}

Email = Annotated[str, Field(min_length=3, max_length=254, pattern=r"^[^@\s\x00-\x1f]+@[^@\s\x00-\x1f]+$")]
Password = Annotated[str, Field(min_length=1, max_length=entry.LONGEST)]
Secret = Annotated[str, Field(min_length=1, max_length=200)]
PersonName = Annotated[str, Field(min_length=1, max_length=80, pattern=NAME)]


class PersonState(BaseModel):
    """Who is signed in, and his ``roles`` by project."""

    id: int
    name: str
    email: str
    administrator: bool
    begins: bool
    roles: dict[int, Role]


class Me(BaseModel):
    """Who asks (null: nobody is signed in), and the ``guard`` that changes have to name. ``demo``: the application shows the demo on this machine."""

    person: PersonState | None
    guard: str
    demo: bool


class SigningIn(BaseModel):
    """An e-mail address and its password, and the ``number`` of a second factor, or a spare code, where there is one."""

    email: Annotated[str, Field(min_length=1, max_length=254)]
    password: Password
    number: Annotated[str, Field(max_length=40)] = ""


class SigningOut(BaseModel):
    """``everywhere``: out of all browsers."""

    everywhere: bool = False


class Invited(BaseModel):
    """What a link is for: a ``project`` with a ``role``, the practice, an administrator's, or a new password of ``email``."""

    kind: Kind
    project: str | None
    role: Role | None
    by: str | None
    email: str | None


class Link(BaseModel):
    """The secret of a link."""

    secret: Secret


class Joining(Link):
    """Accepting an invitation: as who is signed in, or with a new account; for a new password, the password alone."""

    name: PersonName | None = None
    email: Email | None = None
    password: Password | None = None
    number: Annotated[str, Field(max_length=40)] = ""


class NewPassword(BaseModel):
    """The password of now (with the number of a second factor where there is one), and the new one."""

    old: Password
    new: Password
    number: Annotated[str, Field(max_length=40)] = ""


class TokenState(BaseModel):
    """A token for scripts; its secret is not kept."""

    id: int
    name: str
    reads_only: bool
    made: datetime
    expires: datetime
    used: datetime | None


class NewToken(BaseModel):
    """A token to make, good for so many ``days``."""

    name: Label
    days: int = Field(ge=1, le=366)
    reads_only: bool = True


class MadeToken(BaseModel):
    """A token, and its secret, which is told this once."""

    token: TokenState
    secret: str


def _me(session: Session, user: User | None, guard: str = "") -> Me:
    if user is None:
        return Me(person=None, guard="", demo=demo())
    state = PersonState(
        id=user.id, name=user.name, email=user.email or "", administrator=user.administrator, begins=user.begins,
        roles=people.roles_of(session, user.id),
    )  # fmt: skip
    return Me(person=state, guard=guard, demo=demo())


def _let_in(session: Session, user: User, request: Request) -> JSONResponse:
    """Sign a browser in, and tell it who it is."""
    secret = entry.begin_sign_in(session, user, entry.browser_of(request.headers.get("user-agent", "")))
    found = entry.by_cookie(session, secret)
    told = _me(session, user, found.sign_in.guard if found and found.sign_in else "")
    return JSONResponse(told.model_dump(mode="json"), headers={"Set-Cookie": cookie(secret), "Cache-Control": "no-store"})


def refused(status: int, path: str, sentence: str, headers: dict[str, str] | None = None) -> JSONResponse:
    """An answer that turns somebody away."""
    return JSONResponse(
        Problems(problems=[Problem(path=path, sentence=sentence)]).model_dump(), status_code=status, headers=headers
    )


@router.get("/me")
def me(session: Sessions, person: Maybe, response: Response) -> Me:
    """Who asks, and what he is in which project."""
    response.headers["Cache-Control"] = "no-store"
    return _me(session, people.person(session, person.id), person.guard) if person else _me(session, None)


@router.post("/sign-in", responses={**TURNED_AWAY, 429: {"model": Problems}}, response_model=Me)
def sign_in(body: SigningIn, session: Sessions, request: Request) -> Response:
    """Sign a browser in."""
    try:
        user = entry.checked(session, body.email, body.password, request.client.host if request.client else "", body.number)
    except entry.TooManyError as error:
        wait = ceil(error.seconds)
        told = (
            f"was wrong too often; wait {wait} s, then try again"
            if wait < 90
            else f"was wrong too often; wait {ceil(wait / 60)} min"
        )
        return refused(429, "the password", told, {"Retry-After": str(wait)})
    except entry.NumberMissingError:
        return refused(401, NUMBER, "that your authenticator shows is asked for, or one of your spare codes")
    if user is None:
        return refused(401, "e-mail, password or number" if body.number else "e-mail or password", "is not right")
    return _let_in(session, user, request)


@router.post("/sign-in/demo", responses=TURNED_AWAY, response_model=Me)
def sign_in_demo(session: Sessions, request: Request) -> Response:
    """Sign in as the demo's designer, where the application shows the demo on this machine."""
    user = people.by_email(session, DESIGNER.email) if demo() else None
    if user is None:
        return refused(403, "the demo", "is not shown here; sign in with an account")
    return _let_in(session, user, request)


@router.post("/sign-out", status_code=204)
def sign_out(body: SigningOut, session: Sessions, person: Asking) -> Response:
    """Sign this browser out, or all of them."""
    if body.everywhere:
        entry.end_sign_ins(session, person.id)
    elif person.sign_in is not None:
        session.execute(delete(SignIn).where(SignIn.id == person.sign_in))
    session.commit()
    return Response(status_code=204, headers={"Set-Cookie": cookie(""), "Clear-Site-Data": '"cache"'})


@router.put("/me/password", status_code=204, responses={**TURNED_AWAY, 429: {"model": Problems}})
def change_password(body: NewPassword, session: Sessions, person: Asking, request: Request) -> Response:
    """A new password; signs out of all other browsers."""
    if person.sign_in is None:
        return refused(403, "a token", "cannot change the password; sign in")
    try:
        user = entry.checked(session, person.email, body.old, request.client.host if request.client else "", body.number)
    except entry.NumberMissingError:
        return refused(422, NUMBER, "of your second factor is missing")
    except entry.TooManyError as error:
        return refused(429, "the password of now", f"was wrong too often; wait {ceil(error.seconds)} s, then try again")
    if user is None:
        return refused(422, "the password of now", "is not right")
    people.set_password(session, user, body.new, but=person.sign_in)
    entry.note(session, user.id, "the password was changed")
    session.commit()
    return Response(status_code=204)


@router.post("/invitations/look", responses=REFUSED)
def look_at_invitation(body: Link, session: Sessions) -> Invited:
    """What a link is for."""
    found = people.open_invitation(session, body.secret)
    project = session.get(Project, found.project_id) if found.project_id is not None else None
    by = session.get(User, found.made_by_id) if found.made_by_id is not None else None
    user = session.get(User, found.user_id) if found.user_id is not None else None
    return Invited(
        kind=found.kind, project=project.name if project else None, role=found.role, by=by.name if by else None,
        email=user.email if user else None,
    )  # fmt: skip


@router.post("/invitations/accept", responses=TURNED_AWAY, response_model=Me)
def join(body: Joining, session: Sessions, person: Maybe, request: Request) -> Response:
    """Accept an invitation; signs in."""
    found = people.open_invitation(session, body.secret, lock=True)
    if found.kind == "password" and found.user_id is not None:
        user = people.person(session, found.user_id)
        if user.barred:
            raise MissingError("this person is kept out; ask who looks after people")
        if user.factor is not None and not factor.holds(session, user, body.number):
            session.commit()
            return refused(401, NUMBER, "that your authenticator shows is asked for, or one of your spare codes")
        people.set_password(session, user, body.password or "")
        entry.note(session, user.id, "a new password was chosen by a link")
        people.accept(session, found, user)
        return _let_in(session, user, request)
    if person is not None:
        if person.reads_only or person.sign_in is None:
            return refused(403, "a token", "cannot accept an invitation; sign in")
        user = people.person(session, person.id)
        people.accept(session, found, user)
        session.commit()
        return JSONResponse(_me(session, user, person.guard).model_dump(mode="json"))
    missing = [name for name in ("name", "email", "password") if getattr(body, name) is None]
    if missing or body.name is None or body.email is None or body.password is None:
        raise RefusedError([Refusal(name, "is missing") for name in missing])
    user = people.made_account(session, body.name, body.email, body.password)
    people.accept(session, found, user)
    return _let_in(session, user, request)


def _token(t: Token) -> TokenState:
    return TokenState(id=t.id, name=t.name, reads_only=t.reads_only, made=t.made, expires=t.expires, used=t.used)


@router.get("/tokens")
def tokens(session: Sessions, person: Asking) -> list[TokenState]:
    """One's own tokens."""
    return [_token(t) for t in entry.tokens_of(session, person.id)]


MOST_TOKENS = 50


@router.post("/tokens", responses=TURNED_AWAY, status_code=201, response_model=MadeToken)
def make_token(body: NewToken, session: Sessions, person: Asking) -> MadeToken | Response:
    """A token for a script, which may do what its person may, or read alone."""
    if person.sign_in is None:
        return refused(403, "a token", "cannot make others; sign in")
    if len(entry.tokens_of(session, person.id)) >= MOST_TOKENS:
        raise RefusedError([Refusal("the token", f"would be one too many: {MOST_TOKENS} at most; take old ones away")])
    made, secret = entry.make_token(session, person.id, body.name, body.days, body.reads_only)
    entry.note(session, person.id, f"a token was made: {body.name}")
    session.commit()
    return MadeToken(token=_token(made), secret=secret)


@router.delete("/tokens/{token_id}", status_code=204, responses=REFUSED)
def drop_token(token_id: int, session: Sessions, person: Asking) -> Response:
    """Take a token away; scripts that use it are refused from now on."""
    if not entry.drop_token(session, person.id, token_id):
        raise MissingError("there is no such token of yours")
    session.commit()
    return Response(status_code=204)
