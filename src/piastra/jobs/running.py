"""What a server does for runs from its start to its end."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import Engine

from piastra.jobs.manager import RunManager, start_cluster
from piastra.store import repository as store
from piastra.store.database import migrate, sessions
from piastra.store.projects import give_documents


@contextmanager
def running(engine: Engine) -> Iterator[RunManager]:
    """Bring the tables to this version's form, and look after runs; those of floors that have no results of this engine are begun."""
    migrate(engine)
    manager = RunManager(engine, start_cluster())
    manager.start()
    made = sessions(engine)
    with made.begin() as session:
        give_documents(session)
    with made() as session:
        for floor, last in store.lacking(session):
            manager.submit(floor, last.id, last.number, store.unpack(last.content), together=True)
    yield manager
    manager.close()
