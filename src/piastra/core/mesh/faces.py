"""Faces of a plan meshed one by one. A face's mesh follows from the nodes on its border and the sizes within it, so that an edit meshes the faces
that it changes: all others are as they would come out again."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import gmsh
import numpy as np
import numpy.typing as npt

from piastra.core.mesh.edges import Border, from_there, hashed, near
from piastra.core.mesh.pairing import FLAT, paired, without_slivers
from piastra.core.mesh.plan import Linework
from piastra.core.mesh.quality import angles, open_flat_quads, smooth, split_poor_quads
from piastra.core.mesh.sizes import ALGORITHM, Sizes, tell

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ALGORITHMS = (ALGORITHM, 6, 5)
"""Gmsh's numbers of surface algorithms, tried in this order: frontal for quadrilaterals, frontal, Delaunay."""
TRIANGLES = 5
"""The algorithm of the last rung."""
UNEVEN = 1e-9
"""How far (element sizes) the nodes around a face are shown to Gmsh from where they are, so that no two of its triangles are alike."""
POOR = 20.0
"""Below this least angle (degrees) of a face's elements the next algorithm is tried."""


class SpoiltError(ValueError):
    """A face that could not be meshed, by a point in it (m)."""

    def __init__(self, at: Array) -> None:
        super().__init__(f"near ({at[0]:.2f}, {at[1]:.2f})")


@dataclass(frozen=True, slots=True)
class FaceMesh:
    """The mesh of one face: ``inside`` (i, 2) m the nodes within it, from the first one on its border on; ``quads`` (q, 4) and ``tris`` (t, 3)
    number the nodes on the face's border first, in their order there, and those inside after them, anticlockwise."""

    inside: Array
    quads: Ints
    tris: Ints


def keys(plan: Linework, sizes: Sizes, edge: Border) -> tuple[list[bytes], list[Array]]:
    """What the mesh of each face follows from, hashed: two faces of one key are meshed alike to the last bit. And the places that matter to each."""
    parts = plan.parts
    about = near(list(parts.polygons), edge.xy[[row[0] for row in edge.around]], sizes.finer, plan.size)
    found = []
    for f, loose in enumerate(parts.loose):
        number = _numbers(edge, f)
        found.append(
            hashed(
                np.array([plan.size]), np.array(_corners(plan, sizes, edge, f), dtype=np.int64), about[f], _seen(edge, f),
                _free(sizes, edge, f),
                *(number[ring] for ring in edge.rings[f]), *(number[edge.paths[e]] for e in loose), number[edge.embedded[f]],
            )
        )  # fmt: skip
    return found, about


def _numbers(edge: Border, face: int) -> Ints:
    """A face's own numbers of the nodes around it."""
    number = np.full(len(edge.xy), -1, dtype=np.int64)
    number[edge.around[face]] = np.arange(len(edge.around[face]))
    return number


def _corners(plan: Linework, sizes: Sizes, edge: Border, face: int) -> list[int]:
    """The four nodes at the corners of a face that is meshed in rows, by its own numbers, or none."""
    if face not in sizes.rows:
        return []
    ends = [edge.paths[e][0 if way > 0 else -1] for e, way in plan.parts.rings[face][0]]
    return sorted(_numbers(edge, face)[ends].tolist())


def _free(sizes: Sizes, edge: Border, face: int) -> Ints:
    """The nodes around a face, by its own numbers, where nothing holds the floor; none of a face that is meshed in rows, as they do not matter there."""
    return np.flatnonzero(edge.free[edge.around[face]]) if face not in sizes.rows else np.zeros(0, dtype=np.int64)


def _seen(edge: Border, face: int) -> Array:
    """The nodes around a face, from the first of them on."""
    xy = edge.xy[edge.around[face]]
    return from_there(xy, xy[0])


def mesh_face(plan: Linework, sizes: Sizes, finer: Array, edge: Border, face: int) -> FaceMesh:
    """Mesh one face of a plan, whose edges are divided, in a model of its own: its nodes, and what Gmsh makes of them, have no numbers of others.
    ``finer`` are the places that matter to it.

    Raises :class:`SpoiltError` for a face that no algorithm can mesh.
    """
    number, border = _numbers(edge, face), _seen(edge, face)
    geo = gmsh.model.geo
    corners = _corners(plan, sizes, edge, face)
    gmsh.model.add("face")
    for tag, (x, y) in enumerate((border if corners else _uneven(border, plan.size)).tolist(), 1):
        geo.addPoint(x, y, 0.0, plan.size, tag)
    lines: dict[tuple[int, int], int] = {}

    def line(i: int, j: int) -> int:
        """The line between two nodes, negative from its end to its start."""
        if (j, i) in lines:
            return -lines[j, i]
        if (i, j) not in lines:
            lines[i, j] = geo.addLine(i, j)
        return lines[i, j]

    loops = []
    for ring in edge.rings[face]:
        tags = (number[ring] + 1).tolist()
        loops.append(geo.addCurveLoop([line(i, j) for i, j in zip(tags, [*tags[1:], tags[0]], strict=True)]))
    surface = geo.addPlaneSurface(loops)
    loose = [line(i, j) for e in plan.parts.loose[face] for i, j in pairwise((number[edge.paths[e]] + 1).tolist())]
    geo.synchronize()
    # Before all that is set: Gmsh forgets it where points come after it.
    tell(finer, plan.size)
    if loose:
        gmsh.model.mesh.embed(1, [abs(tag) for tag in loose], 2, surface)
    if len(edge.embedded[face]):
        gmsh.model.mesh.embed(0, (number[edge.embedded[face]] + 1).tolist(), 2, surface)
    for tag in lines.values():
        gmsh.model.mesh.setTransfiniteCurve(tag, 2)
    if corners:
        gmsh.model.mesh.setTransfiniteSurface(surface, "Left", [k + 1 for k in corners])
    found = _best(surface, border, _free(sizes, edge, face))
    gmsh.model.remove()
    if found is None:
        raise SpoiltError(plan.parts.inside[face])
    return found


def _uneven(border: Array, size: float) -> Array:
    """The nodes around a face (n, 2) m, bent by less than anything that counts.

    Of triangles of one size Gmsh takes the one first that lies first in memory, so that a face alike on two sides would be meshed otherwise from run to
    run; lengths that differ in the ninth digit it tells apart.
    """
    x, y = ((border - border.min(axis=0)) / np.ptp(border, axis=0).max()).T
    return border + UNEVEN * size * np.column_stack([x**2 + 0.37 * x * y, 0.53 * x * y + 0.71 * y**2])


def _best(surface: int, border: Array, free: Ints) -> FaceMesh | None:
    """The mesh by the first algorithm that makes none of its angles poor, or else the one whose least angle is greatest; ``free`` are nodes of the
    ``border`` where nothing holds the floor.

    The last rung is a triangulation without recombination, whose triangles are paired afterwards: it cannot fold.
    """
    best: tuple[float, FaceMesh] | None = None
    for algorithm in ALGORITHMS:
        blocks, xy, number = _generated(surface, algorithm, len(border))
        if not blocks or _folded(blocks, xy) or _flat(blocks, xy):
            continue
        made = _smoothed(border, free, xy, blocks, number)
        least = _least(border, made)
        if best is None or least > best[0]:
            best = least, made
        if least >= POOR:
            break
    if best is not None:
        return best[1]
    gmsh.option.setNumber("Mesh.RecombineAll", 0)
    blocks, xy, number = _generated(surface, TRIANGLES, len(border))
    if not blocks or _folded(blocks, xy):
        return None
    blocks = list(paired(xy, without_slivers(xy, anticlockwise(xy, np.concatenate(blocks)))))
    return _smoothed(border, free, xy, blocks, number)


def _generated(surface: int, algorithm: int, border: int) -> tuple[list[Ints], Array, Ints]:
    """The elements by which an algorithm meshes the model's surface, none where it gives up, its nodes, and the face's numbers of these: the ``border``
    nodes first."""
    gmsh.model.mesh.clear([(2, surface)])
    gmsh.model.mesh.setAlgorithm(2, surface, algorithm)
    try:
        gmsh.model.mesh.generate(2)
    except Exception as error:
        # Gmsh knows no other kind than the bare one. Another algorithm may do, or another size.
        if type(error) is not Exception:
            raise
        return [], np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
    xy, where = _nodes()
    own = where[gmsh.model.mesh.getNodes(2, surface)[0].astype(np.int64)]
    number = np.full(len(xy), -1, dtype=np.int64)
    for tag in range(1, border + 1):
        number[where[int(gmsh.model.mesh.getNodes(0, tag)[0][0])]] = tag - 1
    number[own] = border + np.arange(len(own))
    return _elements(surface, where), xy, number


def _smoothed(border: Array, free: Ints, nodes: Array, blocks: list[Ints], number: Ints) -> FaceMesh:
    """The face's mesh of ``blocks`` of elements among ``nodes``, which the face has a ``number`` for or none, with its worst quadrilaterals cut, or opened
    at those nodes of the ``border`` that are ``free``, and its nodes inside moved where that helps."""
    inside = nodes[np.argsort(number)][(number < len(border)).sum() :]
    xy = np.concatenate([border, inside])
    of = {corners: [number[b] for b in blocks if b.shape[1] == corners] for corners in (3, 4)}
    tris, quads = (np.concatenate([np.zeros((0, c), dtype=np.int64), *of[c]]) for c in (3, 4))
    tris, quads = anticlockwise(xy, tris), anticlockwise(xy, quads)
    xy, quads, tris = open_flat_quads(xy, quads, tris, np.arange(len(xy)) >= len(border), free)
    quads, tris = split_poor_quads(xy, quads, tris)
    xy = smooth(xy, quads, tris, np.arange(len(xy)) >= len(border))
    return FaceMesh(xy[len(border) :], quads, tris)


def _least(border: Array, mesh: FaceMesh) -> float:
    """The least angle of a face's elements, degrees."""
    xy = np.concatenate([border, mesh.inside])
    return min(float(angles(xy, e).min()) for e in (mesh.quads, mesh.tris) if len(e))


def _nodes() -> tuple[Array, Ints]:
    """Coordinates (n, 2) of Gmsh's nodes, and the row of each tag."""
    tags, flat, _ = gmsh.model.mesh.getNodes()
    where = np.full(int(tags.max()) + 1, -1, dtype=np.int64)
    where[tags] = np.arange(len(tags))
    return flat.reshape(-1, 3)[:, :2], where


def _elements(surface: int, where: Ints) -> list[Ints]:
    """Gmsh's elements of a surface, a block of triangles and one of quadrilaterals, by rows of nodes."""
    blocks = []
    for kind, nodes in zip(*gmsh.model.mesh.getElements(2, surface)[::2], strict=True):
        blocks.append(where[nodes.reshape(-1, {2: 3, 3: 4}[int(kind)]).astype(np.int64)])
    return blocks


def _folded(blocks: list[Ints], xy: Array) -> bool:
    """Whether elements of both orientations lie in a surface, so that some lie on others."""
    signs = []
    for block in blocks:
        p = xy[block]
        q = np.roll(p, -1, axis=1)
        signs.append(np.sign((p[..., 0] * q[..., 1] - p[..., 1] * q[..., 0]).sum(axis=1)))
    return bool(signs) and np.ptp(np.concatenate(signs)) != 0


def _flat(blocks: list[Ints], xy: Array) -> bool:
    """Whether a surface has a triangle with next to no angle."""
    return any(b.shape[1] == 3 and angles(xy, anticlockwise(xy, b)).min() < FLAT for b in blocks)


def anticlockwise(xy: Array, elements: Ints) -> Ints:
    """Elements (k, corners) with their corners in anticlockwise order."""
    p = xy[elements]
    q = np.roll(p, -1, axis=1)
    area = (p[..., 0] * q[..., 1] - p[..., 1] * q[..., 0]).sum(axis=1)
    return np.where(area[:, None] > 0, elements, elements[:, ::-1])
