"""The whole computation, stage after stage.

plan -> mesh -> stiffness -> load vectors -> solutions -> forces -> strips -> steel -> zones -> deflection -> checks.
Each stage sees only what it declares, and its key follows the content of that (:mod:`piastra.core.stages.build`).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.bars.schedule import Scheduled, mats_as_groups, schedule
from piastra.core.beams.bars import bars_of_beams
from piastra.core.beams.design import BeamDesign
from piastra.core.checks.beams import row_of
from piastra.core.checks.row import Ref, Row, RowId
from piastra.core.checks.station import BeamSection, Section
from piastra.core.combine.envelope import Factors
from piastra.core.deflection.lived import Life
from piastra.core.deflection.sag import Line, Sag
from piastra.core.fe.recovery import about_own_plane
from piastra.core.fe.solution import Solution
from piastra.core.geometry.arcs import polygon
from piastra.core.history.body import Body
from piastra.core.history.estimate import Estimate
from piastra.core.history.served import yielded
from piastra.core.loads.vectors import Ground, LoadVectors
from piastra.core.mesh.locate import find, weights
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.core.model.floor import concretes_used
from piastra.core.model.message import Message
from piastra.core.opinion.opinions import Opinion
from piastra.core.punching.zones import Zone
from piastra.core.remedies.flexure import MOST as STRIPS_MENDED
from piastra.core.remedies.remedy import Remedy
from piastra.core.shear.scheduling import links_of_slabs
from piastra.core.shear.shear import ShearUse
from piastra.core.stages.about_stations import ABOUT_STATIONS
from piastra.core.stages.arrangements import ARRANGEMENTS, NAMED, Arranged
from piastra.core.stages.axes import AXES, Axes
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.bar_reasons import BAR_REASONS
from piastra.core.stages.beams import BEAMS
from piastra.core.stages.body import BODY, BODY_AXES, FROZEN
from piastra.core.stages.build import Run, Stage, StageCache
from piastra.core.stages.checks import CHECKED, FIRST_CHECKED
from piastra.core.stages.column_bars import COLUMN_BARS, PRESSING
from piastra.core.stages.columns_met import COLUMNS_MET
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.flanges import FLANGES
from piastra.core.stages.forces import FORCES, PLAIN_FORCES
from piastra.core.stages.given_loads import GIVEN_LOADS
from piastra.core.stages.ground import GROUND
from piastra.core.stages.groups import GROUPS
from piastra.core.stages.history import LIFE, NO_LIFE, life_stages
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.lifted import LIFTED, Combined
from piastra.core.stages.lines import LINES
from piastra.core.stages.linework import LINEWORK
from piastra.core.stages.loads import LOADS
from piastra.core.stages.long_term import LONG_TERM
from piastra.core.stages.mats import MATS
from piastra.core.stages.mends import MENDS
from piastra.core.stages.mesh import MESH, Meshed
from piastra.core.stages.opinions import OPINION_PLACES, OPINIONS
from piastra.core.stages.panels import PANELS
from piastra.core.stages.plan import PLAN
from piastra.core.stages.point_steel import STEEL_EVERYWHERE, STEEL_READ, PointSteel
from piastra.core.stages.remedies import REMEDIES, Offered
from piastra.core.stages.sags import SAGS
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.sharing import SHARING, Sharing
from piastra.core.stages.shear import SHEAR
from piastra.core.stages.shear_lines import SHEAR_LINES, SHEAR_READ
from piastra.core.stages.slab_outlines import SLAB_OUTLINES
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stations import STATIONS
from piastra.core.stages.steel import STEEL, Steel
from piastra.core.stages.stiffness import STIFFNESS, Stiffness
from piastra.core.stages.strips import PLAIN_STRIPS, STRIPS, Strips
from piastra.core.stages.tendon_arrangement import TENDON_ARRANGEMENT
from piastra.core.stages.tendon_stations import TENDON_STATIONS
from piastra.core.stages.tendons import TENDON_FORCES, TENDONS, TendonForces, Tendons
from piastra.core.stages.zone_forces import INSIDE_ZONES, ZONE_FORCES
from piastra.core.stages.zone_outlines import ZONE_OUTLINES
from piastra.core.stages.zone_places import BARE_ZONES, MATS_OVER_ZONES, OVER_ZONES, ZONE_PLACES
from piastra.core.stages.zones import ZONES
from piastra.core.standards import Standard, standard_of
from piastra.core.tendons.stations import StationPrestress
from piastra.core.trace.amounts import spot

Array = npt.NDArray[np.float64]

STAGES: tuple[Stage[Any, Any], ...] = (
    LINEWORK, SLAB_OUTLINES, PLAN, MESH, GROUND, SECTIONS, STIFFNESS, AXES, PANELS, NAMED, GROUPS, GIVEN_LOADS, TENDONS, TENDON_FORCES, LOADS, SOLUTIONS, PLAIN_FORCES, LAYOUT, STATIONS, PLAIN_STRIPS, ABOUT_STATIONS, ARRANGEMENTS, FACTORS, PRESSING, COLUMN_BARS, COLUMNS_MET, ZONE_OUTLINES,
    OVER_ZONES, MATS_OVER_ZONES, BARE_ZONES, INSIDE_ZONES, SHEAR_LINES, SHEAR_READ, FORCES, SHARING, STRIPS, TENDON_STATIONS, LIFTED, MATS, STEEL, BAR_GROUPS, STEEL_READ, BEAMS, FLANGES, SHEAR, TENDON_ARRANGEMENT, ZONE_PLACES, ZONE_FORCES, ZONES,
    FIRST_CHECKED, BAR_REASONS, STEEL_EVERYWHERE, LINES, BODY_AXES, FROZEN, BODY, LONG_TERM, SAGS, NO_LIFE, CHECKED, OPINION_PLACES, OPINIONS, REMEDIES, MENDS,
)  # fmt: skip

BESIDE = (SOLUTIONS, PLAIN_FORCES, PLAIN_STRIPS)
"""Stages of numbers alone, which go on beside those of shapes that need nothing of them. Shapes are not safe to be looked at by two at once."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """Everything that one run computed; ``long_term`` (n, r) m are
    deflections with the effective modulus; ``zones`` and ``rows`` of the checks, the ``verdict`` a row a check."""

    floor: Floor
    standard: Standard
    plan: Plan
    meshed: Meshed
    ground: Ground
    stiffness: Stiffness
    loads: LoadVectors
    tendons: Tendons | None
    tendon_forces: TendonForces | None
    prestress: StationPrestress | None
    solution: Solution
    forces: Array
    combined: Combined
    combinations: tuple[Factors, ...]
    arranged: Arranged
    strips: Strips
    steel: Steel
    steel_everywhere: PointSteel | None
    shear: tuple[ShearUse, ...]
    beams: BeamDesign | None
    zones: tuple[Zone, ...]
    remedies: Mapping[str, tuple[Remedy, ...]]
    mends: Mapping[str, tuple[Remedy, ...]]
    opinions: tuple[Opinion, ...]
    long_term: Estimate | None
    life: Life | None
    body: Body
    lines: tuple[Line, ...]
    sags: tuple[Sag, ...]
    verdict: tuple[Row, ...]
    rows: tuple[Row, ...]
    messages: tuple[Message, ...]
    section: Callable[[str, float, str], Section | BeamSection]
    """What any station of a strip shows for the steel of a face: :func:`piastra.core.checks.station.section_at`."""
    seconds: dict[str, float]
    ran: dict[str, int]


def not_covered(floor: Floor, standard: Standard) -> list[Refusal]:
    """Materials that a floor uses and its standard does not cover."""
    used = concretes_used(floor)
    return [
        Refusal(f"concretes[{i}].strength_MPa", told)
        for i, c in enumerate(floor.concretes) if c.id in used and (told := standard.materials.not_covered(c))
    ]  # fmt: skip


def scheduled(outcome: Outcome) -> list[Scheduled]:
    """All bars of a computed floor: mats, groups, beams."""
    groups = [*mats_as_groups(outcome.floor, outcome.plan.region), *outcome.steel.groups]
    found = schedule(outcome.floor, outcome.standard, groups, outcome.plan.region)
    found += links_of_slabs(outcome.floor, outcome.shear, lambda use: RowId("shear", Ref(*use.of)).key)
    layout, cuts, beams = outcome.strips.layout, outcome.strips.cuts, outcome.beams
    if beams is not None:
        found += bars_of_beams(outcome.floor, layout, cuts, beams, lambda k: row_of(layout, cuts, beams, k).key)
    return found


def probed(outcome: Outcome, xy: Array) -> Array:
    """Unit responses (k, 6, r) at points (k, 2) m: w in mm (down), m_x, m_y, m_xy in kNm/m about the section's own
    middle plane (sagging positive), v_x, v_y in kN/m. Not a number beside the floor."""
    meshed, kept = outcome.meshed, outcome.stiffness.kept
    element = find(meshed.elements, xy, within=2e-3)
    share = weights(meshed.elements, np.maximum(element, 0), xy)
    w = (share[:, :, None] * outcome.solution.u[meshed.elements.nodes[element], 2]).sum(axis=1) * 1e3
    at = kept.of[element]
    own = about_own_plane(kept, outcome.forces, at.ravel())[:, 3:].reshape(*at.shape, 5, -1)
    forces = (share[:, :, None, None] * own).sum(axis=1)
    out = np.concatenate([w[:, None], forces], axis=1)
    out[element < 0] = np.nan
    return out


def membrane_at(outcome: Outcome, xy: Array) -> Array:
    """Unit responses (k, 2, r) at points (k, 2) m: membrane forces n_x and n_y in kN/m, tension positive. Not a number beside the floor."""
    meshed, kept = outcome.meshed, outcome.stiffness.kept
    element = find(meshed.elements, xy, within=2e-3)
    share = weights(meshed.elements, np.maximum(element, 0), xy)
    at = kept.of[element]
    out = (share[:, :, None, None] * outcome.forces[at.ravel(), :2].reshape(*at.shape, 2, -1)).sum(axis=1)
    out[element < 0] = np.nan
    return np.asarray(out)


TOO_LARGE = Refusal("mesh.size_m", "makes more elements than there is memory for; use larger elements or divide the floor")


def solve_floor(
    floor: Floor,
    cache: StageCache | None = None,
    progress: Callable[[str, float], None] = lambda name, share: None,
    cancelled: Callable[[], bool] = lambda: False,
    rigorous: bool = True,
    remedies: bool = True,
    told: Callable[[tuple[Row, ...], bool], None] = lambda verdict, whole: None,
) -> Outcome:
    """Run the whole chain for a floor; not ``rigorous``: without its history, whose deflections are then a quick estimate; without
    ``remedies``: for who asks whether it works and not what would mend it.

    ``cache`` keeps stages between runs; ``progress`` hears each stage; ``cancelled`` is asked before each. ``told`` hears the verdict as soon as
    there is one: first without what lasts, then ``whole``, before anything is said of mends.
    Raises :class:`piastra.core.model.RefusedError` for a floor that cannot be computed, and
    :class:`piastra.core.stages.CancelledError`.
    """
    standard = standard_of(floor)
    if refused := not_covered(floor, standard):
        raise RefusedError(refused)
    chain = [s for stage in STAGES for s in (life_stages(floor) if stage is NO_LIFE and rigorous else [stage])]
    if not remedies:
        chain = [s for s in chain if s not in (REMEDIES, MENDS)]
    run = Run(floor, cache if cache is not None else StageCache(), len(chain), progress, cancelled)
    try:
        for stage in chain:
            if stage in BESIDE:
                run.begin(stage)
                continue
            found = run.take(stage)
            if stage is FIRST_CHECKED or stage is CHECKED:
                told(found.worst, stage is CHECKED)
    except MemoryError:
        raise RefusedError([TOO_LARGE]) from None
    finally:
        run.close()
    progress("done", 1.0)
    r = run.results
    plan, stiffness, loads, forces, zones = r[PLAN.name], r[STIFFNESS.name], r[LOADS.name], r[FORCES.name], r[ZONES.name]
    combined, verdict = r[LIFTED.name], r[CHECKED.name]
    offered = r.get(REMEDIES.name, Offered({}))
    messages = [
        *stiffness.system.held.messages, *loads.messages, *(zones.messages if zones else ()), *_notes(floor, combined, r[AXES.name]),
        *_shared(r[SHARING.name]), *_yielding(floor, r[LIFE], r[BODY.name], r[MESH.name]), *offered.notes,
        *(_unmended(r[STEEL.name], r[STRIPS.name]) if MENDS.name in r else []),
    ]  # fmt: skip
    return Outcome(
        floor, standard, plan, r[MESH.name], r[GROUND.name], stiffness, loads, r[TENDONS.name], r[TENDON_FORCES.name], r[TENDON_STATIONS.name], r[SOLUTIONS.name].solution, forces.at_places,
        combined, r[FACTORS.name], r[ARRANGEMENTS.name], r[STRIPS.name], replace(r[STEEL.name], groups=r[BAR_REASONS.name]), r[STEEL_EVERYWHERE.name], r[SHEAR.name] or (), r[BEAMS.name], zones.zones if zones else (),
        offered.by_zone, r.get(MENDS.name, {}), r[OPINIONS.name], r[LONG_TERM.name], r[LIFE], r[BODY.name], r[LINES.name], r[SAGS.name], verdict.worst, verdict.rows, tuple(messages), verdict.section, run.seconds, dict(run.ran),
    )  # fmt: skip


def _unmended(steel: Steel, strips: Strips) -> list[Message]:
    if steel.stations is None:
        return []
    beams = [s.beam for s in strips.layout.strips]
    failing = sum(not beams[k] for k in np.unique(strips.cuts.strip[(steel.stations.utilisation > 1).any(axis=0)]).tolist())
    if failing <= STRIPS_MENDED:
        return []
    told = f"{STRIPS_MENDED} of {failing} strips that fail have them, the worst ones: what mends these changes the others"
    return [Message("note", "remedies of strips", told, None)]


def _shared(found: Sharing) -> list[Message]:
    if not found.change:
        return []
    told = (
        f"on {found.panels} panels acts in {found.groups} groups of panels nine bays apart or more; where the load on a panel matters, that "
        f"changes moments by {found.change:.0e} of the greatest"
    )
    return [Message("note", "pattern load", told, None)]


def _yielding(floor: Floor, life: Life | None, body: Body, meshed: Meshed) -> list[Message]:
    if life is None or floor.history is None:
        return []
    for stage, lived in zip(floor.history.stages, life.stages, strict=True):
        where = yielded(lived, body)
        if where.any():
            x, y = shapely.get_coordinates(meshed.elements.shapes[int(where.argmax())].centroid)[0]
            told = (
                f"in {int(where.sum())} elements bars yield in cracks, the first near {spot(x, y)}; what they give way is in the deflections, and such "
                "cracks stay wide. More bars there keep them elastic"
            )
            return [Message("note", stage.id, told, (float(x), float(y)))]
    return []


def _notes(floor: Floor, combined: Combined, parts: Axes) -> list[Message]:
    notes = []
    for name in combined.u:
        notes.append(
            Message("note", name, "lifts a part of the floor off its bedding; the values with all live load take that into account, "
                    "those over arrangements and the checks are for a bedding that also pulls")
        )  # fmt: skip
    for s in floor.slabs if parts else ():
        here = polygon(s.outline).representative_point()
        angle = min(parts, key=lambda part: float(part.region.distance(here))).angle
        turn = (s.bar_angle_deg - np.degrees(angle) + 45) % 90 - 45
        if abs(turn) > 5:
            notes.append(
                Message("note", s.id, f"has bars at {turn:.0f} degrees to the strips; along a strip they count with the square of the "
                        "cosine, contours are for the bars as they lie")
            )  # fmt: skip
    return notes
