"""Elements whose section stiffness changes with their state: strain operators made once, stiffness and initial forces from any law.

The operators are those of the elastic sections. They stay compatible with the displacements whatever the law, so that a floor in
equilibrium stays so; only the share of bending in the incompatible membrane modes is the elastic one's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.section import strain_turned
from piastra.core.fe.system import Family, System, blocks_of

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Frozen:
    """One family of elements: ``strain`` (e, 6, g, d) membrane strains and curvatures about each section's own middle plane, in axes of
    each element's own; ``weight`` (e, g) m2; ``shear`` (e, d, d) the stiffness in transverse shear; ``mean`` (e, 6, d) and ``area`` (e,);
    ``angle`` (e,) rad of those axes."""

    family: Family
    strain: Array
    weight: Array
    shear: Array
    mean: Array
    area: Array
    angle: Array

    def with_law(self, law: Array, last: Array | None = None, new: npt.NDArray[np.int64] | None = None) -> Family:
        """The family with the section stiffness ``law`` (e, 6, 6). Where the element stiffnesses ``last`` (e, d, d) are given, only those of the ``new`` (k,)
        elements are made, and written there."""
        count, rows, points, unknowns = self.strain.shape
        K = np.empty_like(self.shear) if last is None else last
        every = np.arange(count) if last is None or new is None else new
        for block in blocks_of(len(every)):
            some = every[block] if len(every) < count else block
            B = self.strain[some]
            force = (law[some] @ B.reshape(len(B), rows, points * unknowns)).reshape(B.shape)
            force *= self.weight[some][:, None, :, None]
            left = B.reshape(len(B), rows * points, unknowns).transpose(0, 2, 1)
            K[some] = left @ force.reshape(len(B), rows * points, unknowns) + self.shear[some]
        return Family(self.family.nodes, self.family.sections, self.family.mean, K)

    def stiffer(self, law: Array, new: npt.NDArray[np.int64], u: Array) -> Array:
        """Forces (n, 5) at the nodes that some elements ``new`` (k,) take up more under displacements ``u`` (n, 5) where their section stiffness is
        greater by ``law`` (k, 6, 6)."""
        out = np.zeros_like(u)
        _, rows, points, unknowns = self.strain.shape
        for block in blocks_of(len(new)):
            some = new[block]
            B = self.strain[some].reshape(len(some), rows * points, unknowns)
            nodes = self.family.nodes[some]
            strain = (B @ u[nodes].reshape(len(some), unknowns, 1)).reshape(len(some), rows, points)
            force = (law[block] @ strain) * self.weight[some][:, None]
            held = (B.transpose(0, 2, 1) @ force.reshape(len(some), rows * points, 1)).reshape(*nodes.shape, 5)
            np.add.at(out, nodes, held)
        return out

    def elastic_law(self) -> Array:
        """The elastic section stiffness (e, 6, 6) in the elements' axes about their middle planes."""
        s = self.family.sections
        T = np.linalg.inv(strain_turned(self.angle))
        law = np.zeros((len(s.h), 6, 6))
        law[:, :3, :3], law[:, 3:, 3:] = T.transpose(0, 2, 1) @ s.A @ T, T.transpose(0, 2, 1) @ s.own @ T
        return law

    def strains(self, u: Array) -> Array:
        """Mean strains (e, 6) for displacements ``u`` (n, 5)."""
        local = u[self.family.nodes].reshape(len(self.family.nodes), -1)
        return np.asarray((self.mean @ local[:, :, None])[:, :, 0])

    def held(self, stress: Array) -> Array:
        """Forces (e, corners, 5) at the nodes that hold the section forces ``stress`` (e, 6)."""
        count, corners = self.family.nodes.shape
        force = (self.mean.transpose(0, 2, 1) @ stress[:, :, None])[:, :, 0] * self.area[:, None]
        return force.reshape(count, corners, 5)


def frozen(system: System, angle: Array) -> tuple[Frozen, ...]:
    """Operators of all elements in axes turned by ``angle`` (e,) rad."""
    out = []
    start = 0
    for family in system.families:
        count = len(family.nodes)
        mine = angle[start : start + count]
        start += count
        made: tuple[Array, ...] = ()
        for some in blocks_of(count):
            found = family.operators(system.mesh.xy, np.arange(count)[some])
            e, _, g, d = found.strain.shape
            T = strain_turned(mine[some])
            flat = found.strain.reshape(e, 8, g * d)
            zeta = family.sections.zeta[some][:, None, None]
            own = np.concatenate([T @ (flat[:, :3] + zeta * flat[:, 3:6]), T @ flat[:, 3:6]], axis=1).reshape(e, 6, g, d)
            tilt = (family.sections.shear[some] @ flat[:, 6:]).reshape(e, 2, g, d) * found.weight[:, None, :, None]
            shear = found.strain[:, 6:].reshape(e, 2 * g, d).transpose(0, 2, 1) @ tilt.reshape(e, 2 * g, d)
            area = found.weight.sum(axis=1)
            mean = (found.weight[:, None, None] @ own)[:, :, 0] / area[:, None, None]
            parts = (own, found.weight, shear, mean, area)
            # Laid down at once where they stay: of a large floor they are gigabytes if they are there twice.
            made = made or tuple(np.empty((count, *part.shape[1:])) for part in parts)
            for whole, part in zip(made, parts, strict=True):
                whole[some] = part
        out.append(Frozen(family, *(*made, mine)))
    return tuple(out)


def split(families: Sequence[Frozen], values: Array) -> list[Array]:
    """Values (e, ...) of all elements by family."""
    ends = np.cumsum([len(f.area) for f in families])[:-1]
    return np.split(values, ends)


def initial_forces(families: Sequence[Frozen], nodes: int, stress: Array) -> Array:
    """Forces (n, 5) at the nodes that hold the section forces ``stress`` (e, 6) of all elements."""
    out = np.zeros((nodes, 5))
    for f, own in zip(families, split(families, stress), strict=True):
        np.add.at(out, f.family.nodes, f.held(own))
    return out
