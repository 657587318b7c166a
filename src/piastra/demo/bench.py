"""Speed and memory of the demo's main floor."""

from __future__ import annotations

import resource
import time
from typing import Any

from piastra.core.fe.linear_solver import factorise
from piastra.core.model import floor_from
from piastra.core.pipeline import solve_floor
from piastra.core.stages import StageCache
from piastra.demo.saltmarsh import level_1
from piastra.exchange.floor_file import document
from piastra.exchange.results_file import seconds


def measure(size_m: float = 0.5, rounds: int = 3) -> dict[str, Any]:
    """Nodes, unknowns, seconds by stage (the best of some rounds), peak memory, and the ratio of assembling,
    factorising, solving, recovering and checking to the bare factorisation and solution of the same equations.
    ``edit`` tells which stages run after a changed live load, and how long they take."""
    data = document(level_1())
    data["mesh"] = {"size_m": size_m}
    floor = floor_from(data)
    best: dict[str, float] = {}
    bare = float("inf")
    for _ in range(rounds):
        outcome = solve_floor(floor)
        found = seconds(outcome)
        if not best or found["total"] < best["total"]:
            best = found
        system = outcome.stiffness.system
        n, _, r = outcome.loads.vectors.shape
        right = system.T.T @ outcome.loads.vectors.reshape(5 * n, r)
        start = time.perf_counter()
        factor = factorise(system.matrix)
        factor.solve(right)
        bare = min(bare, time.perf_counter() - start)
        factor.free()
    work = sum(best[k] for k in ("assemble", "factorise", "solve", "recover", "check"))
    cache = StageCache()
    solve_floor(floor, cache)
    next(o for o in data["occupancies"] if o["id"] == "wet laboratory")["q_kPa"] = 3.5
    start = time.perf_counter()
    edited = solve_floor(floor_from(data), cache)
    return {
        "ratio": round(work / bare, 2), "nodes": len(outcome.meshed.mesh.xy), "unknowns": system.unknowns, "right_hand_sides": r,
        "seconds": best, "bare_seconds": round(bare, 4),
        "peak_MB": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, 1),
        "edit": {"seconds": round(time.perf_counter() - start, 3), "stages_run": edited.ran},
    }  # fmt: skip
