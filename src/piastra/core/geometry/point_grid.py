"""Points sorted by the cells of a grid, so that those in a box are found without looking at all."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

CELL = 1.0
"""Width of a cell, m: bars lie in boxes of some metres."""


class PointGrid:
    """Points ``xy`` (k, 2) m, at least one, however far apart: cells without points take no room."""

    def __init__(self, xy: Array) -> None:
        self.xy = xy
        self._low = xy.min(axis=0)
        self._last = np.floor((xy.max(axis=0) - self._low) / CELL).astype(np.int64)
        cell = self._of(xy)
        number = self._number(cell[:, 0], cell[:, 1])
        self._order = np.argsort(number, kind="stable")
        self._numbers = number[self._order]

    def _of(self, xy: Array) -> Ints:
        return np.clip(np.floor((xy - self._low) / CELL), 0, self._last).astype(np.int64)

    def _number(self, column: Ints, row: Ints) -> Ints:
        return column * (self._last[1] + 1) + row

    def inside(self, boxes: Array) -> tuple[Ints, Ints]:
        """Pairs (n,) of box and point, by boxes: the points that lie in each of ``boxes`` (b, 4) m, given as least x and y, greatest x and y."""
        low, high = self._of(boxes[:, :2]), self._of(boxes[:, 2:])
        box, step = counted(high[:, 0] - low[:, 0] + 1)
        # A column of cells after the other: those of one column follow one another.
        column = low[box, 0] + step
        first = np.searchsorted(self._numbers, self._number(column, low[box, 1]))
        last = np.searchsorted(self._numbers, self._number(column, high[box, 1]), side="right")
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
