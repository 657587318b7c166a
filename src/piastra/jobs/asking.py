"""What somebody asks of a floor that is computed already, answered by a worker from the stages that it keeps; runs come before it."""

from __future__ import annotations

import threading
import time
from itertools import count
from typing import Any

import structlog
from distributed import CancelledError, Client, Event, KilledWorker

from piastra.jobs.worker import section, variant_flag

log = structlog.get_logger()

PATIENCE_SECONDS = 60.0
"""After so long who asks is told to ask again: by then the worker may know the floor's stages."""
AT_ONCE = 4
"""Questions that wait for workers at one time; more are turned away, as each is answered soon or the workers are busy with runs."""


class Asking:
    """Puts questions to the cluster, behind runs: one that lacks a worker takes the place of a question, which is put once more."""

    def __init__(self, client: Client) -> None:
        self._client = client
        self._number = count()
        self._open: set[str] = set()
        self._lock = threading.Lock()

    def make_room(self) -> None:
        """Let workers go that look for answers."""
        with self._lock:
            going = list(self._open)
        for key in going:
            Event(variant_flag(key), client=self._client).set()

    def section(self, document: dict[str, Any], strip: str, s: float, face: str) -> dict[str, Any] | None:
        """As :meth:`piastra.jobs.listening.Runs.section`."""
        until = time.monotonic() + PATIENCE_SECONDS
        while (left := until - time.monotonic()) > 0:
            key = f"section-{next(self._number)}"
            with self._lock:
                if len(self._open) >= AT_ONCE:
                    return None
                self._open.add(key)
            future = self._client.submit(section, key, document, strip, s, face, key=key, pure=False, priority=-5)
            try:
                found: dict[str, Any] | None = future.result(timeout=left)
            except (TimeoutError, CancelledError, KilledWorker) as error:
                log.warning("section.unanswered", error=type(error).__name__)
                Event(variant_flag(key), client=self._client).set()
                return None
            finally:
                future.release()
                with self._lock:
                    self._open.discard(key)
            if found is not None:
                return found
        return None
