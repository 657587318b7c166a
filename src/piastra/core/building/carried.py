"""Loads carried down: the reactions of every floor by load case, to the columns and walls of the floor below and on to the foundation.

Each column or wall stands, with its foot, on a column or wall of the next floor below, or on that floor itself: then it is planted, and its
forces are loads of that floor. Vertical forces only, of straight walls as they vary along them; moments stay with the floor's own frame of columns
above and below.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

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
    ``area`` m2 of its floor. Of straight walls their ``line`` (m) and the first moment of the reaction along it (``tilt``, kNm by case), about its middle
    and positive where its end is pressed more."""

    list: str
    id: str
    footprint: BaseGeometry
    at: tuple[float, float]
    own: Forces
    area: float
    line: tuple[tuple[float, float], tuple[float, float]] | None = None
    tilt: Forces = field(default_factory=dict)

    @property
    def length(self) -> float:
        """Of its line, m; nil without one."""
        return float(np.hypot(*np.subtract(self.line[1], self.line[0]))) if self.line else 0.0

    def ahead(self, at: tuple[float, float]) -> float:
        """How far a place (m) is from the middle of the line, along it."""
        if self.line is None:
            return 0.0
        a, b = np.array(self.line)
        return float((np.array(at) - (a + b) / 2) @ (b - a) / self.length)

    def by_metre(self, F: float, tilt: float) -> tuple[float, float]:
        """The force (kN/m) at the start and at the end of the line that has the sum ``F`` (kN) and the first moment ``tilt`` (kNm) and varies evenly."""
        mean, lean = F / self.length, 6 * tilt / self.length**2
        return mean - lean, mean + lean


@dataclass(frozen=True, slots=True)
class Storey:
    """A floor of the building: its concrete on plan, what carries it, all load on it by case (kN), of which that of planted feet by their
    ``(floor, id)`` and case, and what a bedding under it takes; the nature and category of its cases; its ``combinations``: limit state and factors.
    ``leaning``: first moments (kNm) of planted walls' forces along them."""

    name: str
    region: BaseGeometry
    bearers: tuple[Bearer, ...]
    applied: Forces
    planted: Mapping[tuple[str, str], Forces]
    bedded: Forces
    cases: Mapping[str, tuple[str, str | None]]
    combinations: Mapping[str, tuple[str, Forces]] = field(default_factory=dict)
    leaning: Mapping[tuple[str, str], Forces] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Foot:
    """A bearer with all that comes down to it: the floor it belongs to, ``total`` by case (kN), the summed tributary ``area`` m2 by live case of the floors
    that have it, from so many ``storeys`` by case, of which ``categories`` of use; what it stands ``on``: a floor and a bearer of it, a floor alone if it is planted there, None: the ground;
    the ``reductions`` by live case. ``tilt`` of straight walls as of :class:`Bearer`, of all that comes down; ``combined``: the force (kN) in each
    combination of its floor with all live load present, reduced as the standard has it for the combination."""

    storey: str
    bearer: Bearer
    total: dict[str, float]
    tilt: dict[str, float]
    combined: dict[str, float]
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
    """A foot that stands on a floor and not on what carries it: its forces (kN by case) with their ``tilt``, and whether the floor has them as its loads."""

    storey: str
    bearer: Bearer
    on: str
    forces: dict[str, float]
    tilt: dict[str, float]
    there: bool


@dataclass(frozen=True, slots=True)
class Sum:
    """Of one case: the loads of all floors but for those of planted feet, what comes to the ground, and what stands on floors that do not have it yet; kN.
    ``size``: the forces of all feet, whatever their sign; a case that balances itself is measured by them."""

    case: str
    loads: float
    ground: float
    open: float
    size: float

    @property
    def residual(self) -> float:
        """What is lost, over the loads, or over the forces where these are greater."""
        return (self.loads - self.ground - self.open) / max(abs(self.loads), self.size, 1e-9)


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


@dataclass(frozen=True, slots=True)
class Reaction:
    """A support's force up (kN) on its floor and the moments (kNm) about the plan's x and y axes, right-hand rule, at its centre: of a straight wall
    the middle of its line."""

    F: float
    M_x: float
    M_y: float


def storey_of(floor: Floor, reactions: Mapping[str, Mapping[str, Reaction]], applied: Forces) -> Storey:
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
        own = reactions.get(id, {})
        line, tilt = _straight(lines[key]) if key in lines else None, {}
        if line is not None:
            (ax, ay), (bx, by) = line
            long = float(np.hypot(bx - ax, by - ay))
            # The moment about the wall's own axis has no part in this; the other one is the force's first moment along it.
            tilt = {c: (r.M_x * (by - ay) - r.M_y * (bx - ax)) / long for c, r in own.items()}
        bearers.append(Bearer(kind, id, shapes[key], at, {c: r.F for c, r in own.items()}, areas[kind, id].area, line, tilt))
    planted: dict[tuple[str, str], dict[str, float]] = {}
    leaning: dict[tuple[str, str], dict[str, float]] = {}
    for load in floor.loads:
        name = foot_of(load.id)
        if name is None:
            continue
        forces = planted.setdefault(name, {})
        if load.kind == "point":
            forces[load.case] = forces.get(load.case, 0.0) + load.F_kN
        elif load.kind == "line" and load.q_kN_m is not None:
            ends = load.q_kN_m
            long = float(shapely.length(shapely.LineString(polyline(load.line))))
            forces[load.case] = forces.get(load.case, 0.0) + (ends[0] + ends[1]) / 2 * long
            leans = leaning.setdefault(name, {})
            leans[load.case] = leans.get(load.case, 0.0) + (ends[1] - ends[0]) * long**2 / 12
    cases = {c.id: (c.nature, c.category) for c in floor.load_cases}
    bedded = (
        {c: F - sum(b.own.get(c, 0.0) for b in bearers) for c, F in applied.items()}
        if any(s.kind == "area" for s in floor.supports)
        else {}
    )
    combinations = {c.id: (c.limit_state, dict(c.factors)) for c in floor.combinations}
    return Storey(floor.name, region, tuple(bearers), dict(applied), planted, bedded, cases, combinations, leaning)


def _straight(points: Array) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """The ends (m) of a line without bends; None: it has some."""
    a, b = points[0], points[-1]
    long = float(np.hypot(*(b - a)))
    off = np.abs((points[:, 0] - a[0]) * (b[1] - a[1]) - (points[:, 1] - a[1]) * (b[0] - a[0]))
    return ((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))) if long > NEAR and (off <= 1e-6 * long).all() else None


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
                key = (storey.name, bearer.id)
                given, leans = below.planted.get(key, {}), below.leaning.get(key, {})
                there = all(abs(given.get(c, 0.0) - F) <= SAME * max(abs(F), 1.0) for c, F in foot.total.items()) and all(
                    abs(leans.get(c, 0.0) - t) <= SAME * max(abs(foot.total.get(c, 0.0)), 1.0) * bearer.length
                    for c, t in foot.tilt.items()
                )
                planted.append(Planted(storey.name, bearer, below.name, foot.total, foot.tilt, there))
    return Descent(tuple(feet), tuple(planted), tuple(_sums(storeys, feet, planted)))


def _foot(storey: Storey, bearer: Bearer, above: Sequence[Foot], on: tuple[str, str | None] | None, standard: Standard) -> Foot:
    total, tilt, area, storeys = dict(bearer.own), dict(bearer.tilt), {}, {}
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
            if bearer.line is not None:
                tilt[case] = tilt.get(case, 0.0) + _leaning(foot, case, bearer)
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
    combined = _combined(storey, total, reductions, standard)
    return Foot(storey.name, bearer, total, tilt, combined, area, storeys, categories, on, reductions)


def _leaning(foot: Foot, case: str, under: Bearer) -> float:
    """The first moment (kNm) that what stands on a wall brings to it: of a wall along it with its own, of others at their places."""
    F, line = foot.total[case], foot.bearer.line
    if line is None or under.line is None:
        return F * under.ahead(foot.bearer.at)
    middle = ((line[0][0] + line[1][0]) / 2, (line[0][1] + line[1][1]) / 2)
    along = float(np.subtract(*line[::-1]) @ np.subtract(*under.line[::-1]) / (foot.bearer.length * under.length))
    return F * under.ahead(middle) + along * foot.tilt.get(case, 0.0)


LASTING = ("self_weight", "dead", "prestress")
"""Natures of actions that are always there; all others lead a combination or accompany what leads it."""


def _combined(storey: Storey, total: Forces, reductions: Mapping[str, Reduction], standard: Standard) -> dict[str, float]:
    """The force (kN) in every combination of the floor. A live load that only accompanies another action is not reduced where the standard lets it have one of
    the two factors alone: it accompanies where its factor is less than the greatest that any variable action has in that limit state, and in the
    quasi-permanent one."""
    greatest: dict[str, float] = {}
    for state, factors in storey.combinations.values():
        for case, factor in factors.items():
            if case in storey.cases and storey.cases[case][0] not in LASTING:
                greatest[state] = max(greatest.get(state, 0.0), factor)
    out = {}
    for name, (state, factors) in storey.combinations.items():
        out[name] = 0.0
        for case, factor in factors.items():
            leads = state != "quasi_permanent" and factor >= greatest.get(state, 0.0) * (1 - 1e-9)
            reduced = case in reductions and (leads or (standard.descent is not None and standard.descent.accompanying))
            out[name] += factor * total.get(case, 0.0) * (reductions[case].factor if reduced else 1.0)
    return out


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
        out.append(Sum(case, given, ground, missing, sum(abs(f.bearer.own.get(case, 0.0)) for f in feet)))
    return out
