"""Every step, dialog and panel without a serious finding of the accessibility rules, and reached by keys."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.floors import flat_slab

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
FINDINGS = """async () => (await axe.run(document, { resultTypes: ['violations'] })).violations
  .filter((v) => v.impact === 'serious' || v.impact === 'critical')
  .map((v) => `${v.id}: ${v.nodes.slice(0, 3).map((n) => n.target.join(' ')).join(', ')}`)"""
DIALOGS = {
    "Projects and floors": "Projects",
    "Keys": "Keys",
    "New project": "New project",
    "New floor": "New floor",
    "Copy objects": "Copy objects to other floors",
    "Drawing beneath": "Drawing beneath the floor",
    "What happened": "What happened to this floor",
    "Forces of a frame": "Forces of a frame for all floors",
}
STEPS = ("Set out", "Build", "Load", "Combine", "Arrange", "Analyse", "Strips", "Steel", "Punching", "Tendons", "Deflection")


@pytest.fixture
def found(desk):
    """What the rules find on the screen as it is, or on that of another one's desk."""

    def look(where, other=desk):
        other.page.wait_for_timeout(300)
        if not other.page.evaluate("() => 'axe' in window"):
            other.page.evaluate(AXE.read_text())
        return [f"{where}: {f}" for f in other.page.evaluate(FINDINGS)]

    return look


def test_no_step_has_a_serious_finding(desk, made, found):
    page = desk.page
    desk.open(made(flat_slab(1, 1, size=1.0)))
    desk.settled("does not work")
    told = []
    for step in STEPS:
        desk.step(step)
        told += found(step)
    for check in ("flexure", "punching", "deflection"):
        page.get_by_test_id(f"meter-{check}").click()
        expect(page.get_by_test_id("trace")).to_be_visible()
        told += found(f"trace of {check}")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_role("dialog").first.wait_for(state="attached")
    told += found("palette")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="3D").click()
    page.get_by_role("dialog").first.wait_for(state="attached")
    told += found("3D")
    assert told == []


@pytest.mark.study
def test_no_dialog_has_a_serious_finding(desk, made, found):
    page = desk.page
    desk.open(made(flat_slab(1, 1, size=1.0)))
    desk.settled("does not work")
    told = []
    # As the palette opens them.
    for words, title in DIALOGS.items():
        page.keyboard.press("Control+k")
        page.get_by_placeholder("A column, a load").fill(words)
        page.keyboard.press("Enter")
        expect(page.get_by_role("dialog", name=title)).to_be_visible()
        told += found(title)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Control+b")
    for view in ("Floors", "Verdicts", "Studies", "Model"):
        page.get_by_role("tab", name=view).click()
        expect(page.get_by_role("tab", name=view)).to_have_attribute("aria-selected", "true")
        told += found(f"building, {view}")
    assert told == []


def test_skip_links_come_first_and_the_grid_tells_its_active_cell(desk, made):
    page = desk.page
    desk.open(made(flat_slab(1, 1, size=1.0)))
    expect(page.get_by_role("heading", level=1)).to_have_count(1)
    page.evaluate("() => document.activeElement.blur()")
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Skip to the plan")).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    assert page.evaluate("() => document.querySelector('#tables').contains(document.activeElement)")
    desk.step("Build")
    page.get_by_role("tab", name="Columns").click()
    grid = page.get_by_role("grid", name="Columns table")
    grid.focus()
    for key in ("ArrowDown", "ArrowRight"):
        page.keyboard.press(key)
    active = grid.get_attribute("aria-activedescendant")
    cell = page.locator(f"#{active}")
    expect(cell).to_have_attribute("role", "gridcell")
    assert "active" in cell.get_attribute("class")
