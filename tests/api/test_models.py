"""A building model becomes a project; a second one tells what has moved, and is taken over piece by piece."""

import re

import pytest

from tests.floors import flat_slab
from tests.ifc_models import of_floors


def model(**how):
    """Two storeys of a bay each."""
    low, high = ({**flat_slab(1, 1, size=1.5), "name": n} for n in ("Low", "High"))
    return of_floors([("Low", 3.0, 3.0, low), ("High", 6.2, 3.2, high)], turned=30.0, at=(5e4, 8e4, 3.0), **how)


@pytest.fixture(scope="module")
def depot(server):
    with server.client() as client:
        made = client.post("/api/projects/model?name=depot.ifc", content=model())
        assert made.status_code == 201, made.text
        yield client, made.json()


def test_a_model_becomes_a_project_and_a_moved_column_alone_is_told_and_taken(depot, server):
    client, read = depot
    assert [(s["level"], s["counts"]["slabs"], s["counts"]["columns"]) for s in read["storeys"]] == [
        ("Low", 1, 4),
        ("High", 1, 4),
    ]
    assert [(t["what"], t["count"]) for t in read["told"] if "layer" in t["why"]] == [("part", 2)]
    project = read["made"]["project"]
    path = f"/api/projects/{project}"
    low, high = client.get(f"{path}/overview").json()["floors"]
    assert [(f["name"], f["elevation_m"]) for f in (low, high)] == [("Low", 3.0), ("High", 6.2)]
    server.settled(low["id"])
    # Written out it is a model again, with the bars that were computed.
    content = client.get(f"{path}/model.ifc").content
    assert [len(re.findall(rf"={kind}\(".encode(), content)) for kind in ("IFCBUILDINGSTOREY", "IFCSLAB", "IFCCOLUMN")] == [
        2,
        2,
        8,
    ]
    assert client.post("/api/projects/model?name=out.ifc", content=content).json()["told"] == []
    # The same model again has nothing new; floors keep what is changed in them.
    assert client.post(f"{path}/model?name=same.ifc", content=model()).json()["pieces"] == []
    now = client.get(f"/api/floors/{high['id']}").json()
    thick = {**now["document"], "slabs": [{**now["document"]["slabs"][0], "cover_top_mm": 40.0}]}
    body = {"based_on": now["revision"], "document": thick, "line": "more cover"}
    assert client.put(f"/api/floors/{high['id']}", json=body).status_code == 200
    at = now["document"]["columns"][3]["at"]
    label = now["document"]["columns"][3]["id"]
    told = client.post(f"{path}/model?name=moved.ifc", content=model(moved={("High", label): (at[0] - 0.5, at[1])})).json()
    # It stands below one floor and above the other: both are told of it, and of nothing else.
    assert {(p["level"], p["list"], p["id"]) for p in told["pieces"]} >= {("High", "columns", label)}
    assert {p["list"] for p in told["pieces"]} == {"columns"}
    (moved,) = [p for p in told["pieces"] if p["level"] == "High"]
    assert (moved["kind"], moved["values"]) == ("changed", [["at.0", at[0], pytest.approx(at[0] - 0.5)]])
    taken = client.post(f"{path}/model/take", json={"pieces": [{"level": "High", "list": "columns", "id": label}]}).json()
    assert taken == {"floors": ["High"], "clashes": []}
    after = client.get(f"/api/floors/{high['id']}").json()
    assert after["line"] == "took 1 piece over from moved.ifc"
    assert next(c for c in after["document"]["columns"] if c["id"] == label)["at"] == [pytest.approx(at[0] - 0.5), at[1]]
    assert after["document"]["slabs"][0]["cover_top_mm"] == 40.0
    # What was taken is known, what was not is told again.
    again = client.post(f"{path}/model?name=moved.ifc", content=model(moved={("High", label): (at[0] - 0.5, at[1])})).json()
    assert {p["level"] for p in again["pieces"]} == {p["level"] for p in told["pieces"]} - {"High"}


def test_what_is_no_model_and_what_was_not_made_of_one_is_refused(depot, server):
    client, read = depot
    assert client.post("/api/projects/model", content=b"no model").status_code == 422
    other = next(p["id"] for p in client.get("/api/projects").json() if p["name"].startswith("Saltmarsh"))
    answer = client.post(f"/api/projects/{other}/model", content=model())
    assert (answer.status_code, "was not made from a building model" in answer.text) == (422, True)
    take = {"pieces": [{"level": "Attic", "list": "columns", "id": "A"}]}
    assert client.post(f"/api/projects/{read['made']['project']}/model/take", json=take).status_code == 422
