"""How people come in: passwords, sign-ins of browsers, tokens of scripts. Secrets are kept as digests only."""

from __future__ import annotations

import hashlib
import secrets
import threading
from dataclasses import dataclass
from datetime import timedelta
from functools import cache
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import BindParameter, ColumnElement, bindparam, delete, null, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session
from zxcvbn import zxcvbn  # type: ignore[import-untyped]  # it has no types

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.store import factor
from piastra.store.roles import ROLE_AT, Place
from piastra.store.sealed import keyed
from piastra.store.tables import Attempts, Notice, Role, SignIn, Token, User, now

SHORTEST, LONGEST = 12, 128
"""Characters of a password."""
LIFETIME = timedelta(hours=12)
"""After this a person signs in anew,"""
IDLE = timedelta(minutes=30)
"""and after so long without a request."""
TURN = timedelta(minutes=15)
"""A cookie's secret is exchanged after this;"""
OVERLAP = timedelta(minutes=2)
"""the one before is good for requests that were on their way."""
SEEN = timedelta(minutes=1)
FREE_ATTEMPTS = 4
"""Wrong passwords in a row before attempts have to wait,"""
FREE_FROM_ADDRESS = 30
"""and so many from one network address, behind which a whole practice may sit;"""
FORGOTTEN = timedelta(days=1)
LONGEST_WAIT = 15 * 60.0
"""no longer than this, s."""
GUESSES = 1e8
"""A password takes more than so many guesses of who knows which passwords people choose (D. L. Wheeler, 2016)."""
LOOKED_AT = 72
"""Characters of a password by which that is judged."""
OWN = "keyed:"
"""Before what is kept of a password with the server's secret in it."""
NOTICES = 60
"""What happened to an account: so much of it is kept."""

_HASHER = PasswordHasher()
_AT_ONCE = threading.BoundedSemaphore(2)
"""A hash takes 64 MiB and a tenth of a second: more of them at once would be a way to stop the server."""


def digest(secret: str) -> str:
    """What is kept of a random secret: SHA-256, hexadecimal. Passwords, which are guessed, have argon2 instead."""
    return hashlib.sha256(secret.encode()).hexdigest()


def fit(password: str, *about: str) -> None:
    """Raises :class:`RefusedError` for a password that is too short or among the first to be guessed, those of lists that were stolen elsewhere among
    them; ``about`` are a person's own words."""
    own = [word for told in about for word in (told, *told.replace("@", " ").replace(".", " ").split()) if len(word) > 3]
    if not SHORTEST <= len(password) <= LONGEST:
        why = f"must have {SHORTEST} to {LONGEST} characters; a sentence is easy to keep in mind"
    elif zxcvbn(password[:LOOKED_AT], own)["guesses"] < GUESSES:
        why = "is among the first that would be guessed; choose another"
    else:
        return
    raise RefusedError([Refusal("password", why)])


def hashed(password: str) -> str:
    """What is kept of a password."""
    own = keyed(password, "password")
    with _AT_ONCE:
        return _HASHER.hash(password) if own is None else OWN + _HASHER.hash(own)


@cache
def _nobodys() -> str:
    """What is kept of a password that nobody knows: who is not known is compared with it, so that it takes as long."""
    return _HASHER.hash(secrets.token_urlsafe())


def _matches(kept: str | None, password: str) -> bool:
    with_secret = kept is not None and kept.startswith(OWN)
    given = keyed(password, "password") if with_secret else password
    with _AT_ONCE:
        # Made for who is known as well, lest the first attempt tell the two apart.
        nobodys = _nobodys()
        try:
            found = kept.removeprefix(OWN) if kept is not None else nobodys
            return given is not None and _HASHER.verify(found, given) and kept is not None
        except (VerificationError, InvalidHashError):
            return False


@dataclass(frozen=True, slots=True)
class TooManyError(Exception):
    """Too many wrong passwords; so many ``seconds`` to wait."""

    seconds: float


class NumberMissingError(Exception):
    """The password is right, and the number of the second factor is missing."""


def wait_after(failures: int, free: int = FREE_ATTEMPTS) -> float:
    """Seconds that the next attempt waits after so many failures in a row: none at first, then twice as long each time."""
    beyond = failures - free
    return 0.0 if beyond <= 0 else float(min(2.0 ** min(beyond, 20), LONGEST_WAIT))


def checked(session: Session, email: str, password: str, address: str, number: str = "") -> User | None:
    """The person of an e-mail and password, and of the ``number`` of his second factor if he has one, or None; commits how often it failed, for the e-mail and
    for the network ``address`` it came from.

    Who is not known takes as long, and has to wait as long, as a known one with a wrong password. Raises :class:`TooManyError` while the attempt has
    to wait, and :class:`NumberMissingError` for a right password without the number that belongs to it.
    """
    told = email.strip().casefold()
    free = {digest(f"person {told}"): FREE_ATTEMPTS, digest(f"address {address}"): FREE_FROM_ADDRESS}
    held = session.scalars(select(Attempts).where(Attempts.mark.in_(list(free)))).all()
    wait = max(((a.wait_until - now()).total_seconds() for a in held if a.wait_until is not None), default=0.0)
    if wait > 0:
        raise TooManyError(wait)
    found = session.scalar(select(User).where(User.email == told))
    right = _matches(found.password if found else None, password) and found is not None and not found.barred
    if right and found is not None and found.factor is not None:
        if not number.strip():
            raise NumberMissingError
        right = factor.holds(session, found, number)
        if not right:
            note(session, found.id, "a wrong or used number came with the right password")
    if right and found is not None:
        if found.password is not None and not found.password.startswith(OWN) and keyed("", "password") is not None:
            found.password = hashed(password)
        session.execute(delete(Attempts).where(Attempts.mark.in_(list(free))))
        session.commit()
        return found
    for mark, allowed in free.items():
        # Counted by the database: guesses that come at once count each.
        session.execute(
            insert(Attempts)
            .values(mark=mark, failures=1, last=now())
            .on_duplicate_key_update(failures=Attempts.failures + 1, last=now())
        )
        failures = session.scalar(select(Attempts.failures).where(Attempts.mark == mark)) or 0
        until = now() + timedelta(seconds=wait_after(failures, allowed))
        session.execute(update(Attempts).where(Attempts.mark == mark).values(wait_until=until))
    session.execute(delete(Attempts).where(Attempts.last < now() - FORGOTTEN))
    session.commit()
    return None


def note(session: Session, user_id: int, what: str) -> None:
    """Note for a person what happened to his account; the oldest of many notices go."""
    session.add(Notice(user_id=user_id, what=what))
    old = session.scalars(select(Notice.id).where(Notice.user_id == user_id).order_by(Notice.id.desc()).offset(NOTICES)).all()
    if old:
        session.execute(delete(Notice).where(Notice.id.in_(old)))


def notices(session: Session, user_id: int) -> list[Notice]:
    """What happened to an account, the newest first."""
    return list(session.scalars(select(Notice).where(Notice.user_id == user_id).order_by(Notice.id.desc())))


def browser_of(agent: str) -> str:
    """Browser and system in a word each, of what a browser calls itself."""
    kinds = (("Edg", "Edge"), ("Firefox", "Firefox"), ("Chrom", "Chromium"), ("Safari", "Safari"))
    systems = (
        ("Android", "Android"),
        ("iPhone", "iPhone"),
        ("iPad", "iPad"),
        ("Windows", "Windows"),
        ("Mac OS", "macOS"),
        ("Linux", "Linux"),
    )
    kind, system = (next((name for mark, name in known if mark in agent), "") for known in (kinds, systems))
    return " on ".join(filter(None, (kind or "another browser", system)))


def sign_ins_of(session: Session, user_id: int) -> list[SignIn]:
    """Where a person is signed in, the last one seen first."""
    live = (SignIn.made > now() - LIFETIME) & (SignIn.seen > now() - IDLE)
    return list(session.scalars(select(SignIn).where(SignIn.user_id == user_id, live).order_by(SignIn.seen.desc())))


def end_sign_in(session: Session, user_id: int, sign_in_id: int) -> bool:
    """Sign a person's own browser out. Whether it was signed in."""
    done = session.execute(delete(SignIn).where(SignIn.id == sign_in_id, SignIn.user_id == user_id))
    return bool(done.rowcount)  # type: ignore[attr-defined]


def begin_sign_in(session: Session, user: User, browser: str = "") -> str:
    """Let a browser in; the secret of its cookie. Sign-ins that are over go."""
    secret = secrets.token_urlsafe(32)
    session.execute(delete(SignIn).where((SignIn.made < now() - LIFETIME) | (SignIn.seen < now() - IDLE)))
    session.add(SignIn(user_id=user.id, digest=digest(secret), guard=secrets.token_urlsafe(24), browser=browser))
    note(session, user.id, f"signed in with {browser or 'a browser'}")
    session.commit()
    return secret


@dataclass(frozen=True, slots=True)
class Entered:
    """Who came in, by a browser's ``sign_in`` or by a ``token``; ``turned``: the new secret of the browser's cookie; ``role``: what he is at the place that was asked for."""

    user: User
    sign_in: SignIn | None = None
    token: Token | None = None
    turned: str | None = None
    role: Role | None = None


At = tuple[Place, int]
"""A place in a project, by its number."""
_MARK: BindParameter[str] = bindparam("mark")
# Every request asks this: it is put into words once, and who comes and what he is there is one question.
_ROLES: list[tuple[Place | None, ColumnElement[Any]]] = [(None, null()), *ROLE_AT.items()]
_BY_COOKIE = {
    kind: select(SignIn, User, role)
    .join(User, User.id == SignIn.user_id)
    .where((SignIn.digest == _MARK) | (SignIn.before == _MARK))
    for kind, role in _ROLES
}
_BY_TOKEN = {
    kind: select(Token, User, role).join(User, User.id == Token.user_id).where(Token.digest == _MARK) for kind, role in _ROLES
}


def by_cookie(session: Session, secret: str, active: bool = True, at: At | None = None) -> Entered | None:
    """Who is signed in with a cookie's secret, and his role ``at`` a place; the secret is exchanged when its time has come.

    A page that only listens is not ``active``: nobody may sit before it. A secret that was exchanged a while ago comes from somebody who copied it: that ends the sign-in.
    """
    mark, moment = digest(secret), now()
    kind, number = at or (None, 0)
    row = session.execute(_BY_COOKIE[kind], {"mark": mark, "place": number}).first()
    if row is None:
        return None
    found, user, role = row
    over = moment - found.made > LIFETIME or moment - found.seen > IDLE or user.barred
    stale = found.digest != mark and moment - found.turned > OVERLAP
    if over or stale:
        session.execute(delete(SignIn).where(SignIn.id == found.id))
        session.commit()
        return None
    turned = None
    if active and found.digest == mark and moment - found.turned > TURN:
        fresh = secrets.token_urlsafe(32)
        # Of requests that come at once, one exchanges it.
        done = session.execute(
            update(SignIn)
            .where(SignIn.id == found.id, SignIn.digest == mark)
            .values(digest=digest(fresh), before=mark, turned=moment, seen=moment)
        )
        turned = fresh if done.rowcount else None  # type: ignore[attr-defined]
        session.commit()
    elif active and moment - found.seen > SEEN:
        session.execute(update(SignIn).where(SignIn.id == found.id).values(seen=moment))
        session.commit()
    return Entered(user, sign_in=found, turned=turned, role=role)


def by_token(session: Session, secret: str, at: At | None = None) -> Entered | None:
    """Who a script's token stands for, and his role ``at`` a place."""
    kind, number = at or (None, 0)
    row = session.execute(_BY_TOKEN[kind], {"mark": digest(secret), "place": number}).first()
    if row is None:
        return None
    found, user, role = row
    if found.expires < now() or user.barred:
        return None
    if found.used is None or now() - found.used > SEEN:
        session.execute(update(Token).where(Token.id == found.id).values(used=now()))
        session.commit()
    return Entered(user, token=found, role=role)


def end_sign_ins(session: Session, user_id: int, but: int | None = None) -> None:
    """Sign a person out of all browsers, ``but`` one."""
    session.execute(delete(SignIn).where(SignIn.user_id == user_id, SignIn.id != (but or 0)))


def make_token(session: Session, user_id: int, name: str, days: int, reads_only: bool) -> tuple[Token, str]:
    """A token for a script, and its secret, which is told this once."""
    secret = f"piastra_{secrets.token_urlsafe(32)}"
    made = Token(
        user_id=user_id, name=name, digest=digest(secret), reads_only=reads_only, expires=now() + timedelta(days=days)
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made, secret


def tokens_of(session: Session, user_id: int) -> list[Token]:
    """A person's tokens, the newest first."""
    return list(session.scalars(select(Token).where(Token.user_id == user_id).order_by(Token.id.desc())))


def drop_token(session: Session, user_id: int, token_id: int) -> bool:
    """Take a token of a person's own away. Whether it was there."""
    done = session.execute(delete(Token).where(Token.id == token_id, Token.user_id == user_id))
    return bool(done.rowcount)  # type: ignore[attr-defined]
