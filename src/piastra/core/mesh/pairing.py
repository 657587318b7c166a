"""Triangles paired into quadrilaterals: what a face gets where recombination by the mesher folds it or leaves slivers."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.mesh.quality import angles

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

FLAT = 3.0
"""A triangle with an angle below this (degrees) is a sliver: three nodes of an edge that is straight but for rounding."""
LEAST, GREATEST = 40.0, 145.0
"""Angles (degrees) between which those of a quadrilateral must lie for two triangles to become one."""


def without_slivers(xy: Array, tris: Ints) -> Ints:
    """The triangulation (t, 3) with each flat triangle's long side flipped into the triangle behind it, anticlockwise.

    Source: edge flipping (Lawson 1977). Each flip is made where both new triangles turn the right way and the lesser of
    their angles is the greater one, so it ends.
    """
    tris = tris.copy()
    for _ in range(len(tris)):
        least = angles(xy, tris).min(axis=1)
        flat = np.flatnonzero(least < FLAT)
        if not len(flat) or not any(_flip(xy, tris, int(t), float(least[t])) for t in flat[np.argsort(least[flat])]):
            return tris
    return tris


def _flip(xy: Array, tris: Ints, t: int, least: float) -> bool:
    a, b, c = tris[t]
    sides = ((a, b, c), (b, c, a), (c, a, b))
    # From p over its far corner r to q: the long side p q is opposite of r.
    p, q, r = max(sides, key=lambda s: np.hypot(*(xy[s[0]] - xy[s[1]])))
    behind = np.flatnonzero((tris == p).any(axis=1) & (tris == q).any(axis=1))
    behind = behind[behind != t]
    if len(behind) != 1:
        return False
    n = int(behind[0])
    (d,) = set(tris[n].tolist()) - {int(p), int(q)}
    new = np.array([[p, d, r], [d, q, r]])
    corners = xy[new]
    e, f = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    if ((e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]) <= 0).any() or angles(xy, new).min() <= least:
        return False
    tris[t], tris[n] = new
    return True


def paired(xy: Array, tris: Ints) -> tuple[Ints, Ints]:
    """Quadrilaterals (q, 4) and the triangles (r, 3) that are left, out of anticlockwise triangles (t, 3) of one face.

    Neighbours are joined, the squarest pair first. Triangles that do not fold give quadrilaterals that do not.
    """
    count = len(tris)
    sides = np.concatenate([tris[:, [k, (k + 1) % 3]] for k in range(3)])
    owner, far = np.tile(np.arange(count), 3), np.concatenate([tris[:, (k + 2) % 3] for k in range(3)])
    order = np.lexsort(np.sort(sides, axis=1).T)
    sides, owner, far = sides[order], owner[order], far[order]
    key = np.sort(sides, axis=1)
    first = np.flatnonzero((key[1:] == key[:-1]).all(axis=1))
    # Round the pair: the first triangle's far corner, its side, and between its ends the second one's far corner.
    quads = np.column_stack([far[first], sides[first, 0], far[first + 1], sides[first, 1]])
    corner = angles(xy, quads) if len(quads) else np.zeros((0, 4))
    good = (corner.min(axis=1) > LEAST) & (corner.max(axis=1) < GREATEST) if len(quads) else np.zeros(0, dtype=bool)
    skew = np.abs(corner - 90.0).max(axis=1) if len(quads) else np.zeros(0)
    free = np.ones(count, dtype=bool)
    made = []
    for k in np.flatnonzero(good)[np.argsort(skew[good], kind="stable")]:
        one, two = owner[first[k]], owner[first[k] + 1]
        if free[one] and free[two]:
            free[[one, two]] = False
            made.append(quads[k])
    return np.array(made, dtype=np.int64).reshape(-1, 4), tris[free]
