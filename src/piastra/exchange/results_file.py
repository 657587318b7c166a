"""The results file: what one run computed, as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.bars.schedule import Scheduled
from piastra.core.building.carried import shares_of, shares_of_beams
from piastra.core.checks.beams import row_of, written
from piastra.core.checks.punching import zone_row
from piastra.core.checks.row import Ref, Row, RowId
from piastra.core.combine.envelope import envelope, envelopes
from piastra.core.fe.linear_solver import Underway
from piastra.core.loads.within import clip, load_within
from piastra.core.model.loading import STRENGTH
from piastra.core.model.quantities import KEPT
from piastra.core.pipeline import Outcome, membrane_at, probed, scheduled
from piastra.core.punching.remedies import key_of
from piastra.core.punching.zones import Zone
from piastra.core.readings.bodies import free_bodies_of, total, totals
from piastra.core.readings.quantities import QUANTITIES
from piastra.core.readings.reading import diagram, slice_through
from piastra.core.readings.responses import Responses, responses_of
from piastra.core.readings.takeoff import Takeoff, takeoff
from piastra.core.reinforcement.groups import Group
from piastra.core.remedies.remedy import Remedy
from piastra.core.shear.shear import ShearUse
from piastra.core.trace import Loaded, Step, Trace, Value
from piastra.core.trace.amounts import plain
from piastra.engine import engine
from piastra.exchange.history_results import history, sags
from piastra.exchange.tendon_results import tendon_results

Array = npt.NDArray[np.float64]

PROBED = ("w_mm", "mx_kNm_m", "my_kNm_m", "mxy_kNm_m", "vx_kN_m", "vy_kN_m", "nx_kN_m", "ny_kN_m")


PARTS = {
    "mesh": ("linework", "slab outlines", "plan", "mesh"),
    "assemble": (
        "ground",
        "sections",
        "stiffness",
        "axes",
        "panels",
        "groups",
        "given loads",
        "tendons",
        "tendon forces",
        "loads",
    ),
    "solve": ("solutions", "arrangements", "factors", "lifted", "sharing"),
    "recover": ("plain forces", "forces", "plain strips", "strips", "zone forces"),
}
"""Stages by the parts of the contract; all others check."""


def seconds(outcome: Outcome) -> dict[str, float]:
    """Seconds of the contract's parts; a stage that was re-used counts nothing. Factorising goes on beside other stages: the total is less than the sum
    by what did not have to wait for it."""
    s, factor = outcome.seconds, outcome.stiffness.system.factor
    of = {stage: part for part, stages in PARTS.items() for stage in stages}
    out = dict.fromkeys((*PARTS, "check"), 0.0)
    for stage, took in s.items():
        out[of.get(stage, "check")] += took
    total = sum(out.values())
    if "stiffness" in s and isinstance(factor, Underway):
        out["factorise"] = factor.seconds
        out["solve"] -= factor.waited
    order = ("mesh", "assemble", "factorise", "solve", "recover", "check")
    return {**{k: round(out.get(k, 0.0), 4) for k in order}, "total": round(total, 4)}


def equilibrium(outcome: Outcome) -> list[dict[str, Any]]:
    """Applied load against the sum of reactions, for each case."""
    rows = []
    up = outcome.solution.reactions[:, 0].sum(axis=0)
    for case in outcome.floor.load_cases:
        columns = outcome.loads.of_case(case.id)
        applied = float(outcome.loads.applied[columns].sum())
        reaction = float(up[columns].sum())
        # A case of moments alone presses nothing, yet its supports push and pull: the balance is measured by that.
        each = np.abs(outcome.solution.reactions[:, 0][:, columns].sum(axis=1)).sum()
        if case.effect is not None and outcome.tendon_forces is not None:
            # What tendons press with comes back through the floor: its balance is measured by their forces.
            each += sum(float(f.max()) for f in outcome.tendon_forces.in_the_end)
        size = max(abs(applied), float(np.abs(outcome.loads.applied[columns]).sum()), float(each), 1e-9)
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
    at = np.array([p.at for p in outcome.floor.probes])
    responses = np.concatenate([probed(outcome, at), membrane_at(outcome, at)], axis=1)
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


def _panels(panels: Sequence[Loaded]) -> list[dict[str, Any]]:
    return [{"case": p.case, "panel": p.panel} for p in panels]


def _value(v: Value) -> dict[str, Any]:
    return {"symbol": v.symbol, "value": v.value, "quantity": v.quantity, "unit": KEPT[v.quantity][0], "meaning": v.meaning}


def _trace(t: Trace) -> dict[str, Any]:
    # Written out: asdict copies every value deeply, and there are hundreds of traces.
    return {
        "combination": t.combination, "factors": t.factors, "panels": _panels(t.panels),
        "steps": [step(s) for s in t.steps],
    }  # fmt: skip


def step(s: Step) -> dict[str, Any]:
    """One step of an explanation as the results tell it."""
    return {"title": s.title, "clause": s.clause, "formula": s.formula, "values": [_value(v) for v in s.values],
            "result": _value(s.result) if s.result else None, "note": plain(s.note), "said": s.note, "empirical": s.empirical}  # fmt: skip


def row(r: Row, traced: bool = True) -> dict[str, Any]:
    """A row of a check with its identity, and with its trace unless that is left out."""
    i = r.id
    return {
        "id": {"key": i.key, "check": i.check, "of": {"kind": i.of.kind, "id": i.of.id}, "part": i.part, "face": i.face, "station": i.station},
        "check": i.check, "utilisation": r.utilisation, "where": r.label, "combination": r.combination, "status": r.status,
        "at": list(r.at) if r.at else None, "reason": plain(r.reason), "said": r.reason, "trace": _trace(r.trace) if r.trace and traced else None,
    }  # fmt: skip


def uncovered(r: Row) -> dict[str, Any]:
    """What no check reached: a region, or an object by its id."""
    region = r.region
    return {
        "check": r.id.check, "id": r.id.of.id or None, "kind": r.id.of.kind, "row": r.id.key, "at": list(r.at) if r.at else None, "direction": region.direction if region else None,
        "outline": np.round(shapely.get_coordinates(region.outline.exterior), 4).tolist() if region else None,
        "area_m2": region.outline.area if region else 0.0, "reason": plain(r.reason), "said": r.reason,
    }  # fmt: skip


def zone(z: Zone, found: Sequence[Remedy] = ()) -> dict[str, Any]:
    """A punching zone in the units of its table."""
    check, outline, action = z.place.check, z.place.outline, z.action
    face = next((u for u in z.uses if u.part == "face"), None)
    return {
        "id": z.id, "kind": z.source.kind, "row": zone_row(z).key, "of": z.source.list, "pushes_up": z.source.up, "together": [s.id for s in outline.sources[1:]],
        "column": z.column, "place": outline.perimeter.place, "around": outline.around, "at": list(z.at), "combination": z.combination,
        "V_Ed_kN": action.V, "M_x_kNm": action.M_x, "M_y_kNm": action.M_y, "beta": check.beta(action), "u_m": outline.perimeter.length,
        "d_mm": 1e3 * check.d, "h_mm": 1e3 * outline.h, "v_Ed_kPa": z.stress, "v_Rd_c_kPa": check.resistance,
        "v_Ed_0_kPa": face.stress if face else None, "v_Rd_max_kPa": face.resistance if face else None, "rho_l": check.rho_l,
        "utilisation": z.utilisation, "panels": _panels(z.panels), "segments": np.round(outline.perimeter.segments, 4).tolist(),
        "dead": np.round(outline.perimeter.dead, 4).tolist(),
        "stress_kPa": np.round(check.along(z.action), 2).tolist(), "loaded": _ring(z.place.outline.loaded),
        "uses": [{"part": u.part, "utilisation": u.utilisation} for u in z.uses], **_rails(z), "remedies": [_remedy(r) for r in found],
    }  # fmt: skip


def second_opinion(outcome: Outcome) -> list[dict[str, Any]]:
    """What hand methods give for each column under the ultimate combination with the greatest force, all live load present, beside the finite
    elements' values."""
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    labels = outcome.stiffness.system.held.labels
    out = []
    for o in outcome.opinions:
        if o.column not in labels or not ultimate:
            continue
        F, M_x, M_y = outcome.solution.reactions[labels.index(o.column)]
        worst = max(ultimate, key=lambda f, F=F: float(F @ f.full))  # type: ignore[misc]
        frames = []
        for angle, moments in o.frames:
            # What the slab gives the column is the other way round than what the column gives the slab.
            across = M_x * np.sin(angle) - M_y * np.cos(angle)
            frames.append(
                {
                    "angle_deg": float(np.degrees(angle)),
                    "frame_kNm": float(moments @ worst.full),
                    "M_kNm": float(across @ worst.full),
                }
            )
        out.append({"column": o.column, "combination": worst.combination, "tributary_kN": float(o.force @ worst.full),
                    "F_kN": float(F @ worst.full), "frames": frames})  # fmt: skip
    return out


def _remedy(r: Remedy) -> dict[str, Any]:
    return {
        "kind": r.kind, "text": plain(r.text), "said": r.text, "utilisation": r.utilisation, "concrete_m3": r.concrete, "steel_kg": r.steel, "formwork_m2": r.formwork,
        "carbon_kg": r.carbon, "cost": r.cost, "worse": plain(r.worse), "worse_said": r.worse, "edit": r.edit,
    }  # fmt: skip


def _ring(shape: Polygon) -> list[list[float]]:
    return np.round(shapely.get_coordinates(shape.exterior)[:-1], 4).tolist()


def _rails(z: Zone) -> dict[str, Any]:
    """The rails of a zone, and what they carry; null without any."""
    strong, outer = z.reinforced, z.outer
    if strong is None or outer is None:
        return dict.fromkeys(("rails", "A_sw_mm2", "v_Rd_cs_kPa", "u_out_m", "u_laid_m", "v_Ed_out_kPa"))
    laid, r = strong.laid, strong.laid.rails
    beyond = next(u for u in z.uses if u.part == "outer")
    return {
        "rails": {
            "kind": r.kind, "bar_mm": 1e3 * r.bar, "yield_MPa": r.yield_MPa, "rails": r.rails, "per_rail": r.per_rail, "first_mm": 1e3 * r.first,
            "spacing_mm": 1e3 * r.spacing, "pattern": r.pattern, "designed": z.designed, "laid": len(laid.lines), "left_out": laid.left_out,
            "lines": np.round(np.array(laid.lines), 4).tolist(), "outer": np.round(laid.outer.segments, 4).tolist() if laid.outer else [],
        },
        "A_sw_mm2": 1e6 * laid.area, "v_Rd_cs_kPa": strong.resistance, "u_out_m": strong.u_out(outer),
        "u_laid_m": laid.outer.length if laid.outer else None, "v_Ed_out_kPa": beyond.stress,
    }  # fmt: skip


def tributary(outcome: Outcome) -> list[dict[str, Any]]:
    """What of the floor is nearer to each support than to any other, and likewise to each beam, with the loads that lie there."""
    floor, out = outcome.floor, []
    parts = {**shares_of(floor), **{("beams", k): p for k, p in shares_of_beams(floor).items()}}
    solid = {
        key: [p for p in shapely.get_parts(part) if isinstance(p, shapely.Polygon) and p.area > 1e-6]
        for key, part in parts.items()
    }
    solid = {key: pieces for key, pieces in solid.items() if pieces}
    areas = [clip(outcome.ground.elements, shapely.union_all(pieces)) for pieces in solid.values()]
    loads = load_within(floor, outcome.loads, areas)[:, 0] if areas else np.zeros((0, 0))
    by_case = {c.id: loads[:, outcome.loads.of_case(c.id)].sum(axis=1) for c in floor.load_cases} if areas else {}
    for k, ((kind, id), pieces) in enumerate(solid.items()):
        rings = [shapely.get_coordinates(p.exterior).round(4).tolist() for p in pieces]
        acting = {case: round(float(force[k]), 3) for case, force in by_case.items()}
        out.append(
            {"kind": kind, "id": id, "outlines": rings, "area_m2": round(sum(p.area for p in pieces), 4), "loads_kN": acting}
        )
    return out


def shear(u: ShearUse) -> dict[str, Any]:
    """One-way shear beside one line."""
    return {
        "row": RowId("shear", Ref(*u.of)).key, "where": u.of[1], "at": list(u.at), "v_Ed_kN_m": u.v, "v_Rd_c_kN_m": u.resistance,
        "utilisation": u.utilisation, "combination": u.combination,
        "links": None if u.links is None else {
            "bar_mm": round(1e3 * u.links.bar, 3), "along_mm": round(1e3 * u.links.along, 3), "across_mm": round(1e3 * u.links.across, 3),
            "reach_m": round(u.links.reach, 4), "required_mm2_m2": 1e6 * u.links.asked, "provided_mm2_m2": 1e6 * u.links.area,
        },
    }  # fmt: skip


def beams(outcome: Outcome) -> list[dict[str, Any]]:
    """Every span of every beam, with its stations and bars."""
    design, cuts, layout = outcome.beams, outcome.strips.cuts, outcome.strips.layout
    if design is None:
        return []
    ultimate = [f for f in outcome.combinations if f.limit_state in STRENGTH]
    c = design.sections.cuts
    low, high = envelopes(cuts.forces[c, 0], ultimate)
    out = []
    for number, (bottom, top, links) in design.bars.items():
        mine = np.flatnonzero(cuts.strip[c] == number)
        strip = layout.strips[number]
        row = row_of(layout, cuts, design, number)
        out.append({
            "id": strip.beam, "pieces": [b for b in strip.beams if b != strip.beam], "span": strip.number + 1, "strip": strip.id, "row": row.key, "s_m": cuts.s[c[mine]].round(4).tolist(),
            "at": cuts.ends[c[mine]].mean(axis=1).round(4).tolist(),
            "M_kNm": [low[mine].min(axis=1).round(3).tolist(), high[mine].max(axis=1).round(3).tolist()],
            "V_Ed_kN": design.V[mine].round(3).tolist(), "T_Ed_kNm": design.T[mine].round(3).tolist(),
            "flange_m": design.sections.b[mine].round(4).tolist(), "bottom_mm2": (1e6 * design.faces[0].required[mine]).round(1).tolist(),
            "top_mm2": (1e6 * design.faces[1].required[mine]).round(1).tolist(),
            **{f"{face}_asked_mm2": (1e6 * own.needs.most * own.deeper)[mine].round(1).tolist() for face, own in zip(("bottom", "top"), design.laid, strict=True)},
            "bottom_given_mm2": (1e6 * design.laid[0].area[mine]).round(1).tolist(), "top_given_mm2": (1e6 * design.laid[1].area[mine]).round(1).tolist(), "links_mm2_m": (1e6 * design.links.area[mine]).round(1).tolist(),
            "links_given_mm2_m": round(1e6 * links.area, 1), "utilisation": design.use[mine].round(4).tolist(), "bottom": written(bottom), "top": written(top),
            "links": f"⌀{1e3 * links.bar:g}–{1e3 * links.spacing:g}",
        })  # fmt: skip
    return out


def bars(found: Sequence[Scheduled]) -> list[dict[str, Any]]:
    """Groups of bars with their place, count, mass, and what asked for them."""
    return [
        {
            "mark": b.group.mark, "face": ("bottom", "top")[b.group.face], "direction": b.group.direction, "layer": b.layer,
            "bar_mm": round(1e3 * b.group.bar, 3), "spacing_mm": round(1e3 * b.group.spacing, 3), "count": b.count,
            "length_m": round(b.length, 3), "shape": b.shape, "mass_kg": round(b.mass, 2), "laps_kg": round(b.laps_kg, 2),
            "angle_deg": round(float(np.degrees(b.group.angle)), 4),
            "outline": np.round(shapely.get_coordinates(b.group.outline.exterior), 4).tolist(), "origin": b.group.origin, "locked": b.group.locked,
            "why": [asdict(w) for w in b.group.why], "row": b.row or None, "shortfall": _shortfall(b.group),
        }
        for b in found
    ]  # fmt: skip


def _shortfall(g: Group) -> dict[str, Any] | None:
    """What a kept group leaves over, mm2/m."""
    s = g.shortfall
    if s is None:
        return None
    given = {f"{name}_mm2_m": round(1e6 * getattr(s, name), 1) for name in ("required", "kept", "provided")}
    return {**asdict(s.why), **given, "filling": list(s.filling)}


def steel_totals(found: Sequence[Scheduled], area: float) -> dict[str, Any]:
    """Mass of all bars, by the square metre of the floor and by diameter; of laps alone."""
    by_bar: dict[str, float] = {}
    for b in sorted(found, key=lambda b: b.group.bar):
        key = f"{1e3 * b.group.bar:g}"
        by_bar[key] = by_bar.get(key, 0.0) + b.mass
    mass = sum(b.mass for b in found)
    return {
        "mass_kg": round(mass, 1), "kg_m2": round(mass / area, 3) if area else 0.0, "laps_kg": round(sum(b.laps_kg for b in found), 1),
        "by_bar_kg": {k: round(v, 1) for k, v in by_bar.items()},
    }  # fmt: skip


def taken_off(made: Takeoff) -> dict[str, float]:
    """Concrete, bars, strands and the carbon of them."""
    return {
        "concrete_m3": round(made.concrete, 3), "bars_kg": round(made.bars, 1), "strands_kg": round(made.strands, 1),
        "carbon_kg": round(made.carbon, 1),
    }  # fmt: skip


def _slices(outcome: Outcome, responses: Responses) -> list[dict[str, Any]]:
    """Least and greatest value of every slice under every combination, with their places and loaded panels, and its total."""
    rows: list[dict[str, Any]] = []
    if not outcome.floor.slices:
        return rows
    bodies = free_bodies_of(outcome)
    for one in outcome.floor.slices:
        line = ((one.line[0][0], one.line[0][1]), (one.line[1][0], one.line[1][1]))
        whole = None if one.width_m else totals(responses, bodies, line)
        sliced = slice_through(responses, line, one.quantity, one.width_m)
        for f in outcome.combinations:
            d = diagram(responses, sliced, f.combination)
            rows.append({
                "slice": one.id, "quantity": one.quantity, "unit": QUANTITIES[one.quantity].unit, "combination": f.combination,
                "least": {"value": _number(d.low.value), "at_m": round(d.low_at, 4), "panels": _panels(d.low.panels)},
                "greatest": {"value": _number(d.high.value), "at_m": round(d.high_at, 4), "panels": _panels(d.high.panels)},
                "area": d.area, "length_m": d.length,
                "total": total(responses, whole, one.quantity, f),
            })  # fmt: skip
    return rows


def _held(outcome: Outcome) -> list[dict[str, Any]]:
    """Centre of every support and its kind."""
    held = outcome.stiffness.system.held
    return [{"id": label, "at": [round(c, 4) for c in at]} for label, at in zip(held.labels, held.centre, strict=True)]


def strips(outcome: Outcome) -> list[dict[str, Any]]:
    """Every strip with its stations: greatest and least ultimate moment, steel required and provided."""
    layout, cuts, steel = outcome.strips.layout, outcome.strips.cuts, outcome.steel.stations
    ultimate = [f for f in outcome.combinations if f.limit_state in STRENGTH]
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
            "id": strip.id, "label": strip.label, "direction": strip.direction, "kind": strip.kind, "cantilever": strip.cantilever,
            "angle_deg": float(np.degrees(axis.angle)), "span_m": strip.length, "on_wall": strip.on_wall, "area_m2": strip.outline.area,
            "outline": [np.round(shapely.get_coordinates(p.exterior), 4).tolist() for p in shapely.get_parts(strip.outline)],
            "axis": axis.point(cuts.s[mine]).round(4).tolist(), "ends": cuts.ends[mine].round(4).tolist(),
            "s_m": cuts.s[mine].round(4).tolist(), "width_m": cuts.width[mine].round(4).tolist(),
            "M_kNm": [least[mine].round(3).tolist(), greatest[mine].round(3).tolist()],
        }  # fmt: skip
        if steel is not None:
            for f, face in enumerate(("bottom", "top")):
                own = steel.faces[f]
                entry[face] = {
                    "required_mm2_m": (1e6 * own.required[mine]).round(1).tolist(),
                    "provided_mm2_m": (1e6 * steel.provided[f, mine]).round(1).tolist(),
                    "band_mm2_m": (1e6 * steel.in_band[f, mine]).round(1).tolist(),
                    "utilisation": steel.steel[f, mine].round(4).tolist(),
                    "spacing_utilisation": steel.spacing[f, mine].round(4).tolist(),
                    "crack_utilisation": steel.cracks[f, mine].round(4).tolist() if steel.cracks is not None else None,
                    "provisions": {name: (1e6 * area[mine]).round(1).tolist() for name, area in own.provisions.items()},
                    "d_mm": (1e3 * own.at.d[mine]).round(1).tolist(),
                }
        out.append(entry)
    return out


def results(outcome: Outcome, responses: Responses | None = None) -> dict[str, Any]:
    """The results document of a run; ``responses`` saves making them anew."""
    read = responses_of(outcome) if responses is None and outcome.floor.slices else responses
    probes, envelopes = _probes(outcome)
    mesh = outcome.meshed.mesh
    quality = mesh.quality
    required = {a.name for a in outcome.arranged.required}
    found = scheduled(outcome)
    return {
        "format": "piastra-results", "version": 1, "engine": engine(), "name": outcome.floor.name,
        "mesh": {
            "nodes": len(mesh.xy), "elements": mesh.elements, "dof": outcome.stiffness.system.unknowns, "quads": quality.quads,
            "triangles": quality.tris, "least_angle_deg": quality.least_angle_deg, "least_angle_at": quality.least_at,
            "greatest_aspect": quality.greatest_aspect, "target_size_m": outcome.plan.size,
        },
        "seconds": seconds(outcome), "stages_run": outcome.ran,
        "equilibrium": equilibrium(outcome), "probes": probes, "envelopes": envelopes,
        "slices": _slices(outcome, read) if read is not None else [], "supports": _held(outcome), "reactions": _reactions(outcome), "tributary": tributary(outcome),
        "verdict": [row(r) for r in outcome.verdict], "rows": [row(r) for r in outcome.rows if r.status != "uncovered"],
        "uncovered": [uncovered(r) for r in outcome.rows if r.status == "uncovered"],
        "zones": [zone(z, outcome.remedies.get(key_of(z), ())) for z in outcome.zones], "second_opinion": second_opinion(outcome), "sags": sags(outcome), "history": history(outcome), "mends": [{"row": key, "remedies": [_remedy(r) for r in found]} for key, found in outcome.mends.items()], "shear": [shear(u) for u in outcome.shear], "strips": strips(outcome), "beams": beams(outcome), "bars": bars(found), "steel": steel_totals(found, outcome.meshed.area.area),
        "takeoff": taken_off(takeoff(outcome, found)),
        **tendon_results(outcome),
        "panels": [{"id": label, "outline": np.round(shapely.get_coordinates(p.exterior), 4).tolist()} for label, p in outcome.loads.panels],
        "arrangements": [
            {"name": a.name, "panels": [label for label, _ in outcome.loads.panels if label in a.panels], "required": a.name in required}
            for a in outcome.arranged.named
        ],
        "loads": [asdict(s) for s in outcome.loads.sums], "area_m2": outcome.meshed.area.area,
        "messages": [{**asdict(m), "sentence": plain(m.sentence), "said": m.sentence} for m in outcome.messages],
    }  # fmt: skip
