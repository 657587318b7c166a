"""The room on the screen: what folds, what is remembered, and that the plan gets it; the keys on one sheet."""

import re

import pytest
from playwright.sync_api import expect

TO_EDGE = "document.documentElement.scrollWidth > innerWidth || document.documentElement.scrollHeight > innerHeight"


def share(page):
    """The plan's part of the screen."""
    box = page.locator("#plan").bounding_box()
    size = page.viewport_size
    return box["width"] * box["height"] / size["width"] / size["height"]


def test_the_plan_gets_the_room_that_is_folded_away_and_keeps_it(desk):
    page = desk.page
    desk.open(1)
    before = share(page)
    page.keyboard.press("\\")
    expect(page.get_by_role("button", name="Unfold the inspector")).to_be_visible()
    assert share(page) > 0.8 > before
    # A step of the slim route still has its name, for who reads and for who points at it.
    step = page.locator("nav.route button", has_text="Steel")
    expect(step).to_have_attribute("title", re.compile("^Steel"))
    page.reload()
    expect(page.get_by_role("button", name="Unfold the inspector")).to_be_visible()
    desk.fit()
    # The whole grid is in sight: the outermost labels lie on the plan, clear of the tools.
    plan = page.locator("#plan").bounding_box()
    for label in page.locator(".grid-label").all():
        box = label.bounding_box()
        assert plan["x"] <= box["x"] <= plan["x"] + plan["width"] - box["width"], label.inner_text()
        assert plan["y"] + 40 <= box["y"] <= plan["y"] + plan["height"] - box["height"], label.inner_text()
    page.keyboard.press("\\")
    expect(page.get_by_role("button", name="Fold the inspector")).to_be_visible()
    # One side alone, by its own handle and keys.
    handle = page.get_by_label("Width of the inspector; arrow keys change it")
    wide = page.locator(".inspector").bounding_box()["width"]
    handle.press("ArrowLeft")
    assert page.locator(".inspector").bounding_box()["width"] == wide + 24


def test_all_is_reached_on_small_screens(desk):
    page = desk.page
    desk.open(1)
    for width, height in ((1024, 768), (853, 533)):
        page.set_viewport_size({"width": width, "height": height})
        page.wait_for_timeout(200)
        assert not page.evaluate(TO_EDGE)
        for name in ("Fit", "Keys", "Find or do Ctrl K"):
            box = page.get_by_role("button", name=name, exact=True).bounding_box()
            assert box["x"] >= 0, name
            assert box["x"] + box["width"] <= width, name
        for meter in page.locator(".meter").all():
            box = meter.bounding_box()
            assert box["x"] + box["width"] <= width + 1


def test_the_keys_are_on_one_sheet(desk):
    page = desk.page
    desk.open(1)
    page.keyboard.press("?")
    sheet = page.get_by_role("dialog", name="Keys")
    for words in ("Ctrl K", "Column", "Probe", "Tendon", "fit the floor"):
        expect(sheet.get_by_text(words, exact=words in ("Column", "Probe", "Tendon", "Ctrl K"))).to_be_visible()
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()


@pytest.mark.study
def test_what_a_long_dialog_does_stays_in_sight(desk):
    page = desk.page
    desk.open(1)
    desk.settled("✓|✕|○")
    for height in (800, 560):
        page.set_viewport_size({"width": 1280, "height": height})
        page.get_by_role("button", name="Report", exact=True).click()
        for name in ("Web page", "PDF"):
            expect(page.get_by_role("link", name=name)).to_be_in_viewport(ratio=1)
        page.keyboard.press("Escape")


@pytest.mark.study
def test_own_words_are_told_once_where_they_are_first_met(desk):
    desk.open(1)
    page = desk.page
    desk.step("Build")
    desk.step("Strips")
    note = page.locator(".ledger").get_by_role("note")
    expect(note).to_contain_text("Strip axis: The line from support to support along which a strip is designed.")
    note.get_by_role("button", name="Understood").click()
    expect(note).to_have_count(0)
    page.reload()
    desk.step("Strips")
    expect(page.get_by_test_id("overall")).to_have_text(re.compile("works"))
    expect(note).to_have_count(0)
    # Others are still to be met, and each has its sentence at its place.
    for step, tab, word in (
        ("Steel", "Mats", "Mat"),
        ("Punching", "Zones", "Zone"),
        ("Analyse", "Slices", "Slice"),
        ("Arrange", "Arrangements", "Arrangement"),
    ):
        desk.step(step)
        page.get_by_role("tab", name=re.compile(f"^{tab}")).click()
        expect(note).to_contain_text(f"{word}: ")
