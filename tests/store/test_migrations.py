"""Tables from the first form to the newest and back, with what a practice had in them; and what may be let go."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import create_engine, func, inspect, select, text

import piastra.store
from piastra.store import entry, people
from piastra.store import repository as store
from piastra.store.database import connect, migrate, sessions
from piastra.store.prune import prune
from piastra.store.tables import Base, ResultArray, SignIn, VerdictRow, now
from tests.floors import one_bay

FOLDER = Path(piastra.store.__file__).parent / "migrations"


@pytest.fixture
def bare(database):
    """An empty database of the test's own."""
    url = database.url.replace("/piastra?", "/piastra_tables?")
    with create_engine(database.url).connect() as connection:
        connection.execute(text("DROP DATABASE IF EXISTS piastra_tables"))
        connection.execute(text("CREATE DATABASE piastra_tables CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"))
    engine = connect(url)
    yield engine
    engine.dispose()
    with create_engine(database.url).connect() as connection:
        connection.execute(text("DROP DATABASE piastra_tables"))


def to(engine, revision, up=True):
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        (command.upgrade if up else command.downgrade)(config, revision)


def shape(engine):
    """Tables with their columns and what in them is unique."""
    found = inspect(engine)
    return {
        t: (
            sorted((c["name"], str(c["type"]), c["nullable"]) for c in found.get_columns(t)),
            sorted(tuple(i["column_names"]) for i in found.get_indexes(t) if i["unique"]),
        )
        for t in found.get_table_names()
        if t != "alembic_version"
    }


def test_every_form_of_the_tables_leads_to_the_next_and_back_with_what_is_in_them(bare):
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    revisions = [s.revision for s in ScriptDirectory.from_config(config).walk_revisions()][::-1]
    to(bare, revisions[0])
    with bare.begin() as connection:
        connection.execute(text("INSERT INTO users (name) VALUES ('Ada')"))
        connection.execute(text("INSERT INTO projects (name) VALUES ('Quay')"))
        connection.execute(text("INSERT INTO floors (project_id, name) VALUES (1, 'Level 1')"))
        connection.execute(
            text(
                "INSERT INTO revisions (floor_id, number, author_id, made, line, content) VALUES (1, 1, 1, NOW(), 'made', :content)"
            ),
            {"content": store.pack({**one_bay(), "name": "Level 1"})},
        )
    shapes = [shape(bare)]
    for revision in revisions[1:]:
        to(bare, revision)
        shapes.append(shape(bare))
    # What the application declares is what the last form has.
    declared = {name: {c.name for c in table.columns} for name, table in Base.metadata.tables.items()}
    assert {t: {c[0] for c in columns} for t, (columns, _) in shapes[-1].items()} == declared
    with sessions(bare).begin() as session:
        assert store.unpack(store.newest(session, 1).content)["name"] == "Level 1"
        assert people.unowned(session) == [1]
        # Two of one name, as two owners may have them: the form before knows no such thing, and numbers them.
        store.add_project(session, "Quay")
    for revision, before in list(zip(revisions, shapes, strict=True))[-2::-1]:
        to(bare, revision, up=False)
        assert shape(bare) == before, revision
    with bare.connect() as connection:
        assert connection.execute(text("SELECT name FROM projects ORDER BY id")).scalars().all() == ["Quay", "Quay (2)"]
        assert connection.execute(text("SELECT count(*) FROM revisions")).scalar() == 1
    migrate(bare)
    assert shape(bare) == shapes[-1]


def test_results_that_can_be_had_again_are_let_go_and_nothing_else(bare):
    migrate(bare)
    make = sessions(bare)
    with make.begin() as session:
        user = people.made_account(session, "Ada", "ada@example.org", "seven lanterns over the yard")
        project = store.add_project(session, "Quay")
        floors = [store.add_floor(session, project.id, name, one_bay(), "Ada") for name in ("Here", "Away")]
        floors[1].put_away = True
        runs = {}
        for floor in floors:
            for _ in range(3):
                run = store.begin_run(session, store.newest(session, floor.id).id)
                row = {"check": "flexure", "utilisation": 0.5, "where": "A", "combination": "U", "status": "pass"}
                store.keep_results(
                    session, run.id, store.packed_results({"verdict": [row]}), {"responses": b"x" * 1_000_000}, 1.0
                )
                runs.setdefault(floor.name, []).append(run.id)
        session.add(SignIn(user_id=user.id, digest="d", guard="g", made=now() - entry.LIFETIME - timedelta(seconds=1)))

    def left():
        with make() as session:
            return {name: sorted(store.readable(session, ids)) for name, ids in runs.items()}

    with make() as session:
        found = prune(session, keep=1)
        assert (found.results, found.over) == (4, 1)
        assert 4e6 < found.bytes < 4.1e6
        session.rollback()
    assert left() == runs
    with make.begin() as session:
        prune(session, keep=1)
    assert left() == {name: ids[-1:] for name, ids in runs.items()}
    with make.begin() as session:
        assert (prune(session, keep=1).results, prune(session, keep=1, away=True).results) == (0, 1)
    assert left() == {"Here": runs["Here"][-1:], "Away": []}
    with make() as session:
        assert session.scalar(select(func.count()).select_from(VerdictRow)) == 6
        assert session.scalar(select(func.count()).select_from(ResultArray).where(ResultArray.kind == "brief")) == 6
        assert [store.newest(session, f.id).number for f in floors] == [1, 1]
