"""The whole computation, stage after stage.

plan -> mesh -> stiffness -> load vectors -> solutions -> forces -> strips -> steel -> zones -> deflection -> verdict.
Each stage's key is a hash of just the inputs that it reads, so that a changed live load re-uses the mesh and the
factorised stiffness, and a changed mat re-runs only steel and what follows.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.combine.arrangements import Arrangement, arrangements, by_standard, shares_of
from piastra.core.combine.envelope import Factors, factors_of
from piastra.core.deflection.sag import Line, Sag, lines, sags
from piastra.core.design.flexure import StationSteel, point_steel, station_steel
from piastra.core.design.mats import Provided, mats_of, provided
from piastra.core.design.punching import Zone, zone_places, zones
from piastra.core.fe.basis import Basis
from piastra.core.fe.floor_sections import FaceValues, element_sections, face_values
from piastra.core.fe.recovery import Places, about_own_plane, forces_of, places, section_forces
from piastra.core.fe.restraints import restraints
from piastra.core.fe.solution import Solution, can_lift, lifts, solve, solve_lifting
from piastra.core.fe.system import System, assemble, families
from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.panels import derive_panels
from piastra.core.loads.vectors import Ground, LoadVectors, load_vectors
from piastra.core.mesh.locate import Elements, elements_of, find, weights
from piastra.core.mesh.mesher import Mesh, make_mesh
from piastra.core.mesh.plan import Plan, make_plan
from piastra.core.model import Floor
from piastra.core.model.loading import LASTING
from piastra.core.model.message import Message
from piastra.core.stages import Run, StageCache, key_of
from piastra.core.standards import Standard, standard_named
from piastra.core.strips.cuts import Cuts, forces_across, place_cuts
from piastra.core.strips.layout import Layout, make_axes, make_layout, supports_on_plan
from piastra.core.verdict import Row, row_of, worst
from piastra.core.verdict.traces import deflection_trace, flexure_trace, punching_trace

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

STAGES = 16


@dataclass(frozen=True, slots=True)
class Meshed:
    """The mesh with its elements indexed, the face of each element, the meshed area, and the plan."""

    plan: Plan
    mesh: Mesh
    elements: Elements
    face: Ints
    area: BaseGeometry
    ground: Ground


@dataclass(frozen=True, slots=True)
class Stiffness:
    """The factorised system and the sections it was made from."""

    system: System
    values: FaceValues
    kept: Places

    def free(self) -> None:
        """Give the factorisation's memory back."""
        self.system.factor.free()


@dataclass(frozen=True, slots=True)
class Combined:
    """Responses of combinations that cannot be superposed, because a bedding lets go: by combination ``u``
    (n, 5), ``forces`` (p, 8) and ``reactions`` (s, 3) with all live load present."""

    u: dict[str, Array]
    forces: dict[str, Array]
    reactions: dict[str, Array]


@dataclass(frozen=True, slots=True)
class Strips:
    """Strips with their stations, and the panels of pattern load."""

    layout: Layout
    cuts: Cuts


@dataclass(frozen=True, slots=True)
class Given:
    """What the mats give at every place, whose ``slab`` (p,) is known, and at the samples of the stations."""

    slab: Ints
    at_places: Provided
    at_stations: Provided


@dataclass(frozen=True, slots=True)
class Steel:
    """Steel at stations, and at every place: ``required`` (4, p) m2/m with what is ``given`` there."""

    stations: StationSteel | None
    required: Array | None
    given: Provided | None


@dataclass(frozen=True, slots=True)
class Outcome:
    """Everything that one run computed; ``element_forces`` (e, 8, r) about the reference plane; ``long_term`` (n, r) m are deflections with the effective modulus;
    ``arrangements`` those that have a name, ``required`` those of the standard among them."""

    floor: Floor
    standard: Standard
    meshed: Meshed
    stiffness: Stiffness
    loads: LoadVectors
    solution: Solution
    forces: Array
    element_forces: Array
    combined: Combined
    combinations: tuple[Factors, ...]
    arrangements: tuple[Arrangement, ...]
    required: tuple[Arrangement, ...]
    strips: Strips
    steel: Steel
    zones: tuple[Zone, ...]
    long_term: Array | None
    lines: tuple[Line, ...]
    sags: tuple[Sag, ...]
    verdict: tuple[Row, ...]
    rows: tuple[Row, ...]
    messages: tuple[Message, ...]
    seconds: dict[str, float]
    ran: dict[str, int]


def moduli(floor: Floor, standard: Standard, effective: bool = False) -> dict[str, float]:
    """E of each concrete (kN/m2), long-term effective on request."""
    return {
        c.id: standard.concrete(c.strength_MPa, c.E_MPa).Ecm / (1 + c.creep_coefficient if effective else 1)
        for c in floor.concretes
    }


def plan_inputs(floor: Floor) -> Any:
    """What the plan reads; of thicknesses only their order, which settles overlaps."""
    order = sorted({s.thickness_m for s in floor.slabs} | {t.thickness_m for t in floor.thickenings})
    depths = sorted({b.depth_m for b in floor.beams})
    return [
        [(s.id, s.outline, s.priority, order.index(s.thickness_m), s.top_offset_m) for s in floor.slabs],
        floor.openings,
        [(t.outline, t.priority, order.index(t.thickness_m)) for t in floor.thickenings],
        [(b.line, b.width_m, b.priority, depths.index(b.depth_m)) for b in floor.beams],
        [a.outline for a in floor.one_way_areas],
        [a.outline for a in floor.stiffness_areas],
        [(c.id, c.at, c.shape, c.angle_deg) for c in floor.columns],
        [(w.id, w.line) for w in floor.walls],
        [(s.id, s.kind, s.at if s.kind == "point" else s.line if s.kind == "line" else s.outline) for s in floor.supports],
        floor.mesh,
    ]


def stiffness_inputs(floor: Floor) -> Any:
    """What the stiffness reads besides the plan."""
    return [
        floor.standard, floor.concretes, [(s.thickness_m, s.top_offset_m, s.concrete, s.fill_kN_m3) for s in floor.slabs],
        [(t.thickness_m, t.top_offset_m, t.fill_kN_m3) for t in floor.thickenings],
        floor.beams, floor.one_way_areas, floor.stiffness_areas,
        floor.columns, floor.walls, floor.supports,
    ]  # fmt: skip


def _make_meshed(floor: Floor, plan: Plan) -> Meshed:
    mesh = make_mesh(plan)
    area = shapely.unary_union(plan.parts.polygons)
    elements = elements_of(mesh)
    polygons = np.array(plan.parts.polygons, dtype=object)
    slabs = {s.id: shapely.unary_union(polygons[plan.slab == k]) for k, s in enumerate(floor.slabs)}
    ground = Ground(elements, area, slabs, tuple(mesh.footprints))
    return Meshed(plan, mesh, elements, np.concatenate([mesh.quad_face, mesh.tri_face]), area, ground)


def _load_inputs(floor: Floor) -> Any:
    """What the load vectors read besides stiffness and panels; names of natures and categories are not among it."""
    return [
        [(c.id, c.nature == "self_weight", c.pattern) for c in floor.load_cases], floor.loads,
        floor.load_materials, floor.build_ups, floor.partitions, floor.occupancies,
    ]  # fmt: skip


def _make_stiffness(floor: Floor, standard: Standard, meshed: Meshed, effective: bool = False) -> Stiffness:
    values = face_values(floor, meshed.plan)
    E = moduli(floor, standard, effective)
    quad_sections, tri_sections = element_sections(floor, meshed.mesh, values, E)
    held = restraints(floor, meshed.plan, meshed.mesh, E)
    system = assemble(meshed.mesh, families(meshed.mesh, quad_sections, tri_sections), held)
    face = meshed.face
    return Stiffness(system, values, places(system, values.part[face], values.zeta[face], values.h[face]))


def _panels(floor: Floor, plan: Plan, along: tuple[Any, ...], across: tuple[Any, ...]) -> tuple[tuple[str, Polygon], ...]:
    if not any(c.pattern for c in floor.load_cases):
        return ()
    if floor.panels:
        return tuple((p.id, polygon(p.outline)) for p in floor.panels)
    region = shapely.unary_union(plan.parts.polygons)
    if any(a.from_supports for a in (*along, *across)):
        return tuple((f"P{k + 1}", p) for k, p in enumerate(derive_panels(region, (*along, *across))))
    return tuple((s.id, polygon(s.outline)) for s in floor.slabs)


def live_over_dead(floor: Floor, loads: LoadVectors) -> float:
    """All pattern load over all permanent load of the floor, as ACI 318-19, 6.4.3.2 asks."""
    pattern = {c.id for c in floor.load_cases if c.pattern}
    dead = {c.id for c in floor.load_cases if c.nature in ("self_weight", "dead")}
    sums = {True: 0.0, False: 0.0}
    for s in loads.sums:
        if s.case in pattern or s.case in dead:
            sums[s.case in pattern] += s.on_floor_kN
    return sums[True] / max(sums[False], 1e-9)


def _make_combined(stiffness: Stiffness, loads: LoadVectors, solution: Solution, factors: tuple[Factors, ...]) -> Combined:
    """Solve the combinations under which a compression-only bedding would be in tension."""
    out = Combined({}, {}, {})
    if not can_lift(stiffness.system):
        return out
    for f in factors:
        if lifts(stiffness.system, solution.u @ f.full):
            found = solve_lifting(stiffness.system, loads.vectors @ f.full, f"combination {f.combination}")
            out.u[f.combination] = found.u[..., 0]
            out.forces[f.combination] = section_forces(stiffness.system, stiffness.kept, found.u)[..., 0]
            out.reactions[f.combination] = found.reactions[..., 0]
    return out


def _long_term(floor: Floor, standard: Standard, meshed: Meshed, loads: LoadVectors, solution: Solution) -> Array:
    """Deflections (n, r) with the effective modulus: scaled where every stiffness is concrete of one creep
    coefficient, solved anew where springs or several coefficients take part."""
    used = {s.concrete for s in floor.slabs} | {m.concrete for m in floor.columns} | {w.concrete for w in floor.walls}
    creep = {c.creep_coefficient for c in floor.concretes if c.id in used}
    springs = any(s.kind == "area" or any(isinstance(k, float | int) for k in (s.vertical, s.rotation)) for s in floor.supports)
    if len(creep) == 1 and not springs:
        return solution.u[:, 2] * (1 + creep.pop())
    system = _make_stiffness(floor, standard, meshed, effective=True)
    w = solve(system.system, loads.vectors).u[:, 2]
    system.free()
    return w


def probed(outcome: Outcome, xy: Array) -> Array:
    """Unit responses (k, 6, r) at points (k, 2) m: w in mm (down), m_x, m_y, m_xy in kNm/m about the section's own
    middle plane (sagging positive), v_x, v_y in kN/m. Not a number beside the floor."""
    meshed, kept = outcome.meshed, outcome.stiffness.kept
    element = find(meshed.elements, xy, within=2e-3)
    share = weights(meshed.elements, np.maximum(element, 0), xy)
    own = about_own_plane(kept, outcome.forces)[:, 3:]
    w = (share[:, :, None] * outcome.solution.u[meshed.elements.nodes[element], 2]).sum(axis=1) * 1e3
    forces = (share[:, :, None, None] * own[kept.of[element]]).sum(axis=1)
    out = np.concatenate([w[:, None], forces], axis=1)
    out[element < 0] = np.nan
    return out


def solve_floor(
    floor: Floor,
    cache: StageCache | None = None,
    progress: Callable[[str, float], None] = lambda name, share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Outcome:
    """Run the whole chain for a floor.

    ``cache`` keeps stages between runs; ``progress`` hears each stage; ``cancelled`` is asked before each.
    Raises :class:`piastra.core.model.RefusedError` for a floor that cannot be computed, and
    :class:`piastra.core.stages.CancelledError`.
    """
    run = Run(cache if cache is not None else StageCache(), STAGES, progress, cancelled)
    standard = standard_named(floor.standard)
    plan_key = key_of(plan_inputs(floor))
    plan = run.stage("plan", plan_key, lambda: make_plan(floor))
    meshed = run.stage("mesh", plan_key, lambda: _make_meshed(floor, plan))
    stiff_key = key_of(plan_key, stiffness_inputs(floor))
    stiffness = run.stage("stiffness", stiff_key, lambda: _make_stiffness(floor, standard, meshed))

    axes_key = key_of(plan_key, [s.bar_angle_deg for s in floor.slabs], floor.columns, floor.walls, floor.supports)
    angle, along, across = run.stage("axes", axes_key, lambda: make_axes(floor, plan))
    panel_key = key_of(axes_key, floor.panels, any(c.pattern for c in floor.load_cases))
    panels = run.stage("panels", panel_key, lambda: _panels(floor, plan, along, across))
    load_key = key_of(stiff_key, panel_key, _load_inputs(floor))
    weight = stiffness.values.weight[meshed.face]
    loads = run.stage("loads", load_key, lambda: load_vectors(floor, meshed.ground, weight, panels))
    placed = run.stage("stations", key_of(stiff_key, axes_key), lambda: _stations(plan, meshed, stiffness, angle, along, across))
    basis = run.stage("basis", key_of(stiff_key, axes_key), Basis)
    solution, forces, cuts, by_element = run.stage(
        "solve", load_key, lambda: _respond(basis, meshed, stiffness, placed, loads.vectors)
    )
    if "solve" in run.seconds:
        parts = basis.seconds
        rest = run.seconds["solve"] - sum(parts.values())
        run.seconds.update({**parts, "solve": parts.get("solve", 0.0) + rest})
    named = arrangements(panels, angle, supports_on_plan(floor, plan))
    required = by_standard(floor.standard, named, live_over_dead(floor, loads))
    # Where the standard asks for a part of the live load only, that part is what is read under the arrangement too.
    asked = {a.name: a for a in required}
    named = [asked.get(a.name, a) for a in named]
    shares = shares_of(required, loads.units) if floor.arrangements == "standard" else None
    factors = tuple(factors_of(floor, loads.units, c, shares) for c in floor.combinations)
    combo_key = key_of(load_key, axes_key, floor.arrangements, floor.combinations)
    combined = run.stage("combine", combo_key, lambda: _make_combined(stiffness, loads, solution, factors))

    strips = Strips(placed.layout, cuts)
    ultimate = [f for f in factors if f.limit_state == "ultimate"]
    design_key = key_of(combo_key, floor.mats, floor.slabs, floor.rebars)
    slab_of = plan.slab[meshed.face]
    mats_key = key_of(stiff_key, axes_key, floor.mats, floor.slabs)
    given = run.stage("mats", mats_key, lambda: _given(floor, meshed, stiffness.kept, placed, slab_of))
    steel = run.stage("steel", design_key, lambda: _steel(floor, standard, stiffness, strips, forces, ultimate, slab_of, given))
    h_of = stiffness.values.h[meshed.face]
    labels = stiffness.system.held.labels
    places, told_of_places = run.stage(
        "zone places", key_of(stiff_key, floor.mats, floor.rebars, floor.slabs),
        lambda: zone_places(floor, standard, plan, meshed.elements, labels, slab_of, h_of) if standard.designs else ([], []),
    )  # fmt: skip
    found, told = run.stage(
        "zones", design_key,
        lambda: zones(floor, standard, places, loads, solution.reactions, labels, ultimate) if ultimate else ([], []),
    )  # fmt: skip
    lasting = [f for f in factors if f.limit_state in LASTING]
    sag_key = key_of(combo_key, floor.deflection)
    checked, long_term, sagging = run.stage(
        "deflection", sag_key, lambda: _deflection(floor, standard, meshed, loads, solution, lasting)
    )
    verdict, rows = run.stage(
        "verdict", key_of(design_key, sag_key),
        lambda: _verdict(floor, standard, strips, steel, found, sagging, ultimate, lasting, loads),
    )  # fmt: skip
    progress("done", 1.0)
    messages = [*stiffness.system.held.messages, *loads.messages, *told_of_places, *told, *_notes(floor, combined, angle)]
    return Outcome(
        floor, standard, meshed, stiffness, loads, solution, forces, by_element, combined, factors, tuple(named), tuple(required), strips, steel, tuple(found),
        long_term,
        tuple(checked), tuple(sagging), verdict, rows, tuple(messages), run.seconds, dict(run.ran),
    )  # fmt: skip


def _stations(plan: Plan, meshed: Meshed, stiffness: Stiffness, angle: float, along: Any, across: Any) -> Strips:
    """Strips with their stations, still without forces."""
    layout = make_layout(plan, angle, along, across)
    borders = shapely.STRtree(shapely.linestrings(plan.parts.points[plan.parts.edges]))
    return Strips(layout, place_cuts(layout, meshed.elements, stiffness.kept, plan.size / 2, borders))


def _respond(
    basis: Basis, meshed: Meshed, stiffness: Stiffness, placed: Strips, vectors: Array
) -> tuple[Solution, Array, Cuts, Array]:
    """Solution, section forces, forces at stations and by element for all unit loads; only new vectors are solved."""
    system = stiffness.system

    def make(new: Array) -> tuple[Array, ...]:
        start = time.perf_counter()
        found = solve(system, new)
        solved = time.perf_counter()
        forces, by_element = forces_of(system, stiffness.kept, found.u)
        recovered = time.perf_counter()
        across = forces_across(placed.cuts, meshed.elements, system, found.u, forces)
        basis.seconds = {"solve": solved - start, "forces": recovered - solved, "strips": time.perf_counter() - recovered}
        return found.u, found.reactions, forces, across, by_element

    u, reactions, forces, across, by_element = basis.respond(vectors, make)
    return Solution(u, reactions), forces, replace(placed.cuts, forces=across), by_element


def _steel(
    floor: Floor, standard: Standard, stiffness: Stiffness, strips: Strips, forces: Array, ultimate: list[Factors], slab_of: Ints,
    given: Given,
) -> Steel:  # fmt: skip
    if not (standard.designs and ultimate):
        return Steel(None, None, None)
    stations = station_steel(floor, standard, strips.layout, strips.cuts, slab_of, given.at_stations, ultimate)
    required = point_steel(floor, standard, stiffness.kept, given.slab, forces, given.at_places, ultimate)
    return Steel(stations, required, given.at_places)


def _given(floor: Floor, meshed: Meshed, kept: Places, strips: Strips, slab_of: Ints) -> Given:
    slab = np.zeros(len(kept.node), dtype=np.int64)
    valid = kept.of >= 0
    slab[kept.of[valid]] = np.broadcast_to(slab_of[:, None], kept.of.shape)[valid]
    mats, samples = mats_of(floor), strips.cuts.samples
    at_stations = provided(mats, samples.xy, slab_of[samples.element])
    return Given(slab, provided(mats, meshed.mesh.xy[kept.node], slab), at_stations)


def _deflection(
    floor: Floor, standard: Standard, meshed: Meshed, loads: LoadVectors, solution: Solution, lasting: list[Factors]
) -> tuple[list[Line], Array | None, list[Sag]]:
    checked = lines(supports_on_plan(floor, meshed.plan), meshed.plan.region)
    if not lasting:
        return checked, None, []
    w = _long_term(floor, standard, meshed, loads, solution)
    return checked, w, sags(checked, meshed.elements, w, lasting, loads.units, floor.deflection.span_over)


def _verdict(
    floor: Floor, standard: Standard, strips: Strips, steel: Steel, found: list[Zone], sagging: list[Sag],
    ultimate: list[Factors], lasting: list[Factors], loads: LoadVectors,
) -> tuple[tuple[Row, ...], tuple[Row, ...]]:  # fmt: skip
    no_standard = f"the checks of {standard.name} are not at hand yet"
    no_ultimate = "there is no ultimate combination; add one"
    flexure = []
    if steel.stations is not None and floor.mats:
        use = steel.stations.utilisation
        for k in range(len(strips.layout.strips)):
            mine = np.flatnonzero(strips.cuts.strip == k)
            if len(mine):
                face, place = np.unravel_index(int(use[:, mine].argmax()), (2, len(mine)))
                if use[face, mine[place]] > 0:
                    flexure.append(
                        flexure_trace(
                            floor,
                            standard,
                            strips.layout,
                            strips.cuts,
                            steel.stations,
                            ultimate,
                            loads.units,
                            int(mine[place]),
                            int(face),
                        )
                    )
    punching = [punching_trace(floor, standard, z) for z in found]
    coefficients = sorted({c.creep_coefficient for c in floor.concretes})
    creep = "creep coefficient φ = " + ", ".join(f"{c:g}" for c in coefficients)
    deflection = [deflection_trace(floor, standard, s, creep) for s in sagging]
    why_flexure = (
        no_standard if not standard.designs else no_ultimate if not ultimate
        else "no mats are given; add mats to compare with" if not floor.mats else "no strips could be derived from the supports"
    )  # fmt: skip
    why_punching = no_standard if not standard.designs else no_ultimate if not ultimate else "there are no columns that can punch"
    why_deflection = (
        "there is no quasi-permanent or sustained combination; add one" if not lasting else "no span between supports was found"
    )
    verdict = (
        worst("flexure", flexure, why_flexure), worst("punching", punching, why_punching),
        worst("deflection", deflection, why_deflection),
    )  # fmt: skip
    return verdict, tuple(row_of(t) for t in (*flexure, *punching, *deflection))


def _notes(floor: Floor, combined: Combined, angle: float) -> list[Message]:
    notes = []
    for name in combined.u:
        notes.append(
            Message("note", name, "lifts a part of the floor off its bedding; the values with all live load take that into account, "
                    "those over arrangements and the checks are for a bedding that also pulls")
        )  # fmt: skip
    for b in floor.beams:
        told = "is part of the floor's stiffness and of its strips; its own bars and its shear are not designed yet"
        (x, y), (u, v) = b.line[0][:2], b.line[1][:2]
        notes.append(Message("note", b.id, told, ((x + u) / 2, (y + v) / 2)))
    for s in floor.slabs:
        turn = (s.bar_angle_deg - np.degrees(angle) + 45) % 90 - 45
        if abs(turn) > 5:
            notes.append(
                Message(
                    "note",
                    s.id,
                    f"has bars at {turn:.0f} degrees to the strips; strips are designed as if bars lay along them, contours for the bars as they lie",
                )
            )
    return notes
