"""The demo in a browser: an edit, its verdict, the trace, undo."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import WAIT
from tests.browser.test_editing import made as made
from tests.floors import flat_slab


@pytest.fixture(scope="module")
def page(server, browser):
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.asked = []
    page.broke = []
    page.on("request", lambda r: page.asked.append(r.url))
    page.on("pageerror", lambda e: page.broke.append(str(e)))
    floors = [f for p in server.client().get("/api/projects").json() for f in p["floors"]]
    floor = next(f["id"] for f in floors if "wet" in f["name"])
    server.settled(floor)
    page.goto(f"{server.address}/?floor={floor}")
    yield page
    page.close()


def overall(page):
    return page.get_by_test_id("overall")


def settled(page, text):
    expect(overall(page)).to_have_text(re.compile(text), timeout=WAIT)
    expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=WAIT)


def test_a_thinner_slab_fails_by_itself_its_trace_opens_and_undo_brings_the_verdict_back(page):
    settled(page, "○ not all covered|✓ works")
    before = page.get_by_test_id("meter-punching").inner_text()
    page.get_by_role("button", name=re.compile("^2 ?Build")).click()
    page.get_by_role("tab", name="Slabs").click()
    page.locator("tr[data-line=S1] td").first.click()
    field = page.get_by_label("Thickness")
    expect(field).to_have_value("260")
    field.fill("185")
    field.press("Enter")
    expect(overall(page)).to_have_text("out of date", timeout=10_000)
    settled(page, "✕ does not work")
    page.get_by_test_id("meter-punching").click()
    trace = page.get_by_test_id("trace")
    expect(trace).to_contain_text("vEd = β · VEd / (u · d)")
    expect(trace).to_contain_text(re.compile(r"= [\d.]+ · [\d.]+ kN / \([\d.]+ m · [\d.]+ mm\)= [\d.]+ kPa"))
    expect(trace).to_contain_text("EN 1992-1-1, 6.4.4 (1) (6.47)")
    expect(page.locator("tr.current")).to_have_count(1)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    settled(page, "○ not all covered|✓ works")
    assert page.get_by_test_id("meter-punching").inner_text() == before
    page.locator("h2", has_text="Level 1").wait_for()


def test_bad_numbers_are_refused_in_the_field_and_nothing_is_lost(page):
    page.get_by_role("button", name=re.compile("^2 ?Build")).click()
    page.get_by_role("tab", name="Slabs").click()
    page.locator("tr[data-line=S1] td").first.click()
    field = page.get_by_label("Thickness")
    field.fill("thick")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("“thick” is not a number in mm")
    field.fill("-5")
    field.press("Enter")
    expect(page.locator(".note.bad")).to_contain_text("must be greater than 0")
    expect(field).to_have_value("260")
    page.locator(".note.bad button").click()
    field.fill("0.26 m")
    field.press("Enter")
    expect(field).to_have_value("260")
    expect(page.get_by_test_id("state")).to_contain_text("up to date")


def test_the_plan_and_the_ledger_share_their_selection_and_go_by_keyboard(page):
    page.get_by_role("button", name=re.compile("^2 ?Build")).click()
    page.get_by_role("button", name="Fit", exact=True).click()
    page.wait_for_timeout(1200)
    page.locator("path[data-kind=columns][data-id=C2]").click()
    expect(page.locator(".inspector h2")).to_have_text("Column C2")
    expect(page.locator("tr.current")).to_have_attribute("data-line", "C2")
    page.locator(".sheet").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator(".inspector h2")).to_have_text("Column D2")
    expect(page.locator(".chosen-layer path")).to_have_attribute("data-chosen", "D2")
    page.keyboard.press("Control+k")
    page.keyboard.type("Column B3")
    page.keyboard.press("Enter")
    expect(page.locator(".inspector h2")).to_have_text("Column B3")
    expect(page.locator(".inspector")).to_contain_text("Reaction in every case and combination")


def test_fields_strips_and_zones_show_with_legend_and_value_under_the_pointer(page):
    page.get_by_role("button", name=re.compile("^6 ?Analyse")).click()
    page.keyboard.press("f")
    page.wait_for_timeout(600)
    for quantity, unit in (("w", "mm"), ("mx", "kNm/m"), ("steel", "mm²/m")):
        page.get_by_label("Field", exact=True).select_option(quantity)
        expect(page.locator("figure.legend")).to_contain_text(unit)
        page.mouse.move(500, 300)
        page.mouse.move(502, 302)
        expect(page.locator("output.reading")).to_contain_text(unit)
    options = page.get_by_label("Face and direction").locator("option").all_inner_texts()
    assert options == [f"{f} {d}, {k}" for f in ("bottom", "top") for d in "xy" for k in ("required", "shortfall")]
    page.get_by_role("button", name="More").click()
    page.get_by_label("Strips along y").check()
    assert page.locator("g.strips path.moment").count() > 20
    page.get_by_role("button", name=re.compile("^9 ?Punching")).click()
    assert page.locator("path.zone").count() > 25
    # The worst of them is labelled on the plan with the meter's figure and its sign.
    figure = re.search(r"\d\.\d\d", page.get_by_test_id("meter-punching").inner_text()).group()
    expect(page.locator("g.label text", has_text=figure).first).to_contain_text(re.compile("✓|~"))


def test_the_page_fits_asks_nobody_else_and_breaks_nowhere(page, server):
    assert page.evaluate("document.documentElement.scrollWidth") <= 1280
    assert {u for u in page.asked if not u.startswith((server.address, "data:", "blob:"))} == set()
    assert page.broke == []


@pytest.mark.study
def test_shear_that_only_finer_elements_tell_of_is_told_and_meshed_finer_there(desk, made):
    """Elements of 1.4 m beside a band in a slab of 200 mm: it passes, but nothing tells how shear is distributed along it."""
    content = flat_slab(2, 2, size=2.0)
    content["slabs"][0]["thickness_m"] = 0.2
    band = [[0, 5.4], [12, 5.4], [12, 6.6], [0, 6.6]]
    content["thickenings"] = [{"id": "T", "kind": "band", "outline": band, "thickness_m": 0.4}]
    content["loads"] = [{**l, "q_kPa": 1.5 * l["q_kPa"]} if l["kind"] == "area" else l for l in content["loads"]]
    desk.open(made(content, name="Zeal line"))
    desk.settled("✕|○|–")
    page = desk.page
    desk.step("Build")
    page.get_by_role("tab", name="Thickenings").click()
    page.locator("tr[data-line=T] td").first.click()
    expect(
        page.get_by_text(re.compile("Shear: not covered; shear at .* is .* kN/m on average, in elements that are too large"))
    ).to_be_visible()
    finer = page.get_by_role("button", name="Finer mesh there")
    finer.click()
    desk.said("mesh finer at T")
    places = desk.document()["mesh"]["refinements"]
    # So many places along a whole line are meshed less finely than single corners are.
    assert len(places) > 12
    assert {(f["size_m"], f["radius_m"]) for f in places} == {(0.1, 0.3)}
    assert all(abs(abs(f["at"][1] - 6.0) - 0.763) < 1e-3 or abs(f["at"][0] - 6.0) > 6.0 for f in places)
    desk.rested()
    # Another piece may turn up on the finer mesh, and then no more.
    if finer.count():
        finer.click()
        desk.rested()
    expect(finer).to_have_count(0)
    expect(page.get_by_test_id("meter-shear")).to_contain_text(re.compile("0.7[0-9]"))
