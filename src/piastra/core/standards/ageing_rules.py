"""What the history of a floor knows of a standard: its concrete over time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Climate:
    """Relative humidity in per cent, class of the cement, and the age (days) at which drying begins."""

    humidity: float
    cement: Literal["S", "N", "R"]
    cured: float


class AgeingRules(Protocol):
    """Concrete over time; ages in days, stresses in kN/m2, notional sizes h_0 in mm. What a laboratory found (``creep_at`` and its
    like) is not looked at here: :mod:`piastra.core.history.law` scales these curves."""

    @property
    def clause(self) -> str:
        """Source of the functions."""
        ...

    def modulus(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """Modulus at age ``t``."""
        ...

    def creep(self, concrete: Concrete, t: Array, t0: float, h0: float, climate: Climate) -> Array:
        """Creep coefficient at ``t`` of a stress that begins at ``t0``; nil before it. Times the stress over :meth:`reference` it is the strain."""
        ...

    def reference(self, concrete: Concrete, t0: float, climate: Climate) -> float:
        """The modulus that the creep coefficient refers to."""
        ...

    def shrinkage(self, concrete: Concrete, t: Array, h0: float, climate: Climate) -> Array:
        """Shrinkage at age ``t``, positive where it shortens."""
        ...

    def tension(self, concrete: Concrete, t: Array, h: float, kind: Literal["mean", "flexural"], climate: Climate) -> Array:
        """Tensile strength at age ``t`` of a member ``h`` m thick: axial, or in bending; a given strength at 28 days replaces the standard's."""
        ...

    def strength(self, concrete: Concrete, t: Array, climate: Climate) -> Array:
        """Compressive strength at age ``t`` that limits linear creep."""
        ...

    def strength_steps(self, concrete: Concrete, t: float, climate: Climate) -> tuple[Step, ...]:
        """The characteristic or specified strength at an age of 3 to 28 days, that counts while the floor is built; the last step's result."""
        ...
