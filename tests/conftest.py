"""A database and a server of the tests' own."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import pytest
from hypothesis import HealthCheck, settings
from playwright.sync_api import sync_playwright
from sqlalchemy.orm import Session

from piastra.demo.people import DESIGNER
from piastra.store import entry, people
from piastra.store import repository as store
from piastra.store.database import connect, sessions
from piastra.store.tables import User
from tests.solving import begin_anew

# Two workers share two cores, so that each computes on one.
for _name in ("OMP_NUM_THREADS", "MKL_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
    os.environ.setdefault(_name, "1")

# No test is one of speed: a machine that stands still for a moment fails none.
settings.register_profile("untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("untimed")

# The server's and this process's, for accounts that tests make.
os.environ.setdefault("PIASTRA_SECRET", "of the tests, and of nobody else: 0123456789")

ROOT = Path(__file__).parent.parent


ARGUMENTS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--disable-gpu-compositing",
    "--enable-unsafe-swiftshader",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


@dataclass
class Database:
    """MariaDB on a data folder of its own, that can be killed and started again."""

    folder: Path
    port: int = field(default_factory=free_port)
    pid: int = 0
    name: str = "piastra"

    def start(self) -> None:
        done = subprocess.run(
            [ROOT / "script/database", str(self.folder), str(self.port)], capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stderr
        self.pid = int(done.stdout)

    def kill(self, how: int = signal.SIGKILL) -> None:
        os.kill(self.pid, how)
        while Path(f"/proc/{self.pid}").exists() and "Z" not in Path(f"/proc/{self.pid}/stat").read_text().split()[2]:
            time.sleep(0.05)

    @property
    def url(self) -> str:
        return (
            f"mysql+pymysql://piastra:{(self.folder / 'password').read_text()}@127.0.0.1:{self.port}/{self.name}?charset=utf8mb4"
        )


@dataclass
class Server:
    """The application on a port of its own."""

    database: Database
    port: int = field(default_factory=free_port)
    process: subprocess.Popen[bytes] | None = None
    secrets: dict[str, str] = field(default_factory=dict)

    def start(self) -> None:
        command = [sys.executable, "-m", "piastra.api.serve", "--demo", "--port", str(self.port)]
        self.process = subprocess.Popen(command, env=self.environment, cwd=ROOT)
        for _ in range(300):
            try:
                httpx.get(f"{self.address}/api/health")
                return
            except httpx.TransportError:
                assert self.process.poll() is None
                time.sleep(0.2)

    def stop(self) -> None:
        assert self.process is not None
        self.process.terminate()
        self.process.wait(20)

    @property
    def environment(self) -> dict[str, str]:
        """Lives of floors, and those of the demo's floors that no test looks at, take minutes of what the tests need: those that are about a
        life ask for it."""
        return {**os.environ, "PIASTRA_DATABASE": self.database.url, "PIASTRA_HISTORY": "asked", "PIASTRA_DEMO_PROJECTS": "1"}

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @contextmanager
    def person(self, name: str) -> Iterator[tuple[Session, User]]:
        """Somebody's account in the database. Others than the demo's designer are made when they are first asked for, as designers in all
        projects that there are."""
        engine = connect(self.database.url)
        with sessions(engine)() as session:
            user = store.user_named(session, name)
            if user.email is None:
                user.email, user.begins = f"{name.lower().replace(' ', '.')}@example.org", True
            for project in store.projects(session) if name != DESIGNER.name else ():
                if people.role_of(session, user.id, project.id) is None:
                    people.give_role(session, project.id, user.id, "designer")
            session.commit()
            yield session, user
            session.commit()
        engine.dispose()

    def client(self, name: str = DESIGNER.name) -> httpx.Client:
        """A script of somebody's."""
        with self.person(name) as (session, user):
            if name not in self.secrets:
                self.secrets[name] = entry.make_token(session, user.id, "tests", 1, reads_only=False)[1]
        return httpx.Client(base_url=self.address, timeout=30, headers={"Authorization": f"Bearer {self.secrets[name]}"})

    def cookie(self, name: str) -> dict[str, str]:
        """The cookie of a browser in which somebody is signed in."""
        with self.person(name) as (session, user):
            return {"name": "piastra", "value": entry.begin_sign_in(session, user), "url": self.address}

    def settled(self, floor_id: int, seconds: float = 300) -> dict:
        """The floor's state once its newest revision's run has ended."""
        until = time.monotonic() + seconds
        with self.client() as client:
            while True:
                answer = client.get(f"/api/floors/{floor_id}")
                state = answer.json() if answer.status_code == 200 else None
                if (
                    state
                    and state["run"]
                    and state["run"]["revision"] == state["revision"]
                    and state["run"]["state"] not in ("queued", "running")
                ):
                    return state
                assert time.monotonic() < until, state and state["run"]
                time.sleep(0.2)


@pytest.fixture(scope="module", autouse=True)
def _solved_in_the_module() -> None:
    begin_anew()


@pytest.fixture(autouse=True)
def _solved_as_it_is(request: pytest.FixtureRequest) -> Iterator[None]:
    altered = "monkeypatch" in request.fixturenames
    if altered:
        begin_anew()
    yield
    if altered:
        begin_anew()


@pytest.fixture(scope="session")
def database(tmp_path_factory):
    made = Database(tmp_path_factory.mktemp("database"))
    made.start()
    yield made
    made.kill(signal.SIGTERM)


@pytest.fixture(scope="session")
def server(database):
    made = Server(database)
    subprocess.run([sys.executable, "-m", "piastra.demo.load"], env=made.environment, check=True, cwd=ROOT)
    made.start()
    yield made
    made.stop()


@pytest.fixture(scope="session")
def browser():
    """One for all tests of a worker: a second one cannot be begun beside it."""
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield made
        made.close()


EARLY = ("test_keeping", "test_backup", "test_pages")
"""Modules that wait for no results of the demo's floors."""


def _served(item: pytest.Item) -> bool:
    return "server" in getattr(item, "fixturenames", ())


def pytest_itemcollected(item: pytest.Item) -> None:
    """Two workers share the tests: those of one server are one group; else a module is one."""
    item.add_marker(pytest.mark.xdist_group("server" if _served(item) else item.nodeid.split("::")[0].rpartition("/")[2]))


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """The group that takes longest begins first, with what waits for no results: meanwhile those of the demo's floors are made. Studies run when
    they are asked for."""
    if "study" not in config.option.markexpr:
        studies = [item for item in items if item.get_closest_marker("study")]
        config.hook.pytest_deselected(items=studies)
        items[:] = [item for item in items if item not in studies]
    items.sort(key=lambda item: (not _served(item), not item.path.stem.startswith(EARLY)))
