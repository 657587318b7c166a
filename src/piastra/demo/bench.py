"""Speed and memory: of the demo's main floor against the bare work, and of floors of any area."""

from __future__ import annotations

import resource
import statistics
import time
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.linear_solver import bare_work
from piastra.core.fe.system import coupled
from piastra.core.model import Floor, floor_from
from piastra.core.pipeline import Outcome, solve_floor
from piastra.core.stages import StageCache
from piastra.demo.large import flat_floor
from piastra.demo.saltmarsh import level_1
from piastra.exchange.floor_file import document
from piastra.exchange.results_file import seconds

MESHING = ("linework", "plan", "mesh")
"""Stages that make the mesh."""


def _timed(floor: Floor, cache: StageCache | None = None) -> tuple[Outcome, dict[str, float], tuple[float, float]]:
    """A floor solved, the seconds of the process's CPU that passed during each stage (what goes on beside a stage counts with it), and those until the
    verdict of strength was told, with the greatest memory (MB) until then."""
    marks: list[tuple[str, float]] = []
    verdicts: list[tuple[float, float]] = []
    start = time.process_time()
    outcome = solve_floor(
        floor, cache, lambda name, share: marks.append((name, time.process_time())), rigorous=False,
        told=lambda rows, whole: verdicts.append((time.process_time() - start, peak_MB())),
    )  # fmt: skip
    cpu: dict[str, float] = {}
    # A long stage tells its name again and again.
    for (name, at), (_, after) in zip(marks[:-1], marks[1:], strict=True):
        cpu[name] = cpu.get(name, 0.0) + after - at
    return outcome, cpu, verdicts[0]


def _right(outcome: Outcome) -> tuple[sp.csr_matrix, npt.NDArray[np.float64]]:
    """The equations of a run: matrix, with all that elements could couple, and right-hand sides."""
    system = outcome.stiffness.system
    return coupled(system), np.asarray((system.T.T @ outcome.loads.matrix).toarray())


def measure(size_m: float = 0.5, rounds: int = 5) -> dict[str, Any]:
    """Nodes, unknowns, seconds by stage, peak memory, and the run without its mesh against the bare work: the whole of it (``ratio``), and as far as
    the verdict of strength (``ratio_to_strength``).

    The bare work is the sparse solver with its defaults on the same equations (:func:`bare_work`); both are CPU seconds of
    the process, medians of some rounds; deflections are the quick estimate. ``edit`` tells which stages run after a changed live load, and how long they take.
    """
    data = document(level_1())
    data["mesh"] = {"size_m": size_m}
    floor = floor_from(data)
    runs, bare, to_strength = [], [], []
    for _ in range(rounds):
        outcome, cpu, (until, _) = _timed(floor)
        runs.append(cpu)
        to_strength.append(until - sum(cpu[k] for k in MESHING))
        bare.append(bare_work(*_right(outcome)))
        outcome.stiffness.free()
    cpu = {k: statistics.median(run.get(k, 0.0) for run in runs) for k in runs[0]}
    whole = statistics.median(sum(v for k, v in run.items() if k not in MESHING) for run in runs)
    cache = StageCache()
    solve_floor(floor, cache, rigorous=False)
    next(o for o in data["occupancies"] if o["id"] == "wet laboratory")["q_kPa"] = 3.5
    start = time.perf_counter()
    edited = solve_floor(floor_from(data), cache, rigorous=False)
    passed = time.perf_counter() - start
    work = statistics.median(bare)
    return {
        "ratio": round(whole / work, 2), "ratio_to_strength": round(statistics.median(to_strength) / work, 2), "nodes": len(outcome.meshed.mesh.xy), "unknowns": outcome.stiffness.system.unknowns,
        "right_hand_sides": len(outcome.loads.units), "seconds": seconds(outcome),
        "cpu_seconds": {k: round(v, 3) for k, v in cpu.items()}, "without_mesh_cpu_seconds": round(whole, 3),
        "bare_seconds": round(work, 4), "peak_MB": peak_MB(),
        "edit": {"seconds": round(passed, 3), "stages_run": edited.ran},
    }  # fmt: skip


def peak_MB() -> float:
    """Greatest memory of the process so far."""
    return round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, 1)


def measure_area(area_m2: float, size_m: float = 0.5) -> dict[str, Any]:
    """CPU seconds by stage and memory of a flat slab of about this area with pattern load on every bay, to the verdict of strength and to the end,
    and the exponents with which its time grows from a tenth of the area."""
    found = {}
    for share in (0.1, 1.0):
        floor = floor_from(flat_floor(share * area_m2, size_m))
        outcome, cpu, (until, held) = _timed(floor)
        found[share] = (outcome.meshed.area.area, sum(cpu.values()), until)
    (small, short, first), (large, long, until) = found[0.1], found[1.0]
    times = np.log(large / small)
    return {
        "area_m2": round(large), "nodes": len(outcome.meshed.mesh.xy), "unknowns": outcome.stiffness.system.unknowns,
        "right_hand_sides": len(outcome.loads.units), "cpu_seconds": {k: round(v, 2) for k, v in cpu.items()},
        "strength": {
            "cpu_seconds": round(until, 1), "peak_MB": held, "exponent": round(float(np.log(until / first) / times), 2),
        },
        "total_cpu_seconds": round(long, 1), "peak_MB": peak_MB(), "exponent": round(float(np.log(long / short) / times), 2),
    }  # fmt: skip
