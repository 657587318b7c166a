"""Loads carried down: the reactions of every floor by load case, to the columns and walls of the floor below and on to the foundation.

Each column or wall stands, with its foot, on a column or wall of the next floor below, or on that floor itself: then it is planted, and its
forces are loads of that floor. Vertical forces only; moments stay with the floor's own frame of columns above and below.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.geometry.tributary import tributary
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline, footprint
from piastra.core.standards import Standard
from piastra.core.standards.descent_rules import Carried, Reduction
from piastra.core.trace import Step

ON = 0.3
"""A foot stands on what lies below so much of it, or of which it covers so much."""
NEAR = 0.02
"""Outlines so near to each other (m) touch."""
SAME = 1e-3
"""Loads that a planted foot has on its floor are up to date if they differ by so small a share of it."""

Array = npt.NDArray[np.float64]
Forces = Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Bearer:
    """A column or wall below a floor: its ``list``, ``id``, footprint, a place in it (m), the ``own`` reaction by case (kN, compression positive) and the tributary
    ``area`` m2 of its floor."""

    list: str
    id: str
    footprint: BaseGeometry
    at: tuple[float, float]
    own: Forces
    area: float


@dataclass(frozen=True, slots=True)
class Storey:
    """A floor of the building: its concrete on plan, what carries it, all load on it by case (kN), of which that of planted feet by their
    ``(floor, id)`` and case, and what a bedding under it takes; the nature and category of its cases."""

    name: str
    region: BaseGeometry
    bearers: tuple[Bearer, ...]
    applied: Forces
    planted: Mapping[tuple[str, str], Forces]
    bedded: Forces
    cases: Mapping[str, tuple[str, str | None]]


@dataclass(frozen=True, slots=True)
class Foot:
    """A bearer with all that comes down to it: the floor it belongs to, ``total`` by case (kN), the summed tributary ``area`` m2 by live case of the floors
    that have it, from so many ``storeys`` by case, of which ``categories`` of use; what it stands ``on``: a floor and a bearer of it, a floor alone if it is planted there, None: the ground;
    the ``reductions`` by live case."""

    storey: str
    bearer: Bearer
    total: dict[str, float]
    area: dict[str, float]
    storeys: dict[str, int]
    categories: dict[str, frozenset[str | None]]
    on: tuple[str, str | None] | None
    reductions: dict[str, Reduction]

    @property
    def reduced(self) -> dict[str, float]:
        """The total by case, kN, live load reduced."""
        return {c: F * (self.reductions[c].factor if c in self.reductions else 1.0) for c, F in self.total.items()}


@dataclass(frozen=True, slots=True)
class Planted:
    """A foot that stands on a floor and not on what carries it: its forces (kN by case), and whether the floor has them as its loads."""

    storey: str
    bearer: Bearer
    on: str
    forces: dict[str, float]
    there: bool


@dataclass(frozen=True, slots=True)
class Sum:
    """Of one case: the loads of all floors but for those of planted feet, what comes to the ground, and what stands on floors that do not have it yet; kN."""

    case: str
    loads: float
    ground: float
    open: float

    @property
    def residual(self) -> float:
        """What is lost, over the loads."""
        return (self.loads - self.ground - self.open) / max(abs(self.loads), 1e-9)


@dataclass(frozen=True, slots=True)
class Descent:
    """All feet from the top down, those that are planted, and the sums by case."""

    feet: tuple[Foot, ...]
    planted: tuple[Planted, ...]
    sums: tuple[Sum, ...]


def region_of(floor: Floor) -> BaseGeometry:
    """A floor's concrete on plan."""
    region = shapely.union_all([polygon(s.outline) for s in floor.slabs])
    return region.difference(shapely.union_all([polygon(o.outline) for o in floor.openings]))


def _places(floor: Floor) -> tuple[dict[str, tuple[float, float]], dict[str, Array]]:
    """What carries a floor at points and along lines, by list and id."""
    points = {f"columns {c.id}": (c.at[0], c.at[1]) for c in floor.columns if c.below is not None}
    points |= {f"supports {s.id}": (s.at[0], s.at[1]) for s in floor.supports if s.kind == "point"}
    lines = {f"walls {w.id}": polyline(w.line) for w in floor.walls if w.below is not None}
    lines |= {f"supports {s.id}": polyline(s.line) for s in floor.supports if s.kind == "line"}
    return points, lines


def shares_of(floor: Floor) -> dict[tuple[str, str], BaseGeometry]:
    """Tributary parts of a floor by the list and id of what carries them."""
    parts = tributary(region_of(floor), *_places(floor))
    return {(key.partition(" ")[0], key.partition(" ")[2]): part for key, part in parts.items()}


def shares_of_beams(floor: Floor) -> dict[str, BaseGeometry]:
    """Tributary parts of a floor by beam: what is nearer to it than to any other beam, wall or line of support, or to a column that stands
    on none of them."""
    points, lines = _places(floor)
    beams = {f"beams {b.id}": polyline(b.line) for b in floor.beams}
    if not beams:
        return {}
    borne = shapely.union_all([beam_outline(b) for b in floor.beams])
    free = {k: p for k, p in points.items() if borne.distance(shapely.Point(p)) > NEAR}
    parts = tributary(region_of(floor), free, {**beams, **lines})
    return {key.partition(" ")[2]: part for key, part in parts.items() if key in beams}


def storey_of(floor: Floor, reactions: Mapping[str, Forces], applied: Forces) -> Storey:
    """A computed floor: ``reactions`` by support and case and the ``applied`` load by case, kN."""
    region = region_of(floor)
    points, lines = _places(floor)
    areas = shares_of(floor)
    shapes = {f"columns {c.id}": footprint(c) for c in floor.columns} | {
        f"walls {w.id}": shapely.LineString(polyline(w.line)).buffer(w.thickness_m / 2, cap_style="flat") for w in floor.walls
    }
    shapes |= {k: shapely.Point(points[k]).buffer(NEAR) for k in points if k not in shapes}
    shapes |= {k: shapely.LineString(lines[k]).buffer(NEAR) for k in lines if k not in shapes}
    bearers = []
    for key in (*points, *lines):
        kind, _, id = key.partition(" ")
        middle = shapes[key].representative_point()
        at = points.get(key, (middle.x, middle.y))
        bearers.append(Bearer(kind, id, shapes[key], at, dict(reactions.get(id, {})), areas[kind, id].area))
    planted: dict[tuple[str, str], dict[str, float]] = {}
    for load in floor.loads:
        name = foot_of(load.id)
        if name is not None and load.kind == "point":
            forces = planted.setdefault(name, {})
            forces[load.case] = forces.get(load.case, 0.0) + load.F_kN
    cases = {c.id: (c.nature, c.category) for c in floor.load_cases}
    bedded = (
        {c: F - sum(b.own.get(c, 0.0) for b in bearers) for c, F in applied.items()}
        if any(s.kind == "area" for s in floor.supports)
        else {}
    )
    return Storey(floor.name, region, tuple(bearers), dict(applied), planted, bedded, cases)


FROM_ABOVE = " above, "
BETWEEN = " of "


def load_id(foot: Bearer, storey: str, case: str) -> str:
    """The label of a planted foot's load on the floor that carries it."""
    return f"{foot.id}{BETWEEN}{storey}{FROM_ABOVE}{case}"


def foot_of(label: str) -> tuple[str, str] | None:
    """The floor and id of the foot that a load with this label comes from; None: it is another load."""
    head, found, _ = label.rpartition(FROM_ABOVE)
    id, between, storey = head.partition(BETWEEN)
    return (storey, id) if found and between else None


def carried_down(storeys: Sequence[Storey], standard: Standard) -> Descent:
    """All feet of ``storeys`` from the top down. Cases of one label are one case."""
    feet: list[Foot] = []
    planted: list[Planted] = []
    arriving: dict[str, list[Foot]] = {}
    for number, storey in enumerate(storeys):
        below = storeys[number + 1] if number + 1 < len(storeys) else None
        landed = arriving
        arriving = {}
        for bearer in storey.bearers:
            above = landed.get(f"{bearer.list} {bearer.id}", [])
            foot = _foot(storey, bearer, above, _under(bearer, below), standard)
            feet.append(foot)
            if foot.on is not None and foot.on[1] is not None:
                arriving.setdefault(foot.on[1], []).append(foot)
            elif foot.on is not None and below is not None:
                given = below.planted.get((storey.name, bearer.id), {})
                there = all(abs(given.get(c, 0.0) - F) <= SAME * max(abs(F), 1.0) for c, F in foot.total.items())
                planted.append(Planted(storey.name, bearer, below.name, foot.total, there))
    return Descent(tuple(feet), tuple(planted), tuple(_sums(storeys, feet, planted)))


def _foot(storey: Storey, bearer: Bearer, above: Sequence[Foot], on: tuple[str, str | None] | None, standard: Standard) -> Foot:
    total, area, storeys = dict(bearer.own), {}, {}
    live = {c for c, (nature, _) in storey.cases.items() if nature == "live"}
    for case in live & set(bearer.own):
        if abs(storey.applied.get(case, 0.0)) > 0:
            area[case], storeys[case] = bearer.area, 1
    categories = {case: frozenset({storey.cases[case][1]}) for case in area}
    for foot in above:
        for case, found in foot.categories.items():
            categories[case] = categories.get(case, frozenset()) | found
        for case, F in foot.total.items():
            total[case] = total.get(case, 0.0) + F
        for case in foot.area:
            area[case] = area.get(case, 0.0) + foot.area[case]
        # Feet side by side on one wall come from the same storeys.
        for case, n in foot.storeys.items():
            own = int(case in live and case in bearer.own and abs(storey.applied.get(case, 0.0)) > 0)
            storeys[case] = max(storeys.get(case, 0), n + own)
    reductions = {}
    if standard.descent is not None:
        for case, n in storeys.items():
            if len(categories[case]) > 1:
                # Reductions are of storeys of one use: of several uses in one case nothing is taken off.
                reductions[case] = Reduction(
                    1.0, (Step("No reduction", note="Storeys of several categories of use share this case."),)
                )
                continue
            (category,) = categories[case]
            mean = total.get(case, 0.0) / area[case] if area[case] > 0 else 0.0
            reductions[case] = standard.descent.reduction(Carried(category, n, area[case], mean, bearer.list == "walls"))
    return Foot(storey.name, bearer, total, area, storeys, categories, on, reductions)


def _under(bearer: Bearer, below: Storey | None) -> tuple[str, str | None] | None:
    """What a foot stands on: of several bearers the one that has most of it."""
    if below is None:
        return None
    shared = [(float(bearer.footprint.intersection(b.footprint.buffer(NEAR)).area), b) for b in below.bearers]
    best, found = max(shared, key=lambda pair: pair[0], default=(0.0, None))
    if found is not None and best >= ON * min(bearer.footprint.area, found.footprint.area):
        return below.name, f"{found.list} {found.id}"
    if below.region.intersects(shapely.Point(bearer.at)):
        return below.name, None
    return None


def _sums(storeys: Sequence[Storey], feet: Sequence[Foot], planted: Sequence[Planted]) -> list[Sum]:
    out = []
    for case in dict.fromkeys(c for s in storeys for c in s.applied):
        # Loads from above are another floor's: only what floors have of their own counts.
        given = sum(s.applied.get(case, 0.0) - sum(f.get(case, 0.0) for f in s.planted.values()) for s in storeys)
        ground = sum(f.total.get(case, 0.0) for f in feet if f.on is None) + sum(s.bedded.get(case, 0.0) for s in storeys)
        known = {(p.storey, p.bearer.id): p for p in planted}
        placed = {key: f for s in storeys for key, f in s.planted.items()}
        # What stands on a floor, less what of it the floor has as its loads; and loads of feet that stand there no more.
        missing = sum(p.forces.get(case, 0.0) - placed.get(key, {}).get(case, 0.0) for key, p in known.items())
        missing -= sum(f.get(case, 0.0) for key, f in placed.items() if key not in known)
        out.append(Sum(case, given, ground, missing))
    return out
