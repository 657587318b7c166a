"""Edits while server, workers and database are killed at random: nothing that was acknowledged is lost, nothing is there twice, nothing is left running.

``python -m tests.faults.storm [EDITS] [SEED]`` starts a server of its own and makes 300 edits; the tests make some. An edit that is not answered is sent again
until it is, as a page does.
"""

from __future__ import annotations

import contextlib
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import psutil

from tests.conftest import ROOT, free_port
from tests.floors import one_bay

AWAY = (502, 503, 504)
PATIENCE = 90.0
"""Seconds within which an edit is answered, whatever was killed."""


@dataclass
class House:
    """A supervised server with its database, on a folder of its own."""

    folder: Path
    port: int = field(default_factory=free_port)
    projects: int = 1
    """So many floors of each of the demo's projects it has."""
    answering: int = 2
    """Processes that answer requests."""

    def __enter__(self) -> House:
        # A script that is ended takes its server with it.
        if threading.current_thread() is threading.main_thread():
            signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
        command = [str(ROOT / "script/server"), str(self.folder), str(free_port()), str(self.port)]
        environment = {
            **os.environ, "PIASTRA_HISTORY": "asked", "PIASTRA_DEMO_PROJECTS": str(self.projects), "PIASTRA_PROCESSES": str(self.answering),
        }  # fmt: skip
        self.script = subprocess.Popen(
            command, cwd=ROOT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        )
        assert self.script.stdout is not None
        line = self.script.stdout.readline()
        assert line.startswith("Piastra: "), line
        self.address = line.split()[1]
        return self

    def __exit__(self, *_: object) -> None:
        self.script.terminate()
        self.script.wait(60)

    def client(self) -> httpx.Client:
        """The demo's designer."""
        client = httpx.Client(base_url=self.address, timeout=20)
        until = time.monotonic() + PATIENCE
        while True:
            with contextlib.suppress(httpx.HTTPError):
                client.headers["x-piastra-guard"] = client.post("/api/sign-in/demo").raise_for_status().json()["guard"]
                return client
            assert time.monotonic() < until, "nobody was let in"
            time.sleep(0.2)

    def processes(self, kind: str) -> list[psutil.Process]:
        """Those of the server, those of it that answer, of its workers, of what these are forked off, or of the database, that are there now."""
        if kind == "database":
            with contextlib.suppress(OSError, ValueError, psutil.NoSuchProcess):
                return [psutil.Process(int((self.folder / "mariadbd.pid").read_text()))]
            return []
        found = []
        with contextlib.suppress(psutil.NoSuchProcess):
            for p in psutil.Process(self.script.pid).children(recursive=True):
                with contextlib.suppress(psutil.NoSuchProcess):
                    line = " ".join(p.cmdline())
                    if "multiprocessing.forkserver" in line:
                        its = "worker" if "forkserver" in " ".join(p.parent().cmdline()) else "forking"
                    elif "piastra.api.serve" in line:
                        its = "server"
                    elif "multiprocessing.spawn" in line:
                        its = "answering"
                    else:
                        continue
                    if its == kind:
                        found.append(p)
        return found

    def kill(self, kind: str, chance: random.Random) -> bool:
        """Kill one of them, as the kernel would. Whether there was one."""
        found = self.processes(kind)
        if not found:
            return False
        with contextlib.suppress(psutil.NoSuchProcess):
            chance.choice(found).send_signal(signal.SIGKILL)
        return True


@dataclass
class Storm:
    """What came of it."""

    acknowledged: dict[int, list[str]] = field(default_factory=dict)
    kills: Counter[str] = field(default_factory=Counter)
    again: int = 0


def asked(client: httpx.Client, method: str, path: str, storm: Storm, **more: object) -> httpx.Response:
    """An answer, however often it has to be asked for."""
    until = time.monotonic() + PATIENCE
    while True:
        try:
            answer = client.request(method, path, **more)  # type: ignore[arg-type]
            if answer.status_code not in AWAY:
                return answer
        except httpx.HTTPError:
            pass
        assert time.monotonic() < until, f"{method} {path} was not answered for {PATIENCE:.0f} s"
        storm.again += 1
        time.sleep(0.25)


def raise_storm(house: House, edits: int, seed: int, floors: int = 3, every: int = 5) -> Storm:
    """Edit floors in turn and kill something after every so many edits, at any moment of the next one."""
    chance, storm = random.Random(seed), Storm()
    client = house.client()
    made = asked(client, "POST", "/api/projects", storm, json={"name": f"Storm {seed}", "standard": "EN 1992-1-1"}).json()
    ids = []
    for k in range(floors):
        body = {"document": {**one_bay(), "name": f"Deck {k + 1}"}}
        ids.append(asked(client, "POST", f"/api/projects/{made['project']}/floors", storm, json=body).json()["floor"])
    storm.acknowledged = {k: [] for k in ids}
    kinds = ["server", "worker", "database", "answering", "forking"]
    for k in range(edits):
        if k % every == every - 1:
            kind = kinds[(k // every) % len(kinds)]
            storm.kills[kind] += house.kill(kind, chance)
            time.sleep(chance.uniform(0, 0.4))
        floor = ids[k % floors]
        state = asked(client, "GET", f"/api/floors/{floor}", storm).json()
        document = state["document"]
        document["slabs"][0]["thickness_m"] = round(0.2 + 0.0005 * k, 4)
        line = f"edit {k}"
        body = {"based_on": state["revision"], "document": document, "line": line, "settle": "ask"}
        answer = asked(client, "PUT", f"/api/floors/{floor}", storm, json=body)
        assert answer.status_code == 200, answer.text
        storm.acknowledged[floor].append(line)
    return storm


def held(house: House, storm: Storm) -> list[str]:
    """What is wrong after a storm: nothing, when all of it held."""
    wrong = []
    client = house.client()
    for floor, lines in storm.acknowledged.items():
        # What is superseded, or was left open by a server that is gone, is taken up within seconds; it has to have an end.
        until = time.monotonic() + 240
        while True:
            state = asked(client, "GET", f"/api/floors/{floor}", storm).json()
            runs = asked(client, "GET", f"/api/floors/{floor}/runs", storm).json()["runs"]
            open_ones = [r["id"] for r in runs if r["state"] in ("queued", "running")]
            if (
                state["run"]
                and state["run"]["revision"] == state["revision"]
                and state["run"]["state"] == "fresh"
                and not open_ones
            ):
                break
            if time.monotonic() > until:
                wrong.append(f"floor {floor} is left {state['run']}, with runs {open_ones} open")
                break
            time.sleep(0.3)
        history = asked(client, "GET", f"/api/floors/{floor}/history", storm).json()[::-1]
        edits = [h["line"] for h in history if h["line"].startswith("edit ")]
        if [h["number"] for h in history] != list(range(1, len(history) + 1)):
            wrong.append(f"floor {floor}: revisions lack a number")
        if edits[-200:] != lines[-200:]:
            wrong.append(f"floor {floor}: acknowledged {lines}, kept {edits}")
    return wrong


def main() -> None:
    """A storm, and what came of it."""
    edits = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    with tempfile.TemporaryDirectory() as folder, House(Path(folder), projects=0) as house:
        begun = time.monotonic()
        storm = raise_storm(house, edits, seed)
        wrong = held(house, storm)
        print(f"{edits} edits, {dict(storm.kills)} killed, {storm.again} times sent again, {time.monotonic() - begun:.0f} s")
        print("\n".join(wrong) or "nothing lost, nothing doubled, nothing left running")
    if wrong:
        sys.exit(1)


if __name__ == "__main__":
    main()
