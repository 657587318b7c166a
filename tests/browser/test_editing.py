"""Editing: units, tables, motions of the plan, outlines, drawings, the audit, twins, and two people at once."""

import copy
import re

import pytest
from playwright.sync_api import expect

from piastra.demo.architect import architects_drawing
from tests.browser.conftest import SCREEN, TO_SCREEN, WAIT, Desk
from tests.floors import flat_slab


@pytest.fixture
def made(server):
    """Makes projects with one floor; gives the floor's number."""
    count = [0]

    def make(document=None, units="SI", name="Mudflat"):
        with server.client() as client:
            count[0] += 1
            known = len(client.get("/api/projects").json())
            body = {"name": f"{name} {known}-{count[0]}", "units": units}
            project = client.post("/api/projects", json=body).json()
            if document is None:
                return project["floor"]
            body = {"document": {**document, "name": "Typical"}}
            return client.post(f"/api/projects/{project['project']}/floors", json=body).json()["floor"]

    return make


def building(desk: Desk, floor: int) -> None:
    desk.open(floor)
    desk.step("Build")
    desk.fit()


def a_slab_typed(desk, corners, thickness):
    """Draw a slab by typed offsets from its first corner, then set its thickness in the ledger."""
    desk.press("s")
    for first, second in corners:
        desk.typed(first, second)
    desk.page.get_by_role("button", name="Close Enter").click()
    desk.said("Slab S1 drawn")
    desk.press("Escape", "Escape")
    desk.page.get_by_role("tab", name="Slabs").click()
    desk.cell("S1", "thickness_m").click()
    desk.page.keyboard.type(thickness)
    desk.press("Enter")
    desk.said("S1: thickness")


@pytest.mark.study
def test_the_same_floor_typed_in_si_and_us_units_is_the_same_and_switching_changes_nothing(desk, made):
    documents = []
    typed = {
        "SI": ([("0.3048", "0"), ("7.315200", "0"), ("0", "5486.4mm"), ("-731.52 cm", "0")], "254"),
        "US": ([("1'", "0"), ("24", "0"), ("0", "18'-0\""), ("-23'-12\"", "0")], "10"),
    }
    for units, (corners, thickness) in typed.items():
        floor = made(units=units)
        building(desk, floor)
        a_slab_typed(desk, corners, thickness)
        # The level is the project's, which begins with a round height in its own units.
        documents.append({k: v for k, v in desk.document().items() if k != "level"})
    assert documents[0]["slabs"][0]["outline"] == [[0.3048, 0], [7.62, 0], [7.62, 5.4864], [0.3048, 5.4864]]
    assert documents[0] == documents[1]
    expect(desk.cell("S1", "thickness_m")).to_have_text("10.00")
    expect(desk.page.locator(".sheet thead")).to_contain_text("Thickness in")
    desk.step("Set out")
    desk.press("Escape")
    before = desk.document()
    desk.page.get_by_label("Units").select_option("SI")
    desk.said("SI units")
    desk.step("Build")
    expect(desk.cell("S1", "thickness_m")).to_have_text("254")
    assert desk.document() == before


@pytest.mark.study
def test_feet_inches_and_fractions_and_suffixes_are_read_in_either_system(desk, made):
    building(desk, made(flat_slab(1, 1)))
    desk.page.get_by_role("tab", name="Slabs").click()
    cell = desk.cell("S1", "thickness_m")
    for text, metres in (('10 1/2"', 0.2667), ("0.3 m", 0.3), ("25 cm", 0.25), ("1'-0 1/2\"", 0.3175), ("260", 0.26)):
        cell.click()
        desk.page.keyboard.type(text)
        desk.press("Enter")
        expect(cell).to_have_text(f"{metres * 1000:g}")
        desk.said(f"S1: thickness {text}")
        assert desk.document()["slabs"][0]["thickness_m"] == pytest.approx(metres, abs=1e-12)
    cell.click()
    desk.page.keyboard.type("thick")
    desk.press("Enter")
    expect(cell).to_have_class(re.compile("wrong"))
    expect(desk.page.get_by_role("alert")).to_contain_text("“thick” is not a number in mm")
    # What the server refuses is told in the cell too, and the old value holds.
    desk.cell("S1", "cover_top_mm").click()
    desk.page.keyboard.type("400")
    desk.press("Enter")
    expect(desk.cell("S1", "cover_top_mm")).to_have_class(re.compile("wrong"))
    assert desk.document()["slabs"][0].get("cover_top_mm", 25) == 25


def test_a_block_from_a_spreadsheet_fills_cells_and_makes_columns(desk, made):
    building(desk, made(flat_slab(1, 1)))
    desk.page.get_by_role("tab", name="Columns").click()
    desk.cell("C11", "at.0").click()
    paste = """(text) => {
      const data = new DataTransfer();
      data.setData('text/plain', text);
      document.querySelector('.sheet').dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
    }"""
    untouched = desk.document()
    # What a block would do stands in the table first, and can be left.
    desk.page.evaluate(paste, "5.9\t6.1\n3\t0\n")
    expect(desk.page.get_by_role("status").filter(has_text="2 rows of 2 cells: 2 cells set, 1 new row.")).to_be_visible()
    expect(desk.cell("C11", "at.0")).to_have_text("5.9")
    desk.press("Escape")
    expect(desk.cell("C11", "at.0")).to_have_text("6.000")
    assert desk.document() == untouched
    desk.page.evaluate(paste, "5.9\tabc\tcircle\n3\t0\n3.0\t6\r\n7\t\n")
    told = "4 rows of 3 cells: 2 cells set, 1 cell refused, 2 new rows, 1 row waits for what is marked."
    expect(desk.page.get_by_role("status").filter(has_text=told)).to_be_visible()
    desk.press("Enter")
    expect(desk.page.locator("path[data-kind=columns]")).to_have_count(6)
    expect(desk.cell("C11", "at.1")).to_have_text("abc")
    # What a row lacks is neither made up nor forgotten with the rest of it.
    waits = desk.page.get_by_role("row", name="a row that waits")
    expect(waits).to_have_count(1)
    waits.locator("td[data-cell$='/at.1']").click()
    desk.page.keyboard.type("3")
    desk.press("Enter")
    expect(desk.page.locator("path[data-kind=columns]")).to_have_count(7)
    expect(waits).to_have_count(0)
    # A block is one step: cells and rows of it go together.
    desk.press("Escape")
    for columns in (6, 4):
        desk.press("Control+z")
        expect(desk.page.locator("path[data-kind=columns]")).to_have_count(columns)
    desk.page.wait_for_timeout(500)
    assert desk.document() == untouched
    desk.press("Control+Shift+z")
    expect(desk.page.locator("path[data-kind=columns]")).to_have_count(6)
    # The last row is blank, and what is typed there is one more, as soon as its place is known.
    before = len(desk.document()["columns"])
    blank = desk.page.get_by_role("row", name="a new row")
    blank.scroll_into_view_if_needed()
    blank.locator("td[data-cell='/at.0']").click()
    desk.page.keyboard.type("5.5")
    desk.press("Tab")
    expect(desk.page.get_by_text("The row waits for y.")).to_be_visible()
    desk.page.keyboard.type("4")
    desk.press("Enter")
    expect(desk.page.locator("path[data-kind=columns]")).to_have_count(before + 1)
    expect(blank).to_have_count(1)
    desk.page.wait_for_timeout(500)
    columns = desk.document()["columns"]
    assert (len(columns), columns[-1]["at"]) == (before + 1, [5.5, 4])
    assert columns[[c["id"] for c in columns].index("C11")]["shape"]["kind"] == "circle"
    at = {c["id"]: c["at"] for c in desk.document()["columns"]}
    assert at["C11"] == [5.9, 6]
    assert [3, 0] in at.values()
    assert [3, 6] in at.values()
    # What the server refuses of a block comes back to its cell; the rest of it is kept.
    desk.cell(columns[0]["id"], "shape.b_m").click()
    desk.page.evaluate(paste, "450\n99999999\n")
    desk.press("Enter")
    expect(desk.cell(columns[1]["id"], "shape.b_m")).to_have_class(re.compile("wrong"))
    expect(desk.cell(columns[0]["id"], "shape.b_m")).to_have_text("450")
    desk.page.wait_for_timeout(500)
    widths = [c["shape"]["b_m"] for c in desk.document()["columns"][:2]]
    assert widths == [0.45, columns[1]["shape"]["b_m"]]
    desk.page.get_by_role("button", name="Drop", exact=True).click()
    # Sorting and filtering change what is shown, not what is there.
    desk.page.locator(".sheet th", has_text="x").first.get_by_role("button").click()
    desk.page.get_by_label("Filter columns").fill("3.000")
    expect(desk.page.locator(".sheet tr[data-line]")).to_have_count(2)
    desk.press("Escape")


def test_objects_are_moved_copied_turned_mirrored_arrayed_and_undone(desk, made):
    document = flat_slab(2, 1)
    document["columns"] = document["columns"][:1]
    shape = {"kind": "rectangle", "b_m": 0.6, "d_m": 0.3}
    document["columns"][0] |= {"at": [3.0, 3.0], "shape": shape}
    building(desk, made(document))
    start = desk.document()["columns"]

    def columns():
        return [(c["at"], c.get("angle_deg", 0)) for c in desk.document()["columns"]]

    def tool(key, *points):
        desk.press(key)
        for first, second in points:
            desk.typed(first, second)

    desk.point(3, 3)
    expect(desk.page.locator(".inspector h2")).to_have_text("Column C00")
    tool("m", ("0", "0"), ("0.5", "-1"))
    desk.said("Column C00 moved")
    assert columns() == [([3.5, 2], 0)]
    tool("r", ("3.5", "2"), ("1", "0"), ("0", "1"))
    desk.said("turned by 45°")
    assert columns() == [([3.5, 2], pytest.approx(45))]
    tool("x", ("6", "0"), ("0", "1"))
    desk.said("Column C00 mirrored")
    assert columns()[1] == ([8.5, 2], pytest.approx(-45 + 180))
    # Of the two, the first one three times along, by an array of known count.
    desk.point(3.5, 2)
    desk.press("a")
    desk.page.get_by_label("Copies").fill("3")
    desk.page.locator(".entry").get_by_text("Array").click()
    desk.typed("0", "0")
    desk.typed("0", "1.2")
    desk.said("copied 3 times")
    assert [c[0] for c in columns()[2:]] == [[3.5, pytest.approx(y)] for y in (3.2, 4.4, 5.6)]
    desk.press("Escape")
    # A window picks what lies wholly in it; what is picked is deleted and comes back.
    a = desk.page.evaluate(TO_SCREEN, [2.5, 2.6])
    b = desk.page.evaluate(TO_SCREEN, [4.5, 6.0])
    desk.page.keyboard.down("Shift")
    desk.page.mouse.move(*a)
    desk.page.mouse.down()
    desk.page.mouse.move(*b, steps=4)
    desk.page.mouse.up()
    desk.page.keyboard.up("Shift")
    expect(desk.page.locator(".inspector h2")).to_have_text("3 columns")
    desk.press("Delete")
    desk.said("3 columns deleted")
    assert len(columns()) == 2
    for _ in range(5):
        desk.press("Control+z")
        desk.page.wait_for_timeout(500)
    desk.said("undid: Column C00 moved")
    assert desk.document()["columns"] == start
    desk.press("Control+Shift+z")
    desk.said("redid: Column C00 moved")


def test_outlines_are_edited_by_figures_dragging_cutting_and_joining(desk, made):
    document = flat_slab(1, 1)
    document["slabs"][0]["outline"] = [[0, 0], [6, 0], [6, 6], [0, 6]]
    building(desk, made(document))
    page = desk.page
    desk.point(3, 1)
    expect(page.locator(".inspector h2")).to_have_text("Slab S1")

    def outline(k=0):
        return desk.document()["slabs"][k]["outline"]

    field = page.get_by_label("y of corner 3")
    field.fill("7")
    field.press("Enter")
    desk.said("corner 3 placed")
    assert outline()[2] == [6, 7]
    rise = page.get_by_label("Arc rise of corner 1")
    rise.fill("0.75")
    rise.press("Enter")
    desk.said("edge 1 arched")
    # Rise over half the chord: 0.75 / 3.
    assert outline()[0] == [0, 0, pytest.approx(0.25)]
    page.locator(".edge-offset select").select_option("1")
    page.get_by_label("out by").fill("500mm")
    page.get_by_label("out by").press("Enter")
    expect(page.locator(".outline-editor .error")).to_contain_text("is an arc")
    page.locator(".inspector h2").click()
    desk.press("Control+z")
    desk.said("undid")
    page.get_by_label("out by").fill("500mm")
    page.locator(".edge-offset button").click()
    desk.said("edge 2 moved by 500mm")
    assert outline() == [[0, 0], [6.5, 0], [6.5, pytest.approx(7 + 0.5 / 6)], [0, 6]]
    page.wait_for_timeout(300)
    page.mouse.click(5, 5)
    desk.point(3, 1)
    desk.press("t")
    desk.typed("3", "-1")
    desk.typed("0", "12")
    desk.said("Slab S1 cut into 2")
    assert len(desk.document()["slabs"]) == 2
    page.keyboard.press("Escape")
    desk.point(1, 1)
    desk.point(5, 1, modifiers=["Control"])
    expect(page.locator(".inspector h2")).to_have_text("2 slabs")
    page.get_by_role("button", name="Join").click()
    desk.said("joined into")
    assert len(desk.document()["slabs"]) == 1
    desk.press("Escape", "l")
    desk.typed("1", "0")
    desk.typed("3", "0")
    desk.typed("0", "-1.2")
    desk.said("cantilever of 1.2 m")
    assert [1, -1.2] in outline()


def test_a_drawing_becomes_a_floor(desk, made):
    floor = made()
    desk.open(floor)
    page = desk.page
    desk.step("Set out")
    page.get_by_role("button", name="Bring in a DXF drawing").click()
    broken = {"name": "x.dxf", "mimeType": "image/vnd.dxf", "buffer": b"no drawing at all"}
    page.get_by_label("DXF file").set_input_files([broken])
    expect(page.locator(".dialog [role=alert]")).to_contain_text("the drawing")
    page.get_by_label("DXF file").set_input_files([{**broken, "name": "ground.dxf", "buffer": architects_drawing()}])
    expect(page.locator(".dialog")).to_contain_text("ground.dxf, read in mm")
    expect(page.get_by_label("Layer A-COLS becomes")).to_have_value("columns")
    page.get_by_role("button", name="Show what it becomes").click()
    report = page.get_by_test_id("report")
    expect(report).to_contain_text("1 slab, 2 openings, 12 columns, 3 walls, 7 grid lines")
    expect(report).to_contain_text("6 lines on A-FURNITURE: the layer was not chosen")
    page.get_by_role("button", name="Make objects").click()
    desk.said("12 columns, 3 walls from ground.dxf")
    document = desk.document()
    assert {k: len(document[k]) for k in ("slabs", "openings", "columns", "walls", "grid")} == {
        "slabs": 1, "openings": 2, "columns": 12, "walls": 3, "grid": 7,
    }  # fmt: skip
    assert desk.server.settled(floor)["run"]["state"] == "fresh"


def test_the_audit_pins_a_mistake_mends_it_with_a_click_and_that_undoes(desk, made):
    document = copy.deepcopy(flat_slab(1, 1))
    document["slabs"][0] |= {"thickness_m": 0.025, "cover_top_mm": 10.0, "cover_bottom_mm": 10.0}
    document["columns"].append({**document["columns"][0], "id": "C9"})
    document["mats"] = []
    building(desk, made(document))
    page = desk.page
    expect(page.locator("nav.route button", has_text="Build")).to_contain_text("audit: 3 findings")
    # Two have a place; the third is the concrete of the new project that no floor uses.
    expect(page.locator("[data-finding]")).to_have_count(2)
    page.locator(".finding[data-rule=double] button").click()
    expect(page.locator("[data-finding]")).to_have_count(1)
    assert len(desk.document()["columns"]) == 4
    page.locator(".finding[data-rule=implausible] button").click()
    expect(page.locator("[data-finding]")).to_have_count(0)
    assert desk.document()["slabs"][0]["thickness_m"] == 0.25
    desk.press("Control+z")
    expect(page.locator("[data-finding]")).to_have_count(1)
    assert desk.document()["slabs"][0]["thickness_m"] == 0.025


@pytest.mark.study
def test_a_twin_is_made_follows_and_is_cut_loose(desk, made):
    building(desk, made(flat_slab(1, 1, size=1.0)))
    page = desk.page
    master = desk.floor
    desk.step("Set out")
    page.get_by_role("button", name="New floor").click()
    page.get_by_label("Name", exact=True).last.fill("Level 2")
    page.get_by_role("button", name="Add floor").click()
    expect(page.locator(".inspector")).to_contain_text("Twin of Typical")
    twin = desk.floor
    assert twin != master
    desk.step("Build")
    page.get_by_role("tab", name="Slabs").click()
    desk.cell("S1", "thickness_m").click()
    page.keyboard.type("300")
    desk.press("Enter")
    expect(page.locator(".note")).to_contain_text("also on Typical")
    assert desk.server.settled(master)["document"]["slabs"][0]["thickness_m"] == 0.3
    desk.press("Escape", "Escape")
    desk.step("Set out")
    page.get_by_role("button", name="Cut loose").click()
    expect(page.locator(".inspector")).not_to_contain_text("Twin of")
    desk.open(master)
    desk.step("Build")
    page.get_by_role("tab", name="Slabs").click()
    desk.cell("S1", "thickness_m").click()
    page.keyboard.type("280")
    desk.press("Enter")
    desk.said("S1: thickness 280")
    with desk.server.client() as client:
        assert client.get(f"/api/floors/{twin}").json()["document"]["slabs"][0]["thickness_m"] == 0.3


@pytest.fixture
def side_by_side(browser, server, made):
    """Opens a new floor for Ada and for Ben at its table of slabs; ``hearing`` each other's changes, or not."""
    desks = []

    def both(hearing):
        floor = made(flat_slab(1, 1, size=1.0))
        server.settled(floor)
        for name in ("Ada", "Ben"):
            context = browser.new_context(**SCREEN)
            context.add_cookies([server.cookie(name)])
            desk = Desk(context.new_page(), server)
            if not hearing:
                desk.page.route("**/events", lambda route: route.abort())
            building(desk, floor)
            desk.page.get_by_role("tab", name="Slabs").click()
            desks.append(desk)
        return desks

    yield both
    for desk in desks:
        desk.page.context.close()
        assert desk.broke == []


def test_a_second_page_hears_of_a_new_revision_and_of_its_run(side_by_side):
    ada, ben = side_by_side(hearing=True)
    state = ben.page.get_by_test_id("state")
    expect(state).to_have_text(re.compile(r"rev 1 · .*up to date"), timeout=WAIT)
    ada.cell("S1", "thickness_m").click()
    ada.page.keyboard.type("270")
    ada.press("Enter")
    expect(ben.cell("S1", "thickness_m")).to_have_text("270", timeout=10_000)
    expect(state).to_have_text(re.compile(r"rev 2 · .*up to date"), timeout=WAIT)
    assert ben.page.get_by_test_id("meter-flexure").inner_text() == ada.page.get_by_test_id("meter-flexure").inner_text()


def test_two_people_change_one_floor_and_settle_it(side_by_side, server):
    # Neither hears of the other before saving, as when both save within a moment.
    ada, ben = side_by_side(hearing=False)
    floor = ada.floor

    def types(desk, path, text):
        desk.cell("S1", path).click()
        desk.page.keyboard.type(text)
        desk.press("Enter")

    def slab():
        return ada.document()["slabs"][0]

    dialog = ben.page.locator(".dialog.conflict")
    types(ada, "thickness_m", "270")
    ada.said("S1: thickness 270")
    types(ben, "cover_top_mm", "30")
    expect(dialog).to_contain_text("Ada saved before you")
    expect(dialog).to_contain_text("Thickness of slab S1: 250 mm to 270 mm")
    expect(dialog).to_contain_text("Cover, top of slab S1: none to 30 mm")
    dialog.get_by_role("button", name="Keep both").click()
    expect(ben.cell("S1", "thickness_m")).to_have_text("270")
    assert (slab()["thickness_m"], slab()["cover_top_mm"]) == (0.27, 30)

    # Ada's page is behind now; she changes what Ben changed meanwhile, and takes his.
    types(ben, "thickness_m", "290")
    ben.said("S1: thickness 290")
    theirs = ada.page.locator(".dialog.conflict")
    types(ada, "thickness_m", "310")
    expect(theirs).to_contain_text("Ben saved before you")
    expect(theirs.get_by_role("button", name="Keep both")).to_be_disabled()
    theirs.get_by_role("button", name="Take theirs").click()
    expect(ada.cell("S1", "thickness_m")).to_have_text("290")
    assert slab()["thickness_m"] == 0.29

    types(ada, "thickness_m", "320")
    ada.said("S1: thickness 320")
    types(ben, "thickness_m", "330")
    dialog.get_by_role("button", name="Take mine").click()
    expect(ben.cell("S1", "thickness_m")).to_have_text("330")
    assert slab()["thickness_m"] == 0.33
    lines = [h["line"] for h in server.client().get(f"/api/floors/{floor}/history").json()]
    assert lines[:3] == ["S1: thickness 330", "S1: thickness 320", "S1: thickness 290"]


def test_what_is_changed_while_the_server_is_away_arrives_when_it_answers(desk, made):
    page = desk.page
    desk.open(made(flat_slab(1, 1, size=1.0)))
    desk.step("Build")
    page.get_by_role("tab", name="Slabs").click()
    page.context.set_offline(True)
    for figure in ("260", "270"):
        desk.cell("S1", "thickness_m").click()
        page.keyboard.type(f"{figure}mm")
        page.keyboard.press("Enter")
        expect(desk.cell("S1", "thickness_m")).to_have_text(figure)
    expect(page.locator(".gone")).to_contain_text("what you change is kept and sent when it answers")
    assert desk.document()["slabs"][0]["thickness_m"] == 0.25
    page.context.set_offline(False)
    expect(page.locator(".gone")).to_have_count(0, timeout=20_000)
    expect(page.get_by_test_id("state")).to_have_attribute("title", re.compile("270"), timeout=20_000)
    assert desk.document()["slabs"][0]["thickness_m"] == 0.27
    assert not desk.broke
