"""One-way strips for the tests of histories, and an independent integration of their fibres.

The integration takes nothing from the code that it tests but the standard's functions: a section's fibres, bisected for their
equilibrium, with time steps of its own, and moments from statics.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.model.materials import Concrete
from piastra.core.pipeline import Outcome
from piastra.core.standards import standard_named
from piastra.core.standards.ageing_rules import Climate

FIBRES = 80


def strip(L: float = 6.0, h: float = 0.2, q: float = 3.0, bar: float = 12, spacing: float = 150, top: tuple[float, float] | None = (8, 200),
          stages: tuple[tuple[str, float, dict[str, float]], ...] = (("struck", 10, {"G": 1}), ("in use", 60, {"G": 1, "D": 1})),
          size: float = 0.5, walls: float = 0.0, concrete: dict[str, Any] | None = None, **history: Any) -> dict[str, Any]:  # fmt: skip
    """A strip 2 m wide on two lines, or between two walls as long as it is wide, which hold its ends along ``walls`` m of height."""
    mats = [{"id": "b", "face": "bottom", "direction": "x", "bar_mm": bar, "spacing_mm": spacing}]
    mats += [{"id": f"{f}y", "face": f, "direction": "y", "bar_mm": 10, "spacing_mm": 150} for f in ("bottom", "top")]
    if top:
        mats.append({"id": "t", "face": "top", "direction": "x", "bar_mm": top[0], "spacing_mm": top[1]})
    out: dict[str, Any] = {
        "format": "piastra-floor", "version": 1,
        "concretes": [{"id": "C30", "strength_MPa": 30, "poisson": 0.0, "unit_weight_kN_m3": 25, **(concrete or {})}],
        "rebars": [{"id": "B500", "yield_MPa": 500}],
        "slabs": [{"id": "S1", "outline": [[0, 0], [L, 0], [L, 2], [0, 2]], "thickness_m": h, "concrete": "C30", "rebar": "B500",
                   "cover_top_mm": 20, "cover_bottom_mm": 20}],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"}],
        "loads": [{"id": "d", "kind": "area", "case": "D", "q_kPa": q}],
        "combinations": [
            *({"id": f"H{k}", "limit_state": "quasi_permanent", "factors": f} for k, (_, _, f) in enumerate(stages)),
            {"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35, "D": 1.35}},
        ],
        "mats": mats, "mesh": {"size_m": size}, "probes": [{"id": "P", "at": [L / 2, 1.0]}],
        "history": {"stages": [{"id": name, "start_days": start, "combination": f"H{k}"} for k, (name, start, _) in enumerate(stages)],
                    "end_days": 10950, **history},
    }  # fmt: skip
    if walls:
        out["walls"] = [
            {
                "id": f"W{k}",
                "line": [[x, 0], [x, 2]],
                "thickness_m": 0.4,
                "concrete": "C30",
                "below": {"height_m": walls, "far_end": "fixed"},
            }
            for k, x in enumerate((0.0, L))
        ]
        for side, (ax, bx) in {"L": (0.0, 0.0), "R": (L, L)}.items():
            out["walls"] += [
                {"id": f"{side}{k}", "line": [[ax, y], [bx + (1.0 if side == "L" else -1.0), y]], "thickness_m": 0.4, "concrete": "C30",
                 "below": {"height_m": walls, "far_end": "fixed"}} for k, y in enumerate((0.0, 2.0))
            ]  # fmt: skip
    else:
        out["supports"] = [
            {"id": k, "kind": "line", "line": [[x, 0], [x, 2]], "vertical": "fixed"} for k, x in (("L", 0.0), ("R", L))
        ]
    return out


def middle(outcome: Outcome) -> float:
    """Deflection in the middle at the end, mm."""
    assert outcome.life is not None
    xy = outcome.meshed.mesh.xy
    at = np.argmin(np.hypot(*(xy - xy.mean(axis=0)).T))
    return 1e3 * float(outcome.life.stages[-1].w[-1, at])


class Fibres:
    """Sections at x places, in fibres; uncracked or cracked."""

    def __init__(self, places: int, h: float, steel: list[tuple[float, float]], cracked: bool) -> None:
        edges = np.linspace(-h / 2, h / 2, FIBRES + 1)
        self.z, self.d = (edges[1:] + edges[:-1]) / 2, np.diff(edges)
        self.steel, self.cracked = steel, cracked
        self.stress = np.zeros((places, FIBRES))
        self.made: list[np.ndarray] = []

    def resultants(self, a: np.ndarray, b: np.ndarray, E: float, free: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        sigma = self.stress + E * (a[:, None] + b[:, None] * self.z - free)
        if self.cracked:
            sigma = np.minimum(sigma, 0.0)
        force, moment = (sigma * self.d).sum(axis=1), (sigma * self.d * self.z).sum(axis=1)
        for area, z in self.steel:
            pull = 2e8 * area * (a + b * z)
            force, moment = force + pull, moment + pull * z
        return force, moment, sigma

    def bend(self, M: np.ndarray, E: float, free: np.ndarray) -> np.ndarray:
        """The curvatures under moments without axial force, by two bisections; the increments are kept."""

        def strain(b: np.ndarray) -> np.ndarray:
            low, high = np.full_like(b, -0.01), np.full_like(b, 0.01)
            for _ in range(34):
                a = (low + high) / 2
                short = self.resultants(a, b, E, free)[0] < 0
                low, high = np.where(short, a, low), np.where(short, high, a)
            return (low + high) / 2

        low, high = np.full_like(M, -0.2), np.full_like(M, 0.2)
        for _ in range(34):
            b = (low + high) / 2
            short = self.resultants(strain(b), b, E, free)[1] < M
            low, high = np.where(short, b, low), np.where(short, high, b)
        b = (low + high) / 2
        sigma = self.resultants(strain(b), b, E, free)[2]
        self.made.append(sigma - self.stress)
        self.stress = sigma
        return b


def integrated(L: float, h: float, steel: list[tuple[float, float]], loads: list[tuple[float, float]], end: float = 10950.0,
               strength: float = 30.0) -> list[float]:  # fmt: skip
    """Deflection (mm) in the middle of a simply supported strip after each load and at its end; ``steel`` areas m2/m and depths (m) below the
    middle; ``loads``: when, and how much from then on, kN/m2. Class N, 50 %, drying from 7 days, f_ctm."""
    rules = standard_named("EN 1992-1-1", {}).ageing
    assert rules is not None
    concrete, climate = Concrete(id="c", strength_MPa=strength), Climate(50.0, "N", 7.0)
    times: list[tuple[float, float, float]] = []
    for k, (start, q) in enumerate(loads):
        until = loads[k + 1][0] if k + 1 < len(loads) else end
        ends = start + np.concatenate([[0.0], np.geomspace(0.2, until - start, 16)])
        times += [(start, start, q), *((float(a), float(b), q) for a, b in zip(ends[:-1], ends[1:], strict=True))]
    x = np.linspace(0, L / 2, 13)
    curvature = np.zeros((len(times), len(x)))
    E_28 = rules.reference(concrete, 28.0, climate)
    mean = [(a + b) / 2 for a, b, _ in times]
    stops = np.array([b for _, b, _ in times])
    phi = np.zeros((len(times), len(times)))
    for j, t in enumerate(mean):
        phi[j:, j] = rules.creep(concrete, stops[j:], t, 1e3 * h, climate) / E_28
    E = rules.modulus(concrete, np.array(mean), climate)
    shrunk, f_ct = rules.shrinkage(concrete, stops, 1e3 * h, climate), rules.tension(concrete, stops, h, "mean", climate)
    states = Fibres(len(x), h, steel, False), Fibres(len(x), h, steel, True)
    worst, since = np.zeros(len(x)), np.full(len(x), np.inf)
    for k, (_, stop, q) in enumerate(times):
        M = q * x * (L - x) / 2
        kappas = []
        for s in states:
            free = np.full((len(x), FIBRES), -shrunk[k])
            for j, made in enumerate(s.made):
                free = free + made * (1 / E[j] + phi[k, j])
            kappas.append(s.bend(M, 1 / (1 / E[k] + phi[k, k]), free))
        edge = states[0].stress[:, -1] + (states[0].stress[:, -1] - states[0].stress[:, -2]) / 2
        worst = np.maximum(worst, edge / f_ct[k])
        since = np.where((worst > 1) & np.isinf(since), stop, since)
        beta = 0.5 + 0.5 * np.exp(-(stop - np.minimum(since, stop)) / 7.0)
        zeta = np.where(worst > 1, 1 - beta / np.maximum(worst, 1.0) ** 2, 0.0)
        curvature[k] = (1 - zeta) * kappas[0] + zeta * kappas[1]
    sag = np.trapezoid(curvature * x, x, axis=1) * 1e3
    last = [k for k in range(len(times)) if k + 1 == len(times) or times[k + 1][0] == times[k + 1][1]]
    return [float(sag[k]) for k in last]
