"""Random floors that could be built, and that must all mesh and solve: ``python -m tests.random_floors [COUNT] [FIRST]``.

Grids turned, skewed and shifted, stepped and curved edges, two slabs at a joint, drops and bands that reach edges or touch
lines, columns flush with edges, walls along axes and around cores, openings beside columns and walls.
"""

from __future__ import annotations

import sys
import time
from typing import Any

import numpy as np

from piastra.core.model import RefusedError, floor_from
from tests.solving import solve_floor

STOREY = {"height_m": 3.2, "far_end": "fixed"}


def random_floor(seed: int) -> dict[str, Any]:
    """The floor of a seed."""
    r = np.random.default_rng(seed)
    nx, ny = (int(k) for k in r.integers(1, 4, 2))
    x = np.concatenate([[0.0], np.cumsum(r.uniform(4.5, 8.0, nx))])
    y = np.concatenate([[0.0], np.cumsum(r.uniform(4.5, 8.0, ny))])
    if r.random() < 0.4:
        x, y = np.arange(nx + 1) * 6.0, np.arange(ny + 1) * 6.0
    turn = 0.0 if r.random() < 0.25 else float(r.choice([10.0, 15.0, 25.0, 37.0, r.uniform(0, 90)]))
    skew = 0.0 if r.random() < 0.7 else float(r.uniform(-20, 20))
    away = r.uniform(-50, 50, 2) if r.random() < 0.5 else np.zeros(2)
    digits = int(r.choice([3, 4, 6, 12]))
    c, s, t = np.cos(np.radians(turn)), np.sin(np.radians(turn)), np.tan(np.radians(skew))

    def put(u: float, v: float) -> list[float]:
        u = u + t * v
        return [round(float(c * u - s * v + away[0]), digits), round(float(s * u + c * v + away[1]), digits)]

    def ring(points: list[tuple[float, float]]) -> list[list[float]]:
        return [put(*p) for p in points]

    def box(x0: float, y0: float, x1: float, y1: float) -> list[list[float]]:
        return ring([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])

    b = float(r.choice([0.3, 0.4, 0.45, 0.6]))
    over = float(r.choice([0.0, b / 2, b / 2 + 0.1, r.uniform(0.5, 1.5)]))
    x0, y0, x1, y1 = -over, -over, x[-1] + over, y[-1] + over
    corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    if nx > 1 and r.random() < 0.35:
        # A corner left out, along an axis or beside it.
        u, v = x[-2] + float(r.choice([0.0, over, r.uniform(0.1, 1)])), y[0] + (y[1] - y[0]) * float(r.choice([0.5, 0.9, 0.3]))
        corners = [(x0, y0), (u, y0), (u, v), (x1, v), (x1, y1), (x0, y1)]
    elif r.random() < 0.3:
        # An edge with steps.
        step = float(r.uniform(0.2, 0.8))
        u, v = (x0 + x1) / 2, (x0 + x1) / 2 + float(r.uniform(0.5, 2.0))
        corners = [(x0, y0), (u, y0), (u, y0 - step), (v, y0 - step), (v, y0), (x1, y0), (x1, y1), (x0, y1)]
    outline: list[Any] = ring(corners)
    if len(corners) != 6 and r.random() < 0.25:
        outline[-2] = [*outline[-2], round(float(r.uniform(-0.25, -0.05)), 4)] if r.random() < 0.5 else [
            *outline[-2], round(float(r.uniform(0.05, 0.25)), 4)]  # fmt: skip
    h = float(r.choice([0.2, 0.25, 0.3]))
    base = {"concrete": "C30", "rebar": "B500"}
    slabs = [{"id": "S1", "outline": outline, "thickness_m": h, **base}]
    if nx > 1 and len(corners) == 4 and len(outline[2]) == 2 and r.random() < 0.4:
        at = float(x[1] + r.choice([0.0, b / 2, r.uniform(0.3, 2.0)]))
        slabs = [
            {"id": "S1", "outline": box(x0, y0, at, y1), "thickness_m": h, **base},
            {"id": "S2", "outline": box(at, y0, x1, y1), "thickness_m": h + float(r.choice([0.0, 0.05, 0.1])),
             "top_offset_m": float(r.choice([0.0, -0.05])), **base},
        ]  # fmt: skip

    left_out = len(corners) == 6

    def there(u: float, v: float) -> bool:
        return not (left_out and u > corners[1][0] - 1e-9 and v < corners[2][1] - 1e-9)

    round_ones = r.random() < 0.25
    shape = (
        {"kind": "circle", "diameter_m": b}
        if round_ones
        else {"kind": "rectangle", "b_m": b, "d_m": float(r.choice([b, 0.3, 0.8]))}
    )
    columns, thickenings, walls, openings, beams = [], [], [], [], []
    bare = set()
    if nx > 1 and r.random() < 0.5:
        # A wall in place of the columns of one axis, or from a column to the next.
        i = int(r.integers(0, nx + 1))
        if there(x[i], y[0]) and there(x[i], y[-1]):
            ends = (y[0], y[-1]) if r.random() < 0.4 else (y[0], y[1])
            if ends[1] == y[-1]:
                bare |= {(i, j) for j in range(ny + 1)}
            walls.append(
                {
                    "id": "W1",
                    "line": [put(x[i], ends[0]), put(x[i], ends[1])],
                    "thickness_m": 0.2,
                    "concrete": "C30",
                    "below": STOREY,
                }
            )
    drops = r.random() < 0.35
    for i in range(nx + 1):
        for j in range(ny + 1):
            if (i, j) in bare or not there(x[i], y[j]):
                continue
            columns.append(
                {"id": f"C{i}{j}", "at": put(x[i], y[j]), "shape": shape, "angle_deg": turn, "concrete": "C30", "below": STOREY}
            )
            if drops and r.random() < 0.7:
                half = float(r.choice([0.8, 1.0, 1.2]))
                u0, v0, u1, v1 = x[i] - half, y[j] - half, x[i] + half, y[j] + half
                if r.random() < 0.6:
                    u0, v0, u1, v1 = max(u0, x0), max(v0, y0), min(u1, x1), min(v1, y1)
                if there(u1, v0):
                    thickenings.append({"id": f"D{i}{j}", "outline": box(u0, v0, u1, v1), "thickness_m": h + 0.15})
    if r.random() < 0.25:
        j, half = int(r.integers(0, ny + 1)), float(r.choice([0.6, 0.9, b / 2]))
        if all(there(u, y[j]) for u in x):
            band = box(x0, max(y[j] - half, y0), x1, min(y[j] + half, y1))
            thickenings.append({"id": "B", "kind": "band", "outline": band, "thickness_m": h + 0.25, "priority": 1})
    elif r.random() < 0.3:
        j = int(r.integers(0, ny + 1))
        if all(there(u, y[j]) for u in x):
            beams.append(
                {"id": "E", "line": [put(x[0], y[j]), put(x[-1], y[j])], "width_m": 0.3, "depth_m": 0.6, "concrete": "C30"}
            )
    i, j = int(r.integers(0, nx)), ny - 1
    if r.random() < 0.5:
        u, v = x[i] + float(r.choice([b / 2, 0.6, 1.2, b / 2 + 0.02])), y[j] + float(r.choice([0.6, 1.5, b / 2]))
        du, dv = r.uniform(0.4, 2.0, 2)
        openings.append({"id": "O1", "outline": box(u, v, u + du, v + dv)})
        if r.random() < 0.4:
            walls.append(
                {
                    "id": "K",
                    "line": [*box(u, v, u + du, v + dv), put(u, v)],
                    "thickness_m": 0.2,
                    "concrete": "C30",
                    "below": STOREY,
                }
            )
    return {
        "format": "piastra-floor", "version": 1, "name": f"random {seed}",
        "concretes": [{"id": "C30", "strength_MPa": 30}], "rebars": [{"id": "B500", "yield_MPa": 500}],
        "slabs": slabs, "columns": columns, "walls": walls, "thickenings": thickenings, "openings": openings, "beams": beams,
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "Q", "nature": "live"}],
        "loads": [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 3.0}],
        "combinations": [{"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35, "Q": 1.5}}],
    }  # fmt: skip


def out_of_balance(document: dict[str, Any]) -> float:
    """Greatest difference between applied load and reactions of a solved floor, as a share of the load."""
    outcome = solve_floor(floor_from(document))
    applied = outcome.loads.applied
    reactions = outcome.solution.reactions[:, 0].sum(axis=0)
    return float(np.abs(reactions - applied).max() / np.abs(applied).max())


def main() -> None:
    """Solve floors and list those that are refused or out of balance."""
    count, first = (int(a) for a in (*sys.argv[1:], *("300", "0")[len(sys.argv) - 1 :]))
    start, bad = time.time(), 0
    for seed in range(first, first + count):
        try:
            error = out_of_balance(random_floor(seed))
            told = f"out of balance by {error:.1e}" if error > 1e-6 else ""
        except RefusedError as refused:
            told = str(refused)
        if told:
            bad += 1
            print(f"floor {seed}: {told}", flush=True)
    print(f"{count} floors, {bad} refused or out of balance, {time.time() - start:.0f} s")
    raise SystemExit(bad > 0)


if __name__ == "__main__":
    main()
