"""The stiffness stage: elements and restraints assembled in the unknowns that are free, and factorised."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe import quad, triangle
from piastra.core.fe.element import Operators
from piastra.core.fe.holding import hold
from piastra.core.fe.linear_solver import Factor, SingularError, Underway, factorise
from piastra.core.fe.pattern import Dense, Pattern, in_plane, pattern
from piastra.core.fe.restraints import Restraints
from piastra.core.fe.section import Sections
from piastra.core.fe.threads import at_once
from piastra.core.mesh.mesher import Mesh
from piastra.core.model import Refusal, RefusedError

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


Apart = tuple[npt.NDArray[np.bool_], ...]

WORTH = 0.95
"""Share of the elements that has to couple nothing: with fewer of them, as where there are drops, an order takes longer to find, and the factorisation
is as long."""

BLOCK = 1024
"""Elements that are worked on at once: their operators stay in the processor's cache, and are not kept."""


@dataclass(frozen=True, slots=True)
class Family:
    """The quadrilaterals, or the triangles, of a mesh.

    ``nodes`` (e, corners); ``sections`` of each; ``mean`` (e, 8, d) gives the mean of its strains (as in
    :class:`piastra.core.fe.element.Operators`) from its unknowns; ``stiffness`` (e, d, d).
    """

    nodes: Ints
    sections: Sections
    mean: Array
    stiffness: Array

    @property
    def law(self) -> Array:
        """Section stiffness (e, 8, 8)."""
        return Operators.law_of(self.sections)

    def operators(self, xy: Array, pick: Ints) -> Operators:
        """Strain operators of some elements; ``xy`` (n, 2) m are the mesh's nodes."""
        return _module(self.nodes).operators(xy[self.nodes[pick]], self.sections[pick])

    def strained(self, xy: Array, strain: Array) -> Array:
        """Forces (e, d, r) at the nodes that hold elements in place which have the initial strains (e, 8, r) of their own."""
        stress = self.law @ strain
        out = np.empty((len(self.nodes), self.mean.shape[2], strain.shape[2]))
        for some in blocks_of(len(self.nodes)):
            integral = _module(self.nodes).operators(xy[self.nodes[some]], self.sections[some]).integral()
            out[some] = integral.transpose(0, 2, 1) @ stress[some]
        return out


@dataclass(frozen=True, slots=True)
class Unknowns:
    """The unknowns that are free: ``number`` (n, 5) of each node's own (-1: nil), ``masters`` (c, 3) of the columns' axes, and
    matrices (5, 5) of the nodes whose own unknowns are turned, or follow a column's axis."""

    number: Ints
    masters: Ints
    turned: dict[int, Array]

    @property
    def count(self) -> int:
        """How many are free."""
        return int(max(self.number.max(initial=-1), self.masters.max(initial=-1))) + 1

    def blocks(self, apart: bool) -> Ints:
        """What each (m,) is of: its node, or one past them for each column's axis. ``apart``: a node's displacements in the plane of the floor, and its
        others, are of two."""
        first = int(self.masters.min(initial=self.count))
        own = (self.number >= 0) & (self.number < first)
        node, which = np.nonzero(own)
        out = np.empty(self.count, dtype=np.int64)
        out[self.number[own]] = 2 * node + (which >= 2) if apart else node
        out[self.masters] = 2 * len(self.number) + np.arange(len(self.masters))[:, None]
        return out

    def turns(self) -> Array:
        """Matrices (n, 5, 5) of all nodes."""
        turn = np.broadcast_to(np.eye(5), (len(self.number), 5, 5)).copy()
        for n, matrix in self.turned.items():
            turn[n] = matrix
        return turn


@dataclass(frozen=True, slots=True)
class System:
    """A floor's equations.

    ``T`` (5 n, m) gives all unknowns of the nodes from the m free ones; ``matrix`` (m, m) the upper triangle, CSR, its
    entries by ``pattern``; ``masters`` (c, 3) the free unknowns of the columns' axes. ``apart`` (e,) of each family: elements that do not couple what
    happens in the floor's plane with its bending, and have no entries for it, where nearly all are such. Where the middle of all of a floor lies in one
    plane, these are two systems, with half of the work of one.
    """

    mesh: Mesh
    families: tuple[Family, ...]
    held: Restraints
    free: Unknowns
    apart: Apart
    pattern: Pattern
    T: sp.csr_matrix
    matrix: sp.csr_matrix
    factor: Factor

    @property
    def unknowns(self) -> int:
        return int(self.matrix.shape[0])

    @property
    def masters(self) -> Ints:
        return self.free.masters


def _module(nodes: Ints) -> Any:
    return quad if nodes.shape[1] == 4 else triangle


def blocks_of(count: int) -> Iterator[slice]:
    """Slices of so many elements as are worked on at once."""
    return (slice(start, start + BLOCK) for start in range(0, count, BLOCK))


def families(mesh: Mesh, quad_sections: Sections, tri_sections: Sections) -> tuple[Family, ...]:
    """All elements, with their stiffness."""
    made = []
    for nodes, sections in ((mesh.quads, quad_sections), (mesh.tris, tri_sections)):
        if not len(nodes):
            continue
        count, unknowns = len(nodes), 5 * nodes.shape[1]
        mean, stiffness = np.empty((count, 8, unknowns)), np.empty((count, unknowns, unknowns))

        def fill(
            some: slice, nodes: Ints = nodes, sections: Sections = sections, mean: Array = mean, stiffness: Array = stiffness
        ) -> None:
            found = _module(nodes).operators(mesh.xy[nodes[some]], sections[some])
            mean[some], stiffness[some] = found.mean_strain(), found.stiffness()

        at_once(fill, blocks_of(count))
        made.append(Family(nodes, sections, mean, stiffness))
    return tuple(made)


def with_sections(system: System, pick: Ints, changed: Sections) -> tuple[Family, ...]:
    """The elements of a system, those picked (k,) with other sections (k)."""
    made, start = [], 0
    for family in system.families:
        count = len(family.nodes)
        mine = np.flatnonzero((pick >= start) & (pick < start + count))
        its, own = pick[mine] - start, changed[mine]
        start += count
        if not len(its):
            made.append(family)
            continue
        mean, stiffness = family.mean.copy(), family.stiffness.copy()
        for some in blocks_of(len(its)):
            found = _module(family.nodes).operators(system.mesh.xy[family.nodes[its[some]]], own[some])
            mean[its[some]], stiffness[its[some]] = found.mean_strain(), found.stiffness()
        arrays = {name: getattr(family.sections, name).copy() for name in Sections.__dataclass_fields__}
        for name, values in arrays.items():
            values[its] = getattr(own, name)
        made.append(Family(family.nodes, Sections(**arrays), mean, stiffness))
    return tuple(made)


def assemble(mesh: Mesh, made: tuple[Family, ...], held: Restraints, last: System | None = None) -> System:
    """Assemble, and begin to factorise. What follows from the mesh and from which nodes are held is taken from the ``last`` system of the same mesh,
    where these are the same nodes.

    The factor raises :class:`RefusedError` when it is first solved with and a piece of the floor is free to move.
    """
    free = _unknowns(mesh, held, hold(mesh, held))
    apart = _apart(made)
    if sum(int(alone.sum()) for alone in apart) < WORTH * sum(len(alone) for alone in apart):
        apart = _none(apart)
    known = last if last is not None and _alike(last, free, held) and all(map(np.array_equal, last.apart, apart)) else None
    if known is not None:
        found, T = known.pattern, known.T
    else:
        found, T = _pattern(made, held, free, apart), _transformation(free.number, free.turns(), free.count)
    matrix = found.matrix(found.values(_entries(made, held, free)))
    factor = Underway(
        lambda: _factorised(
            lambda: factorise(matrix, blocks=_blocks(free, apart)) if known is None else known.factor.alike(matrix)
        )
    )
    return System(mesh, made, held, free, apart, found, T, matrix, factor)


def _apart(made: tuple[Family, ...]) -> Apart:
    """Elements whose stiffness couples nothing in the floor's plane with anything out of it."""
    out = []
    for family in made:
        plane = in_plane(family.stiffness.shape[1])
        alone = np.empty(len(family.nodes), dtype=bool)
        for some in blocks_of(len(alone)):
            alone[some] = ~family.stiffness[some][:, plane][:, :, ~plane].any(axis=(1, 2))
        out.append(alone)
    return tuple(out)


def _none(apart: Apart) -> Apart:
    return tuple(np.zeros_like(alone) for alone in apart)


def _begin_to_couple(apart: Apart, made: tuple[Family, ...]) -> bool:
    """Whether some of the elements ``apart`` couple as they are now."""
    if not any(alone.any() for alone in apart):
        return False
    return any((alone & ~now).any() for alone, now in zip(apart, _apart(made), strict=True))


def _blocks(free: Unknowns, apart: Apart) -> Ints:
    return free.blocks(any(alone.any() for alone in apart))


def coupled(system: System) -> sp.csr_matrix:
    """The upper triangle (m, m) with an entry for all that elements could couple, though it is nought."""
    whole = _pattern(system.families, system.held, system.free, _none(system.apart))
    return whole.matrix(whole.values(_entries(system.families, system.held, system.free)))


def _pattern(made: tuple[Family, ...], held: Restraints, free: Unknowns, apart: Apart) -> Pattern:
    parts = [Dense(free.number[family.nodes], alone) for family, alone in zip(made, apart, strict=True)]
    node = held.springs()[0]
    if len(node):
        parts.append(Dense(free.number[node][:, None]))
    for c, slaves in enumerate(held.slaves):
        parts += [Dense(free.masters[c : c + 1][:, None]), Dense(free.number[slaves][None, :, :2])]
    return pattern(parts, _blocks(free, apart))


def _alike(last: System, free: Unknowns, held: Restraints) -> bool:
    """Whether entries fall at the same places as in the ``last`` system of the mesh, and the same nodes follow the same unknowns alike."""
    same, of = np.array_equal, last.free
    return (
        same(of.number, free.number)
        and same(of.masters, free.masters)
        and of.turned.keys() == free.turned.keys()
        and all(same(of.turned[n], matrix) for n, matrix in free.turned.items())
        and same(last.held.springs()[0], held.springs()[0])
        and len(last.held.slaves) == len(held.slaves)
        and all(map(same, last.held.slaves, held.slaves))
    )


def renewed(system: System, made: tuple[Family, ...] | None = None, ignore: npt.NDArray[np.bool_] | None = None) -> System:
    """The same floor with other stiffnesses of its elements, or with the springs marked by ``ignore`` (k,) taken out.

    The pattern stays, and so does the solver's analysis of it where the factor shares it: what is left is the entries'
    values and a numeric factorisation. Only where elements couple now what they did not before is the pattern that of all that elements may couple.
    Raises :class:`RefusedError` when a piece of the floor is free to move.
    """
    if made is not None and _begin_to_couple(system.apart, made):
        none = _none(system.apart)
        system = replace(system, apart=none, pattern=_pattern(made, system.held, system.free, none))
    families = system.families if made is None else made
    values = system.pattern.values(_entries(families, system.held, system.free, ignore))
    matrix, blocks = system.pattern.matrix(values), _blocks(system.free, system.apart)
    return replace(system, families=families, matrix=matrix, factor=_factorised(lambda: system.factor.again(matrix, blocks)))


def in_turn(base: System, last: System | None) -> System:
    """A system to be renewed as the ``last`` one was, if there was one: with its factor, whose turn it will be, and its pattern."""
    return base if last is None else replace(base, apart=last.apart, pattern=last.pattern, factor=last.factor)


def _factorised(make: Callable[[], Factor]) -> Factor:
    try:
        return make()
    except (SingularError, ValueError):
        raise RefusedError(
            [Refusal("supports", "leave a part of the floor free to move; add columns, walls or supports, or fix a rotation")]
        ) from None


def _entries(
    made: tuple[Family, ...], held: Restraints, free: Unknowns, ignore: npt.NDArray[np.bool_] | None = None
) -> Callable[[int, Ints], Array]:
    """What tells the stiffness (k, c, w, c, w) in the unknowns that are free of blocks of a part of the pattern, the k of these numbers."""
    turn = free.turns()
    special = np.zeros(len(turn), dtype=bool)
    special[list(free.turned)] = True
    more: list[Array] = []
    node, _, block, _ = held.springs()
    if len(node):
        turned = turn[node].transpose(0, 2, 1) @ block @ turn[node]
        if ignore is not None:
            turned[ignore] = 0.0
        more.append(turned[:, None, :, None, :])
    for c, slaves in enumerate(held.slaves):
        count = len(slaves)
        shared = held.master_sway[c] / count**2
        more += [
            held.master_block[c][None, None, :, None, :],
            np.broadcast_to(shared[None, :, None, :], (count, 2, count, 2))[None],
        ]

    def dense(part: int, mine: Ints) -> Array:
        if part >= len(made):
            return more[part - len(made)][mine]
        nodes = made[part].nodes[mine]
        corners = nodes.shape[1]
        found = made[part].stiffness[mine].reshape(-1, corners, 5, corners, 5)
        touched = special[nodes].any(axis=1)
        if touched.any():
            Te = turn[nodes[touched]]
            found[touched] = np.einsum("eaip,eaibj,ebjq->eapbq", Te, found[touched], Te, optimize=True)
        return found

    return dense


def initial_vectors(system: System, strain: Array) -> Array:
    """Load vectors (n, 5, r) of initial strains (e, 8, r) of all elements: creep, shrinkage, temperature. What these strains
    cannot do freely is section forces, which are found with the same strains taken off."""
    out = np.zeros((len(system.mesh.xy), 5, strain.shape[2]))
    start = 0
    for family in system.families:
        count, corners = family.nodes.shape
        force = family.strained(system.mesh.xy, strain[start : start + count])
        np.add.at(out, family.nodes, force.reshape(count, corners, 5, -1))
        start += count
    return out


def _unknowns(mesh: Mesh, held: Restraints, plane: list[tuple[int, int]]) -> Unknowns:
    """What is free of the nodes' five unknowns and the columns' three."""
    n = len(mesh.xy)
    free = np.ones((n, 5), dtype=bool)
    nodal: dict[int, Array] = {}
    for node, unknown in plane:
        free[node, unknown] = False
    for node, _, _ in held.fixed:
        free[node, 2] = False
    clamps: dict[int, list[tuple[float, float]]] = {}
    for node, _, ax, ay in held.clamped:
        clamps.setdefault(node, []).append((ax, ay))
    for node, axes in clamps.items():
        first = np.array(axes[0])
        if any(abs(first[0] * b - first[1] * a) > 1e-6 for a, b in axes[1:]):
            free[node, 3:] = False
            continue
        T = np.eye(5)
        T[3:, 3] = [-first[1], first[0]]
        T[3:, 4] = first
        nodal[node] = T
        free[node, 4] = False
    for slaves in held.slaves:
        free[slaves, 2:] = False
    number = np.where(free, np.cumsum(free.ravel()).reshape(n, 5) - 1, -1)
    start = int(free.sum())
    masters = start + np.arange(3 * len(held.slaves)).reshape(-1, 3)
    for c, slaves in enumerate(held.slaves):
        number[slaves, 2:] = masters[c]
        for node in slaves:
            dx, dy = mesh.xy[node] - np.array(held.master_at[c])
            T = np.eye(5)
            T[2, 3:] = [-dx, -dy]
            nodal[int(node)] = T
    return Unknowns(number.astype(np.int64), masters.astype(np.int64), nodal)


def _transformation(number: Ints, turn: Array, m: int) -> sp.csr_matrix:
    n = len(number)
    rows = np.broadcast_to(np.arange(5 * n).reshape(n, 5, 1), (n, 5, 5))
    columns = np.broadcast_to(number[:, None, :], (n, 5, 5))
    keep = (columns >= 0) & (turn != 0)
    return sp.csr_matrix((turn[keep], (rows[keep], columns[keep])), shape=(5 * n, m))
