"""What comes and goes in parts: bodies of requests, and what happens to floors as server-sent events."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Sequence
from typing import Any

from fastapi import Request
from fastapi.responses import StreamingResponse

from piastra.api.door import still_admitted
from piastra.api.watch import LISTENERS
from piastra.jobs.listening import Runs

QUIET_SECONDS = 15.0
"""After so long without an event a stream says that it is still there."""


async def body_of(request: Request, most: int) -> bytes:
    """The body of a request, as soon as it has more than ``most`` bytes no more of it."""
    content = bytearray()
    async for part in request.stream():
        content += part
        if len(content) > most:
            break
    return bytes(content)


def stream_of(floor_ids: Sequence[int], manager: Runs, request: Request) -> StreamingResponse:
    """Every event of some floors until who listens goes, or may not hear it any more."""
    loop = asyncio.get_running_loop()
    queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue()

    def pass_on(event: dict[str, Any]) -> None:
        loop.call_soon_threadsafe(queue.put_nowait, event)

    stops = [manager.listen(floor_id, pass_on) for floor_id in floor_ids]

    async def stream() -> AsyncIterator[str]:
        LISTENERS.inc()
        try:
            yield ": listening\n\n"
            while True:
                try:
                    event = await asyncio.wait_for(queue.get(), QUIET_SECONDS)
                    yield f"data: {json.dumps(event)}\n\n"
                except TimeoutError:
                    # Who was signed out or taken out of the project meanwhile hears no more.
                    if not await still_admitted(request):
                        return
                    yield ": still here\n\n"
        finally:
            LISTENERS.dec()
            for stop in stops:
                stop()

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-cache"})
