"""The one place where it is decided who may do what: every operation has the right that it needs, and one without is for nobody."""

from __future__ import annotations

import hmac
import json
import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from http.cookies import CookieError, SimpleCookie
from typing import Annotated
from urllib.parse import urlsplit

import structlog
from fastapi import Depends, Request
from fastapi.routing import APIRoute
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import MutableHeaders
from starlette.routing import BaseRoute, Match
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from piastra.api.bounds import HOSTS
from piastra.store import entry
from piastra.store.people import ROLES
from piastra.store.roles import ROLE_AT
from piastra.store.tables import Role

log = structlog.get_logger()

DEMO = "PIASTRA_DEMO"
"""Of the environment: who opens the page is signed in as the demo's designer. For one machine alone."""
GUARD = b"x-piastra-guard"
"""The header in which a page names its sign-in's guard when it changes something: another site's page cannot know it."""
SAFE = ("GET", "HEAD", "OPTIONS")


class Right(IntEnum):
    """What an operation asks of who wants it: to be anybody, to have come in, a role in the project, or to be an administrator."""

    ANYBODY = 0
    PERSON = 1
    READ = 2
    CHECK = 3
    DESIGN = 4
    OWN = 5
    BEGIN = 6
    ADMINISTER = 7


_LEAST: dict[Right, Role] = {Right.READ: "reader", Right.CHECK: "checker", Right.DESIGN: "designer", Right.OWN: "owner"}


def _all(right: Right, names: str) -> dict[str, Right]:
    return dict.fromkeys(names.split(), right)


RIGHTS: Mapping[str, Right] = {
    **_all(Right.ANYBODY, "health ready me sign_in sign_in_demo look_at_invitation join"),
    **_all(Right.PERSON, "standards projects put_away schema report_chapters combination_sets table_file outline_work "
                         "sign_out change_password tokens make_token drop_token "
                         "second_factor begin_factor confirm_factor take_off_factor sign_ins end_sign_in notices own_data leave"),
    **_all(Right.BEGIN, "begin from_file from_model"),
    **_all(Right.ADMINISTER, "everybody change_person new_password_link take_off_factor_of practice_links practice_link take_back_practice_link metrics"),
    **_all(Right.READ, "project floor steps findings section as_file history results zone_sheet bar_drawing tendon_layout fields events "
                       "project_file preview drawing recognised as_dxf catalogue field directions value slice_ strip station places reactions runs "
                       "probe_history report of_member carried parameters combination_set combinations_file read_combinations "
                       "read_joint_loads people reviewed compared overview project_events studies study study_table study_file "
                       "read_variants as_model read_lateral"),
    **_all(Right.CHECK, "compute_history say settle unsay sign unsign"),
    **_all(Right.DESIGN, "save_project undo_project redo_project add_floor save undo redo cut_loose choose_level copy_to cancel keep_floor "
                         "order replace underlay take_away plant generate from_set run_floors cancel_floors "
                         "take_lateral read_model_again take_pieces begin_study stop_study take_study_away take_variant"),
    **_all(Right.OWN, "keep_project give_role take_role project_links project_link take_back_project_link"),
}  # fmt: skip
"""By the operation's name."""


@dataclass(frozen=True, slots=True)
class Person:
    """Who asks, and how he came in: in a browser by the sign-in of a number, whose changes name the ``guard``, or a script by a token."""

    id: int
    name: str
    email: str
    administrator: bool
    begins: bool
    factor: bool = False
    sign_in: int | None = None
    guard: str = ""
    reads_only: bool = False


@dataclass(frozen=True, slots=True)
class _TurnedAwayError(Exception):
    status: int
    path: str
    sentence: str


def demo() -> bool:
    """Whether the application shows the demo to whoever sits at this machine."""
    return os.environ.get(DEMO) == "1" and not os.environ.get(HOSTS)


def cookie_name() -> str:
    """The cookie of a sign-in. Browsers take the prefix from encrypted connections alone."""
    return "piastra" if demo() else "__Host-piastra"


def cookie(secret: str) -> str:
    """The header that sets it; an empty secret takes it away."""
    secure = "" if demo() else "; Secure"
    age = int(entry.LIFETIME.total_seconds()) if secret else 0
    return f"{cookie_name()}={secret}; Path=/; Max-Age={age}; HttpOnly; SameSite=Strict{secure}"


class Door:
    """Lets a request in to what it may have; before anything of its body is read."""

    def __init__(self, app: ASGIApp, routes: Sequence[BaseRoute]) -> None:
        self._app, self._routes = app, routes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Ask who it is and what he may, then pass on."""
        if scope["type"] != "http" or not scope["path"].startswith("/api"):
            await self._app(scope, receive, send)
            return
        found = self._operation(scope)
        if found is None:
            await self._app(scope, receive, send)
            return
        name, numbers = found
        state = scope.setdefault("state", {})
        state["operation"] = name
        # For the log: who looked at what, by numbers alone.
        state["numbers"] = {key: int(n) for key, n in numbers.items() if n.isascii() and n.isdigit() and len(n) < 10}
        make = scope["app"].state.sessions
        try:
            person, turned = await run_in_threadpool(_admitted, make, scope, name, numbers)
        except _TurnedAwayError as away:
            await _answer(send, away.status, away.path, away.sentence)
            return
        except (DBAPIError, PoolTimeoutError) as error:
            log.error("database.away", error=type(error).__name__)
            await _answer(send, 503, "the database", "does not answer; what you did is not saved yet, try again in a moment")
            return
        state["person"] = person
        state["still"] = lambda: _still(make, scope, name, numbers)

        async def with_cookie(message: Message) -> None:
            if turned is not None and message["type"] == "http.response.start":
                MutableHeaders(scope=message).append("Set-Cookie", cookie(turned))
            await send(message)

        await self._app(scope, receive, with_cookie)

    def _operation(self, scope: Scope) -> tuple[str, Mapping[str, str]] | None:
        """The operation that a request asks for, and the numbers in its address."""
        asked = {**scope, "method": "GET"} if scope["method"] == "HEAD" else scope
        for route in self._routes:
            if isinstance(route, APIRoute):
                match, more = route.matches(asked)
                if match == Match.FULL:
                    return route.name, more["path_params"]
        return None


async def _answer(send: Send, status: int, path: str, sentence: str) -> None:
    body = json.dumps({"problems": [{"path": path, "sentence": sentence}]}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})


def _header(scope: Scope, name: bytes) -> str:
    return next((v.decode("latin-1") for k, v in scope["headers"] if k.lower() == name), "")


def _admitted(
    make: Callable[[], Session], scope: Scope, name: str, numbers: Mapping[str, str]
) -> tuple[Person | None, str | None]:
    """Who asks, and the new secret of his cookie. Raises for whoever may not."""
    right = RIGHTS.get(name)
    if right is None:
        raise _TurnedAwayError(403, scope["path"], "is for nobody: this operation has no right of its own yet")
    changes = scope["method"] not in SAFE
    if changes:
        _of_this_site(scope)
    at = _place(numbers) if right in _LEAST else None
    with make() as session:
        entered = _entered(session, scope, active=name != "events", at=at)
        person = _person(entered) if entered else None
        if right is Right.ANYBODY:
            return person, entered.turned if entered else None
        if person is None:
            raise _TurnedAwayError(401, "you", "are not signed in; sign in, and it goes on")
        if (
            changes
            and person.sign_in is not None
            and not hmac.compare_digest(_header(scope, GUARD).encode(), person.guard.encode())
        ):
            raise _TurnedAwayError(403, "the request", "does not name the guard of your sign-in; load the page anew")
        _may(entered.role if entered else None, person, right, numbers, scope["path"], changes)
        return person, entered.turned if entered else None


def _place(numbers: Mapping[str, str]) -> entry.At | None:
    """The place in a project that an address names."""
    for kind in ROLE_AT:
        given = numbers.get(f"{kind}_id")
        if given is not None:
            # What is no plain number is none of anybody's: other ways to write one are not read here and there in different ways.
            return kind, int(given) if given.isascii() and given.isdigit() and len(given) < 10 else -1
    return None


def _entered(session: Session, scope: Scope, active: bool, at: entry.At | None) -> entry.Entered | None:
    kind, _, given = _header(scope, b"authorization").partition(" ")
    if kind.lower() == "bearer":
        return entry.by_token(session, given.strip(), at)
    try:
        jar = SimpleCookie(_header(scope, b"cookie"))
    except CookieError:
        return None
    found = jar.get(cookie_name())
    return entry.by_cookie(session, found.value, active, at) if found is not None else None


def _person(entered: entry.Entered) -> Person:
    user = entered.user
    return Person(
        user.id, user.name, user.email or "", user.administrator, user.begins, user.factor is not None,
        entered.sign_in.id if entered.sign_in else None, entered.sign_in.guard if entered.sign_in else "",
        entered.token.reads_only if entered.token else False,
    )  # fmt: skip


def _of_this_site(scope: Scope) -> None:
    """A browser says from where a change comes; of other sites' pages none is taken, signed in or not."""
    origin = _header(scope, b"origin")
    if origin and urlsplit(origin).netloc.lower() != _header(scope, b"host").lower():
        raise _TurnedAwayError(403, "the request", "comes from a page of another site")


def _may(role: Role | None, person: Person, right: Right, numbers: Mapping[str, str], path: str, changes: bool) -> None:
    """Raises unless a person, who has a ``role`` at the place that an address names, has a right; what is in a project he is not in does not exist for
    him."""
    if right is Right.ADMINISTER:
        if not person.administrator:
            raise _TurnedAwayError(403, "you", "are no administrator; ask one")
        if not person.factor and not demo():
            raise _TurnedAwayError(403, "you", "look after people, which takes a second factor; set one up under your name")
    elif right is Right.BEGIN:
        if not person.begins:
            raise _TurnedAwayError(403, "you", "work in projects of others and may not begin your own; ask an administrator")
    elif right in _LEAST:
        least = _LEAST[right]
        if role is None:
            at = _place(numbers)
            if at is None:
                raise _TurnedAwayError(403, path, "names no project")
            kind, given = at[0], numbers[f"{at[0]}_id"][:20]
            raise _TurnedAwayError(404, path, f"there is no {kind} {given}; it may have been deleted, or it is not yours to see")
        if ROLES.index(role) < ROLES.index(least):
            raise _TurnedAwayError(403, "you", f"are {role} in this project; this takes a {least}. An owner can change that")
    if person.reads_only and changes and right is not Right.READ:
        raise _TurnedAwayError(403, "the token", "is one for reading; make one that may change things")


def _still(make: Callable[[], Session], scope: Scope, name: str, numbers: Mapping[str, str]) -> bool:
    try:
        _admitted(make, scope, name, numbers)
    except _TurnedAwayError:
        return False
    except (DBAPIError, PoolTimeoutError):
        # Nobody is put out because the database is away.
        return True
    return True


async def still_admitted(request: Request) -> bool:
    """Whether who listens for long may go on."""
    return bool(await run_in_threadpool(request.state.still))


def _maybe(request: Request) -> Person | None:
    found: Person | None = request.state.person
    return found


def _asking(request: Request) -> Person:
    found: Person = request.state.person
    return found


Maybe = Annotated[Person | None, Depends(_maybe)]
Asking = Annotated[Person, Depends(_asking)]
