"""Start the server: ``python -m piastra.api.serve``."""

from __future__ import annotations

import argparse
import gc
import logging
import os
import secrets
import signal
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import structlog
from fastapi import FastAPI

from piastra.api.bounds import HOSTS
from piastra.api.door import DEMO
from piastra.jobs.apart import ADDRESS, KEY, Desk
from piastra.logs import COUNTS, configure
from piastra.store.database import connect
from piastra.store.sealed import SECRET, secret

log = structlog.get_logger()

LOG = "PIASTRA_LOG"
PROCESSES = "PIASTRA_PROCESSES"
PATIENCE_SECONDS = 30
"""A process that does not say for so long that it is alive is started anew."""


def _logged() -> None:
    how = os.environ[LOG]
    configure(how == "json", logging.WARNING if how == "warnings" else logging.INFO)


def one_of_several() -> FastAPI:
    """The application in a process that answers requests, alone or beside others."""
    from piastra.api.app import create_app

    _logged()
    app = create_app()
    # What has been read is there until the end: looking through it for what is left over takes tenths of a second, in which nobody is answered.
    gc.freeze()
    return app


def main() -> None:
    """Serve on 127.0.0.1; what other machines reach stands in front of it and encrypts. With several processes this one looks after runs, and those
    that answer requests are its children."""
    parser = argparse.ArgumentParser(description="Serve Piastra on 127.0.0.1.")
    parser.add_argument("--port", type=int, default=8347)
    parser.add_argument("--demo", action="store_true", help="let whoever sits at this machine in as the demo's designer")
    parser.add_argument("--log", choices=("warnings", "lines", "json"), default="warnings", help="what is logged, and how")
    parser.add_argument(
        "--processes", type=int, default=int(os.environ.get(PROCESSES, "1")), help="how many processes answer requests"
    )
    arguments = parser.parse_args()
    os.environ[LOG] = arguments.log
    _logged()
    try:
        known = secret()
    except ValueError as error:
        parser.error(str(error))
    if known is None and not arguments.demo:
        parser.error(
            f"set {SECRET} to 32 random characters at least, as from `openssl rand -hex 32`, and keep it beside no backup"
        )
    if arguments.demo:
        if os.environ.get(HOSTS):
            parser.error(f"the demo lets everybody in and is for this machine alone; unset {HOSTS}, or leave --demo out")
        os.environ[DEMO] = "1"
    how = {
        "host": "127.0.0.1", "port": arguments.port, "log_level": "warning", "timeout_graceful_shutdown": 2, "server_header": False,
    }  # fmt: skip
    # Workers read this module again, and serve nothing.
    import uvicorn

    if arguments.processes <= 1:
        uvicorn.run(one_of_several(), **how)
        return
    # The folder is this user's alone: so are the socket and the counts in it.
    with tempfile.TemporaryDirectory(prefix="piastra-") as folder:
        os.environ[ADDRESS], os.environ[KEY], os.environ[COUNTS] = str(Path(folder) / "runs"), secrets.token_hex(), folder
        with _runs_beside():
            uvicorn.run(
                "piastra.api.serve:one_of_several", factory=True, workers=arguments.processes,
                timeout_worker_healthcheck=PATIENCE_SECONDS, **how,
            )  # fmt: skip


@contextmanager
def _runs_beside() -> Iterator[None]:
    """Look after runs in a thread, while processes that answer are on their way up: these wait for it at their own start."""
    over = threading.Event()

    def look_after() -> None:
        try:
            from piastra.jobs.running import running

            engine = connect()
            with running(engine) as manager:
                desk = Desk(manager, os.environ[ADDRESS], os.environ[KEY].encode())
                over.wait()
                desk.close()
            engine.dispose()
        except Exception:
            # Without it the server is of no use: it ends, and is started again.
            log.exception("runs.not_looked_after")
            os.kill(os.getpid(), signal.SIGTERM)

    thread = threading.Thread(target=look_after, name="runs")
    thread.start()
    try:
        yield
    finally:
        # Also where the port could not be had: a process that only looks after runs would never end.
        over.set()
        thread.join()


if __name__ == "__main__":
    main()
