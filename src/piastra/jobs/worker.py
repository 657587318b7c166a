"""What runs on a worker: one floor's computation, with the stages kept between runs."""

from __future__ import annotations

import time
from typing import Any

from distributed import Event, get_client, get_worker

from piastra.core.model import RefusedError
from piastra.core.pipeline import solve_floor
from piastra.core.readings.bodies import free_bodies_of
from piastra.core.readings.responses import responses_of
from piastra.core.stages import CancelledError, StageCache
from piastra.exchange.fields import fields
from piastra.exchange.floor_file import floor_from
from piastra.exchange.responses_file import packed, packed_bodies
from piastra.exchange.results_file import results, row

_CACHE = StageCache()
TELL_SECONDS = 0.1
"""Progress is told no more often than this."""


def topic(run_id: int) -> str:
    """Where a run's progress is told."""
    return f"piastra-run-{run_id}"


def stop_flag(run_id: int) -> str:
    """Name of the event that asks a run to stop."""
    return f"piastra-stop-{run_id}"


def compute(run_id: int, document: dict[str, Any]) -> dict[str, Any]:
    """Run the chain. The answer's ``outcome`` is fresh, refused or cancelled."""
    worker = get_worker()
    stop = Event(stop_flag(run_id), client=get_client())
    start = time.perf_counter()

    told = 0.0

    def progress(stage: str, share: float) -> None:
        # Stages that are known pass in a moment; a page has better things to do than to draw each of them.
        nonlocal told
        now = time.monotonic()
        if now - told >= TELL_SECONDS:
            told = now
            worker.log_event(topic(run_id), {"stage": stage, "share": share})

    try:
        outcome = solve_floor(floor_from(document), _CACHE, progress, stop.is_set)
    except RefusedError as error:
        return {"outcome": "refused", "told": "\n".join(map(str, error.refusals))}
    except CancelledError:
        return {"outcome": "cancelled"}
    # The verdict is told at once; fields and tables follow when they are written.
    verdict = [row(r, traced=False) for r in outcome.verdict]
    worker.log_event(topic(run_id), {"stage": "write", "share": 0.98, "verdict": verdict})
    read = responses_of(outcome)
    found = results(outcome, read)
    return {
        "outcome": "fresh", "results": found, "fields": fields(outcome), "responses": packed(read),
        "bodies": packed_bodies(free_bodies_of(outcome)), "seconds": time.perf_counter() - start,
    }  # fmt: skip
