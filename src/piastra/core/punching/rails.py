"""Rails of studs about a loaded area: where they lie, and the perimeter beyond them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.perimeter import Perimeter, at_home, control_perimeter, room_about
from piastra.core.standards.zone_rules import Laid, Rails

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Memory:
    """What was found for one ground before, which another load asks for again: rails as they lie, the concrete's perimeter by its distance, and the
    ring along which rails begin. It is no part of a result: without it all is as it is with it."""

    def __init__(self) -> None:
        self.ring: tuple[BaseGeometry, bool] | None = None
        self.laid: dict[Rails, Laid] = {}
        self.rounds: dict[float, Perimeter | None] = {}
        self.room: float | None = None


@dataclass(frozen=True, slots=True)
class Ground:
    """Where rails may lie: about a ``loaded`` area with own axes at ``angle`` rad, in concrete (``solid`` with its ``openings``
    filled), ``d`` m deep, as far as ``keep`` has it. ``near`` m is the control perimeter's distance, within which rails lie closer; ``beyond`` m
    the outer perimeter's distance from the last studs, ``polygon`` whether that goes straight round them; ``reach`` m of openings."""

    loaded: Polygon
    angle: float
    solid: BaseGeometry
    openings: tuple[tuple[str, Polygon], ...]
    whole: BaseGeometry | None
    keep: BaseGeometry | None
    d: float
    near: float
    beyond: float
    polygon: bool
    reach: float
    memory: Memory = field(default_factory=Memory, compare=False, repr=False)

    def lay(self, rails: Rails) -> Laid:
        """The rails that lie in concrete, and what follows from their places."""
        known = self.memory.laid
        if rails not in known:
            known[rails] = self._lay_alone(rails) or self._lay(rails)
        return known[rails]

    def _lay_alone(self, rails: Rails) -> Laid | None:
        """As they lie about all alike columns with nothing near; None where something is."""
        if self.whole is not None or self.keep is not None or self._room <= self.reach + rails.last:
            return None
        shape, at = at_home(self.loaded)
        laid, wide = _alone(shape.wkb, self.angle, self.d, self.near, self.beyond, self.polygon, self.reach, rails)
        if self._room <= wide:
            return None
        lines = tuple((_moved(a, at), _moved(b, at)) for a, b in laid.lines)
        return replace(laid, lines=lines, outer=laid.outer.moved(at) if laid.outer is not None else None)

    @property
    def _room(self) -> float:
        """To the nearest edge or opening, m."""
        if self.memory.room is None:
            self.memory.room = room_about(self.loaded, self.solid, self.openings)
        return self.memory.room

    def _lay(self, rails: Rails) -> Laid:
        part = max(shapely.get_parts(self.solid), key=lambda p: p.intersection(self.loaded).area)
        starts, ways, order = self._radial(rails, part) if rails.pattern == "radial" else self._cruciform(rails, part)
        concrete = part.difference(shapely.union_all([o for _, o in self.openings]))
        if self.keep is not None:
            concrete = concrete.intersection(self.keep)
        first, last = starts + rails.first * ways, starts + rails.last * ways
        lines = shapely.linestrings(np.stack([first, last], axis=1)) if len(first) else np.zeros(0, dtype=object)
        shapely.prepare(concrete)
        lies = shapely.covers(concrete, lines) if len(first) else np.zeros(0, dtype=bool)
        kept = np.flatnonzero(lies)
        closed = len(kept) > 2 and not self._ring(part)[1]
        # Studs that lie within the control perimeter; beyond it they may be farther apart.
        inner = min(rails.first + max(int((self.near - rails.first) / rails.spacing + 1e-9), 0) * rails.spacing, rails.last)
        spread = _spread(starts[kept] + inner * ways[kept], order[kept], len(starts), closed)
        first_spread = _spread(first[kept], order[kept], len(starts), closed)
        outer = self._outer(rails, first[kept], last[kept], ways[kept], starts[kept]) if len(kept) else None
        found = tuple(
            ((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))) for a, b in zip(first[kept], last[kept], strict=True)
        )
        return Laid(rails, found, int(len(lies) - len(kept)), spread, first_spread, outer)

    def _ring(self, part: Polygon) -> tuple[BaseGeometry, bool]:
        """What lies in concrete of the ring at the control perimeter's distance, and whether that is less than all of it."""
        if self.memory.ring is None:
            ring = self.loaded.buffer(self.near, quad_segs=32).exterior
            line = ring.intersection(part.buffer(-1e-3))
            line = line.intersection(self.keep) if self.keep is not None else line
            self.memory.ring = line, bool(line.length < ring.length - 1e-3)
        return self.memory.ring

    def _radial(self, rails: Rails, part: Polygon) -> tuple[Array, Array, Ints]:
        """Evenly along the control perimeter in concrete, each straight out from the face."""
        line, _ = self._ring(part)
        runs = [g for g in shapely.get_parts(shapely.line_merge(line)) if isinstance(g, LineString) and g.length > 1e-3]
        if not runs:
            return np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
        total = sum(r.length for r in runs)
        xy: list[Array] = []
        count = 0
        for r in runs:
            mine = max(round(rails.rails * r.length / total), 1)
            closed = r.is_closed
            at = np.arange(mine) if closed else np.arange(mine) + 0.5
            offset = 0.0
            if closed:
                # A rail stands on the member's own x axis, so that rails are symmetrical about both axes.
                axis = np.array(self.loaded.centroid.coords[0]) + 50 * np.array([np.cos(self.angle), np.sin(self.angle)])
                ray = LineString([self.loaded.centroid.coords[0], axis]).intersection(r)
                offset = r.project(ray.centroid) if not ray.is_empty else 0.0
            xy.append(shapely.get_coordinates(shapely.line_interpolate_point(r, (offset + at * r.length / mine) % r.length)))
            count += mine
        out = np.concatenate(xy)
        start = shapely.get_coordinates(shapely.shortest_line(self.loaded, shapely.points(out))).reshape(-1, 2, 2)[:, 0]
        way = (out - start) / np.hypot(*(out - start).T)[:, None]
        return start, way, np.arange(count)

    def _cruciform(self, rails: Rails, part: Polygon) -> tuple[Array, Array, Ints]:
        """Square to the faces, evenly over each; on the faces that look on concrete."""
        # In the member's own axes: a round one has no least rectangle, and any would do.
        middle = self.loaded.centroid
        upright = rotate(self.loaded, -self.angle, middle, use_radians=True).envelope
        ring = shapely.get_coordinates(shapely.orient_polygons(rotate(upright, self.angle, middle, use_radians=True)).exterior)
        faces = []
        for a, b in zip(ring[:-1], ring[1:], strict=True):
            t = (b - a) / np.hypot(*(b - a))
            n = np.array([t[1], -t[0]])
            middle = (a + b) / 2 + (rails.first + 0.01) * n
            if part.contains(Point(middle)) and (self.keep is None or self.keep.contains(Point(middle))):
                faces.append((a, b, n))
        if not faces:
            return np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
        share, rest = divmod(rails.rails, len(faces))
        start, way = [], []
        for k, (a, b, n) in enumerate(faces):
            mine = share + (k < rest)
            start += [a + (j + 0.5) / mine * (b - a) for j in range(mine)]
            way += [n] * mine
        return np.array(start), np.array(way), np.arange(len(start))

    def _around(self, distance: float) -> Perimeter | None:
        known = self.memory.rounds
        if distance not in known:
            known[distance] = control_perimeter(
                self.loaded, distance, self.solid, self.openings, self.reach, whole=self.whole, keep=self.keep
            )  # fmt: skip
        return known[distance]

    def _outer(self, rails: Rails, first: Array, last: Array, way: Array, start: Array) -> Perimeter | None:
        if self.polygon:
            hull = shapely.convex_hull(shapely.union(self.loaded, shapely.multipoints(np.concatenate([first, last]))))
            return control_perimeter(hull, self.beyond, self.solid, self.openings, self.reach, straight=True, keep=self.keep)
        # Beside a rail concrete counts up to d: figure 6.22 of EN 1992-1-1.
        rays = shapely.linestrings(np.stack([start, start + (rails.last + self.beyond + 1.0) * way], axis=1))
        beside = shapely.union_all(shapely.buffer(rays, self.d, cap_style="flat"))
        full = self._around(rails.last + self.beyond)
        return full.within(beside) if full is not None else None


NOTHING = 1e3
"""So far (m) from a column that stands alone there is concrete."""


@lru_cache(maxsize=256)
def _alone(
    loaded: bytes, angle: float, d: float, near: float, beyond: float, polygon: bool, reach: float, rails: Rails
) -> tuple[Laid, float]:
    """The rails about a column that stands alone, and how far (m) from it they need concrete without openings for lying so."""
    shape = shapely.from_wkb(loaded)
    solid = shape.envelope.buffer(NOTHING, join_style="mitre")
    laid = Ground(shape, angle, solid, (), None, None, d, near, beyond, polygon, reach)._lay(rails)
    # The outer perimeter looks for edges within half of its length from the last studs.
    around = shapely.union_all([shape, *shapely.linestrings(np.array(laid.lines).reshape(-1, 2, 2))]).convex_hull
    outer = around.buffer(beyond, join_style="mitre" if polygon else "round").exterior.length
    return laid, rails.last + max(outer, shape.buffer(rails.last + beyond).exterior.length) / 2


def _moved(point: tuple[float, float], by: Array) -> tuple[float, float]:
    return point[0] + float(by[0]), point[1] + float(by[1])


def _spread(xy: Array, order: Ints, count: int, closed: bool) -> float:
    """Greatest distance between neighbours; rails left out between two leave them no neighbours, as openings take that part."""
    if len(xy) < 2:
        return 0.0
    pairs: Sequence[tuple[int, int]] = [(i, i + 1) for i in range(len(xy) - 1) if order[i + 1] == order[i] + 1]
    if closed and order[0] == 0 and order[-1] == count - 1:
        pairs = [*pairs, (len(xy) - 1, 0)]
    return max((float(np.hypot(*(xy[a] - xy[b]))) for a, b in pairs), default=0.0)
