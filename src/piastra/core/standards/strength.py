"""Provisions that only ask a rule set of their standard: strength, and least steel."""

from __future__ import annotations

from dataclasses import dataclass

from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards.protocol import FlexureRules, MinimumRules, Sections
from piastra.core.standards.provision import Array, Demand, Explained, Gathers, Stations
from piastra.core.trace import Step


def _sections(at: Stations, concrete: Concrete, rebar: Rebar) -> Sections:
    return Sections(at.h, at.d, at.d2, concrete, rebar)


def _one(at: Stations, i: int) -> tuple[Stations, Sections]:
    one = at.some(slice(i, i + 1))
    return one, _sections(one, *one.materials[int(one.kind[0])])


@dataclass(frozen=True, slots=True)
class Strength(Explained):
    """Strength in flexure with axial force."""

    rules: FlexureRules
    clause: str
    name: str = "strength"
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "A thicker slab or less load needs less of it."

    def demand(self, at: Stations) -> Demand:
        """Tension steel of the governing combination and arrangement."""

        def steps(i: int) -> tuple[Step, ...]:
            one, sections = _one(at, i)
            return self.rules.design(one.m, one.n, sections).steps(0)

        return Demand(at.each(lambda some, c, r: self.rules.design(some.m, some.n, _sections(some, c, r)).tension), steps)


@dataclass(frozen=True, slots=True)
class LeastFlexural(Explained):
    """Least flexural steel."""

    rules: MinimumRules
    clause: str
    name: str = "least"
    derived: bool = False
    gathers: Gathers = ""
    remedy: str = "A thinner slab or a weaker concrete has less of it; more bars there than strength needs is what it asks for."

    def demand(self, at: Stations) -> Demand:
        """Where the face is stretched to speak of."""

        def least(some: Stations, c: Concrete, r: Rebar) -> Array:
            return self.rules.least(some.m, _sections(some, c, r)).area

        def steps(i: int) -> tuple[Step, ...]:
            one, sections = _one(at, i)
            return self.rules.least(one.m, sections).steps(0)

        return Demand(at.each(least), steps)
