"""How good a mesh is, and the repair of quadrilaterals that are too far from square."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

GREATEST_QUAD_ANGLE = 155.0
"""A quadrilateral with an interior angle beyond this (degrees) is cut into two triangles."""
OPENED = 35.0
"""A quadrilateral with three corners on a free edge is made two where no angle around them is less than this (degrees)."""


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


def open_flat_quads(xy: Array, quads: Ints, tris: Ints, within: Bools, free: Ints) -> tuple[Array, Ints, Ints]:
    """Make two quadrilaterals of each, or of each two triangles, with three corners on a straight free edge, where that leaves good angles: a mesh (xy,
    quads, tris) with one node more for each. ``within`` (n,): no nodes of the border; ``free`` (k,): nodes of a border where nothing holds the floor.

    Shear along a free edge changes within a part of the thickness, and two triangles there would tell too little of it.
    """
    quads, tris = _joined_on_border(xy, quads, tris, within, free)
    for b in np.intersect1d(_flat_corners(xy, quads)[1], free).tolist():
        # Where another one near it has been made two, it may have a new corner, or be flat no more.
        rows, at = _flat_corners(xy, quads)
        for row in rows[at == b].tolist():
            _, d, c, a = np.roll(quads[row], -int(np.flatnonzero(quads[row] == b)[0])).tolist()
            if within[[a, d]].any() or not within[c]:
                continue
            best = max(_openings(xy, quads, tris, within, row, (a, b, c, d)), key=lambda made: made[0], default=None)
            if best is not None and best[0] >= OPENED:
                _, xy, quads, tris = best
                within = np.append(within, True)
                break
    return xy, quads, tris


def _flat_corners(xy: Array, quads: Ints) -> tuple[Ints, Ints]:
    """The rows (k,) of quadrilaterals with a flat angle, and the nodes (k,) where that is."""
    if not len(quads):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    corner = angles(xy, quads)
    rows = np.flatnonzero(corner.max(axis=1) > GREATEST_QUAD_ANGLE)
    return rows, quads[rows, corner[rows].argmax(axis=1)]


def _joined_on_border(xy: Array, quads: Ints, tris: Ints, within: Bools, free: Ints) -> tuple[Ints, Ints]:
    """Two triangles with a side from one node within to one on a straight free edge, and both others on it, joined."""
    # Each with its corner within first, then along the border.
    inner = within[tris]
    rows = np.flatnonzero(inner.sum(axis=1) == 1)
    c, first, last = (
        np.take_along_axis(tris[rows], (inner[rows].argmax(axis=1)[:, None] + k) % 3, axis=1)[:, 0] for k in range(3)
    )
    one, two = np.nonzero((c[:, None] == c) & (last[:, None] == first) & np.isin(last, free)[:, None])
    joined = np.column_stack([last[one], last[two], c[one], first[one]])
    straight = angles(xy, joined).argmax(axis=1) == 0 if len(joined) else np.zeros(0, dtype=bool)
    straight &= angles(xy, joined).max(axis=1) > GREATEST_QUAD_ANGLE if len(joined) else straight
    kept = np.ones(len(tris), dtype=bool)
    made = []
    for quad, pair in zip(joined[straight], np.column_stack([rows[one], rows[two]])[straight], strict=True):
        if kept[pair].all():
            kept[pair] = False
            made.append(quad)
    return np.concatenate([quads, np.array(made, dtype=np.int64).reshape(-1, 4)]), tris[kept]


def _openings(
    xy: Array, quads: Ints, tris: Ints, within: Bools, at: int, corners: tuple[int, int, int, int]
) -> Iterator[tuple[float, Array, Ints, Ints]]:
    """The meshes that come of one node more in a quadrilateral a, b, d, c (the row ``at``) whose corner b is flat, each with the least angle around.

    Either c is opened along a side that leads from it to another node, which comes to lie opposite b; or the new node comes between b and c, and b's
    neighbours lose their sides to c to it.
    """
    a, b, c, d = corners
    new = len(xy)
    without = np.delete(quads, at, axis=0)
    blocks = {3: tris, 4: without}
    # Around c, anticlockwise from d to a: the element between one side and the next.
    around: dict[int, tuple[int, int, int]] = {}
    for corner, block in blocks.items():
        for row, place in np.argwhere(block == c).tolist():
            around[int(block[row, (place + 1) % corner])] = (corner, row, int(block[row, place - 1]))
    fan = []
    side = d
    while side != a and side in around:
        corner, row, side = around.pop(side)
        fan.append((corner, row, side))
    if side != a or len(fan) < 2:
        return

    def changed(of: list[tuple[int, int, int]], node: int) -> dict[int, Ints]:
        """The elements with the new node for another."""
        made = {corner: block.copy() for corner, block in blocks.items()}
        for corner, row, _ in of:
            made[corner][row] = np.where(made[corner][row] == node, new, made[corner][row])
        return made

    def judged(made: dict[int, Ints], more: list[list[int]], moved: list[int]) -> tuple[float, Array, Ints, Ints]:
        opened, rest = np.concatenate([made[4], more]), made[3]
        here, there = (block[np.isin(block, moved).any(axis=1)] for block in (opened, rest))
        placed = _placed(
            np.concatenate([xy, xy[[b, c]].mean(axis=0)[None]]), here, there, [k for k in moved if k == new or within[k]]
        )
        return float(_least_around(placed, here, there)[moved].min()), placed, opened, rest

    for k, (_, _, far) in enumerate(fan[1:-2], 2):
        yield judged(changed(fan[:k], c), [[a, b, far, c], [b, d, new, far]], [c, new, far])
    (first, last), beside = (fan[0], fan[-1]), []
    for (corner, row, _), node, step in ((first, d, 1), (last, a, -1)):
        element = blocks[corner][row]
        beside.append(int(element[(int(np.flatnonzero(element == node)[0]) + step) % corner]))
    made = changed([first], d)
    corner, row, _ = last
    made[corner][row] = np.where(made[corner][row] == a, new, made[corner][row])
    yield judged(made, [[b, d, beside[0], new], [a, b, new, beside[1]]], [new, c, *beside])


def _placed(xy: Array, quads: Ints, tris: Ints, moved: list[int], rounds: int = 10) -> Array:
    """The nodes with those ``moved`` in the middle of their neighbours."""
    sides = np.concatenate(
        [np.column_stack([e.ravel(), np.roll(e, s, axis=1).ravel()]) for e in (quads, tris) if len(e) for s in (1, -1)]
    )
    beside = [np.unique(sides[sides[:, 0] == k, 1]) for k in moved]
    xy = xy.copy()
    for _ in range(rounds):
        for k, others in zip(moved, beside, strict=True):
            xy[k] = xy[others].mean(axis=0)
    return xy


def split_poor_quads(xy: Array, quads: Ints, tris: Ints) -> tuple[Ints, Ints]:
    """Cut quadrilaterals with an angle beyond ``GREATEST_QUAD_ANGLE`` from that corner to the opposite one."""
    poor, nodes = _flat_corners(xy, quads)
    start = (quads[poor] == nodes[:, None]).argmax(axis=1)
    turned = np.take_along_axis(quads[poor], (start[:, None] + np.arange(4)) % 4, axis=1)
    return np.delete(quads, poor, axis=0), np.concatenate([tris, turned[:, [0, 1, 2]], turned[:, [0, 2, 3]]])


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


def smooth(xy: Array, quads: Ints, tris: Ints, free: Bools, rounds: int = 6) -> Array:
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
