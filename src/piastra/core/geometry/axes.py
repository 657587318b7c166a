"""Axes on which supports line up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

Array = npt.NDArray[np.float64]

PARALLEL = np.sin(np.radians(6.0))
"""A wall within so much of an axis's direction runs along it."""
BESIDE = 0.02
"""An axis that passes a wall's face at less than this (m) runs along the wall."""


@dataclass(frozen=True, slots=True)
class Held:
    """A support on plan: its label, its outline or line (m), and its width if it is a line (m)."""

    label: str
    shape: BaseGeometry
    width: float = 0.0
    seen: str | None = None
    """As what strips are to see it, where that was chosen."""

    @property
    def is_line(self) -> bool:
        return isinstance(self.shape, LineString)


@dataclass(frozen=True, slots=True)
class Bearing:
    """Where an axis meets supports: their labels, from ``start`` to ``end`` (m along the axis, between the
    supports' faces), whether a wall runs ``along`` the axis there, whether a ``column`` stands there, and as
    what it is to be ``seen``, where that was chosen."""

    labels: tuple[str, ...]
    start: float
    end: float
    along: bool
    column: bool = False
    seen: str | None = None

    @property
    def middle(self) -> float:
        return (self.start + self.end) / 2


@dataclass(frozen=True, slots=True)
class Axis:
    """A line on which supports line up.

    ``angle`` rad; ``offset`` m, its distance from the origin to the left of its direction; ``bearings`` along
    it in order; ``from_supports`` false where no support lies on it and it runs mid-way between the floor's
    edges instead; ``runs_on``: whether it is followed beyond its first and its last bearing.
    """

    angle: float
    offset: float
    bearings: tuple[Bearing, ...]
    from_supports: bool = True
    runs_on: tuple[bool, bool] = (True, True)

    def point(self, s: float | Array, aside: float | Array = 0.0) -> Array:
        """Plan coordinates (..., 2) at ``s`` along and ``aside`` to the left, m."""
        c, n = np.cos(self.angle), np.sin(self.angle)
        along, left = np.asarray(s, dtype=np.float64), self.offset + np.asarray(aside, dtype=np.float64)
        return np.stack(np.broadcast_arrays(along * c - left * n, along * n + left * c), axis=-1)


def main_angle(supports: Sequence[Held]) -> float:
    """The direction (rad, in [0, pi/2)) along or across which most neighbours and walls lie."""
    angles: list[float] = []
    weights: list[float] = []
    spots = [h.shape.centroid.coords[0] for h in supports if not h.is_line]
    if len(spots) > 1:
        xy = np.array(spots)
        d = xy[None] - xy[:, None]
        gap = np.hypot(d[..., 0], d[..., 1])
        np.fill_diagonal(gap, np.inf)
        for i in range(len(xy)):
            for j in np.argsort(gap[i])[:4]:
                if np.isfinite(gap[i, j]):
                    angles.append(float(np.arctan2(d[i, j, 1], d[i, j, 0])))
                    weights.append(4.0)
    for h in supports:
        if h.is_line:
            a, b = h.shape.coords[0], h.shape.coords[-1]
            angles.append(float(np.arctan2(b[1] - a[1], b[0] - a[0])))
            weights.append(float(h.shape.length))
    if not angles:
        return 0.0
    four = 4 * np.array(angles)
    weight = np.array(weights)
    trial = np.radians(np.arange(0, 360, 2.0))
    score = (weight * (np.cos(trial[:, None] - four) > np.cos(np.radians(12.0)))).sum(axis=1)
    best = trial[score.argmax()]
    near = np.cos(best - four) > np.cos(np.radians(16.0))
    mean = np.angle((weight[near] * np.exp(1j * four[near])).sum()) / 4
    return float(np.round(mean % (np.pi / 2), 9)) % (np.pi / 2)


def _local(shape: BaseGeometry, angle: float) -> Array:
    """Coordinates (along, left) of a shape's vertices."""
    xy = shapely.get_coordinates(shape)
    c, s = np.cos(angle), np.sin(angle)
    return np.column_stack([xy[:, 0] * c + xy[:, 1] * s, -xy[:, 0] * s + xy[:, 1] * c])


def stretch(angle: float, shape: BaseGeometry) -> tuple[float, float]:
    """From where to where (m) a shape lies along the direction ``angle`` (rad)."""
    s = _local(shape, angle)[:, 0]
    return float(s.min()), float(s.max())


def axes(supports: Sequence[Held], region: BaseGeometry, angle: float) -> list[Axis]:
    """Axes in one direction, by offset.

    An axis needs two columns, or walls along half of the floor's width there. Where only lines cross the
    direction (a one-way slab), one axis runs in the middle of the floor.
    """
    local = [_local(h.shape, angle) for h in supports]
    along: list[tuple[float, int]] = []
    for i, (h, xy) in enumerate(zip(supports, local, strict=True)):
        if h.is_line:
            d = np.abs(xy[-1] - xy[0])
            if d[1] <= PARALLEL * np.hypot(*d):
                along.append((float(xy[:, 1].mean()), i))
        else:
            along.append((float((xy[:, 1].min() + xy[:, 1].max()) / 2), i))
    along.sort()
    gaps = np.diff([o for o, _ in along]) if along else np.zeros(0)
    typical = float(np.median(gaps[gaps > 1.0])) if (gaps > 1.0).any() else 4.0
    tolerance = float(np.clip(0.12 * typical, 0.3, 0.9))
    groups: list[list[tuple[float, int]]] = []
    for item in along:
        if groups and item[0] - groups[-1][0][0] <= tolerance:
            groups[-1].append(item)
        else:
            groups.append([item])
    found = []
    for group in groups:
        spots = [o for o, i in group if not supports[i].is_line]
        walls = sum(float(np.ptp(local[i][:, 0])) for _, i in group if supports[i].is_line)
        offset = float(np.mean(spots)) if spots else float(np.mean([o for o, _ in group]))
        if len(spots) < 2 and walls < 0.5 * _inside(region, angle, offset):
            continue
        axis = Axis(angle, offset, bearings_on(supports, angle, offset, {i for _, i in group}))
        if axis.bearings:
            found.append(axis)
    if not found:
        box = _local(region, angle)
        middle = float((box[:, 1].min() + box[:, 1].max()) / 2)
        bearings = bearings_on(supports, angle, middle, set())
        if len(bearings) > 1:
            found.append(Axis(angle, middle, bearings, from_supports=False))
    return found


def _inside(region: BaseGeometry, angle: float, offset: float) -> float:
    """Length of the line at an offset inside the region (or a hair inside of it, for a line on the edge)."""
    line, ends = Axis(angle, offset, ()), np.array(stretch(angle, region))
    lengths = [LineString(line.point(ends, aside)).intersection(region).length for aside in (-0.02, 0.0, 0.02)]
    return float(max(lengths))


def bearings_on(supports: Sequence[Held], angle: float, offset: float, members: set[int]) -> tuple[Bearing, ...]:
    """Where the line at an ``offset`` (m) along ``angle`` (rad) meets the supports numbered ``members``, which lie on it, and the
    walls and lines of the others that it crosses or runs along."""
    spots: list[tuple[float, float, str, bool, bool, str]] = []
    for i, h in enumerate(supports):
        if not h.is_line and i not in members:
            continue
        xy = _local(h.shape, angle)
        if i in members:
            spots.append((float(xy[:, 0].min()), float(xy[:, 0].max()), h.label, h.is_line, not h.is_line, h.seen or ""))
        else:
            (s0, o0), (s1, o1) = xy[0], xy[-1]
            low, high, length = min(s0, s1), max(s0, s1), float(np.hypot(s1 - s0, o1 - o0))
            within = min(o0, o1), max(o0, o1)
            if abs(o1 - o0) <= PARALLEL * length:
                # Where it would cross the line, rounding decides.
                if within[0] - h.width / 2 - BESIDE <= offset <= within[1] + h.width / 2 + BESIDE:
                    spots.append((float(low), float(high), h.label, True, False, h.seen or ""))
            elif within[0] - 1e-6 <= offset <= within[1] + 1e-6:
                s = s0 + (s1 - s0) * (offset - o0) / (o1 - o0)
                half = h.width / 2 * length / abs(o1 - o0)
                spots.append((float(s - half), float(s + half), h.label, False, False, h.seen or ""))
    spots.sort()
    merged: list[Bearing] = []
    for start, end, label, wall, column, seen in spots:
        if merged and start <= merged[-1].end + 0.05:
            last = merged[-1]
            # What runs along the axis gives the bearing its name.
            labels = (label, *last.labels) if wall and not last.along else (*last.labels, label)
            merged[-1] = Bearing(
                labels, last.start, max(last.end, end), last.along or wall, last.column or column, last.seen or seen or None
            )
        else:
            merged.append(Bearing((label,), start, end, wall, column, seen or None))
    return tuple(merged)


ASIDE = np.radians(50.0)
"""A support is a neighbour in a direction if it lies within so much of it."""


def axes_of_neighbours(supports: Sequence[Held], found: Sequence[Axis], solid: BaseGeometry, angle: float) -> list[Axis]:
    """Axes of columns that stand on none of the axes ``found`` in a direction: from each to its nearest neighbour before and
    after it on the floor ``solid``, or straight on to a wall or the edge where it has none."""
    served = {label for axis in found for b in axis.bearings for label in b.labels}
    numbers = [k for k, h in enumerate(supports) if not h.is_line]
    labels = [supports[k].label for k in numbers]
    if served.issuperset(labels):
        return []
    xy = shapely.get_coordinates(shapely.centroid([supports[k].shape for k in numbers]))
    on_floor = solid.buffer(0.05)
    shapely.prepare(on_floor)
    way = np.array([np.cos(angle), np.sin(angle)])
    joined: set[tuple[int, int]] = set()
    out: list[Axis] = []
    for i, label in enumerate(labels):
        if label in served:
            continue
        aside = float(xy[i] @ (-way[1], way[0]))
        straight = Axis(angle, aside, bearings_on(supports, angle, aside, {numbers[i]}))
        here = next(k for k, b in enumerate(straight.bearings) if label in b.labels)
        alone = []
        for sense in (-1.0, 1.0):
            beside = here + int(sense)
            wall = np.inf
            if 0 <= beside < len(straight.bearings):
                wall = abs(straight.bearings[beside].middle - straight.bearings[here].middle)
            j = _neighbour(i, xy, sense * way, on_floor, wall)
            alone.append(j is None)
            if j is not None and (min(i, j), max(i, j)) not in joined:
                joined.add((min(i, j), max(i, j)))
                line = sense * (xy[j] - xy[i])
                turned = float(np.arctan2(line[1], line[0]))
                offset = float(xy[i] @ (-np.sin(turned), np.cos(turned)))
                met = bearings_on(supports, turned, offset, {numbers[i], numbers[j]})
                ends = [k for k, b in enumerate(met) if {label, labels[j]} & set(b.labels)]
                out.append(Axis(turned, offset, met[min(ends) : max(ends) + 1], runs_on=(False, False)))
        if any(alone):
            first, last = (0 if alone[0] else here), (len(straight.bearings) - 1 if alone[1] else here)
            # Beyond the first wall it is the wall's own strips that run on.
            first, last = max(first, here - 1), min(last, here + 1)
            on = (alone[0] and first == here, alone[1] and last == here)
            out.append(Axis(angle, straight.offset, straight.bearings[first : last + 1], runs_on=on))
    return out


def _neighbour(i: int, xy: Array, way: Array, solid: BaseGeometry, within: float) -> int | None:
    """The nearest of the supports at ``xy`` (k, 2) m from the ``i``-th along ``way``, no further than ``within`` (m), to which the ``solid`` floor goes
    straight."""
    gap = xy - xy[i]
    along, aside = gap @ way, np.abs(gap[:, 0] * way[1] - gap[:, 1] * way[0])
    near = np.flatnonzero((along > 0.5) & (aside <= along * np.tan(ASIDE)))
    far = np.hypot(*gap[near].T) * (1 + (aside[near] / along[near]) ** 2)
    for k in np.argsort(far, kind="stable"):
        if far[k] >= within:
            return None
        if solid.covers(LineString([xy[i], xy[near[k]]])):
            return int(near[k])
    return None
