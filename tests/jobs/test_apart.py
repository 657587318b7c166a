"""Runs that another process looks after: what is asked gets there, what happens comes back, and nobody without the key is answered."""

import os
import queue
import signal
import socket
import subprocess
import sys
from multiprocessing.connection import AuthenticationError, Client

import psutil
import pytest
from sqlalchemy.exc import DBAPIError, OperationalError

from piastra.jobs.apart import Desk, RunsApart
from piastra.jobs.listening import Listening
from tests.conftest import ROOT, Database

RUN = {"kind": "run", "run": 5, "floor": 7, "revision": 2, "stage": "", "share": 0.0}


class Noting:
    """Stands for a run manager: notes what it is asked."""

    workers = 3

    def __init__(self):
        self.heard, self.asked = Listening(), []

    def submit(self, *arguments):
        self.asked.append(arguments)
        self.heard.tell({**RUN, "state": "queued"})
        return 5

    def section(self, document, strip, s, face):
        return {"told": f"{document['name']}, {strip} at {s}, {face}"}

    def owe(self, floor):
        self.asked.append(floor)

    def stop(self, floor, state):
        raise OperationalError("update runs", None, Exception("away"))


@pytest.fixture
def desk(tmp_path):
    manager = Noting()
    made = Desk(manager, str(tmp_path / "runs"), b"secret")
    yield manager, str(tmp_path / "runs")
    made.close()


def test_what_one_process_asks_for_all_of_them_hear(desk):
    manager, address = desk
    asking, hearing = RunsApart(address, b"secret"), RunsApart(address, b"secret")
    heard, other = queue.Queue(), queue.Queue()
    hearing.listen(7, heard.put)
    stop = hearing.listen(8, other.put)
    assert asking.submit(7, 11, 2, {"slabs": [1]}, together=True) == 5
    assert manager.asked == [(7, 11, 2, {"slabs": [1]}, False, True)]
    assert heard.get(timeout=10) == {**RUN, "state": "queued"}
    # Who comes later is told how far it is, and of one that has ended nothing.
    late = queue.Queue()
    RunsApart(address, b"secret").listen(7, late.put)
    assert late.get(timeout=10)["state"] == "queued"
    manager.heard.tell({**RUN, "state": "fresh"})
    assert (heard.get(timeout=10)["state"], late.get(timeout=10)["state"]) == ("fresh", "fresh")
    after = queue.Queue()
    hearing.listen(7, after.put)
    stop()
    manager.heard.tell({"kind": "revision", "floor": 8, "revision": 1, "author": "Ada", "line": "made"})
    manager.heard.tell({"kind": "revision", "floor": 7, "revision": 3, "author": "Ada", "line": "more"})
    assert after.get(timeout=10)["kind"] == "revision"
    assert other.empty()
    assert asking.workers == 3
    assert asking.section({"name": "Bay"}, "x1", 1.5, "top") == {"told": "Bay, x1 at 1.5, top"}


def test_a_database_that_is_away_there_is_away_here_and_the_next_question_is_answered(desk):
    manager, address = desk
    asking = RunsApart(address, b"secret")
    with pytest.raises(DBAPIError):
        asking.stop(7, "cancelled")
    asking.owe(7)
    assert manager.asked == [7]


def test_who_has_not_the_key_is_turned_away_and_others_are_not_held_up(desk):
    with pytest.raises(AuthenticationError):
        Client(desk[1], "AF_UNIX", authkey=b"guessed")
    assert RunsApart(desk[1], b"secret").workers == 3


ALONE = """
import sys, time
from piastra.jobs.apart import RunsApart
RunsApart(sys.argv[1], b"secret")
print("there", flush=True)
time.sleep(60)
"""
DESK = """
import sys
from piastra.jobs.apart import Desk
from tests.jobs.test_apart import Noting
Desk(Noting(), sys.argv[1], b"secret")
print("there", flush=True)
sys.stdin.read()
"""


WAITING = """
import multiprocessing, os, sys, time
from piastra.jobs.apart import RunsApart
if __name__ == "__main__":
    made = multiprocessing.get_context("spawn").Process(target=RunsApart, args=(sys.argv[1], b"secret"))
    made.start()
    print(made.pid, flush=True)
    time.sleep(60)
"""


def test_one_that_waits_for_them_does_not_wait_when_its_parent_is_gone(tmp_path):
    script = tmp_path / "waiting.py"
    script.write_text(WAITING)
    parent = subprocess.Popen(
        [sys.executable, script, str(tmp_path / "none")], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    child = psutil.Process(int(parent.stdout.readline()))
    parent.kill()
    child.wait(20)


def test_without_those_who_run_floors_a_process_ends_itself(tmp_path):
    address = str(tmp_path / "runs")

    def begun(code):
        process = subprocess.Popen(
            [sys.executable, "-c", code, address], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )
        assert process.stdout.readline() == "there\n"
        return process

    desk, alone = begun(DESK), begun(ALONE)
    desk.kill()
    assert alone.wait(20) == 1


@pytest.mark.study
def test_a_server_of_several_processes_that_cannot_have_its_port_ends(tmp_path):
    database = Database(tmp_path / "database")
    database.start()
    try:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            command = [
                sys.executable,
                "-m",
                "piastra.api.serve",
                "--demo",
                "--processes",
                "2",
                "--port",
                str(taken.getsockname()[1]),
            ]
            # It had begun to look after runs by then, in a thread that would go on for ever.
            assert (
                subprocess.run(command, env={**os.environ, "PIASTRA_DATABASE": database.url}, cwd=ROOT, timeout=120).returncode
                != 0
            )
    finally:
        database.kill(signal.SIGTERM)
