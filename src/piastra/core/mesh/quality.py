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


def split_poor_quads(
    xy: Array, quads: Ints, tris: Ints, quad_face: Ints, tri_face: Ints
) -> tuple[Ints, Ints, Ints, Ints]:
    """Cut quadrilaterals with an angle beyond ``GREATEST_QUAD_ANGLE`` from that corner to the opposite one."""
    if not len(quads):
        return quads, tris, quad_face, tri_face
    corner = angles(xy, quads)
    poor = corner.max(axis=1) > GREATEST_QUAD_ANGLE
    if not poor.any():
        return quads, tris, quad_face, tri_face
    start = corner[poor].argmax(axis=1)
    turned = np.take_along_axis(quads[poor], (start[:, None] + np.arange(4)) % 4, axis=1)
    new = np.concatenate([turned[:, [0, 1, 2]], turned[:, [0, 2, 3]]])
    face = np.concatenate([quad_face[poor], quad_face[poor]])
    return quads[~poor], np.concatenate([tris, new]), quad_face[~poor], np.concatenate([tri_face, face])


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
