"""The second factor: numbers that change every 30 s (RFC 6238), and codes for the day on which the device that shows them is lost."""

from __future__ import annotations

import hmac
import json
import secrets
import time
from dataclasses import dataclass

import pyotp
from sqlalchemy import update
from sqlalchemy.orm import Session

from piastra.store.sealed import keyed, opened, seal
from piastra.store.tables import User

PERIOD = 30
"""Seconds for which a number stands."""
NEIGHBOURS = (0, -1, 1)
"""Clocks may be one number apart."""
SPARE = 8
"""Codes for a lost device, each good once."""
BEGUN_SECONDS = 600
"""For so long a factor that was begun may be confirmed."""
ISSUER = "Piastra"


@dataclass(frozen=True, slots=True)
class Begun:
    """A factor that is not confirmed yet: its ``key`` for an authenticator, the ``address`` that one reads from a picture, and the key ``sealed``."""

    key: str
    address: str
    sealed: str


def begin(user: User) -> Begun:
    """A new key for a person. Raises ValueError where the server has no secret to seal it with."""
    key = pyotp.random_base32()
    address = pyotp.TOTP(key).provisioning_uri(name=user.email or user.name, issuer_name=ISSUER)
    return Begun(key, address, seal(json.dumps([user.id, key])))


def confirm(session: Session, user: User, sealed: str, number: str) -> list[str] | None:
    """Let a factor hold from now on, once its authenticator shows the right number; the spare codes, which are told this once. None: it does not."""
    text = opened(sealed, BEGUN_SECONDS)
    if text is None:
        return None
    owner, key = json.loads(text)
    step = _step(key, number) if owner == user.id else None
    if step is None:
        return None
    codes = ["-".join(secrets.token_hex(2) for _ in range(3)) for _ in range(SPARE)]
    user.factor, user.factor_step = seal(key), step
    user.spare = json.dumps([keyed(c, "spare") for c in codes])
    session.flush()
    return codes


def take_off(user: User) -> None:
    """Let a person come in by the password alone."""
    user.factor = user.factor_step = user.spare = None


def spare_left(user: User) -> int:
    """How many spare codes are left."""
    return len(json.loads(user.spare or "[]"))


def holds(session: Session, user: User, number: str) -> bool:
    """Whether a number is that of the person's authenticator now, or one of his spare codes; it is used up by that."""
    given = number.replace(" ", "").strip().lower()
    key = opened(user.factor or "")
    if key is None:
        return False
    if (step := _step(key, given)) is not None:
        # Once only, also of requests that come at once.
        newer = User.factor_step.is_(None) | (User.factor_step < step)
        done = session.execute(update(User).where(User.id == user.id, newer).values(factor_step=step))
        return bool(done.rowcount)  # type: ignore[attr-defined]
    mark, kept = keyed(given, "spare"), json.loads(user.spare or "[]")
    if mark not in kept:
        return False
    left = json.dumps([k for k in kept if k != mark])
    done = session.execute(update(User).where(User.id == user.id, User.spare == user.spare).values(spare=left))
    return bool(done.rowcount)  # type: ignore[attr-defined]


def _step(key: str, number: str) -> int | None:
    """The number of the period that a number of an authenticator is of; None for one that is not of now."""
    made, now = pyotp.TOTP(key, interval=PERIOD), int(time.time()) // PERIOD
    given = number.replace(" ", "").encode()
    return next((now + k for k in NEIGHBOURS if hmac.compare_digest(made.at((now + k) * PERIOD).encode(), given)), None)
