"""The factorised system."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from piastra.core.fe.floor_sections import FaceValues, element_sections
from piastra.core.fe.recovery import Places, places
from piastra.core.fe.restraints import restraints
from piastra.core.fe.system import System, assemble, families
from piastra.core.fe.threads import at_once
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH, Meshed
from piastra.core.stages.plan import PLAN
from piastra.core.stages.sections import SECTIONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named


@dataclass(frozen=True, slots=True)
class Stiffness:
    """The factorised system, the sections it was made from, and the places at which section forces are kept."""

    system: System
    values: FaceValues
    kept: Places

    def free(self) -> None:
        """Give the factorisation's memory back."""
        self.system.factor.free()


@dataclass(frozen=True, slots=True)
class StiffnessInputs:
    """What the stiffness reads: parts of the floor, and E (kN/m2) by concrete."""

    floor: Floor
    moduli: Mapping[str, float]


def stiffness_inputs(floor: Floor) -> StiffnessInputs:
    """Concretes enter by their moduli, so that no value of the standard's but those is read."""
    standard = standard_named(floor.standard, floor.parameters)
    seen = only(
        floor, concretes=("id", "poisson"), columns=ALL, walls=ALL, supports=ALL,
    )  # fmt: skip
    return StiffnessInputs(seen, {c.id: standard.materials.modulus(c) for c in floor.concretes})


def make_stiffness(
    given: StiffnessInputs, plan: Plan, meshed: Meshed, values: FaceValues, last: Stiffness | None = None
) -> Stiffness:
    """Assemble and begin to factorise; what of the ``last`` one on the same mesh stands, is taken from there."""
    quad_sections, tri_sections = element_sections(given.floor, meshed.mesh, values, dict(given.moduli))
    held = restraints(given.floor, plan, meshed.mesh, dict(given.moduli))
    elements, face = families(meshed.mesh, quad_sections, tri_sections), meshed.face
    nodes = [f.nodes for f in elements]

    def system() -> System:
        return assemble(meshed.mesh, elements, held, last.system if last else None)

    def kept() -> Places:
        return places(meshed.mesh, nodes, held, values.part[face], values.zeta[face], values.h[face], last.kept if last else None)

    made: list[Any] = at_once(lambda make: make(), (system, kept))
    return Stiffness(made[0], values, made[1])


def _make(given: StiffnessInputs, made: Made[Stiffness]) -> Stiffness:
    return make_stiffness(given, made[PLAN], made[MESH], made[SECTIONS], made.earlier)


STIFFNESS = Stage("stiffness", stiffness_inputs, _make, (PLAN, MESH, SECTIONS), kin=(MESH,))
