"""Who listens to which floor, and what each is told."""

from __future__ import annotations

import threading
from collections import defaultdict
from collections.abc import Callable
from typing import Any, Protocol

Told = dict[str, Any]
Listener = Callable[[Told], None]

LASTING = ("queued", "running", "failed, will retry once")
"""States of runs that go on: who begins to listen is told of them at once."""


class Runs(Protocol):
    """What the application asks of those who run floors, in its own process or in another one."""

    def listen(self, floor_id: int, listener: Listener) -> Callable[[], None]:
        """Call ``listener`` with every event of a floor, the last of its runs at once; returns the way to stop."""

    def tell(self, event: Told) -> None:
        """Tell listeners of a floor what happened to it."""

    def submit(
        self,
        floor_id: int,
        revision_id: int,
        number: int,
        document: dict[str, Any],
        rigorous: bool = False,
        together: bool = False,
    ) -> int | None:
        """Run a revision when it is the floor's turn, which floors asked for ``together`` share; the run, or None where it will be begun later."""

    def owe(self, floor_id: int) -> None:
        """See later that a floor's newest revision is run."""

    def stop(self, floor_id: int, state: str) -> None:
        """End a floor's open runs as ``superseded`` or ``cancelled``."""

    def section(self, document: dict[str, Any], strip: str, s: float, face: str) -> dict[str, Any] | None:
        """What a station of a floor shows, as :class:`piastra.exchange.section.SectionState`, or ``told`` why it cannot; None where workers are too busy
        to be asked."""

    def study(self) -> None:
        """Look after the studies: one was begun, goes on, or is stopped."""

    def close(self) -> None:
        """Ask nothing more."""

    @property
    def workers(self) -> int:
        """How many workers there are to compute."""


class Listening:
    """Listeners by floor, and the last event of each run that goes on. Nobody waits for long in here."""

    def __init__(self) -> None:
        self._by_floor: dict[int, list[Listener]] = defaultdict(list)
        self._everything: list[Listener] = []
        self._last: dict[int, Told] = {}
        self._lock = threading.Lock()

    def listen(self, floor_id: int | None, listener: Listener) -> Callable[[], None]:
        """Call ``listener`` with every event of a floor (of all, None), the last of each run that goes on at once; returns the way to stop."""
        with self._lock:
            mine = self._everything if floor_id is None else self._by_floor[floor_id]
            mine.append(listener)
            for told in self._last.values():
                if floor_id in (None, told["floor"]):
                    listener(told)

        def stop() -> None:
            with self._lock:
                mine.remove(listener)

        return stop

    def tell(self, event: Told) -> None:
        """Pass an event on."""
        with self._lock:
            if event["kind"] == "run":
                if event["state"] in LASTING:
                    self._last[event["run"]] = event
                else:
                    self._last.pop(event["run"], None)
            listeners = [*self._by_floor.get(event["floor"], ()), *self._everything]
        for listener in listeners:
            listener(event)
