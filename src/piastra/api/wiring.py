"""What every router needs: a session, the run manager, and what can go wrong."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import suppress
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Depends, Request
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from piastra.api.messages import Clash, Conflict, Differences, DifferenceState, Problems, RunSummary
from piastra.core.model.merge import Difference, differences, merge
from piastra.core.model.project import SHARED
from piastra.jobs.listening import Runs
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, Revision, RunRecord

REFUSED: dict[int | str, dict[str, Any]] = {422: {"model": Problems}, 404: {"model": Problems}}
STALE: dict[int | str, dict[str, Any]] = {409: {"model": Conflict}, **REFUSED}


async def _session(request: Request) -> AsyncIterator[Session]:
    if not hasattr(request.state, "still"):
        raise RuntimeError(f"{request.url.path} was not asked for at the door")
    # Nothing is asked of the database yet, so that no thread has to wait for it.
    session = request.app.state.sessions()
    try:
        yield session
    finally:
        if session.in_transaction():
            await run_in_threadpool(_given_back, session)


def _given_back(session: Session) -> None:
    # The answer is on its way by now; a database that went away meanwhile must not break it off.
    with suppress(DBAPIError):
        session.close()


def _manager(request: Request) -> Runs:
    manager: Runs = request.app.state.manager
    return manager


Sessions = Annotated[Session, Depends(_session)]
Manager = Annotated[Runs, Depends(_manager)]


MOST = 40
"""Differences that a conflict tells."""


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
            theirs=_told(differences(base, theirs)), yours=_told(differences(base, mine)),
            clashes=[Clash(list=name, id=label) for name, label in merge(base, theirs, mine).clashes],
        )
    )  # fmt: skip


def _told(found: list[Difference]) -> Differences:
    return Differences(count=len(found), first=[DifferenceState(**asdict(d)) for d in found[:MOST]])


def start_runs(manager: Runs, session: Session, made: list[tuple[FloorRecord, Revision]], author: str) -> dict[int, int]:
    """Tell of new revisions and run those that compute what no kept run has computed; the runs by floor.

    A revision that only changes what is drawn or read, or that brings back what was computed before, has its results at
    once."""
    runs: dict[int, int] = {}
    for record, revision in made:
        manager.tell(
            {"kind": "revision", "floor": record.id, "revision": revision.number, "author": author, "line": revision.line}
        )
        try:
            document = store.unpack(revision.content)
            standing = store.standing_run(session, revision)
            if standing is not None and standing.state in store.OPEN_STATES:
                continue
            if document["slabs"] and standing is None:
                run = manager.submit(record.id, revision.id, revision.number, document)
                if run is not None:
                    runs[record.id] = run
            else:
                manager.stop(record.id, "superseded")
        except DBAPIError:
            # What was saved is saved: it is not told as failed because the database went away after it.
            session.rollback()
            manager.owe(record.id)
    return runs


def run_summaries(session: Session, floor_id: int, last: Revision) -> tuple[RunSummary | None, RunSummary | None]:
    """The newest run of a floor, whose newest revision is ``last``, and its newest one with results. One that stands for the newest revision is told with that
    one's number."""
    standing = store.standing_run(session, last)
    mine = None if standing is None else (standing, last.number)
    fresh = mine if standing is not None and standing.state == "fresh" else store.latest_run(session, floor_id, "fresh")
    return _summary(mine or store.latest_run(session, floor_id)), _summary(fresh)


def _summary(found: tuple[RunRecord, int] | None) -> RunSummary | None:
    if found is None:
        return None
    run, number = found
    return RunSummary(id=run.id, revision=number, state=run.state, seconds=run.seconds, told=run.told)
