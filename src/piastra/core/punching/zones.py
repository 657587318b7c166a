"""Punching zones under their governing combination and arrangement."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely

from piastra.core.combine.envelope import Factors, companion, envelopes, governing_panels
from piastra.core.fe.recovery import Places
from piastra.core.fe.system import System
from piastra.core.geometry.arcs import polygon
from piastra.core.loads.vectors import LoadVectors
from piastra.core.loads.within import Clipped, Parts, joint_moments, load_within
from piastra.core.mesh.locate import Elements, lengths_inside
from piastra.core.model import Floor
from piastra.core.model.message import Message
from piastra.core.model.supports import AreaSupport
from piastra.core.model.tendon_curve import Curve
from piastra.core.model.zone_settings import RailSetting
from piastra.core.punching.sources import List, Source, Unzoned
from piastra.core.punching.stretches import stretch_reaction
from piastra.core.punching.zone_places import Outline, ZonePlace
from piastra.core.standards.situations import Acting, Situation
from piastra.core.standards.zone_rules import Laid, PunchingRules, Rails, ReinforcedCheck, ZoneAction, ZoneUse
from piastra.core.tendons.crossing_shear import carried_by
from piastra.core.trace import Loaded, Step

Array = npt.NDArray[np.float64]

LEAST_FORCE = 0.5
"""A zone whose joint takes less than this (kN) upwards is not checked for punching."""
BESIDE = "its line lies beside the floor, so that it holds nothing; move it or extend the slab"
NOT_PRESSED = "is not pressed by the floor in any ultimate combination"


@dataclass(frozen=True, slots=True)
class Forces:
    """What may act on one zone, by unit load (r,): the ``joint`` force, the load ``inside`` the perimeter, their difference ``V`` (kN), and
    moments about the perimeter's centroid in the member's own axes (kNm); positive as the zone is pressed."""

    joint: Array
    inside: Array
    V: Array
    M_x: Array
    M_y: Array


@dataclass(frozen=True, slots=True)
class Zone:
    """One perimeter with what acts on it (``action``), and the standard's comparisons (``uses``). With rails: their rules
    (``reinforced``) and the action that is greatest beyond them (``outer``). ``failed``: rails were asked for, and none do."""

    place: ZonePlace
    forces: Forces
    combination: str
    panels: tuple[Loaded, ...]
    action: ZoneAction
    uses: tuple[ZoneUse, ...]
    reinforced: ReinforcedCheck | None = None
    outer: ZoneAction | None = None
    designed: bool = False
    situation: Situation | None = None
    """The design situation that governs; None: that of the finished floor."""

    @property
    def source(self) -> Source:
        """What presses there."""
        return self.place.outline.source

    @property
    def id(self) -> str:
        """Id of the column, wall, support or load."""
        return self.source.id

    @property
    def column(self) -> str:
        """Id of the column, or of what else presses."""
        return self.source.id

    @property
    def at(self) -> tuple[float, float]:
        """The axis of what presses, m."""
        return self.source.at

    @property
    def stress(self) -> float:
        """Greatest stress at the critical perimeter, kN/m2."""
        a = self.action
        return float(self.place.check.coefficients[a.row] @ (a.V, a.M_x, a.M_y))

    @property
    def worst(self) -> ZoneUse:
        """The comparison with the greatest utilisation; rules of detailing are kept or broken, and count where they are broken."""
        return max((u for u in self.uses if not u.detailing or u.utilisation > 1), key=lambda u: u.utilisation)

    @property
    def utilisation(self) -> float:
        """The greatest of the comparisons'."""
        return self.worst.utilisation

    def steps(self) -> tuple[Step, ...]:
        """How the comparisons came about."""
        if self.reinforced is None or self.outer is None:
            return self.place.check.steps(self.action)
        return (*self.place.check.steps(self.action, True), *self.reinforced.steps(self.action, self.outer))


@dataclass(frozen=True, slots=True)
class Zones:
    """The zones of a floor, and what none of them checks."""

    zones: tuple[Zone, ...]
    without: tuple[Unzoned, ...]
    messages: tuple[Message, ...]


@dataclass(frozen=True, slots=True)
class Response:
    """What zones' forces are found from: unit loads, their reactions (s, 3, r) by ``labels``, the ``system`` and displacements (n, 5, r);
    section forces (p, 8, r) of the concrete at ``places``."""

    loads: LoadVectors
    labels: Sequence[str]
    reactions: Array
    system: System
    u: Array
    places: Places
    forces: Array
    elements: Elements


Carried = tuple[Sequence[Curve], Sequence[Array]]
"""Curves of tendons with their final forces (n,) kN."""

DIRECTIONS = 36
"""Directions, every 5 degrees, in which a floor may be pressed least: tendons need not lie along x or y."""

UNSTRESSED = 1.0
"""An axial stress below this (kN/m2) is rounding."""


def _means(outlines: Sequence[Outline], elements: Elements, places: Places) -> sp.csr_matrix:
    """The operator (z, p) from forces at places to mean stresses on perimeters, without sign."""
    segments = np.concatenate([o.perimeter.segments for o in outlines])
    of = np.repeat(np.arange(len(outlines)), [len(o.perimeter.segments) for o in outlines])
    segment, element = elements.tree.query(shapely.linestrings(segments))
    inside = lengths_inside(elements, element, segments[segment, 0], segments[segment, 1])
    # What runs along sides of elements lies in those to the left and to the right of it, and counts half with each.
    segment, element, inside = segment[inside > 0], element[inside > 0], inside[inside > 0]
    length = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    covered = np.bincount(segment, inside, minlength=len(segments))
    inside *= np.minimum(length[segment] / covered[segment], 1.0)
    which, back = np.unique(element, return_inverse=True)
    corners = places.of[which]
    there = corners >= 0
    count = there.sum(axis=1)
    h = (places.h[np.maximum(corners, 0)] * there).sum(axis=1) / count
    whole = np.bincount(of[segment], inside, minlength=len(outlines))
    # Of each perimeter its share in an element, over the corners of which the forces are means.
    share = inside / whole[of[segment]] / h[back] / count[back]
    at, corner = np.nonzero(there[back])
    return sp.csr_matrix((share[at], (of[segment[at]], corners[back][at, corner])), shape=(len(outlines), len(places.h)))


def axial_stress(outlines: Sequence[Outline], found: Response, means: sp.csr_matrix | None = None) -> Array:
    """Mean compression (z, 3, r) kN/m2 along x, along y and their shear on perimeters, in every unit load; nil on one that lies beside the floor.
    ``means``: the operator, where it is known."""
    if not outlines:
        return np.zeros((0, 3, found.forces.shape[2]))
    if means is None:
        means = _means(outlines, found.elements, found.places)
    n = found.forces[:, :3].reshape(len(found.places.h), -1)
    return np.asarray(-(means @ n)).reshape(len(outlines), 3, -1)


@dataclass(frozen=True, slots=True)
class Inside:
    """What of zones is known before the floor is solved: the ``load`` (z, 3, r) of each unit that lies inside, as
    :func:`piastra.core.loads.within.load_within` gives it, and the operator of ``means`` over perimeters, None without zones. This and the ``parts``
    are known of the same zones under other loads too."""

    load: Array
    means: sp.csr_matrix | None
    parts: Parts


def inside_of(
    floor: Floor, outlines: Sequence[Outline], loads: LoadVectors, elements: Elements, places: Places, last: Inside | None = None
) -> Inside:
    """Of all zones; ``last`` of the same zones of the same floor under other loads."""
    means = last.means if last is not None else _means(outlines, elements, places) if outlines else None
    parts = Parts(last.parts if last is not None else None)
    return Inside(load_within(floor, loads, [o.inside for o in outlines], parts), means, parts)


@dataclass(frozen=True, slots=True)
class Pressed:
    """What presses on zones in every unit load: their ``forces``, and the compression ``axial`` (z, 3, r) kN/m2 on their perimeters, see :func:`axial_stress`."""

    forces: tuple[Forces, ...]
    axial: Array


def pressed(floor: Floor, outlines: Sequence[Outline], found: Response, inside: Inside) -> Pressed:
    """Of all zones."""
    return Pressed(tuple(forces_of(floor, outlines, found, inside.load)), axial_stress(outlines, found, inside.means))


def forces_of(floor: Floor, outlines: Sequence[Outline], found: Response, inside: Array | None = None) -> list[Forces]:
    """Forces of zones in every unit load; ``inside`` (z, 3, r): the load inside them, where it is known."""
    if inside is None:
        inside = load_within(floor, found.loads, [o.inside for o in outlines])
    beds = [(polygon(s.outline), s.modulus_kN_m3) for s in floor.supports if isinstance(s, AreaSupport)]
    return [_forces(floor, o, w, found, beds) for o, w in zip(outlines, inside, strict=True)]


def _less(f: Forces, units: list[int], v: float) -> Forces:
    """Forces less what tendons carry across the perimeter, which acts with their secondary effects."""
    V = f.V.copy()
    V[units] -= v
    return replace(f, V=V)


def _forces(floor: Floor, o: Outline, within: Array, found: Response, beds: Sequence[tuple[shapely.Polygon, float]]) -> Forces:
    cx, cy = o.perimeter.centroid
    load, x_load, y_load = within
    joint, m_x, m_y = np.zeros_like(load), np.zeros_like(load), np.zeros_like(load)
    for s in o.sources:
        x, y = s.at
        here = _joint(s, found)
        brought = joint_moments(floor, found.loads, s.id) if s.list in ("columns", "loads") else np.zeros((2, len(load)))
        joint = joint + here[0]
        # About the perimeter's centroid the joint's force has its arm, and so has the load inside: beside an edge its middle
        # is not the column's. What a frame's action brings to the joint goes into the slab as far as the columns do not take it.
        m_x = m_x + here[1] + brought[0] + (y - cy) * here[0]
        m_y = m_y + here[2] + brought[1] - (x - cx) * here[0]
    soil = soil_within(o.inside, beds, found) if beds else np.zeros((3, len(load)))
    load, x_load, y_load = load - soil[0], x_load - soil[1], y_load - soil[2]
    m_x = m_x - (y_load - cy * load)
    m_y = m_y + (x_load - cx * load)
    sign = 1.0 if o.source.up else -1.0
    angle = o.source.angle
    c, s = np.cos(angle), np.sin(angle)
    own_x, own_y = c * m_x + s * m_y, -s * m_x + c * m_y
    return Forces(sign * joint, sign * load, sign * (joint - load), sign * own_x, sign * own_y)


def _joint(s: Source, found: Response) -> Array:
    """Force up and moments (3, r) about the source's own axis that a support gives there; a load gives none."""
    # A wall whose line lies beside the floor holds nothing of it, and has no zone.
    if s.legs and all(leg.wall in found.labels for leg in s.legs):
        return np.asarray(sum(stretch_reaction(found.system, found.u, leg, s.at) for leg in s.legs))
    if s.id in found.labels and s.list in ("columns", "supports"):
        return found.reactions[list(found.labels).index(s.id)]
    return np.zeros((3, found.reactions.shape[2]))


def soil_within(inside: Clipped, beds: Sequence[tuple[shapely.Polygon, float]], found: Response) -> Array:
    """What beddings push up inside a perimeter: sum and first moments (3, r)."""
    mesh = found.system.mesh
    out = np.zeros((3, found.u.shape[2]))
    quads = len(mesh.quads)
    for outline, modulus in beds:
        on = shapely.contains_xy(outline, inside.middle)
        for element, size, middle in zip(inside.element[on], inside.size[on], inside.middle[on], strict=True):
            nodes = mesh.quads[element] if element < quads else mesh.tris[element - quads]
            force = modulus * size * found.u[nodes, 2].mean(axis=0)
            out += np.stack([force, middle[0] * force, middle[1] * force])
    return out


def zones(
    floor: Floor, situations: Sequence[Acting], places: Sequence[ZonePlace], acts: Pressed, labels: Sequence[str], loads: LoadVectors, tendons: Carried | None,
) -> Zones:  # fmt: skip
    """Check the zones in every design situation, with the rails that the floor gives or that are designed; the situation that governs is told.

    The stress of each row of the standard's coefficients is a linear functional of V and the moments, so its envelope over
    all arrangements is exact, and V and the moments reported are those that act together with it.
    """
    settings = {z.zone: z for z in floor.zone_settings}
    axial = [least_axial(acts.axial, a.combinations) for a in situations]
    by_source: dict[tuple[List, str, str], list[Zone]] = {}
    without, messages = [], []
    for number, (given_place, acting) in enumerate(zip(places, acts.forces, strict=True)):
        s = given_place.outline.source
        key = (s.list, s.id, given_place.outline.part)
        mine = by_source.setdefault(key, [])
        if s.legs and not all(leg.wall in labels for leg in s.legs):
            continue
        if tendons is not None and loads.secondary:
            v = given_place.check.tendon_share * carried_by(given_place.outline.perimeter.inside, *tendons)
            acting = _less(acting, list(loads.secondary), v if s.up else -v)
        given = settings.get(s.id)
        zone = _in_situations(
            floor,
            situations,
            given_place,
            acting,
            loads,
            tendons is not None,
            [stress[number] for stress in axial],
            laid_of(given.rails) if given and given.rails else None,
        )
        if zone is not None:
            mine.append(zone)
    out = []
    of_key = {(o.source.list, o.source.id, o.part): o for o in (p.outline for p in places)}
    for key, mine in by_source.items():
        o = of_key[key]
        s = o.source
        if mine:
            # Of a support on a bedding, the perimeter that is worst.
            out.append(max(mine, key=lambda z: z.utilisation))
            continue
        holds = all(leg.wall in labels for leg in s.legs)
        if s.list == "columns" and o.around == "column":
            messages.append(Message("warning", s.id, f"{NOT_PRESSED}; it is not checked for punching", s.at))
        without.append(Unzoned(s.list, s.id, s.at, NOT_PRESSED if holds else BESIDE, o.part, o.around == "thickening"))
    zoned = {(z.source.list, z.id) for z in out}
    # Where all that a column takes comes from its thickening, nothing is left to press outside that.
    return Zones(tuple(out), tuple(u for u in without if not u.outer or (u.list, u.id) not in zoned), tuple(messages))


def _in_situations(
    floor: Floor, situations: Sequence[Acting], given_place: ZonePlace, acting: Forces, loads: LoadVectors, tendons: bool, axial: Sequence[Array],
    rails: Rails | None,
) -> Zone | None:  # fmt: skip
    """The zone in the situation that governs, in which it has ``axial`` (2,) stress, with the ``rails`` that are given, or those designed for the situation that needs them most."""
    bare: list[tuple[Acting, Zone]] = []
    for a, stress in zip(situations, axial, strict=True):
        assert a.standard.punching is not None
        place = given_place
        if a.situation is not None:
            shape = place.check.shape
            place = replace(
                place, check=a.standard.punching.zone(replace(shape, concrete=a.situation.concrete(shape.concrete)), place.check)
            )
        zone = checked(with_axial(place, a.standard.punching, stress, tendons), acting, a.combinations, loads)
        if zone is not None:
            bare.append((a, replace(zone, situation=a.situation)))
    if not bare:
        return None
    a, worst = max(bare, key=lambda pair: pair[1].utilisation)
    if not given_place.outline.counts or given_place.outline.around != "column":
        return worst
    rules = a.standard.punching
    assert rules is not None
    best = with_rails(floor, rules, worst, a.combinations, loads, rails)
    if best.reinforced is None:
        return best
    laid, designed = best.reinforced.laid, best.designed
    railed = [best]
    for b, zone in bare:
        if b is not a and b.standard.punching is not None:
            again = with_rails(floor, b.standard.punching, zone, b.combinations, loads, laid.rails)
            railed.append(replace(again, designed=designed))
    return max(railed, key=lambda z: z.utilisation)


def least_axial(axial: Array, combinations: Sequence[Factors]) -> Array:
    """The least compression (z, 2) kN/m2 of all combinations and arrangements, which no arrangement falls below: the mean of any two directions square
    to each other, and that of the direction that is pressed least; ``axial`` (z, 3, r) as of :func:`axial_stress`."""
    x, y, across = (axial[:, k : k + 1] for k in range(3))
    mean, turn = (x + y) / 2, 2 * np.pi / DIRECTIONS * np.arange(DIRECTIONS)[:, None]
    every = np.concatenate([mean, mean + (x - y) / 2 * np.cos(turn) + across * np.sin(turn)], axis=1)
    least = envelopes(every, combinations)[0].min(axis=2)
    return np.stack([least[:, 0], least[:, 1:].min(axis=1)], axis=1)


def with_axial(place: ZonePlace, rules: PunchingRules, stress: Array, tendons: bool) -> ZonePlace:
    """The zone with its axial ``stress`` (2,) kN/m2, as :func:`least_axial` finds it, of a floor with or without ``tendons``."""
    mean, least = stress.tolist()
    if abs(mean) < UNSTRESSED and not tendons:
        return place
    shape = replace(place.check.shape, sigma_cp=mean, least_pressed=least, tendons=tendons)
    return replace(place, check=rules.zone(shape, place.check))


def laid_of(setting: RailSetting) -> Rails:
    """Rails of a zone's setting, in m."""
    return Rails(
        setting.kind, setting.bar_mm / 1e3, setting.yield_MPa, setting.rails, setting.per_rail, setting.first_mm / 1e3,
        setting.spacing_mm / 1e3, setting.pattern,
    )  # fmt: skip


def governing(coefficients: Array, acting: Forces, combinations: list[Factors]) -> tuple[ZoneAction, Factors, Array] | None:
    """The row, combination and arrangement with the greatest stress, and what acts together there."""
    stresses = coefficients @ np.stack([acting.V, acting.M_x, acting.M_y])
    greatest = envelopes(stresses, combinations)[1]
    which, number = np.unravel_index(int(greatest.argmax()), greatest.shape)
    factors, stress = combinations[int(number)], stresses[which]
    force, own_x, own_y, whole, inside = (
        float(companion(stress, f, factors, greatest=True))
        for f in (acting.V, acting.M_x, acting.M_y, acting.joint, acting.inside)
    )
    if force < LEAST_FORCE or greatest[which, number] <= 0:
        return None
    return ZoneAction(whole, inside, force, own_x, own_y, int(which)), factors, stress


def checked(place: ZonePlace, acting: Forces, combinations: list[Factors], loads: LoadVectors) -> Zone | None:
    """A zone without rails; None where nothing presses it."""
    worst = governing(place.check.coefficients, acting, combinations)
    if worst is None:
        return None
    action, factors, stress = worst
    panels = governing_panels(stress, factors, loads.units, greatest=True)
    # A load has no joint: all of its force comes from inside the perimeter.
    if not place.outline.source.up:
        action = replace(action, joint=action.V, inside=0.0)
    return Zone(place, acting, factors.combination, panels, action, place.check.uses(action))


def with_rails(
    floor: Floor, rules: PunchingRules, zone: Zone, combinations: list[Factors], loads: LoadVectors, given: Rails | None,
) -> Zone:  # fmt: skip
    """The zone with the ``given`` rails, or with designed ones where it needs some and the floor designs them."""
    ground = zone.place.outline.ground
    laid: Laid | None = None
    if given is not None:
        laid = ground.lay(given)
    elif floor.design_rails and zone.utilisation > 1:
        laid = rules.design(zone.place.check, zone.action, ground.lay)
    if laid is None or not laid.lines:
        return zone
    strong = rules.reinforced(zone.place.check, laid)
    beyond = governing(strong.outer_coefficients, zone.forces, combinations)
    outer = beyond[0] if beyond is not None else zone.action
    return replace(zone, uses=strong.uses(zone.action, outer), reinforced=strong, outer=outer, designed=given is None)
