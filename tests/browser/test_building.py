"""A floor built from nothing with mouse and keyboard equals the same floor built by the Python functions."""

import math

import pytest
from playwright.sync_api import expect

from piastra.core.model import floor_from
from piastra.core.model.project import project_from
from piastra.core.standards.beginnings import new_floor, new_project
from piastra.exchange.results_file import results
from tests.solving import solve_floor

QUAY = "Quay house"
STOREY = {"height_m": 3.6, "far_end": "fixed"}
CONCRETE = "C30/37"


def box(x0, y0, x1, y1):
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


def by_python():
    """The floor that the test builds in the browser, as its author means it."""
    project = project_from(new_project(QUAY, "SI", "EN 1992-1-1"))
    # The arc from (21.8, -0.2) to (21.8, 13.4) passes through (23.3, 6.6): rise 1.5 over half a chord of 6.8.
    slab = [[-0.2, -0.2], [21.8, -0.2, 1.5 / 6.8], [21.8, 13.4], [-0.2, 13.4]]
    columns = [(x, y) for x in (0, 7.2, 14.4, 21.6) for y in (0, 6.6, 13.2)]
    shape = {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}
    drops = [box(6, 5.4, 8.4, 7.8), box(13.2, 5.4, 15.6, 7.8), box(6, 12, 8.4, 13.4), box(13.2, 12, 15.6, 13.4)]
    floor = new_floor(project, "Level 1")
    floor |= {
        "slabs": [{"id": "S1", "outline": slab, "thickness_m": 0.25, "concrete": CONCRETE, "rebar": "B500"}],
        "openings": [{"id": "O1", "outline": box(9.6, 8.4, 12, 10.6)}],
        "thickenings": [{"id": f"T{k + 1}", "outline": d, "thickness_m": 0.4} for k, d in enumerate(drops)],
        "beams": [
            {"id": f"B{k + 1}", "line": [[0, y], [21.6, y]], "width_m": 0.4, "depth_m": 0.6, "concrete": CONCRETE}
            for k, y in enumerate((0, 13.2))
        ],
        "columns": [
            {"id": f"C{k + 1}", "at": [x, y], "shape": shape, "concrete": CONCRETE, "below": STOREY} for k, (x, y) in enumerate(columns)
        ],
        "walls": [
            {"id": f"W{k + 1}", "line": line, "thickness_m": 0.2, "concrete": CONCRETE, "below": STOREY}
            for k, line in enumerate(([[9.4, 8.2], [12.2, 8.2]], [[12.2, 8.2], [12.2, 10.8]]))
        ],
        "mats": [
            {"id": f"M{k + 1}", "face": f, "direction": d, "bar_mm": 16.0, "spacing_mm": 150.0, "outline": box(-0.2, -0.2, 23.4, 13.4)}
            for k, (f, d) in enumerate((f, d) for f in ("bottom", "top") for d in "xy")
        ],
    }  # fmt: skip
    return floor


@pytest.mark.study
def test_a_floor_from_nothing(desk):
    page = desk.page
    page.goto(desk.server.address)
    # An address without a floor begins with all projects.
    sheet = page.get_by_role("dialog", name="Projects")
    sheet.get_by_role("button", name="New project").click()
    page.get_by_label("Name", exact=True).fill(QUAY)
    page.get_by_role("button", name="Begin").click()
    expect(page.locator(".project-name")).to_have_text(QUAY)
    expect(page.get_by_test_id("state")).to_have_text("rev 1 · empty")

    for spacings, first in (("3@7.2", "A"), ("2@6.6", "1")):
        page.get_by_label("Spacings", exact=True).fill(spacings)
        page.get_by_label("First label").fill(first)
        page.get_by_role("button", name="Add lines").click()
        desk.said(f"grid {first}")
    expect(page.locator(".grid-label")).to_have_count(7)
    desk.step("Build")
    page.locator(".surface").click(position={"x": 40, "y": 400})
    desk.fit()

    # The slab, typed: absolute, then offsets, the right-hand edge an arc through a point.
    desk.press("s")
    desk.typed("-0.2", "-200mm")
    desk.typed("22", "0")
    page.get_by_role("button", name="Arc").click()
    desk.typed("1.5", "6.8")
    desk.typed("0", "13.6")
    desk.typed("-22", "0")
    page.get_by_role("button", name="Close").click()
    desk.said("Slab S1 drawn")
    desk.press("Escape")
    desk.fit()

    # Columns by pointing near the crossings of the grid, which they snap to.
    desk.press("c")
    for x in (0, 7.2, 14.4, 21.6):
        for y in (0, 6.6, 13.2):
            desk.point(x + 0.08, y - 0.06)
    desk.said("Column C12 drawn")

    # Drop panels: one by its corners, one copied from it by reference points, two more typed.
    desk.press("Escape", "d")
    page.get_by_role("button", name="Rectangle").click()
    desk.typed("6", "5.4")
    desk.typed("2.4", "2.4")
    desk.said("Thickening T1 drawn")
    desk.press("Escape", "Escape")
    desk.point(6.3, 7.5)
    expect(page.get_by_role("heading", name="Thickening T1")).to_be_visible()
    desk.press("k")
    desk.point(7.2, 6.6)
    desk.point(14.4, 6.6)
    desk.said("Thickening T1 copied")
    desk.press("Escape", "Escape", "d")
    for x in ("6", "13.2"):
        desk.typed(x, "12")
        desk.typed("2.4", "1.4")
    desk.said("Thickening T4 drawn")

    # The stair's opening, the core's walls in one go, and two edge beams.
    desk.press("Escape", "o")
    page.get_by_role("button", name="Rectangle").click()
    desk.typed("9.6", "8.4")
    desk.typed("2.4", "2.2")
    desk.said("Opening O1 drawn")
    desk.press("Escape", "w")
    desk.typed("9.4", "8.2")
    desk.typed("2.8", "0")
    desk.typed("0", "2.6")
    page.get_by_role("button", name="End Enter").click()
    desk.said("2 walls drawn")
    for y in (0, 13.2):
        desk.press("Escape", "b")
        desk.point(0, y)
        desk.point(21.6, y)
        page.get_by_role("button", name="End Enter").click()
        desk.said("drawn")
    expect(page.locator("path[data-kind=beams]")).to_have_count(2)

    # Four mats over everything, all drawn alike; face, direction, bars and spacing are set in the ledger.
    for k in range(4):
        desk.press("Escape", "Escape", "j")
        page.get_by_role("button", name="Rectangle").click()
        desk.typed("-0.2", "-0.2")
        desk.typed("23.6", "13.6")
        desk.said(f"Mat M{k + 1} drawn")
    desk.press("Escape", "Escape")
    page.get_by_role("tab", name="Mats").click()
    desk.cell("M1", "bar_mm").click()
    page.keyboard.type("16")
    desk.press("Enter")
    desk.cell("M1", "bar_mm").click()
    desk.press("Shift+ArrowDown", "Shift+ArrowDown", "Shift+ArrowDown", "Control+d")
    expect(desk.cell("M4", "bar_mm")).to_have_text("16")
    desk.cell("M1", "spacing_mm").click()
    desk.cell("M4", "spacing_mm").click(modifiers=["Shift"])
    page.keyboard.type("150")
    desk.press("Control+Enter")
    expect(desk.cell("M1", "spacing_mm")).to_have_text("150")
    for label, face, direction in (("M2", None, "y"), ("M3", "top", None), ("M4", "top", "y")):
        for path, value in (("face", face), ("direction", direction)):
            if value:
                desk.cell(label, path).click()
                page.keyboard.type(value)
                desk.press("Enter")
                expect(desk.cell(label, path)).to_have_text(value)
    # The beams and the core do not punch, so the audit is quiet and the verdict is there.
    expect(page.locator(".finding")).to_have_count(0)
    state = desk.server.settled(desk.floor)
    assert state["run"]["state"] == "fresh", state["run"]["told"]
    desk.settled("works|does not work|not all covered")

    mine = desk.document()
    theirs = by_python()
    assert {k: len(mine.get(k, [])) for k in theirs if isinstance(theirs[k], list)} == {
        k: len(v) for k, v in theirs.items() if isinstance(v, list) and k != "grid"
    } | {"grid": 7}
    (slab,) = mine["slabs"]
    assert slab["outline"][1][2] == pytest.approx(math.tan(math.atan(1.5 / 6.8)), rel=1e-9)
    got = desk.server.client().get(f"/api/runs/{state['fresh']['id']}/results").json()
    wanted = results(solve_floor(floor_from(theirs)))
    assert [(r["check"], r["status"], r["where"]) for r in got["verdict"]] == [
        (r["check"], r["status"], r["where"]) for r in wanted["verdict"]
    ]
    for a, b in zip(got["verdict"], wanted["verdict"], strict=True):
        # A check that reaches nothing of the floor has no utilisation, here as there.
        assert (a["utilisation"] or 0.0) == pytest.approx(b["utilisation"] or 0.0, rel=1e-6), a["check"]
        assert (a["utilisation"] is None) == (b["utilisation"] is None)
