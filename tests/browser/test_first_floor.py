"""The first floor of a new user, from an empty project to its verdict and a roof that differs: what it takes in clicks and keys."""

import re

import pytest
from playwright.sync_api import expect

BEFORE = 55 + 177
"""Clicks and keys of the same tasks before tables took new rows, columns stood on crossings and slabs on grids: clicked at 16 crossings,
typed outlines of a slab and of four mats."""


class Hand:
    """Clicks and keys on a page, counted: a choice from a list is two clicks, each character typed a key."""

    def __init__(self, page):
        self.page, self.clicks, self.keys = page, 0, 0

    def click(self, locator):
        self.clicks += 1
        locator.click()

    def choose(self, name, option):
        self.clicks += 2
        self.page.get_by_label(name, exact=True).select_option(option)

    def type(self, *texts):
        for text in texts:
            if text in ("Enter", "Tab", "Escape"):
                self.keys += 1
                self.page.keyboard.press(text)
            else:
                self.keys += len(text)
                self.page.keyboard.type(text)

    def step(self, name):
        self.click(self.page.locator("nav.route button", has=self.page.locator(".name", has_text=name)))

    def tab(self, name):
        self.click(self.page.get_by_role("tab", name=name))


@pytest.mark.study
def test_the_first_floor_takes_few_clicks_and_keys(desk):
    page = desk.page
    hand = Hand(page)
    page.goto(desk.server.address)
    hand.click(page.get_by_role("dialog", name="Projects").get_by_role("button", name="New project"))
    page.get_by_label("Name", exact=True).wait_for()
    hand.type("Zeal 2417", "Enter")
    expect(page.get_by_test_id("state")).to_have_text("rev 1 · empty")
    # Three by three bays.
    hand.click(page.get_by_label("Spacings", exact=True))
    for labels in ("A–D", "1–4"):
        hand.type("3@5.2", "Enter")
        desk.said(f"grid {labels}")
    hand.step("Build")
    hand.type("s")
    hand.click(page.get_by_role("button", name="Add the slab"))
    desk.said("Slab over the grid")
    hand.type("c")
    hand.click(page.get_by_role("button", name="Add 16 columns"))
    desk.said("16 columns on crossings")
    # Loads from a build-up and from an occupancy.
    hand.step("Load")
    hand.tab("Build-ups")
    hand.click(page.locator(".sheet td[data-cell='/id']"))
    hand.type("floor", "Tab", "screed 60", "Enter")
    expect(page.locator(".sheet td[data-cell='floor/layers']")).to_have_text("screed 60")
    page.locator(".surface").click(position={"x": 20, "y": 470})
    for source in ("build_up|floor", "occupancy|office"):
        hand.choose("Load on all slabs", source)
        desk.said("put everywhere")
        hand.type("Escape")
    hand.step("Combine")
    hand.click(page.get_by_role("button", name="Generate"))
    desk.said("Combinations generated")
    hand.step("Steel")
    hand.tab("Mats")
    hand.click(page.locator(".sheet td[data-cell='/bar_mm']"))
    hand.type("12", "Enter")
    hand.click(page.get_by_role("button", name="Copy to all four ways"))
    desk.said("Mat M1 copied")
    first, level_1 = desk.document(), desk.floor
    # A roof that is thinner and carries less.
    hand.choose("Floor", "floor")
    hand.click(page.get_by_role("radio", name="Copy of Level 1"))
    hand.type("Roof", "Enter")
    expect(page.get_by_test_id("state")).to_contain_text("rev 1", timeout=20_000)
    hand.step("Build")
    hand.tab("Slabs")
    hand.click(desk.cell("S1", "thickness_m"))
    hand.type("220", "Enter")
    desk.said("S1: thickness 220")
    hand.step("Load")
    hand.click(desk.cell("L2", "q_kPa"))
    hand.type("1", "Enter")
    desk.said("L2: load 1")
    page.wait_for_timeout(500)
    roof = desk.document()

    assert first["slabs"][0]["outline"] == [[-0.2, -0.2], [15.8, -0.2], [15.8, 15.8], [-0.2, 15.8]]
    assert {c["id"] for c in first["columns"]} == {f"{a}{k}" for a in "ABCD" for k in "1234"}
    assert [(x["case"], x.get("build_up"), x.get("occupancy")) for x in first["loads"]] == [
        ("D", "floor", None),
        ("Q", None, "office"),
    ]
    assert any(c["limit_state"] == "quasi_permanent" for c in first["combinations"])
    assert (roof["slabs"][0]["thickness_m"], roof["loads"][1]["q_kPa"], roof["loads"][1].get("occupancy")) == (0.22, 1.0, None)
    assert {(m["face"], m["direction"], m["bar_mm"]) for m in first["mats"]} == {
        (f, w, 12) for f in ("bottom", "top") for w in "xy"
    }
    # Its verdict is there: mats alone are less than the supports need.
    page.get_by_label("Floor", exact=True).select_option(str(level_1))
    expect(page.get_by_test_id("meter-flexure")).to_have_text(re.compile(r"[✓~✕].*\d\.\d\d", re.S), timeout=120_000)
    assert hand.clicks + hand.keys <= 0.4 * BEFORE, (hand.clicks, hand.keys)


def test_a_floor_is_built_and_checked_by_keys_alone(desk, server):
    page = desk.page
    made = server.client().post("/api/projects", json={"name": f"Zeal {id(desk)}"}).json()
    desk.open(made["floor"])

    def go(step):
        desk.press("Control+k")
        page.keyboard.type(f"step {step}")
        desk.press("Enter")

    def tab_to(role, name):
        """Tab from control to control until the wanted one has the focus."""
        wanted = page.get_by_role(role, name=name, exact=True)
        for _ in range(120):
            desk.press("Tab")
            if wanted.count() and wanted.first.evaluate("e => e === document.activeElement"):
                return
        raise AssertionError(f"no tab stop {name}")

    go("Build")
    desk.press("s")
    for x, y in (("0", "0"), ("6", "0"), ("0", "6"), ("-6", "0")):
        desk.typed(x, y)
    desk.press("Enter")
    desk.said("Slab S1 drawn")
    desk.press("Escape", "Escape", "Escape")
    desk.press("c")
    for x in ("0.2", "5.8"):
        for y in ("0.2", "5.8"):
            desk.typed(x, y)
    desk.said("Column C4 drawn")
    desk.press("Escape", "Escape", "Escape")
    go("Load")
    tab_to("grid", "Loads table")
    page.keyboard.press("ArrowRight")
    for cell in ("area", "Q", "office"):
        page.keyboard.type(cell)
        desk.press("Tab")
    desk.press("Escape", "Escape")
    desk.said("Load L1 added")
    # An object of the plan is reached, named and picked, and let go again.
    tab_to("button", "Slab S1")
    desk.press("Enter")
    expect(page.locator(".inspector h2")).to_have_text("Slab S1")
    desk.press("Escape")
    go("Combine")
    tab_to("button", "Generate")
    desk.press("Enter")
    desk.said("Combinations generated")
    go("Steel")
    tab_to("button", "Design")
    desk.press("Enter")
    desk.said("Bars are designed")
    desk.settled("works|not")
    expect(page.get_by_test_id("meter-flexure")).to_have_text(re.compile(r"[✓~].*0\.\d\d", re.S), timeout=60_000)
    (load,) = desk.document()["loads"]
    assert (load["kind"], load["case"], load["occupancy"]) == ("area", "Q", "office")
