"""Shear at the faces of columns, where no moments are smooth enough to be differentiated."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.neighbours import Corners

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

LEAST = 0.05
"""Share of the greatest below which a variation around a column counts as not seen by its faces: at a corner column, say."""


@dataclass(frozen=True, slots=True)
class Faces:
    """Places on the faces of columns and next to them.

    ``corner`` (k,): corners of elements beside a footprint that lie on it. ``places`` (s,) are those whose shear is given
    by ``radial`` (s, k), away from the column's axis in the direction ``out`` (s, 2), from the vertical forces at these
    corners, and by ``same`` and ``turned`` (s, p) from the shear at places further away.
    """

    corner: Ints
    places: Ints
    out: Array
    radial: sp.csr_matrix
    same: sp.csr_matrix
    turned: sp.csr_matrix

    def into(self, shear: Array, nodal: Array) -> None:
        """Put the shear at these places into ``shear`` (p, 2, r), given the vertical forces ``nodal`` (k, r) with which the
        elements are held at ``corner``."""
        x, y = shear[:, 0], shear[:, 1]
        away = -self.out[:, :, None] * np.asarray(self.radial @ nodal)[:, None]
        shear[self.places] = away + np.stack([self.same @ x - self.turned @ y, self.turned @ x + self.same @ y], axis=1)


def faces_of(
    xy: Array, families: Sequence[Ints], corners: Corners, place: Ints, node: Ints, footprints: Sequence[Ints], axes: Array
) -> Faces:
    """Places at the faces of ``footprints`` (nodes of each) with the columns' axes at ``axes`` (c, 2) m.

    ``place`` (corners,) of each corner, ``node`` (p,) of each place. The force that passes from the elements beside a
    footprint into it is that of the column, whatever the mesh (consistent boundary flux, Carey 1982). Around the axis its
    shear times the distance is taken as ``a + b cos + c sin``, with the sum and the first moments of the nodal forces, so
    that the peaks at corners, which grow as the mesh is refined, are spread. Between the faces and the places where moments
    can be differentiated, the shear times the distance varies linearly.
    """
    owner = np.full(len(xy), -1, dtype=np.int64)
    for c, nodes in enumerate(footprints):
        owner[nodes] = c
    held = owner[corners.node] >= 0
    on_footprint = np.bincount(corners.element, held)
    beside = (on_footprint > 0) & (on_footprint < np.bincount(corners.element))
    corner = np.flatnonzero(beside[corners.element] & held)
    on, row = np.unique(place[corner], return_inverse=True)
    angle = _seen(xy, families, place, node, owner, axes, on)
    seen = angle > 0
    incidence = sp.csr_matrix((np.ones(len(place), dtype=np.int8), (place, corners.element)))
    near, inner, outer = _around(incidence, on, owner[node] >= 0)
    # Next to two columns, the one whose face is nearest counts.
    gap = np.hypot(*(xy[node[on[inner[1]]]] - xy[node[near[inner[0]]]]).T)
    order = np.lexsort([-gap, inner[0]])
    column = np.zeros(len(near), dtype=np.int64)
    column[inner[0][order]] = owner[node[on[inner[1][order]]]]
    to_face = np.full(len(near), np.inf)
    np.minimum.at(to_face, inner[0], gap)

    far = np.hypot(*(xy[node[outer[1]]] - xy[node[near[outer[0]]]]).T)
    weight = far**-2.0
    total = np.bincount(outer[0], weight, minlength=len(near))
    share = weight / total[outer[0]]
    to_outer = np.bincount(outer[0], share * far, minlength=len(near))
    of_face = np.where(total > 0, to_outer / (to_outer + to_face), 1.0)

    places = np.concatenate([on, near])
    its_column = np.concatenate([owner[node[on]], column])
    arm = xy[node[places]] - axes[its_column]
    r = np.maximum(np.hypot(*arm.T), 1e-9)
    theta = np.arctan2(arm[:, 1], arm[:, 0])
    part = np.concatenate([np.ones(len(on)), of_face])
    terms = np.stack([np.ones_like(theta), np.cos(theta), np.sin(theta)], axis=1)
    rows, columns, values = [], [], []
    for c in np.unique(its_column):
        mine, face = np.flatnonzero(its_column == c), np.flatnonzero((owner[node[on]] == c) & seen)
        if len(face):
            basis = terms[face]
            smooth = np.linalg.pinv((basis * angle[face, None]).T @ basis, rcond=LEAST, hermitian=True) @ basis.T
            block = (terms[mine] @ smooth) * (part[mine] / r[mine])[:, None]
            rows.append(np.repeat(mine, len(face)))
            columns.append(np.tile(face, len(mine)))
            values.append(block.ravel())
    gather = sp.csr_matrix((np.ones(len(corner)), (row, np.arange(len(corner)))), shape=(len(on), len(corner)))
    none = [np.zeros(0, dtype=np.int64)]
    by_force = sp.csr_matrix(
        (np.concatenate([np.zeros(0), *values]), (np.concatenate(none + rows), np.concatenate(none + columns))),
        shape=(len(places), len(on)),
    )
    p, q = outer[0] + len(on), outer[1]
    b = xy[node[q]] - axes[its_column[p]]
    share = share * (1.0 - of_face[outer[0]]) * np.hypot(*b.T) / r[p]
    turn = theta[p] - np.arctan2(b[:, 1], b[:, 0])
    shape = (len(places), len(node))
    same, turned = (sp.csr_matrix((share * f(turn), (p, q)), shape=shape) for f in (np.cos, np.sin))
    return Faces(corner, places, arm / r[:, None], (by_force @ gather).tocsr(), same, turned)


def _seen(xy: Array, families: Sequence[Ints], place: Ints, node: Ints, owner: Ints, axes: Array, on: Ints) -> Array:
    """Angle (f,) rad that the faces at each place ``on`` a footprint take up, seen from the column's axis."""
    at = np.full(len(node), -1, dtype=np.int64)
    at[on] = np.arange(len(on))
    angle = np.zeros(len(on))
    start = 0
    for nodes in families:
        count, c = nodes.shape
        its = place[start : start + count * c].reshape(count, c)
        start += count * c
        for k in range(c):
            j = (k + 1) % c
            a, b = nodes[:, k], nodes[:, j]
            face = (owner[a] >= 0) & (owner[a] == owner[b]) & (at[its[:, k]] >= 0) & (at[its[:, j]] >= 0)
            p, q = xy[a[face]] - axes[owner[a[face]]], xy[b[face]] - axes[owner[a[face]]]
            half = np.abs(np.arctan2(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0], (p * q).sum(axis=1))) / 2
            for end in (k, j):
                np.add.at(angle, at[its[face, end]], half)
    return angle


def _around(incidence: sp.csr_matrix, on: Ints, held: npt.NDArray[np.bool_]) -> tuple[Ints, tuple[Ints, Ints], tuple[Ints, Ints]]:
    """Places that share an element with one ``on`` a face; pairs of their number and a face's, and pairs of their number and
    a place beyond."""
    touching = (incidence[on] @ incidence.T).tocoo()
    is_near = np.zeros(incidence.shape[0], dtype=bool)
    is_near[touching.col] = True
    is_near &= ~held
    near = np.flatnonzero(is_near)
    at = np.full(len(held), -1, dtype=np.int64)
    at[on] = np.arange(len(on))
    pairs = (incidence[near] @ incidence.T).tocoo()
    p, q = pairs.row.astype(np.int64), pairs.col.astype(np.int64)
    face, beyond = at[q] >= 0, ~is_near[q] & ~held[q]
    return near, (p[face], at[q[face]]), (p[beyond], q[beyond])
