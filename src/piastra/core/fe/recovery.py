"""Section forces from displacements, averaged at nodes within parts of one section."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.spatial import cKDTree

from piastra.core.fe.system import System

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

FORCES = ("n_x", "n_y", "n_xy", "m_x", "m_y", "m_xy", "v_x", "v_y")


@dataclass(frozen=True, slots=True)
class Places:
    """Where section forces are kept: one place for each node and part of one section.

    ``of`` (e, 4) the places of each element's corners (-1 for a triangle's fourth), elements as in
    :class:`piastra.core.mesh.locate.Elements`; ``node`` (p,) and ``part`` (p,) of each place; ``zeta`` (p,) m
    the depth of its section's middle plane below the reference plane, ``h`` (p,) m; ``mean`` (p, corners) the
    averaging matrix over all elements' corners.
    """

    of: Ints
    node: Ints
    part: Ints
    zeta: Array
    h: Array
    mean: sp.csr_matrix


def places(system: System, part: Ints, zeta: Array, h: Array) -> Places:
    """Places for elements of the given ``part`` (e,), with ``zeta`` (e,) and ``h`` (e,)."""
    corner_node = np.concatenate([f.nodes.ravel() for f in system.families])
    counts = [f.nodes.shape for f in system.families]
    element = np.concatenate(
        [
            np.repeat(np.arange(n) + start, c)
            for (n, c), start in zip(counts, np.cumsum([0] + [n for n, _ in counts])[:-1], strict=True)
        ]
    )
    key = part[element] * (corner_node.max() + 1) + corner_node
    _, first, place = np.unique(key, return_index=True, return_inverse=True)
    place = place.ravel()
    count = np.bincount(place)
    mean = sp.csr_matrix((1.0 / count[place], (place, np.arange(len(place)))), shape=(len(first), len(place)))
    centres = np.concatenate([system.mesh.xy[f.nodes].mean(axis=1) for f in system.families])
    held = system.mesh.xy[_supported(system)]
    mean = _patched(mean, system.mesh.xy[corner_node[first]], part[element[first]], centres, part, element, held)
    of = np.full((sum(n for n, _ in counts), 4), -1, dtype=np.int64)
    start = row = 0
    for n, c in counts:
        of[row : row + n, :c] = place[start : start + n * c].reshape(n, c)
        start, row = start + n * c, row + n
    return Places(of, corner_node[first], part[element[first]], zeta[element[first]], h[element[first]], mean)


def _supported(system: System) -> Ints:
    """Nodes of columns, walls, point and line supports; beddings leave no kink."""
    held = system.held
    node, owner, _, _ = held.springs()
    nodes = [n for n, _, _ in held.fixed] + [c[0] for c in held.clamped]
    nodes += [int(n) for n, o in zip(node, owner, strict=True) if o not in held.beds]
    return np.unique(np.concatenate([np.array(nodes, dtype=np.int64), *held.slaves]))


PATCH = 12
"""Elements of a patch, for a quadratic with six coefficients."""
LEANING = 1.7
"""Where a patch lies so much to one side that its weights' magnitudes add up to more, corners are averaged instead."""


def _patched(
    mean: sp.csr_matrix, at: Array, part: Ints, centres: Array, parts: Ints, element: Ints, held: Array
) -> sp.csr_matrix:
    """Replace averages by the value of a quadratic fitted to the middles of the nearest elements of the same part.

    ``mean`` (p, corners), ``at`` (p, 2) and ``part`` (p,) the places; ``centres`` (e, 2), ``parts`` (e,);
    ``element`` (corners,) the element of each corner. Moments have a
    kink over supports, whose nodes lie at ``held`` (h, 2): a patch that reaches one is not used. Source: superconvergent patch recovery (Zienkiewicz and Zhu 1992).
    """
    to_support = cKDTree(held).query(at)[0] if len(held) else np.full(len(at), np.inf)
    rows, columns, values = [], [], []
    for one in np.unique(part):
        mine, its = np.flatnonzero(part == one), np.flatnonzero(parts == one)
        if len(its) < 2 * PATCH:
            continue
        far, near = cKDTree(centres[its]).query(at[mine], k=PATCH)
        d = (centres[its][near] - at[mine][:, None]) / far[:, -1:, None]
        x, y = d[..., 0], d[..., 1]
        basis = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)
        normal = np.einsum("pka,pkb->pab", basis, basis) + 1e-9 * np.eye(6)
        weight = np.einsum(
            "pka,pa->pk", basis, np.linalg.solve(normal, np.broadcast_to(np.eye(6)[0], (len(mine), 6))[..., None])[..., 0]
        )
        good = (np.abs(weight).sum(axis=1) <= LEANING) & (to_support[mine] > far[:, -1])
        rows.append(np.repeat(mine[good], PATCH))
        columns.append(its[near[good]].ravel())
        values.append(weight[good].ravel())
    if not rows:
        return mean
    row = np.concatenate(rows)
    count = np.bincount(element)
    middle = sp.csr_matrix((1.0 / count[element], (element, np.arange(len(element)))), shape=(len(count), len(element)))
    fitted = sp.csr_matrix((np.concatenate(values), (row, np.concatenate(columns))), shape=(len(at), len(count))) @ middle
    keep = np.ones(len(at))
    keep[row] = 0.0
    return (sp.diags(keep) @ mean + fitted).tocsr()


def section_forces(system: System, kept: Places, u: Array) -> Array:
    """Section forces (p, 8, r) at the places, about the reference plane, for displacements ``u`` (n, 5, r).

    Rows as ``FORCES``: kN/m, kNm/m; sagging positive.
    """
    return forces_of(system, kept, u)[0]


def forces_of(system: System, kept: Places, u: Array) -> tuple[Array, Array]:
    """Section forces at the places (p, 8, r) as :func:`section_forces`, and the mean of each element's own corners
    (e, 8, r), not averaged with its neighbours."""
    at_corners, own = [], []
    for family in system.families:
        operator = family.operators.forces()
        e, c, rows, unknowns = operator.shape
        local = u[family.nodes].reshape(e, unknowns, -1)
        values = operator.reshape(e, c * rows, unknowns) @ local
        at_corners.append(values.reshape(e * c, -1))
        own.append(values.reshape(e, c, rows, -1).mean(axis=1))
    flat = kept.mean @ np.concatenate(at_corners)
    return np.asarray(flat).reshape(len(kept.node), 8, -1), np.concatenate(own)


def about_own_plane(kept: Places, forces: Array) -> Array:
    """The same forces with moments about each section's own middle plane, (p, 8, r)."""
    out = forces.copy()
    out[:, 3:6] -= kept.zeta[:, None, None] * forces[:, :3]
    return out
