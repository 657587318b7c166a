"""The pictures of ``docs/screenshots``, made anew from the demo data.

``python -m tests.browser.pictures [NAME ...]`` starts a server of its own with the demo, waits until its floors are computed, and takes each picture (or those
named) at 1280 x 800. Look at what has come out before it is committed.
"""

from __future__ import annotations

import re
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Page, expect, sync_playwright

from piastra.demo.saltmarsh import LEVELS
from tests.browser.conftest import Desk
from tests.conftest import ARGUMENTS, ROOT
from tests.faults.storm import House

FOLDER = ROOT / "docs" / "screenshots"
LEVEL_1, DRAFT, LEVEL_2 = "Level 1: wet laboratories", "Level 1, first draft", "Level 2: library and offices"
"""Floors of the demo that pictures are of."""
PATIENCE = 600.0


def _tab(desk: Desk, step: str, tab: str) -> None:
    desk.step(step)
    desk.page.get_by_role("tab", name=re.compile(f"^{tab}")).click()


def _toggle(desk: Desk, *names: str) -> None:
    for name in names:
        desk.page.get_by_role("button", name=name, exact=True).click()


def _near(desk: Desk, x: float, y: float, notches: int) -> None:
    """Turn the wheel over a place of the plan."""
    at = desk.page.evaluate(
        "([x, y]) => { const m = document.querySelector('.drawn svg > g').getScreenCTM(); return [m.a*x+m.e, m.d*y+m.f]; }",
        [x, y],
    )
    desk.page.mouse.move(*at)
    for _ in range(notches):
        desk.page.mouse.wheel(0, -120)
        desk.page.wait_for_timeout(60)
    desk.rested()


def arrangement(desk: Desk) -> None:
    """Arrangements of live load."""
    _tab(desk, "Arrange", "Arrangements")


def audit(desk: Desk) -> None:
    """A column that somebody drew twice, as the audit tells it."""
    client = desk.server.client()
    state = client.get(f"/api/floors/{desk.floor}").json()
    twice = [{**c, "id": "B2a"} for c in state["document"]["columns"] if c["id"] == "B2"]
    document = {**state["document"], "columns": state["document"]["columns"] + twice}
    body = {"based_on": state["revision"], "document": document, "line": "Column B2a drawn"}
    client.put(f"/api/floors/{desk.floor}", json=body).raise_for_status()
    desk.said("Column B2a drawn")
    _tab(desk, "Build", "Columns")
    desk.page.get_by_label("Filter columns").fill("B2")
    desk.page.locator("td[data-cell^='B2a/']").first.click()
    _near(desk, 7.2, 7.8, 8)


def building(desk: Desk) -> None:
    """All floors of the building."""
    desk.press("Control+b")
    desk.page.get_by_text("The building", exact=True).wait_for()


def combinations(desk: Desk) -> None:
    """Combinations by the standard's rule."""
    _tab(desk, "Combine", "Combinations")


def drawing(desk: Desk) -> None:
    """A wall that is being drawn by figures."""
    _tab(desk, "Build", "Columns")
    desk.fit()
    desk.press("w")
    desk.typed("23.4", "10.5")
    desk.page.get_by_role("button", name="Δx, Δy").click()
    desk.page.keyboard.type("3.25")
    desk.press("Tab")
    desk.page.keyboard.type("2.5")


def loads(desk: Desk) -> None:
    """Loads of all cases."""
    _tab(desk, "Load", "Loads")


def deflection(desk: Desk) -> None:
    """Long-term deflection and the floor's stages."""
    _tab(desk, "Deflection", "Over time")


def reactions(desk: Desk) -> None:
    """What the supports carry."""
    desk.step("Analyse")
    _toggle(desk, "Reactions")
    desk.page.get_by_role("tab", name="Reactions").click()


def report(desk: Desk) -> None:
    """The first page of the calculation report."""
    client = desk.server.client()
    run = client.get(f"/api/floors/{desk.floor}").json()["fresh"]["id"]
    desk.page.set_content(client.get(f"/api/runs/{run}/report.html", timeout=PATIENCE).raise_for_status().text)


def review(desk: Desk) -> None:
    """Checks that somebody answers for."""
    _tab(desk, "Review", "Checks")


def section(desk: Desk) -> None:
    """A section through the floor, heights five times as large."""
    desk.step("Build")
    desk.fit()
    desk.press("v")
    desk.typed("-2", "7.8")
    desk.typed("40.6", "0")
    _toggle(desk, "× 5")


def across(desk: Desk) -> None:
    """A slice across a bay, with its greatest values and the panels that are loaded for them."""
    _tab(desk, "Analyse", "Slices")
    desk.page.locator(".ledger tbody tr").first.click()
    desk.page.locator(".row-link", has_text="greatest at").click()


def space(desk: Desk) -> None:
    """The floor in space."""
    _toggle(desk, "3D")
    desk.page.get_by_role("dialog", name="in space").locator("canvas").wait_for()


def steel(desk: Desk) -> None:
    """Required steel by bar sizes, bars, the diagram of a strip, and the section at one of its stations."""
    _tab(desk, "Steel", "Diagram")
    desk.page.get_by_role("button", name="By bar sizes").click()
    desk.page.get_by_role("group", name=re.compile("arrow keys walk the stations")).focus()
    desk.press(*["ArrowRight"] * 12, "Enter")
    desk.page.locator(".inspector .sketch").wait_for()
    _near(desk, 10.8, 3.9, 5)


def strips(desk: Desk) -> None:
    """Strips with their moments."""
    _tab(desk, "Strips", "Strips")
    _near(desk, 10.8, 3.9, 5)


def study(desk: Desk) -> None:
    """Forty variants of thickness and drops."""
    page = desk.page
    desk.press("Control+b")
    page.get_by_role("tab", name="Studies").click()
    page.get_by_label("Name", exact=True).fill("Thickness and drops")
    page.get_by_label("Values of Thickness, all slabs").fill("230 to 300 by 10")
    page.get_by_role("button", name="Add a field").click()
    second = page.locator(".study-field").nth(1)
    second.get_by_label("Of what").select_option("thickenings")
    second.get_by_label("Which number").select_option("thickness_m")
    second.locator(".values").fill("375 to 475 by 25")
    page.get_by_role("button", name="Compute 40 variants").click()
    found = page.get_by_role("region", name="Thickness and drops")
    expect(found.get_by_role("status")).to_contain_text("40 variants", timeout=1000 * PATIENCE)
    found.locator("tbody tr[role=row]").nth(2).click()


def tables(desk: Desk) -> None:
    """The columns as a table."""
    _tab(desk, "Build", "Columns")


def tendons(desk: Desk) -> None:
    """A post-tensioned floor and a tendon's elevation."""
    _tab(desk, "Tendons", "Elevation")


def zone(desk: Desk) -> None:
    """A punching zone that fails, with what would mend it."""
    _tab(desk, "Punching", "Zones")
    desk.page.locator("tbody tr", has_text="C2").first.click()
    desk.page.get_by_role("heading", name=re.compile("Zone C2")).wait_for()
    desk.rested()


PICTURES: dict[str, tuple[str, Callable[[Desk], None]]] = {
    "plan-deflection": (LEVEL_1, deflection), "arrangement": (LEVEL_1, arrangement), "building": (LEVEL_1, building),
    "combinations": (LEVEL_1, combinations), "drawing": (LEVEL_1, drawing), "loads": (LEVEL_1, loads), "reactions": (LEVEL_1, reactions),
    "section": (LEVEL_1, section), "slice": (LEVEL_1, across), "space": (LEVEL_1, space), "steel": (LEVEL_1, steel), "strips": (LEVEL_1, strips),
    "tables": (LEVEL_1, tables), "tendons": (LEVEL_2, tendons), "zones-trace": (DRAFT, zone), "review": (DRAFT, review), "report": (LEVEL_1, report),
    "study": (LEVEL_1, study), "audit": (DRAFT, audit),
}  # fmt: skip
"""What is made of which floor; the last ones change what the others show."""


def _floors(client: httpx.Client) -> dict[str, int]:
    """The demo's floors by name, once they are there and have results."""
    until = time.monotonic() + PATIENCE
    while True:
        floors: list[dict[str, Any]] = [f for p in client.get("/api/projects").json() for f in p["floors"]]
        done = {f["name"]: f["id"] for f in floors if f["run"] and f["run"]["state"] == "fresh"}
        if len(done) == len(floors) and {LEVEL_1, DRAFT, LEVEL_2} <= set(done):
            return done
        assert time.monotonic() < until, "the demo's floors have no results"
        time.sleep(2)


def _taken(page: Page, house: House, floor: int, made: Callable[[Desk], None], path: Path) -> None:
    desk = Desk(page, house)
    desk.open(floor)
    desk.rested()
    made(desk)
    # What is explained when a view is first met is read by now, and nothing is pointed at.
    notes = page.get_by_text("Understood", exact=True)
    while notes.count():
        # Under a dialog as well.
        notes.first.evaluate("note => note.click()")
    page.mouse.move(1, 799)
    page.wait_for_timeout(1500)
    page.screenshot(path=path)
    print(path.name, *desk.broke, flush=True)


def main() -> None:
    """Make them."""
    wanted = sys.argv[1:] or list(PICTURES)
    with tempfile.TemporaryDirectory() as folder, House(Path(folder), projects=len(LEVELS)) as house, sync_playwright() as play:
        floors = _floors(house.client())
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        for name in wanted:
            floor, made = PICTURES[name]
            page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
            _taken(page, house, floors[floor], made, FOLDER / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
