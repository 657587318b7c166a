"""Fifty people on ten floors: how long reads and saves take, and how long a floor waits for results.

``python -m tests.faults.crowd [SECONDS]`` starts a server of its own with two workers; everybody looks at something once a second and changes a floor every eight
seconds, for two minutes.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import statistics
import sys
import tempfile
import threading
import time
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import psutil

from tests.faults.storm import House
from tests.floors import flat_slab

PEOPLE, FLOORS = 50, 10
LOOKS, CHANGES = 1.0, 8.0
"""Seconds between somebody's looks and changes."""


@dataclass
class Seen:
    """Seconds of ``reads`` and ``saves``, what ``failed``, and when each floor had new results."""

    reads: list[float] = field(default_factory=list)
    saves: list[float] = field(default_factory=list)
    failed: list[str] = field(default_factory=list)
    fresh: dict[int, list[float]] = field(default_factory=lambda: defaultdict(list))
    load: list[float] = field(default_factory=list)
    newest: dict[int, int] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def saw(self, floor: int, run: int) -> None:
        """Somebody has results of a run before him; an answer that was overtaken tells nothing new."""
        with self._lock:
            if run > self.newest.get(floor, 0):
                if floor in self.newest:
                    self.fresh[floor].append(time.monotonic())
                self.newest[floor] = run


class Line:
    """Somebody's connection to the server, which costs this machine little: people's own machines are not the server's."""

    def __init__(self, house: House, headers: dict[str, str]) -> None:
        self._headers, self._kept = headers, http.client.HTTPConnection(house.address.removeprefix("http://"), timeout=30)

    def asked(self, into: list[float], seen: Seen, method: str, path: str, body: object = None) -> bytes | None:
        """What is answered; None where that failed, or another one saved first."""
        begun = time.perf_counter()
        headers = {**self._headers, "Content-Type": "application/json"} if body is not None else self._headers
        try:
            self._kept.request(method, path, json.dumps(body) if body is not None else None, headers)
            answer = self._kept.getresponse()
            text = answer.read()
        except (OSError, http.client.HTTPException) as error:
            seen.failed.append(f"{method} {path}: {error!r}")
            self._kept.close()
            return None
        into.append(time.perf_counter() - begun)
        if answer.status >= 400 and answer.status != 409:
            seen.failed.append(f"{method} {path}: {answer.status} {text[:100]!r}")
        return text if answer.status < 400 else None

    def state(self, into: list[float], seen: Seen, floor: int) -> dict[str, Any]:
        """How a floor stands; empty where that failed."""
        return json.loads(self.asked(into, seen, "GET", f"/api/floors/{floor}") or "{}")


def _person(k: int, line: Line, floors: list[int], until: float, seen: Seen) -> None:
    chance = random.Random(k)
    floor = floors[k % len(floors)]
    time.sleep(chance.uniform(0, LOOKS))
    changes = time.monotonic() + chance.uniform(0, CHANGES)
    while time.monotonic() < until:
        state = line.state(seen.reads, seen, floor)
        if state:
            seen.saw(floor, state["fresh"]["id"])
        if state and chance.random() < 0.3:
            line.asked(seen.reads, seen, "GET", f"/api/runs/{state['fresh']['id']}/results")
        if state and time.monotonic() > changes:
            changes = time.monotonic() + CHANGES
            document = state["document"]
            # A value that was there before would bring back results instead of asking for some.
            document["loads"][0]["q_kPa"] = round(chance.uniform(1, 3), 9)
            body = {"based_on": state["revision"], "document": document, "line": f"load by {k}", "settle": "mine"}
            line.asked(seen.saves, seen, "PUT", f"/api/floors/{floor}", body)
        time.sleep(LOOKS)


def gather(house: House, seconds: float) -> tuple[Seen, float]:
    """Let them in; what was seen, and the longest that a floor went without new results (s)."""
    first = house.client()
    project = first.post("/api/projects", json={"name": "Crowd", "standard": "EN 1992-1-1"}).json()["project"]
    floors = []
    for k in range(FLOORS):
        body = {"document": {**flat_slab(2, 2, size=0.7), "name": f"Deck {k + 1}"}}
        floors.append(first.post(f"/api/projects/{project}/floors", json=body).json()["floor"])
    while any((first.get(f"/api/floors/{f}").json()["fresh"]) is None for f in floors):
        time.sleep(0.5)
    headers = {
        "x-piastra-guard": first.headers["x-piastra-guard"], "Cookie": f"piastra={first.cookies['piastra']}",
        "Accept-Encoding": "gzip, deflate",
    }  # fmt: skip  # as browsers do
    seen, begun = Seen(), time.monotonic()
    until = begun + seconds

    with ThreadPoolExecutor(PEOPLE) as together:
        there = [together.submit(_person, k, Line(house, headers), floors, until, seen) for k in range(PEOPLE)]
        while time.monotonic() < until:
            seen.load.append(psutil.cpu_percent())
            time.sleep(1.0)
    for one in there:
        one.result()
    gaps = [b - a for f in floors for a, b in zip([begun, *seen.fresh[f]], [*seen.fresh[f], until], strict=True)]
    return seen, max(gaps)


def main() -> None:
    """Let them in, and tell."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 120.0
    os.environ.setdefault("PIASTRA_WORKERS", "2")
    with tempfile.TemporaryDirectory() as folder, House(Path(folder), projects=0) as house:
        seen, gap = gather(house, seconds)
    reads, saves = (statistics.quantiles(values, n=20) for values in (seen.reads, seen.saves))
    print(
        f"{len(seen.reads)} reads, median {reads[9]:.2f} s, 95 % {reads[18]:.2f} s; {len(seen.saves)} saves, median {saves[9]:.2f} s, "
        f"95 % {saves[18]:.2f} s; longest without new results {gap:.1f} s; {sum(map(len, seen.fresh.values()))} results; "
        f"{statistics.mean(seen.load):.0f} % of {psutil.cpu_count()} cores"
    )
    print("\n".join(seen.failed[:10]) or "no request failed")
    if seen.failed or reads[18] > 1 or saves[18] > 2 or gap > 20:
        sys.exit(1)


if __name__ == "__main__":
    main()
