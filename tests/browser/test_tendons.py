"""Tendons in the browser: laid by the strips, their elevation dragged and typed, stresses that follow, undo."""

import re

from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.floors import flat_slab


def test_tendons_are_laid_edited_in_elevation_and_undone(desk, made):
    page = desk.page
    desk.open(made(flat_slab(2, 1, size=0.8, design_bars=True)))
    expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=120_000)
    desk.step("Tendons")
    page.get_by_label("Strands in each", exact=True).fill("3")
    page.get_by_label("Strands in each", exact=True).press("Enter")
    page.get_by_role("button", name="Lay them").click()
    page.locator("[data-testid=state][title*='tendons laid by the strips']").wait_for(timeout=30_000)
    document = desk.document()
    bands = [t for t in document["tendons"] if t["group"].startswith("band")]
    assert {t["count"] for t in bands} == {3}
    assert {c.get("effect") for c in document["load_cases"]} >= {"transfer", "final", "secondary"}
    assert all("PS" in c["factors"] for c in document["combinations"] if c["limit_state"] == "ultimate")
    meter = page.get_by_test_id("meter-transfer_stress")
    expect(meter).to_be_visible(timeout=120_000)
    expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=120_000)

    # By dragging: ten millimetres for as many pixels as the picture's scale has.
    first = bands[0]
    page.get_by_label("Tendon", exact=True).select_option(first["id"])
    point = page.locator(".tendon-elevation [data-point='1']")
    before = first["profile"][1]["z_mm"]
    box = point.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 12, steps=4)
    page.mouse.up()
    page.locator(f"[data-testid=state][title*='Tendon {first['id']}: point 2 at']").wait_for(timeout=30_000)
    dragged = next(t for t in desk.document()["tendons"] if t["id"] == first["id"])["profile"][1]["z_mm"]
    assert dragged > before + 3

    # By typing, for all of the band that are alike.
    page.get_by_text(re.compile(r"with the \d+ of band 1")).click()
    level = page.get_by_label("Level of the point")
    level.fill("-190")
    level.press("Enter")
    page.locator("[data-testid=state][title*='tendons of band 1: point 2 at -190 mm']").wait_for(timeout=30_000)
    band = [t for t in desk.document()["tendons"] if t["group"] == "band 1"]
    assert next(t for t in band if t["id"] == first["id"])["profile"][1]["z_mm"] == -190
    assert all(t["profile"][1]["z_mm"] == before + (-190 - dragged) for t in band if t["id"] != first["id"])

    # The keys of a point move it by a millimetre.
    point = page.locator(".tendon-elevation [data-point='1']")
    point.focus()
    point.press("ArrowUp")
    page.locator("[data-testid=state][title*='point 2 at -189 mm']").wait_for(timeout=30_000)

    # Stresses follow with the next run, and their table opens a trace.
    expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=120_000)
    page.get_by_role("tab", name="Stresses").click()
    page.locator(".ledger tbody tr").first.click()
    expect(page.get_by_test_id("trace")).to_contain_text("Stress of the concrete")
    page.get_by_role("tab", name="Stressing").click()
    expect(page.locator(".ledger tbody tr:not(.blank)")).to_have_count(len(document["tendons"]))
    # Strands and jacking pasted from a spreadsheet, two tendons at once.
    page.get_by_role("tab", name=re.compile("^Tendons")).click()
    a, b = (t["id"] for t in document["tendons"][:2])
    desk.cell(a, "count").click()
    page.evaluate(
        """() => {
          const data = new DataTransfer();
          data.setData('text/plain', '5\\t1400\\n6\\t1410\\r\\n');
          document.querySelector('.sheet').dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
        }"""
    )
    desk.press("Enter")
    page.locator("[data-testid=state][title*='pasted']").wait_for(timeout=30_000)
    pasted = {t["id"]: (t["count"], t["jack_MPa"]) for t in desk.document()["tendons"]}
    assert (pasted[a], pasted[b]) == ((5, 1400), (6, 1410))
    for _ in range(5):
        last = page.get_by_test_id("state").inner_text().split(" · ")[0]
        page.keyboard.press("Escape")
        page.keyboard.press("Control+z")
        expect(page.get_by_test_id("state")).not_to_contain_text(f"{last} ·", timeout=30_000)
    expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=120_000)
    assert desk.document().get("tendons", []) == []

    # Side by side over a region that is drawn, as many as its force by the metre asks for.
    spread = page.get_by_role("region", name="Spread tendons over a region")
    spread.get_by_label("By", exact=True).select_option("force")
    spread.get_by_label("At the jack").fill("200")
    spread.get_by_label("At the jack").press("Enter")
    apart = float(re.search(r"at most every ([\d.]+) m", spread.inner_text()).group(1))
    spread.get_by_role("button", name="Draw the region").click()
    for k, (x, y) in enumerate(((0.5, 1), (11.5, 1), (11.5, 5), (0.5, 5))):
        if k == 1:
            page.get_by_role("button", name="x, y", exact=True).click()
        page.get_by_label("x", exact=True).fill(f"{x} m")
        page.get_by_label("y", exact=True).fill(f"{y} m")
        page.get_by_label("y", exact=True).press("Enter")
    page.get_by_role("button", name="Close").click()
    page.locator("[data-testid=state][title*='tendons drawn']").wait_for(timeout=30_000)
    laid = [t for t in desk.document()["tendons"] if t["group"] == "spread 1"]
    across = sorted(t["line"][0][1] for t in laid)
    assert len(laid) == -(-4 // apart)
    assert max(b - a for a, b in zip(across, across[1:], strict=False)) <= apart + 1e-6
    assert all(t["line"][0][0] >= 0.5 and t["line"][1][0] <= 11.5 for t in laid)
    assert not desk.broke
