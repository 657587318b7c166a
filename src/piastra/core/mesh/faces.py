"""Faces of a plan meshed one by one. A face's mesh follows from the nodes on its border and the sizes within it, so that an edit meshes the faces
that it changes: all others are as they would come out again."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.mesh.pairing import FLAT, paired, without_slivers
from piastra.core.mesh.plan import Linework
from piastra.core.mesh.quality import angles
from piastra.core.mesh.sizes import ALGORITHM, Sizes

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ALGORITHMS = (ALGORITHM, 6, 5)
"""Gmsh's numbers of surface algorithms, tried in this order: frontal for quadrilaterals, frontal, Delaunay."""
TRIANGLES = 5
"""The algorithm of the last rung."""


class SpoiltError(ValueError):
    """A face that could not be meshed, by a point in it (m)."""

    def __init__(self, at: Array) -> None:
        super().__init__(f"near ({at[0]:.2f}, {at[1]:.2f})")


@dataclass(frozen=True, slots=True)
class FaceMesh:
    """The mesh of one face: ``inside`` (i, 2) m the nodes within it; ``blocks`` of elements, (k, 3) or (k, 4), that number the nodes on the face's
    border first, in their order there, and those inside after them."""

    inside: Array
    blocks: tuple[Ints, ...]


@dataclass(frozen=True, slots=True)
class Border:
    """Nodes of edges and points: ``xy`` (n, 2) m; ``paths`` per edge of the plan its nodes from end to end; ``around`` per face the nodes on its
    border or set in it; ``tags`` (n,) Gmsh's numbers."""

    xy: Array
    paths: tuple[Ints, ...]
    around: tuple[Ints, ...]
    tags: Ints


def border(plan: Linework, embedded: Mapping[int, list[int]]) -> Border:
    """Read the nodes of the edges, once these are divided; ``embedded`` are the points that are set in faces."""
    tags, xy = [], []
    for dim in (0, 1):
        found, flat, _ = gmsh.model.mesh.getNodes(dim)
        tags.append(found.astype(np.int64))
        xy.append(flat.reshape(-1, 3)[:, :2])
    tag = np.concatenate(tags)
    where = np.full(int(tag.max()) + 1, -1, dtype=np.int64)
    where[tag] = np.arange(len(tag))
    paths = []
    for e in range(len(plan.parts.edges)):
        _, _, nodes = gmsh.model.mesh.getElements(1, e + 1)
        pairs = where[nodes[0].reshape(-1, 2).astype(np.int64)] if len(nodes) else np.zeros((0, 2), dtype=np.int64)
        paths.append(np.concatenate([pairs[:, 0], pairs[-1:, 1]]))
    around = []
    for f, rings in enumerate(plan.parts.rings):
        nodes = [paths[e] if way > 0 else paths[e][::-1] for ring in rings for e, way in ring] + [
            paths[e] for e in plan.parts.loose[f]
        ]
        nodes += [where[gmsh.model.mesh.getNodes(0, p)[0].astype(np.int64)] for p in embedded.get(f, [])]
        row = np.concatenate(nodes)
        _, first = np.unique(row, return_index=True)
        around.append(row[np.sort(first)])
    return Border(np.concatenate(xy), tuple(paths), tuple(around), tag)


def keys(plan: Linework, sizes: Sizes, edge: Border) -> list[bytes]:
    """What the mesh of each face follows from, hashed: two faces of one key are meshed alike to the last bit."""
    parts = plan.parts
    finer = np.array(sizes.finer).reshape(-1, 5)
    near: list[list[int]] = [[] for _ in parts.polygons]
    if len(finer):
        face, place = shapely.STRtree(parts.polygons).query(shapely.points(finer[:, :2]), "dwithin", finer[:, 4] + plan.size)[
            ::-1
        ]
        for f, p in zip(face.tolist(), place.tolist(), strict=True):
            near[f].append(p)
    found = []
    for f, (rings, loose, row) in enumerate(zip(parts.rings, parts.loose, edge.around, strict=True)):
        sides = [(r, way, len(edge.paths[e]), e) for r, ring in enumerate(rings) for e, way in ring]
        sides += [(-1, 1, len(edge.paths[e]), e) for e in loose]
        layout = np.array(sides, dtype=np.int64)
        digest = hashlib.blake2b(digest_size=32)
        for part in (
            np.array([plan.size, f in sizes.rows, f]), np.unique(finer[near[f]], axis=0), layout, edge.xy[row], edge.tags[row],
        ):  # fmt: skip
            digest.update(f"{part.shape}".encode() + np.ascontiguousarray(part).tobytes())
        found.append(digest.digest())
    return found


def mesh_faces(plan: Linework, surfaces: list[int], which: list[int], edge: Border) -> dict[int, FaceMesh]:
    """Mesh the faces ``which`` of a plan, whose edges are divided; Gmsh's ``surfaces`` are the faces.

    Raises :class:`SpoiltError` for a face that no algorithm can mesh.
    """
    if len(which) < len(surfaces):
        gmsh.model.setVisibility([(2, s) for s in surfaces], 0)
        gmsh.model.setVisibility([(2, surfaces[f]) for f in which], 1)
        gmsh.option.setNumber("Mesh.MeshOnlyVisible", 1)
    plain = _generate([surfaces[f] for f in which])
    xy, where = _nodes()
    made = {}
    for f in which:
        found = _elements(surfaces[f], where)
        if not found or _folded(found, xy):
            raise SpoiltError(plan.parts.inside[f])
        if surfaces[f] in plain:
            found = list(paired(xy, without_slivers(xy, anticlockwise(xy, np.concatenate(found)))))
        own = where[gmsh.model.mesh.getNodes(2, surfaces[f])[0].astype(np.int64)]
        number = np.full(len(xy), -1, dtype=np.int64)
        number[where[edge.tags[edge.around[f]]]] = np.arange(len(edge.around[f]))
        number[own] = len(edge.around[f]) + np.arange(len(own))
        made[f] = FaceMesh(xy[own], tuple(number[block] for block in found))
    return made


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


def _generate(surfaces: list[int]) -> set[int]:
    """Mesh all surfaces, poor ones with one algorithm after the other; those that end as plain triangles.

    The last rung is a triangulation without recombination, whose triangles are paired afterwards: it cannot fold.
    """
    gmsh.model.mesh.generate(2)

    def again(poor: list[int], algorithm: int) -> None:
        gmsh.model.mesh.clear([(2, s) for s in poor])
        for s in poor:
            gmsh.model.mesh.setAlgorithm(2, s, algorithm)
        gmsh.model.mesh.generate(2)

    def failing(test: Callable[[list[Ints], Array], bool]) -> list[int]:
        xy, where = _nodes()
        return [s for s in surfaces if test(_elements(s, where), xy)]

    for algorithm in ALGORITHMS[1:]:
        poor = failing(_folded)
        if not poor:
            break
        again(poor, algorithm)
    poor = failing(lambda blocks, xy: _folded(blocks, xy) or _flat(blocks, xy))
    if poor:
        gmsh.option.setNumber("Mesh.RecombineAll", 0)
        again(poor, TRIANGLES)
        gmsh.option.setNumber("Mesh.RecombineAll", 1)
    return set(poor)
