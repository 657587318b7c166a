"""What the rest of the core knows of a design standard: a bundle of rule sets.

Stresses in kN/m2, lengths in m, forces in kN, moments in kNm; slabs by the metre of width. A rule set that is ``None`` is not
at hand, and its checks say so. What a rule computes for arrays it explains for one row with ``steps``, from the values it
used.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np
import numpy.typing as npt

from piastra.core.combine.arrangements import Arrangement
from piastra.core.model.history import Construction
from piastra.core.model.loading import LimitState, LoadCase
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.ageing_rules import AgeingRules
from piastra.core.standards.beam_rules import BeamRules
from piastra.core.standards.block import Slopes
from piastra.core.standards.descent_rules import DescentRules
from piastra.core.standards.fire_rules import FireRules
from piastra.core.standards.generating import Generated
from piastra.core.standards.prestress_rules import PrestressRules
from piastra.core.standards.provision import CrackRules, Provision, SpacingRules, StressRules
from piastra.core.standards.zone_rules import PunchingRules
from piastra.core.trace import Step

if TYPE_CHECKING:
    from piastra.core.standards.situations import Situation

Array = npt.NDArray[np.float64]


class MaterialRules(Protocol):
    """Values of materials that the analysis needs, and which materials the standard covers."""

    def modulus(self, concrete: Concrete) -> float:
        """Modulus of elasticity, kN/m2; a given one replaces the standard's."""
        ...

    def not_covered(self, concrete: Concrete) -> str:
        """Why the standard does not cover a concrete, as a sentence's end; empty where it does."""
        ...


@dataclass(frozen=True, slots=True)
class Sections:
    """k sections a metre wide of one concrete and one steel: thickness ``h``, effective depth ``d`` of the stretched
    face's bars, depth ``d2`` of the other face's bars from the compressed face, m."""

    h: Array
    d: Array
    d2: Array
    concrete: Concrete
    rebar: Rebar


class Flexure(Protocol):
    """Steel for strength of k sections, m2/m: ``tension``, and ``compression`` in the other face."""

    @property
    def tension(self) -> Array:
        """(k,) m2/m."""
        ...

    @property
    def compression(self) -> Array:
        """(k,) m2/m."""
        ...

    @property
    def omega(self) -> Array:
        """(k,) depth of the compressed block over d."""
        ...

    @property
    def over(self) -> Array:
        """(k,) moment over the greatest that the standard lets the section have, nil where it is less."""
        ...

    def steps(self, i: int) -> tuple[Step, ...]:
        """How section ``i`` came to its steel; the last step's result is ``A_s``; one of ``A_s2`` where there is some."""
        ...


class FlexureRules(Protocol):
    """Strength in flexure with axial force."""

    def design(self, m: Array, n: Array, sections: Sections) -> Flexure:
        """Steel for moments about the tension steel ``m`` (k,) kNm/m with axial tension ``n`` (k,) kN/m."""
        ...

    def strengths(self, concrete: Concrete, rebar: Rebar) -> tuple[float, float, float]:
        """Design stress of the block and of the steel, kN/m2, and the greatest depth of the block over d."""
        ...

    def slopes(self, sections: Sections) -> Slopes:
        """How its tension grows with the moment, by which the worst of moment and force together is found."""
        ...


class Least(Protocol):
    """Least steel of k sections."""

    @property
    def area(self) -> Array:
        """(k,) m2/m; nil where none is asked for."""
        ...

    def steps(self, i: int) -> tuple[Step, ...]:
        """Why; the last step's result is ``A_s,min``, where any is asked for."""
        ...


class MinimumRules(Protocol):
    """Least steel."""

    def least(self, m: Array, sections: Sections) -> Least:
        """Least flexural steel where the moment about the steel is ``m`` (k,) kNm/m."""
        ...


class AnchorageRules(Protocol):
    """Lengths (m) that bars of a diameter (m) need, by the thickness ``h`` m of the slab and whether they lie at its top."""

    def length(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """Over which a straight bar comes to its full stress."""
        ...

    def lap(self, bar: float, h: float, top: bool, concrete: Concrete, rebar: Rebar) -> float:
        """Of laps of all bars in one place."""
        ...

    def shift(self, d: float) -> float:
        """By how much steel is needed further out than the moment asks for it."""
        ...


@dataclass(frozen=True, slots=True)
class ShearPlaces:
    """k places where one-way shear is checked: thickness ``h``, effective depth ``d`` (k,) m, ratio of the stretched bars
    ``rho_l`` and axial force ``n`` (k,) kN/m (tension positive), of one concrete and one steel."""

    h: Array
    d: Array
    rho_l: Array
    n: Array
    concrete: Concrete
    rebar: Rebar


@dataclass(frozen=True, slots=True)
class LinkLimits:
    """Limits of links in slabs: least ``thickness`` m of the slab, greatest distance of legs ``across`` over d, and the ``clause``."""

    thickness: float
    across: float
    clause: str


class ShearRules(Protocol):
    """One-way shear of slabs without links, and what links in slabs have to keep; their strength is that of a beam's."""

    @property
    def links(self) -> LinkLimits:
        """Limits of links."""
        ...

    def resistance(self, places: ShearPlaces) -> Array:
        """(k,) kN/m without shear reinforcement."""
        ...

    def steps(self, places: ShearPlaces, i: int) -> tuple[Step, ...]:
        """How the resistance of one place comes about; the last step's result is it."""
        ...


class TimeRules(Protocol):
    """Long-term deflection."""

    def effective(self, E: float, creep: float) -> float:
        """Effective modulus (kN/m2) for a final creep coefficient."""
        ...

    def steps(self, concrete: Concrete, E: float) -> tuple[Step, ...]:
        """How the effective modulus of a concrete comes about."""
        ...

    @property
    def limit_clause(self) -> str:
        """Source of the limit of the sag."""
        ...


@dataclass(frozen=True, slots=True)
class Option:
    """A choice in generating combinations: one of ``choices`` (value and words), or yes and no without any."""

    key: str
    name: str
    default: str | bool
    choices: tuple[tuple[str, str], ...] = ()


class ActionRules(Protocol):
    """Combinations of actions."""

    @property
    def categories(self) -> Mapping[str, str]:
        """Categories of use, with their meaning."""
        ...

    @property
    def options(self) -> tuple[Option, ...]:
        """What can be chosen in generating."""
        ...

    @property
    def beginning(self) -> tuple[tuple[str, LimitState, Mapping[str, float], str], ...]:
        """The rows of a new floor with the cases G, D and Q: label, limit state, factors and rule."""
        ...

    def generate(self, cases: Sequence[LoadCase], own: Mapping[str, float], options: Mapping[str, Any]) -> list[Generated]:
        """The combinations of a list of cases; ``own`` values replace recommended ones.

        Raises :class:`piastra.core.model.RefusedError`.
        """
        ...


class ArrangementRules(Protocol):
    """Arrangements of pattern load that the standard asks for."""

    def required(self, found: Sequence[Arrangement], live_over_dead: float) -> list[Arrangement]:
        """Those that are asked for, out of all named ones."""
        ...


@dataclass(frozen=True, slots=True)
class Library:
    """What a new project begins with and may choose from, as the project file writes it. ``first``: numbers of the
    concrete and steel of a new project."""

    concretes: tuple[Mapping[str, Any], ...]
    rebars: tuple[Mapping[str, Any], ...]
    load_materials: tuple[Mapping[str, Any], ...]
    occupancies: tuple[Mapping[str, Any], ...]
    first: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Integrity:
    """How many bottom bars of each direction have to pass through a column, within its width less ``inset`` m at both sides;
    whether only columns ``inside`` the floor are meant; the ``clause``."""

    bars: int
    inset: float
    inside: bool
    clause: str


@dataclass(frozen=True, slots=True)
class Service:
    """How a floor is to serve and is built, as far as rules depend on it: its exposure class, a limit of crack widths (mm) that
    replaces the exposure's, and the age of its concrete while it is built."""

    exposure: str | None = None
    crack_width_limit_mm: float | None = None
    construction: Construction | None = None


@dataclass(frozen=True, slots=True)
class Standard:
    """A design standard with its values as chosen for one floor. ``parameters`` in force, by key."""

    name: str
    parameters: Mapping[str, float]
    materials: MaterialRules
    actions: ActionRules
    arrangements: ArrangementRules
    library: Library
    flexure: FlexureRules | None = None
    minimum: MinimumRules | None = None
    provisions: tuple[Provision, ...] = ()
    spacing: SpacingRules | None = None
    integrity: Integrity | None = None
    anchorage: AnchorageRules | None = None
    shear: ShearRules | None = None
    punching: PunchingRules | None = None
    cracking: CrackRules | None = None
    stresses: StressRules | None = None
    """None: the standard limits no stress of bars or concrete in service."""
    time: TimeRules | None = None
    ageing: AgeingRules | None = None
    beams: BeamRules | None = None
    prestress: PrestressRules | None = None
    fire: FireRules | None = None
    descent: DescentRules | None = None
    situations: tuple[Situation, ...] = ()
    """Design situations with combinations, material factors and concrete of their own."""
    torsional_members: bool = False
    """Whether columns of equivalent frames turn with torsional members of the slab beside them."""
