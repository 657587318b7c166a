"""The sheet of projects: named, put in order, put away and brought back, taken in and out as files."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.floors import flat_slab, one_bay
from tests.ifc_models import of_floors


@pytest.fixture
def mill(server, request):
    """A project of its own, put away afterwards."""
    name = getattr(request, "param", "Zeal mill")
    with server.client() as client:
        project = client.post("/api/projects", json={"name": name, "standard": "EN 1992-1-1", "units": "SI"}).json()["project"]
        yield client, project
        for p in client.get("/api/projects").json():
            if p["name"].startswith(name):
                client.put(f"/api/projects/{p['id']}/away", json={"away": True})


def floors(client, project):
    return [f["name"] for p in client.get("/api/projects").json() if p["id"] == project for f in p["floors"]]


def test_projects_and_floors_are_kept_in_one_place(desk, mill, tmp_path):
    client, project = mill
    page = desk.page
    desk.open(1)
    page.get_by_role("button", name="Projects", exact=True).click()
    sheet = page.get_by_role("dialog", name="Projects")
    own = sheet.get_by_role("region", name="Zeal mill", exact=True)
    # A floor file comes in as a floor, with its verdict once it is known.
    path = tmp_path / "bay.json"
    path.write_text(json.dumps({**one_bay(), "name": "Bay"}))
    own.locator("input[type=file]").set_input_files(path)
    name = own.get_by_label("Name of Bay")
    expect(name).to_be_visible()
    (first, _) = floors(client, project)
    # Renamed by typing, in one revision that undo takes back.
    name.fill("Mill floor")
    name.press("Enter")
    expect(own.get_by_label("Name of Mill floor")).to_be_visible()
    assert floors(client, project) == [first, "Mill floor"]
    own.get_by_role("button", name="Mill floor up").click()
    expect(own.get_by_role("button", name="Mill floor up")).to_be_disabled()
    assert floors(client, project) == ["Mill floor", first]
    # A name that another floor has is refused with a sentence, and the field shows the old one.
    own.get_by_label(f"Name of {first}").fill("Mill floor")
    own.get_by_label(f"Name of {first}").press("Enter")
    expect(sheet.get_by_role("alert")).to_have_text(re.compile("taken"))
    expect(own.get_by_label(f"Name of {first}")).to_have_value(first)
    # Put away and brought back.
    own.get_by_role("button", name=f"Put away {first}").click()
    away = sheet.get_by_role("region", name="Put away")
    expect(away).to_contain_text(f"{first}, of Zeal mill")
    assert floors(client, project) == ["Mill floor"]
    away.locator("p", has_text="of Zeal mill").get_by_role("button", name="Bring back").click()
    expect(own.get_by_label(f"Name of {first}")).to_be_visible()
    assert floors(client, project) == ["Mill floor", first]
    # Twice the same, and a project file that comes in.
    own.get_by_role("button", name="Duplicate").click()
    expect(sheet.get_by_role("region", name="Zeal mill (2)", exact=True)).to_be_visible()
    whole = tmp_path / "mill.json"
    whole.write_text(json.dumps(client.get(f"/api/projects/{project}/file").json()))
    taking = sheet.get_by_text("Take a project file in").locator("input")
    taking.set_input_files(whole)
    expect(sheet.get_by_role("region", name="Zeal mill (3)", exact=True)).to_be_visible()
    whole.write_text("no JSON")
    taking.set_input_files(whole)
    expect(sheet.get_by_role("alert")).to_have_text(re.compile("not JSON"))
    sheet.get_by_role("region", name="Zeal mill (3)", exact=True).get_by_role("button", name="Put away", exact=True).click()
    expect(away).to_contain_text("Zeal mill (3)")
    own.locator("tr", has=page.get_by_label("Name of Mill floor")).get_by_role("button", name="Open").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_role("heading", name="Piastra: Mill floor")).to_be_attached()
    desk.page.keyboard.press("Control+z")
    desk.said("undid: floor is called Mill floor")


@pytest.mark.study
@pytest.mark.parametrize("mill", ["Zeal tower"], indirect=True)
def test_a_building_is_worked_by_keys_and_everything_done_to_its_floors_is_taken_back(desk, mill, server):
    client, project = mill
    page = desk.page
    first = next(p for p in client.get("/api/projects").json() if p["id"] == project)["floors"][0]
    # It has no mats: what is not checked stands before what passes.
    weak = {**one_bay(), "name": "Weak bay"}
    made = client.post(f"/api/projects/{project}/floors", json={"document": weak, "level": "Level 1"}).json()["floor"]
    server.settled(made)
    desk.open(made)
    page.keyboard.press("Control+b")
    expect(page).to_have_url(re.compile("building=floors"))
    cards = page.locator(".floor-card")
    card = page.get_by_role("article", name="Weak bay")
    expect(card).to_contain_text("up to date")
    verdict = server.client().get(f"/api/projects/{project}/overview").json()["floors"][1]["verdict"]
    worst = next(r for r in verdict if r["status"] == "unchecked")
    expect(card.locator(".verdict li").first).to_contain_text("not checked")
    # Named, shifted, copied and put away by keys; each is taken back in its turn, and done again.
    card.focus()
    page.keyboard.press("F2")
    page.keyboard.type("Strong bay")
    page.keyboard.press("Enter")
    strong = page.get_by_role("article", name="Strong bay", exact=True)
    expect(strong).to_be_visible()
    strong.focus()
    page.keyboard.press("Alt+ArrowLeft")
    expect(cards.first).to_have_attribute("aria-label", "Strong bay")
    strong.focus()
    page.keyboard.press("Delete")
    expect(strong).to_be_hidden()
    assert floors(client, project) == [first["name"]]
    page.locator(".floor-card").first.focus()
    page.keyboard.press("Control+z")
    expect(strong).to_be_visible()
    assert floors(client, project) == ["Strong bay", first["name"]]
    strong.focus()
    page.keyboard.press("Control+z")
    expect(cards.last).to_have_attribute("aria-label", "Strong bay")
    strong.focus()
    page.keyboard.press("Control+z")
    expect(card).to_be_visible()
    card.focus()
    page.keyboard.press("Control+Shift+z")
    expect(strong).to_be_visible()
    strong.get_by_label("More of Strong bay").click()
    strong.get_by_role("button", name="Twin that follows it").click()
    twin = page.get_by_role("article", name="Strong bay, twin")
    expect(twin).to_contain_text("twin of Strong bay")
    # All verdicts in one table; a row opens its floor at the place.
    page.get_by_role("tab", name="Verdicts").click()
    page.get_by_label("Check").select_option(worst["check"])
    rows = page.locator("[aria-label='Verdicts of the building table'] tbody tr[role=row]")
    expect(rows.first).to_contain_text("Strong bay")
    rows.first.click()
    expect(page).to_have_url(re.compile(f"floor={made}$"))
    expect(page.get_by_role("navigation", name="Route")).to_be_visible()
    # What others change shows by itself.
    page.keyboard.press("Control+b")
    document = client.get(f"/api/floors/{made}").json()
    body = {
        "based_on": document["revision"],
        "line": "thicker",
        "document": {**document["document"], "slabs": [{**document["document"]["slabs"][0], "thickness_m": 0.333}]},
    }
    assert client.put(f"/api/floors/{made}", json=body).status_code == 200
    expect(strong).to_contain_text("333 mm")
    expect(twin).to_contain_text("333 mm")


@pytest.mark.parametrize("mill", ["Zeal yard"], indirect=True)
@pytest.mark.study
def test_a_study_is_made_looked_at_and_one_of_its_variants_becomes_the_floor(desk, mill, server):
    client, project = mill
    page = desk.page
    document = {**flat_slab(1, 1, size=1.5), "name": "Yard bay"}
    made = client.post(f"/api/projects/{project}/floors", json={"document": document}).json()["floor"]
    server.settled(made)
    desk.open(made)
    page.keyboard.press("Control+b")
    page.get_by_role("tab", name="Studies").click()
    page.get_by_label("Name", exact=True).fill("Thin or thick")
    page.get_by_label("Values of Thickness, all slabs").fill("200 to 300 by 50")
    page.get_by_role("button", name="Add a field").click()
    second = page.locator(".study-field").nth(1)
    second.get_by_label("Of what").select_option("loads")
    second.get_by_label("Which", exact=True).select_option("q")
    second.get_by_label("Which number").select_option("q_kPa")
    second.locator(".values").fill("2, x")
    expect(second).to_contain_text("“x” is not a number")
    second.locator(".values").fill("2, 6")
    page.get_by_role("button", name="Compute 6 variants").click()
    study = page.get_by_role("region", name="Thin or thick")
    expect(study.get_by_role("status")).to_contain_text("6 variants", timeout=120_000)
    rows = study.locator("tbody tr[role=row]")
    kept = client.get(f"/api/projects/{project}/studies").json()[0]["id"]
    found = client.get(f"/api/projects/{project}/studies/{kept}").json()["variants"]
    for k, v in enumerate(found):
        expect(rows.nth(k)).to_contain_text(f"{v['found']['utilisation']['flexure']:.2f}")
    # A mark of each variant in the chart, and a line of each through the axes; one that is clicked is picked in the table.
    expect(study.get_by_label("Carbon kg against Worst use").locator("svg")).to_be_visible()
    expect(study.get_by_label("Variants through all axes").locator("svg")).to_be_visible()
    rows.nth(4).click()
    expect(study.locator(".chosen-variant")).to_contain_text("Thickness, all slabs 300 mm")
    study.get_by_role("button", name="Make it Yard bay").click()
    desk.said("variant 5 of Thin or thick: Thickness, all slabs 300 mm; ")
    expect(page.get_by_role("navigation", name="Route")).to_be_visible()
    now = desk.document()
    assert (now["slabs"][0]["thickness_m"], now["loads"][0]["q_kPa"]) == (0.3, 2.0)
    page.keyboard.press("Control+z")
    desk.said("undid: variant 5 of Thin or thick")
    assert desk.document()["slabs"][0]["thickness_m"] == 0.25


@pytest.mark.parametrize("mill", ["Zeal frame"], indirect=True)
@pytest.mark.study
def test_forces_of_a_frame_are_taken_over_and_the_report_has_the_projects_own_title(desk, mill, tmp_path):
    client, project = mill
    head = client.get(f"/api/projects/{project}").json()
    levels = {**head["document"], "levels": [{"id": "Level 1", "height_m": 3.2}]}
    client.put(
        f"/api/projects/{project}", json={"based_on": head["revision"], "document": levels, "line": "levels"}
    ).raise_for_status()
    made = client.post(f"/api/projects/{project}/floors", json={"document": {**one_bay(), "name": "Bay"}}).json()["floor"]
    client.put(f"/api/floors/{made}/level", json={"level": "Level 1"}).raise_for_status()
    page = desk.page
    desk.open(made)
    desk.step("Load")
    page.get_by_role("button", name="For all floors at once").click()
    path = tmp_path / "frame.csv"
    path.write_text("Level,Case,Support,F kN,Mx kNm,My kNm\nLevel 1,Wx,C1,4,,12\nBay,EQ-y,W1,,9,\nLevel 1,Wx,C7,1,,\n")
    page.get_by_label("Table of forces at columns and walls of all floors").set_input_files(path)
    expect(page.get_by_text("“C7” is no column or wall of Bay")).to_be_visible()
    expect(page.get_by_label("Nature of EQ-y")).to_have_value("seismic")
    page.get_by_label("What EQ-y becomes").select_option("left out")
    page.get_by_label("Wx comes with either sign").uncheck()
    page.get_by_role("button", name="Take over 1 force to 1 floor").click()
    desk.said("1 force at columns and walls read from frame.csv")
    document = client.get(f"/api/floors/{made}").json()["document"]
    joints = [load for load in document["loads"] if load["kind"] == "joint"]
    assert joints == [{"id": "Wx C1", "kind": "joint", "case": "Wx", "support": "C1", "F_kN": 4.0, "My_kNm": 12.0}]
    case = next(c for c in document["load_cases"] if c["id"] == "Wx")
    assert (case["nature"], case["direction"], case.get("reversible", False)) == ("wind", "x", False)
    # The title block is the project's: a line typed here stands in the report.
    desk.settled("works|not|so far")
    page.get_by_role("button", name="Report", exact=True).click()
    page.get_by_label("New line").fill("Job")
    page.get_by_label("New line").press("Enter")
    page.get_by_label("Job", exact=True).fill("4711-B")
    page.get_by_label("Job", exact=True).press("Tab")
    expect(page.get_by_text("title block: Job", exact=True)).to_be_visible()
    run = client.get(f"/api/floors/{made}").json()["fresh"]["id"]
    assert "<dt>Job</dt><dd>4711-B</dd>" in client.get(f"/api/runs/{run}/report.html?chapter=verdict:summary").text


@pytest.mark.study
def test_a_building_model_becomes_a_project_and_a_newer_one_is_taken_over_in_pieces(desk, server, tmp_path):
    page = desk.page
    bay = {**flat_slab(1, 1, size=1.5), "name": "Zeal one"}
    label, (x, y) = bay["columns"][3]["id"], bay["columns"][3]["at"]
    first, second = tmp_path / "zeal.ifc", tmp_path / "zeal-2.ifc"
    storeys = [("Zeal low", 3.0, 3.0, bay)]
    first.write_bytes(of_floors(storeys))
    second.write_bytes(of_floors(storeys, moved={("Zeal low", label): (x - 0.4, y)}))
    desk.open(1)
    page.get_by_role("button", name="Projects", exact=True).click()
    sheet = page.get_by_role("dialog", name="Projects")
    sheet.get_by_text("From a building model").locator("input").set_input_files(first)
    read = sheet.locator(".model-read")
    expect(read).to_contain_text("zeal.ifc is a project of 1 floors now", timeout=60_000)
    expect(read).to_contain_text("Zeal low: 1 slab, 4 columns")
    expect(read).to_contain_text("is a layer without concrete, and left out")
    read.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("article", name="Zeal low")).to_be_visible()
    page.get_by_role("tab", name="Model").click()
    view = page.get_by_role("region", name="Building model")
    view.locator("input[type=file]").set_input_files(second)
    expect(view.get_by_role("heading", name="zeal-2.ifc: 1 pieces differ")).to_be_visible(timeout=60_000)
    expect(view.locator(".pieces tbody tr")).to_contain_text(f"x of column {label}: 6.000 m to 5.600 m")
    view.get_by_role("button", name="Take 1 over").click()
    desk.said("took 1 piece over from zeal-2.ifc")
    column = next(c for c in desk.document()["columns"] if c["id"] == label)
    assert column["at"] == [pytest.approx(5.6, abs=1e-4), y]
