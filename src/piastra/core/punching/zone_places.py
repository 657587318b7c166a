"""Where punching zones are: what of a zone does not depend on loads."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.perimeter import Perimeter
from piastra.core.loads.within import Clipped, clip
from piastra.core.mesh.locate import Elements, find
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline
from piastra.core.model.message import Message
from piastra.core.model.supports import AreaSupport
from piastra.core.punching.heads_and_openings import solid_of, thickenings_at, whole_heads
from piastra.core.punching.rails import Ground
from piastra.core.punching.sources import Source, Unzoned, point_sources, wall_outline, wall_sources
from piastra.core.reinforcement.groups import Group, Spots, areas_at
from piastra.core.reinforcement.mats import mats_of, provided_by_parts
from piastra.core.standards.zone_rules import PunchingRules, ZoneCheck, ZoneShape

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

Around = Literal["column", "thickening"]
BEAM_SHARE = 0.25 + 1e-6
"""A column with more of its section under a beam gets its load from that; a beam half as wide as the column that ends at its middle covers just a quarter."""
UNDER_BEAM = "stands under beam {beam}, which brings it its load by shear"


@dataclass(frozen=True, slots=True)
class Outline:
    """One perimeter of one or, around a common thickening, of several ``sources``: with the slab, the thickness ``h`` and the
    effective ``depths`` of the x and y bars (m) along the perimeter, ``d_face`` at the support; what it encloses; where rails lie.
    ``counts``, ``shrink`` and ``nearness`` as of zones' shapes; ``steps``: whether the perimeter crosses steps; ``concrete``: the weakest of
    the slabs that it runs through; ``thickening``: which it is around, or empty; ``clear`` m: from the
    loaded area to the floor's edge."""

    sources: tuple[Source, ...]
    around: Around
    loaded: Polygon
    perimeter: Perimeter
    inside: Clipped
    slab: int
    h: float
    depths: tuple[float, float]
    d_face: float | None
    counts: bool
    shrink: float
    nearness: float | None
    steps: bool
    concrete: str
    thickening: str
    ground: Ground
    clear: float

    @property
    def source(self) -> Source:
        """The first of its sources."""
        return self.sources[0]

    @property
    def part(self) -> str:
        """Which zone of its source it is."""
        return f"thickening {self.thickening}" if self.thickening else self.source.part


@dataclass(frozen=True, slots=True)
class ZonePlace:
    """A zone before anything loads it: its outline, the ratios ``rho`` of its x and y bars, and the standard's rules."""

    outline: Outline
    rho: tuple[float, float]
    check: ZoneCheck


@dataclass(frozen=True, slots=True)
class Outlines:
    """Perimeters of a floor, with what presses without one."""

    outlines: tuple[Outline, ...]
    without: tuple[Unzoned, ...]
    messages: tuple[Message, ...]


@dataclass(frozen=True, slots=True)
class Pressing:
    """What holds or presses the floor on a small area, each with the ``element`` (s,) under it (-1: none); what has no zone. ``columns`` (c,): elements
    under the floor's columns; ``holding``: columns and walls below by id."""

    sources: tuple[Source, ...]
    element: Ints
    without: tuple[Unzoned, ...]
    columns: Ints
    holding: tuple[tuple[str, BaseGeometry], ...]


def pressing(floor: Floor, plan: Plan, elements: Elements, slab_of: Ints, h_of: Array) -> Pressing:
    """Find them; ``slab_of`` and ``h_of`` (e,) of each element."""
    columns = np.full(len(floor.columns), -1, dtype=np.int64)
    for number, outline in enumerate(plan.footprints):
        columns[number] = _under(elements, outline)
    of_column = {c.id: (plan.footprints[k], int(columns[k])) for k, c in enumerate(floor.columns)}
    points, without = point_sources(floor)
    cover = np.array([s.cover_top_mm for s in floor.slabs]) / 1e3

    def depth_at(at: tuple[float, float], radius: float) -> float:
        """Of a top bar, on average round about a place: both sides of a leap of thickness count, whatever the mesh."""
        turn = 2 * np.pi * (np.arange(RIM) + 0.5) / RIM
        met = find(elements, np.array(at) + radius * np.stack([np.cos(turn), np.sin(turn)], axis=1))
        met = met[met >= 0]
        return float((h_of[met] - cover[slab_of[met]] - 0.012).mean()) if len(met) else 0.2

    ends, more = wall_sources(floor, depth_at)
    sources = [*points, *ends]
    element = np.array([
        of_column[s.id][1] if s.list == "columns" else _under(elements, s.loaded.intersection(plan.region)) for s in sources
    ], dtype=np.int64).reshape(-1)  # fmt: skip
    holding = [(c.id, plan.footprints[k]) for k, c in enumerate(floor.columns) if c.below is not None]
    holding += [(w.id, wall_outline(w)) for w in floor.walls if w.below is not None]
    return Pressing(tuple(sources), element, (*without, *more), columns, tuple(holding))


def depths_of(floor: Floor, found: Pressing, slab_of: Ints) -> Array:
    """Depths (s, 2) m of the x and y bars of mats that the zones of what presses stretch, below their face; nil where there is no floor."""
    depth = np.zeros((len(found.sources), 2))
    on = np.flatnonzero(found.element >= 0)
    at = np.array([found.sources[k].at for k in on.tolist()]).reshape(-1, 2)
    here = provided_by_parts(mats_of(floor), at, slab_of[found.element[on]], np.arange(len(on) + 1)).depth
    up = np.array([found.sources[k].up for k in on.tolist()], dtype=bool)
    depth[on] = np.where(up, here[2:], here[:2]).T
    return depth


def _under(elements: Elements, outline: BaseGeometry) -> int:
    """An element inside an outline, or where the mesh has none so small, the one at its middle; -1: none."""
    if outline.is_empty:
        return -1
    near = elements.tree.query(outline, predicate="intersects")
    inner = near[shapely.covers(outline.buffer(1e-3), elements.shapes[near])]
    if len(inner):
        return int(inner[0])
    middle = outline.representative_point()
    return int(find(elements, np.array([[middle.x, middle.y]]))[0])


NO_PERIMETER = "edges and openings leave no control perimeter"
NO_CONCRETE = "there is no floor under it"
RIM, FINE = 80, 0.02
"""Points round a column at which the floor's thickness is looked at, of a wall's end more; where it is not even, so far apart (m) along the perimeter."""
COVERED = 1e-6
"""What elements leave uncovered of an area (m2) is rounding below this."""
HAIR = 1e-7
"""Outlines that differ by less than this (m) are the same."""
ASIDE = 2e-3
"""A perimeter that runs along a step is looked at so far (m) to both sides: rounding does not tell on which it lies."""
STEP = 1e-4
"""Depths that differ by more than this (m) along a perimeter are steps."""


@dataclass(frozen=True, slots=True)
class Site:
    """What outlines are found with: the floor, its elements with slabs ``slab_of`` and thicknesses ``h_of`` (e,), its concrete with
    ``openings`` filled, what is ``holding`` it up by id, and ``extra`` thickenings that are only thought of, with their thickness (m).
    ``weight`` (e,) kN/m2 of the elements and what they ``cover``, where zones may count elements of one weight together."""

    floor: Floor
    rules: PunchingRules
    elements: Elements
    slab_of: Ints
    h_of: Array
    solid: BaseGeometry
    openings: tuple[tuple[str, Polygon], ...]
    holding: tuple[tuple[str, BaseGeometry], ...]
    extra: tuple[tuple[Polygon, float], ...] = ()
    weight: Array | None = None
    cover: BaseGeometry = field(default_factory=Polygon)

    def inside(self, area: BaseGeometry) -> Clipped:
        """An area cut out of the elements."""
        return clip(self.elements, area, self.weight if self.weight is not None and self.cover.covers(area) else None)

    def others(self, sources: tuple[Source, ...]) -> BaseGeometry:
        """What holds the floor beside the sources."""
        own = {s.id for s in sources} | {leg.wall for s in sources for leg in s.legs}
        return shapely.geometrycollections([shape for label, shape in self.holding if label not in own])

    def thickness(self, at: tuple[float, float], slab: int) -> float:
        """At a support, m."""
        return float(self.depths(np.array([at]), self.floor.slabs[slab].thickness_m)[0])

    def weakest(self, perimeter: Perimeter, slab: int) -> str:
        """Id of the weakest concrete along a perimeter; where there is no element, that of a ``slab``."""
        everywhere = {s.concrete for s in self.floor.slabs}
        if len(everywhere) == 1:
            return everywhere.pop()
        at = find(self.elements, _beside(perimeter.divided(FINE).segments), within=0.05)
        strength = {c.id: c.strength_MPa for c in self.floor.concretes}
        met = {self.floor.slabs[k].concrete for k in {slab, *self.slab_of[at[at >= 0]].tolist()}}
        return min(sorted(met), key=lambda c: strength[c])

    def is_even(self, elements: Ints, h: float) -> bool:
        """Whether the floor is as thick as ``h`` m in all of some elements."""
        return not self.extra and bool((self.h_of[elements] == h).all())

    def depths(self, xy: Array, h: float) -> Array:
        """Thickness (k,) m at points, ``h`` where there is no element within 50 mm."""
        at = find(self.elements, xy)
        beside = np.flatnonzero(at < 0)
        at[beside] = find(self.elements, xy[beside], within=0.05)
        found = np.where(at >= 0, self.h_of[at], h)
        for outline, thickness in self.extra:
            found[shapely.contains_xy(outline, xy)] = thickness
        return found

    def along(self, segments: Array, h: float) -> Array:
        """Thickness (k,) m at the middles of segments (k, 2, 2): where one runs along a step, the lesser."""
        left, right = self.depths(_beside(segments), h).reshape(2, -1)
        return np.minimum(left, right)


def _beside(segments: Array) -> Array:
    """Points (2 k, 2) m beside the middles of segments (k, 2, 2): those to the left of all of them, then those to the right."""
    way = segments[:, 1] - segments[:, 0]
    aside = ASIDE * np.stack([-way[:, 1], way[:, 0]], axis=1) / np.hypot(*way.T)[:, None]
    middle = segments.mean(axis=1)
    return np.concatenate([middle + aside, middle - aside])


def outlines(
    floor: Floor, rules: PunchingRules, plan: Plan, elements: Elements, slab_of: Ints, h_of: Array, found: Pressing, depths: Array, weight: Array, meshed: BaseGeometry,
) -> Outlines:  # fmt: skip
    """The perimeters of everything that presses.

    ``slab_of``, ``h_of`` m and ``weight`` kN/m2 (e,) of each element, ``meshed`` what elements cover. Of the mats, only
    the bars' ``depths`` (s, 2) m over what presses count.
    """
    solid, openings = solid_of(floor, plan.region)
    # What lies a hair beside the elements is rounding. What a bedding pushes up hangs on how each element moves.
    cover = meshed.buffer(HAIR, join_style="mitre")
    shapely.prepare(cover)
    bedded_floor = any(isinstance(s, AreaSupport) for s in floor.supports)
    site = Site(
        floor, rules, elements, slab_of, h_of, solid, openings, found.holding, (), None if bedded_floor else weight, cover
    )
    heads = whole_heads(floor, found.sources)
    beams = [(b, beam_outline(b)) for b in floor.beams]
    beds = shapely.union_all([polygon(s.outline) for s in floor.supports if isinstance(s, AreaSupport)])
    made: list[Outline] = []
    without = list(found.without)
    messages: list[Message] = []
    outer: dict[str, list[int]] = {}
    for k, s in enumerate(found.sources):
        element = int(found.element[k])
        if element < 0:
            without.append(
                Unzoned(s.list, s.id, s.at, NO_CONCRETE if s.list != "columns" else "it is too slender for the mesh", s.part)
            )
            continue
        beam = next(
            (
                b.id
                for b, o in beams
                if b.depth_m > b.width_m / WIDE and o.intersection(s.loaded).area > BEAM_SHARE * s.loaded.area
            ),
            None,
        )
        if beam is not None and s.up:
            told = UNDER_BEAM.format(beam=beam)
            if s.list == "columns":
                messages.append(Message("note", s.id, f"{told}; it is not checked for punching", s.at))
            without.append(Unzoned(s.list, s.id, s.at, told, s.part))
            continue
        slab = int(slab_of[element])
        # A wall runs on beyond its end: there its perimeter counts with the depths that it has.
        thick = [] if s.legs else thickenings_at(heads, floor, slab, s)
        bedded = not s.up and beds.contains(Point(s.at))
        some = [
            outline_of(site, (s,), "column", s.loaded, float(h_of[element]), slab, depths[k], bool(thick), a)
            for a in rules.distances(bedded)
        ]
        here = [o for o in some if o is not None]
        made += here
        if not here:
            messages.append(Message("warning", s.id, f"{NO_PERIMETER}; move the openings or the column", s.at))
            without.append(Unzoned(s.list, s.id, s.at, NO_PERIMETER, s.part))
        for one in thick:
            outer.setdefault(one.id, []).append(k)
    for t, head in zip(floor.thickenings, heads, strict=True):
        if t.id in outer:
            made += _around(site, t.id, head, [found.sources[k] for k in outer[t.id]], found, depths, outer[t.id], without)
    return Outlines(tuple(made), tuple(without), tuple(messages))


WIDE = 1.0
"""A member wider than it is deep is no beam for punching, but a band of the slab."""


def _around(
    site: Site,
    label: str,
    shape: Polygon,
    sources: list[Source],
    found: Pressing,
    depths: Array,
    numbers: list[int],
    without: list[Unzoned],
) -> Iterable[Outline]:
    """The perimeter around a thickening, of all that stands on it and pushes the same way."""
    head = shape.intersection(site.solid)
    part = max(shapely.get_parts(head), key=lambda p: p.area, default=None)
    made = []
    for up in (True, False):
        mine = [(s, k) for s, k in zip(sources, numbers, strict=True) if s.up == up]
        if not mine or part is None:
            continue
        first, k = mine[0]
        slab = int(site.slab_of[found.element[k]])
        h = site.floor.slabs[slab].thickness_m
        outline = outline_of(
            site, tuple(s for s, _ in mine), "thickening", part.convex_hull, h, slab, depths[k], False, None, label
        )
        if outline is None:
            without.append(
                Unzoned(
                    first.list, first.id, first.at, f"around the thickening {label}, {NO_PERIMETER}", f"thickening {label}", True
                )
            )
        else:
            made.append(outline)
    return made


def outline_of(
    site: Site, sources: tuple[Source, ...], around: Around, loaded: Polygon, h: float, slab: int, depth: Array, raised: bool,
    nearness: float | None, thickening: str = "",
) -> Outline | None:  # fmt: skip
    rules, s = site.rules, sources[0]
    support = around == "column"
    whole, keep = (s.whole, s.keep) if support else (None, None)
    d = h - float(depth.mean())
    # Where it stands across a step, what is around it counts, both sides alike; of a wall what is beside it.
    rim = loaded.buffer(0.02)
    if not site.is_even(site.elements.tree.query(rim, predicate="intersects"), h):
        count = RIM if whole is None else 4 * RIM
        xy = shapely.get_coordinates(rim.exterior.interpolate((np.arange(count) + 0.5) / count, normalized=True))
        # Openings are filled in the solid; what they leave has no thickness.
        beside = shapely.contains_xy(site.solid, xy[:, 0], xy[:, 1]) & (find(site.elements, xy, within=0.01) >= 0)
        if whole is not None:
            beside &= ~shapely.contains_xy(whole, xy[:, 0], xy[:, 1])
        if beside.any():
            around_it = float(site.depths(xy[beside], h).mean())
            d = around_it - float(depth.mean())
            # Under a wall that stands on a leap of thickness, the element that was found may lie to either side.
            h = h if whole is None else around_it
    d_face = d
    perimeter = rules.perimeter(
        loaded,
        site.solid,
        site.openings,
        d,
        h,
        whole=whole,
        keep=keep,
        nearness=nearness,
        support=support,
        others=site.others(sources),
    )
    if perimeter is None:
        return None
    # The depth is that where the perimeter runs.
    inside = site.inside(perimeter.inside)
    steps = False
    # Where elements leave nothing of the inside uncovered, its outline runs through those at it alone.
    if perimeter.inside.area - inside.size.sum() < COVERED and site.is_even(inside.border, h):
        heights = np.full(len(perimeter.segments), h)
    else:
        # A straight side is one segment, however long: what crosses it beside its middle is met by its pieces alone.
        fine = perimeter.divided(FINE)
        heights = site.along(fine.segments, h)
        steps = bool(np.ptp(heights) > STEP)
        if steps:
            perimeter = fine
        else:
            heights = np.full(len(perimeter.segments), heights.min())
        perimeter = perimeter.weighted(heights - float(depth.mean()))
    l = np.hypot(*(perimeter.segments[:, 1] - perimeter.segments[:, 0]).T)
    mean = float((heights * l).sum() / l.sum())
    counts, shrink = True, 1.0
    if support and raised and mean < d_face + float(depth.mean()) - 0.1 * d_face:
        # It lies beyond the thickening, whose own perimeter is checked: only the face is left here.
        counts = False
    elif not support and len(sources) == 1 and s.list == "columns" and perimeter.edges == 0:
        c, sn = np.cos(s.angle), np.sin(s.angle)
        sides = np.ptp(shapely.get_coordinates(loaded) @ np.array([[c, -sn], [sn, c]]), axis=0)
        out = (sides[0] - s.sides[0]) / 2, (sides[1] - s.sides[1]) / 2
        head = max(site.thickness(s.at, slab) - mean, 0.0)
        if max(out) < 2 * head:
            shrink = rules.outside(s.sides, (float(sides[0]), float(sides[1])), d, perimeter)
    weakest = site.weakest(perimeter, slab)
    near = _distance(loaded, perimeter)
    ground = Ground(
        loaded, s.angle, site.solid, site.openings, whole, keep, mean - float(depth.mean()), near,
        rules.beyond(mean - float(depth.mean())), rules.outer_polygon, 6 * d,
    )  # fmt: skip
    own = (mean - float(depth[0]), mean - float(depth[1]))
    return Outline(
        sources,
        around,
        loaded,
        perimeter,
        inside,
        slab,
        mean,
        own,
        d_face if support else None,
        counts,
        shrink,
        nearness,
        steps,
        weakest,
        thickening,
        ground,
        float(loaded.distance(site.solid.boundary)),
    )


def _distance(loaded: Polygon, perimeter: Perimeter) -> float:
    """How far a perimeter is from its loaded area, m."""
    return float(shapely.multipoints(perimeter.segments.mean(axis=1)).distance(loaded))


@dataclass(frozen=True, slots=True)
class Spread:
    """Points over and beside the loaded areas of zones, over which ratios of bars are means: ``spots`` of all of them, those of one zone from each
    of the ``starts`` (z + 1,); ``turn`` (k,) rad of the x bars of the ``slab`` (k,) there, and whether its zone stretches the upper face, ``up`` (k,)."""

    spots: Spots
    starts: Ints
    turn: Array
    slab: Ints
    up: Ints


@dataclass(frozen=True, slots=True)
class OverZones:
    """What mats give at the points of the ``spread`` in the stretched face: x and y bars (2, k) m2/m."""

    spread: Spread
    mats: Array


def spread_over(floor: Floor, rules: PunchingRules, region: BaseGeometry, found: Sequence[Outline]) -> Spread:
    """Where bars of zones are counted."""
    bars = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))
    grids = [
        _grid(region, o.source.loaded, rules.bars_within((o.depths[0] + o.depths[1]) / 2), float(bars[o.slab])) for o in found
    ]
    starts = np.cumsum([0, *(len(g) for g in grids)])
    slab, up = (
        np.repeat(np.array(v, dtype=np.int64), np.diff(starts)) for v in ([o.slab for o in found], [o.source.up for o in found])
    )
    turn = bars[slab]
    return Spread(Spots(np.concatenate(grids) if grids else np.zeros((0, 2)), region).indexed(), starts, turn, slab, up)


def over_zones(floor: Floor, spread: Spread) -> OverZones:
    """What mats give over these zones."""
    area = provided_by_parts(mats_of(floor), spread.spots.xy, spread.slab, spread.starts).area
    rows = 2 * spread.up + np.arange(2)[:, None]
    return OverZones(spread, area[rows, np.arange(len(spread.slab))])


def ratios_of(found: Sequence[Outline], over: OverZones, groups: Sequence[Group]) -> list[tuple[float, float]]:
    """Ratios of the x and y bars of each zone's stretched face: of mats and ``groups``."""
    faces = {int(o.source.up) for o in found}
    spread = over.spread
    more = areas_at([g for g in groups if g.face in faces], spread.spots, spread.turn)
    out = []
    for o, start, end in zip(found, spread.starts[:-1], spread.starts[1:], strict=True):
        x, y = (float((over.mats[k, start:end] + more[k][int(o.source.up), start:end]).mean()) for k in (0, 1))
        out.append((x / o.depths[0], y / o.depths[1]))
    return out


def bare_places(floor: Floor, rules: PunchingRules, found: Sequence[Outline]) -> tuple[ZonePlace, ...]:
    """The zones without bars."""
    return tuple(zone_of(o, (0.0, 0.0), floor, rules) for o in found)


def zone_places(
    floor: Floor, rules: PunchingRules, bare: Sequence[ZonePlace], over: OverZones, groups: Sequence[Group]
) -> tuple[ZonePlace, ...]:
    """The zones, given without bars, with those that they have: mats and ``groups``."""
    found = [place.outline for place in bare]
    return tuple(
        zone_of(place.outline, rho, floor, rules, like=place.check)
        for place, rho in zip(bare, ratios_of(found, over, groups), strict=True)
    )


def zone_of(
    o: Outline,
    rho: tuple[float, float],
    floor: Floor,
    rules: PunchingRules,
    strength_MPa: float | None = None,
    pressed: ZoneShape | None = None,
    like: ZoneCheck | None = None,
) -> ZonePlace:
    """The zone of an outline with its bars; ``strength_MPa``: of the concrete, where it is not the slab's; the compression of the zone
    ``pressed`` is taken over. ``like``: a zone of the same outline, from which its geometry may be taken."""
    s = o.source
    concrete = next(c for c in floor.concretes if c.id == o.concrete)
    if strength_MPa is not None:
        concrete = concrete.model_copy(update={"strength_MPa": strength_MPa})
    simplified = any(z.zone == s.id and z.beta == "simplified" for z in floor.zone_settings)
    shape = ZoneShape(
        o.loaded if o.around == "thickening" else s.loaded, o.perimeter, s.angle, s.sides, o.h, *o.depths, rho, concrete,
        o.around == "column", o.d_face, o.counts, o.shrink, o.nearness, simplified, _around_what(o), o.steps, not s.legs,
        clear=o.clear,
    )  # fmt: skip
    if pressed is not None:
        shape = replace(shape, sigma_cp=pressed.sigma_cp, least_pressed=pressed.least_pressed, tendons=pressed.tendons)
    return ZonePlace(o, rho, rules.zone(shape, like))


def _around_what(o: Outline) -> str:
    if o.around == "thickening":
        return "the thickening"
    if o.source.legs and not o.source.up:
        return "the wall, which holds the floor down here"
    return {"column": "the column", "wall_end": "the wall's end", "wall_corner": "the wall's corner", "patch": "the loaded area",
            "point": "the support"}[o.source.kind]  # fmt: skip


CELLS = 24
"""Ratios of bars are means over so many cells along and across."""


def extent_over(loaded: Polygon, turn: float, beyond: float) -> Polygon:
    """The box (m) along bars turned by ``turn`` rad and across them that holds a loaded area and reaches ``beyond`` (m) each side of it, in axes along and
    across the bars about the plan's origin."""
    xy = shapely.get_coordinates(shapely.affinity.rotate(loaded, -turn, origin=(0, 0), use_radians=True))
    return shapely.box(*(xy.min(axis=0) - beyond), *(xy.max(axis=0) + beyond))


def _grid(region: BaseGeometry, loaded: Polygon, beyond: float, turn: float) -> Array:
    """Points (k, 2) m on concrete over the loaded area and ``beyond`` (m) each side of it along bars turned by ``turn`` rad and across them, over which
    ratios of these are means."""
    x0, y0, x1, y1 = extent_over(loaded, turn, beyond).bounds
    # In the middles of as many cells: on the box's sides rounding would tell whether bars that end there count.
    share = (np.arange(CELLS) + 0.5) / CELLS
    gx, gy = np.meshgrid(x0 + share * (x1 - x0), y0 + share * (y1 - y0))
    c, s = np.cos(turn), np.sin(turn)
    xy = np.column_stack([gx.ravel(), gy.ravel()]) @ np.array([[c, s], [-s, c]])
    return np.asarray(xy[shapely.contains_xy(region, xy[:, 0], xy[:, 1])])
