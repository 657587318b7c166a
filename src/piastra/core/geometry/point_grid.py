"""Points sorted by the cells of a grid, so that those in a box are found without looking at all."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

IN_CELL = 16
"""Points that a cell holds in the mean."""


class PointGrid:
    """Points ``xy`` (k, 2) m, at least one."""

    def __init__(self, xy: Array) -> None:
        self.xy = xy
        self._low = xy.min(axis=0)
        size = np.maximum(xy.max(axis=0) - self._low, 1e-9)
        self._cell = max(float(np.sqrt(size.prod() * IN_CELL / len(xy))), float(size.max()) * IN_CELL / len(xy))
        self._count = np.floor(size / self._cell).astype(np.int64) + 1
        cell = self._of(xy)
        number = cell[:, 0] * self._count[1] + cell[:, 1]
        self._order = np.argsort(number, kind="stable")
        self._start = np.searchsorted(number[self._order], np.arange(self._count.prod() + 1))

    def _of(self, xy: Array) -> Ints:
        cell = np.floor((xy - self._low) / self._cell)
        return np.clip(cell, 0, self._count - 1).astype(np.int64)

    def inside(self, boxes: Array) -> tuple[Ints, Ints]:
        """Pairs (n,) of box and point, by boxes: the points that lie in each of ``boxes`` (b, 4) m, given as least x and y, greatest x and y."""
        low, high = self._of(boxes[:, :2]), self._of(boxes[:, 2:])
        box, step = counted(high[:, 0] - low[:, 0] + 1)
        # A column of cells after the other: those of one column follow one another.
        column = (low[box, 0] + step) * self._count[1]
        first, last = self._start[column + low[box, 1]], self._start[column + high[box, 1] + 1]
        run, step = counted(last - first)
        box, point = box[run], self._order[first[run] + step]
        x, y = self.xy[point].T
        b = boxes[box]
        within = (x >= b[:, 0]) & (y >= b[:, 1]) & (x <= b[:, 2]) & (y <= b[:, 3])
        return box[within], point[within]


def counted(lengths: Ints) -> tuple[Ints, Ints]:
    """Of runs that are so long (k,), laid end to end: the number of the run and the place in it of each item."""
    run = np.repeat(np.arange(len(lengths)), lengths)
    return run, np.arange(len(run)) - np.repeat(np.cumsum(lengths) - lengths, lengths)
