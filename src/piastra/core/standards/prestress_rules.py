"""What the rest of the core knows of a standard's rules for prestress. Stresses in MPa here, as standards write them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.tendons import Prestress, Strand
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class LossPlaces:
    """k places of tendons of one strand in one concrete: stress of the steel after transfer ``sigma_p`` (k,) MPa, strain of the concrete
    beside it ``strain`` (k,) under the transferred force and lasting loads, and ``own`` (k,) under the force alone in the middle
    plane (compression negative; elastic, by the modulus of the analysis), thickness ``h`` (k,) m, distance ``z`` (k,) m of the
    tendon from the middle plane. ``E`` MPa: that modulus. ``short``: what elastic shortening took, MPa."""

    strand: Strand
    concrete: Concrete
    how: Prestress
    E: float
    sigma_p: Array
    strain: Array
    own: Array
    h: Array
    z: Array
    short: Array


@dataclass(frozen=True, slots=True)
class Losses:
    """Long-term losses (k,) MPa, with the steps for one place."""

    loss: Array
    steps: Callable[[int], tuple[Step, ...]]


@dataclass(frozen=True, slots=True)
class StressLimits:
    """Greatest compression and tension (MPa, both positive) of concrete under a limit state; None: not limited. ``told`` says what a
    tension beyond its limit leads to, where it is no failure by itself."""

    compression: float | None
    tension: float | None
    steps: tuple[Step, ...]
    told: str = ""


@dataclass(frozen=True, slots=True)
class UltimatePlaces:
    """k sections by the metre: area of tendons ``A_p`` (k,) m2/m at depth ``d_p`` (k,) m from the compressed face, their effective
    stress ``f_pe`` (k,) MPa; bars ``A_s`` (k,) m2/m at ``d`` (k,) m; ``span_over_h`` (k,)."""

    strand: Strand
    concrete: Concrete
    rebar: Rebar
    A_p: Array
    d_p: Array
    f_pe: Array
    A_s: Array
    d: Array
    span_over_h: Array


class ArrangementRules(Protocol):
    """How tendons have to be spread. Areas in mm2 and stresses in MPa, lengths in m."""

    @property
    def inset(self) -> float:
        """So far (m) inside a column's faces its own bars lie, between which tendons have to pass."""
        ...

    @property
    def strands(self) -> int:
        """Strands that have to run across a column along each direction."""
        ...

    @property
    def least_area(self) -> float:
        """Area (mm2) of a strand from which on it counts."""
        ...

    @property
    def clause(self) -> str:
        """Source of that number."""
        ...

    def greatest_spacing(self, h: Array) -> Array:
        """Of tendons in at least one direction, by the thickness (k,)."""
        ...

    def spacing_step(self, h: float) -> Step:
        """The same with its clause; its result is in m."""
        ...

    def bars_instead(self, strength: float, yield_MPa: float, width: float, d: float) -> Step:
        """Bottom bars (mm2) of each direction through a column ``width`` m wide that stand for the tendons."""
        ...


class PrestressRules(Protocol):
    """Prestress of a standard."""

    @property
    def clause(self) -> str:
        """Source of the limits of stress."""
        ...

    def spread(self, strand: Strand) -> tuple[float, float]:
        """Least and greatest factor of the prestress in service."""
        ...

    def jack_limit(self, strand: Strand) -> Step:
        """Greatest stress at the jack; its result is in MPa."""
        ...

    def at_transfer(self, concrete: Concrete, how: Prestress) -> tuple[float, float]:
        """Strength and modulus (MPa) of the concrete when it is stressed."""
        ...

    def long_term(self, places: LossPlaces) -> Losses:
        """Creep, shrinkage and relaxation from transfer until the end."""
        ...

    def limits(self, state: str, concrete: Concrete, how: Prestress, bonded: bool) -> StressLimits:
        """Of concrete under a limit state of service or transfer."""
        ...

    def ultimate(self, places: UltimatePlaces) -> tuple[Array, tuple[Step, ...]]:
        """Design stress (k,) MPa of tendons at the ultimate limit state, with the steps of the first place."""
        ...

    def bursting(self, jacking: float, anchor: float, h: float, yield_MPa: float) -> tuple[Step, Step]:
        """Force (kN) that bursts the concrete behind an anchor ``anchor`` m high in a slab ``h`` m thick, jacked with ``jacking`` kN, and
        the steel (mm2) for it."""
        ...

    @property
    def arrangement(self) -> ArrangementRules | None:
        """How tendons have to be spread; None: the standard does not say."""
        ...

    def precompression(self) -> tuple[float, float, bool, str]:
        """Least and greatest mean precompression (MPa), whether the least is a rule or advice, and its source."""
        ...
