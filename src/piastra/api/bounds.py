"""What a request may be before anything reads it: for whom it asks, and how large its body is."""

from __future__ import annotations

import asyncio
import contextlib
import json
import os
from collections.abc import Mapping
from typing import Any
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from piastra.core.model import Refusal, RefusedError

LARGEST = 10 * 2**20
"""A body has no more bytes than this,"""
LARGER = {"/drawing": 40 * 2**20, "/model": 100_000_000}
"""a drawing and a building model, by the end of their paths, no more than this; what reads them has its own limit."""
BODY_SECONDS = 30.0
"""A body is there within this time."""
LINGER, LINGER_SECONDS = 4 * LARGEST, 5.0
"""So many bytes of a refused body are let in and dropped, for so long."""
OWN = frozenset({"127.0.0.1", "localhost", "::1"})
HOSTS = "PIASTRA_HOSTS"
"""Names beside the machine's own under which it is served, parted by commas."""


MOST_OBJECTS = 20_000
"""Objects of a floor; one of a hundred bays has some hundreds."""


def few_enough(document: Mapping[str, Any]) -> None:
    """Raises :class:`RefusedError` for a floor file of more objects than a floor has, before each of them is looked at."""
    for name, value in document.items():
        if isinstance(value, list) and len(value) > MOST_OBJECTS:
            sentence = f"are {len(value):,}; a floor has {MOST_OBJECTS:,} of a kind at most. Divide it"
            raise RefusedError([Refusal(name[:60], sentence)])


class _TooLargeError(Exception):
    pass


class _TooLateError(Exception):
    pass


def hosts() -> frozenset[str]:
    """Names under which the application answers."""
    given = os.environ.get(HOSTS, "")
    return OWN | {h.strip().lower() for h in given.split(",") if h.strip()}


class Bounds:
    """Refuses requests for other hosts, which a page of theirs may have sent, and bodies that are too large, as they come in."""

    def __init__(self, app: ASGIApp) -> None:
        self._app, self._hosts = app, hosts()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on what is within bounds."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {k.lower(): v for k, v in scope["headers"]}
        host = headers.get(b"host", b"").decode("latin-1")
        try:
            name = urlsplit(f"//{host}").hostname
        except ValueError:
            name = None
        if name is None or name.lower() not in self._hosts:
            await _refuse(receive, send, 421, "the address", f"is not one that Piastra answers to; name it in {HOSTS}")
            return
        told = headers.get(b"content-length", b"0")
        largest = next((most for end, most in LARGER.items() if scope["path"].endswith(end)), LARGEST)
        sentence = f"is larger than {largest // 2**20} MB; send less at once"
        if told.isdigit() and int(told) > largest:
            await _refuse(receive, send, 413, "the request", sentence)
            return
        size, over, late, until = 0, False, False, asyncio.get_running_loop().time() + BODY_SECONDS
        whole = False

        async def counted() -> Message:
            nonlocal size, over, late, whole
            if whole:
                # All of it is here; what is waited for now is that the client goes, which has its time.
                return await receive()
            try:
                async with asyncio.timeout_at(until):
                    message = await receive()
            except TimeoutError:
                late = True
                raise _TooLateError from None
            whole = message["type"] != "http.request" or not message.get("more_body")
            size += len(message.get("body", b""))
            over = size > largest
            if over:
                raise _TooLargeError
            return message

        async def unless_over(message: Message) -> None:
            # What failed to read the body answers that in its own way.
            if not over and not late:
                await send(message)

        with contextlib.suppress(_TooLargeError, _TooLateError):
            await self._app(scope, counted, unless_over)
        if late:
            await _refuse(receive, send, 408, "the request", f"did not come whole within {BODY_SECONDS:.0f} s; send it again")
        if over:
            await _refuse(receive, send, 413, "the request", sentence)


async def _refuse(receive: Receive, send: Send, status: int, path: str, sentence: str) -> None:
    # A connection that is closed upon one who still sends takes the answer with it: what comes is dropped for a while, unread.
    dropped = 0
    with contextlib.suppress(TimeoutError):
        async with asyncio.timeout(LINGER_SECONDS):
            while dropped < LINGER and (message := await receive())["type"] == "http.request":
                dropped += len(message.get("body", b""))
                if not message.get("more_body"):
                    break
    body = json.dumps({"problems": [{"path": path, "sentence": sentence}]}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
