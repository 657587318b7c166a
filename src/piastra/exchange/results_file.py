"""The results file: what one run computed, as JSON."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra import __version__
from piastra.core.combine.envelope import envelope, envelopes
from piastra.core.deflection.sag import Sag
from piastra.core.design.punching import Zone
from piastra.core.pipeline import Outcome, probed
from piastra.core.readings.quantities import QUANTITIES
from piastra.core.readings.reading import diagram, slice_through
from piastra.core.readings.responses import Responses, responses_of
from piastra.core.trace import Trace
from piastra.core.verdict import Row

Array = npt.NDArray[np.float64]

PROBED = ("w_mm", "mx_kNm_m", "my_kNm_m", "mxy_kNm_m", "vx_kN_m", "vy_kN_m")


def seconds(outcome: Outcome) -> dict[str, float]:
    """Seconds of the contract's stages; a stage that was re-used counts nothing."""
    s = outcome.seconds
    factorise = outcome.stiffness.system.factorise_seconds if "stiffness" in s else 0.0
    out = {
        "mesh": s.get("plan", 0.0) + s.get("mesh", 0.0),
        "assemble": s.get("stiffness", 0.0) - factorise + s.get("loads", 0.0) + s.get("axes", 0.0) + s.get("panels", 0.0),
        "factorise": factorise,
        "solve": s.get("solve", 0.0) + s.get("combine", 0.0),
        "recover": s.get("forces", 0.0),
        "check": sum(
            s.get(k, 0.0) for k in ("stations", "strips", "mats", "steel", "zone places", "zones", "deflection", "verdict")
        ),
    }
    return {**{k: round(v, 4) for k, v in out.items()}, "total": round(sum(out.values()), 4)}


def equilibrium(outcome: Outcome) -> list[dict[str, Any]]:
    """Applied load against the sum of reactions, for each case."""
    rows = []
    up = outcome.solution.reactions[:, 0].sum(axis=0)
    for case in outcome.floor.load_cases:
        columns = outcome.loads.of_case(case.id)
        applied = float(outcome.loads.applied[columns].sum())
        reaction = float(up[columns].sum())
        size = max(abs(applied), float(np.abs(outcome.loads.applied[columns]).sum()), 1e-9)
        rows.append({
            "case": case.id, "applied_kN": applied, "reaction_kN": reaction, "residual": abs(applied - reaction) / size,
            "given_kN": sum(s.given_kN for s in outcome.loads.sums if s.case == case.id),
            "lost_kN": sum(s.lost_kN for s in outcome.loads.sums if s.case == case.id),
        })  # fmt: skip
    return rows


def selections(outcome: Outcome) -> list[tuple[str, Array]]:
    """Factors (r,) of every case and of every combination with all live load present."""
    cases = []
    for case in outcome.floor.load_cases:
        pick = np.zeros(len(outcome.loads.units))
        pick[outcome.loads.of_case(case.id)] = 1.0
        cases.append((case.id, pick))
    return cases + [(f.combination, f.full) for f in outcome.combinations]


def _number(value: float) -> float | None:
    return None if not np.isfinite(value) else float(value)


def _probes(outcome: Outcome) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    if not outcome.floor.probes:
        return [], []
    responses = probed(outcome, np.array([p.at for p in outcome.floor.probes]))
    values, envelopes = [], []
    for k, probe in enumerate(outcome.floor.probes):
        by_selection: dict[str, Any] = {}
        for label, factors in selections(outcome):
            by_selection[label] = {name: _number(v) for name, v in zip(PROBED, responses[k] @ factors, strict=True)}
        values.append({"id": probe.id, "values": by_selection})
    for f in outcome.combinations:
        least, greatest = envelope(responses, f)
        for k, probe in enumerate(outcome.floor.probes):
            row: dict[str, Any] = {"combination": f.combination, "probe": probe.id}
            row.update({name: [_number(least[k, q]), _number(greatest[k, q])] for q, name in enumerate(PROBED)})
            envelopes.append(row)
    return values, envelopes


def _reactions(outcome: Outcome) -> list[dict[str, Any]]:
    rows = []
    for k, label in enumerate(outcome.stiffness.system.held.labels):
        values = {}
        for name, factors in selections(outcome):
            lifted = outcome.combined.reactions.get(name)
            F, Mx, My = lifted[k] if lifted is not None else outcome.solution.reactions[k] @ factors
            values[name] = {"F_kN": float(F), "Mx_kNm": float(Mx), "My_kNm": float(My)}
        rows.append({"support": label, "values": values})
    return rows


def _trace(t: Trace) -> dict[str, Any]:
    # Written out: asdict copies every value deeply, and there are hundreds of traces.
    return {
        "check": t.check, "where": t.where, "utilisation": t.utilisation, "combination": t.combination, "factors": t.factors,
        "panels": t.panels, "at": t.at,
        "steps": [
            {"title": s.title, "clause": s.clause, "formula": s.formula, "numbers": s.numbers, "values": [
                {"symbol": v.symbol, "value": v.value, "unit": v.unit, "meaning": v.meaning} for v in s.values
            ]}
            for s in t.steps
        ],
    }  # fmt: skip


def row(r: Row) -> dict[str, Any]:
    """A verdict row with its trace."""
    return {
        "check": r.check, "utilisation": r.utilisation, "where": r.where, "combination": r.combination, "status": r.status,
        "at": r.at, "reason": r.reason, "trace": _trace(r.trace) if r.trace else None,
    }  # fmt: skip


def zone(z: Zone) -> dict[str, Any]:
    """A punching zone in the units of its table."""
    return {
        "column": z.column, "place": z.perimeter.place, "around": z.around, "at": z.at, "combination": z.combination,
        "V_Ed_kN": z.V, "M_x_kNm": z.M_x, "M_y_kNm": z.M_y, "beta": z.beta, "u_m": z.perimeter.length, "d_mm": 1e3 * z.d,
        "v_Ed_kPa": z.v_ed, "v_Rd_c_kPa": z.resistance.v_rd_c, "v_Ed_0_kPa": z.v_ed_0, "v_Rd_max_kPa": z.resistance.v_rd_max,
        "rho_l": z.resistance.rho_l, "utilisation": z.utilisation, "panels": list(z.panels),
        "segments": np.round(z.perimeter.segments, 4).tolist(),
    }  # fmt: skip


def sag(s: Sag) -> dict[str, Any]:
    """A span's sag."""
    return {
        "where": f"cantilever off {s.line.labels[0]}" if s.line.cantilever else "–".join(s.line.labels),
        "ends": np.round(s.line.ends, 4).tolist(), "span_m": s.line.span, "sag_mm": 1e3 * s.sag, "limit_mm": 1e3 * s.limit,
        "at": s.at, "combination": s.combination, "utilisation": s.utilisation,
    }  # fmt: skip


def _slices(outcome: Outcome, responses: Responses) -> list[dict[str, Any]]:
    """Least and greatest value of every slice under every combination, with their places and loaded panels."""
    rows = []
    for one in outcome.floor.slices:
        line = ((one.line[0][0], one.line[0][1]), (one.line[1][0], one.line[1][1]))
        sliced = slice_through(responses, line, one.quantity, one.width_m)
        for f in outcome.combinations:
            d = diagram(responses, sliced, f.combination)
            rows.append({
                "slice": one.id, "quantity": one.quantity, "unit": QUANTITIES[one.quantity].unit, "combination": f.combination,
                "least": {"value": _number(d.low.value), "at_m": round(d.low_at, 4), "panels": list(d.low.panels)},
                "greatest": {"value": _number(d.high.value), "at_m": round(d.high_at, 4), "panels": list(d.high.panels)},
                "area": d.area, "length_m": d.length,
            })  # fmt: skip
    return rows


def _held(outcome: Outcome) -> list[dict[str, Any]]:
    """Centre of every support and its kind."""
    held = outcome.stiffness.system.held
    return [{"id": label, "at": [round(c, 4) for c in at]} for label, at in zip(held.labels, held.centre, strict=True)]


def strips(outcome: Outcome) -> list[dict[str, Any]]:
    """Every strip with its stations: greatest and least ultimate moment, steel required and provided."""
    layout, cuts, steel = outcome.strips.layout, outcome.strips.cuts, outcome.steel.stations
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    moment = cuts.forces[:, 0]
    least, greatest = np.zeros(len(moment)), np.zeros(len(moment))
    if ultimate:
        low, high = envelopes(moment, ultimate)
        least, greatest = low.min(axis=1), high.max(axis=1)
    out = []
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if not len(mine):
            continue
        axis = layout.axes[strip.axis]
        entry: dict[str, Any] = {
            "label": strip.label, "direction": strip.direction, "kind": strip.kind, "cantilever": strip.cantilever,
            "angle_deg": float(np.degrees(axis.angle)), "span_m": strip.length,
            "axis": axis.point(cuts.s[mine]).round(4).tolist(), "ends": cuts.ends[mine].round(4).tolist(),
            "s_m": cuts.s[mine].round(4).tolist(), "width_m": cuts.width[mine].round(4).tolist(),
            "M_kNm": [least[mine].round(3).tolist(), greatest[mine].round(3).tolist()],
        }  # fmt: skip
        if steel is not None:
            for f, face in enumerate(("bottom", "top")):
                entry[face] = {
                    "required_mm2_m": (1e6 * steel.demand[f].required[mine]).round(1).tolist(),
                    "provided_mm2_m": (1e6 * steel.provided[f, mine]).round(1).tolist(),
                    "utilisation": steel.utilisation[f, mine].round(4).tolist(),
                }
        out.append(entry)
    return out


def results(outcome: Outcome, responses: Responses | None = None) -> dict[str, Any]:
    """The results document of a run; ``responses`` saves making them anew."""
    read = responses_of(outcome) if responses is None and outcome.floor.slices else responses
    probes, envelopes = _probes(outcome)
    mesh = outcome.meshed.mesh
    quality = mesh.quality
    return {
        "format": "piastra-results", "version": 1, "engine": __version__, "name": outcome.floor.name,
        "mesh": {
            "nodes": len(mesh.xy), "elements": mesh.elements, "dof": outcome.stiffness.system.unknowns, "quads": quality.quads,
            "triangles": quality.tris, "least_angle_deg": quality.least_angle_deg, "least_angle_at": quality.least_at,
            "greatest_aspect": quality.greatest_aspect, "target_size_m": outcome.meshed.plan.size,
        },
        "seconds": seconds(outcome), "stages_run": outcome.ran,
        "equilibrium": equilibrium(outcome), "probes": probes, "envelopes": envelopes,
        "slices": _slices(outcome, read) if read is not None else [], "supports": _held(outcome), "reactions": _reactions(outcome),
        "verdict": [row(r) for r in outcome.verdict], "rows": [row(r) for r in outcome.rows],
        "zones": [zone(z) for z in outcome.zones], "sags": [sag(s) for s in outcome.sags], "strips": strips(outcome),
        "panels": [{"id": label, "outline": np.round(np.array(p.exterior.coords), 4).tolist()} for label, p in outcome.loads.panels],
        "arrangements": [
            {"name": a.name, "panels": [label for label, _ in outcome.loads.panels if label in a.panels], "required": a.name in {r.name for r in outcome.required}}
            for a in outcome.arrangements
        ],
        "loads": [asdict(s) for s in outcome.loads.sums], "area_m2": outcome.meshed.area.area,
        "messages": [asdict(m) for m in outcome.messages],
    }  # fmt: skip
