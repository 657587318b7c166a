"""The store on its own: revisions, undo's line, runs."""

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from piastra import __version__
from piastra.core.model.project import project_of
from piastra.engine import digest, engine
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.database import connect, migrate
from piastra.store.tables import ResultArray


@pytest.fixture
def session(database):
    engine = connect(database.url)
    migrate(engine)
    migrate(engine)
    with engine.connect() as connection, connection.begin() as outer:
        with Session(connection, join_transaction_mode="create_savepoint") as made:
            yield made
        outer.rollback()
    engine.dispose()


def floor_file(name, size=1):
    """An empty floor's file."""
    materials = {"concretes": [{"id": "C", "strength_MPa": 30}], "rebars": [{"id": "B", "yield_MPa": 500}]}
    return {"format": "piastra-floor", "version": 1, "name": name, **materials, "slabs": [], "mesh": {"size_m": size}}


def project_document(name):
    """A project that such files fit."""
    return project_of(floor_file("h"), name)


@pytest.fixture
def floor(session):
    project = store.add_project(session, "Made up")
    return store.add_floor(session, project.id, "Level", floor_file("h 1"), "Ada").id


def test_revisions_are_appended_and_a_stale_save_is_told_who_and_what(session, floor):
    assert store.save(session, floor, 1, floor_file("h 2"), "Ben", "h to 2").number == 2
    with pytest.raises(store.StaleError) as stale:
        store.save(session, floor, 1, floor_file("h 3"), "Ada", "h to 3")
    assert (stale.value.author, stale.value.mine, stale.value.newest, stale.value.line) == ("Ben", "Ada", 2, "h to 2")
    assert store.unpack(stale.value.theirs) == floor_file("h 2")
    assert store.unpack(store.newest(session, floor).content) == floor_file("h 2")
    assert [(h.number, h.author) for h in store.history(session, floor)] == [(2, "Ben"), (1, "Ada")]


def around(along):
    """What undo and redo would bring back."""
    return along.before, along.after


def test_undo_and_redo_follow_the_line_of_changes(session, floor):
    record = store.floor(session, floor)

    def now():
        found = around(store.timeline(session, record))
        # What every page asks is answered without the whole history where that does not matter.
        told = store.undo_and_redo(session, record, store.newest(session, floor))
        assert told == tuple(number is not None for number in found)
        return found

    def step(number, restores=None, carried=False):
        store.save(session, floor, number - 1, floor_file(str(number)), "Ada", str(number), restores, carried)
        return now()

    assert now() == (None, None)
    assert step(2) == (1, None)
    assert step(3) == (2, None)
    assert step(4, restores=2) == (1, 3)
    assert step(5, restores=1) == (None, 2)
    assert step(6, restores=2) == (1, 3)
    # A new change drops what had been undone.
    assert step(7) == (2, None)
    assert step(8, restores=2) == (1, 7)
    # A change of the project is passed by, whatever stands before it.
    assert step(9, carried=True) == (1, 7)
    assert step(10) == (2, None)
    assert step(11, carried=True) == (2, None)
    record.begins = 10
    assert now() == (None, None)
    record.begins = 12
    assert step(12) == (None, None)
    assert step(13) == (12, None)


def test_a_floor_is_opened_with_its_project_and_whether_it_is_alone(session):
    project = shared.add(session, project_document("Lone quay"), "Ada").record.id
    first, other = (store.add_floor(session, project, name, floor_file(name), "Ada").id for name in ("First", "Other"))
    store.save(session, first, 1, floor_file("First", 2), "Ben", "coarser")
    shared.save(session, project, 1, project_document("Long quay"), "Cleo", "called otherwise")
    found = shared.opened(session, first)
    assert (found.record.id, found.last.number, found.last.line, found.author, found.alone) == (first, 2, "coarser", "Ben", True)
    assert (found.head.record.name, found.head.number, found.head.author) == ("Long quay", 2, "Cleo")
    twin = store.add_floor(session, project, "Twin", floor_file("Twin"), "Ada", follows=first).id
    assert [shared.opened(session, k).alone for k in (first, twin, other)] == [False, False, True]
    with pytest.raises(store.MissingError, match="there is no floor 12345"):
        shared.opened(session, 12345)


def test_a_run_that_ended_stays_ended_and_keeps_its_results(session, floor):
    run = store.begin_run(session, store.newest(session, floor).id)
    assert store.set_state(session, run.id, "running", attempts=1)
    row = {"check": "punching", "utilisation": 0.5, "where": "C1", "combination": "U", "status": "pass"}
    assert store.keep_results(session, run.id, store.packed_results({"verdict": [row]}), {"fields": b"fields"}, 1.5)
    assert not store.set_state(session, run.id, "superseded")
    assert not store.keep_results(session, run.id, store.packed_results({"verdict": []}), {}, 0.0)
    session.expire_all()
    found, number = store.latest_run(session, floor, "fresh")
    assert (found.id, number, found.seconds) == (run.id, 1, 1.5)
    assert store.result(session, run.id, "fields") == b"fields"
    assert [r.place for r in store.verdict_rows(session, run.id)] == ["C1"]
    with pytest.raises(store.MissingError, match="has no other"):
        store.result(session, run.id, "other")


def test_only_the_newest_results_are_kept_and_all_revisions(session, floor):
    for number in range(1, 10):
        last = store.save(session, floor, number, floor_file(f"h {number}"), "Ada", f"change {number}")
        run = store.begin_run(session, last.id)
        store.keep_results(session, run.id, store.packed_results({"verdict": []}), {"fields": b"x"}, 1.0)
    store.prune_results(session, floor, keep=6)
    fields = text(
        "SELECT a.run_id FROM result_arrays a JOIN runs r ON r.id = a.run_id JOIN revisions v ON v.id = r.revision_id "
        f"WHERE a.kind = 'fields' AND v.floor_id = {floor} ORDER BY a.run_id DESC"
    )
    kept = session.execute(fields).scalars().all()
    assert len(kept) == 6
    assert kept[0] == store.latest_run(session, floor)[0].id
    # By size as well, but never the newest one's.
    mine = store.sizes(session, kept)
    store.prune_results(session, floor, limit=2 * mine[kept[0]])
    assert session.execute(fields).scalars().all() == kept[:2]
    store.prune_results(session, floor, limit=0)
    assert session.execute(fields).scalars().all() == kept[:1]
    assert store.latest_run(session, floor)[0].state == "fresh"


def test_of_a_revision_one_result_is_kept_and_bodies_of_the_newest_alone(session, floor):
    runs = []
    for number in (1, 2, 3):
        last = store.save(session, floor, number, floor_file(f"h {number}"), "Ada", f"change {number}")
        # A quick run, and the rigorous one that follows it.
        for _ in range(2):
            run = store.begin_run(session, last.id)
            store.keep_results(session, run.id, store.packed_results({"verdict": []}), {"responses": b"x", "bodies": b"y"}, 1.0)
            store.prune_results(session, floor)
            runs.append(run.id)
    held = session.execute(select(ResultArray.kind, ResultArray.run_id).where(ResultArray.run_id.in_(runs))).all()
    by_kind = {kind: sorted(run for k, run in held if k == kind) for kind in ("responses", "bodies", "brief")}
    # What may be looked at just now stays: the run before the newest.
    assert by_kind == {"responses": [runs[1], runs[3], runs[4], runs[5]], "bodies": runs[4:], "brief": runs}


def test_what_does_not_exist_is_told(session):
    for ask in (store.floor, store.newest):
        with pytest.raises(store.MissingError, match="there is no floor 12345"):
            ask(session, 12345)


def test_a_project_from_before_documents_gets_one_that_fits_its_floors(session):
    from tests.floors import one_bay

    old = store.add_project(session, "Old quay")
    made = store.add_floor(session, old.id, "Level", {**one_bay(), "grid": [{"id": "A", "line": [[0, 0], [0, 5]]}]}, "Ada")
    with pytest.raises(store.MissingError):
        shared.head(session, old.id)
    shared.give_documents(session)
    shared.give_documents(session)
    head = shared.head(session, old.id)
    assert (head.number, head.model.name, [c.id for c in head.model.concretes]) == (1, "Old quay", ["C30"])
    # Nothing of the floor computes otherwise with it.
    changed = {**head.document, "units": "US"}
    assert shared.save(session, old.id, 1, changed, "Ada", "US units") == []
    assert store.newest(session, made.id).number == 1
    assert around(shared.timeline(session, old.id)) == (1, None)
    with pytest.raises(store.StaleError):
        shared.save(session, old.id, 1, changed, "Ben", "late")


def test_undo_passes_by_what_the_project_changed(session, floor):
    store.save(session, floor, 1, floor_file("2"), "Ada", "two")
    store.save(session, floor, 2, floor_file("3"), "Ada", "project: less creep", carried=True)
    assert around(store.timeline(session, store.floor(session, floor))) == (1, None)
    store.save(session, floor, 3, floor_file("1"), "Ada", "undid: two", restores=1)
    assert around(store.timeline(session, store.floor(session, floor))) == (None, 2)


def test_a_family_is_saved_as_one_or_not_at_all(session):
    project = store.add_project(session, "Family")
    first = store.add_floor(session, project.id, "First", floor_file("First", 1), "Ada")
    twin = store.add_floor(session, project.id, "Twin", floor_file("Twin", 1), "Ada", follows=first.id)
    made = store.save_family(session, twin.id, 1, floor_file("Twin", 2), "Ada", "two")
    assert [(f.name, r.number, store.unpack(r.content)) for f, r in made] == [
        ("First", 2, floor_file("First", 2)),
        ("Twin", 2, floor_file("Twin", 2)),
    ]
    with pytest.raises(store.StaleError):
        store.save_family(session, first.id, 1, floor_file("First", 3), "Ben", "three")
    assert store.newest(session, twin.id).number == 2


def test_an_engine_is_known_by_its_code(tmp_path):
    """Any change of a file that computes, its place or its name, makes another engine; what only serves does not."""
    for name in ("core/a.py", "core/sub/b.py", "exchange/c.py", "api/d.py"):
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(f"{name} = 1")
    first = digest(tmp_path)
    (tmp_path / "api/d.py").write_text("other")
    assert digest(tmp_path) == first
    (tmp_path / "core/sub/b.py").write_text("other")
    second = digest(tmp_path)
    (tmp_path / "core/a.py").rename(tmp_path / "core/z.py")
    assert len({first, second, digest(tmp_path)}) == 3
    assert len(engine()) <= 20
    assert engine().startswith(f"{__version__}+")


@pytest.mark.parametrize(
    ("address", "bare"),
    [
        ("u@127.0.0.1:3306/p", True),
        ("u@localhost/p", True),
        ("u@/p?unix_socket=/run/mysqld/mysqld.sock", True),
        ("u@10.0.0.7/p", False),
        ("u@db.example:3306/p", False),
        ("u@127.0.0.1.example/p", False),
    ],
)
def test_only_what_stays_on_this_machine_is_not_encrypted(monkeypatch, address, bare):
    asked = {}
    monkeypatch.setattr("piastra.store.database.create_engine", lambda there, **how: asked.update(how))
    connect(f"mysql+pymysql://{address}")
    assert asked["connect_args"]["ssl_disabled"] is bare
    # All that a process opens are kept but a few: one that is given up costs more than what it is opened for.
    assert asked["max_overflow"] < asked["pool_size"] / 2
