"""How good a mesh is, and the repair of quadrilaterals that are too far from square."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

GREATEST_QUAD_ANGLE = 155.0
"""A quadrilateral with an interior angle beyond this (degrees) is cut into two triangles."""


@dataclass(frozen=True, slots=True)
class Quality:
    """Quality of a mesh: least interior angle (degrees) and its place (m), mean of the elements' least angles,
    greatest ratio of longest to shortest side, and counts."""

    least_angle_deg: float
    least_at: tuple[float, float]
    mean_least_angle_deg: float
    greatest_aspect: float
    quads: int
    tris: int


def angles(xy: Array, elements: Ints) -> Array:
    """Interior angles in degrees, shape (e, corners), of anticlockwise elements."""
    p = xy[elements]
    after = np.roll(p, -1, axis=1) - p
    before = np.roll(p, 1, axis=1) - p
    turn = np.arctan2(after[..., 0] * before[..., 1] - after[..., 1] * before[..., 0], (after * before).sum(axis=-1))
    return np.degrees(np.where(turn < 0, turn + 2 * np.pi, turn))


def split_poor_quads(xy: Array, quads: Ints, tris: Ints) -> tuple[Ints, Ints]:
    """Cut quadrilaterals with an angle beyond ``GREATEST_QUAD_ANGLE`` from that corner to the opposite one."""
    if not len(quads):
        return quads, tris
    corner = angles(xy, quads)
    poor = corner.max(axis=1) > GREATEST_QUAD_ANGLE
    start = corner[poor].argmax(axis=1)
    turned = np.take_along_axis(quads[poor], (start[:, None] + np.arange(4)) % 4, axis=1)
    return quads[~poor], np.concatenate([tris, turned[:, [0, 1, 2]], turned[:, [0, 2, 3]]])


def assess(xy: Array, quads: Ints, tris: Ints) -> Quality:
    """Measure a mesh."""
    least, at, aspect = [], [], []
    for elements in (quads, tris):
        if not len(elements):
            continue
        p = xy[elements]
        side = np.hypot(*(np.roll(p, -1, axis=1) - p).transpose(2, 0, 1))
        least.append(angles(xy, elements).min(axis=1))
        at.append(p.mean(axis=1))
        aspect.append(side.max(axis=1) / side.min(axis=1))
    angle, place = np.concatenate(least), np.concatenate(at)
    worst = int(angle.argmin())
    return Quality(
        float(angle[worst]), (float(place[worst, 0]), float(place[worst, 1])), float(angle.mean()),
        float(np.concatenate(aspect).max()), len(quads), len(tris),
    )  # fmt: skip


def _least_around(xy: Array, quads: Ints, tris: Ints) -> Array:
    """Least angle (degrees) of the elements around each node, (n,); negative where one is folded over."""
    least = np.full(len(xy), 180.0)
    for elements in (quads, tris):
        if len(elements):
            corner = angles(xy, elements)
            # A concave or folded corner shows as an angle beyond 180.
            worst = np.where(corner.max(axis=1) >= 178.0, -1.0, corner.min(axis=1))
            np.minimum.at(least, elements, worst[:, None])
    return least


def smooth(xy: Array, quads: Ints, tris: Ints, free: npt.NDArray[np.bool_], rounds: int = 6) -> Array:
    """Move free nodes (n,) with poor angles around them towards the mean of their neighbours, where that helps.

    Source: Laplacian smoothing, accepted node by node when the least angle around it grows.
    """
    pairs = [np.column_stack([e.ravel(), np.roll(e, s, axis=1).ravel()]) for e in (quads, tris) if len(e) for s in (1, -1)]
    a, b = np.concatenate(pairs).T
    count = np.maximum(np.bincount(a, minlength=len(xy)), 1)[:, None]
    before = _least_around(xy, quads, tris)
    for r in range(rounds):
        mean = np.zeros_like(xy)
        np.add.at(mean, a, xy[b])
        moved = free & (before < 40.0)
        # Neighbours that move together can spoil each other; every round moves another third of them.
        moved &= np.arange(len(xy)) % 3 == r % 3
        trial = np.where(moved[:, None], mean / count, xy)
        after = _least_around(trial, quads, tris)
        better = moved & (after > before)
        xy = np.where(better[:, None], trial, xy)
        before = _least_around(xy, quads, tris)
    return xy
