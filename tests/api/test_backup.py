"""A backup taken while people edit comes back whole on another data folder."""

import threading
import time
import zlib

import pytest
from sqlalchemy import select
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.model import floor_from
from piastra.store import repository as store
from piastra.store.backup import BackupError, backup, held, restore
from piastra.store.database import connect, sessions
from piastra.store.tables import FloorRecord, Revision
from tests.conftest import Database
from tests.floors import flat_slab


@pytest.fixture
def elsewhere(tmp_path):
    """A database on a data folder of its own."""
    made = Database(tmp_path / "data")
    made.start()
    yield made
    made.kill()


class Writer(threading.Thread):
    """Saves one floor again and again, and counts what was acknowledged."""

    def __init__(self, server, floor):
        super().__init__()
        self.server, self.floor, self.done, self.stop = server, floor, 0, threading.Event()

    def saved(self, count):
        """Wait until so many saves are acknowledged; a save that was refused ends the writer."""
        while self.done < count:
            assert self.is_alive(), "a save was refused"
            time.sleep(0.01)

    def run(self):
        with self.server.client() as client:
            state = client.get(f"/api/floors/{self.floor}").json()
            document, revision = state["document"], state["revision"]
            while not self.stop.is_set():
                document["loads"][0]["q_kPa"] = 1.0 + 0.01 * (self.done + 1)
                body = {"based_on": revision, "document": document, "line": f"load {self.done}", "settle": "ask"}
                answer = client.put(f"/api/floors/{self.floor}", json=body)
                assert answer.status_code == 200, answer.text
                revision = answer.json()["revision"]
                self.done += 1


def test_a_backup_taken_during_edits_restores_to_one_moment(server, database, elsewhere, tmp_path):
    with server.client() as client:
        project = client.post("/api/projects", json={"name": "Zeal kept"}).json()["project"]
        content = {"name": "Kept", "document": flat_slab(1, 1, size=1.0)}
        content["document"]["name"] = "Kept"
        floor = client.post(f"/api/projects/{project}/floors", json=content).json()["floor"]
    writer = Writer(server, floor)
    writer.start()
    writer.saved(5)
    file = tmp_path / "all.sql.gz"
    # Until one is taken while a save goes through: nobody waits for a backup.
    for _ in range(60):
        before = writer.done
        assert backup(database.url, file) == file.stat().st_size
        after = writer.done
        if after > before:
            break
    writer.saved(after + 3)
    writer.stop.set()
    writer.join()
    assert after > before

    found = restore(file, elsewhere.url)
    assert found == held(elsewhere.url)
    with sessions(connect(elsewhere.url))() as session:
        revisions = session.scalars(select(Revision).where(Revision.floor_id == floor).order_by(Revision.number)).all()
        numbers = [r.number for r in revisions]
        # One moment: all that was acknowledged before, nothing of what came after, and no gap.
        assert numbers == list(range(1, len(numbers) + 1))
        assert before + 1 <= len(numbers) <= after + 2
        assert store.unpack(revisions[-1].content)["loads"][0]["q_kPa"] == pytest.approx(1.0 + 0.01 * (len(numbers) - 1))
        # Everything that came along can be read: every floor's newest revision.
        for record in session.scalars(select(FloorRecord)):
            content = store.unpack(store.newest(session, record.id).content)
            assert "slabs" in content
        assert floor_from(
            store.unpack(revisions[-1].content) | {"concretes": flat_slab()["concretes"], "rebars": flat_slab()["rebars"]}
        )
    # It is not laid over projects that are there, unless that is wanted.
    with pytest.raises(BackupError, match="holds projects already"):
        restore(file, elsewhere.url)
    assert restore(file, elsewhere.url, replace=True) == found

    # What is broken off is neither read in nor taken for a backup.
    broken = tmp_path / "broken.sql.gz"
    broken.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    with pytest.raises(BackupError, match="broken off"):
        restore(broken, elsewhere.url, replace=True)
    assert held(elsewhere.url) == found


def test_the_command_line_tells_why_nothing_was_made(tmp_path):
    nowhere = "mysql+pymysql://root@127.0.0.1:1/piastra?charset=utf8mb4"
    run = CliRunner().invoke(app, ["backup", str(tmp_path / "x.gz"), "--database", nowhere])
    assert run.exit_code == 2
    assert "No backup was made: the database could not be read" in run.output
    assert list(tmp_path.iterdir()) == []
    run = CliRunner().invoke(app, ["restore", str(tmp_path / "none.gz"), "--database", nowhere])
    assert run.exit_code == 2
    assert "is not there" in run.output
    (tmp_path / "other.gz").write_bytes(zlib.compress(b"no dump"))
    run = CliRunner().invoke(app, ["restore", str(tmp_path / "other.gz"), "--database", nowhere])
    assert "is no backup" in run.output
