"""The demo's floor loaded from nothing with mouse and keyboard; tables out and in; units; arrangements read."""

import io
import json
import re

import pytest
from openpyxl import load_workbook
from playwright.sync_api import expect
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.model import floor_from
from piastra.demo.saltmarsh import LOADING, level_1, project
from piastra.exchange.floor_file import document

BARE = ("load_cases", "loads", "combinations", "slices", "load_materials", "build_ups", "partitions", "occupancies")


def a_project(server, name, units="SI"):
    """An empty project like the demo's, without anything to load with; its number."""
    client = server.client()
    made = client.post("/api/projects", json={"name": name, "units": units}).json()
    head = client.get(f"/api/projects/{made['project']}").json()
    mine = {
        **head["document"],
        **{key: [] for key in LOADING},
        "concretes": document(level_1())["concretes"],
        "rebars": document(level_1())["rebars"],
    }
    body = {"based_on": head["revision"], "document": mine, "line": "emptied"}
    assert client.put(f"/api/projects/{made['project']}", json=body).status_code == 200
    return made["project"]


def add_floor(server, project_id, content):
    answer = server.client().post(f"/api/projects/{project_id}/floors", json={"document": content})
    assert answer.status_code == 201, answer.text
    return answer.json()["floor"]


def put(desk, label, path, text):
    """Type a value into a cell of the ledger."""
    desk.cell(label, path).click()
    desk.page.keyboard.type(text)
    desk.press("Enter")


@pytest.mark.study
def test_the_demo_loaded_from_nothing(desk, server, tmp_path):
    page = desk.page
    shipped = document(level_1())
    # Loads ask neither how fine the mesh is nor what holds the floor up: its columns and walls come at the end, so that nothing is computed
    # after each of the many edits.
    holding = {k: shipped[k] for k in ("columns", "walls")}
    bare = {**shipped, **{k: [] for k in (*BARE, *holding)}, "history": None, "mesh": {"size_m": 1.0}}
    desk.open(add_floor(server, a_project(server, "Loading from nothing"), bare))
    desk.step("Load")

    # What loads are made of belongs to the project.
    def new_of_project(tab, button, rows):
        page.get_by_role("tab", name=tab).click()
        for cells in rows:
            page.get_by_role("button", name=button, exact=True).click()
            made = page.locator(".sheet tr[aria-selected=true]")
            expect(made).to_have_count(1)
            label = made.get_attribute("data-line")
            for path, text in cells.items():
                if path != "id":
                    put(desk, label, path, text)
                    expect(page.get_by_role("status")).to_contain_text(text)
            put(desk, label, "id", cells["id"])
            expect(desk.cell(cells["id"], "id")).to_be_visible()
            desk.press("Escape")
            page.locator(".surface").click(position={"x": 20, "y": 470})

    materials = [{"id": m["id"], "unit_weight_kN_m3": f"{m['unit_weight_kN_m3']:g}"} for m in LOADING["load_materials"]]
    new_of_project("Materials", "Material of layers", materials[:4])
    builds = [
        {"id": "laboratory floor", "layers": "screed 50; resin 5", "extra_kPa": "0.04"},
        {"id": "plastered block", "layers": "block 150mm; plaster 2cm", "extra_kPa": "0"},
    ]
    new_of_project("Build-ups", "Build-up", builds)
    new_of_project("Partitions", "Partition", [{"id": "block wall", "build_up": "plastered block"}])
    new_of_project("Occupancies", "Occupancy", [{"id": "wet laboratory", "category": "B", "q_kPa": "3"}])

    page.get_by_role("tab", name="Cases").click()
    cases = [("G", "self weight", None, "no"), ("D", "dead", None, "no"), ("Q", "live", "B", None), ("T", "storage", "E", "no")]
    for k, (label, nature, category, pattern) in enumerate(cases):
        page.locator(".surface").click(position={"x": 20, "y": 470})
        page.get_by_role("button", name="Add a case").click()
        desk.said(f"Load case Case {k + 1} added" if k == 0 else "added")
        made = page.locator(".sheet tr[aria-selected=true]").get_attribute("data-line")
        for path, text in (("nature", nature), ("category", category), ("pattern", pattern), ("id", label)):
            if text and not (path == "nature" and text == "live"):
                put(desk, made, path, text)
        expect(desk.cell(label, "id")).to_be_visible()

    # Loads on all slabs: build-up, occupancy, and a number.
    everywhere = [
        ("finishes", "D", "laboratory floor", None),
        ("services", "D", None, "0.3"),
        ("laboratories", "Q", "wet laboratory", None),
    ]
    page.get_by_role("tab", name="Loads").click()
    for label, case, source, value in everywhere:
        page.locator(".surface").click(position={"x": 20, "y": 470})
        page.get_by_label("Load on all slabs").select_option("own")
        desk.said("put everywhere")
        made = page.locator(".sheet tr[aria-selected=true]").get_attribute("data-line")
        for path, text in (("case", case if case != "D" else None), ("worth", source), ("q_kPa", value), ("id", label)):
            if text:
                put(desk, made, path, text)
        expect(desk.cell(label, "id")).to_be_visible()

    # The tank as a rectangle, partitions and the facade as lines, the winch as a point: typed distances.
    def drawn(key, points, label, **cells):
        desk.press("Escape", "Escape", "Escape")
        page.locator(".surface").click(position={"x": 20, "y": 470})
        desk.press(key)
        if key == "1":
            page.get_by_role("button", name="Rectangle").click()
        for x, y in points:
            desk.typed(x, y)
        desk.said("drawn")
        desk.press("Escape", "Escape")
        made = page.locator(".sheet tr[aria-selected=true]").get_attribute("data-line")
        for path, text in {**cells, "id": label}.items():
            put(desk, made, path, text)
        expect(desk.cell(label, "id")).to_be_visible()

    desk.fit()
    drawn("1", [("23.2", "2.2"), ("3.8", "3.2")], "seawater tank", case="T", q_kPa="18")
    drawn("3", [("33", "4.2")], "winch", F_kN="25", My_kNm="6", **{"patch.b_m": "300"})
    for load in shipped["loads"]:
        if load["kind"] == "line":
            (ax, ay), (bx, by) = load["line"]
            cells = {"worth": "block wall"} if "partition" in load else {"q_kN_m.0": "6", "q_kN_m.1": "6"}
            drawn("2", [(f"{ax:g}", f"{ay:g}"), (f"{round(bx - ax, 3):g}", f"{round(by - ay, 3):g}")], load["id"], **cells)

    desk.step("Combine")
    page.get_by_role("button", name="Generate").click()
    desk.said("Combinations generated by EN 1992-1-1: 22 rows, 22 new, 0 gone")
    state = server.client().get(f"/api/floors/{desk.floor}").json()
    body = {"based_on": state["revision"], "document": {**state["document"], **holding}, "line": "held up"}
    assert server.client("Ada").put(f"/api/floors/{desk.floor}", json=body).status_code == 200
    expect(page.get_by_test_id("state")).to_contain_text(f"rev {state['revision'] + 1}")

    desk.step("Analyse")
    desk.press("4")
    desk.typed("-0.2", "3.9")
    desk.typed("36.4", "0")
    desk.said("drawn")
    page.get_by_role("tab", name="Slices").click()
    desk.settled("works|not")
    made = floor_from(desk.document())
    expected = level_1()
    assert made.load_cases == expected.load_cases
    # Those that the stages of its history carry are not the standard's.
    stages = {s.combination for s in expected.history.stages}
    assert made.combinations == [c for c in expected.combinations if c.rule or c.id not in stages]
    assert {l.id: l for l in made.loads} == {l.id: l for l in expected.loads}
    assert [s.line for s in made.slices] == [s.line for s in expected.slices]

    # The slice's peak under one combination, with its arrangement, is what the command line finds.
    path, out = tmp_path / "floor.json", tmp_path / "results.json"
    path.write_text(json.dumps(desk.document()))
    assert CliRunner().invoke(app, ["solve", str(path), "--out", str(out)]).exit_code == 0
    solved = json.loads(out.read_text())
    page.get_by_label("Case or combination").select_option("U3")
    page.locator(".ledger tbody tr").first.click()
    for sense in ("greatest", "least"):
        page.locator(".row-link", has_text=f"{sense} at").click()
        found = next(s for s in solved["slices"] if s["combination"] == "U3")[sense]
        expect(page.get_by_test_id(f"peak-{sense}")).to_have_text(f"{found['value']:.1f}".replace("-", "−"))
        panels = [p["panel"] for p in found["panels"]]
        expect(page.get_by_test_id("peak-panels")).to_have_text(" ".join(panels))
        drawn_as_loaded = page.locator("[data-panel][data-loaded=true]").evaluate_all("all => all.map(e => e.dataset.panel)")
        assert set(drawn_as_loaded) == set(panels)
    use = {r["check"]: r["utilisation"] for r in solved["verdict"]}
    for check in ("flexure", "punching", "deflection"):
        expect(page.get_by_test_id(f"meter-{check}").locator(".figure")).to_have_text(f"{use[check]:.2f}")


@pytest.fixture
def station(desk, server):
    """A floor of two bays of its own on the desk, with generated combinations."""
    from tests.floors import flat_slab

    content = {**flat_slab(2, 1, size=1.0), "name": "Two bays"}
    content["load_cases"].append({"id": "D", "nature": "dead"})
    content["combinations"] = [{"id": "mine", "limit_state": "quasi_permanent", "factors": {"G": 1.0, "Q": 0.3, "D": 1.0}}]
    project_id = server.client().post("/api/projects", json={"name": f"Station {id(desk)}"}).json()["project"]
    desk.open(add_floor(server, project_id, content))
    return desk


@pytest.mark.study
def test_combinations_go_out_to_a_workbook_and_come_back_edited_or_refused(station):
    desk, page = station, station.page
    desk.step("Combine")
    page.get_by_role("button", name="Generate").click()
    desk.said("Combinations generated")
    with page.expect_download() as waiting:
        page.get_by_role("button", name="XLSX").click()
    book = load_workbook(io.BytesIO(waiting.value.path().read_bytes()))
    sheet = book.active
    headings = [c.value for c in sheet[1]]
    rows = {r[0].value: r for r in sheet.iter_rows(min_row=2)}
    rows["U2"][headings.index("Q")].value = 1.75
    rows["mine"][headings.index("Limit state")].value = "frequent"

    def upload(name):
        content = io.BytesIO()
        book.save(content)
        mime = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        page.get_by_label("Table of combinations").set_input_files({"name": name, "mimeType": mime, "buffer": content.getvalue()})

    upload("edited.xlsx")
    desk.said("combinations read from edited.xlsx")
    found = {c["id"]: c for c in desk.document()["combinations"]}
    assert found["U2"]["factors"]["Q"] == 1.75
    assert found["U2"]["edited"] is True
    assert found["mine"]["limit_state"] == "frequent"
    assert "edited" not in found["U1"]
    # Generated anew, the edited row and the own one stay.
    page.get_by_role("button", name="Generate").click()
    page.get_by_text("Nothing new").wait_for()

    # A factor typed in the matrix marks its row, and undo takes it back.
    put(desk, "U1", "factor:D", "1.4")
    expect(page.locator("tr[data-line=U1].edited")).to_be_visible()
    desk.press("Escape", "Control+z")
    expect(page.locator("tr[data-line=U1].edited")).to_have_count(0)

    sheet.cell(1, headings.index("D") + 1).value = "Wind"
    rows["U3"][headings.index("Q")].value = "lots"
    rows["U4"][0].value = "U2"
    before = desk.document()["combinations"]
    upload("broken.xlsx")
    wrong = page.locator(".refused-cells li")
    expect(wrong).to_have_count(3)
    texts = " ".join(wrong.all_inner_texts())
    assert "Wind" in texts
    assert "lots" in texts
    assert "repeats the label U2" in texts
    assert desk.document()["combinations"] == before

    # Kept as a set, the rows can be taken by a floor of another project.
    page.get_by_label("Name of a set").fill("two bays")
    page.get_by_role("button", name="Keep these rows").click()
    expect(page.get_by_role("button", name=re.compile("two bays"))).to_be_visible()
    page.get_by_role("tab", name="Values").click()
    page.get_by_label("Filter values of the standard").fill("γ_Q")
    put(desk, "gamma_Q", "own", "1.6")
    expect(desk.cell("gamma_Q", "own")).to_have_text("1.60")
    page.get_by_role("tab", name="Combinations").click()
    page.get_by_role("button", name="Generate").click()
    desk.said("Combinations generated")
    assert any(c["factors"].get("Q") == 1.6 for c in desk.document()["combinations"])


def test_a_load_on_a_selection_asks_whether_to_replace_or_to_add(station):
    desk, page = station, station.page
    desk.step("Load")
    desk.fit()
    page.get_by_label("Active case").select_option("D")
    desk.point(3.0, 3.3)
    panel = page.get_by_role("region", name="Put a load on what is selected")
    panel.get_by_label("Value", exact=True).fill("1.5")
    panel.get_by_role("button", name="Put the load").click()
    desk.said("Load of D, 1.5 kPa, put on Slab S1")
    panel.get_by_label("Value", exact=True).fill("2")
    expect(panel.locator(".there")).to_contain_text("1.50 kPa")
    panel.get_by_role("button", name="Put the load").click()
    expect(panel.get_by_role("alert")).to_have_text("Choose first: replace what is there, or add to it.")
    panel.get_by_label("Add to it").check()
    panel.get_by_role("button", name="Put the load").click()
    desk.said("Load of D, 2 kPa, added on Slab S1")
    assert sorted(l["q_kPa"] for l in desk.document()["loads"] if l["case"] == "D") == [1.5, 2.0]
    panel.get_by_label("Value", exact=True).fill("3")
    panel.get_by_label("Replace these 2").check()
    panel.get_by_role("button", name="Put the load").click()
    desk.said("replaces")
    assert [l["q_kPa"] for l in desk.document()["loads"] if l["case"] == "D"] == [3.0]
    # A line load along the edges of the slab.
    panel.get_by_label("Load", exact=True).select_option("line")
    panel.get_by_label("Value", exact=True).fill("5")
    panel.get_by_role("button", name="Put the load").click()
    desk.said("Load of D, 5 kN/m, put on Slab S1")
    assert sum(l["kind"] == "line" for l in desk.document()["loads"]) == 4
    table = "Case,Support,F kN,Mx kNm\nD,C00,12,3\nD,C99,x,1\n"
    page.locator(".surface").click(position={"x": 20, "y": 470})
    joints = page.get_by_label("Table of forces at columns and walls")
    joints.set_input_files({"name": "frame.csv", "mimeType": "text/csv", "buffer": table.encode()})
    expect(page.locator(".refused-cells li")).to_have_count(2)
    joints.set_input_files({"name": "frame.csv", "mimeType": "text/csv", "buffer": "\n".join(table.split("\n")[:2]).encode()})
    desk.said("1 loads at joints read from frame.csv")


@pytest.mark.study
def test_a_value_names_its_arrangement_and_tables_are_taken_away(station):
    desk, page = station, station.page
    desk.step("Combine")
    page.get_by_role("button", name="Generate").click()
    desk.said("Combinations generated")
    desk.step("Analyse")
    desk.settled("✓|✕")
    desk.fit()
    page.get_by_label("Field", exact=True).select_option("my")
    desk.point(3.0, 3.3)
    greatest = page.get_by_test_id("reading-greatest")
    expect(greatest).to_be_visible()
    of = page.get_by_label("Case or combination").input_value()
    run = desk.server.client().get(f"/api/floors/{desk.floor}").json()["fresh"]["id"]
    at = [float(v) for v in re.findall(r"-?\d+\.\d+", page.locator(".inspector p.mono").first.inner_text().replace("−", "-"))]
    query = {"of": of, "quantity": "my", "x": at[0], "y": at[1]}
    found = desk.server.client().get(f"/api/runs/{run}/value", params=query).json()
    expect(greatest).to_have_text(f"{found['greatest']['value']:.1f}")
    loaded = page.locator("[data-panel][data-loaded=true]").evaluate_all("all => all.map(e => e.dataset.panel)")
    assert [{"case": "Q", "panel": p} for p in sorted(loaded)] == sorted(found["greatest"]["panels"], key=lambda p: p["panel"])
    worst = max(u["value"] for u in found["under"])
    assert worst <= found["greatest"]["value"] + 1e-6
    page.get_by_role("button", name="Pin a probe here").click()
    desk.said("pinned")
    desk.settled("✓|✕")
    expect(page.locator("table.history tbody tr").first).to_be_visible()
    page.get_by_role("tab", name="Reactions").click()
    page.get_by_label("Of the arrangements").select_option("all")
    lines = page.locator(".ledger tbody tr")
    expect(lines.first).to_contain_text("Load on the floor")
    figures = [float(lines.nth(k).locator("td").nth(1).inner_text()) for k in range(2)]
    assert figures[0] == pytest.approx(figures[1], abs=0.11)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="CSV").click()
    rows = waiting.value.path().read_text("utf-8-sig").splitlines()
    assert rows[0] == "Support,F kN,Mx kNm,My kNm"
    assert len(rows) == 3 + 6
    page.get_by_role("tab", name="Runs").click()
    page.locator(".ledger tbody tr", has_text="made the floor").click()
    expect(page.get_by_role("heading", name=re.compile("^Run"))).to_be_visible()


SI_UNITS = re.compile(r"\b(kN|kNm|kPa|MPa|MN|mm|m²|kN/m)\b")


def test_a_floor_in_us_units_shows_no_others(desk, server):
    page = desk.page
    lodge = next(
        f["id"] for p in server.client().get("/api/projects").json() if p["name"] == "Saltmarsh Lodge" for f in p["floors"]
    )
    desk.open(lodge)
    desk.settled("does not work")
    for step in ("Set out", "Build", "Load", "Combine", "Arrange", "Analyse", "Strips", "Steel", "Punching", "Deflection"):
        desk.step(step)
        tabs = page.locator(".ledger [role=tab]")
        for k in range(max(1, tabs.count())):
            if tabs.count():
                tabs.nth(k).click()
            page.wait_for_timeout(150)
            # The project's own choice of units names both systems.
            text = page.locator(".frame").inner_text().replace("SI: m, mm, kN", "")
            assert not SI_UNITS.search(text), (step, k, SI_UNITS.search(text), text)
    desk.step("Analyse")
    desk.fit()
    for quantity in ("w", "mx", "vx", "nx"):
        page.get_by_label("Field", exact=True).select_option(quantity)
        desk.point(3.0, 4.5)
        expect(page.locator(".inspector").get_by_test_id("reading-all")).to_be_visible()
        assert not SI_UNITS.search(page.locator(".frame").inner_text())
    desk.point(0.0, 0.0)
    expect(page.get_by_role("heading", name="Column A1")).to_be_visible()
    assert not SI_UNITS.search(page.locator(".frame").inner_text())
    # A zone that fails, with its remedies, sketch and trace.
    desk.step("Punching")
    page.get_by_role("tab", name="Zones").click()
    page.locator(".ledger tbody tr").first.click()
    expect(page.get_by_test_id("trace")).to_be_visible()
    expect(page.locator(".cards li").first).to_be_visible()
    page.get_by_test_id("trace").locator(".formula.empirical").evaluate_all("all => all.forEach(e => e.remove())")
    assert not SI_UNITS.search(page.locator(".inspector").inner_text())
    desk.step("Deflection")
    page.get_by_role("tab", name="Deflections").click()
    page.locator(".ledger tbody tr").first.click()
    expect(page.get_by_test_id("trace")).to_be_visible()
    # A formula that holds in MPa alone is told so, and its result in the project's units beside it.
    trace = page.get_by_test_id("trace")
    empirical = trace.locator(".formula.empirical").all_inner_texts()
    assert empirical
    assert all("ksi" in text or "psi" in text for text in empirical)
    trace.locator(".formula.empirical").evaluate_all("all => all.forEach(e => e.remove())")
    assert not SI_UNITS.search(trace.inner_text())
    assert project().units == "SI"
