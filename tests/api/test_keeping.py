"""Projects and floors that are put away and come back, their order, and whole projects as files."""

import pytest

from tests.floors import one_bay


@pytest.fixture
def building(server):
    """A project of three floors of its own: a floor, its twin, and another one."""
    with server.client() as client:
        name = f"Zinc mill {len(client.get('/api/projects').json())}-{len(client.get('/api/put-away').json())}"
        project = client.post("/api/projects", json={"name": name, "standard": "EN 1992-1-1", "units": "SI"}).json()["project"]
        make = f"/api/projects/{project}/floors"
        first = client.get("/api/projects").json()
        (empty,) = next(p["floors"] for p in first if p["id"] == project)
        bay = client.post(make, json={"document": {**one_bay(), "name": "Bay"}}).json()["floor"]
        twin = client.post(make, json={"twin_of": bay, "name": "Bay above"}).json()["floor"]
        yield client, project, name, empty["id"], bay, twin


def floors(client, project):
    return [f["id"] for p in client.get("/api/projects").json() if p["id"] == project for f in p["floors"]]


def test_floors_are_put_in_order_put_away_and_brought_back_with_all_they_had(building):
    client, project, _name, empty, bay, twin = building
    assert floors(client, project) == [empty, bay, twin]
    assert client.put(f"/api/projects/{project}/order", json={"floors": [twin, empty]}).status_code == 204
    assert floors(client, project) == [twin, empty, bay]
    assert (
        "no floor 999999"
        in client.put(f"/api/projects/{project}/order", json={"floors": [999999]}).json()["problems"][0]["sentence"]
    )
    before = client.get(f"/api/floors/{bay}").json()
    assert client.put(f"/api/floors/{bay}/away", json={"away": True}).status_code == 204
    assert floors(client, project) == [twin, empty]
    assert [(a["floor"], a["name"]) for a in client.get("/api/put-away").json() if a["project"] == project] == [(bay, "Bay")]
    # Its name is still its own, and a change of its twin reaches it.
    again = client.post(f"/api/projects/{project}/floors", json={"document": {**one_bay(), "name": "Bay"}}).json()["floor"]
    assert client.get(f"/api/floors/{again}").json()["name"] == "Bay (2)"
    state = client.get(f"/api/floors/{twin}").json()
    state["document"]["slabs"][0]["thickness_m"] = 0.31
    assert (
        client.put(
            f"/api/floors/{twin}",
            json={"based_on": state["revision"], "document": state["document"], "line": "thicker"},
        ).status_code
        == 200
    )
    client.put(f"/api/floors/{bay}/away", json={"away": False})
    assert floors(client, project) == [twin, empty, bay, again]
    back = client.get(f"/api/floors/{bay}").json()
    assert (back["name"], back["revision"]) == (before["name"], before["revision"] + 1)
    assert back["document"]["slabs"][0]["thickness_m"] == 0.31
    for number in (twin, again, bay):
        client.put(f"/api/floors/{number}/away", json={"away": True})
    refused = client.put(f"/api/floors/{empty}/away", json={"away": True})
    assert (refused.status_code, "last one" in refused.json()["problems"][0]["sentence"]) == (422, True)


def test_a_project_is_put_away_and_brought_back(building):
    client, project, _name, *_ = building
    client.put(f"/api/projects/{project}/away", json={"away": True})
    assert project not in {p["id"] for p in client.get("/api/projects").json()}
    assert {(a["project"], a["floor"]) for a in client.get("/api/put-away").json()} >= {(project, None)}
    client.put(f"/api/projects/{project}/away", json={"away": False})
    assert len(floors(client, project)) == 3
    for path, body in ((f"/api/projects/{project}99/away", {"away": True}), ("/api/floors/999999/away", {"away": True})):
        assert client.put(path, json=body).status_code == 404


def test_a_project_goes_out_as_a_file_and_comes_back_as_it_was(building):
    client, project, name, _, _bay, _twin = building
    answer = client.get(f"/api/projects/{project}/file")
    assert answer.headers["content-disposition"].startswith("attachment")
    file = answer.json()
    assert (file["format"], file["version"], [f["follows"] for f in file["floors"]]) == ("piastra-project", 1, [None, None, 1])
    made = client.post("/api/projects/file", json={"file": file}).json()
    copy = client.get(f"/api/projects/{made['project']}").json()
    assert copy["document"] == {**client.get(f"/api/projects/{project}").json()["document"], "name": f"{name} (2)"}
    theirs = floors(client, made["project"])
    for old, new in zip(floors(client, project), theirs, strict=True):
        a, b = (client.get(f"/api/floors/{k}").json() for k in (old, new))
        assert (a["document"], a["level"], a["name"]) == (b["document"], b["level"], b["name"])
    assert client.get(f"/api/floors/{theirs[2]}").json()["follows"]["id"] == theirs[1]
    # What is wrong in any of it is told with its place, and nothing of it is kept.
    count = len(client.get("/api/projects").json())
    for change, words in (
        (lambda f: f["floors"][1]["document"]["slabs"][0].update(thickness_m=-1), "floors[1].slabs[0].thickness_m"),
        (lambda f: f["floors"][2].update(follows=2), "floors[2].follows"),
        (lambda f: f["floors"][2]["document"].update(name="Bay"), "name of two"),
        (lambda f: f.update(floors=[]), "at least one"),
        (lambda f: f["project"].update(standard="X"), "standard"),
        (lambda f: f["project"].pop("name"), "name"),
    ):
        wrong = client.get(f"/api/projects/{project}/file").json()
        change(wrong)
        refused = client.post("/api/projects/file", json={"file": wrong})
        assert refused.status_code == 422, words
        assert words in str(refused.json()["problems"]), refused.json()
    assert len(client.get("/api/projects").json()) == count
    assert client.post("/api/projects/file", json={"file": {"format": "other"}}).status_code == 422
