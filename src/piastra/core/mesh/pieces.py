"""Lines that cut a large plan into pieces: the time to mesh a face grows faster than its area, that of many faces does not."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

Array = npt.NDArray[np.float64]

LARGE = 2_000
"""Elements of the target size up to which a plan stays whole."""
PIECE = 1_200
"""About the elements of a piece."""
CLEAR = 3.0
"""A cut keeps half this many elements away from every corner of the linework."""
STEEP = 0.4
"""Least sine of the angle at which a cut crosses an edge."""


def piece_lines(lines: Sequence[BaseGeometry], region: BaseGeometry, size: float) -> list[LineString]:
    """Straight lines across the ``region`` along and across its edges' main direction, where they are clear of all corners of
    ``lines`` and cross none of these at a small angle; none for a plan that is not large. ``size`` m of the elements."""
    if region.area < LARGE * size * size:
        return []
    ends = segments([*lines, region.boundary])
    angle = _main_direction(ends)
    c, s = np.cos(angle), np.sin(angle)
    turn = np.array([[c, -s], [s, c]])
    # Coordinates along and across the main direction.
    local = ends @ turn
    hull = shapely.get_coordinates(region) @ turn
    low, high = hull.min(axis=0), hull.max(axis=0)
    wide = np.sqrt(PIECE) * size
    found = []
    for axis in (0, 1):
        for at in _positions(local, axis, float(low[axis]), float(high[axis]), wide, size):
            two = np.empty((2, 2))
            two[:, axis] = at
            two[:, 1 - axis] = low[1 - axis] - 1.0, high[1 - axis] + 1.0
            found.append(LineString(two @ turn.T))
    return found


def segments(lines: Sequence[BaseGeometry]) -> Array:
    """Ends (k, 2, 2) of all straight pieces of lines."""
    parts = shapely.get_parts(np.asarray(lines, dtype=object))
    xy, of = shapely.get_coordinates(parts, return_index=True)
    same = of[1:] == of[:-1]
    return np.stack([xy[:-1][same], xy[1:][same]], axis=1)


def _main_direction(ends: Array) -> float:
    """Direction (rad) that most of the edges' length lies along or across."""
    way = ends[:, 1] - ends[:, 0]
    length = np.hypot(*way.T)
    # Four times the angle is the same for edges along and across.
    four = 4.0 * np.arctan2(way[:, 1], way[:, 0])
    return float(np.arctan2((length * np.sin(four)).sum(), (length * np.cos(four)).sum()) / 4.0)


def _positions(local: Array, axis: int, low: float, high: float, wide: float, size: float) -> list[float]:
    """Where cuts across one axis lie: near even spacing, in the widest gaps between the corners there."""
    count = round((high - low) / wide)
    corners = np.unique(local[:, :, axis])
    gap = np.diff(corners)
    way = local[:, 1] - local[:, 0]
    length = np.maximum(np.hypot(*way.T), 1e-12)
    sine = np.abs(way[:, axis]) / length
    found: list[float] = []
    # In the middle of a gap, but for a wide one: there as near to even spacing as four clearances allow.
    away = np.minimum(gap / 2, 4 * CLEAR * size)
    for k in range(1, count):
        ideal = low + k * (high - low) / count
        place = np.clip(ideal, corners[:-1] + away, corners[1:] - away)
        near = np.flatnonzero((np.abs(place - ideal) < 0.4 * wide) & (gap > CLEAR * size))
        rank = -np.minimum(gap[near], 8 * CLEAR * size) + np.abs(place[near] - ideal) * 1e-3
        # Rounded, so that of equal ones it is the first wherever the floor lies.
        for i in near[np.argsort(np.round(rank, 6), kind="stable")]:
            at = float(place[i])
            crossed = (local[:, :, axis].min(axis=1) < at) & (local[:, :, axis].max(axis=1) > at)
            if (sine[crossed] > STEEP).all():
                found.append(at)
                break
    return found
