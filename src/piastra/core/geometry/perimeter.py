"""Critical perimeters for punching, from the real geometry of the column, the edges and the openings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import combinations
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.affinity import scale, translate
from shapely.geometry import LineString, MultiPoint, Point, Polygon
from shapely.geometry.base import BaseGeometry

Array = npt.NDArray[np.float64]

ARC_STEPS = 64
"""Chords of a quarter circle of a perimeter."""


STRAIGHT = 1e-4
"""A perimeter whose first moment is below this share of its squared length is a straight line; a square's is 0.09."""


@dataclass(frozen=True, slots=True)
class Perimeter:
    """A critical perimeter.

    ``segments`` (k, 2, 2) m; ``length`` m; ``centroid`` m; ``inside`` the area that it encloses on the floor;
    ``edges`` the number of free edges that it runs out to, ``outward`` their normals; ``lost`` m taken away by each opening,
    by its label. ``face`` m of the loaded area's own outline in concrete that no opening takes. ``weight`` (k,) depth of each
    segment over the mean; centroid and moments are weighted by it. ``dead`` (m, 2, 2) m: what openings take of the line.
    """

    segments: Array
    length: float
    centroid: tuple[float, float]
    inside: BaseGeometry
    edges: int
    lost: tuple[tuple[str, float], ...]
    outward: tuple[tuple[float, float], ...]
    face: float
    weight: Array
    dead: Array = field(default_factory=lambda: np.zeros((0, 2, 2)))

    @property
    def is_straight(self) -> bool:
        """Whether all of it lies in one line, so that it resists no moment about that."""
        I_x, I_y, I_xy = self.second_moments()
        return float(np.linalg.eigvalsh([[I_y, I_xy], [I_xy, I_x]])[0]) < STRAIGHT * self.length**3

    def weighted(self, depth: Array) -> Perimeter:
        """With the depths (k,) m of its segments."""
        l = np.hypot(*(self.segments[:, 1] - self.segments[:, 0]).T)
        mean = float((l * depth).sum() / l.sum())
        return replace(
            _of(self.segments, depth / mean, self.inside, self.edges, self.lost, self.outward, self.face), dead=self.dead
        )

    def divided(self, length: float) -> Perimeter:
        """With no segment longer than ``length`` m."""
        l = np.hypot(*(self.segments[:, 1] - self.segments[:, 0]).T)
        parts = np.maximum(np.ceil(l / length - 1e-9).astype(np.int64), 1)
        which = np.repeat(np.arange(len(l)), parts)
        at = np.concatenate([np.arange(n) for n in parts]) / parts[which]
        a, way = self.segments[which, 0], self.segments[which, 1] - self.segments[which, 0]
        segments = np.stack([a + at[:, None] * way, a + (at + 1 / parts[which])[:, None] * way], axis=1)
        return replace(
            _of(segments, self.weight[which], self.inside, self.edges, self.lost, self.outward, self.face), dead=self.dead
        )

    def within(self, area: BaseGeometry) -> Perimeter | None:
        """What of it lies in an area; None: nothing."""
        lines = shapely.linestrings(self.segments)
        shapely.prepare(area)
        # Most segments lie wholly inside or outside: only those that cross the border are cut.
        inside = shapely.covers(area, lines)
        across = np.flatnonzero(shapely.intersects(area, lines) & ~inside)
        pieces, of = shapely.get_parts(shapely.intersection(lines[across], area), return_index=True)
        real = shapely.length(pieces) > 1e-9
        cut = [shapely.get_coordinates(g)[[0, -1]] for g in pieces[real]]
        of = across[of[real]]
        if not (inside.any() or cut):
            return None
        order = np.argsort(np.concatenate([np.flatnonzero(inside), of]), kind="stable")
        segments = np.concatenate([self.segments[inside], np.reshape(cut, (-1, 2, 2))])[order]
        weight = np.concatenate([self.weight[inside], self.weight[of]])[order]
        return replace(_of(segments, weight, self.inside, self.edges, self.lost, self.outward, self.face), dead=self.dead)

    def moved(self, by: Array) -> Perimeter:
        """As it lies elsewhere, by (2,) m."""
        return replace(
            self, segments=self.segments + by, centroid=(self.centroid[0] + float(by[0]), self.centroid[1] + float(by[1])),
            inside=shapely.transform(self.inside, lambda xy: xy + by), dead=self.dead + by,
        )  # fmt: skip

    @property
    def place(self) -> str:
        """Interior, edge or corner, as the geometry has it."""
        return ("interior", "edge", "corner")[min(self.edges, 2)]

    def first_moment(self, angle: float) -> float:
        """Integral of ``|e| dl`` (m2), ``e`` the distance from the axis through the centroid at ``angle`` rad:
        the first moment of a plastic distribution."""
        normal = np.array([-np.sin(angle), np.cos(angle)])
        e = (self.segments - np.array(self.centroid)) @ normal
        l = np.hypot(*(self.segments[:, 1] - self.segments[:, 0]).T)
        a, b = e[:, 0], e[:, 1]
        same = np.abs(a + b) / 2
        total = np.maximum(np.abs(a) + np.abs(b), 1e-15)
        l = l * self.weight
        return float((l * np.where(a * b >= 0, same, (a * a + b * b) / (2 * total))).sum())

    def second_moments(self) -> tuple[float, float, float]:
        """``I_x``, ``I_y`` and ``I_xy`` (m3) of the line about its centroid."""
        p = self.segments - np.array(self.centroid)
        l = np.hypot(*(p[:, 1] - p[:, 0]).T)
        product = (2 * (p[:, 0, :, None] * p[:, 0, None] + p[:, 1, :, None] * p[:, 1, None])
                   + p[:, 0, :, None] * p[:, 1, None] + p[:, 1, :, None] * p[:, 0, None]) / 6  # fmt: skip
        l = l * self.weight
        I = (l[:, None, None] * product).sum(axis=0)
        return float(I[1, 1]), float(I[0, 0]), float(I[0, 1])


@dataclass(frozen=True, slots=True)
class _Side:
    """A free edge: the distance (m) of the shape from it, its outward normal, a point on it, and the opening it belongs to."""

    gap: float
    normal: Array
    at: Array
    opening: str


BEHIND = (0.002, 0.022)
"""An edge is free where there is no concrete between so far (m) behind it."""
CONCRETE = 0.02
"""What of that may be concrete for all that: chords of curves."""
FAR = 200.0
DISTINCT = 40.0
"""Sides that turn by less than this (degrees) are one edge: chords of a curve, both ends of a straight one."""
MOST_EDGES = 4


class _Concrete:
    """One part of a floor's concrete with ``openings``, and what is asked of it for every perimeter: the ``whole`` of it with them taken out, what lies
    ``inside`` its outline, its own ``edge``, and the sides of its rings, those of openings by their label."""

    def __init__(self, part: Polygon, openings: Sequence[tuple[str, Polygon]]) -> None:
        self.part = part
        self.whole = part.difference(shapely.union_all([o for _, o in openings]))
        self.inside = part.buffer(-1e-4)
        self.edge = part.boundary.buffer(ON)
        for shape in (self.whole, self.inside):
            shapely.prepare(shape)
        turned = shapely.orient_polygons(part)
        rings = [("", turned.exterior), *(("", r) for r in turned.interiors)]
        # Round an opening the concrete lies outside: run the other way, its normals too point away from concrete.
        rings += [(label, shapely.orient_polygons(o, exterior_cw=True).exterior) for label, o in openings]
        ends = [shapely.get_coordinates(ring) for _, ring in rings]
        start, end = np.concatenate([e[:-1] for e in ends]), np.concatenate([e[1:] for e in ends])
        length = np.hypot(*(end - start).T)
        real = length > 1e-6
        labels = np.repeat([label for label, _ in rings], [len(e) - 1 for e in ends])
        self.start, self.label = start[real], labels[real]
        along = (end - start)[real] / length[real, None]
        self.normal = np.stack([along[:, 1], -along[:, 0]], axis=1)
        self.lines = shapely.linestrings(np.stack([start, end], axis=1)[real])

    def sides(self, shape: BaseGeometry, distance: float, reach: float) -> list[_Side]:
        """Free edges within reach that bound the shape's strip right across, nearest first, of different directions."""
        centre, xy = np.array(shape.centroid.coords[0]), shapely.get_coordinates(shape)
        gaps = shapely.distance(self.lines, shape)
        near = (gaps <= reach) & (((centre - self.start) * self.normal).sum(axis=1) < 1e-9)
        distinct: list[_Side] = []
        for k in np.flatnonzero(near)[np.argsort(gaps[near], kind="stable")].tolist():
            # The edge's line beside the shape: its start may be far away.
            beside = centre - ((centre - self.start[k]) @ self.normal[k]) * self.normal[k]
            side = _Side(float(gaps[k]), self.normal[k], beside, str(self.label[k]))
            if all(side.normal @ m.normal < np.cos(np.radians(DISTINCT)) for m in distinct) and self.is_free(side, xy, distance):
                distinct.append(side)
        return distinct[:MOST_EDGES]

    def is_free(self, side: _Side, xy: Array, distance: float) -> bool:
        """Whether there is no concrete behind an edge, as wide as points (k, 2) and ``distance`` m to both sides."""
        t = np.array([-side.normal[1], side.normal[0]])
        along = (xy - side.at) @ t
        low, high = along.min() - distance, along.max() + distance
        corners = np.array([(low, BEHIND[0]), (high, BEHIND[0]), (high, BEHIND[1]), (low, BEHIND[1])])
        behind = Polygon(side.at + corners @ np.stack([t, side.normal]))
        if not self.whole.intersects(behind):
            return True
        return bool(self.whole.intersection(behind).area <= CONCRETE * behind.area)


@lru_cache(maxsize=64)
def _concrete(part: bytes, openings: tuple[tuple[str, bytes], ...]) -> _Concrete:
    return _Concrete(shapely.from_wkb(part), [(label, shapely.from_wkb(o)) for label, o in openings])


def _before(side: _Side) -> Polygon:
    """The half of the plane on the concrete's side of an edge."""
    t = np.array([-side.normal[1], side.normal[0]])
    corners = ((-FAR, 0.0), (FAR, 0.0), (FAR, -FAR), (-FAR, -FAR))
    return Polygon([side.at + x * t + y * side.normal for x, y in corners])


def _perimeter(
    area: Polygon, kept: Sequence[BaseGeometry], concrete: _Concrete, cones: Sequence[tuple[str, BaseGeometry]],
    holes: BaseGeometry, sides: Sequence[_Side], face: float,
) -> Perimeter | None:  # fmt: skip
    line: BaseGeometry
    inside: BaseGeometry
    if concrete.inside.covers(area):
        line, inside = area.exterior, area
    else:
        line, inside = area.exterior.intersection(concrete.inside), area.intersection(concrete.part)
    for k in kept:
        line, inside = line.intersection(k), inside.intersection(k)
    lost, taken = [], []
    for label, cone in cones:
        rest = line.difference(cone)
        if line.length - rest.length > 1e-6:
            lost.append((label, float(line.length - rest.length)))
            taken.append(line.intersection(cone))
        line = rest
    if holes.intersects(area):
        taken.append(line.intersection(holes))
        line, inside = line.difference(holes), inside.difference(holes)
    parts = [g for g in shapely.get_parts(line) if isinstance(g, LineString) and g.length > 1e-6]
    if not parts:
        return None
    segments = _pieces(parts)
    outward = tuple((float(s.normal[0]), float(s.normal[1])) for s in sides)
    made = _of(segments, np.ones(len(segments)), inside, len(sides), tuple(lost), outward, face)
    dead = [g for g in shapely.get_parts(taken) if isinstance(g, LineString) and g.length > 1e-6]
    return replace(made, dead=_pieces(dead)) if dead else made


def _pieces(parts: Sequence[BaseGeometry]) -> Array:
    """Lines as segments (k, 2, 2)."""
    return np.concatenate([np.stack([xy[:-1], xy[1:]], axis=1) for xy in map(shapely.get_coordinates, parts)])


def _of(
    segments: Array, weight: Array, inside: BaseGeometry, edges: int, lost: tuple[tuple[str, float], ...],
    outward: tuple[tuple[float, float], ...], face: float,
) -> Perimeter:  # fmt: skip
    l = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    length = float(l.sum())
    x, y = (weight * l / 2) @ (segments[:, 0] + segments[:, 1]) / (weight * l).sum()
    return Perimeter(segments, length, (float(x), float(y)), inside, edges, lost, outward, face, weight)


def _widened(opening: Polygon, centre: Point) -> Polygon:
    """An opening longer than wide, seen from the column, with the width sqrt(l1 l2): EN 1992-1-1, figure 6.14."""
    ring = shapely.get_coordinates(opening.minimum_rotated_rectangle)
    sides = ring[1:3] - ring[:2]
    length = np.hypot(*sides.T)
    away = np.array(opening.centroid.coords[0]) - np.array(centre.coords[0])
    along = int(np.argmax(np.abs(sides @ away) / np.maximum(length, 1e-12)))
    l1, l2 = length[along], length[1 - along]
    if l1 <= l2 or l2 < 1e-9:
        return opening
    across = sides[1 - along] / l2
    middle = np.array(opening.centroid.coords[0])
    xy = shapely.get_coordinates(opening.exterior)
    stretch = (np.sqrt(l1 / l2) - 1) * ((xy - middle) @ across)
    return Polygon(xy + stretch[:, None] * across)


def control_perimeter(
    loaded: Polygon,
    distance: float,
    solid: BaseGeometry,
    openings: Sequence[tuple[str, Polygon]],
    reach: float,
    straight: bool = False,
    whole: BaseGeometry | None = None,
    keep: BaseGeometry | None = None,
    count_on: BaseGeometry | None = None,
    others: BaseGeometry | None = None,
) -> Perimeter | None:
    """The shortest admissible perimeter at ``distance`` m from a convex loaded area.

    ``solid`` is the concrete with its ``openings`` filled, its own holes and parts as they are: the part under the loaded area
    counts. Near free edges the loaded area is continued to the edge, so that the perimeter meets it at a right angle, if that is
    shorter; an opening that bounds the perimeter's strip right across counts as an edge where that is shorter. Of others within ``reach`` m the part
    between the tangents from the loaded area's middle is left out, and of openings longer than wide as figure 6.14 has it
    (not where ``straight``: corners are then not rounded either). The construction is that of EN 1992-1-1, 6.4.2, figures
    6.13 to 6.15; distance and reach are the standard's.

    ``whole``: of what the loaded area is a part (a wall), ``keep``: where the perimeter lies and loads count, ``count_on``: where
    alone the perimeter counts; ``others``: supports that a perimeter which runs out to edges may not enclose.
    """
    if whole is None and keep is None:
        room = room_about(loaded, solid, openings)
        if room > reach:
            alone, at = at_home(loaded)
            closed = _closed(alone.wkb, distance, straight)
            if room > closed.length / 2:
                found_here = closed.moved(at)
                return found_here if count_on is None else found_here.within(count_on)
    best: Perimeter | None = None
    shapes = (None if g is None else g.wkb for g in (loaded, solid, whole, keep))
    for edges, found in _admissible(distance, reach, straight, tuple((label, o.wkb) for label, o in openings), *shapes):
        if edges and others is not None and found.inside.intersects(others):
            continue
        # A perimeter that edges straighten resists no moment across itself: any other is better.
        if edges == 3 and found.is_straight and best is not None:
            continue
        # A column flush with an edge has one length either way; it is then the edge's.
        if best is None or found.length < best.length + 1e-6:
            best = found
    if best is None or count_on is None:
        return best
    return best.within(count_on)


def room_about(loaded: Polygon, solid: BaseGeometry, openings: Sequence[tuple[str, Polygon]]) -> float:
    """How far (m) it is from a loaded area to the nearest edge of the concrete in which it lies, or opening; nil where not all of it does."""
    if not solid.covers(loaded):
        return 0.0
    return float(shapely.distance(np.array([solid.boundary, *(o for _, o in openings)], dtype=object), loaded).min())


DIGITS = 9
"""Shapes whose corners are alike to so many digits of a metre are alike."""


def at_home(loaded: Polygon) -> tuple[Polygon, Array]:
    """A loaded area with its middle at the origin, equal for all that are alike, and where (2,) m that lies."""
    at = np.array(loaded.centroid.coords[0])
    return shapely.transform(loaded, lambda xy: np.round(xy - at, DIGITS) + 0.0), at


@lru_cache(maxsize=256)
def _closed(loaded: bytes, distance: float, straight: bool) -> Perimeter:
    """The perimeter round an area with nothing near: alike columns, which most of a floor's are, have it in common."""
    shape = shapely.from_wkb(loaded)
    area = shape.buffer(distance, quad_segs=ARC_STEPS, join_style="mitre" if straight else "round")
    segments = _pieces([area.exterior])
    return _of(segments, np.ones(len(segments)), area, 0, (), (), float(shape.exterior.length))


@lru_cache(maxsize=1024)
def _admissible(
    distance: float, reach: float, straight: bool, openings: tuple[tuple[str, bytes], ...], *shapes: bytes | None
) -> tuple[tuple[int, Perimeter], ...]:
    """The perimeters among which the shortest is chosen, with the number of edges that each runs out to. Remembered by the content of all that they
    depend on, as an edit leaves most of a floor's as they were."""
    loaded, solid, whole, keep = (None if g is None else shapely.from_wkb(g) for g in shapes)
    return tuple(
        _found(loaded, distance, solid, [(label, shapely.from_wkb(o)) for label, o in openings], reach, straight, whole, keep)
    )


def _found(
    loaded: Polygon, distance: float, solid: BaseGeometry, openings: Sequence[tuple[str, Polygon]], reach: float, straight: bool,
    whole: BaseGeometry | None, keep: BaseGeometry | None,
) -> Iterator[tuple[int, Perimeter]]:  # fmt: skip
    parts = shapely.get_parts(solid)
    part = max(parts, key=lambda p: p.intersection(loaded).area, default=Polygon()) if len(parts) != 1 else parts[0]
    on = loaded.intersection(part)
    if on.area <= 0:
        return
    part = Polygon(part.exterior, [r for r in part.interiors if Polygon(r).area > SPECK])
    on = loaded.intersection(part)
    holes = shapely.unary_union([o for _, o in openings])
    # A stretch of a wall is not looked at from one point: openings take from its perimeter what lies in them, and half of a wall round one stands
    # over it.
    stands = on.difference(holes)
    centre = on.centroid if whole is None or stands.is_empty else stands.representative_point()
    near = [(label, o) for label, o in openings if whole is not None or not o.contains(centre)]
    join: Literal["mitre", "round"] = "mitre" if straight else "round"
    natural = loaded.buffer(distance, quad_segs=ARC_STEPS, join_style=join)
    concrete = _concrete(part.wkb, tuple((label, o.wkb) for label, o in near))
    sides = concrete.sides(loaded, distance, natural.exterior.length / 2)
    width = float(max(np.ptp(shapely.get_coordinates(loaded), axis=0)))

    def along(chosen: Sequence[_Side], cones: Sequence[tuple[str, BaseGeometry]], face: float) -> Perimeter | None:
        """The perimeter that runs out to some edges."""
        shapes: list[BaseGeometry] = [loaded]
        for side in chosen:
            # As far as corners of the offset are behind the edge.
            vector = side.normal * (side.gap + width + 2 * distance + 0.1)
            shapes = [*shapes, *(translate(s, *vector) for s in shapes)]
        hull = shapely.GeometryCollection(shapes).convex_hull if chosen or whole is None else loaded
        # Run out to one edge, it has to be bounded right across by the other.
        if len(chosen) > 1:
            reached = shapely.get_coordinates(hull.intersection(part))
            if not all(concrete.is_free(s, reached, distance) for s in chosen):
                return None
        if whole is not None:
            hull = shapely.unary_union([hull, whole])
        area = hull.buffer(distance, quad_segs=ARC_STEPS, join_style=join) if chosen or whole is not None else natural
        kept = [_before(s) for s in chosen] + ([keep] if keep is not None else [])
        return _perimeter(area, kept, concrete, cones, holes, chosen, face)

    # A large opening near by counts as an edge: where the perimeter that runs out to it is shorter than the one round about.
    beside = {s.opening: along((s,), (), 0.0) for s in reversed(sides) if s.opening}
    closed = along((), (), 0.0) if beside else None
    large = {k for k, p in beside.items() if p is not None and (closed is None or p.length < closed.length + 1e-6)}
    sides = [s for s in sides if not s.opening or s.opening in large]
    cones = []
    for label, opening in near:
        if whole is None and label not in large and opening.distance(loaded) <= reach:
            seen = opening if straight else _widened(opening, centre)
            wedge = MultiPoint([*seen.exterior.coords, (centre.x, centre.y)]).convex_hull
            cones.append((label, scale(wedge, 50.0, 50.0, origin=(centre.x, centre.y))))
    rim: BaseGeometry = loaded.exterior
    if not concrete.inside.covers(loaded):
        rim = rim.intersection(part).difference(concrete.edge)
    if holes.distance(loaded) <= ON:
        rim = rim.difference(holes.buffer(ON))
    for _, cone in cones:
        rim = rim.difference(cone)
    for count in range(min(len(sides), 3) + 1):
        for chosen in combinations(sides, count):
            found = along(chosen, cones, float(rim.length))
            if found is not None and found.inside.distance(centre) < BESIDE:
                yield count, found


ON = 1e-7
"""What lies so near (m) to an edge lies on it."""
BESIDE = 2e-3
"""What is no farther than this (m) from an area counts as in it."""
SPECK = 1e-3
"""A hole in the floor smaller than this (m2) is a gap between outlines."""
