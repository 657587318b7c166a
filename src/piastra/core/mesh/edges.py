"""Edges of a plan divided one by one. An edge's nodes follow from its ends and the sizes near it, so that an edit divides the edges that it changes."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.mesh.counts import to_lengthen
from piastra.core.mesh.plan import Linework
from piastra.core.mesh.sizes import Sizes, tell
from piastra.core.model.extent import merged

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Border:
    """Nodes of edges and points: ``xy`` (n, 2) m; ``paths`` per edge of the plan its nodes from end to end; ``rings`` per face the nodes
    around it and around each of its holes; ``around`` per face all nodes on its border or set in it; ``embedded`` per face the points that are set in it.
    ``lines``: the plan's edges on each line that holds the floor; ``free`` (n,): nodes on the floor's outline or an opening's, where nothing does."""

    xy: Array
    paths: tuple[Ints, ...]
    rings: tuple[tuple[Ints, ...], ...]
    around: tuple[Ints, ...]
    embedded: tuple[Ints, ...]
    lines: tuple[tuple[str, Ints], ...]
    free: npt.NDArray[np.bool_]


NANO = 9
"""Decimals of a metre to which a face and an edge are known from their first node on: what is alike elsewhere is alike to the last bit."""


def near(shapes: list[shapely.Geometry], origins: Array, finer: Array, size: float) -> list[Array]:
    """Which of the places (k, 5) matter to each of some shapes, that is to elements of ``size`` m on or in it; from the shapes' ``origins`` (s, 2) on."""
    if not len(finer):
        return [np.zeros((0, 5)) for _ in shapes]
    place, shape = shapely.STRtree(shapes).query(shapely.points(finer[:, :2]), "dwithin", finer[:, 4] + size)
    rows = np.column_stack([from_there(finer[place, :2], origins[shape]), finer[place, 2:]])
    # By shape, and of each in the order of their values; what is met twice counts once.
    order = np.lexsort((*rows.T[::-1], shape))
    rows, shape = rows[order], shape[order]
    first = np.ones(len(rows), dtype=bool)
    first[1:] = (shape[1:] != shape[:-1]) | (rows[1:] != rows[:-1]).any(axis=1)
    return np.split(rows[first], np.searchsorted(shape[first], np.arange(1, len(shapes))))


def from_there(xy: Array, origin: Array) -> Array:
    """Points (n, 2) seen from another one (2,), or each from its own (n, 2), to a nanometre."""
    return np.asarray(np.round(xy - origin, NANO) + 0.0)


def hashed(*parts: Array | Ints) -> bytes:
    """A key of some arrays, to the last bit."""
    digest = hashlib.blake2b(digest_size=32)
    for part in parts:
        digest.update(f"{part.shape}".encode() + np.ascontiguousarray(part).tobytes())
    return digest.digest()


def divided(plan: Linework, sizes: Sizes, earlier: Mapping[bytes, Array]) -> tuple[Border, dict[bytes, Array]]:
    """The nodes of the plan's edges, and by what they follow from where along each edge they lie (0 to 1, from the end that comes first in x, then y);
    ``earlier`` are those of edges that may be among this plan's."""
    parts = plan.parts
    ends = parts.points[parts.edges]
    x, y = from_there(ends[:, 1], ends[:, 0]).T
    back = (x < 0) | ((x == 0) & (y < 0))
    ends[back] = ends[back][:, ::-1]
    free = [e for e in range(len(ends)) if e not in sizes.fixed]
    about = near(list(shapely.linestrings(ends[free])), ends[free, 0], sizes.finer, plan.size)
    keys, kept = {}, {}
    for e, places in zip(free, about, strict=True):
        far = from_there(ends[e, 1], ends[e, 0])
        keys[e] = key = hashed(np.array([plan.size, *far]), places)
        if key not in kept:
            kept[key] = earlier[key] if key in earlier else _by_size(far, places, plan.size)
    along = [np.linspace(0.0, 1.0, sizes.fixed[e] + 1) if e in sizes.fixed else kept[keys[e]] for e in range(len(ends))]
    for e in to_lengthen(parts, np.array([len(a) - 1 for a in along]), sizes.fixed):
        along[e] = _longer(along[e])
    return _border(plan, [1.0 - a[::-1] if b else a for a, b in zip(along, back, strict=True)]), kept


def _by_size(far: Array, finer: Array, size: float) -> Array:
    """Where along the edge from the origin to a ``far`` point the nodes lie, of elements as large as they are to be there."""
    gmsh.model.add("edge")
    gmsh.model.geo.addPoint(0.0, 0.0, 0.0, size, 1)
    gmsh.model.geo.addPoint(*far.tolist(), 0.0, size, 2)
    gmsh.model.geo.addLine(1, 2, 1)
    gmsh.model.geo.synchronize()
    tell(finer, size)
    gmsh.model.mesh.generate(1)
    _, _, at = gmsh.model.mesh.getNodes(1, 1)
    gmsh.model.remove()
    return np.concatenate([[0.0], np.sort(at), [1.0]])


def _longer(along: Array) -> Array:
    """One element more along an edge, as graded as it was."""
    count = len(along)
    return np.interp(np.linspace(0.0, count - 1, count + 1), np.arange(count), along)


def _border(plan: Linework, along: list[Array]) -> Border:
    parts = plan.parts
    xy = [parts.points]
    count = len(parts.points)
    paths = []
    for (i, j), shares in zip(parts.edges.tolist(), along, strict=True):
        inner = shares[1:-1, None]
        xy.append((1 - inner) * parts.points[i] + inner * parts.points[j])
        paths.append(np.concatenate([[i], count + np.arange(len(inner)), [j]]))
        count += len(inner)
    embedded: list[list[int]] = [[] for _ in parts.polygons]
    for _, place in plan.points:
        gap = np.hypot(*(parts.points - place).T)
        if len(gap) and gap.min() < 1e-3 + merged(plan.size):
            continue
        for f, face in enumerate(parts.polygons):
            if face.contains(shapely.Point(place)):
                embedded[f].append(count)
                xy.append(np.array([place]))
                count += 1
                break
    where = np.concatenate(xy)
    rings, around = [], []
    for f, loops in enumerate(parts.rings):
        outer, *holes = (
            _from_the_least(np.concatenate([(paths[e] if way > 0 else paths[e][::-1])[:-1] for e, way in ring]), where)
            for ring in loops
        )
        begin = from_there(where[[ring[0] for ring in holes]], where[outer[0]])
        rings.append((outer, *(holes[k] for k in np.lexsort((begin[:, 1], begin[:, 0])))))
        row = np.concatenate([*rings[f], *(paths[e] for e in parts.loose[f]), np.array(embedded[f], dtype=np.int64)])
        _, first = np.unique(row, return_index=True)
        around.append(row[np.sort(first)])
    lines = _edges_on_lines(plan)
    beside = np.zeros(len(paths), dtype=np.int64)
    np.add.at(beside, [e for loops in parts.rings for ring in loops for e, _ in ring], 1)
    beside[np.concatenate([np.zeros(0, dtype=np.int64), *(edges for _, edges in lines)])] = 0
    free = np.zeros(len(where), dtype=bool)
    for is_free in (True, False):
        its = [p for p, count in zip(paths, beside.tolist(), strict=True) if (count == 1) == is_free]
        free[np.concatenate([np.zeros(0, dtype=np.int64), *its])] = is_free
    return Border(
        where, tuple(paths), tuple(rings), tuple(around), tuple(np.array(e, dtype=np.int64) for e in embedded), lines, free
    )  # fmt: skip


def _edges_on_lines(plan: Linework) -> tuple[tuple[str, Ints], ...]:
    """The plan's edges on each of its lines."""
    ends = plan.parts.points[plan.parts.edges]
    middles, both = shapely.points(ends.mean(axis=1)), shapely.points(ends)
    e = ends[:, 1] - ends[:, 0]
    found = []
    for label, line in plan.lines:
        # Corners may have been merged, so an edge of the line can lie off it by that much, though not across it.
        off = 1e-3 + merged(plan.size)
        d = np.array(line.coords[-1]) - np.array(line.coords[0])
        parallel = np.abs(e[:, 0] * d[1] - e[:, 1] * d[0]) <= 0.2 * np.hypot(*e.T) * np.hypot(*d)
        on = parallel & (shapely.distance(middles, line) < off) & (shapely.distance(both, line) < off).all(axis=1)
        found.append((label, np.flatnonzero(on)))
    return tuple(found)


def _from_the_least(ring: Ints, xy: Array) -> Ints:
    """A ring of nodes that begins with the one that comes first in x, then y: faces that are alike then begin alike."""
    at = from_there(xy[ring], xy[ring].min(axis=0))
    return np.roll(ring, -int(np.lexsort((at[:, 1], at[:, 0]))[0]))
