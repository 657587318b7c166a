"""Sums of unit responses: all live load present, and the least and greatest over all arrangements."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.loads.vectors import Unit
from piastra.core.model import Floor
from piastra.core.model.loading import Combination

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Factors:
    """Factors of the ``r`` units in one combination.

    ``always`` (r,) of what is always present, ``pattern`` (r,) of what each arrangement may leave out.
    """

    combination: str
    limit_state: str
    always: Array
    pattern: Array

    @property
    def full(self) -> Array:
        """Factors with all live load present, (r,)."""
        return self.always + self.pattern


def factors_of(floor: Floor, units: tuple[Unit, ...], combination: Combination) -> Factors:
    """Factors of a combination. A pattern case without panels is one that may be wholly present or absent."""
    pattern_cases = {c.id for c in floor.load_cases if c.pattern}
    factor = np.array([combination.factors.get(u.case, 0.0) for u in units])
    pattern = np.array([u.case in pattern_cases for u in units], dtype=bool)
    return Factors(combination.id, combination.limit_state, np.where(pattern, 0.0, factor), np.where(pattern, factor, 0.0))


def envelope(values: Array, factors: Factors) -> tuple[Array, Array]:
    """Least and greatest of quantities over all arrangements.

    ``values`` (..., r) the quantities' unit responses; the results have shape (...). Exact for every quantity
    that is a linear functional of the response.
    """
    base = values @ factors.always
    live = np.flatnonzero(factors.pattern)
    part = values[..., live] * factors.pattern[live]
    return base + np.minimum(part, 0.0).sum(axis=-1), base + np.maximum(part, 0.0).sum(axis=-1)


def companion(values: Array, along: Array, factors: Factors, greatest: bool) -> Array:
    """The value of ``along`` (..., r) under the arrangement that makes ``values`` (..., r) greatest (or least)."""
    base = along @ factors.always
    adverse = values * factors.pattern > 0 if greatest else values * factors.pattern < 0
    return base + (np.where(adverse, along, 0.0) * factors.pattern).sum(axis=-1)


def governing_panels(values: Array, factors: Factors, units: tuple[Unit, ...], greatest: bool) -> list[str]:
    """The loaded panels (``case: panel``) of the arrangement that makes one quantity (r,) greatest (or least)."""
    part = values * factors.pattern
    adverse = part > 0 if greatest else part < 0
    return [f"{units[k].case}: {units[k].panel or 'all'}" for k in np.flatnonzero(adverse)]
