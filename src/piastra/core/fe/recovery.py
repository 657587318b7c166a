"""Section forces from displacements, averaged at nodes within parts of one section."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

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
    of = np.full((sum(n for n, _ in counts), 4), -1, dtype=np.int64)
    start = row = 0
    for n, c in counts:
        of[row : row + n, :c] = place[start : start + n * c].reshape(n, c)
        start, row = start + n * c, row + n
    return Places(of, corner_node[first], part[element[first]], zeta[element[first]], h[element[first]], mean)


def section_forces(system: System, kept: Places, u: Array) -> Array:
    """Section forces (p, 8, r) at the places, about the reference plane, for displacements ``u`` (n, 5, r).

    Rows as ``FORCES``: kN/m, kNm/m; sagging positive.
    """
    at_corners = []
    for family in system.families:
        operator = family.operators.forces()
        e, c, rows, unknowns = operator.shape
        local = u[family.nodes].reshape(e, unknowns, -1)
        values = operator.reshape(e, c * rows, unknowns) @ local
        at_corners.append(values.reshape(e * c, -1))
    flat = kept.mean @ np.concatenate(at_corners)
    return np.asarray(flat).reshape(len(kept.node), 8, -1)


def about_own_plane(kept: Places, forces: Array) -> Array:
    """The same forces with moments about each section's own middle plane, (p, 8, r)."""
    out = forces.copy()
    out[:, 3:6] -= kept.zeta[:, None, None] * forces[:, :3]
    return out
