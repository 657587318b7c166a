"""Studies over the API: computed beside runs, stopped, taken up again, made floors; the same table as on the command line."""

import json
import time

import pytest
from typer.testing import CliRunner

from piastra.cli import app
from piastra.exchange.tables import Table, to_xlsx
from tests.api.test_api import workers
from tests.floors import flat_slab

THICK = {"path": "slabs[*].thickness_m", "values": [0.2, 0.25, 0.3]}


@pytest.fixture(scope="module")
def pier(server):
    """A project with two floors of a bay."""
    with server.client() as client:
        project = client.post("/api/projects", json={"name": "Pier of studies", "units": "SI", "standard": "EN 1992-1-1"}).json()
        floors = []
        for name, q in (("Low", 3.0), ("High", 6.0)):
            document = {**flat_slab(1, 1, size=1.5), "name": name}
            document["loads"][0]["q_kPa"] = q
            added = client.post(f"/api/projects/{project['project']}/floors", json={"document": document}).json()
            server.settled(added["floor"])
            floors.append(added["floor"])
        yield client, f"/api/projects/{project['project']}", floors


def ended(client, path, study):
    until = time.monotonic() + 180
    while time.monotonic() < until:
        found = client.get(f"{path}/studies/{study}").json()
        if all(v["found"] for v in found["variants"]):
            return found
        time.sleep(0.3)
    raise AssertionError("the study did not come to its end")


def begin(client, path, floors, vary=(THICK,), **more):
    return client.post(f"{path}/studies", json={"name": "Thickness", "floors": floors, "vary": list(vary), **more})


def test_a_study_has_the_table_of_the_command_line_and_its_variants_become_floors(pier, tmp_path, server):
    client, path, floors = pier
    made = begin(client, path, floors).json()["id"]
    found = ended(client, path, made)
    assert [(v["number"], v["floor_name"], v["values"]["slabs[*].thickness_m"]) for v in found["variants"]] == [
        (1, "Low", 0.2), (2, "Low", 0.25), (3, "Low", 0.3), (4, "High", 0.2), (5, "High", 0.25), (6, "High", 0.3),
    ]  # fmt: skip
    uses = [v["found"]["utilisation"]["flexure"] for v in found["variants"]]
    assert all(low < high for low, high in zip(uses[:3], uses[3:], strict=True))
    assert found["behind"] == []
    (tmp_path / "study.json").write_bytes(client.get(f"{path}/studies/{made}/file").content)
    out = tmp_path / "table.csv"
    assert CliRunner().invoke(app, ["study", str(tmp_path / "study.json"), "--out", str(out)]).exit_code == 0
    assert client.get(f"{path}/studies/{made}/table.csv").content == out.read_bytes()
    assert client.get(f"{path}/studies/{made}/table.xlsx").content[:2] == b"PK"
    # A variant beside its floor, and as the floor: what was changed meanwhile stays.
    now = client.get(f"/api/floors/{floors[0]}").json()
    wider = {**now["document"], "columns": [{**c, "shape": {**c["shape"], "b_m": 0.51}} for c in now["document"]["columns"]]}
    body = {"based_on": now["revision"], "document": wider, "line": "wider columns"}
    assert client.put(f"/api/floors/{floors[0]}", json=body).status_code == 200
    assert client.get(f"{path}/studies/{made}").json()["behind"] == ["Low"]
    take = f"{path}/studies/{made}/variants"
    beside = client.post(f"{take}/3/floor", json={"into": "new"}).json()["floor"]
    state = client.get(f"/api/floors/{beside}").json()
    assert (state["name"], state["document"]["slabs"][0]["thickness_m"]) == ("Low, variant 3", 0.3)
    assert client.post(f"{take}/1/floor", json={"into": "floor"}).json()["floor"] == floors[0]
    state = client.get(f"/api/floors/{floors[0]}").json()
    assert (state["document"]["slabs"][0]["thickness_m"], state["document"]["columns"][0]["shape"]["b_m"]) == (0.2, 0.51)
    assert state["line"] == "variant 1 of Thickness: slabs[*].thickness_m 0.2"
    assert client.post(f"{take}/7/floor", json={"into": "new"}).status_code == 404
    assert client.get(f"{path}/studies").json()[0]["done"] == 6
    client.delete(f"{path}/studies/{made}")
    assert client.get(f"{path}/studies/{made}").status_code == 404


def test_a_study_that_is_stopped_rests_and_goes_on_where_it_was(pier, server):
    client, path, floors = pier
    many = [round(0.2 + 0.002 * k, 3) for k in range(24)]
    made = begin(client, path, floors[1:], [{"path": "slabs[S1].thickness_m", "values": many}]).json()["id"]
    client.put(f"{path}/studies/{made}/stopped", json={"stopped": True})
    time.sleep(4)
    (head,) = [h for h in client.get(f"{path}/studies").json() if h["id"] == made]
    time.sleep(3)
    (later,) = [h for h in client.get(f"{path}/studies").json() if h["id"] == made]
    assert (head["stopped"], later["done"] == head["done"] < 24) == (True, True)
    client.put(f"{path}/studies/{made}/stopped", json={"stopped": False})
    # A floor that is changed meanwhile is not kept waiting for the study.
    now = client.get(f"/api/floors/{floors[1]}").json()
    loads = [{**now["document"]["loads"][0], "q_kPa": 7.5}, *now["document"]["loads"][1:]]
    body = {"based_on": now["revision"], "document": {**now["document"], "loads": loads}, "line": "more load"}
    client.put(f"/api/floors/{floors[1]}", json=body)
    server.settled(floors[1])
    (between,) = [h for h in client.get(f"{path}/studies").json() if h["id"] == made]
    assert between["done"] < 24
    found = ended(client, path, made)
    # All of them are of the revision that the study was begun with, each once and in its place.
    assert [v["found"]["values"]["slabs[S1].thickness_m"] for v in found["variants"]] == many
    assert {v["revision"] for v in found["variants"]} == {now["revision"]}
    concrete = [v["found"]["concrete_m3"] for v in found["variants"]]
    assert concrete == pytest.approx([6.4**2 * h for h in many])
    client.delete(f"{path}/studies/{made}")


def test_a_worker_that_is_killed_loses_no_variant(pier, server):
    client, path, floors = pier
    many = [round(0.2 + 0.005 * k, 3) for k in range(8)]
    made = begin(client, path, floors[:1], [{"path": "slabs[S1].thickness_m", "values": many}]).json()["id"]
    until = time.monotonic() + 60
    while time.monotonic() < until and not client.get(f"{path}/studies").json()[0]["done"]:
        time.sleep(0.1)
    for victim in workers(server):
        victim.kill()
    found = ended(client, path, made)
    assert [v["found"]["concrete_m3"] for v in found["variants"]] == pytest.approx([6.4**2 * h for h in many])
    client.delete(f"{path}/studies/{made}")


def test_what_varies_comes_out_of_a_workbook_and_what_is_wrong_is_told(pier):
    client, path, floors = pier
    sheet = to_xlsx(Table("S", ("slabs[S1].thickness_m", "mesh.size_m"), ((0.2, 1.5), (0.3, 1.2))))
    read = client.post(f"{path}/studies/read?name=a.xlsx", content=sheet).json()
    assert read["vary"] == [
        {"path": "slabs[S1].thickness_m", "values": [0.2, 0.3]},
        {"path": "mesh.size_m", "values": [1.5, 1.2]},
    ]
    for vary, how, words in (
        ([{"path": "slabs[S9].thickness_m", "values": [0.2]}], "grid", "there is no S9 in that list in Low"),
        ([{"path": "mesh.size_m", "values": [1, 2]}, {"path": "name", "values": ["a"]}], "list", "equally many"),
        ([{"path": "mesh.size_m", "values": list(range(1, 302))}], "grid", "602 variants of 2 floors"),
    ):
        answer = begin(client, path, floors, vary, how=how)
        assert (answer.status_code, words in json.dumps(answer.json())) == (422, True), answer.text
    body = json.dumps({"name": "a", "floors": floors, "vary": [{"path": "mesh.size_m", "values": [float("nan")]}]})
    assert client.post(f"{path}/studies", content=body, headers={"Content-Type": "application/json"}).status_code == 422
    other = next(p for p in client.get("/api/projects").json() if str(p["id"]) != path.rsplit("/", 1)[1])
    assert begin(client, path, [other["floors"][0]["id"]]).status_code == 404
    assert client.post(f"{path}/studies/read", content=b"\x00\x01").status_code == 422
