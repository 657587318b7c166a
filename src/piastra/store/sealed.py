"""What the database alone does not give away: the server's own secret goes into what is kept of passwords and second factors."""

from __future__ import annotations

import base64
import hashlib
import hmac
import os

from cryptography.fernet import Fernet, InvalidToken

SECRET = "PIASTRA_SECRET"
"""Of the environment: random characters that are kept outside the database, and in its backups not either."""
SHORTEST = 32


def secret() -> bytes | None:
    """The server's secret; None where there is none. Raises ValueError for one that could be guessed."""
    given = os.environ.get(SECRET, "")
    if not given:
        return None
    if len(given) < SHORTEST:
        raise ValueError(
            f"{SECRET} has {len(given)} characters; give it {SHORTEST} random ones at least, as from `openssl rand -hex 32`"
        )
    return given.encode()


def keyed(text: str, purpose: str) -> str | None:
    """A text's HMAC-SHA-256 by the server's secret, for one purpose; None without a secret."""
    known = secret()
    return None if known is None else hmac.new(known, f"{purpose}\0{text}".encode(), hashlib.sha256).hexdigest()


def _box() -> Fernet:
    known = secret()
    if known is None:
        raise ValueError(f"{SECRET} is not set")
    return Fernet(base64.urlsafe_b64encode(hmac.new(known, b"sealed", hashlib.sha256).digest()))


def seal(text: str) -> str:
    """A text that only a server with the same secret reads. Raises ValueError without a secret."""
    return _box().encrypt(text.encode()).decode()


def opened(found: str, seconds: int | None = None) -> str | None:
    """A sealed text, sealed no longer than so many ``seconds`` ago; None where it is not one of this server's, or this one has no secret now."""
    if secret() is None:
        return None
    try:
        return _box().decrypt(found.encode(), ttl=seconds).decode()
    except InvalidToken:
        return None
