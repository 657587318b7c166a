"""The connection to MariaDB, and its migrations."""

from __future__ import annotations

import os
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url
from sqlalchemy.orm import sessionmaker

DEFAULT_URL = "mysql+pymysql://piastra@127.0.0.1:3947/piastra?charset=utf8mb4"


SECONDS = 30
"""For so long an answer of the database is waited for."""
POOL, MOST = 32, 40
"""Connections of a process that are kept, and as many as it opens: those beyond are made and given up again with every use."""


def url() -> str:
    """Address of the database, from the environment variable PIASTRA_DATABASE."""
    return os.environ.get("PIASTRA_DATABASE", DEFAULT_URL)


def connect(address: str | None = None) -> Engine:
    """An engine that survives restarts of the server: dead connections are noticed and replaced, and nobody waits for ever. What stays on this machine
    is not encrypted: to get ready for it takes longer than all that a request asks."""
    there = make_url(address or url())
    own = there.host in (None, "127.0.0.1", "::1", "localhost")
    return create_engine(
        there, pool_pre_ping=True, pool_recycle=600, pool_size=POOL, max_overflow=MOST - POOL, pool_timeout=10,
        connect_args={"connect_timeout": 5, "read_timeout": SECONDS, "write_timeout": SECONDS, "ssl_disabled": own},
    )  # fmt: skip


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest revision."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def sessions(engine: Engine) -> sessionmaker:  # type: ignore[type-arg]
    """Sessions whose objects stay readable after commit."""
    return sessionmaker(engine, expire_on_commit=False)
