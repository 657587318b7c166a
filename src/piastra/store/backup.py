"""Everything that the database holds, in one file and back, while people work."""

from __future__ import annotations

import gzip
import os
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import create_engine, func, select, text
from sqlalchemy.engine import URL, make_url

from piastra.store.database import connect, migrate, sessions
from piastra.store.tables import FloorRecord, Project, Revision, RunRecord

PACKET = "256M"
"""Greatest row: fields of a large floor."""
COMPLETE = b"-- Dump completed"
"""How the dump's last line begins: without it the dump broke off."""


class BackupError(Exception):
    """A backup or a restore that was not made, and why, in a sentence."""


@dataclass(frozen=True, slots=True)
class Held:
    """What a database holds: numbers of projects, floors, revisions and runs."""

    projects: int
    floors: int
    revisions: int
    runs: int

    def __str__(self) -> str:
        return f"{self.projects} projects, {self.floors} floors, {self.revisions} revisions, {self.runs} runs"


def held(address: str) -> Held:
    """Counts of what is in a database. Raises SQLAlchemy's errors where it does not answer."""
    engine = connect(address)
    with sessions(engine)() as session:
        counts = [session.scalar(select(func.count()).select_from(t)) or 0 for t in (Project, FloorRecord, Revision, RunRecord)]
    engine.dispose()
    return Held(*counts)


def backup(address: str, file: Path) -> int:
    """Write all of a database into a compressed ``file``, as it is at one moment: what is saved meanwhile is not in it, and nobody waits.

    Returns its bytes. The file is there when it is whole, or not at all. Raises BackupError.
    """
    target = make_url(address)
    part = file.with_name(file.name + ".part")
    # One transaction sees one state of all tables.
    command = [
        _tool("mariadb-dump"),
        *_server(target),
        "--single-transaction",
        "--quick",
        "--hex-blob",
        f"--max-allowed-packet={PACKET}",
        target.database or "",
    ]
    try:
        with (
            gzip.open(part, "wb", compresslevel=1) as out,
            subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=_environment(target)) as dump,
        ):
            assert dump.stdout is not None
            assert dump.stderr is not None
            tail = b""
            while block := dump.stdout.read(1 << 20):
                out.write(block)
                tail = (tail + block)[-200:]
            told = dump.stderr.read().decode(errors="replace").strip()
        if dump.returncode or COMPLETE not in tail:
            raise BackupError(f"the database could not be read: {told or 'the dump broke off'}")
        part.replace(file)
    except OSError as error:
        raise BackupError(f"{file} cannot be written: {(error.strerror or 'unknown reason').lower()}") from None
    finally:
        part.unlink(missing_ok=True)
    return file.stat().st_size


def restore(file: Path, address: str, replace: bool = False) -> Held:
    """Bring a backup into a database, which is made if it is not there, and its tables to this version's form.

    One that holds projects already is left alone unless it is to be ``replace`` d. Returns what it holds then. Raises BackupError.
    """
    target = make_url(address)
    name = target.database or ""
    _whole(file)
    engine = create_engine(target.set(database=None))
    with engine.connect() as connection:
        there = connection.execute(
            text("SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = :name AND table_name = 'projects'"),
            {"name": name},
        ).scalar()
        if there and not replace and connection.execute(text(f"SELECT COUNT(*) FROM `{name}`.projects")).scalar():
            raise BackupError(f"database {name} holds projects already; name another one, or ask for it to be replaced")
        connection.execute(text(f"DROP DATABASE IF EXISTS `{name}`"))
        connection.execute(text(f"CREATE DATABASE `{name}` CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"))
        connection.commit()
    engine.dispose()
    command = [_tool("mariadb"), *_server(target), f"--max-allowed-packet={PACKET}", name]
    with (
        gzip.open(file, "rb") as dump,
        subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, env=_environment(target)
        ) as client,
    ):
        assert client.stdin is not None
        assert client.stderr is not None
        try:
            shutil.copyfileobj(dump, client.stdin, 1 << 20)
            client.stdin.close()
        except BrokenPipeError:
            pass  # Why it went is in what it told.
        told = client.stderr.read().decode(errors="replace").strip()
    if client.returncode:
        raise BackupError(f"the backup could not be read in: {told}")
    migrated = connect(address)
    migrate(migrated)
    migrated.dispose()
    return held(address)


def _whole(file: Path) -> None:
    """Raises BackupError unless a file is a whole backup."""
    try:
        tail = b""
        with gzip.open(file, "rb") as dump:
            while block := dump.read(1 << 20):
                tail = (tail + block)[-200:]
    except FileNotFoundError:
        raise BackupError(f"{file} is not there; name a file that a backup wrote") from None
    except (OSError, EOFError):
        raise BackupError(f"{file} is no backup, or is broken off; name a file that a backup wrote") from None
    if COMPLETE not in tail:
        raise BackupError(f"{file} is no backup, or is broken off; name a file that a backup wrote")


def _tool(name: str) -> str:
    found = shutil.which(name)
    if found is None:
        raise BackupError(f"{name} is not installed; install Debian's mariadb-client")
    return found


def _server(target: URL) -> list[str]:
    where = ["-h", target.host or "127.0.0.1", "-P", str(target.port or 3306)]
    return ["--no-defaults", *where, "-u", target.username or "root"]


def _environment(target: URL) -> dict[str, str]:
    """The password goes by the environment: a command line is seen by everybody on the machine."""
    return {**os.environ, **({"MYSQL_PWD": str(target.password)} if target.password else {})}
