"""From an edit to the fresh verdict in the browser, on the demo's main floor.

Not a test: ``python -m tests.browser.measure_edit ADDRESS [COUNT]`` against a running server prints, for each kind of edit, the
median over COUNT (20) edits from the Enter key to the verdict of strength on the screen, to that of all checks, and to all results; that of the edits
during which a machine that others use as well was as fast as it ever was; and the medians of the run on the worker.
"""

from __future__ import annotations

import re
import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import httpx
from playwright.sync_api import expect, sync_playwright

from piastra.demo.saltmarsh import PROJECT
from tests.browser.conftest import Desk
from tests.conftest import ARGUMENTS


class Running:
    """A server that somebody else started."""

    def __init__(self, address: str) -> None:
        self.address = address

    def client(self) -> httpx.Client:
        made = httpx.Client(base_url=self.address, timeout=60)
        made.headers["x-piastra-guard"] = made.post("/api/sign-in/demo").raise_for_status().json()["guard"]
        return made


@dataclass(frozen=True, slots=True)
class Edit:
    """A cell of the ledger, and what is typed into it the k-th time."""

    name: str
    step: str
    tab: str
    row: str
    path: str
    typed: Callable[[int], str]
    filtered: bool = False
    """Whether the row is far down in its table."""


ALIKE = 1.15
"""A machine is as fast as it was at best while the same sums take no more than so many times as long."""
LOOK = 1.0
"""Seconds between results and the next edit: they are drawn, and their last part is stored."""
EDITS = (
    Edit("live load", "Load", "Loads", "laboratories", "q_kPa", lambda k: f"{3 + 0.01 * (k + 1):.2f}"),
    Edit("thickness", "Build", "Slabs", "S1", "thickness_m", lambda k: f"{261 + k}"),
    Edit("column moved", "Build", "Columns", "B3", "at.0", lambda k: f"{7.2 + 0.02 * (k + 1):.2f}", True),
    Edit("mat", "Build", "Mats", "bottom x", "spacing_mm", lambda k: f"{126 + k}"),
    Edit("factor", "Combine", "Combinations", "U3", "factor:Q", lambda k: f"{1.51 + 0.01 * k:.2f}"),
)


def pace() -> float:
    """Seconds that the machine takes at the moment for sums that are always the same."""
    start, total = time.perf_counter(), 0
    for k in range(1_000_000):
        total += k
    return time.perf_counter() - start


def timed(desk: Desk, edit: Edit, count: int) -> tuple[list[float], list[float], list[float], list[float]]:
    """Seconds to the verdict of strength, to that of all checks and to all results of ``count`` edits, and the machine's pace (the slower
    of before and after) at each; the first one, which opens the table, is not counted."""
    page = desk.page
    desk.step(edit.step)
    page.get_by_role("tab", name=edit.tab).first.click()
    if edit.filtered:
        page.get_by_placeholder(re.compile("^Filter")).fill(edit.row)
    seconds, checked, whole, paces = [], [], [], []
    # A value that stands there already is no edit.
    shown = desk.cell(edit.row, edit.path).inner_text()
    values = [v for v in map(edit.typed, range(count + 2)) if v not in shown][: count + 1]
    for value in values:
        expect(page.get_by_test_id("state")).to_have_text(re.compile("up to date"), timeout=60_000)
        # As long as one looks at what came at the least.
        time.sleep(LOOK)
        revision = int(re.search(r"rev (\d+)", page.get_by_test_id("state").inner_text()).group(1))
        desk.cell(edit.row, edit.path).click()
        page.keyboard.type(value)
        paces.append(pace())
        start = time.perf_counter()
        desk.press("Enter")
        page.wait_for_function(
            f"document.querySelector('.meters').dataset.verdictOf === '{revision + 1}'", polling=10, timeout=60_000
        )
        seconds.append(time.perf_counter() - start)
        page.wait_for_function("document.querySelector('.meters').dataset.whole === 'true'", polling=10, timeout=60_000)
        checked.append(time.perf_counter() - start)
        page.wait_for_function(
            f"/rev {revision + 1} . up to date/.test(document.querySelector('[data-testid=state]').textContent)",
            polling=10,
            timeout=60_000,
        )
        whole.append(time.perf_counter() - start)
    time.sleep(LOOK)
    paces.append(pace())
    return seconds[1:], checked[1:], whole[1:], [max(pair) for pair in pairwise(paces[1:])]


def main() -> None:
    server = Running(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8400")
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 20
    floors = [f for p in server.client().get("/api/projects").json() if p["name"] == PROJECT for f in p["floors"]]
    floor = next(f["id"] for f in floors if f["name"].startswith("Level 1: wet"))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        desk = Desk(browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True), server)
        desk.open(floor)
        desk.settled("works|not")
        desk.step("Load")
        desk.page.get_by_role("tab", name="Loads").click()
        if desk.cell("laboratories", "worth").inner_text() != "own":
            desk.cell("laboratories", "worth").click()
            desk.page.keyboard.type("own")
            desk.press("Enter")
            desk.said("laboratories: value from own")
        best = min(pace() for _ in range(20))
        for edit in EDITS:
            seconds, checked, whole, paces = timed(desk, edit, count)
            best = min(best, *paces)
            fast = [s for s, p in zip(seconds, paces, strict=True) if p <= ALIKE * best]
            alone = f"{statistics.median(fast):.2f} s in the {len(fast)} at full speed" if fast else "none at full speed"
            runs = server.client().get(f"/api/floors/{floor}/runs").json()["runs"][:count]
            stages = {s: statistics.median(r["stages"].get(s, 0.0) for r in runs) for s in runs[0]["stages"]}
            told = ", ".join(f"{s} {v:.2f}" for s, v in stages.items() if v > 0.005)
            print(
                f"{edit.name:<13} strength {statistics.median(seconds):.2f} s ({min(seconds):.2f} to {max(seconds):.2f}; {alone}), "
                f"all checks {statistics.median(checked):.2f} s, "
                f"all results {statistics.median(whole):.2f} s; on the worker: {told}",
                flush=True,
            )
        browser.close()


if __name__ == "__main__":
    main()
