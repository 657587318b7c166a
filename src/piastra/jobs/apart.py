"""Runs looked after by one process for several that answer requests: what these ask goes through a socket of this machine's user, and what happens to
floors comes back through another."""

from __future__ import annotations

import os
import queue
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import parent_process
from multiprocessing.connection import Client, Connection, Listener
from typing import TYPE_CHECKING, Any

import structlog
from sqlalchemy.exc import DBAPIError, OperationalError

from piastra.jobs.listening import Listener as Hears
from piastra.jobs.listening import Listening, Runs, Told

if TYPE_CHECKING:
    # It takes seconds, and all that computes, to be read.
    from piastra.jobs.manager import RunManager

log = structlog.get_logger()

ADDRESS, KEY = "PIASTRA_RUNS", "PIASTRA_RUNS_KEY"
"""Where a process that answers requests finds the one that runs floors, and the secret by which it is known there."""

STARTING_SECONDS = 120.0
"""For so long the process that looks after runs may be on the way up."""

ASKED = ("tell", "submit", "owe", "stop", "study", "section", "workers")


class Desk:
    """Takes what other processes ask of a run manager, and tells them what happens."""

    def __init__(self, manager: RunManager, address: str, key: bytes) -> None:
        self._manager = manager
        self._listener = Listener(address, "AF_UNIX", backlog=64, authkey=key)
        threading.Thread(target=self._admit, name="desk", daemon=True).start()

    def close(self) -> None:
        """Take no more; those who have come see that it is over."""
        self._listener.close()

    def _admit(self) -> None:
        while True:
            try:
                connection = self._listener.accept()
            except (OSError, EOFError) as error:
                # A stranger without the key is turned away; a socket that was closed is the end.
                if isinstance(error, OSError) and not isinstance(error, ConnectionError):
                    return
                continue
            except Exception as error:
                log.warning("desk.turned_away", error=type(error).__name__)
                continue
            threading.Thread(target=self._serve, args=(connection,), name="desk-one", daemon=True).start()

    def _serve(self, connection: Connection[Any, Any]) -> None:
        with connection, suppress(EOFError, OSError):
            while True:
                name, arguments = connection.recv()
                if name == "hear":
                    self._tell(connection)
                    return
                try:
                    answer = self._manager.workers if name == "workers" else getattr(self._manager, name)(*arguments)
                    connection.send((True, answer))
                except DBAPIError:
                    connection.send((False, "the database does not answer"))

    def _tell(self, connection: Connection[Any, Any]) -> None:
        """Pass on all that happens until the other one is gone."""
        waiting: queue.SimpleQueue[Told] = queue.SimpleQueue()
        stop = self._manager.heard.listen(None, waiting.put)
        try:
            while True:
                connection.send(waiting.get())
        finally:
            stop()


class RunsApart(Runs):
    """The runs of another process. Without that one this one is of no use: it ends itself, to be started again."""

    def __init__(self, address: str, key: bytes) -> None:
        self._address, self._key = address, key
        self._own = threading.local()
        self._closing = threading.Event()
        self._heard = Listening()
        self._events = self._first()
        self._events.send(("hear", ()))
        threading.Thread(target=self._hear, name="runs-heard", daemon=True).start()

    def _first(self) -> Connection[Any, Any]:
        """The first connection: who looks after runs may be on the way up still."""
        until, parent = time.monotonic() + STARTING_SECONDS, parent_process()
        while True:
            try:
                return self._connect()
            except (FileNotFoundError, ConnectionRefusedError):
                # One whose parent was killed while it was made would hold the port of those that come after.
                if time.monotonic() > until or (parent is not None and not parent.is_alive()):
                    raise
                time.sleep(0.1)

    def _connect(self) -> Connection[Any, Any]:
        return Client(self._address, "AF_UNIX", authkey=self._key)

    def _hear(self) -> None:
        with suppress(EOFError, OSError):
            while True:
                self._heard.tell(self._events.recv())
        if not self._closing.is_set():
            log.error("runs.gone")
            # At once: its port is needed by those that come after.
            os._exit(1)

    def _ask(self, name: str, *arguments: Any) -> Any:
        assert name in ASKED
        connection: Connection[Any, Any] | None = getattr(self._own, "connection", None)
        try:
            if connection is None:
                connection = self._own.connection = self._connect()
            connection.send((name, arguments))
            done, answer = connection.recv()
        except (EOFError, OSError) as error:
            self._own.connection = None
            raise _away(error) from error
        if not done:
            raise _away(ConnectionError(answer))
        return answer

    def listen(self, floor_id: int, listener: Hears) -> Callable[[], None]:
        """As :meth:`Runs.listen`."""
        return self._heard.listen(floor_id, listener)

    def tell(self, event: Told) -> None:
        """As :meth:`Runs.tell`. Where nobody can be told, pages look again when their line stands again."""
        with suppress(DBAPIError):
            self._ask("tell", event)

    def submit(
        self,
        floor_id: int,
        revision_id: int,
        number: int,
        document: dict[str, Any],
        rigorous: bool = False,
        together: bool = False,
    ) -> int | None:
        """As :meth:`Runs.submit`."""
        run: int | None = self._ask("submit", floor_id, revision_id, number, document, rigorous, together)
        return run

    def section(self, document: dict[str, Any], strip: str, s: float, face: str) -> dict[str, Any] | None:
        """As :meth:`Runs.section`."""
        found: dict[str, Any] | None = self._ask("section", document, strip, s, face)
        return found

    def study(self) -> None:
        """As :meth:`Runs.study`. Where nobody can be told, it is looked at regular times."""
        with suppress(DBAPIError):
            self._ask("study")

    def owe(self, floor_id: int) -> None:
        """As :meth:`Runs.owe`. Where nobody can be told, whoever takes the place of the process that is gone runs what has no results."""
        with suppress(DBAPIError):
            self._ask("owe", floor_id)

    def stop(self, floor_id: int, state: str) -> None:
        """As :meth:`Runs.stop`."""
        self._ask("stop", floor_id, state)

    def close(self) -> None:
        """As :meth:`Runs.close`."""
        self._closing.set()
        self._events.close()

    @property
    def workers(self) -> int:
        """As :attr:`Runs.workers`."""
        return int(self._ask("workers"))


def _away(error: Exception) -> DBAPIError:
    """What could not be asked is told as what the database did not answer is: it may be tried again."""
    return OperationalError("runs", None, error)
