"""Provisions: what may ask for steel at a station of a strip, each a small object of its own."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields
from typing import Any, Literal, Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.trace import Step

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Pair = tuple[Concrete, Rebar]
NOTHING = 1e-6
"""A demand of less than this (m2/m, a square millimetre by the metre) is none."""
Gathers = Literal["", "eighth", "column", "edge"]
"""In which band about the axis steel of a provision lies: an eighth of the panel to each side of an inner column; the column's width
with 1.5 h to each side; at an edge or corner column the width over which moments pass; empty: over the whole strip."""


@dataclass(frozen=True, slots=True)
class Stations:
    """k stations of strips in one face. Moments are by the metre of width, about the tension steel, positive where they
    stretch the face; forces are tension; m, kN, kNm.

    ``h``, ``d``, ``d2``, ``cover`` (to these bars themselves) and ``width`` (k,) m; ``kind`` (k,) numbers the pair of
    ``materials``. ``m`` and ``n`` of the governing ultimate combination, and likewise in an accident, in a fire and under construction, ``m_service``
    and ``n_service`` of the one under which cracks are checked. ``given`` (k,) m2/m with ``bar`` (k,) m and ``spacing`` (k,) m of what is laid. ``top``: whether
    the face is the upper one; ``greatest``: whether the moment is among the greatest of the strip. ``column``: whether the
    station is at the face of a column or a wall's end, ``inner`` whether the floor goes on beyond it to all sides; ``free``: whether
    it lies at an edge that nothing holds.

    Known when steel for strength and service is: ``total`` (k,) m2 of the whole panel width at a support and ``band`` (k,) m
    in which it is gathered; ``span`` (k,) m2/m the greatest of the span in this face, ``span_bottom`` in the lower one;
    ``principal`` (k,) m2/m of the bars across which these are secondary, nil where both directions carry;
    ``transfer`` (k,) kNm moment that a column takes, ``transfer_share`` (k,) what the slab gives of it by flexure.
    ``corner`` (k,) m2/m the greatest bottom steel about an outer corner that is held along both edges, nil away from one.
    ``shear`` (k,) kN/m2 the greatest mean stress on the critical section of a column, ``section`` (k,) m its length, which runs out to
    so many ``edges`` (k,).
    Of floors with tendons, else nil: ``tendon`` (k,) kN/m their design force at the ultimate limit state, which is in ``m`` and ``n`` as a
    compression where it lies, ``offset`` (k,) m from the section's middle towards the face; ``fibre`` (k,) kN/m2 the greatest tension
    of the face in service and ``pull`` (k,) kN/m the force of the concrete's tension there; ``pressed`` (k,) kN/m2 what tendons alone press
    the face with; ``frame`` (k,) m2 at columns the greater gross section of the two frames that cross there.
    ``kept`` (k,) m2/m of top bars that run through the strip in a fire, nil where none have to.
    ``askew`` (k,) (m2/m)^1/2 the twist that bars at an angle to the strip resist of themselves over the root of what they give across it, ``bent`` (k,)
    m2/m the steel for strength alone.
    ``wide`` (k,) how many times wider than the face its pressed side is, down to the depth ``flange`` (k,) m: of beams; 1 of slabs.
    ``end``: at a support of the strip's end; ``simple``: which is modelled as if it did not clamp the floor.
    """

    top: Flags
    h: Array
    d: Array
    d2: Array
    cover: Array
    width: Array
    kind: npt.NDArray[np.int64]
    materials: tuple[Pair, ...]
    m: Array
    n: Array
    m_accidental: Array
    n_accidental: Array
    m_fire: Array
    n_fire: Array
    m_construction: Array
    n_construction: Array
    m_service: Array
    n_service: Array
    given: Array
    bar: Array
    spacing: Array
    greatest: Flags
    column: Flags
    inner: Flags
    free: Flags
    end: Flags
    simple: Flags
    total: Array
    band: Array
    span: Array
    span_bottom: Array
    principal: Array
    transfer: Array
    transfer_share: Array
    corner: Array
    shear: Array
    section: Array
    edges: Array
    tendon: Array
    offset: Array
    fibre: Array
    pull: Array
    pressed: Array
    frame: Array
    kept: Array
    askew: Array
    bent: Array
    wide: Array
    flange: Array

    @classmethod
    def of(cls, materials: tuple[Pair, ...], count: int, **known: Any) -> Stations:
        """``count`` stations of which some values are ``known``; the others are nil, and the pressed width that of the face."""
        flags = {name for name in _ARRAYS if cls.__annotations__[name] == "Flags"}
        nil = {name: np.zeros(count, dtype=bool if name in flags else np.float64) for name in _ARRAYS}
        return cls(materials=materials, **{**nil, "kind": np.zeros(count, dtype=np.int64), "wide": np.ones(count), **known})

    def some(self, which: Any) -> Stations:
        """Those of an index."""
        return Stations(materials=self.materials, **{name: getattr(self, name)[which] for name in _ARRAYS})

    def unlike(self, other: Stations) -> Flags:
        """Which of the stations (k,) have any value that those of the same number of ``other`` ones have not."""
        found = np.zeros(len(self.h), dtype=bool)
        for name in _ARRAYS:
            found |= getattr(self, name) != getattr(other, name)
        return found

    def each(self, make: Callable[[Stations, Concrete, Rebar], Array]) -> Array:
        """Values (k,) that are made for the stations of each pair of materials."""
        if len(self.materials) == 1:
            return make(self, *self.materials[0])
        out = np.zeros(len(self.h))
        for k, (concrete, rebar) in enumerate(self.materials):
            mine = self.kind == k
            if mine.any():
                out[mine] = make(self.some(mine), concrete, rebar)
        return out


_ARRAYS = tuple(f.name for f in fields(Stations) if f.name != "materials")


@dataclass(frozen=True, slots=True)
class Demand:
    """Steel (k,) m2/m that a provision asks for, nil where it does not apply; ``steps`` explain one station: the last one's
    result is the area."""

    area: Array
    steps: Callable[[int], tuple[Step, ...]]


class Provision(Protocol):
    """One provision. ``derived``: it reads what other provisions ask for elsewhere."""

    @property
    def name(self) -> str:
        """As results name it."""
        ...

    @property
    def clause(self) -> str:
        """Its source."""
        ...

    @property
    def derived(self) -> bool:
        """Whether it follows from the others' demands."""
        ...

    @property
    def remedy(self) -> str:
        """What would stop it governing, as a sentence."""
        ...

    @property
    def gathers(self) -> Gathers:
        """In which band about the axis its steel lies."""
        ...

    def demand(self, at: Stations) -> Demand:
        """What it asks for."""
        ...

    def explain(self, one: Stations, area: float) -> tuple[Step, ...]:
        """How it came to ask one station for an ``area``, m2/m."""
        ...


class Explained(ABC):
    """A provision whose demand explains itself."""

    __slots__ = ()

    @abstractmethod
    def demand(self, at: Stations) -> Demand:
        """What it asks for."""

    def explain(self, one: Stations, area: float) -> tuple[Step, ...]:
        """Its steps for one station."""
        return self.demand(one).steps(0)


@dataclass(frozen=True, slots=True)
class SpacingLimit:
    """Greatest spacing (k,) m of bars at stations, with the steps for one."""

    limit: Array
    steps: Callable[[int], tuple[Step, ...]]


class SpacingRules(Protocol):
    """Greatest spacing of bars."""

    def greatest(self, at: Stations) -> SpacingLimit:
        """At stations where the face is stretched."""
        ...


@dataclass(frozen=True, slots=True)
class CrackUse:
    """Crack control at k stations: utilisation (k,), the value that is compared (k,) and its limit (k,)."""

    use: Array
    steps: Callable[[int], tuple[Step, ...]]


@dataclass(frozen=True, slots=True)
class Served:
    """Bars of k cracked sections of thickness ``h`` m whose stress ``sigma`` kN/m2 is known: effective depth ``d``, clear ``cover``, diameter ``bar`` and
    ``spacing`` m, ``area`` m2/m, modulus ``E_s`` kN/m2; each (k,)."""

    h: Array
    d: Array
    cover: Array
    bar: Array
    spacing: Array
    area: Array
    E_s: Array
    sigma: Array


class CrackRules(Protocol):
    """Control of cracks in service."""

    @property
    def limit_states(self) -> Sequence[str]:
        """Limit states of the combinations under which cracks are checked."""
        ...

    @property
    def bonded(self) -> CrackRules | None:
        """Rules of members with bonded tendons beside these; None: there are none."""
        ...

    def check(self, at: Stations) -> CrackUse:
        """Of the bars that are given."""
        ...

    def closest(self, at: Stations) -> Array | None:
        """Spacing (k,) m up to which bars keep cracks fine, inf where no service combination stretches the face; None: it takes more than spacing."""
        ...

    def width_of(self, served: Served, concrete: Concrete) -> Array | None:
        """Widths (k,) m of cracks where the bars' stress is known; None: the standard has no such formula."""
        ...


class StressRules(Protocol):
    """Limits of stresses of cracked sections in service; the moments are those of ``m_service`` and ``n_service``."""

    @property
    def limit_states(self) -> Sequence[str]:
        """Limit states of the combinations under which stresses are limited."""
        ...

    def steel(self, at: Stations) -> CrackUse:
        """Of the bars that are given."""
        ...

    def concrete(self, at: Stations) -> CrackUse | None:
        """Of the pressed concrete; None where nothing limits it."""
        ...
