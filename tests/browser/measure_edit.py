"""From a live-load edit to the fresh verdict in the browser, on the demo's main floor.

Not a test: ``python -m tests.browser.measure_edit ADDRESS`` against a running server prints the median over 20 edits,
as a whole and by part: from the Enter key to the verdict on the screen, the run on the worker, and its stages.
"""

from __future__ import annotations

import re
import statistics
import sys
import time

import httpx
from playwright.sync_api import expect, sync_playwright

from piastra.demo.saltmarsh import PROJECT
from tests.browser.conftest import ARGUMENTS, Desk

EDITS = 20


class Running:
    """A server that somebody else started."""

    def __init__(self, address: str) -> None:
        self.address = address

    def client(self) -> httpx.Client:
        return httpx.Client(base_url=self.address, timeout=60)


def main() -> None:
    server = Running(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8400")
    floors = [f for p in server.client().get("/api/projects").json() if p["name"] == PROJECT for f in p["floors"]]
    floor = next(f["id"] for f in floors if f["name"].startswith("Level 1: wet"))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        desk = Desk(page, server)
        desk.open(floor)
        desk.settled("works|not")
        desk.step("Load")
        page.get_by_role("tab", name="Loads").click()
        if desk.cell("laboratories", "worth").inner_text() != "own":
            desk.cell("laboratories", "worth").click()
            page.keyboard.type("own")
            desk.press("Enter")
            desk.said("laboratories: value from own")
        seconds, whole = [], []
        for k in range(EDITS + 1):
            expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=60_000)
            revision = int(re.search(r"rev (\d+)", page.get_by_test_id("state").inner_text()).group(1))
            desk.cell("laboratories", "q_kPa").click()
            page.keyboard.type(f"{3 + 0.01 * (k + 1):.2f}")
            start = time.perf_counter()
            desk.press("Enter")
            page.wait_for_function(
                f"document.querySelector('.meters').dataset.verdictOf === '{revision + 1}'", polling=10, timeout=60_000
            )
            seconds.append(time.perf_counter() - start)
            page.wait_for_function(
                f"/rev {revision + 1} . up to date/.test(document.querySelector('[data-testid=state]').textContent)",
                polling=10,
                timeout=60_000,
            )
            whole.append(time.perf_counter() - start)
        browser.close()
    runs = server.client().get(f"/api/floors/{floor}/runs").json()["runs"][:EDITS]
    print(
        f"Enter to fresh verdict: median {statistics.median(seconds[1:]):.2f} s, {min(seconds[1:]):.2f} to {max(seconds[1:]):.2f}"
    )
    print(f"Enter to all results on the screen: median {statistics.median(whole[1:]):.2f} s")
    print(f"of it the run on the worker: median {statistics.median(r['seconds'] for r in runs):.2f} s")
    for stage in runs[0]["stages"]:
        print(f"  {stage}: median {statistics.median(r['stages'].get(stage, 0.0) for r in runs):.3f} s")


if __name__ == "__main__":
    main()
