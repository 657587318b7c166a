"""Groups of bars on plan, and what of them counts at a place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.point_grid import PointGrid
from piastra.core.model import Floor
from piastra.core.model.floor import BarGroup
from piastra.core.standards import Standard

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

AT_EDGE = 0.12
"""A bar that ends so near (m) to an edge is bent there and anchored by its hook or U-bar."""


@dataclass(frozen=True, slots=True)
class Why:
    """A station that asked for bars: the strip's id, m along it, the combination, and the governing provision."""

    strip: str
    station: float
    combination: str
    provision: str


@dataclass(frozen=True, slots=True)
class Shortfall:
    """What a kept group leaves over where it leaves over most: the station (``why``), the steel that is ``required`` there, what mats and ``kept`` groups
    give, what is ``provided`` with all bars, m2/m; and the marks of the groups that are designed beside it (``filling``)."""

    why: Why
    required: float
    kept: float
    provided: float
    filling: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Group:
    """Bars side by side: ``face`` 0 bottom, 1 top; ``angle`` rad; ``bar`` and ``spacing`` m; where they lie, m; the length
    ``anchored`` (m) over which a straight end comes to full stress, nil for bars from edge to edge; ``origin`` and whether ``locked``; ``why``,
    and the ``shortfall`` of one that is kept."""

    mark: str
    face: int
    direction: str
    angle: float
    bar: float
    spacing: float
    outline: Polygon
    anchored: float
    origin: str
    locked: bool
    why: tuple[Why, ...] = ()
    shortfall: Shortfall | None = None

    @property
    def area(self) -> float:
        """m2/m across the bars."""
        return float(np.pi * self.bar**2 / 4 / self.spacing)

    def rectangle(self) -> tuple[float, float] | None:
        """Where bars start and end along their direction, m, if the outline is a rectangle along it."""
        boxes, right = _rectangles([self])
        return (float(boxes[0, 0]), float(boxes[0, 2])) if right[0] else None

    def developed(self, xy: Array, region: BaseGeometry) -> Array:
        """Which share (k,) of its strength a bar has at points (k, 2) m inside the outline: rising linearly from straight ends, all of
        it from ends at an edge of the ``region``."""
        return _developed([self], np.zeros(len(xy), dtype=np.int64), xy, region)


def _developed(groups: Sequence[Group], which: Ints, xy: Array, region: BaseGeometry) -> Array:
    """Shares (k,) as :meth:`Group.developed`, of the group ``which`` (k,) at each point (k, 2) m."""
    share = np.ones(len(xy))
    anchored = np.array([g.anchored for g in groups])[which]
    angle = np.array([g.angle for g in groups])
    way = np.column_stack([np.cos(angle), np.sin(angle)])[which]
    boxes, right = _rectangles(groups)
    ends, along = boxes[:, [0, 2]][which], (xy * way).sum(axis=1)
    askew = [(k, np.flatnonzero(which == k)) for k in np.flatnonzero(~right).tolist()]
    for sense, end in ((1.0, 1), (-1.0, 0)):
        far = sense * (ends[:, end] - along)
        for k, mine in askew:
            far[mine] = _to_boundary(groups[k].outline, xy[mine], sense * way[mine[0]]) if len(mine) else 0.0
        # What lies beyond an end tells whether it is bent: no concrete there.
        near = np.flatnonzero((far < anchored) & (anchored > 0))
        beyond = xy[near] + (far[near] + AT_EDGE)[:, None] * sense * way[near]
        straight = near[shapely.contains_xy(region, beyond)]
        share[straight] = np.minimum(share[straight], far[straight] / anchored[straight])
    return np.clip(share, 0.0, 1.0)


def _turned(angle: Array, xy: Array) -> Array:
    """Points (k, 2) m along and to the left of directions (k,) rad."""
    c, s = np.cos(angle), np.sin(angle)
    return np.column_stack([c * xy[:, 0] + s * xy[:, 1], -s * xy[:, 0] + c * xy[:, 1]])


def _rectangles(groups: Sequence[Group]) -> tuple[Array, npt.NDArray[np.bool_]]:
    """The box about each group's outline along its bars (g, 4) m, least and greatest along and to the left of them, and whether (g,) the outline is that
    rectangle."""
    ring, of = shapely.get_coordinates([g.outline.exterior for g in groups], return_index=True)
    first = np.searchsorted(of, np.arange(len(groups)))
    local = _turned(np.array([g.angle for g in groups])[of], ring)
    low, high = np.minimum.reduceat(local, first), np.maximum.reduceat(local, first)
    whole = (high - low).prod(axis=1)
    return np.column_stack([low, high]), shapely.area([g.outline for g in groups]) > (1 - 1e-9) * whole


def _to_boundary(outline: Polygon, xy: Array, way: Array) -> Array:
    """Distance (k,) m from points inside to the outline along a direction."""
    ring = np.array(outline.exterior.coords)
    a, edge = ring[:-1], np.diff(ring, axis=0)
    cross = way[0] * edge[:, 1] - way[1] * edge[:, 0]
    gap = a[None] - xy[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        along = (gap[..., 0] * edge[:, 1] - gap[..., 1] * edge[:, 0]) / cross
        at = (gap[..., 0] * way[1] - gap[..., 1] * way[0]) / cross
    met = (np.abs(cross) > 1e-12) & (along > -1e-9) & (at > -1e-9) & (at < 1 + 1e-9)
    return np.asarray(np.where(met, np.maximum(along, 0.0), np.inf).min(axis=1))


def groups_of(floor: Floor, standard: Standard) -> list[Group]:
    """The groups that a floor keeps: drawn ones, and designed ones that are locked or, where nothing designs, all of them."""
    return [
        group_of(floor, standard, g) for g in floor.designed_bars if g.origin == "drawn" or g.locked or not floor.design_bars
    ]  # fmt: skip


def group_of(floor: Floor, standard: Standard, g: BarGroup) -> Group:
    """A group of the floor file."""
    outline = polygon(g.outline)
    slab = _slab_at(floor, outline)
    own = floor.slabs[slab].bar_angle_deg + (90.0 if g.direction == "y" else 0.0)
    angle = np.radians(own if g.angle_deg is None else g.angle_deg)
    length = anchorage_at(floor, standard, slab, g.bar_mm / 1e3, g.face == "top")
    return Group(
        g.id,
        int(g.face == "top"),
        g.direction,
        float(angle),
        g.bar_mm / 1e3,
        g.spacing_mm / 1e3,
        outline,
        length,
        g.origin,
        g.locked,
    )


def anchorage_at(floor: Floor, standard: Standard, slab: int, bar: float, top: bool) -> float:
    """Length (m) over which a straight bar comes to full stress in a slab; a standard without a rule: forty diameters."""
    s = floor.slabs[slab]
    if standard.anchorage is None:
        return 40 * bar
    concrete = next(c for c in floor.concretes if c.id == s.concrete)
    rebar = next(r for r in floor.rebars if r.id == s.rebar)
    return standard.anchorage.length(bar, s.thickness_m, top, concrete, rebar)


def _slab_at(floor: Floor, outline: Polygon) -> int:
    shared = [polygon(s.outline).intersection(outline).area for s in floor.slabs]
    return int(np.argmax(shared)) if shared else 0


@dataclass(frozen=True, slots=True)
class Extra:
    """What groups give along directions at k points, for bottom and top: ``area`` (2, k) m2/m, ``count`` and ``diameters``
    (2, k) as of mats, ``deep`` (2, k) the area times the bars' radii, m3/m; what bars at an angle give ``across`` (2, k) those directions and
    as ``twist`` (2, k), m2/m."""

    area: Array
    count: Array
    diameters: Array
    radii: Array
    across: Array
    twist: Array


@dataclass(frozen=True, slots=True)
class Reach:
    """Where groups lie, by pairs in the order of the groups: number of the ``group`` and of the ``point``, the square of the cosine between its bars
    and the direction asked for (``turned``), its product with the sine (``twist``), and the share to which its bars are ``developed``; each (n,)."""

    group: Ints
    point: Ints
    turned: Array
    twist: Array
    developed: Array

    @property
    def share(self) -> Array:
        """What counts of its area along that direction."""
        return self.developed * self.turned


NEAR = 1e-6
"""A point so near to an outline (m) lies in it."""
REMEMBERED = 2000
"""Of more groups than this only those that were asked for last are remembered."""


class Spots:
    """Points ``xy`` (k, 2) m of the floor in ``region``, which remember how each group was found to lie there: design asks for most groups several
    times over."""

    def __init__(self, xy: Array, region: BaseGeometry) -> None:
        self.xy = xy
        self.region = region
        self._found: dict[tuple[bytes, float, float], tuple[Ints, Array]] = {}

    @property
    def bytes_held(self) -> int:
        """About how much memory they take, with their grid."""
        return 40 * len(self.xy) + sum(point.nbytes + share.nbytes for point, share in self._found.values())

    @cached_property
    def _grid(self) -> PointGrid:
        return PointGrid(self.xy)

    def indexed(self) -> Spots:
        """The same, ready to be looked at."""
        if len(self.xy):
            _ = self._grid
        return self

    def under(self, groups: Sequence[Group]) -> tuple[Ints, Ints, Array]:
        """By pairs in the order of the groups: number of the group and of the point, and the share to which its bars are developed there; (n,)."""
        none = np.zeros(0, dtype=np.int64)
        if not len(groups) or not len(self.xy):
            return none, none, np.zeros(0)
        outlines = shapely.to_wkb([g.outline for g in groups])
        keys = [(outline, g.angle, g.anchored) for outline, g in zip(outlines, groups, strict=True)]
        new = {key: g for key, g in zip(keys, groups, strict=True) if key not in self._found}
        if new:
            self._found.update(zip(new, self._look_for(list(new.values())), strict=True))
        found = [self._found[key] for key in keys]
        if len(self._found) > REMEMBERED:
            self._found = dict(zip(keys, found, strict=True))
        group = np.repeat(np.arange(len(groups)), [len(point) for point, _ in found])
        return group, np.concatenate([point for point, _ in found]), np.concatenate([share for _, share in found])

    def _look_for(self, groups: Sequence[Group]) -> list[tuple[Ints, Array]]:
        shapely.prepare(self.region)
        outlines = np.array([g.outline for g in groups], dtype=object)
        boxes, right = _rectangles(groups)
        group, point = self._grid.inside(shapely.bounds(outlines) + NEAR * np.array([-1, -1, 1, 1]))
        box, local = boxes[group], _turned(np.array([g.angle for g in groups])[group], self.xy[point])
        inside = np.asarray(((local >= box[:, :2] - NEAR) & (local <= box[:, 2:] + NEAR)).all(axis=1))
        askew = np.flatnonzero(inside & ~right[group])
        if len(askew):
            wider = shapely.buffer(outlines, NEAR)
            shapely.prepare(wider)
            inside[askew] = shapely.intersects_xy(wider[group[askew]], *self.xy[point[askew]].T)
        group, point = group[inside], point[inside]
        share = _developed(groups, group, self.xy[point], self.region)
        ends = np.searchsorted(group, np.arange(1, len(groups)))
        return list(zip(np.split(point, ends), np.split(share, ends), strict=True))


def reached(groups: Sequence[Group], spots: Spots, angle: Array) -> Reach:
    """Which groups lie at which of the k spots, with bars along ``angle`` (k,) rad there."""
    group, point, developed = spots.under(groups)
    away = np.array([g.angle for g in groups])[group] - angle[point] if len(group) else np.zeros(0)
    turned, twist = np.cos(away) ** 2, np.sin(away) * np.cos(away)
    turned[turned < 1e-9] = 0.0
    return Reach(group, point, turned, twist, developed)


def areas_at(groups: Sequence[Group], spots: Spots, angle: Array) -> tuple[Array, Array]:
    """Areas of bottom and top bars (2, k) m2/m along ``angle`` (k,) rad at k spots, and across it."""
    count = len(spots.xy)
    if not len(groups):
        return np.zeros((2, count)), np.zeros((2, count))
    found = reached(groups, spots, angle)
    face, area = (np.array([getattr(g, name) for g in groups])[found.group] for name in ("face", "area"))
    at, across = face * count + found.point, 1 - found.turned
    across[across < 1e-9] = 0.0
    given = (np.bincount(at, found.developed * turn * area, minlength=2 * count) for turn in (found.turned, across))
    along, aside = (np.asarray(v.reshape(2, count), dtype=np.float64) for v in given)
    return along, aside


def extra_at(groups: Sequence[Group], spots: Spots, angle: Array) -> Extra:
    """What groups give at k spots along ``angle`` (k,) rad, as far as they are developed there."""
    size = (2, len(spots.xy))
    if not len(groups):
        return Extra(*(np.zeros(size) for _ in range(6)))
    found = reached(groups, spots, angle)
    face, area, bar, spacing = (
        np.array([getattr(g, name) for g in groups])[found.group] for name in ("face", "area", "bar", "spacing")
    )
    at = face * size[1] + found.point

    def summed(values: Array) -> Array:
        return np.asarray(np.bincount(at, values, minlength=2 * size[1]).reshape(size), dtype=np.float64)

    return Extra(
        summed(found.share * area),
        # A bar that is not developed yet lies there all the same.
        summed(found.turned / spacing),
        summed(found.share * bar / spacing),
        summed(found.share * area * bar / 2),
        summed(found.developed * (1 - found.turned) * area),
        summed(found.developed * found.twist * area),
    )
