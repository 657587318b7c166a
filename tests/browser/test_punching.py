"""Punching on the screen: the ribbon of a zone, remedies made and undone, rails laid by hand and let go, the sheet."""

import re

from playwright.sync_api import expect

from tests.browser.test_editing import made as made
from tests.floors import flat_slab


def test_a_failing_zone_is_read_mended_and_laid_by_hand(desk, made):
    document = flat_slab(2, 2, size=1.0, design_rails=False)
    desk.open(made(document))
    page = desk.page
    desk.settled("✕")
    desk.step("Punching")
    page.locator(".ledger tbody tr", has_text="C11").first.click()
    expect(page.get_by_role("heading", name=re.compile("Zone C11"))).to_contain_text("✕")
    # The stress lies along the perimeter, over the line of the resistance.
    expect(page.get_by_test_id("ribbon")).to_be_attached()
    expect(page.locator("[data-rails]")).to_have_count(0)
    # At least four remedies; the first works, is made by one click, and undone by one.
    cards = page.locator(".cards li")
    assert cards.count() >= 4
    expect(cards.first).to_contain_text("Studs")
    promised = float(cards.first.locator(".mono").inner_text().split()[0])
    assert promised <= 1
    cards.first.get_by_role("button", name="Apply").click()
    desk.said("C11: Studs")
    desk.settled("✕|✓|○")
    heading = page.get_by_role("heading", name=re.compile("Zone C11"))
    expect(heading).to_contain_text(re.compile("✓|~"))
    assert abs(float(re.search(r"\d\.\d\d", heading.inner_text()).group()) - promised) < 0.03
    assert [s["zone"] for s in desk.document()["zone_settings"]] == ["C11"]
    expect(page.locator('[data-rails="C11"]')).to_have_count(1)
    studs = page.locator(".stud").count()
    laid = page.locator('[data-rails="C11"]').get_attribute("d")
    assert studs > 20
    # Rails are edited where the zone is: fewer do not do.
    rails = page.locator(".inspector").get_by_label("Rails", exact=True)
    rails.fill("5")
    rails.press("Enter")
    desk.said("Rails of C11: rails 5")
    desk.settled("✕")
    expect(page.locator(".stud")).not_to_have_count(studs)
    assert desk.document()["zone_settings"][0]["rails"]["rails"] == 5
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    desk.settled("✕|✓|○")
    expect(page.locator('[data-rails="C11"]')).to_have_attribute("d", laid)
    page.keyboard.press("Control+z")
    expect(page.locator("[data-rails]")).to_have_count(0)
    desk.settled("✕")
    assert desk.document().get("zone_settings", []) == []
    # The sheet of the zone.
    page.locator(".ledger tbody tr", has_text="C11").first.click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Sheet as DXF").click()
    assert download.value.suggested_filename == "zone-C11.dxf"
    # Rails designed with every run.
    page.locator("button[aria-pressed]", has_text="Rails").click()
    desk.said("Rails are designed")
    desk.settled("✕|✓|○")
    expect(page.locator(".inspector")).to_contain_text("designed")
    assert desk.broke == []
