"""Elements sorted by the cells of a grid: in which of them points lie."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.geometry.point_grid import counted

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

CLEAR = 1e-9
"""A point that is farther than this (m) from all sides of an element lies in it and in no other."""
WIDTH = 1.0
"""Width of a cell over that of a square of the mean element's area."""


class Cells:
    """Convex elements of ``nodes`` (e, 4), a triangle's fourth -1, at ``xy`` (n, 2) m."""

    def __init__(self, xy: Array, nodes: Ints) -> None:
        corners = xy[np.where(nodes < 0, nodes[:, :1], nodes)]
        side = np.roll(corners, -1, axis=1) - corners
        length = np.hypot(side[..., 0], side[..., 1])
        inward = np.stack([-side[..., 1], side[..., 0]], axis=2) / np.maximum(length, 1e-300)[..., None]
        # Of a triangle's fourth side, which has no length, every point lies inside.
        offset = np.where(length > 0, (corners * inward).sum(axis=2), -1.0)
        self._sides = np.stack([inward[..., 0], inward[..., 1], offset], axis=1)
        low, high = corners.min(axis=1), corners.max(axis=1)
        self._boxes = np.hstack([low, high])
        self._low = low.min(axis=0)
        self._width = WIDTH * float(np.sqrt((high - low).prod(axis=1).mean()))
        first, last = self._of(low), self._of(high)
        self._rows = int(last[:, 1].max()) + 1
        span = last - first + 1
        element, step = counted(span.prod(axis=1))
        column, row = np.divmod(step, span[element, 1])
        cell = (first[element, 0] + column) * self._rows + first[element, 1] + row
        order = np.argsort(cell, kind="stable")
        self._element = element[order]
        # Cells without elements take no room: parts of a floor may be far apart.
        self._cells, start = np.unique(cell[order], return_index=True)
        self._start = np.append(start, len(order))

    def _of(self, xy: Array) -> Ints:
        return np.floor((xy - self._low) / self._width).astype(np.int64)

    @property
    def bytes_held(self) -> int:
        """About how much memory they take."""
        return sum(a.nbytes for a in (self._sides, self._boxes, self._element, self._cells, self._start))

    def holding(self, xy: Array) -> Ints:
        """The element (p,) in which each point (p, 2) m clearly lies; -1 at sides, and where there is none."""
        found = np.full(len(xy), -1, dtype=np.int64)
        at = self._of(xy)
        number = at[:, 0] * self._rows + at[:, 1]
        cell = np.minimum(np.searchsorted(self._cells, number), len(self._cells) - 1)
        on = np.flatnonzero((self._cells[cell] == number) & (at[:, 1] >= 0) & (at[:, 1] < self._rows))
        cell = cell[on]
        run, step = counted(self._start[cell + 1] - self._start[cell])
        point, element = on[run], self._element[self._start[cell][run] + step]
        x, y = xy[point].T
        box = self._boxes[element]
        near = np.flatnonzero((x > box[:, 0]) & (y > box[:, 1]) & (x < box[:, 2]) & (y < box[:, 3]))
        point, element = point[near], element[near]
        sides = self._sides[element]
        held = (sides[:, 0] * x[near, None] + sides[:, 1] * y[near, None] - sides[:, 2] > CLEAR).all(axis=1)
        found[point[held]] = element[held]
        return found
