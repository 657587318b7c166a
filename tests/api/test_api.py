"""Saving, undoing, refusing, and surviving deaths."""

import contextlib
import copy
import json
import struct
import time

import numpy as np
import psutil
import pytest

from piastra.api.messages import FloorEvent
from piastra.core.model.project import SHARED
from piastra.core.pipeline import STAGES
from piastra.demo.large import flat_floor
from piastra.demo.load import by_level
from piastra.demo.saltmarsh import LEVELS, level_1, project
from piastra.exchange.floor_file import document
from tests.floors import flat_slab, one_bay


@pytest.fixture(scope="module")
def floor_id(server):
    with server.client() as client:
        project = client.get("/api/projects").json()[0]["id"]
        data = {**one_bay(), "name": "Test bay"}
        assert client.post(f"/api/projects/{project}/floors", json={"document": data}).status_code == 201
        floors = client.get("/api/projects").json()[0]["floors"]
    found = next(f["id"] for f in floors if f["name"] == "Test bay")
    server.settled(found)
    return found


def save(client, floor_id, based_on, change, line="a change"):
    state = client.get(f"/api/floors/{floor_id}").json()
    data = copy.deepcopy(state["document"])
    change(data)
    return client.put(f"/api/floors/{floor_id}", json={"based_on": based_on, "document": data, "line": line})


def test_a_save_that_is_sent_again_is_the_same_save(server, floor_id):
    with server.client() as client:
        last = client.get(f"/api/floors/{floor_id}").json()["revision"]

        def sent(x, by=client):
            return save(by, floor_id, last, lambda d: d.update(name=x), f"named {x}")

        first = sent("Sent twice").json()
        assert first["revision"] == last + 1
        assert sent("Sent twice").json()["revision"] == last + 1
        # Somebody else's, and another change, are none.
        assert sent("Sent twice", server.client("Bob")).status_code == 409
        assert sent("Sent otherwise").status_code == 409
        assert client.get(f"/api/floors/{floor_id}").json()["revision"] == last + 1
        assert client.post(f"/api/floors/{floor_id}/undo", json={"based_on": last + 1}).status_code == 200


def test_a_saved_change_is_a_revision_that_runs_and_undo_and_redo_restore(server, floor_id):
    with server.client() as client:
        start = client.get(f"/api/floors/{floor_id}").json()

        def thicker(h):
            return lambda d: d["slabs"][0].update(thickness_m=h)

        for h in (0.3, 0.35):
            last = client.get(f"/api/floors/{floor_id}").json()["revision"]
            assert save(client, floor_id, last, thicker(h), f"slab {h}").status_code == 200
        state = server.settled(floor_id)
        assert (state["revision"], state["run"]["state"]) == (start["revision"] + 2, "fresh")
        results = client.get(f"/api/runs/{state['run']['id']}/results").json()
        g = next(e for e in results["equilibrium"] if e["case"] == "G")
        assert g["applied_kN"] == pytest.approx(25 * (35 * 0.35 + 1 * 0.05), rel=1e-9)

        def thickness():
            return client.get(f"/api/floors/{floor_id}").json()["document"]["slabs"][0]["thickness_m"]

        def step(way):
            last = client.get(f"/api/floors/{floor_id}").json()["revision"]
            return client.post(f"/api/floors/{floor_id}/{way}", json={"based_on": last})

        told = []
        for way, expected in (("undo", 0.3), ("undo", 0.25), ("redo", 0.3), ("redo", 0.35), ("undo", 0.3)):
            told.append(step(way).json()["line"])
            assert thickness() == expected
        assert told[0] == "undid: slab 0.35"
        assert step("redo").status_code == 200
        assert step("redo").status_code == 404
        numbers = [h["number"] for h in client.get(f"/api/floors/{floor_id}/history").json()]
        assert numbers == list(range(start["revision"] + 8, 0, -1))


def test_saving_on_a_stale_revision_answers_409_with_both_authors_and_loses_nothing(server, floor_id):
    with server.client() as client:
        base = client.get(f"/api/floors/{floor_id}").json()["revision"]
        ada = server.client("Ada")
        assert save(ada, floor_id, base, lambda d: d["loads"][0].update(q_kPa=2.0), "finishes 2.0").status_code == 200
        late = save(client, floor_id, base, lambda d: d["columns"][0]["shape"].update(b_m=0.5), "wider column")
        assert late.status_code == 409
        told = late.json()
        assert (told["author"], told["line"], told["newest"]) == ("Ada", "finishes 2.0", base + 1)
        assert [(d["list"], d["id"], d["path"], d["before"], d["after"]) for d in told["yours"]["first"]] == [
            ("columns", "C1", "shape.b_m", 0.4, 0.5),
            ("loads", "a1", "q_kPa", 1.5, 2.0),
        ]
        assert [(d["list"], d["path"], d["after"]) for d in told["theirs"]["first"]] == [("loads", "q_kPa", 2.0)]
        newest = client.get(f"/api/floors/{floor_id}").json()
        assert newest["revision"] == base + 1
        assert newest["document"]["loads"][0]["q_kPa"] == 2.0
        assert (
            save(client, floor_id, base + 1, lambda d: d["columns"][0]["shape"].update(b_m=0.5), "wider column").status_code
            == 200
        )


def test_a_refused_floor_answers_422_with_the_command_lines_sentences(server, floor_id):
    with server.client() as client:
        base = client.get(f"/api/floors/{floor_id}").json()["revision"]
        answer = save(client, floor_id, base, lambda d: d["slabs"][0].update(thickness_m=-1))
        assert answer.status_code == 422
        assert answer.json()["problems"] == [{"path": "slabs[0].thickness_m", "sentence": "must be greater than 0, not -1"}]
        assert client.get(f"/api/floors/{floor_id}").json()["revision"] == base
        missing = client.get("/api/floors/999").json()["problems"][0]["sentence"]
        assert missing == "there is no floor 999; it may have been deleted, or it is not yours to see"
        assert client.put(f"/api/floors/{floor_id}", json={"line": "x"}).status_code == 422
        # A floor that only the computation can refuse is saved, and its run says why.
        assert save(client, floor_id, base, lambda d: d.update(supports=[], walls=[], columns=[])).status_code == 200
        state = server.settled(floor_id)
        assert state["run"]["state"] == "refused"
        assert state["run"]["told"].startswith("supports: the floor rests on nothing")
        client.post(f"/api/floors/{floor_id}/undo", json={"based_on": state["revision"]})
        assert server.settled(floor_id)["run"]["state"] == "fresh"


def test_a_newer_edit_supersedes_an_older_run_and_a_run_can_be_cancelled(server, floor_id):
    with server.client() as client:
        runs = []
        for h in (0.26, 0.27, 0.28):
            last = client.get(f"/api/floors/{floor_id}").json()["revision"]
            runs.append(save(client, floor_id, last, lambda d, h=h: d["slabs"][0].update(thickness_m=h)).json()["run"])
        state = server.settled(floor_id)
        assert (state["run"]["id"], state["run"]["state"]) == (runs[-1], "fresh")
        last = state["revision"]
        save(client, floor_id, last, lambda d: d["slabs"][0].update(thickness_m=0.29))
        assert client.post(f"/api/floors/{floor_id}/cancel").status_code == 204
        assert server.settled(floor_id)["run"]["state"] in ("cancelled", "fresh")


def workers(server):
    """Processes of the server that compute: they are forked off one of its own that does nothing else."""
    found = []
    for child in psutil.Process(server.process.pid).children(recursive=True):
        # One that has just ended has no command line any more.
        with contextlib.suppress(psutil.NoSuchProcess):
            if child.is_running() and all("forkserver" in " ".join(p.cmdline()) for p in (child, child.parent())):
                found.append(child)
    return found


def test_a_run_is_cancelled_inside_a_long_stage_and_another_worker_takes_over(server, floor_id):
    with server.client() as client:
        project = client.get("/api/projects").json()[0]["id"]
        data = {**flat_floor(4000, 0.3), "name": "Hangar"}
        assert client.post(f"/api/projects/{project}/floors", json={"document": data}).status_code == 201
        hangar = next(f["id"] for f in client.get("/api/projects").json()[0]["floors"] if f["name"] == "Hangar")
        before = {w.pid for w in workers(server)}
        with client.stream("GET", f"/api/floors/{hangar}/events") as stream:
            for line in stream.iter_lines():
                # The mesher would go on for half a minute.
                if line.startswith("data:") and json.loads(line[5:]).get("stage") == "mesh":
                    break
        assert client.post(f"/api/floors/{hangar}/cancel").status_code == 204
        assert server.settled(hangar)["run"]["state"] == "cancelled"
        last = client.get(f"/api/floors/{floor_id}").json()["revision"]
        save(client, floor_id, last, lambda d: d["slabs"][0].update(thickness_m=0.33))
        run = server.settled(floor_id)["run"]
        assert run["state"] == "fresh", run["told"]
    assert not before & {w.pid for w in workers(server)}


def test_events_tell_the_stages_and_the_end(server, floor_id):
    seen = []
    with server.client() as client, client.stream("GET", f"/api/floors/{floor_id}/events") as stream:
        with server.client() as other:
            last = other.get(f"/api/floors/{floor_id}").json()["revision"]
            save(other, floor_id, last, lambda d: d["mesh"].update(size_m=0.5))
        for line in stream.iter_lines():
            if line.startswith("data:"):
                seen.append(json.loads(line[5:]))
                if seen[-1].get("state") == "fresh":
                    break
    for event in seen:
        FloorEvent.model_validate(event)
    # Another tab hears of the revision itself, and then of its run and no other.
    assert (seen[0]["kind"], seen[0]["revision"], seen[0]["line"]) == ("revision", last + 1, "a change")
    runs = [e for e in seen if e["kind"] == "run"]
    assert {e["revision"] for e in runs} == {last + 1}
    assert runs[0]["state"] == "queued"
    # Told at regular times: which stages are met then is not said, but that it is stages, and the verdict before the last.
    stages = [e["stage"] for e in runs if e.get("stage")]
    assert {*stages[:-1]} <= {s.name for s in STAGES}
    assert (len(stages) > 1, stages[-1]) == (True, "write")
    # First without what lasts, then whole.
    told = [e for e in runs if e.get("verdict")]
    assert [(e["whole"], "deflection" in {r["check"] for r in e["verdict"]}) for e in told] == [(False, False), (True, True)]
    shares = [e["share"] for e in runs if e["state"] == "running"]
    assert shares == sorted(shares)


def test_any_station_of_a_run_tells_its_section_and_all_its_provisions(server, floor_id):
    with server.client() as client:
        run = server.settled(floor_id)["fresh"]["id"]
        strip = client.get(f"/api/runs/{run}/results").json()["strips"][0]
        address = f"/api/runs/{run}/strips/{strip['id']}/station"
        for k in (0, len(strip["s_m"]) // 2):
            answer = client.get(address, params={"s": strip["s_m"][k], "face": "top"})
            assert answer.status_code == 200, answer.text
            found = answer.json()
            top, row = strip["top"], found["row"]
            assert row["id"]["station"] == strip["s_m"][k]
            asked = max([v[k] for p, v in top["provisions"].items() if p not in ("column_band", "edge_band", "column_shear")])
            use = next(s for s in row["trace"]["steps"] if s["title"] == "Utilisation")
            assert {v["symbol"]: v["value"] for v in use["values"]} == pytest.approx(
                {"A_s,req": asked, "A_s,prov": top["provided_mm2_m"][k]}, rel=1e-4
            )
            # The floor has no bars yet.
            assert (found["bars"], use["note"]) == ([], "Nothing is given there.")
        for strip_id, s, told in (("x9-9", 1.0, "x9-9 is no strip"), (strip["id"], 99.0, "has no station at 99 m")):
            refused = client.get(f"/api/runs/{run}/strips/{strip_id}/station", params={"s": s, "face": "top"})
            assert refused.status_code == 422
            assert told in refused.json()["problems"][0]["sentence"]
        assert client.get("/api/runs/999999/strips/x/station", params={"s": 1, "face": "top"}).status_code == 404


def test_what_is_only_drawn_or_read_makes_nothing_stale_and_runs_nothing(server, floor_id):
    with server.client() as client:
        before = server.settled(floor_id)
        edits = (
            lambda d: d.update(probes=[*d.get("probes", []), {"id": "new", "at": [4.5, 4.5]}]),
            lambda d: d.update(slices=[{"id": "X", "line": [[0, 1.5], [6, 1.5]]}]),
            lambda d: d.update(notes=[{"id": "N1", "at": [1, 1], "text": "check on site"}]),
        )
        for number, change in enumerate(edits):
            saved = save(client, floor_id, before["revision"] + number, change).json()
            assert saved["run"] is None
            assert saved["stands"] == before["run"]["id"]
            state = client.get(f"/api/floors/{floor_id}").json()
            for key in ("run", "fresh"):
                assert (state[key]["id"], state[key]["revision"]) == (before["run"]["id"], saved["revision"])
        run, of = before["run"]["id"], "S1"
        places = client.post(f"/api/runs/{run}/places", json={"of": of, "at": [[4.5, 4.5], [40, 40]]}).json()
        one = client.get(f"/api/runs/{run}/value", params={"of": of, "quantity": "mx", "x": 4.5, "y": 4.5}).json()
        assert places[0]["mx_kNm_m"] == pytest.approx(one["all"], rel=1e-6)
        assert places[1]["w_mm"] is None
        # A probe that is younger than the run reads it all the same, where the probe stands.
        (entry,) = [e for e in client.get(f"/api/floors/{floor_id}/probes/new").json() if e["run"] == run]
        assert entry["values"][of] == pytest.approx(places[0], rel=1e-9)
        # A change that computes otherwise runs; taking it back has the results of before at once.
        last = client.get(f"/api/floors/{floor_id}").json()["revision"]
        began = save(client, floor_id, last, lambda d: d["slabs"][0].update(thickness_m=0.31)).json()
        assert began["run"]
        assert began["stands"] is None
        # What is drawn while it runs lets it run, and waits for it.
        drawn = save(client, floor_id, last + 1, lambda d: d.update(slices=[])).json()
        assert (drawn["run"], drawn["stands"]) == (None, began["run"])
        after = server.settled(floor_id)
        assert (after["fresh"]["id"], after["fresh"]["revision"]) == (began["run"], last + 2)
        last += 1
        for based_on in (last + 1, last + 2):
            undone = client.post(f"/api/floors/{floor_id}/undo", json={"based_on": based_on}).json()
        last += 1
        assert undone["run"] is None
        state = client.get(f"/api/floors/{floor_id}").json()
        assert (state["fresh"]["id"], state["fresh"]["revision"]) == (run, last + 2)


def test_the_difference_of_two_runs_is_nil_where_nothing_changed(server):
    """A drop panel, whose border has two values at every node, and a mesh of another size between the runs."""
    document = {**flat_slab(2, 2, size=0.8), "name": "Differences"}
    document["thickenings"] = [{"id": "D", "outline": [[5, 5], [7, 5], [7, 7], [5, 7]], "thickness_m": 0.4}]

    def field(client, run, **more):
        query = {"quantity": "mx", "of": "U1", "kind": "greatest", **more}
        content = client.get(f"/api/runs/{run}/field", params=query).content
        (length,) = struct.unpack_from("<I", content)
        return np.frombuffer(content, "<f4", json.loads(content[4 : 4 + length])["count"], 4 + length)

    with server.client() as client:
        project = client.get("/api/projects").json()[0]
        made = client.post(f"/api/projects/{project['id']}/floors", json={"document": document}).json()["floor"]
        first = server.settled(made)
        save(client, made, first["revision"], lambda d: d["loads"][0].update(q_kPa=4.5))
        second = server.settled(made)
        save(client, made, second["revision"], lambda d: (d["loads"][0].update(q_kPa=4.0), d["mesh"].update(size_m=0.6)))
        third = server.settled(made)
        runs = [s["fresh"]["id"] for s in (first, second, third)]
        size = np.abs(field(client, runs[0])).max()
        same = field(client, runs[0], minus_of="U1", minus_kind="greatest", minus_run=runs[0])
        assert np.abs(same).max() == 0.0
        # On one mesh, places are compared with themselves: a live load that grew changes each moment by its own part.
        grown = field(client, runs[1], minus_of="U1", minus_kind="greatest", minus_run=runs[0])
        assert np.allclose(grown, field(client, runs[1]) - field(client, runs[0]), atol=1e-3)
        # On another mesh, each side of a border is compared with its own side: only what the mesh itself does is left.
        other = field(client, runs[2], minus_of="U1", minus_kind="greatest", minus_run=runs[0])
        other = other[np.isfinite(other)]
        assert np.percentile(np.abs(other), 90) < 0.03 * size
        assert np.abs(other).max() < 0.25 * size


def big_edit(server, client, value):
    """An edit of the demo's main floor that takes seconds to run."""
    first = client.get("/api/projects").json()[0]["floors"][0]["id"]
    server.settled(first)
    state = client.get(f"/api/floors/{first}").json()
    data = state["document"]
    data["mesh"]["size_m"] = value
    answer = client.put(f"/api/floors/{first}", json={"based_on": state["revision"], "document": data, "line": f"mesh {value}"})
    assert answer.status_code == 200
    return first, answer.json()["revision"]


def running(server, client, floor_id):
    for _ in range(300):
        if client.get(f"/api/floors/{floor_id}").json()["run"]["state"] == "running":
            return
        time.sleep(0.05)
    raise AssertionError("the run did not begin")


@pytest.mark.study
def test_killing_a_worker_during_a_run_loses_no_revision_and_the_run_ends(server):
    with server.client() as client:
        floor_id, revision = big_edit(server, client, 0.52)
        running(server, client, floor_id)
        time.sleep(1.0)
        victims = workers(server)
        assert victims
        for victim in victims:
            victim.kill()
        state = server.settled(floor_id, 180)
        assert (state["revision"], state["run"]["revision"], state["run"]["state"]) == (revision, revision, "fresh")


def test_workers_that_are_killed_while_they_start_come_back(server, floor_id):
    # Such a worker is given up by the nanny that starts it.
    until = time.monotonic() + 4
    while time.monotonic() < until:
        for victim in workers(server):
            with contextlib.suppress(psutil.NoSuchProcess):
                victim.kill()
        time.sleep(0.1)
    with server.client() as client:
        last = client.get(f"/api/floors/{floor_id}").json()["revision"]
        save(client, floor_id, last, lambda d: d["slabs"][0].update(thickness_m=0.34))
        assert server.settled(floor_id)["run"]["state"] == "fresh"


@pytest.mark.study
def test_killing_the_database_during_a_run_loses_no_revision_and_the_run_ends(server):
    with server.client() as client:
        floor_id, revision = big_edit(server, client, 0.5)
        running(server, client, floor_id)
        server.database.kill()
        answer = client.get(f"/api/floors/{floor_id}")
        assert answer.status_code == 503
        assert "not saved" in answer.json()["problems"][0]["sentence"]
        time.sleep(2)
        server.database.start()
        state = server.settled(floor_id, 180)
        assert (state["revision"], state["run"]["revision"], state["run"]["state"]) == (revision, revision, "fresh")
        document_now = client.get(f"/api/floors/{floor_id}").json()["document"]
        # Materials and setting-out lines are the project's, which other tests add to.
        apart = {"mesh", *SHARED}
        now = {k: v for k, v in document_now.items() if k not in apart}
        assert now == {k: v for k, v in by_level(document(level_1()), project(), LEVELS[0]).items() if k not in apart}


def test_results_go_out_as_they_are_kept_to_who_reads_that(server, floor_id):
    run = server.settled(floor_id)["fresh"]["id"]
    with server.client() as client:
        answers = {
            accepted: client.get(f"/api/runs/{run}/results", headers={"Accept-Encoding": accepted})
            for accepted in ("identity", "gzip, Deflate", "gzip;q=1, deflate;q=0.05", "deflate;q=0.0", "gzip", "deflated")
        }
    coded = [accepted for accepted, answer in answers.items() if answer.headers.get("content-encoding") == "deflate"]
    assert coded == ["gzip, Deflate", "gzip;q=1, deflate;q=0.05"]
    assert all(answer.headers["vary"] == "Accept-Encoding" for answer in answers.values())
    plain = answers["identity"].json()
    assert plain["verdict"]
    assert all(answer.json() == plain for answer in answers.values())


def test_no_run_is_left_running(server, database):
    from sqlalchemy import text

    from piastra.store.database import connect

    with server.client() as client:
        for floor in client.get("/api/projects").json()[0]["floors"]:
            server.settled(floor["id"])
    with connect(database.url).connect() as connection:
        left = connection.execute(text("SELECT count(*) FROM runs WHERE state IN ('queued', 'running')")).scalar()
    assert left == 0


def test_flat_slab_is_computed_the_same_by_the_server_and_the_core(server):
    from piastra.core.model import floor_from
    from piastra.core.pipeline import solve_floor

    data = {**flat_slab(2, 1, size=0.8), "name": "Two bays"}
    with server.client() as client:
        project = client.get("/api/projects").json()[0]["id"]
        client.post(f"/api/projects/{project}/floors", json={"document": data})
        floor_id = next(f["id"] for f in client.get("/api/projects").json()[0]["floors"] if f["name"] == "Two bays")
        run = server.settled(floor_id)["run"]["id"]
        found = client.get(f"/api/runs/{run}/results").json()["verdict"]
    expected = solve_floor(floor_from(data)).verdict
    assert [r["utilisation"] for r in found] == pytest.approx([r.utilisation for r in expected], rel=1e-9)
