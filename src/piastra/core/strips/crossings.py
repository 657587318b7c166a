"""Where lines across an axis run through shapes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Axis

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Runs:
    """Pieces inside a shape of lines square to an axis: the ``line`` (k,) of each, in their order, and from where to where it goes, ``low`` to ``high``
    (k,) m to the left of the axis."""

    line: Ints
    low: Array
    high: Array

    @property
    def length(self) -> Array:
        """Of each, m."""
        return self.high - self.low

    def within(self, low: Array | float, high: Array | float) -> Runs:
        """What of them lies between these places (m; of all or (k,) of each); some may be left without length."""
        return Runs(self.line, np.clip(self.low, low, high), np.clip(self.high, low, high))


def runs(axis: Axis, shape: BaseGeometry, at: Array) -> Runs:
    """Of the lines square to the ``axis`` at ``at`` (k,) m along it those pieces that lie inside a ``shape`` of areas.

    A side is met where one of its ends lies before the line and the other does not, so that a corner counts once; and what lies between the
    first and the second side met is inside (the rule of even and odd).
    """
    whole = shape if isinstance(shape, Polygon) else shapely.get_parts(shape)
    xy, ring = shapely.get_coordinates(shapely.get_rings(whole), return_index=True)
    if not len(xy) or not len(at):
        none = np.zeros(0)
        return Runs(np.zeros(0, dtype=np.int64), none, none)
    c, n = np.cos(axis.angle), np.sin(axis.angle)
    along, left = xy[:, 0] * c + xy[:, 1] * n, xy[:, 1] * c - xy[:, 0] * n - axis.offset
    side = np.flatnonzero(ring[1:] == ring[:-1])
    before = along[None] < at[:, None]
    line, met = np.nonzero(before[:, side] != before[:, side + 1])
    first, second = side[met], side[met] + 1
    way = (at[line] - along[first]) / (along[second] - along[first])
    place = left[first] + way * (left[second] - left[first])
    order = np.lexsort((place, line))
    line, place = line[order], place[order]
    return Runs(line[::2], place[::2], place[1::2])
