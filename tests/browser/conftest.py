"""A browser, and what a person does in it: pointing at places of the plan, typing, waiting for the verdict."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import Page, expect

# Two workers and a server share two cores: what a page shows may take its time.
expect.set_options(timeout=20_000)

WAIT = 120_000

TO_SCREEN = """([x, y]) => {
  const m = document.querySelector('.drawn svg > g').getScreenCTM();
  return [m.a * x + m.e, m.d * y + m.f];
}"""


class Desk:
    """The application in a browser."""

    def __init__(self, page: Page, server) -> None:
        self.page, self.server = page, server
        self.broke: list[str] = []
        self.asked: list[str] = []
        page.on("pageerror", lambda e: self.broke.append(str(e)))
        page.on("request", lambda r: self.asked.append(r.url))

    def open(self, floor: int) -> None:
        """Open a floor and wait for its plan."""
        self.page.goto(f"{self.server.address}/?floor={floor}")
        expect(self.page.get_by_test_id("state")).to_have_text(re.compile(r"rev \d"), timeout=WAIT)
        self.page.locator(".drawn svg > g").first.wait_for(state="attached")

    @property
    def floor(self) -> int:
        """The open floor's number."""
        return int(re.search(r"floor=(\d+)", self.page.url).group(1))

    def document(self) -> dict:
        """The floor file as the server has it."""
        return self.server.client().get(f"/api/floors/{self.floor}").json()["document"]

    def step(self, name: str) -> None:
        """Go to a step of the route."""
        self.page.locator("nav.route button", has=self.page.locator(".name", has_text=name)).click()

    def point(self, x: float, y: float, button: str = "left", modifiers: list | None = None) -> None:
        """Click at a place of the plan, m."""
        at = self.page.evaluate(TO_SCREEN, [x, y])
        self.page.mouse.move(at[0] - 4, at[1] - 3)
        self.page.mouse.move(*at)
        for key in modifiers or []:
            self.page.keyboard.down(key)
        self.page.mouse.click(*at, button=button)
        for key in modifiers or []:
            self.page.keyboard.up(key)

    def fit(self) -> None:
        """Show the whole floor, and wait until the plan stands still."""
        self.page.get_by_role("button", name="Fit", exact=True).click()
        last, still = None, 0
        while still < 4:
            self.page.wait_for_timeout(80)
            now = self.page.evaluate(TO_SCREEN, [1, 1])
            still = still + 1 if now == last else 0
            last = now

    def press(self, *keys: str) -> None:
        """Press keys one after the other."""
        for key in keys:
            self.page.keyboard.press(key)

    def typed(self, first: str, second: str) -> None:
        """Type the two figures of the next point."""
        self.page.keyboard.type(first)
        self.page.keyboard.press("Tab")
        self.page.keyboard.type(second)
        self.page.keyboard.press("Enter")

    def said(self, text: str) -> None:
        """Wait until the newest revision, of the floor or of the project, has this line."""
        quoted = json.dumps(text, ensure_ascii=False)
        place = f"[data-testid=state][title*={quoted}], .project-line:has-text({quoted})"
        self.page.locator(place).first.wait_for(timeout=30_000)

    def settled(self, words: str) -> None:
        """Wait for a fresh verdict with these words."""
        expect(self.page.get_by_test_id("overall")).to_have_text(re.compile(words), timeout=WAIT)
        expect(self.page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=WAIT)

    def rested(self) -> None:
        """Wait until the results are there, and the page has asked for nothing for two seconds."""
        state, known = self.page.get_by_test_id("state"), -1
        # Just after a change the old results still count as current, and a run that goes on asks for nothing.
        while known != len(self.asked) or "up to date" not in state.inner_text():
            expect(state).to_have_text(re.compile("up to date"), timeout=WAIT)
            known = len(self.asked)
            self.page.wait_for_timeout(2000)

    def cell(self, label: str, path: str):
        """A cell of the ledger by its row and the path of its value."""
        return self.page.locator(f"td[data-cell='{label}/{path}']")


SCREEN = {"viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}
"""What a context is opened with: every frame of what moves is drawn without a graphics card here."""


@pytest.fixture
def desk(browser, server):
    """A desk of one's own: a fresh browser context, so that nothing is remembered from another test."""
    context = browser.new_context(**SCREEN)
    made = Desk(context.new_page(), server)
    yield made
    context.close()
    assert made.broke == []
