"""What holds or presses a floor on a small area."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.loads.vectors import patch_area
from piastra.core.model import Floor
from piastra.core.model.footprint import footprint
from piastra.core.model.members import Column, Rectangle, Wall
from piastra.core.model.supports import PointSupport

Array = npt.NDArray[np.float64]
Kind = Literal["column", "wall_end", "wall_corner", "patch", "point"]
List = Literal["columns", "walls", "supports", "loads"]

SMALL = 1.0
"""A load on an area below this (m2) presses like a foot."""
STRETCH = 1.5
"""Walls press like columns so much d from their ends and corners."""
TURNS = 30.0
"""A wall that turns by more than this (degrees) has a corner there."""
MET = 0.02
"""An end nearer than this (m) to another member's outline has met it."""


@dataclass(frozen=True, slots=True)
class Leg:
    """A stretch of a wall: from ``start`` m along the unit vector ``way`` for ``length`` m."""

    wall: str
    start: tuple[float, float]
    way: tuple[float, float]
    length: float


@dataclass(frozen=True, slots=True)
class Source:
    """One of them: the list and ``id`` of the object, the ``kind`` of zone, which ``part`` of the object; its axis ``at`` m, the
    ``loaded`` area, own axes at ``angle`` rad with ``sides`` m; whether it pushes ``up``. Of walls the ``legs`` that press, the
    ``whole`` wall, and where the zone lies (``keep``)."""

    list: List
    id: str
    kind: Kind
    part: str
    at: tuple[float, float]
    loaded: Polygon
    angle: float
    sides: tuple[float, float]
    up: bool
    legs: tuple[Leg, ...] = ()
    whole: BaseGeometry | None = None
    keep: BaseGeometry | None = None


@dataclass(frozen=True, slots=True)
class Unzoned:
    """An object, or a part of it, that no zone checks, and why; ``outer``: it is the perimeter around a thickening."""

    list: List
    id: str
    at: tuple[float, float]
    reason: str
    part: str = "column"
    outer: bool = False


WALL_ALONE = "it is a wall that stands on the floor; give its reaction as a line load"
MEETS = "its ends stand at columns or run into other walls; only one-way shear is checked beside it"
NO_SIZE = "it presses on a point; give it the sides of the area on which it presses"


def anything_presses(floor: Floor) -> bool:
    """Whether anything holds or presses the floor on a small area."""
    pressed = any(l.kind == "joint" or (l.kind == "point" and l.F_kN) for l in floor.loads)
    small = any(l.kind == "area" and l.outline is not None and polygon(l.outline).area < SMALL for l in floor.loads)
    standing = any(c.below is not None for c in floor.columns) or any(w.below is not None for w in floor.walls)
    return pressed or small or standing or any(s.kind == "point" and s.vertical not in ("free", 0.0) for s in floor.supports)


def point_sources(floor: Floor) -> tuple[list[Source], list[Unzoned]]:
    """Columns, point supports and loads on small areas; of those without a size, that they have none."""
    pressed = {l.support for l in floor.loads if l.kind == "joint" and l.F_kN}
    found: list[Source] = []
    without: list[Unzoned] = []
    for c in floor.columns:
        if c.below is not None or c.id in pressed:
            sides = _sides(c)
            found.append(Source("columns", c.id, "column", "column", _pair(c.at), footprint(c), float(np.radians(c.angle_deg)), sides, c.below is not None))  # fmt: skip
    for s in floor.supports:
        if isinstance(s, PointSupport) and s.vertical not in ("free", 0.0):
            if s.patch is None:
                without.append(Unzoned("supports", s.id, _pair(s.at), NO_SIZE, "point"))
                continue
            p = s.patch
            shape = patch_area(s.at, p)
            found.append(
                Source(
                    "supports", s.id, "point", "point", _pair(s.at), shape, float(np.radians(p.angle_deg)), (p.b_m, p.d_m), True
                )
            )
    for l in floor.loads:
        if l.kind == "point" and l.F_kN:
            if l.patch is None:
                without.append(Unzoned("loads", l.id, _pair(l.at), NO_SIZE, "patch"))
                continue
            area = patch_area(l.at, l.patch)
            found.append(Source("loads", l.id, "patch", "patch", _pair(l.at), area, float(np.radians(l.patch.angle_deg)), (l.patch.b_m, l.patch.d_m), False))  # fmt: skip
        if l.kind == "area" and l.outline is not None and (shape := polygon(l.outline)).area < SMALL:
            middle = (shape.centroid.x, shape.centroid.y)
            found.append(Source("loads", l.id, "patch", "patch", middle, shape.convex_hull, *_least_box(shape), False))
    return found, without


def _least_box(shape: Polygon) -> tuple[float, tuple[float, float]]:
    """At what angle (rad, within 45 degrees of the x axis) the least rectangle around an area lies, and its sides (m) along that and across."""
    corners = shapely.get_coordinates(shapely.oriented_envelope(shape))
    sides = corners[1:3] - corners[:2]
    lengths = np.hypot(*sides.T)
    angles = np.arctan2(sides[:, 1], sides[:, 0])
    angles -= np.round(angles / np.pi) * np.pi
    k = int(np.abs(angles).argmin())
    return float(angles[k]), (float(lengths[k]), float(lengths[1 - k]))


def wall_sources(floor: Floor, d_at: Callable[[tuple[float, float], float], float]) -> tuple[list[Source], list[Unzoned]]:
    """Free ends and corners of walls; ``d_at`` gives the effective depth (m) of the floor round about a place, within a radius (m)."""
    pressed = {l.support for l in floor.loads if l.kind == "joint" and l.F_kN}
    walls = [w for w in floor.walls if w.below is not None]
    without = [Unzoned("walls", w.id, _middle(w), WALL_ALONE, "wall") for w in floor.walls if w.below is None and w.id in pressed]
    shapes = {w.id: wall_outline(w) for w in walls}
    columns = shapely.union_all([footprint(c) for c in floor.columns if c.below is not None])
    legs: list[tuple[Wall, Array, Array, float]] = []
    for w in walls:
        xy = polyline(w.line)
        # Corners of the wall itself, and its two ends: where a leg goes out from.
        steps = np.diff(xy, axis=0)
        way = steps / np.hypot(*steps.T)[:, None]
        turned = [k for k in range(1, len(way)) if way[k - 1] @ way[k] < np.cos(np.radians(TURNS))]
        stops = [0, *turned, len(xy) - 1]
        for a, b in zip(stops, stops[1:], strict=False):
            length = float(np.hypot(*np.diff(xy[a : b + 1], axis=0).T).sum())
            legs += [(w, xy[a], way[a], length), (w, xy[b], -way[b - 1], length)]
    found: list[Source] = []
    done: set[int] = set()
    for k, (w, at, way, length) in enumerate(legs):
        if k in done:
            continue
        here = [
            j for j in range(len(legs)) if np.hypot(*(legs[j][1] - at)) < max(w.thickness_m, legs[j][0].thickness_m) / 2 + MET
        ]
        done |= set(here)
        others = [j for j in here if j != k]
        point = shapely.Point(at)
        passing = any(s.dwithin(point, MET) for i, s in shapes.items() if i not in {legs[j][0].id for j in here})
        if passing or columns.dwithin(point, MET) or len(others) > 1:
            continue
        # Just beyond the wall's own edges.
        d = d_at(_pair(at), w.thickness_m * np.sqrt(0.5) + 0.02)
        if not others:
            reach = min(STRETCH * d, length / 2)
            found.append(
                _end(w, at, way, reach, shapes[w.id], f"end{1 + sum(s.id == w.id and s.kind == 'wall_end' for s in found)}")
            )
        elif abs(legs[others[0]][2] @ way) < np.cos(np.radians(TURNS)):
            two = (legs[k], legs[others[0]])
            whole = shapely.union_all([shapes[l[0].id] for l in two])
            found.append(_corner(two, d, whole, f"corner{1 + sum(s.id == w.id and s.kind == 'wall_corner' for s in found)}"))
    zoned = {leg.wall for s in found for leg in s.legs}
    without += [Unzoned("walls", w.id, _middle(w), MEETS, "wall") for w in walls if w.id not in zoned]
    # A wall may hold the floor down there as well: then it pulls where it would press.
    return [*found, *(replace(s, up=False) for s in found)], without


def wall_outline(wall: Wall) -> BaseGeometry:
    """A wall's outline on plan, ends square."""
    return LineString(polyline(wall.line)).buffer(wall.thickness_m / 2, cap_style="flat", join_style="mitre")


FAR = 100.0


def _half(at: Array, way: Array) -> Polygon:
    """The half of the plane from a line across ``way`` through ``at``, on the side away from it."""
    t = np.array([-way[1], way[0]])
    return Polygon([at + FAR * t, at - FAR * t, at - FAR * t - FAR * way, at + FAR * t - FAR * way])


def _box(at: Array, way: Array, length: float, thickness: float) -> Polygon:
    t = thickness / 2 * np.array([-way[1], way[0]])
    return Polygon([at - t, at + length * way - t, at + length * way + t, at + t])


def _end(w: Wall, at: Array, way: Array, reach: float, whole: BaseGeometry, part: str) -> Source:
    loaded = _box(at, way, reach, w.thickness_m)
    middle = at + reach / 2 * way
    leg = Leg(w.id, _pair(at), _pair(way), reach)
    angle = float(np.arctan2(way[1], way[0]))
    return Source(
        "walls",
        w.id,
        "wall_end",
        part,
        _pair(middle),
        loaded,
        angle,
        (reach, w.thickness_m),
        True,
        (leg,),
        whole,
        _half(at + reach * way, way),
    )


def _corner(two: tuple[tuple[Wall, Array, Array, float], ...], d: float, whole: BaseGeometry, part: str) -> Source:
    boxes, halves, legs = [], [], []
    for (w, at, way, length), (other, _, _, _) in zip(two, two[::-1], strict=True):
        reach = min(STRETCH * d + other.thickness_m / 2, length / 2)
        boxes.append(_box(at - other.thickness_m / 2 * way, way, reach + other.thickness_m / 2, w.thickness_m))
        halves.append(_half(at + reach * way, way))
        legs.append(Leg(w.id, _pair(at), _pair(way), reach))
    loaded = shapely.union_all(boxes)
    keep = halves[0].intersection(halves[1])
    first = two[0]
    angle = float(np.arctan2(first[2][1], first[2][0]))
    xy = shapely.get_coordinates(loaded) @ np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    sides = (float(np.ptp(xy[:, 0])), float(np.ptp(xy[:, 1])))
    return Source(
        "walls", first[0].id, "wall_corner", part, _pair(first[1]), loaded, angle, sides, True, tuple(legs), whole, keep
    )


def _middle(w: Wall) -> tuple[float, float]:
    at = LineString(polyline(w.line)).interpolate(0.5, normalized=True)
    return at.x, at.y


def _pair(at: object) -> tuple[float, float]:
    x, y = np.asarray(at, dtype=float)[:2]
    return float(x), float(y)


def _sides(column: Column) -> tuple[float, float]:
    shape = column.shape
    return (shape.b_m, shape.d_m) if isinstance(shape, Rectangle) else (shape.diameter_m, shape.diameter_m)
