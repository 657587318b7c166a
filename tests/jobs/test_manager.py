"""Runs that nobody works on, without a cluster."""

import threading

import pytest
from sqlalchemy.orm import sessionmaker

from piastra.jobs.manager import Active, RunManager, start_cluster
from piastra.store import repository as store
from piastra.store.database import connect, migrate
from tests.floors import one_bay


class Idle(RunManager):
    """A manager that has no cluster and notes what it would run."""

    def __init__(self, sessions):
        self._lock, self._sessions, self._active, self.submitted = threading.RLock(), sessions, {}, []

    def submit(self, floor_id, revision_id, number, document, together):
        assert together
        self.submitted.append((floor_id, number, document))
        return 0


@pytest.fixture
def manager(database):
    engine = connect(database.url)
    migrate(engine)
    with engine.connect() as connection, connection.begin() as outer:
        yield Idle(sessionmaker(connection, join_transaction_mode="create_savepoint", expire_on_commit=False))
        outer.rollback()
    engine.dispose()


def test_a_run_that_was_left_runs_anew_and_one_that_ended_meanwhile_supersedes_nobody(manager):
    newer = {**one_bay(), "name": "Newer"}
    with manager._sessions.begin() as session:
        floor = store.add_floor(session, store.add_project(session, "Left alone").id, "Level", one_bay(), "Ada").id
        old = store.begin_run(session, store.newest(session, floor).id)
    # Listed as open, then superseded by the run of a newer revision: the newer one goes on.
    with manager._sessions.begin() as session:
        store.set_state(session, old.id, "superseded")
        store.save(session, floor, 1, newer, "Ada", "named")
        new = store.begin_run(session, store.newest(session, floor).id)
    manager._take_up(old.id, floor)
    assert manager.submitted == []
    manager._active[new.id] = Active(floor, 2, newer, new.revision_id)
    manager._take_up(new.id, floor)
    assert manager.submitted == []
    # Nobody works on it: it is told as failed, and the newest revision runs.
    manager._active.clear()
    manager._take_up(new.id, floor)
    assert manager.submitted == [(floor, 2, newer)]
    with manager._sessions() as session:
        assert new.id not in {run.id for run, _ in store.open_runs(session)}


@pytest.mark.parametrize("address", ["tcp://10.1.2.3:8786", "tcp://workers.example:8786"])
def test_a_cluster_elsewhere_is_spoken_to_by_encrypted_connections_alone(monkeypatch, address):
    monkeypatch.setenv("PIASTRA_SCHEDULER", address)
    with pytest.raises(ValueError, match="use tls://"):
        start_cluster()
