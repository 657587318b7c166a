"""Variants of studies, computed on the cluster behind what people wait for: a run that lacks a worker takes the place of a variant, which is computed later."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import structlog
from distributed import Client, Event, Future, KilledWorker
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError

from piastra.exchange.study import Computed, lost
from piastra.jobs.worker import compute_variant, variant_flag
from piastra.store import studies as store
from piastra.store.database import sessions

log = structlog.get_logger()

LOOK_SECONDS = 1.0
"""How often it is looked whether there are variants to compute."""
TRIES = 2
"""A variant that takes so many workers with it is told as lost."""


@dataclass(slots=True)
class _Flight:
    """A variant that the cluster works on."""

    waiting: store.Waiting
    future: Future
    key: str
    gone: bool = False
    """It was asked to make room, or its study is stopped."""


class Studies:
    """Computes what studies wait for. ``busy`` tells how many workers runs take, ``workers`` how many there are."""

    def __init__(self, engine: Engine, client: Client, busy: Callable[[], int], workers: Callable[[], int]) -> None:
        self._client, self._busy, self._workers = client, busy, workers
        self._sessions = sessions(engine)
        self._flights: dict[int, _Flight] = {}
        self._tries: dict[int, int] = {}
        self._ended: queue.SimpleQueue[tuple[int, Future] | None] = queue.SimpleQueue()
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._count = 0
        self._thread = threading.Thread(target=self._go, name="studies", daemon=True)

    def start(self) -> None:
        """Begin, with what an earlier server left."""
        self._thread.start()

    def close(self) -> None:
        """Begin no more."""
        self._closing.set()
        self._ended.put(None)

    def look(self) -> None:
        """There may be something to compute, or something that shall be computed no further."""
        self._ended.put(None)

    def make_room(self) -> None:
        """Let variants go for which runs lack workers."""
        with self._lock:
            flying = [f for f in self._flights.values() if not f.gone]
            for flight in flying[: max(0, len(flying) + self._busy() - self._workers())]:
                self._let_go(flight)

    def _let_go(self, flight: _Flight) -> None:
        flight.gone = True
        Event(variant_flag(flight.key), client=self._client).set()

    def _go(self) -> None:
        while not self._closing.is_set():
            try:
                try:
                    ended = self._ended.get(timeout=LOOK_SECONDS)
                except queue.Empty:
                    ended = None
                if ended is not None:
                    self._take(*ended)
                if not self._closing.is_set():
                    self._fill()
            except DBAPIError as error:
                log.warning("study.database", error=type(error).__name__)
                self._closing.wait(LOOK_SECONDS)
            except Exception as error:
                log.error("study.failed", error=repr(error))
                self._closing.wait(LOOK_SECONDS)

    def _take(self, variant_id: int, future: Future) -> None:
        """Keep what a variant came to; what made room, and what lost its worker once, waits again."""
        with self._lock:
            flight = self._flights.get(variant_id)
        if flight is None or flight.future is not future:
            return
        # One whose worker was started anew beneath it is cancelled by the cluster, and waits again as well.
        found: Computed | dict[str, Any] | None = None
        if future.status == "finished":
            found = future.result()
        elif not flight.gone and future.status == "error":
            error = future.exception()
            log.warning("study.variant_lost", variant=variant_id, error=type(error).__name__)
            self._tries[variant_id] = self._tries.get(variant_id, 0) + 1
            if not isinstance(error, KilledWorker):
                found = lost(flight.waiting.document, flight.waiting.values, f"its computation broke: {type(error).__name__}")
            elif self._tries[variant_id] >= TRIES:
                found = lost(flight.waiting.document, flight.waiting.values)
        try:
            if found is not None:
                with self._sessions.begin() as session:
                    store.keep(session, variant_id, found.model_dump(mode="json") if isinstance(found, Computed) else found)
        finally:
            # Without the database it is computed once more when that is back.
            with self._lock:
                del self._flights[variant_id]
            if found is not None:
                self._tries.pop(variant_id, None)

    def _fill(self) -> None:
        """Give free workers what waits, and stop what is wanted no more."""
        with self._lock:
            flying = dict(self._flights)
        if not flying and self._workers() <= self._busy():
            return
        with self._sessions() as session:
            wanted = store.of_variants(session, list(flying)) if flying else set()
            room = self._workers() - self._busy() - len(flying)
            found = store.waiting(session, room, list(flying)) if room > 0 else []
        with self._lock:
            for variant_id, flight in flying.items():
                if variant_id not in wanted and not flight.gone:
                    self._let_go(flight)
        for waiting in found:
            self._launch(waiting)

    def _launch(self, waiting: store.Waiting) -> None:
        self._count += 1
        key = f"variant-{waiting.id}-{self._count}"
        # What somebody waits for comes first wherever both wait.
        future = self._client.submit(
            compute_variant, key, waiting.document, waiting.values, waiting.history, key=key, pure=False, priority=-10
        )
        with self._lock:
            self._flights[waiting.id] = _Flight(waiting, future, key)
        future.add_done_callback(lambda f: self._ended.put((waiting.id, f)))
