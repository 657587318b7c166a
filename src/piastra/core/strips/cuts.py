"""Forces integrated across strips. A cut may lie anywhere in the mesh."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.recovery import Places
from piastra.core.mesh.locate import Elements, find, weights
from piastra.core.strips.layout import Layout, stations

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Samples:
    """Points at which cuts are sampled: ``xy`` (k, 2) m, the ``cut`` and the ``length`` (m) of each, and
    ``spread`` (k, p) from places to samples."""

    xy: Array
    cut: Ints
    length: Array
    element: Ints
    spread: sp.csr_matrix


@dataclass(frozen=True, slots=True)
class Cuts:
    """Every station of every strip, c in all.

    ``strip`` (c,), ``s`` (c,) m along the axis, ``ends`` (c, 2, 2) m on plan, ``angle`` (c,) rad, ``width`` (c,)
    m of concrete, ``h`` (c,) its mean thickness, ``zeta`` (c,) the depth of its centroid below the reference
    plane; ``forces`` (c, 4, r): moment about that centroid (kNm, sagging positive), twisting moment (kNm), shear
    (kN) and axial force (kN, tension positive) of each unit load.
    """

    strip: Ints
    s: Array
    ends: Array
    angle: Array
    width: Array
    h: Array
    zeta: Array
    forces: Array
    samples: Samples


def sample(elements: Elements, kept: Places, ends: Array, step: float) -> Samples:
    """Sample straight cuts with ends (c, 2, 2) m at the middles of pieces no longer than ``step`` m."""
    length = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    count = np.maximum(np.ceil(length / step).astype(np.int64), 4)
    cut = np.repeat(np.arange(len(ends)), count)
    place = np.arange(len(cut)) - np.repeat(np.cumsum(count) - count, count)
    t = ((place + 0.5) / count[cut])[:, None]
    xy = ends[cut, 0] * (1 - t) + ends[cut, 1] * t
    element = find(elements, xy)
    on = element >= 0
    xy, cut, element = xy[on], cut[on], element[on]
    share = weights(elements, element, xy)
    at = kept.of[element]
    rows = np.broadcast_to(np.arange(len(xy))[:, None], at.shape)
    valid = at >= 0
    spread = sp.csr_matrix((share[valid], (rows[valid], at[valid])), shape=(len(xy), len(kept.node)))
    return Samples(xy, cut, (length / count)[cut], element, spread)


def turned(forces: Array, angle: float) -> tuple[Array, Array, Array, Array]:
    """Moment, twist, axial force and shear on a section across a direction, from forces (p, 8, r)."""
    c, s = np.cos(angle), np.sin(angle)
    m = c * c * forces[:, 3] + s * s * forces[:, 4] + 2 * c * s * forces[:, 5]
    t = c * s * (forces[:, 4] - forces[:, 3]) + (c * c - s * s) * forces[:, 5]
    n = c * c * forces[:, 0] + s * s * forces[:, 1] + 2 * c * s * forces[:, 2]
    return m, t, n, c * forces[:, 6] + s * forces[:, 7]


def integrate(samples: Samples, kept: Places, forces: Array, angle: float, count: int) -> tuple[Array, Array, Array, Array]:
    """Width (c,), mean thickness (c,), centroid (c,) and forces (c, 4, r) of cuts across one direction.

    The moment is taken about the centroid of the cut's concrete, so that the axial force of an eccentric drop
    panel or beam is part of it.
    """
    collect = sp.csr_matrix((samples.length, (samples.cut, np.arange(len(samples.cut)))), shape=(count, len(samples.cut)))
    width = np.asarray(collect @ np.ones(len(samples.cut)))
    safe = np.maximum(width, 1e-9)
    h, zeta = samples.spread @ kept.h, samples.spread @ kept.zeta
    area = np.maximum(collect @ h, 1e-9)
    centroid = (collect @ (h * zeta)) / area
    operator = collect @ samples.spread
    m, t, n, v = (operator @ f for f in turned(forces, angle))
    return width, area / safe, centroid, np.stack([m - centroid[:, None] * n, t, v, n], axis=1)


def make_cuts(layout: Layout, elements: Elements, kept: Places, forces: Array, step: float) -> Cuts:
    """Cut every strip at its stations; cuts with no concrete in them are left out."""
    strip, s, ends, angle = [], [], [], []
    for k, one in enumerate(layout.strips):
        axis = layout.axes[one.axis]
        at = stations(one)
        strip.append(np.full(len(at), k))
        s.append(at)
        # A border that lies on the slab's edge is drawn in by a hair, so that its samples fall on concrete.
        left = axis.point(at, one.left)
        right = axis.point(at, one.right)
        ends.append(np.stack([right, left], axis=1))
        angle.append(np.full(len(at), axis.angle))
    if not strip:
        none = np.zeros(0)
        empty = Samples(np.zeros((0, 2)), np.zeros(0, np.int64), none, np.zeros(0, np.int64), sp.csr_matrix((0, len(kept.node))))
        return Cuts(
            np.zeros(0, np.int64), none, np.zeros((0, 2, 2)), none, none, none, none, np.zeros((0, 4, forces.shape[2])), empty
        )
    of, along, where, turn = np.concatenate(strip), np.concatenate(s), np.concatenate(ends), np.concatenate(angle)
    samples = sample(elements, kept, where, step)
    count = len(of)
    width, h, zeta = np.zeros(count), np.zeros(count), np.zeros(count)
    integrated = np.zeros((count, 4, forces.shape[2]))
    for a in np.unique(turn):
        w, t, z, f = integrate(samples, kept, forces, float(a), count)
        mine = turn == a
        width[mine], h[mine], zeta[mine], integrated[mine] = w[mine], t[mine], z[mine], f[mine]
    solid = width > 0.05
    number = np.cumsum(solid) - 1
    kept_samples = solid[samples.cut]
    thin = Samples(
        samples.xy[kept_samples], number[samples.cut[kept_samples]], samples.length[kept_samples],
        samples.element[kept_samples], samples.spread[np.flatnonzero(kept_samples)],
    )  # fmt: skip
    return Cuts(of[solid], along[solid], where[solid], turn[solid], width[solid], h[solid], zeta[solid], integrated[solid], thin)
