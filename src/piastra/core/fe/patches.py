"""Quadratics fitted to section forces in the middles of the elements around a place: its moments, and their slopes."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.spatial import cKDTree

from piastra.core.fe.neighbours import Neighbours

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

PATCH = 12
"""Elements of a patch, for a quadratic with six coefficients."""
FEWEST = 9
"""Elements below which no quadratic is fitted."""
RINGS = 3
"""How many elements a patch reaches away from its place; at corners, where this gives too few, two more."""
POOR = 1e-3
"""Least eigenvalue of a fit's equations, with lengths in units of the patch, below which it is not used: all elements in
a row, for one."""
STEEP = 20.0
"""Greatest sum of the weights' magnitudes of a slope, times the patch's radius, with which a fit gives slopes: at a straight edge it is 15. Where concrete
is an element or two wide, patches reach round its ends, and what is there would tell the slope across it."""
AT_ONCE = 4096
"""Places that are fitted at once: what is needed on the way there stays in the processor's cache, and is not had for all at a time."""
ROUND = 2.0
"""Where a column's axis or a point support is nearer than so many radii of the patch, the fit is made in coordinates
around it, in which moments that fall with the logarithm of the distance are smooth."""


@dataclass(frozen=True, slots=True)
class Fits:
    """Fits at ``p`` places to values in the middles of ``e`` elements.

    Places with a fit in the plan's axes: ``value``, ``by_x``, ``by_y`` (p, e) give a quantity and its derivatives. Places
    with a fit around a point, ``round`` (k,): from the components of a symmetric tensor in the elements ``near`` (n,), all xx first, ``tensor``
    (3 k, 3 n) gives its xx, yy, xy and ``divergence`` (2 k, 3 n) its divergence. ``leaning`` (p,) is the sum of the
    weights' magnitudes in ``value``, infinite where nothing is fitted, ``steepness`` (p,) the greater one of the two slopes' times the patch's
    ``radius`` (p,) m.
    """

    value: sp.csr_matrix
    by_x: sp.csr_matrix
    by_y: sp.csr_matrix
    round: Ints
    near: Ints
    tensor: sp.csr_matrix
    divergence: sp.csr_matrix
    leaning: Array
    steepness: Array
    radius: Array

    def slopes_of(self, forces: Array) -> Array:
        """Divergence (p, 2, r) of the tensor ``forces`` (e, 3, r); nil where nothing is fitted."""
        out = _of_rows(self.by_x, forces[:, (0, 2)])
        out += _of_rows(self.by_y, forces[:, (2, 1)])
        if len(self.round):
            out[self.round] = self._around(self.divergence, forces)
        return out

    def values_of(self, forces: Array) -> Array:
        """The ``forces`` (e, 8, r), whose first two threes of rows are tensors, at the places, (p, 8, r); nil where nothing is fitted, as are the last
        two rows where the fit is around a point."""
        out = _of_rows(self.value, forces)
        if len(self.round):
            for rows in (slice(0, 3), slice(3, 6)):
                out[self.round, rows] = self._around(self.tensor, forces[:, rows])
        return out

    def _around(self, operator: sp.csr_matrix, forces: Array) -> Array:
        r, rows = forces.shape[2], operator.shape[0] // len(self.round)
        stacked = forces[self.near].transpose(1, 0, 2).reshape(3 * len(self.near), r)
        return np.asarray(operator @ stacked).reshape(rows, len(self.round), r).transpose(1, 0, 2)


def _of_rows(operator: sp.csr_matrix, values: Array) -> Array:
    """The ``operator`` (p, e) on values (e, k, r): (p, k, r). All of an element's lie together, so that nothing is copied for the product."""
    count, k, r = values.shape
    return np.asarray(operator @ values.reshape(count, k * r)).reshape(operator.shape[0], k, r)


@dataclass(frozen=True, slots=True)
class _Patches:
    """Fits at some places that follow one another: ``coefficient`` (n, 3) of value and slopes by each ``element`` (n,) of those in the plan's axes, so many
    of each place as ``count`` (p,) tells. The fits around a point are those of the places ``turned`` (k,): with ``coefficient_around`` (k, 3, m) of the
    elements ``element_around`` (k, m) where ``there`` (k, m), which are seen from the point at ``turn`` (k, m) rad, as the place is at ``home`` (k,) rad,
    ``arm`` (k,) m away."""

    coefficient: Array
    element: Ints
    count: Ints
    leaning: Array
    steepness: Array
    radius: Array
    turned: Ints
    coefficient_around: Array
    element_around: Ints
    there: Bools
    turn: Array
    home: Array
    arm: Array


def fits(at: Array, own: sp.csr_matrix, centres: Array, found: Neighbours, points: Array) -> Fits:
    """Fits at places ``at`` (p, 2) m with the elements ``own`` (p, e) around each.

    ``centres`` (e, 2) m; ``found`` the elements that a patch may go over from one to the other, so that none reaches
    across a support or into another section; ``points`` (s, 2) m that hold the floor. Source: superconvergent patch
    recovery (Zienkiewicz and Zhu 1992).
    """
    step = _step(found, own.shape[1])
    tree = cKDTree(points) if len(points) else None
    some = [slice(start, start + AT_ONCE) for start in range(0, max(len(at), 1), AT_ONCE)]
    made = [_patches(at[its], own[its], centres, step, tree) for its in some]
    coefficient, element, count, leaning, steepness, radius, _, *around = (
        np.concatenate(parts) for parts in zip(*([getattr(m, f.name) for f in fields(_Patches)] for m in made), strict=True)
    )
    indptr = np.concatenate([[0], np.cumsum(count)])
    value, by_x, by_y = (
        sp.csr_matrix((np.ascontiguousarray(coefficient[:, k]), element, indptr), shape=(len(at), len(centres))) for k in range(3)
    )
    turned = np.concatenate([m.turned + its.start for m, its in zip(made, some, strict=True)])
    coefficient, element, there, turn, home, arm = around
    near_ones, its_near = np.unique(element, return_inverse=True)
    tensor, divergence = _around(coefficient, its_near.reshape(element.shape), there, turn, home, arm, len(near_ones))
    return Fits(value, by_x, by_y, turned, near_ones, tensor, divergence, leaning, steepness, radius)


def _patches(at: Array, own: sp.csr_matrix, centres: Array, step: sp.csr_matrix, points: cKDTree | None) -> _Patches:
    row, column = _reached(own, step)
    dx, dy = centres[:, 0][column] - at[:, 0][row], centres[:, 1][column] - at[:, 1][row]
    distance = np.sqrt(dx * dx + dy * dy)
    # The patch's radius where it is round: a circle around the mean of its nearest elements.
    index, weight = _ranked(row, distance, len(at))
    radius = np.where(weight, distance[index], 0.0).max(axis=1)
    around, axis = np.zeros(len(at), dtype=bool), np.zeros_like(at)
    if points is not None:
        gap, near = points.query(at)
        axis = points.data[near]
        around = (gap > 1e-6) & (gap < ROUND * radius)
    arm, turn = np.ones(len(at)), np.zeros(len(row))
    if around.any():
        of = np.flatnonzero(around[row])
        arm[around] = np.hypot(*(at - axis)[around].T)
        home_x, home_y = (at - axis)[row[of]].T
        far_x, far_y = home_x + dx[of], home_y + dy[of]
        # In place of offsets along x and y those by the logarithm of the distance from the axis, and by the angle around it.
        dx[of] = np.log(np.maximum(np.sqrt(far_x * far_x + far_y * far_y), 1e-9) / arm[row[of]])
        dy[of] = np.arctan2(home_x * far_y - home_y * far_x, home_x * far_x + home_y * far_y)
        turn[of] = np.arctan2(far_y, far_x)
        distance[of] = np.sqrt(dx[of] * dx[of] + dy[of] * dy[of])
        again = np.flatnonzero(around)
        number = np.cumsum(around) - 1
        near, weight[again] = _ranked(number[row[of]], distance[of], len(again))
        index[again] = of[near]
    pick = np.where(weight, index, 0)
    scale = np.where(weight, distance[pick], 0.0).max(axis=1)
    scale[scale == 0] = 1.0
    x, y = dx[pick] / scale[:, None], dy[pick] / scale[:, None]
    # One polynomial a row, so that the equations are products of matrices: (p, 6, k).
    basis = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=1) * weight[:, None]
    good, inverse = _inverses(basis @ basis.transpose(0, 2, 1), weight.sum(axis=1) >= FEWEST)
    coefficient = np.zeros((len(at), 3, weight.shape[1]))
    coefficient[good] = inverse[:, :3] @ basis[good]
    coefficient[:, 1:] /= scale[:, None, None]
    leaning = np.where(good, np.abs(coefficient[:, 0]).sum(axis=1), np.inf)
    steepness = np.where(good, (np.abs(coefficient[:, 1:]).sum(axis=2) * scale[:, None]).max(axis=1), np.inf)
    element = column[pick]
    keep = (good & ~around)[:, None] & weight
    turned = np.flatnonzero(good & around)
    home = np.arctan2(*(at - axis)[turned].T[::-1])
    return _Patches(
        coefficient.transpose(0, 2, 1)[keep], element[keep], keep.sum(axis=1), leaning, steepness, radius,
        turned, coefficient[turned], element[turned], weight[turned], turn[pick[turned]], home, arm[turned],
    )  # fmt: skip


def _step(found: Neighbours, e: int) -> sp.csr_matrix:
    """Which of e elements (e, e) a patch goes over to from each, and itself."""
    a, b = found.pairs.T
    step = sp.coo_matrix((np.ones(2 * len(a), dtype=np.float32), (np.r_[a, b], np.r_[b, a])), shape=(e, e)).tocsr()
    return (step + sp.identity(e, dtype=np.float32, format="csr")).tocsr()


def _reached(own: sp.csr_matrix, step: sp.csr_matrix) -> tuple[Ints, Ints]:
    """Places and elements that a patch may hold, pair by pair, place after place."""

    def grown(reach: sp.csr_matrix, rings: int) -> sp.csr_matrix:
        for _ in range(rings):
            reach = (reach @ step).tocsr()
            reach.data[:] = 1.0
        return reach

    reach = grown(own.astype(np.float32).tocsr(), RINGS)
    is_few = np.diff(reach.indptr) < 2 * PATCH
    few, enough = np.flatnonzero(is_few), np.flatnonzero(~is_few)
    more = grown(reach[few], 2)
    kept = reach[enough]
    row = np.concatenate([np.repeat(enough, np.diff(kept.indptr)), np.repeat(few, np.diff(more.indptr))])
    order = np.argsort(row, kind="stable")
    return row[order].astype(np.int64), np.concatenate([kept.indices, more.indices])[order].astype(np.int64)


def _ranked(row: Ints, distance: Array, places: int) -> tuple[Ints, Bools]:
    """Of the pairs of each place (``row`` in order) the nearest: their numbers (p, PATCH), and which of these there are."""
    count = np.bincount(row, minlength=places)
    start = np.cumsum(count) - count
    across = np.full((places, max(int(count.max(initial=0)), PATCH)), np.inf)
    across[row, np.arange(len(row)) - start[row]] = distance
    nearest = np.argpartition(across, PATCH - 1, axis=1)[:, :PATCH]
    there = np.isfinite(np.take_along_axis(across, nearest, axis=1))
    return np.where(there, start[:, None] + nearest, 0), there


def _inverses(normal: Array, enough: Bools) -> tuple[Bools, Array]:
    """Where (p,) a fit's equations (p, 6, 6) can be used, of those with elements ``enough``, and the inverses there."""
    used = np.flatnonzero(enough)

    def least(some: Ints) -> Array:
        return np.asarray(np.linalg.eigvalsh(normal[some])[:, 0])

    good: Bools = np.zeros(len(normal), dtype=np.bool_)
    try:
        inverse = np.linalg.inv(normal[used])
    except np.linalg.LinAlgError:
        # One of them is quite singular: elements in a row.
        good[used] = least(used) > POOR
        return good, np.asarray(np.linalg.inv(normal[good]))
    # The least eigenvalue is at least one over the inverse's norm: where that settles it, it need not be found.
    doubtful = np.flatnonzero(~(np.linalg.norm(inverse, axis=(1, 2)) < 1.0 / POOR))
    fine = np.ones(len(used), dtype=bool)
    fine[doubtful] = least(used[doubtful]) > POOR
    good[used[fine]] = True
    return good, np.asarray(inverse[fine])


def _around(
    coefficient: Array, element: Ints, there: Bools, turn: Array, home: Array, arm: Array, elements: int
) -> tuple[sp.csr_matrix, sp.csr_matrix]:
    """Operators of fits around a point: ``coefficient`` (k, 3, n) for value and slopes by the logarithm of the distance and
    by the angle, ``turn`` (k, n) rad the direction of each element seen from it, ``home`` (k,) rad that of the place,
    ``arm`` (k,) m the place's distance."""
    k = len(home)
    c, s = np.cos(turn), np.sin(turn)
    # Components along and across the arm of each element, from xx, yy, xy: (k, n, 3 polar, 3 plan).
    polar = np.stack([np.stack([c * c, s * s, 2 * c * s], -1), np.stack([s * s, c * c, -2 * c * s], -1),
                      np.stack([-c * s, c * s, c * c - s * s], -1)], -2)  # fmt: skip
    value, by_log, by_angle = (coefficient[:, i, :, None, None] * polar for i in range(3))
    rr, tt, rt = value[:, :, 0], value[:, :, 1], value[:, :, 2]
    along = (by_log[:, :, 0] + rr - tt + by_angle[:, :, 2]) / arm[:, None, None]
    across = (by_log[:, :, 2] + 2 * rt + by_angle[:, :, 1]) / arm[:, None, None]
    c, s = np.cos(home)[:, None, None], np.sin(home)[:, None, None]
    plan = [c * c * rr + s * s * tt - 2 * c * s * rt, s * s * rr + c * c * tt + 2 * c * s * rt,
            c * s * (rr - tt) + (c * c - s * s) * rt]  # fmt: skip
    slopes = [c * along - s * across, s * along + c * across]

    # Rows have their entries side by side: those of an element, then those of the next.
    keep = np.broadcast_to(there[:, :, None], (*there.shape, 3))
    columns, counts = (element[:, :, None] + elements * np.arange(3))[keep], 3 * there.sum(axis=1)

    def operator(blocks: list[Array]) -> sp.csr_matrix:
        begins = np.concatenate([[0], np.cumsum(np.tile(counts, len(blocks)))])
        data = np.concatenate([b[keep] for b in blocks])
        return sp.csr_matrix((data, np.tile(columns, len(blocks)), begins), shape=(len(blocks) * k, 3 * elements))

    return operator(plan), operator(slopes)
