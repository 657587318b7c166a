"""The life of a floor in the results file."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
from scipy.special import ndtri

from piastra.core.checks.deflection import estimated_parts
from piastra.core.checks.row import Ref, RowId
from piastra.core.deflection.lived import LOW, Life, LivedSag
from piastra.core.deflection.sag import Sag
from piastra.core.history.life import Lasting
from piastra.core.history.served import crack_widths, steel_stress
from piastra.core.mesh.locate import find, weights
from piastra.core.pipeline import Outcome

Array = npt.NDArray[np.float64]


def sags(outcome: Outcome) -> list[dict[str, Any]]:
    """Sags of the history, or of the quick estimate where there is none."""
    if outcome.life is None:
        return [_estimated(outcome, s) for s in outcome.sags]
    assert outcome.floor.history is not None
    of_stage = {s.id: s.combination for s in outcome.floor.history.stages}
    return [_lived(s, of_stage[s.ends]) for s in outcome.life.sags]


def _estimated(outcome: Outcome, s: Sag) -> dict[str, Any]:
    assert outcome.long_term is not None
    parts = estimated_parts(outcome.meshed.elements, outcome.long_term, outcome.body, s)
    return {
        "row": RowId("deflection", Ref("lines", s.line.id)).key, "where": s.line.label, "limit": "", "by": "estimate",
        "ends": np.round(s.line.ends, 4).tolist(), "span_m": s.line.span, "sag_mm": 1e3 * s.sag, "limit_mm": 1e3 * s.limit,
        "band_mm": None, "chance": None, "at": list(s.at), "combination": s.combination, "utilisation": s.utilisation,
        "parts_mm": [1e3 * p for p in parts], "causes": [],
    }  # fmt: skip


def _lived(s: LivedSag, combination: str) -> dict[str, Any]:
    return {
        "row": RowId("deflection", Ref("lines", s.line.id), part=s.limit_id).key, "where": s.line.label, "limit": s.limit_id, "by": "history",
        "ends": np.round(s.line.ends, 4).tolist(), "span_m": s.line.span, "sag_mm": 1e3 * s.sag, "limit_mm": 1e3 * s.limit,
        "band_mm": [1e3 * b for b in s.band], "chance": s.chance, "at": list(s.at), "combination": combination, "utilisation": s.utilisation,
        "parts_mm": [1e3 * p for p in s.parts], "causes": [{"property": n, "sag_mm": 1e3 * d} for n, d in s.causes],
    }  # fmt: skip


def history(outcome: Outcome) -> dict[str, Any] | None:
    """Stages, curves of the probes and of the governing place, sags; null for a floor without a history."""
    life, floor = outcome.life, outcome.floor
    if life is None or floor.history is None:
        return None
    xy = outcome.meshed.mesh.xy
    area = shapely.area(outcome.meshed.elements.shapes)
    stages = []
    for k, (lived, stage) in enumerate(zip(life.stages, floor.history.stages, strict=True)):
        w = lived.w[-1]
        worst = int(w.argmax())
        open_ = lived.state.cracked.any(axis=0)
        stages.append({
            "id": stage.id, "start_days": stage.start_days, "end_days": floor.history.until(k), "combination": stage.combination,
            "greatest_w_mm": 1e3 * float(w[worst]), "at": np.round(xy[worst], 4).tolist(),
            "cracked_share": float(area[open_].sum() / area.sum()), "steel_MPa": float(steel_stress(lived, outcome.body).max(initial=0.0)) / 1e3,
            "crack_mm": _widest(outcome, lived),
            "rounds": sum(r.rounds for r in lived.reports), "unbalanced": max(r.unbalanced for r in lived.reports), "converged": lived.converged,
        })  # fmt: skip
    found: list[tuple[str, tuple[float, float]]] = [(p.id, (p.at[0], p.at[1])) for p in floor.probes]
    governing = max(life.sags, key=lambda s: s.utilisation, default=None)
    return {
        "stages": stages, "probes": [c for label, at in found if (c := _curve(outcome, life, label, at)) is not None],
        "governing": _curve(outcome, life, f"{governing.line.label}, {governing.limit_id}", governing.at) if governing else None,
        "sags": [
            {"where": s.line.label, "limit": s.limit_id, "sag_mm": 1e3 * s.sag, "limit_mm": 1e3 * s.limit, "utilisation": s.utilisation,
             "band_mm": [1e3 * b for b in s.band]} for s in life.sags
        ],
    }  # fmt: skip


def _widest(outcome: Outcome, lived: Lasting) -> float | None:
    """Greatest crack width (mm) at the end of a stage; None where the standard has no formula."""
    rules = outcome.standard.cracking
    found = crack_widths(rules, lived, outcome.body) if rules is not None else None
    return None if found is None else 1e3 * float(found.max(initial=0.0))


def _curve(outcome: Outcome, life: Life, label: str, at: tuple[float, float]) -> dict[str, Any] | None:
    """Deflection against time at a place; two values for the day on which a load comes. None beside the floor."""
    elements = outcome.meshed.elements
    place = np.array([at], dtype=np.float64)
    element = find(elements, place, within=0.05)
    if element[0] < 0:
        return None
    share, nodes = weights(elements, element, place)[0], elements.nodes[element[0]]
    assert outcome.floor.history is not None
    days: list[float] = []
    w: list[float] = []
    stage: list[str] = []
    spread: list[float] = []
    before, reached = 0.0, 0.0
    for k, (lived, s) in enumerate(zip(life.stages, outcome.floor.history.stages, strict=True)):
        own = 1e3 * (lived.w[:, nodes] @ share)
        days += [s.start_days, *(step.ends for step in lived.steps)]
        w += [before, *own.tolist()]
        stage += [s.id] * (1 + len(own))
        # Between the load and the end of a stage the scatter grows as the deflection does.
        first, last = (1e3 * float(np.sqrt(sum(float(x.w[k, end][nodes] @ share) ** 2 for x in life.swings))) for end in (0, 1))
        grown = np.linspace(0, 1, len(own)) if abs(own[-1] - own[0]) < 1e-9 else (own - own[0]) / (own[-1] - own[0])
        spread += [reached, *(first + np.clip(grown, 0, 1) * (last - first)).tolist()]
        before, reached = float(own[-1]), last
    reach = float(ndtri(1 - LOW))
    return {"id": label, "at": list(at), "days": days, "w_mm": w, "stage": stage, "reach_mm": [reach * s for s in spread]}
