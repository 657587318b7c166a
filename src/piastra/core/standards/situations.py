"""Design situations beside the lasting and transient ones of the finished floor: accidents, and while the floor is built.

Each has its own combinations (by their limit state), material factors and concrete. What strength asks for under it joins the
provisions of the standard (EN 1990, 3.2 and 6.4.3; ACI 318-19, 5.3 with ASCE 7-16, 2.5).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from piastra.core.combine.envelope import Factors
from piastra.core.model import Floor
from piastra.core.model.history import Construction
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.ageing_rules import Climate
from piastra.core.standards.protocol import Sections, Standard
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Pair, Stations
from piastra.core.trace import Step, Value

AGE_MISSING = "the age of the concrete while the floor is built is not given; give the floor its construction age"
RIPE = 28.0
"""Age (days) from which on no strength is added to that of the tests."""


@dataclass(frozen=True, slots=True)
class Situation:
    """A design situation: rules with its material factors (``standard``), and while the floor is built the age of its concrete."""

    name: Literal["accidental", "fire", "construction"]
    standard: Standard
    construction: Construction | None = None
    level: float = 1.0
    """Share of the strength that its effects may use up: in a fire what tables of fire resistance presuppose."""
    level_clause: str = ""

    @property
    def _young(self) -> bool:
        return self.construction is not None and self.construction.age_days < RIPE

    def concrete(self, given: Concrete) -> Concrete:
        """A concrete as strong as it is then."""
        if not self._young or self.standard.ageing is None:
            return given
        found = self.steps(given)[-1].result
        assert found is not None
        return given.model_copy(update={"strength_MPa": found.value})

    def pairs(self, given: Sequence[Pair]) -> tuple[Pair, ...]:
        """Materials as they are then."""
        return tuple((self.concrete(c), r) for c, r in given)

    def floor(self, floor: Floor) -> Floor:
        """The floor with its concretes as they are then."""
        if not self._young:
            return floor
        aged = floor.model_copy()
        aged.__dict__["concretes"] = [self.concrete(c) for c in floor.concretes]
        return aged

    def steps(self, given: Concrete) -> tuple[Step, ...]:
        """How the concrete's strength came about, and what effects are compared with it."""
        if self.level < 1.0:
            return (Step("Level of load", self.level_clause, values=(Value("eta_fi", self.level),),
                         note="Tables of fire resistance presuppose it: what follows are the effects of the fire situation over it, against the "
                         "strength without fire."),)  # fmt: skip
        if not self._young or self.standard.ageing is None:
            return ()
        assert self.construction is not None
        young = Step(
            "Effects", note="Of the floor with its stiffness at 28 days: a floor that is young throughout shares them alike."
        )
        return young, *self.standard.ageing.strength_steps(given, self.construction.age_days, _climate(self.construction))


def _climate(given: Construction) -> Climate:
    return Climate(50.0, given.cement, given.age_days)


@dataclass(frozen=True, slots=True)
class Acting:
    """A situation that a floor has combinations of; None: the lasting and transient ones of the finished floor."""

    situation: Situation | None
    standard: Standard
    combinations: list[Factors]

    def floor(self, floor: Floor) -> Floor:
        """The floor with its concretes as they are then."""
        return self.situation.floor(floor) if self.situation else floor

    def pairs(self, given: Sequence[Pair]) -> tuple[Pair, ...]:
        """Materials as they are then."""
        return self.situation.pairs(given) if self.situation else tuple(given)


def acting_in(standard: Standard, factors: Sequence[Factors]) -> list[Acting]:
    """The situations that there are combinations of, that of the finished floor first; it may have none."""
    found = [Acting(None, standard, [f for f in factors if f.limit_state == "ultimate"])]
    for s in standard.situations:
        if mine := [f for f in factors if f.limit_state == s.name]:
            found.append(Acting(s, s.standard, [over(f, s.level) for f in mine]))
    return found


def over(f: Factors, level: float) -> Factors:
    """A combination whose effects are compared with a share of the strength: its factors over that share."""
    return f if level == 1.0 else replace(f, always=f.always / level, pattern=f.pattern / level)


def all_of(situations: Sequence[Acting]) -> list[Factors]:
    """Their combinations, one situation after the other."""
    return [f for a in situations for f in a.combinations]


@dataclass(frozen=True, slots=True)
class StrengthIn(Explained):
    """Strength in flexure with axial force in a situation of its own."""

    situation: Situation
    clause: str
    derived: bool = False
    gathers: Gathers = ""

    @property
    def name(self) -> str:
        """The situation's."""
        return self.situation.name

    @property
    def remedy(self) -> str:
        """What would stop it governing."""
        if self.name == "accidental":
            return "A thicker slab, or something that keeps the accident's load away, needs less of it."
        if self.name == "fire":
            return "A thicker slab or less load beside the fire needs less of it."
        return "Less load while the floor is built, props that stay longer or an older concrete need less of it."

    def demand(self, at: Stations) -> Demand:
        """Tension steel of the governing combination and arrangement of the situation."""
        flexure = self.situation.standard.flexure
        assert flexure is not None

        def design(some: Stations, c: Concrete, r: Rebar) -> Array:
            return flexure.design(*self.acting(some), Sections(some.h, some.d, some.d2, self.situation.concrete(c), r)).tension

        def steps(i: int) -> tuple[Step, ...]:
            one = at.some(slice(i, i + 1))
            concrete, rebar = one.materials[int(one.kind[0])]
            sections = Sections(one.h, one.d, one.d2, self.situation.concrete(concrete), rebar)
            return *self.situation.steps(concrete), *flexure.design(*self.acting(one), sections).steps(0)

        return Demand(at.each(design), steps)

    def acting(self, at: Stations) -> tuple[Array, Array]:
        """Moment about the tension steel (k,) kNm/m, and the force (k,) kN/m that goes with it."""
        return getattr(at, f"m_{self.name}"), getattr(at, f"n_{self.name}")


def in_situations(standard: Standard, situations: Sequence[Situation]) -> Standard:
    """The standard with situations and what strength asks for under them."""
    strength, *others = standard.provisions
    more = [StrengthIn(s, strength.clause) for s in situations]
    return replace(standard, situations=tuple(situations), provisions=(strength, *more, *others))
