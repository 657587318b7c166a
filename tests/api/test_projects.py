"""Projects, twins, copies between floors, and two people who change one floor."""

import copy

import pytest

from tests.floors import flat_slab


@pytest.fixture
def quay(server):
    """A project with one floor of 1 by 1 bay, solved."""
    with server.client() as client:
        name = f"Quay {len(client.get('/api/projects').json())}"
        made = client.post("/api/projects", json={"name": name, "units": "SI", "standard": "EN 1992-1-1"}).json()
        document = {**flat_slab(1, 1, size=1.0), "name": "Typical"}
        added = client.post(f"/api/projects/{made['project']}/floors", json={"document": document}).json()
        server.settled(added["floor"])
        yield server.client("Ada"), made["project"], added["floor"]


def state(client, floor):
    return client.get(f"/api/floors/{floor}").json()


def put(client, floor, change, line="a change", based_on=None, settle="ask"):
    now = state(client, floor)
    document = copy.deepcopy(now["document"])
    change(document)
    body = {"based_on": based_on or now["revision"], "document": document, "line": line, "settle": settle}
    return client.put(f"/api/floors/{floor}", json=body)


def thickness(client, floor):
    return state(client, floor)["document"]["slabs"][0]["thickness_m"]


def thicker(h):
    return lambda d: d["slabs"][0].update(thickness_m=h)


def test_a_new_project_has_an_empty_floor_that_is_kept_and_not_run(server):
    with server.client() as client:
        made = client.post("/api/projects", json={"name": "Empty quay", "units": "US", "standard": "ACI 318-19"}).json()
        floor = state(client, made["floor"])
        assert (floor["document"]["slabs"], floor["run"], floor["level"]) == ([], None, "Level 1")
        assert client.put(f"/api/floors/{made['floor']}/level", json={"level": "Attic"}).status_code == 422
        assert client.put(f"/api/floors/{made['floor']}/level", json={"level": None}).status_code == 204
        assert state(client, made["floor"])["level"] is None
        taken = client.post("/api/projects", json={"name": "Empty quay"})
        assert (taken.status_code, taken.json()["problems"][0]["path"]) == (422, "name")
        assert client.post("/api/projects", json={"name": "Other", "standard": "BS 1"}).status_code == 422


def test_a_floor_from_elsewhere_brings_its_materials_and_grid_under_free_names(server, quay):
    client, project, _ = quay
    document = {**flat_slab(1, 1), "name": "Guest", "grid": [{"id": "Z", "line": [[0, 0], [0, 9]]}]}
    document["concretes"] = [{"id": "C30", "strength_MPa": 35.0}]
    made = client.post(f"/api/projects/{project}/floors", json={"document": document}).json()
    floor = state(client, made["floor"])["document"]
    assert floor["slabs"][0]["concrete"] == "C30-2"
    strengths = {c["id"]: c["strength_MPa"] for c in floor["concretes"]}
    assert (strengths["C30"], strengths["C30-2"]) == (30, 35)
    assert [g["id"] for g in floor["grid"]] == ["Z"]
    refused = client.post(f"/api/projects/{project}/floors", json={"document": {**document, "standard": "ACI 318-19"}})
    assert (refused.status_code, refused.json()["problems"][0]["path"]) == (422, "standard")


def test_a_change_of_the_project_reaches_floors_that_compute_with_it_and_undoes(server, quay):
    client, project, floor = quay
    before = state(client, floor)
    head = client.get(f"/api/projects/{project}").json()
    document = copy.deepcopy(head["document"])
    document["units"] = "US"
    document["levels"].append({"id": "Roof", "height_m": 3.0})
    body = {"based_on": head["revision"], "document": document, "line": "US units"}
    assert client.put(f"/api/projects/{project}", json=body).json()["twins"] == []
    # Switching units changes no stored number: the floor has no new revision, and the same document.
    assert state(client, floor)["document"] == before["document"]
    head = client.get(f"/api/projects/{project}").json()
    assert [round(s["elevation_m"], 6) for s in head["storeys"]] == [3.6, 6.6]
    c30 = next(c for c in document["concretes"] if c["id"] == "C30")
    c30["creep_coefficient"] = 1.0
    body = {"based_on": head["revision"], "document": document, "line": "less creep"}
    assert client.put(f"/api/projects/{project}", json=body).json()["twins"] == ["Typical"]
    after = server.settled(floor)
    assert (after["revision"], after["line"], after["undo"]) == (before["revision"] + 1, "project: less creep", before["undo"])

    def sag(s):
        rows = client.get(f"/api/runs/{s['fresh']['id']}/results").json()["verdict"]
        return next(r for r in rows if r["check"] == "deflection")["utilisation"]

    # Of plain concrete w would be in proportion to 1 + creep; bars and shrinkage do not creep.
    assert (1 + 1.0) / (1 + 2.0) < sag(after) / sag(before) < 0.85
    late = client.put(f"/api/projects/{project}", json=body)
    assert (late.status_code, late.json()["line"]) == (409, "less creep")
    back = client.post(f"/api/projects/{project}/undo", json={"based_on": head["revision"] + 1}).json()
    assert (back["line"], back["twins"]) == ("undid: less creep", ["Typical"])
    assert sag(server.settled(floor)) == pytest.approx(sag(before), rel=1e-12)
    gone = {**document, "concretes": [c for c in document["concretes"] if c["id"] != "C30"]}
    refused = client.put(f"/api/projects/{project}", json={"based_on": head["revision"] + 2, "document": gone, "line": "no C30"})
    assert refused.status_code == 422
    assert refused.json()["problems"][0]["path"].startswith("Typical: slabs[0].concrete")


def test_twins_follow_each_other_undo_together_and_can_be_cut_loose(server, quay):
    client, project, master = quay
    twins = [
        client.post(f"/api/projects/{project}/floors", json={"twin_of": master, "name": f"Twin {i}"}).json()["floor"]
        for i in range(3)
    ]
    assert [t["name"] for t in state(client, master)["twins"]] == ["Twin 0", "Twin 1", "Twin 2"]
    was = {f: server.settled(f)["fresh"]["id"] for f in (master, *twins)}
    saved = put(client, master, thicker(0.3), "slab 0.3").json()
    assert saved["twins"] == ["Twin 0", "Twin 1", "Twin 2"]
    verdicts = []
    for floor in (master, *twins):
        now = server.settled(floor)
        assert (now["document"]["slabs"][0]["thickness_m"], now["run"]["state"]) == (0.3, "fresh")
        assert now["fresh"]["id"] != was[floor]
        results = client.get(f"/api/runs/{now['fresh']['id']}/results").json()
        verdicts.append([(r["check"], r["utilisation"]) for r in results["verdict"]])
    assert verdicts[1:] == verdicts[:1] * 3
    # An edit of a twin is an edit of all; undo on any of them undoes it on all.
    assert put(client, twins[1], thicker(0.35), "slab 0.35").status_code == 200
    assert [thickness(client, f) for f in (master, *twins)] == [0.35] * 4
    assert state(client, twins[1])["document"]["name"] == "Twin 1"
    step = client.post(f"/api/floors/{twins[2]}/undo", json={"based_on": state(client, twins[2])["revision"]}).json()
    assert step["line"] == "undid: slab 0.35"
    assert [thickness(client, f) for f in (master, *twins)] == [0.3] * 4
    assert [state(client, f)["document"]["name"] for f in twins] == ["Twin 0", "Twin 1", "Twin 2"]

    assert client.post(f"/api/floors/{twins[0]}/loose", json={}).json()["line"] == "cut loose from Typical"
    put(client, master, thicker(0.4))
    assert [thickness(client, f) for f in (master, *twins)] == [0.4, 0.3, 0.4, 0.4]
    loose = state(client, twins[0])
    assert (loose["follows"], loose["twins"], loose["undo"]) == (None, [], False)
    put(client, twins[0], thicker(0.28))
    assert [thickness(client, f) for f in (master, *twins)] == [0.4, 0.28, 0.4, 0.4]
    client.post(f"/api/floors/{master}/undo", json={"based_on": state(client, master)["revision"]})
    assert [thickness(client, f) for f in (master, *twins)] == [0.3, 0.28, 0.3, 0.3]
    assert client.post(f"/api/floors/{master}/loose", json={}).status_code == 422


def test_objects_are_copied_to_other_floors_and_that_undoes(server, quay):
    client, project, master = quay
    put(client, master, lambda d: d.update(openings=[{"id": "O1", "outline": [[2, 2], [3, 2], [3, 3], [2, 3]]}]))
    other = client.post(f"/api/projects/{project}/floors", json={"copy_of": master, "name": "Roof"}).json()["floor"]
    put(client, master, lambda d: d["openings"].append({"id": "O2", "outline": [[4, 4], [5, 4], [5, 5], [4, 5]]}))
    got = client.post(f"/api/floors/{master}/copy", json={"floors": [other], "kinds": ["openings", "columns"]}).json()
    assert got["floors"] == {"Roof": 1}
    after = state(client, other)
    assert ([o["id"] for o in after["document"]["openings"]], after["line"]) == (
        ["O1", "O2"],
        "copied openings, columns from Typical",
    )
    client.post(f"/api/floors/{other}/undo", json={"based_on": after["revision"]})
    assert [o["id"] for o in state(client, other)["document"]["openings"]] == ["O1"]
    assert client.post(f"/api/floors/{master}/copy", json={"floors": [master], "kinds": ["slabs"]}).status_code == 422
    assert client.post(f"/api/floors/{master}/copy", json={"floors": [other], "kinds": ["rebars"]}).status_code == 422


def test_the_second_to_save_sees_who_changed_what_and_settles_it(server, quay):
    client, _, floor = quay
    base = state(client, floor)["revision"]
    assert put(client, floor, thicker(0.27), "slab 0.27").status_code == 200
    ben = copy.deepcopy(state(client, floor)["document"])
    ben["slabs"][0]["thickness_m"] = 0.25
    ben["columns"][0]["angle_deg"] = 10.0
    body = {"based_on": base, "document": ben, "line": "turned C00"}
    client = server.client("Ben")
    told = client.put(f"/api/floors/{floor}", json=body).json()
    assert (told["author"], told["line"], told["clashes"]) == ("Ada", "slab 0.27", [])
    slab = {"list": "slabs", "id": "S1", "kind": "changed", "path": "thickness_m", "before": 0.25, "after": 0.27}
    turned = {"list": "columns", "id": "C00", "kind": "changed", "path": "angle_deg", "before": None, "after": 10.0}
    assert told["theirs"] == {"count": 1, "first": [slab]}
    assert told["yours"] == {"count": 1, "first": [turned]}
    assert client.put(f"/api/floors/{floor}", json={**body, "settle": "both"}).status_code == 200
    both = state(client, floor)
    assert both["document"]["slabs"][0]["thickness_m"] == 0.27
    assert both["document"]["columns"][0]["angle_deg"] == 10.0

    ben["slabs"][0]["thickness_m"] = 0.31
    told = client.put(f"/api/floors/{floor}", json={**body, "document": ben, "settle": "both"})
    assert (told.status_code, told.json()["clashes"]) == (409, [{"list": "slabs", "id": "S1"}])
    assert thickness(client, floor) == 0.27
    assert client.put(f"/api/floors/{floor}", json={**body, "document": ben, "settle": "mine"}).status_code == 200
    assert thickness(client, floor) == 0.31
    # What was overruled is still in the history, one step of undo away.
    client.post(f"/api/floors/{floor}/undo", json={"based_on": state(client, floor)["revision"]})
    assert thickness(client, floor) == 0.27


def heights(client, floor, ids=("C00", "C01")):
    columns = {c["id"]: c for c in state(client, floor)["document"]["columns"]}
    return [(columns[i]["below"]["height_m"], columns[i]["above"] and columns[i]["above"]["height_m"]) for i in ids]


def test_heights_follow_the_level_unless_they_are_typed(server, quay):
    """Columns by the level: another level, a level of another height and a twin elsewhere change them; a typed height stays, and is told."""
    client, project, floor = quay
    known = client.get(f"/api/projects/{project}").json()

    def levels(*given):
        now = client.get(f"/api/projects/{project}").json()
        document = {**now["document"], "levels": [{"id": k, "height_m": h} for k, h in given]}
        body = {"based_on": now["revision"], "document": document, "line": "levels"}
        answer = client.put(f"/api/projects/{project}", json=body)
        assert answer.status_code == 200, answer.json()
        return answer.json()

    assert known["document"]["levels"]
    levels(("One", 3.5), ("Two", 4.0), ("Three", 3.0))
    assert client.put(f"/api/floors/{floor}/level", json={"level": "One"}).status_code == 204
    # Typed heights of 3.2 m stay, and each of them is told with a mend.
    assert heights(client, floor) == [(3.2, 3.2)] * 2
    found = client.get(f"/api/floors/{floor}/findings").json()
    own = [f for f in found if f["rule"] == "height of its own"]
    assert len(own) == 8
    assert {tuple(s["key"] for s in f["mend"]["steps"]) for f in own} == {
        ("below.by_level", "below.height_m"), ("above.by_level", "above.height_m"),
    }  # fmt: skip

    def by_level(d):
        for c in d["columns"]:
            if c["id"] == "C00":
                c["below"]["by_level"] = c["above"]["by_level"] = True

    assert put(client, floor, by_level).status_code == 200
    assert heights(client, floor) == [(3.5, 4.0), (3.2, 3.2)]
    twin = client.post(f"/api/projects/{project}/floors", json={"twin_of": floor, "name": "Above", "level": "Two"}).json()[
        "floor"
    ]
    assert heights(client, twin) == [(4.0, 3.0), (3.2, 3.2)]
    # An edit of the one is taken by the other with its own heights.
    assert put(client, floor, thicker(0.3)).status_code == 200
    assert thickness(client, twin) == 0.3
    assert (heights(client, floor)[0], heights(client, twin)[0]) == ((3.5, 4.0), (4.0, 3.0))
    # A level that is changed changes both, with a run each; what is computed has the new heights.
    assert set(levels(("One", 3.5), ("Two", 4.4), ("Three", 3.0))["twins"]) == {"Typical", "Above"}
    assert (heights(client, floor)[0], heights(client, twin)[0]) == ((3.5, 4.4), (4.4, 3.0))
    assert client.put(f"/api/floors/{twin}/level", json={"level": "Three"}).status_code == 204
    # Nothing above the topmost level: what stands there keeps its height.
    assert heights(client, twin)[0] == (3.0, 3.0)


def loading(client, project):
    """Build-ups, a partition, and materials of the project."""
    now = client.get(f"/api/projects/{project}").json()
    document = {
        **now["document"],
        "load_materials": [{"id": "screed", "unit_weight_kN_m3": 20}, {"id": "tiles", "unit_weight_kN_m3": 24}],
        "build_ups": [
            {"id": "thin", "layers": [{"material": "screed", "thickness_mm": 50}], "extra_kPa": 0.2},
            {"id": "thick", "layers": [{"material": "screed", "thickness_mm": 75}, {"material": "tiles", "thickness_mm": 10}]},
        ],
        "partitions": [{"id": "light", "build_up": "thin", "height_m": 3.0}],
    }
    body = {"based_on": now["revision"], "document": document, "line": "loading"}
    assert client.put(f"/api/projects/{project}", json=body).status_code == 200


def test_one_build_up_takes_the_place_of_another_where_it_is_said_to(server, quay):
    """20 x 0.05 + 0.2 = 1.2 kN/m2 becomes 20 x 0.075 + 24 x 0.01 = 1.74; a partition of 3 m 3.6 kN/m becomes 5.22."""
    client, project, floor = quay
    loading(client, project)

    def loaded(d):
        d["loads"] += [
            {"id": "f", "case": "G", "kind": "area", "build_up": "thin"},
            {"id": "w", "case": "G", "kind": "line", "line": [[0, 1], [6, 1]], "partition": "light"},
        ]

    assert put(client, floor, loaded).status_code == 200
    other = client.post(f"/api/projects/{project}/floors", json={"copy_of": floor, "name": "Other"}).json()["floor"]
    asked = {"kind": "build_ups", "old": "thin", "new": "thick"}
    told = client.post(f"/api/projects/{project}/replace/preview", json=asked).json()["changes"]
    assert [(c["floor"], [o["id"] for o in c["objects"]]) for c in told] == [(None, ["light"]), (floor, ["f"]), (other, ["f"])]
    assert [(o["before"], o["after"]) for c in told[1:] for o in c["objects"]] == [(pytest.approx(1.2), pytest.approx(1.74))] * 2
    # Looking changes nothing.
    revision = state(client, floor)["revision"]
    done = client.post(f"/api/projects/{project}/replace", json={**asked, "floors": [floor]}).json()
    assert done == {"objects": 2, "floors": 2}
    loads = {f: {l["id"]: l for l in state(client, f)["document"]["loads"]} for f in (floor, other)}
    assert (loads[floor]["f"]["build_up"], loads[other]["f"]["build_up"]) == ("thick", "thin")
    assert client.get(f"/api/projects/{project}").json()["document"]["partitions"][0]["build_up"] == "thick"
    assert state(client, floor)["revision"] > revision
    assert "thin replaced by thick" in state(client, floor)["line"]
    # A step of its own that undo takes back.
    step = {"based_on": state(client, floor)["revision"]}
    assert client.post(f"/api/floors/{floor}/undo", json=step).status_code == 200
    assert next(l for l in state(client, floor)["document"]["loads"] if l["id"] == "f")["build_up"] == "thin"
    for wrong, path in (({"old": "none"}, "old"), ({"new": "none"}, "new"), ({"new": "thin"}, "new")):
        answer = client.post(f"/api/projects/{project}/replace/preview", json={**asked, **wrong})
        assert (answer.status_code, answer.json()["problems"][0]["path"]) == (422, path)


def test_a_concrete_takes_the_place_of_another_in_all_that_is_of_it(server, quay):
    client, project, floor = quay
    now = client.get(f"/api/projects/{project}").json()
    document = {**now["document"], "concretes": [*now["document"]["concretes"], {"id": "C40", "strength_MPa": 40}]}
    client.put(f"/api/projects/{project}", json={"based_on": now["revision"], "document": document, "line": "C40"})
    old = state(client, floor)["document"]["slabs"][0]["concrete"]
    body = {"kind": "concretes", "old": old, "new": "C40", "floors": [floor]}
    assert client.post(f"/api/projects/{project}/replace", json=body).json() == {"objects": 5, "floors": 1}
    after = state(client, floor)["document"]
    assert {i["concrete"] for i in (*after["slabs"], *after["columns"])} == {"C40"}


def test_undo_goes_through_changes_of_floor_and_project_in_the_order_they_were_made(server, quay):
    client, project, floor = quay

    def steps():
        now = client.get(f"/api/floors/{floor}/steps").json()
        return tuple(now[k] and (now[k]["of"], now[k]["line"]) for k in ("undo", "redo"))

    def travel(of, way):
        of, number = ("floors", floor) if of == "floor" else ("projects", project)
        based = client.get(f"/api/{of}/{number}").json()["revision"]
        return client.post(f"/api/{of}/{number}/{way}", json={"based_on": based}).json()["line"]

    def base(h):
        now = client.get(f"/api/projects/{project}").json()
        body = {"based_on": now["revision"], "document": {**now["document"], "base_m": h}, "line": f"base {h}"}
        assert client.put(f"/api/projects/{project}", json=body).status_code == 200

    begun, none = steps()
    assert none is None
    put(client, floor, thicker(0.3), "slab 0.3")
    base(1.0)
    put(client, floor, thicker(0.35), "slab 0.35")
    base(2.0)
    order = [("project", "base 2.0"), ("floor", "slab 0.35"), ("project", "base 1.0"), ("floor", "slab 0.3")]
    for k, (of, line) in enumerate(order):
        assert steps() == ((of, line), order[k - 1] if k else None)
        # Each by its own name, however often one goes back.
        assert travel(of, "undo") == f"undid: {line}"
    assert steps() == (begun, order[-1])
    for of, line in reversed(order):
        assert steps()[1] == (of, line)
        assert travel(of, "redo") == f"redid: {line}"
    assert steps() == (order[0], None)
    assert (thickness(client, floor), client.get(f"/api/projects/{project}").json()["document"]["base_m"]) == (0.35, 2.0)
    # A change of either kind drops what had been undone before it.
    travel("project", "undo")
    travel("floor", "undo")
    put(client, floor, thicker(0.4), "slab 0.4")
    assert steps() == (("floor", "slab 0.4"), None)


def roofed(client, project, floor):
    """The floor on Level 1, and a copy of it on the level above: the roof's number."""
    head = client.get(f"/api/projects/{project}").json()
    levels = {**head["document"], "levels": [{"id": "Level 1", "height_m": 3.2}, {"id": "Roof", "height_m": 3.2}]}
    assert (
        client.put(
            f"/api/projects/{project}", json={"based_on": head["revision"], "document": levels, "line": "levels"}
        ).status_code
        == 200
    )
    assert client.put(f"/api/floors/{floor}/level", json={"level": "Level 1"}).status_code == 204
    return client.post(f"/api/projects/{project}/floors", json={"copy_of": floor, "name": "Roof", "level": "Roof"}).json()[
        "floor"
    ]


def test_loads_come_down_through_the_floors_and_what_stands_on_one_becomes_its_load(server, quay):
    """A roof of 6.4 m x 6.4 m over a floor that has three columns and a wide one elsewhere: the fourth of the roof stands on the floor's slab."""
    client, project, floor = quay
    roof = roofed(client, project, floor)
    draft = client.post(f"/api/projects/{project}/floors", json={"copy_of": floor, "name": "Draft", "level": "Level 1"}).json()[
        "floor"
    ]
    assert state(client, roof)["level"] == "Roof"
    put(client, floor, lambda d: d["columns"][3].update(at=[5.0, 5.0]), "moved C11")
    for number in (floor, roof, draft):
        server.settled(number)

    def carried():
        return client.get(f"/api/projects/{project}/carried-down").json()

    found = carried()
    assert [f["name"] for f in found["floors"] if f["counts"]] == ["Roof", "Typical"]
    assert found["awaited"] == []
    told = {f["name"]: f["told"] for f in found["floors"] if not f["counts"]}
    assert told == {"Level 1": "it has no slab yet", "Draft": "Typical counts for Level 1"}
    # Without the first the next one of its level counts, whose columns stand under all of the roof's.
    other = client.get(f"/api/projects/{project}/carried-down", params={"without": [floor]}).json()
    assert [f["name"] for f in other["floors"] if f["counts"]] == ["Roof", "Draft"]
    assert other["planted"] == []
    assert [(p["floor_name"], p["id"], p["on"], p["there"]) for p in found["planted"]] == [("Roof", "C11", floor, False)]
    sums = {s["case"]: s for s in found["sums"]}
    assert sums["Q"]["loads_kN"] == pytest.approx(2 * 6.4**2 * 4.0)
    assert sums["Q"]["open_kN"] == pytest.approx(6.4**2, rel=0.05)
    assert all(abs(s["residual"]) < 1e-6 for s in found["sums"])
    foot = next(f for f in found["feet"] if (f["floor_name"], f["id"]) == ("Typical", "C00"))
    assert foot["storeys"] == {"Q": 2}
    assert "EN 1991-1-1, 6.3.1.2" in " ".join(foot["reductions"]["Q"]["told"])
    # It is put on the floor, which then runs anew; nothing is open after that, and undo takes it away again.
    assert client.post(f"/api/floors/{floor}/planted", json={}).status_code == 200
    loads = {load["id"]: load for load in state(client, floor)["document"]["loads"]}
    assert loads["C11 of Roof above, Q"]["F_kN"] == pytest.approx(found["planted"][0]["forces_kN"]["Q"], abs=1e-5)
    server.settled(floor)
    again = carried()
    assert [p["there"] for p in again["planted"]] == [True]
    assert all(abs(s["open_kN"]) < 1e-4 and abs(s["residual"]) < 1e-6 for s in again["sums"])
    assert {s["case"]: s["loads_kN"] for s in again["sums"]} == pytest.approx(
        {s["case"]: s["loads_kN"] for s in found["sums"]}, rel=1e-6
    )
    # Taken over once more they replace those that are there.
    assert client.post(f"/api/floors/{floor}/planted", json={}).status_code == 200
    assert len(state(client, floor)["document"]["loads"]) == len(loads)
    # A wall of the roof presses the slab below along its line, as it varies.
    wall = {
        "id": "W",
        "line": [[2, 3], [4, 3]],
        "thickness_m": 0.2,
        "concrete": "C30",
        "below": {"height_m": 3.2, "far_end": "fixed"},
    }
    put(client, roof, lambda d: d.update(walls=[wall]), "a wall")
    server.settled(roof)
    told = carried()
    foot = next(f for f in told["feet"] if f["id"] == "W")
    ends = foot["along_kN_m"]["Q"]
    assert sum(ends) == pytest.approx(foot["total_kN"]["Q"])
    factors = next(c for c in state(client, roof)["document"]["combinations"] if c["limit_state"] == "ultimate")
    assert told["combinations"][factors["id"]] == "ultimate"
    by_hand = sum(
        f * foot["total_kN"][c] * (foot["reductions"][c]["factor"] if c in foot["reductions"] else 1)
        for c, f in factors["factors"].items()
    )
    assert foot["combined_kN"][factors["id"]] == pytest.approx(by_hand)
    assert client.post(f"/api/floors/{floor}/planted", json={}).status_code == 200
    line = next(load for load in state(client, floor)["document"]["loads"] if load["id"] == "W of Roof above, Q")
    assert (line["kind"], line["line"]) == ("line", [[2, 3], [4, 3]])
    assert line["q_kN_m"] == pytest.approx(ends, abs=1e-5)
    server.settled(floor)
    assert all(p["there"] for p in carried()["planted"])
    assert all(abs(s["open_kN"]) < 1e-4 and abs(s["residual"]) < 1e-6 for s in carried()["sums"])


def test_forces_of_a_frame_reach_all_floors_out_of_one_table(server, quay):
    """Rows go to floors by level or name; cases become what is chosen for them, and forces that were there make way."""
    client, project, floor = quay
    roof = roofed(client, project, floor)
    rows = [
        "Level,Case,Column,F kN,Mx kNm,My kip-ft", "Level 1,Wx,C00,12.5,,10", "roof,Wx,C11,-4,7.5,", "Roof,EQ y,C00,,3,", "Roof,Wx,C9,1,,",
        "Cellar,Wx,C00,1,,", "Roof,Wx,C00,much,,",
    ]  # fmt: skip
    content = "\n".join(rows).encode()

    def read(content=content):
        answer = client.post(f"/api/projects/{project}/lateral/read?name=frame.csv", content=content)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def joints(number):
        return {load["id"]: load for load in state(client, number)["document"]["loads"] if load["kind"] == "joint"}

    found = read()
    assert [(p["cell"], p["sentence"][:6]) for p in found["problems"]] == [("C5", "“C9” i"), ("A6", "“Cella"), ("D7", "“much”")]
    assert [(c["name"], c["takes"], c["nature"], c["direction"], c["known"]) for c in found["cases"]] == [
        ("Wx", "Wx", "wind", "x", 0), ("EQ y", "EQ y", "seismic", "y", 0)]  # fmt: skip
    assert {(f["id"], f["rows"]) for f in found["floors"]} == {(floor, 1), (roof, 2)}
    chosen = [{k: c[k] for k in ("name", "takes", "nature", "direction", "reversible")} for c in found["cases"]]
    left = {"name": "frame.csv", "forces": found["forces"], "cases": [{**c, "takes": ""} for c in chosen]}
    assert client.post(f"/api/projects/{project}/lateral", json=left).status_code == 422
    foreign = {**left, "cases": chosen, "forces": [{**found["forces"][0], "floor": 99999}]}
    assert client.post(f"/api/projects/{project}/lateral", json=foreign).status_code == 422
    # A support that is gone meanwhile: refused for all floors, and none is changed.
    gone = {**left, "cases": chosen, "forces": [*found["forces"][:1], {**found["forces"][1], "support": "gone"}]}
    assert client.post(f"/api/projects/{project}/lateral", json=gone).status_code == 422
    assert (joints(floor), joints(roof)) == ({}, {})
    answer = client.post(f"/api/projects/{project}/lateral", json={**left, "cases": chosen})
    assert answer.status_code == 200, answer.text
    assert {(t["floor"], t["forces"]) for t in answer.json()} == {(floor, 1), (roof, 2)}
    assert joints(roof) == {
        "Wx C11": {"id": "Wx C11", "case": "Wx", "kind": "joint", "support": "C11", "F_kN": -4.0, "Mx_kNm": 7.5},
        "EQ y C00": {"id": "EQ y C00", "case": "EQ y", "kind": "joint", "support": "C00", "Mx_kNm": 3.0},
    }  # fmt: skip
    assert joints(floor)["Wx C00"]["My_kNm"] == pytest.approx(13.558179, rel=1e-6)
    cases = {c["id"]: c for c in state(client, roof)["document"]["load_cases"]}
    assert (cases["EQ y"]["nature"], cases["EQ y"]["direction"], cases["Wx"]["reversible"]) == ("seismic", "y", True)
    # Once more, with the earthquake as wind: what the case has there makes way, the other case's forces stay.
    again = read(b"Level,Case,Column,F kN\nRoof,EQ y,C00,9\nRoof,wX,C00,2")
    assert [(c["name"], c["takes"], c["known"], c["there"]) for c in again["cases"]] == [
        ("EQ y", "EQ y", 1, 1),
        ("wX", "Wx", 1, 1),
    ]
    assert again["labels"] == ["Wx", "EQ y"]
    body = {"name": "frame.csv", "forces": again["forces"][:1], "cases": [{**chosen[1], "takes": "Wx"}]}
    assert client.post(f"/api/projects/{project}/lateral", json=body).status_code == 200
    assert {k: v.get("F_kN") for k, v in joints(roof).items()} == {"EQ y C00": None, "Wx C00": 9.0}
    assert client.post(f"/api/floors/{roof}/undo", json={"based_on": state(client, roof)["revision"]}).status_code == 200
    assert set(joints(roof)) == {"Wx C11", "EQ y C00"}


def test_a_building_at_a_glance_and_runs_of_several_floors(server, quay):
    client, project, floor = quay
    path = f"/api/projects/{project}"
    empty, typical = client.get(f"{path}/overview").json()["floors"]
    results = client.get(f"/api/runs/{typical['run']['id']}/results").json()
    assert (typical["known"], typical["revision"]) == (1, 1)
    assert [(r["check"], r["utilisation"], r["at"]) for r in typical["verdict"]] == [
        (r["check"], r["utilisation"], r["at"]) for r in results["verdict"]
    ]
    # Told to the litre: 6.4 m x 6.4 m x 0.25 m of concrete, 300 kg of carbon a cubic metre of it and one a kilogram of steel.
    assert typical["takeoff"]["concrete_m3"] == pytest.approx(6.4**2 * 0.25, abs=5e-4)
    assert typical["takeoff"]["bars_kg"] == pytest.approx(results["steel"]["mass_kg"])
    assert typical["takeoff"]["carbon_kg"] == pytest.approx(300 * 6.4**2 * 0.25 + results["steel"]["mass_kg"], abs=0.2)
    assert typical["area_m2"] == pytest.approx(6.4**2)
    assert typical["picture"]["slabs"] == [[[-0.2, -0.2], [6.2, -0.2], [6.2, 6.2], [-0.2, 6.2]]]
    assert len(typical["picture"]["columns"]) == 4
    assert (empty["known"], empty["verdict"], empty["takeoff"], empty["picture"]["slabs"]) == (None, [], None, [])
    # What has its results is not run again; what was cancelled is.
    ran = client.post(f"{path}/runs", json={}).json()
    assert ran == {"begun": [], "known": ["Typical"], "empty": [empty["name"]]}
    put(client, floor, thicker(0.31))
    assert client.post(f"{path}/runs/cancel", json={"floors": [floor]}).status_code == 204
    assert state(client, floor)["run"]["state"] == "cancelled"
    assert client.post(f"{path}/runs", json={"floors": [floor]}).json()["begun"] == ["Typical"]
    server.settled(floor)
    thick = client.get(f"{path}/overview").json()["floors"][1]
    assert (thick["known"], thick["thicknesses_m"]) == (2, [0.31])
    assert thick["takeoff"]["concrete_m3"] == pytest.approx(6.4**2 * 0.31, abs=5e-4)
    # Lives of all floors at once: of those that have one, and it is not computed.
    assert (thick["life"], client.post(f"{path}/runs", json={"lives": True}).json()["empty"]) == (
        "none",
        [empty["name"], "Typical"],
    )
    history = {"stages": [{"id": "in use", "start_days": 28.0, "combination": "S1"}], "end_days": 100.0}
    put(client, floor, lambda d: d.update(history=history), "a life")
    assert client.post(f"{path}/runs", json={"lives": True}).json()["begun"] == ["Typical"]
    server.settled(floor)
    lived = client.get(f"{path}/overview").json()["floors"][1]
    assert lived["life"] == "computed"
    assert client.get(f"/api/runs/{lived['run']['id']}/results").json()["history"]["stages"][0]["id"] == "in use"
    assert client.post(f"{path}/runs", json={"lives": True}).json()["known"] == ["Typical"]
    # Floors of other projects are none of it.
    other = client.get("/api/projects").json()[0]
    stranger = next(f["id"] for f in other["floors"] if other["id"] != project)
    assert client.post(f"{path}/runs", json={"floors": [stranger]}).status_code == 404
    client.put(f"/api/floors/{floor}/away", json={"away": True})
    assert [f["id"] for f in client.get(f"{path}/overview").json()["floors"]] == [empty["id"]]
