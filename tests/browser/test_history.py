"""The life of a floor in the browser: begun from the template, computed, a stage moved, the curve and the parts read, bad stages refused."""

import re

from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.core.history_strips import strip


def test_a_history_is_begun_computed_moved_and_read(desk, made):
    page = desk.page
    document = strip(q=3.0, size=0.6)
    del document["history"]
    desk.open(made(document))
    desk.settled("does not work")
    desk.step("Deflection")
    page.get_by_test_id("meter-deflection").click()
    inspector = page.locator(".inspector")
    expect(inspector).to_contain_text("A quick estimate")
    expect(inspector).to_contain_text("What it is made of, mm")
    # What would mend it is offered for the estimate too.
    expect(inspector.get_by_role("region", name="What would mend it")).to_contain_text("thick")
    page.keyboard.press("Escape")

    page.get_by_role("button", name="Begin a history").click()
    desk.said("A history of four stages is begun")
    history = desk.document()["history"]
    assert [s["start_days"] for s in history["stages"]] == [10, 24, 75, 180]
    desk.settled("does not work")
    page.get_by_role("button", name="Compute the history").click()
    expect(page.locator(".history-view")).to_contain_text(re.compile(r"in equilibrium, \d+ rounds"), timeout=120_000)
    page.get_by_test_id("meter-deflection").click()
    expect(inspector).to_contain_text("8 of 10 such floors, mm")
    expect(inspector).to_contain_text(re.compile("Mostly by (creep|shrinkage|the modulus|the tensile strength)"))
    expect(page.get_by_test_id("trace")).to_contain_text("in equilibrium at every step")
    rows = {r["where"]: r for r in page.request.get(_results(page)).json()["sags"] if r["limit"] == "total"}
    sag = rows["L–R"]["sag_mm"]
    assert sum(rows["L–R"]["parts_mm"]) == sag or abs(sum(rows["L–R"]["parts_mm"]) / sag - 1) < 1e-6

    # Fields of the stages: what came since the load of one, bars and cracks by face.
    legend = page.locator(".legend")
    expect(legend).to_contain_text("Deflection w, in use, at the end of the stage")
    whole = _upper(page)
    page.get_by_label("Since", exact=True).select_option("partitions")
    expect(legend).to_contain_text("since the load of partitions")
    assert 0 < _upper(page) < 0.8 * whole
    page.get_by_label("Since", exact=True).select_option("")
    page.get_by_label("Field", exact=True).select_option("crack_width")
    expect(legend).to_contain_text("Crack width, in use, bottom, at the end of the stage")
    widest = page.request.get(_results(page)).json()["history"]["stages"][-1]["crack_mm"]
    assert widest <= _upper(page) < 1.5 * widest + 0.01
    page.get_by_label("Face", exact=True).select_option("top")
    expect(legend).to_contain_text("Crack width, in use, top")
    page.get_by_label("Field", exact=True).select_option("w")

    # The revision before stands beside it, and says what it lacks.
    beside = page.get_by_label("Beside it")
    beside.select_option("revision 1: made the floor")
    expect(page.locator(".history-view")).to_contain_text("the other has no computed history")
    beside.select_option("")

    # The curve of the probe stands beside that of the governing place, and a stage is moved by the arrow keys.
    page.get_by_label("Place of the curve").select_option("P")
    expect(page.locator(".history-view svg .deflects")).to_be_visible()
    partitions = page.get_by_role("slider", name="Stage partitions, begins on day")
    expect(partitions).to_have_attribute("aria-valuenow", "75")
    partitions.focus()
    partitions.press("Shift+ArrowRight")
    desk.said("Stage partitions begins on day 85")
    assert desk.document()["history"]["stages"][2]["start_days"] == 85
    page.keyboard.press("Control+z")
    expect(partitions).to_have_attribute("aria-valuenow", "75")

    # Dragged beyond its neighbour it stops a day before it.
    box = page.get_by_role("slider", name="Stage floor above cast, begins on day").bounding_box()
    page.mouse.move(box["x"] + 3, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 700, box["y"] + 8, steps=5)
    page.mouse.up()
    desk.said("Stage floor above cast begins on day 74")

    # What is typed out of order is refused in place, and nothing is lost.
    page.keyboard.press("Escape")
    field = page.get_by_label("from day").nth(1)
    field.fill("400")
    field.press("Enter")
    expect(page.locator(".note.bad")).to_contain_text("put stages in order of time")
    assert desk.document()["history"]["stages"][1]["start_days"] == 74
    assert not desk.broke


def _results(page) -> str:
    """Address of the results that are shown."""
    floor = re.search(r"floor=(\d+)", page.url).group(1)
    state = page.request.get(f"{page.url.split('/?')[0]}/api/floors/{floor}").json()
    return f"{page.url.split('/?')[0]}/api/runs/{state['fresh']['id']}/results"


def _upper(page) -> float:
    """The upper limit of the legend's bands."""
    return float(page.get_by_label("Upper limit of the bands").input_value())
