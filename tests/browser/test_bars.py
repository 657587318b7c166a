"""Bars on the screen: designed, explained, locked, drawn by hand, scheduled, taken away as a drawing."""

import re

from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.core.tees import tee
from tests.floors import flat_slab


def results_of(desk):
    """The newest results."""
    client = desk.server.client()
    run = client.get(f"/api/floors/{desk.floor}").json()["fresh"]["id"]
    return client.get(f"/api/runs/{run}/results").json()


def test_bars_are_designed_explained_locked_drawn_and_taken_away(desk, made):
    document = flat_slab(2, 1, size=1.0)
    document["combinations"].append({"id": "C1", "limit_state": "characteristic", "factors": {"G": 1.0, "Q": 1.0}})
    for mat in document["mats"]:
        mat.update(bar_mm=10, spacing_mm=200)
    desk.open(made(document))
    page = desk.page
    desk.settled("✕ does not work")
    desk.step("Steel")
    desk.fit()
    # Design: the check of what is there passes.
    page.get_by_role("button", name="Design", exact=True).click()
    desk.said("Bars are designed")
    desk.settled("✕|✓|○")
    expect(page.get_by_test_id("meter-flexure")).to_contain_text(re.compile(r"0\.\d\d"))
    # Its reasons open from the plan, and it is the ledger's current line.
    group = page.locator("[data-bars]").first
    mark = group.get_attribute("data-bars")
    group.locator(".grip").dispatch_event("click")
    expect(page.get_by_role("heading", name=f"Bars {mark}")).to_be_visible()
    expect(page.locator(".inspector")).to_contain_text("Why these bars are here")
    expect(page.locator(".inspector")).to_contain_text(re.compile("Strength|Least steel|Crack width|Gathered|Moment into"))
    page.get_by_role("tab", name="Bars", exact=True).click()
    expect(page.locator(".ledger tr.current")).to_contain_text(mark)
    # From a reason to its station, in whose section these bars lie, and back.
    page.locator(".inspector").get_by_title("Section and trace of this station").first.click()
    expect(page.get_by_role("heading", name=re.compile("Station of"))).to_be_visible()
    expect(page.locator(".inspector circle.of-group").first).to_be_visible()
    page.locator(".inspector .bars-of").get_by_role("button", name=re.compile(f"^{mark} ")).click()
    expect(page.get_by_role("heading", name=f"Bars {mark}")).to_be_visible()
    # Locked, it stays as it is while a thicker slab is designed anew, and what it then leaves over is shown: over the corner column, where more
    # is gathered than the mat and a few bars give.
    page.locator(".ledger tbody tr", has_text="TX3").click()
    expect(page.get_by_role("heading", name="Bars TX3")).to_be_visible()
    page.locator(".inspector").get_by_role("button", name="Lock").click()
    desk.said("Bars TX3 are kept")
    desk.settled("✕|✓|○")
    kept = desk.document()["designed_bars"]
    assert [(g["id"], g["locked"]) for g in kept] == [("TX3", True)]
    before = page.locator(".ledger .told-of").inner_text()
    rest = [b for b in results_of(desk)["bars"] if not b["locked"]]
    desk.step("Build")
    page.get_by_role("tab", name="Slabs").click()
    desk.cell("S1", "thickness_m").click()
    page.keyboard.type("300")
    desk.press("Enter")
    desk.said("S1: thickness")
    desk.settled("✕|✓|○")
    assert desk.document()["designed_bars"] == kept
    desk.step("Steel")
    page.get_by_role("tab", name="Bars", exact=True).click()
    expect(page.locator(".ledger .told-of")).not_to_have_text(before)
    line = page.locator(".ledger tbody tr", has_text="designed, locked")
    expect(line).to_have_count(1)
    bars = results_of(desk)["bars"]
    assert [b for b in bars if not b["locked"]] != rest
    short = next(b["shortfall"] for b in bars if b["mark"] == "TX3")
    # Halves are shown rounded up.
    missing = f"{short['required_mm2_m'] - short['kept_mm2_m'] + 1e-6:.0f}"
    assert float(missing) > 50
    expect(line.get_by_role("gridcell").nth(7)).to_have_text(missing)
    line.click()
    inspector = page.locator(".inspector")
    expect(inspector).to_contain_text(f"Shortfall {missing} mm²/m of mats and kept bars")
    expect(inspector).to_contain_text(f"{round(short['required_mm2_m'])} mm²/m required (Moment into an edge column, U1)")
    expect(inspector).to_contain_text("Filled in by")
    # Its reason tells what its own provision asks for, and that is what asks for most there.
    expect(inspector.locator("table tbody tr").first).to_contain_text(
        re.compile(rf"^Moment into an edge column.*{short['required_mm2_m'] + 1e-6:.0f}$")
    )
    expect(inspector.locator(".warning")).to_have_count(0)
    # Where nothing is designed beside it, the same is missing.
    design = page.get_by_role("button", name="Design", exact=True)
    design.click()
    desk.said("Bars are not designed any more")
    desk.settled("✕|✓|○")
    expect(inspector.locator(".warning")).to_contain_text(f"{missing} mm²/m are missing there")
    expect(page.locator(".ledger .chip.fail")).to_have_text("1 short")
    design.click()
    desk.said("Bars are designed")
    desk.settled("✕|✓|○")
    expect(inspector.locator(".warning")).to_have_count(0)
    # Drawn by hand, bars are kept too.
    desk.step("Build")
    desk.fit()
    desk.press("Escape", "7")
    for x, y in ((4, 1), (8, 1), (8, 5), (4, 5)):
        desk.point(x, y)
    desk.press("Enter")
    desk.said("Bars K1 drawn")
    desk.settled("✕|✓|○")
    desk.step("Steel")
    page.get_by_role("tab", name="Bars", exact=True).click()
    expect(page.locator(".ledger tbody tr", has_text="drawn").first).to_contain_text("K1")
    # The schedule as a sheet, the plan of one face as a drawing.
    with page.expect_download() as waiting:
        page.get_by_role("button", name="CSV").click()
    rows = waiting.value.path().read_text("utf-8-sig").splitlines()
    assert rows[0].startswith("Mark,Lies,Bar,Count,Length m")
    assert any(r.startswith("K1,") for r in rows)
    page.get_by_role("button", name="More").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="DXF").click()
    assert "BARS" in waiting.value.path().read_text()


def test_the_diagram_walks_its_stations_by_keyboard(desk, made):
    desk.open(made(flat_slab(2, 1, size=1.0)))
    page = desk.page
    desk.settled("✕|✓|○")
    desk.step("Steel")
    diagram = page.get_by_role("group", name=re.compile("arrow keys walk the stations"))
    diagram.focus()
    desk.press("ArrowRight", "ArrowRight")
    told = page.locator(".told-station")
    expect(told).to_contain_text(re.compile(r"bottom required [\d,]+, given [\d,]+ mm²/m"))
    first = told.inner_text()
    desk.press("ArrowRight", "ArrowRight", "ArrowRight")
    assert told.inner_text() != first
    # Enter opens what is there: the section with its bars, the trace of all provisions, the cut on the plan.
    desk.press("Enter")
    inspector = page.locator(".inspector")
    expect(inspector.get_by_role("heading", name=re.compile("Station of (column|middle) strip"))).to_be_visible()
    expect(inspector.get_by_role("img", name=re.compile(r"Section [\d.]+ m wide and 2[\d]0 mm deep"))).to_be_visible()
    expect(inspector.locator("circle.of-mat").nth(10)).to_be_visible()
    expect(inspector.locator(".trace li").first).to_contain_text("Strip and station")
    expect(page.get_by_test_id("cut")).to_have_count(1)
    before = inspector.locator(".trace").inner_text()
    other = inspector.get_by_role("tab", selected=False)
    face = other.inner_text()
    other.click()
    expect(inspector.locator(".trace")).not_to_have_text(before)
    expect(inspector.locator(".trace")).to_contain_text(f"of the {face} bars")
    # The field by the sizes of bars, at the spacing of the mat beside which they lie, and back.
    legend = page.locator(".legend").first
    legend.get_by_role("button", name="By bar sizes").click()
    expect(legend).to_contain_text("⌀8")
    expect(legend).to_contain_text("bars at 150 mm")
    expect(legend.get_by_label("Upper limit of the bands")).to_have_count(0)
    legend.get_by_role("button", name="By bar sizes").click()
    expect(legend.get_by_label("Upper limit of the bands")).to_be_visible()
    # Forces of the same stations: over a limit state, and under one combination in one arrangement.
    page.get_by_label("Shown along the strips").select_option("V")
    expect(told).to_contain_text(re.compile(r"Shear −?[\d,.]+ \(U1\) to −?[\d,.]+ \(U1\) kN"))
    page.get_by_label("Combination along the strips").select_option("U1")
    page.get_by_label("Arrangement of live load").select_option("all")
    expect(told).to_contain_text(re.compile(r"Shear −?[\d,.]+ kN \(U1\)"))


def test_a_beams_diagram_opens_the_section_of_any_station(desk, made):
    desk.open(made({**tee(2, design_bars=True), "name": "Zeal tee"}))
    page = desk.page
    desk.settled("✕|✓|○|–")
    desk.step("Steel")
    page.get_by_role("tab", name="Beams", exact=True).click()
    page.locator(".ledger tbody tr", has_text="B").first.click()
    inspector = page.locator(".inspector")
    # The row of the worst station has its section, and its cut is drawn.
    expect(inspector.get_by_role("img", name=re.compile("Section of a beam 300 mm wide and 600 mm deep"))).to_be_visible()
    expect(page.get_by_test_id("cut")).to_have_count(1)
    page.get_by_role("tab", name="Diagram", exact=True).click()
    diagram = page.get_by_role("group", name=re.compile("arrow keys walk the stations"))
    diagram.focus()
    desk.press("ArrowLeft", "ArrowLeft", "ArrowLeft")
    told = page.locator(".told-station")
    expect(told).to_contain_text(
        re.compile(r"bottom required [\d,]+, given [\d,]+ mm²\s+Links required [\d,]+, given [\d,]+ mm²/m V")
    )
    said = re.search(r"bottom\s+required (\d+), given\s+(\d+) mm²\s*Links", told.text_content())
    shown = tuple(map(int, said.groups()))
    pairs = {
        (int(a + 0.5), int(g + 0.5))
        for b in results_of(desk)["beams"]
        for a, g in zip(b["bottom_asked_mm2"], b["bottom_given_mm2"], strict=True)
    }
    assert shown in pairs
    desk.press("Enter")
    expect(inspector.get_by_role("heading", name=re.compile("Station of beam B"))).to_be_visible()
    bars = results_of(desk)["bars"]
    for face in ("top", "bottom"):
        inspector.get_by_role("tab", name=face).click()
        expect(inspector.locator(".trace")).to_contain_text(f"of the {face} bars")
    # What is drawn is in the schedule, and opens there.
    mark = inspector.locator(".bars-of button").first.inner_text().split()[0]
    assert mark in {b["mark"] for b in bars}
    inspector.locator(".bars-of button").first.click()
    expect(page.get_by_role("heading", name=f"Bars {mark}")).to_be_visible()
    # Forces of the same stations.
    page.get_by_label("Shown along the strips").select_option("M")
    expect(told).to_contain_text(re.compile(r"Moment −?[\d,.]+ kNm \(ultimate\) · 2\.00 m wide"))
