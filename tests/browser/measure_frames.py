"""Measures frame times of panning, zooming and drawing on a large floor: ``python -m tests.browser.measure_frames ADDRESS``.

Not a test: times depend on the machine. It prints the median, the 95th percentile and the worst frame of each.
"""

from __future__ import annotations

import statistics
import sys
import time

from playwright.sync_api import Page, sync_playwright

from piastra.demo.large import large_floor
from tests.browser.measure_edit import Running
from tests.conftest import ARGUMENTS

RECORD = """() => {
  window.frames_ = []; window.recording_ = true;
  let last = performance.now();
  const tick = (now) => { window.frames_.push(now - last); last = now; if (window.recording_) requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
}"""


def _told(name: str, frames: list[float]) -> None:
    frames = sorted(frames[2:])
    print(
        f"{name:<34} {len(frames):>4} frames   median {statistics.median(frames):6.1f} ms   "
        f"95 % {frames[int(0.95 * len(frames))]:6.1f} ms   worst {frames[-1]:6.1f} ms"
    )


def _recorded(page: Page, name: str, work) -> None:
    page.wait_for_timeout(600)
    page.evaluate(RECORD)
    work()
    page.evaluate("window.recording_ = false")
    _told(name, page.evaluate("window.frames_"))


def main(address: str) -> None:
    """Make the floor, wait for its run, and measure."""
    client = Running(address).client()
    made = client.post("/api/projects", json={"name": f"Large yard {time.time():.0f}"}).json()
    body = {"document": large_floor()}
    floor = client.post(f"/api/projects/{made['project']}/floors", json=body, timeout=120).json()["floor"]
    while (run := client.get(f"/api/floors/{floor}").json()["run"])["state"] in ("queued", "running"):
        time.sleep(1)
    print("run:", run["state"], run["seconds"])
    if run["state"] == "fresh":
        print("mesh:", client.get(f"/api/runs/{run['id']}/results", timeout=120).json()["mesh"])
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/?floor={made['floor']}")
        page.get_by_label("Floor").wait_for()
        page.wait_for_timeout(3000)
        begun = page.evaluate("performance.now()")
        page.get_by_label("Floor").select_option(str(floor))
        page.locator("path[data-kind=columns]").nth(399).wait_for(state="attached")
        page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
        print(f"from click to plan: {page.evaluate('performance.now()') - begun:.0f} ms")
        page.wait_for_timeout(6000)

        def drag() -> None:
            page.mouse.move(500, 300)
            page.mouse.down()
            for k in range(90):
                page.mouse.move(500 + 2 * k, 300 + k, steps=1)
                page.wait_for_timeout(14)
            page.mouse.up()

        def wheel() -> None:
            page.mouse.move(560, 330)
            for k in range(60):
                page.mouse.wheel(0, -60 if k < 30 else 60)
                page.wait_for_timeout(14)

        def draw() -> None:
            page.keyboard.press("s")
            for k in range(90):
                page.mouse.move(350 + 4 * k, 200 + 2 * (k % 30), steps=1)
                if k % 22 == 0:
                    page.mouse.click(350 + 4 * k, 200 + 2 * (k % 30))
                page.wait_for_timeout(14)
            page.keyboard.press("Escape")
            page.keyboard.press("Escape")

        page.locator("nav.route button", has_text="Build").click()
        _recorded(page, "pan, all of it in view", drag)
        _recorded(page, "zoom", wheel)
        _recorded(page, "draw a slab", draw)
        page.locator("nav.route button", has_text="Analyse").click()
        page.wait_for_timeout(1500)
        _recorded(page, "pan over the deflection field", drag)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
