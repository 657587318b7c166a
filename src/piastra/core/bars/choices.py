"""What design may choose bars from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Choice:
    """A diameter and a spacing that may be chosen, m."""

    bar: float
    spacing: float

    @property
    def area(self) -> float:
        """m2/m."""
        return float(np.pi * self.bar**2 / 4 / self.spacing)


@dataclass(frozen=True)
class Choices:
    """All that may be chosen, the least area first; of equal ones the thinner bars."""

    all: tuple[Choice, ...]

    @cached_property
    def areas(self) -> Array:
        """(k,) m2/m."""
        return np.array([c.area for c in self.all])

    @cached_property
    def spacings(self) -> Array:
        """(k,) m."""
        return np.array([c.spacing for c in self.all])

    @cached_property
    def _most(self) -> float:
        return float(self.spacings.max())

    @cached_property
    def _every(self) -> npt.NDArray[np.int64]:
        return np.arange(len(self.all))

    def close(self, spacing: float) -> npt.NDArray[np.int64]:
        """Numbers of those that lie at most a ``spacing`` (m) apart; where none does, of all."""
        if spacing >= self._most:
            return self._every
        found = np.flatnonzero(self.spacings <= spacing + 1e-9)
        return found if len(found) else self._every

    def least(self, area: float, spacing: float) -> Choice:
        """The least choice of at least an area (m2/m) and at most a spacing (m); where none is enough, the most there is."""
        close = self.close(spacing)
        return self.all[int(close[min(int(self.areas[close].searchsorted(area * (1 - 1e-9))), len(close) - 1)])]


def choices_of(floor: Floor) -> Choices:
    """What the floor lets design choose from."""
    found = [Choice(b / 1e3, s / 1e3) for b, s in product(floor.bar_sizes_mm, floor.spacings_mm)]
    return Choices(tuple(sorted(found, key=lambda c: (c.area, c.bar))))
