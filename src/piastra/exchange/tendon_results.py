"""Tendons in the results document: their forces, stresses of the concrete, precompression."""

from __future__ import annotations

from typing import Any

import numpy as np

from piastra.core.mesh.locate import find
from piastra.core.model.loading import STRENGTH
from piastra.core.model.tendons import Strand, Tendon
from piastra.core.pipeline import Outcome
from piastra.core.readings.takeoff import strand_mass
from piastra.core.reinforcement.derived import frames_at
from piastra.core.stages.tendons import lasting_factors
from piastra.core.strips.cuts import forces_across
from piastra.core.tendons.stresses import extremes
from piastra.core.trace import Step


def tendon_results(outcome: Outcome) -> dict[str, Any]:
    """Keys of the results document that floors without tendons have empty."""
    return {
        "tendons": tendons(outcome), "stresses": stresses(outcome), "precompression": precompression(outcome), "frames": frames(outcome),
    }  # fmt: skip


def frames(outcome: Outcome) -> list[dict[str, Any]]:
    """Of standards that ask for bonded bars over columns by the gross section of the frames that cross there: these sections across the plan."""
    if (
        outcome.prestress is None
        or outcome.steel.stations is None
        or not any(p.name == "bonded_support" for p in outcome.standard.provisions)
    ):
        return []
    at, cuts = outcome.steel.stations.faces[1].at, outcome.strips.cuts
    found = [f for f in frames_at(outcome.strips.layout, cuts, at.column) if at.frame[f.cuts].any()]
    most: dict[str, float] = {}
    for f in found:
        most[f.column] = max(most.get(f.column, 0.0), f.area)
    out = []
    for f in found:
        ends = cuts.ends[f.cuts].reshape(-1, 2)
        angle = float(cuts.angle[f.cuts[0]])
        aside = ends @ (-np.sin(angle), np.cos(angle))
        out.append({
            "column": f.column, "direction": f.direction, "ends": ends[[int(aside.argmin()), int(aside.argmax())]].round(4).tolist(),
            "area_m2": round(f.area, 4), "governs": f.area >= most[f.column] - 1e-9,
        })  # fmt: skip
    return out


def tendons(outcome: Outcome) -> list[dict[str, Any]]:
    """Every tendon along its length: level and force in each state."""
    laid, forces = outcome.tendons, outcome.tendon_forces
    if laid is None or forces is None:
        return []
    strands = {s.id: s for s in outcome.floor.strands}
    rules = outcome.standard.prestress
    out = []
    for k, t in enumerate(outcome.floor.tendons):
        c, p, strand, loss = laid.curves[k], laid.stressed[k], strands[t.strand], forces.losses[k]
        area = t.count * strand.area_mm2
        EA = area * strand.E_MPa / 1e3
        limit = _jack_limit(rules.jack_limit(strand)) if rules else None
        burst = _bursting(outcome, t, strand) if rules else (0.0, 0.0)
        slip = strand.draw_in_mm * (2 if t.stressed_from == "both" else 1)
        out.append({
            "id": t.id, "length_m": round(float(c.along()[-1]), 4), "extension_mm": round(1e3 * p.extension, 2),
            "extension_locked_mm": round(1e3 * p.extension - slip, 2), "area_mm2": area, "EA_kN": EA, "felt_m": [round(f, 3) for f in p.felt],
            "s_m": c.s.round(4).tolist(), "z_mm": (1e3 * c.z).round(2).tolist(), "at": c.xy.round(4).tolist(),
            "jacking_kN": p.jacking.round(3).tolist(), "locked_kN": p.locked.round(3).tolist(),
            "transfer_kN": forces.at_transfer[k].round(3).tolist(), "final_kN": forces.in_the_end[k].round(3).tolist(),
            "least_kN": round(float(forces.in_the_end[k].min()), 3), "mean_kN": round(_mean(c.s, forces.in_the_end[k]), 3),
            "shortening_loss_MPa": round(float(loss.shortening.mean()), 2), "time_loss_MPa": round(float(loss.time.mean()), 2),
            "jack_MPa": t.jack_MPa, "jack_limit_MPa": limit, "bursting_kN": round(burst[0], 2), "bursting_mm2": round(burst[1], 1), "mass_kg": round(strand_mass(strand, t.count) * float(c.along()[-1]), 2),
        })  # fmt: skip
    return out


def _bursting(outcome: Outcome, t: Tendon, strand: Strand) -> tuple[float, float]:
    """Force (kN) and steel (mm2) at the anchors of a tendon, where the slab is thicker of both ends."""
    rules = outcome.standard.prestress
    assert rules is not None
    ends = np.array([t.line[0][:2], t.line[-1][:2]])
    element = find(outcome.meshed.elements, ends, within=0.05)
    h = outcome.stiffness.values.h[outcome.meshed.face[element[element >= 0]]]
    if not len(h):
        return 0.0, 0.0
    jacking = t.count * strand.area_mm2 * t.jack_MPa / 1e3
    force, steel = rules.bursting(jacking, strand.anchor_mm / 1e3, float(h.max()), min(r.yield_MPa for r in outcome.floor.rebars))
    assert force.result is not None
    assert steel.result is not None
    return force.result.value, steel.result.value


def _jack_limit(step: Step) -> float | None:
    return round(step.result.value, 2) if step.result else None


def _mean(s: np.ndarray[Any, Any], force: np.ndarray[Any, Any]) -> float:
    return float(np.trapezoid(force, s) / s[-1])


def stresses(outcome: Outcome) -> list[dict[str, Any]]:
    """Least and greatest stress of the concrete at the stations of every strip under each combination of service and transfer: of the
    strip itself, and of the whole design strip, by which standards judge."""
    found = outcome.prestress
    combinations = [f for f in outcome.combinations if f.limit_state not in STRENGTH]
    if found is None or not combinations:
        return []
    layout, cuts = outcome.strips.layout, outcome.strips.cuts
    out = []
    for f in combinations:
        spread = (1.0, 1.0) if f.limit_state == "transfer" else found.spread
        low, high = (v[..., 0] / 1e3 for v in extremes(found.stress, [f], found.units, spread))
        over_low, over_high = (v[..., 0] / 1e3 for v in extremes(found.averaged, [f], found.units, spread))
        for k, strip in enumerate(layout.strips):
            mine = np.flatnonzero(cuts.strip == k)
            if not len(mine):
                continue
            out.append({
                "strip": strip.id, "label": strip.label, "combination": f.combination, "s_m": cuts.s[mine].round(4).tolist(),
                "top_MPa": [low[mine, 1].round(4).tolist(), high[mine, 1].round(4).tolist()],
                "bottom_MPa": [low[mine, 0].round(4).tolist(), high[mine, 0].round(4).tolist()],
                "design_strip_top_MPa": [over_low[mine, 1].round(4).tolist(), over_high[mine, 1].round(4).tolist()],
                "design_strip_bottom_MPa": [over_low[mine, 0].round(4).tolist(), over_high[mine, 0].round(4).tolist()],
            })  # fmt: skip
    return out


def balanced_shares(outcome: Outcome) -> list[float | None]:
    """Of every strip the share of its lasting load that the final prestress lifts: by the sags of both moments between the middle of
    the span and the mean of its ends, which no secondary moment changes. None for cantilevers and where nothing lasts."""
    forces, layout, cuts = outcome.tendon_forces, outcome.strips.layout, outcome.strips.cuts
    if forces is None:
        return []
    factors = lasting_factors(outcome.floor)
    lasting = cuts.forces[:, 0] @ np.array([factors.get(u.case, 0.0) for u in outcome.loads.units])
    u = forces.u[..., None]
    lifted = forces_across(cuts, outcome.stiffness.system, u, forces.concrete[..., None])[0][:, 0, 0]
    out: list[float | None] = []
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if strip.cantilever or len(mine) < 5:
            out.append(None)
            continue
        middle = mine[len(mine) // 2]
        down, up = (float(m[middle] - (m[mine[0]] + m[mine[-1]]) / 2) for m in (lasting, lifted))
        out.append(round(-up / down, 4) if down > 1e-6 else None)
    return out


def precompression(outcome: Outcome) -> list[dict[str, Any]]:
    """Mean precompression of every strip that tendons run through: force over area, and what the analysis finds in the concrete."""
    found = outcome.prestress
    if found is None:
        return []
    layout, cuts = outcome.strips.layout, outcome.strips.cuts
    shares = balanced_shares(outcome)
    force, axial = found.whole.sums @ found.at.force, found.whole.sums @ found.axial
    out = []
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if not len(mine) or not (found.at.force[mine] > 0).any():
            continue
        A, groups = found.own.A[mine], found.whole.group[mine]
        area = found.whole.sections.A[groups]
        out.append({
            "strip": strip.id, "label": strip.label, "P_over_A_MPa": round(float((found.at.force[mine] / A).mean()) / 1e3, 4),
            "analysis_MPa": round(-float((found.axial[mine] / A).mean()) / 1e3, 4),
            "balanced_share": shares[k],
            "design_strip_P_over_A_MPa": round(float((force[groups] / area).mean()) / 1e3, 4),
            "design_strip_analysis_MPa": round(-float((axial[groups] / area).mean()) / 1e3, 4),
        })  # fmt: skip
    return out
