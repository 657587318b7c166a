"""What runs on a worker: one floor's computation, with the stages kept between runs."""

from __future__ import annotations

import gc
import os
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, NoReturn, Self

import psutil
import structlog
from distributed import Event, get_client, get_worker

from piastra.core.checks import Row
from piastra.core.checks.station import UnknownStationError
from piastra.core.model import RefusedError
from piastra.core.pipeline import Outcome, solve_floor
from piastra.core.readings.bodies import free_bodies_of
from piastra.core.readings.responses import responses_of
from piastra.core.stages import CancelledError, StageCache
from piastra.exchange.fields import fields, kept_fields
from piastra.exchange.floor_file import floor_from
from piastra.exchange.responses_file import packed, packed_bodies
from piastra.exchange.results_file import results, row
from piastra.exchange.section import section_state
from piastra.exchange.study import computed
from piastra.store.repository import packed_results

log = structlog.get_logger()

_CACHE = StageCache()
_STUDIED = StageCache(limit=700_000_000)
"""Stages that variants of studies share; those of the floors that people edit are not pushed out by them."""
BEHIND = 10
"""Niceness of a process that computes."""
TICK_SECONDS = 0.1
"""How often progress is told, and limits are looked at."""
TICKS = 2
"""After so many the cluster is asked for wishes to stop: each question takes time of who answers it."""
PATIENCE_SECONDS = 0.5
"""How long a cancelled run may take to come to the end of its stage, before its process is ended."""


def topic(run_id: int) -> str:
    """Where a run's progress is told."""
    return f"piastra-run-{run_id}"


def stop_flag(run_id: int) -> str:
    """Name of the event that asks a run to stop at the end of its stage, if not at once: another takes its place."""
    return f"piastra-stop-{run_id}"


def cancel_flag(run_id: int) -> str:
    """Name of the event that, beside the other, asks a run to stop at once."""
    return f"piastra-cancel-{run_id}"


def variant_flag(key: str) -> str:
    """Name of the event that asks a variant of a study to make room."""
    return f"piastra-stop-{key}"


@dataclass(frozen=True, slots=True)
class Limits:
    """What a run may take: seconds, and bytes of the process that computes it."""

    seconds: float
    bytes: int

    def passed(self, seconds: float, held: int) -> str:
        """What a run that took so much is told; empty within the limits."""
        if held > self.bytes:
            return (
                f"needs more than the {self.bytes / 1e9:.1f} GB that a run may take here; use larger elements or divide the floor"
            )
        if seconds > self.seconds:
            return f"takes longer than the {self.seconds:.0f} s that a run may take here; use larger elements or divide the floor"
        return ""


def limits() -> Limits:
    """The limits set for this machine: PIASTRA_RUN_SECONDS, and PIASTRA_RUN_MB or four fifths of the memory."""
    everything = psutil.virtual_memory().total
    held = float(os.environ.get("PIASTRA_RUN_MB", 0.8 * everything / 1e6)) * 1e6
    return Limits(float(os.environ.get("PIASTRA_RUN_SECONDS", "1200")), int(held))


class Watch:
    """Looks after a run at regular times, from beside it.

    It tells of the stage (stages that are known pass in a moment, and a page has better things to do than to draw each of
    them), hears the wish to stop, and ends the process of a run that is cancelled inside a long stage or goes beyond its
    limits: nothing else stops a mesher or a solver. The nanny starts another; only time is lost.
    """

    def __init__(
        self, tell: Callable[[dict[str, Any]], None], stop: Callable[[], bool], cancel: Callable[[], bool], limits: Limits
    ) -> None:
        self._tell, self._stop, self._cancel, self._limits = tell, stop, cancel, limits
        self._now: tuple[str, float] = ("", 0.0)
        self._begun = time.monotonic()
        self._over = threading.Event()
        self.stopped = threading.Event()
        self._thread = threading.Thread(target=self._look, name="run-watch", daemon=True)

    def stage(self, name: str, share: float) -> None:
        """The run has come to a stage."""
        self._now = (name, share)

    @property
    def now(self) -> tuple[str, float]:
        """The stage that the run is in, and how much of it all is done."""
        return self._now

    def _look(self) -> None:
        last, since, ticks = self._now, None, 0
        process = psutil.Process()
        while not self._over.wait(TICK_SECONDS):
            ticks += 1
            if (now := self._now) != last:
                last = now
                self._tell({"stage": now[0], "share": now[1]})
            if told := self._limits.passed(time.monotonic() - self._begun, process.memory_info().rss):
                self._tell({"stage": now[0], "share": now[1], "ended": told})
                # What was told has to leave the process first.
                time.sleep(0.5)
                self._end(told)
            if since is not None:
                if time.monotonic() - since > PATIENCE_SECONDS:
                    self._end("is cancelled inside a stage")
                continue
            if ticks % TICKS:
                continue
            try:
                wished = self._stop()
                at_once = wished and self._cancel()
            except (OSError, AttributeError, RuntimeError):
                # The cluster cannot be asked at the moment, as while this worker's link to it is being made.
                continue
            if at_once:
                since = time.monotonic()
            if wished:
                self.stopped.set()

    def _end(self, why: str) -> NoReturn:
        log.warning("run.process_ended", why=why, stage=self._now[0])
        os._exit(1)

    def __enter__(self) -> Self:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()


def _step_back() -> None:
    """Who answers people comes before who computes, where both are on one machine."""
    lacking = BEHIND - os.getpriority(os.PRIO_PROCESS, 0)
    if lacking > 0:
        os.nice(lacking)


@contextmanager
def kept_apart() -> Iterator[None]:
    """What earlier runs left is not looked through for circles of garbage meanwhile: of several floors that takes a tenth of a second and more each
    time, while somebody waits."""
    gc.freeze()
    try:
        yield
    finally:
        gc.unfreeze()


def compute(run_id: int, document: dict[str, Any], rigorous: bool = False) -> dict[str, Any]:
    """Run the chain; ``rigorous``: with the floor's history, whose deflections else are a quick estimate. The answer's ``outcome`` is fresh,
    refused or cancelled; ``held`` bytes of the process after it; ``more``: a rigorous run is still to come."""
    _step_back()
    worker = get_worker()
    stop, cancel = (Event(name(run_id), client=get_client()) for name in (stop_flag, cancel_flag))
    start = time.perf_counter()

    def tell(what: dict[str, Any]) -> None:
        worker.log_event(topic(run_id), what)

    with Watch(tell, stop.is_set, cancel.is_set, limits()) as watch, kept_apart():
        try:
            floor = floor_from(document)

            def hear(verdict: tuple[Row, ...], whole: bool) -> None:
                # A floor whose verdict stands already waits for the whole of a new one.
                if whole or not rigorous:
                    stage, share = watch.now
                    told = [row(r, traced=False) for r in verdict]
                    tell({"stage": stage, "share": share, "verdict": told, "whole": whole})

            outcome = solve_floor(floor, _CACHE, watch.stage, watch.stopped.is_set, rigorous=rigorous, told=hear)
            # More than the last of some fifty stages begins with.
            tell({"stage": "write", "share": 0.99})
            found = written(outcome, watch.stopped.is_set)
        except RefusedError as error:
            return {"outcome": "refused", "told": "\n".join(map(str, error.refusals))}
        except CancelledError:
            return {"outcome": "cancelled"}
    gc.collect()
    return {
        "outcome": "fresh", **found, "seconds": time.perf_counter() - start, "worker": worker.address,
        "held": psutil.Process().memory_info().rss, "more": floor.history is not None and not rigorous,
    }  # fmt: skip


def written(outcome: Outcome, stopped: Callable[[], bool]) -> dict[str, Any]:
    """What is kept of a run: its ``results``, its ``fields``, ``responses`` and free ``bodies``. Raises :class:`CancelledError`."""
    read = responses_of(outcome)
    with ThreadPoolExecutor(1, "run-packer") as packer:
        # To compress takes as long as all the rest, and leaves the interpreter to it.
        responses = packer.submit(packed, read)
        bodies = packer.submit(lambda: packed_bodies(free_bodies_of(outcome), read.elements))

        def go_on() -> None:
            if stopped():
                bodies.cancel()
                raise CancelledError

        go_on()
        shown = kept_fields(fields(outcome))
        go_on()
        document = results(outcome, read)
        go_on()
        found = packed_results(document)
        return {"results": found, "fields": shown, "responses": responses.result(), "bodies": bodies.result()}


def compute_variant(key: str, document: dict[str, Any], values: dict[str, Any], history: bool) -> dict[str, Any] | None:
    """One variant of a study as its row; None where it was asked to make room."""
    _step_back()
    stop = Event(variant_flag(key), client=get_client())
    with Watch(lambda told: None, stop.is_set, lambda: False, limits()) as watch:
        try:
            return computed(document, values, history, _STUDIED, watch.stopped.is_set).model_dump(mode="json")
        except CancelledError:
            return None


def section(key: str, document: dict[str, Any], strip: str, s: float, face: str) -> dict[str, Any] | None:
    """What a station shows, as :class:`piastra.exchange.section.SectionState`, or why it cannot be ``told``; None where it was asked to make room."""
    _step_back()
    stop = Event(variant_flag(key), client=get_client())
    with Watch(lambda told: None, stop.is_set, lambda: False, limits()) as watch, kept_apart():
        try:
            outcome = solve_floor(floor_from(document), _CACHE, cancelled=watch.stopped.is_set, rigorous=False, remedies=False)
            return section_state(outcome.section(strip, s, face)).model_dump(mode="json")
        except (UnknownStationError, RefusedError) as error:
            return {"told": str(error)}
        except CancelledError:
            return None
