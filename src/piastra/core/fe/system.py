"""The stiffness stage: elements and restraints assembled in the unknowns that are free, and factorised."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe import quad, triangle
from piastra.core.fe.element import Operators
from piastra.core.fe.holding import hold
from piastra.core.fe.linear_solver import Factor, SingularError, factorise
from piastra.core.fe.restraints import Restraints
from piastra.core.fe.section import Sections
from piastra.core.mesh.mesher import Mesh
from piastra.core.model import Refusal, RefusedError

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Family:
    """The quadrilaterals, or the triangles, of a mesh with their operators and stiffness."""

    nodes: Ints
    operators: Operators
    stiffness: Array


@dataclass(frozen=True, slots=True)
class System:
    """A floor's equations.

    ``T`` (5 n, m) gives all unknowns of the nodes from the m free ones; ``matrix`` (m, m) the upper triangle,
    CSR; ``masters`` (c, 3) the free unknowns of the columns' axes.
    """

    mesh: Mesh
    families: tuple[Family, ...]
    held: Restraints
    T: sp.csr_matrix
    matrix: sp.csr_matrix
    masters: Ints
    factor: Factor
    factorise_seconds: float

    @property
    def unknowns(self) -> int:
        return int(self.matrix.shape[0])


def families(mesh: Mesh, quad_sections: Sections, tri_sections: Sections) -> tuple[Family, ...]:
    """Operators and stiffness of all elements."""
    made = []
    for nodes, module, sections in ((mesh.quads, quad, quad_sections), (mesh.tris, triangle, tri_sections)):
        if len(nodes):
            operators = module.operators(mesh.xy[nodes], sections)
            made.append(Family(nodes, operators, operators.stiffness()))
    return tuple(made)


def assemble(mesh: Mesh, made: tuple[Family, ...], held: Restraints, ignore: npt.NDArray[np.bool_] | None = None) -> System:
    """Assemble and factorise; ``ignore`` (k,) marks springs that have lifted off.

    Raises :class:`RefusedError` when a piece of the floor is free to move.
    """
    plane = hold(mesh, held)
    number, nodal, masters = _unknowns(mesh, held, plane)
    m = int(number.max() + 1) if masters.size == 0 else int(max(number.max(), masters.max()) + 1)
    rows, columns, values = [], [], []

    def add(index: Ints, blocks: Array) -> None:
        """Upper triangle of dense blocks (e, d, d) at unknowns (e, d)."""
        i, j = np.triu_indices(index.shape[1])
        a, b, v = index[:, i].ravel(), index[:, j].ravel(), blocks[:, i, j].ravel()
        keep = (a >= 0) & (b >= 0)
        a, b, v = a[keep], b[keep], v[keep]
        # Nodes of one footprint share unknowns: an off-diagonal entry then lands on the diagonal, twice.
        off = np.broadcast_to(i != j, (len(index), len(i))).ravel()[keep]
        v = np.where((a == b) & off, 2 * v, v)
        rows.append(np.minimum(a, b).astype(np.int32))
        columns.append(np.maximum(a, b).astype(np.int32))
        values.append(v)

    special = np.zeros(len(mesh.xy), dtype=bool)
    special[list(nodal)] = True
    turn = np.broadcast_to(np.eye(5), (len(mesh.xy), 5, 5)).copy()
    for n, matrix in nodal.items():
        turn[n] = matrix
    for family in made:
        corners = family.nodes.shape[1]
        K = family.stiffness
        touched = special[family.nodes].any(axis=1)
        if touched.any():
            K = K.copy()
            Te = turn[family.nodes[touched]]
            blocks = K[touched].reshape(-1, corners, 5, corners, 5)
            blocks = np.einsum("eaip,eaibj,ebjq->eapbq", Te, blocks, Te, optimize=True)
            K[touched] = blocks.reshape(-1, 5 * corners, 5 * corners)
        add(number[family.nodes].reshape(len(family.nodes), -1), K)
    node, _, block, _ = held.springs()
    if len(node):
        live = np.ones(len(node), dtype=bool) if ignore is None else ~ignore
        turned = turn[node].transpose(0, 2, 1) @ block @ turn[node]
        add(number[node][live], turned[live])
    for c, slaves in enumerate(held.slaves):
        add(masters[c : c + 1], held.master_block[c][None])
        index = number[slaves][:, :2]
        shared = held.master_sway[c] / len(slaves) ** 2
        block2 = np.broadcast_to(shared[None, :, None, :], (len(slaves), 2, len(slaves), 2))
        add(index.reshape(1, -1), block2.reshape(1, 2 * len(slaves), 2 * len(slaves)))
    stiffness = sp.coo_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(m, m)).tocsr()
    stiffness.sum_duplicates()
    T = _transformation(number, turn, m)
    start = time.perf_counter()
    try:
        factor = factorise(stiffness)
    except (SingularError, ValueError):
        raise RefusedError(
            [Refusal("supports", "leave a part of the floor free to move; add columns, walls or supports, or fix a rotation")]
        ) from None
    return System(mesh, made, held, T, stiffness, masters, factor, time.perf_counter() - start)


def _unknowns(mesh: Mesh, held: Restraints, plane: list[tuple[int, int]]) -> tuple[Ints, dict[int, Array], Ints]:
    """Number of each node's five free unknowns (-1: nil), nodes with a transformation, and columns' unknowns."""
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
    return number.astype(np.int64), nodal, masters.astype(np.int64)


def _transformation(number: Ints, turn: Array, m: int) -> sp.csr_matrix:
    n = len(number)
    rows = np.broadcast_to(np.arange(5 * n).reshape(n, 5, 1), (n, 5, 5))
    columns = np.broadcast_to(number[:, None, :], (n, 5, 5))
    keep = (columns >= 0) & (turn != 0)
    return sp.csr_matrix((turn[keep], (rows[keep], columns[keep])), shape=(5 * n, m))


def with_lifted(system: System, ignore: npt.NDArray[np.bool_]) -> System:
    """The same floor with the marked springs (k,) taken out."""
    return assemble(system.mesh, system.families, system.held, ignore)
