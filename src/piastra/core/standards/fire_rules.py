"""What tables of fire resistance ask of a floor: thickness, width, and how deep bars lie."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.model.fire import Fire
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class FireNeeds:
    """Least ``size`` (m): a slab's thickness, a beam's width. Least distance (m) from the exposed face of ``bars`` and of
    ``strands``, None where the tables have nothing that would do. ``step`` tells where they come from."""

    size: float
    bars: float | None
    strands: float | None
    step: Step


class FireRules(Protocol):
    """Tabulated fire resistance of one standard."""

    @property
    def to_axis(self) -> bool:
        """Whether distances are to the axes of bars; otherwise they are clear covers."""
        ...

    @property
    def most_MPa(self) -> float | None:
        """The strength up to which the tables hold; None: they hold for all."""
        ...

    @property
    def beside_clause(self) -> str:
        """Of :meth:`kept_beside`."""
        ...

    def slab(self, fire: Fire, flat: bool) -> FireNeeds:
        """Of a slab, ``flat`` where columns carry it without beams."""
        ...

    def beam(self, fire: Fire, width: float, continuous: bool, one_layer: bool) -> FireNeeds:
        """Of a beam ``width`` m wide with bars in one layer or more."""
        ...

    def kept_top(self, fire: Fire) -> Step | None:
        """The share, its result, of a flat slab's top bars over columns that has to run through its spans; None: no rule."""
        ...

    def least_over(self, fire: Fire) -> Step | None:
        """The top steel over inner supports of other slabs, its result, as a share of their concrete, that does in any case; None: no rule."""
        ...

    def kept_beside(self, fire: Fire, away: Array) -> Array | None:
        """Of a beam's top steel at a support the share (k,) that has to be there ``away`` (k,) from it, as a share of the span; None: no rule."""
        ...
