"""What every router needs: a session, the run manager, and what can go wrong."""

from __future__ import annotations

from contextlib import suppress
from typing import Annotated, Any

from fastapi import Depends, Request
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from piastra.api.messages import Conflict, Problems
from piastra.core.model.merge import merge, told
from piastra.core.model.project import SHARED
from piastra.jobs.manager import RunManager
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, Revision

REFUSED: dict[int | str, dict[str, Any]] = {422: {"model": Problems}, 404: {"model": Problems}}
STALE: dict[int | str, dict[str, Any]] = {409: {"model": Conflict}, **REFUSED}


def _session(request: Request) -> Any:
    session = request.app.state.sessions()
    try:
        yield session
    finally:
        # The answer is on its way by now; a database that went away meanwhile must not break it off.
        with suppress(DBAPIError):
            session.close()


def _manager(request: Request) -> RunManager:
    manager: RunManager = request.app.state.manager
    return manager


Sessions = Annotated[Session, Depends(_session)]
Manager = Annotated[RunManager, Depends(_manager)]


class LateError(Exception):
    """A save came too late; what to tell the one who saved."""

    def __init__(self, conflict: Conflict) -> None:
        super().__init__(conflict.sentence)
        self.conflict = conflict


def late(stale: store.StaleError, mine: dict[str, Any], line: str) -> LateError:
    """What to tell somebody whose save of ``mine`` came too late. What a floor takes from its project is nobody's change."""
    base, theirs, mine = (
        {k: v for k, v in d.items() if k not in SHARED or "slabs" not in d}
        for d in (store.unpack(stale.base), store.unpack(stale.theirs), mine)
    )
    sentence = (
        f"{stale.author} saved revision {stale.newest} ({stale.line}) after the revision {stale.based_on} that your change "
        "is based on. Your change is not saved yet; choose what is to stand."
    )
    return LateError(
        Conflict(
            sentence=sentence, based_on=stale.based_on, newest=stale.newest, author=stale.author, mine=line, line=stale.line,
            theirs=told(base, theirs)[:40], yours=told(base, mine)[:40], clashes=list(merge(base, theirs, mine).clashes),
        )
    )  # fmt: skip


def start_runs(manager: RunManager, made: list[tuple[FloorRecord, Revision]]) -> dict[int, int]:
    """Run new revisions of floors that have something on them; the runs by floor."""
    runs = {}
    for record, revision in made:
        document = store.unpack(revision.content)
        if document["slabs"]:
            runs[record.id] = manager.submit(record.id, revision.id, revision.number, document)
        else:
            manager.stop(record.id, "superseded")
    return runs
