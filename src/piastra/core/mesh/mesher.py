"""The mesh stage: Gmsh on the faces of the plan."""

from __future__ import annotations

import ctypes
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.geometry.partition import Partition
from piastra.core.mesh.counts import to_lengthen
from piastra.core.mesh.pairing import FLAT, paired, without_slivers
from piastra.core.mesh.plan import Linework, merged
from piastra.core.mesh.quality import Quality, angles, assess, smooth, split_poor_quads
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.message import Message
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

_GMSH = threading.Lock()  # Gmsh keeps one model a process.

# Python's own way to a signal's handler, which unlike signal.signal works in every thread.
_HANDLER_OF, _HANDLE = ctypes.pythonapi.PyOS_getsig, ctypes.pythonapi.PyOS_setsig
_HANDLER_OF.restype = _HANDLE.restype = ctypes.c_void_p
_HANDLER_OF.argtypes, _HANDLE.argtypes = (ctypes.c_int,), (ctypes.c_int, ctypes.c_void_p)


@dataclass(frozen=True, slots=True)
class Mesh:
    """A conforming mesh.

    ``xy`` (n, 2) nodes, m; ``quads`` (q, 4) and ``tris`` (t, 3) anticlockwise node numbers; ``quad_face`` and
    ``tri_face`` the plan's face of each; ``lines`` per line of support its (k, 2) element edges; ``points`` per
    point support its node; ``footprints`` per column the nodes of its footprint.
    """

    xy: Array
    quads: Ints
    tris: Ints
    quad_face: Ints
    tri_face: Ints
    lines: dict[str, Ints]
    points: dict[str, int]
    footprints: tuple[Ints, ...]
    quality: Quality
    messages: tuple[Message, ...]

    @property
    def elements(self) -> int:
        return len(self.quads) + len(self.tris)

    @property
    def areas(self) -> Array:
        """(q + t,) m2 of the elements, quads first."""

        def of(loops: Ints) -> Array:
            x, y = self.xy[loops].transpose(2, 0, 1)
            return np.asarray((x * np.roll(y, -1, axis=1) - y * np.roll(x, -1, axis=1)).sum(axis=1) / 2)

        return np.concatenate([of(self.quads), of(self.tris)])


@contextmanager
def _mesher() -> Iterator[None]:
    """Gmsh, from no settings of the person whose machine it is. It gives a broken pipe its deadly default, by which a process would end
    without a word where a connection goes: what was there comes back."""
    pipe = getattr(signal, "SIGPIPE", None)
    before = _HANDLER_OF(pipe) if pipe else None
    gmsh.initialize(readConfigFiles=False, interruptible=False)
    if pipe:
        _HANDLE(pipe, before)
    try:
        gmsh.option.setNumber("General.Terminal", 0)
        gmsh.option.setNumber("General.NumThreads", 1)
        yield
    finally:
        gmsh.finalize()


def make_mesh(plan: Linework) -> Mesh:
    """Mesh every face of the plan with quadrilaterals and a few triangles.

    Raises :class:`RefusedError` with the place of a face that no algorithm and no size can mesh.
    Source: Gmsh (Geuzaine and Remacle 2009), frontal Delaunay for quadrilaterals, blossom recombination.
    """
    with _GMSH:
        told = ""
        for share in SIZES:
            try:
                with _mesher():
                    return _mesh(replace(plan, size=share * plan.size))
            except SpoiltError as error:
                told = str(error)
            except RefusedError:
                raise
            except Exception as error:
                raise RefusedError([Refusal("slabs", f"cannot be meshed ({error}); look for slivers and gaps")]) from None
        raise RefusedError([Refusal("slabs", f"cannot be meshed {told}; remove the sliver there")])


def _geometry(plan: Linework) -> list[int]:
    parts = plan.parts
    geo = gmsh.model.geo
    for i, (x, y) in enumerate(parts.points):
        geo.addPoint(x, y, 0.0, plan.size, i + 1)
    for e, (i, j) in enumerate(parts.edges):
        geo.addLine(int(i) + 1, int(j) + 1, e + 1)
    surfaces = []
    loops = 0
    for rings in parts.rings:
        tags = []
        for ring in rings:
            loops += 1
            tags.append(geo.addCurveLoop([s * (e + 1) for e, s in ring], loops))
        surfaces.append(geo.addPlaneSurface(tags))
    embedded = {}
    for label, at in plan.points:
        near = np.hypot(*(parts.points - at).T)
        if len(near) and near.min() < 1e-3 + merged(plan.size):
            continue
        embedded[label] = geo.addPoint(at[0], at[1], 0.0, plan.size)
    geo.synchronize()
    for surface, loose in zip(surfaces, parts.loose, strict=True):
        if loose:
            gmsh.model.mesh.embed(1, [e + 1 for e in loose], 2, surface)
    for label, tag in embedded.items():
        at = dict(plan.points)[label]
        for f, face in enumerate(parts.polygons):
            if face.contains(shapely.Point(at)):
                gmsh.model.mesh.embed(0, [tag], 2, surfaces[f])
    return surfaces


def _graded(points: list[int], fine: float, coarse: float, within: float, reach: float) -> int:
    """A field of ``fine`` sizes within a distance of points, that grow to ``coarse`` over ``reach`` times the rise."""
    field = gmsh.model.mesh.field
    distance = field.add("Distance")
    field.setNumbers(distance, "PointsList", points)
    threshold = field.add("Threshold")
    for name, value in (
        ("InField", distance), ("SizeMin", fine), ("SizeMax", coarse), ("DistMin", within), ("DistMax", within + reach * (coarse - fine)),
    ):  # fmt: skip
        field.setNumber(threshold, name, value)
    return int(threshold)


def _sizes(plan: Linework) -> tuple[bool, set[int]]:
    """Finer at footprints, graded to the target size; whether anything is finer at all, and edges whose division is set."""
    parts = plan.parts
    field = gmsh.model.mesh.field
    # One field for all columns of a size: Gmsh asks every field at every point.
    alike: dict[float, set[int]] = {}
    fixed: set[int] = set()
    for column in np.unique(plan.column[plan.column >= 0]):
        corners = {i for f in np.flatnonzero(plan.column == column) for r in parts.rings[f] for e, _ in r
                   for i in parts.edges[e]}  # fmt: skip
        box = plan.footprints[column].minimum_rotated_rectangle
        xy = shapely.get_coordinates(box)
        sides = sorted(np.hypot(*(xy[1:3] - xy[0:2]).T))
        fine = min(plan.size, max(sides[0] / 3, sides[1] / 8, 0.02))
        if fine > 0.9 * plan.size:
            continue
        alike.setdefault(round(fine, 6), set()).update(int(i) + 1 for i in corners)
        fixed |= _in_rows(parts, np.flatnonzero(plan.column == column), fine)
    thresholds = [_graded(sorted(points), fine, plan.size, fine, 2.5) for fine, points in sorted(alike.items())]
    around: dict[tuple[float, float], list[int]] = {}
    for at, fine, radius in plan.refinements:
        if fine < 0.9 * plan.size:
            around.setdefault((round(fine, 6), round(radius, 6)), []).append(gmsh.model.geo.addPoint(at[0], at[1], 0.0))
    if around:
        gmsh.model.geo.synchronize()
    thresholds += [_graded(tags, fine, plan.size, radius, 6.0) for (fine, radius), tags in sorted(around.items())]
    if thresholds:
        least = field.add("Min")
        field.setNumbers(least, "FieldsList", thresholds)
        field.setAsBackgroundMesh(least)
    option = gmsh.option.setNumber
    option("Mesh.MeshSizeExtendFromBoundary", 0)
    option("Mesh.MeshSizeMax", plan.size)
    option("Mesh.Algorithm", ALGORITHMS[0])
    option("Mesh.RecombineAll", 1)
    option("Mesh.RecombinationAlgorithm", 1)
    option("Mesh.RandomSeed", 1)
    # Meshed anew are only faces that were cleared, not those that came out well.
    option("Mesh.MeshOnlyEmpty", 1)
    return bool(thresholds), fixed


def _in_rows(parts: Partition, faces: Ints, size: float) -> set[int]:
    """The same number of elements along opposite sides of a column's footprint, where it is one face with four sides; these
    sides."""
    for f in faces:
        rings = parts.rings[f]
        if len(faces) > 1 or len(rings) > 1 or len(rings[0]) != 4:
            break
        sides = [e for e, _ in rings[0]]
        for pair in (sides[::2], sides[1::2]):
            length = max(float(np.hypot(*(parts.points[parts.edges[e, 1]] - parts.points[parts.edges[e, 0]]))) for e in pair)
            for e in pair:
                gmsh.model.mesh.setTransfiniteCurve(e + 1, max(int(np.ceil(length / size - 1e-6)), 1) + 1)
        gmsh.model.mesh.setTransfiniteSurface(f + 1)
        return set(sides)
    return set()


def _regular(plan: Linework, surfaces: list[int]) -> set[int]:
    """Rows of quadrilaterals in faces with four sides: opposite sides get the same number of elements. The sides."""
    parts = plan.parts
    length = np.hypot(*(parts.points[parts.edges[:, 1]] - parts.points[parts.edges[:, 0]]).T)
    points = set(dict(plan.points).values())
    leader = list(range(len(parts.edges)))

    def lead(e: int) -> int:
        while leader[e] != e:
            e = leader[e]
        return e

    mapped = []
    for f, rings in enumerate(parts.rings):
        plain = len(rings) == 1 and len(rings[0]) == 4 and not parts.loose[f]
        if plain and not any(parts.polygons[f].contains(shapely.Point(p)) for p in points):
            sides = [e for e, _ in rings[0]]
            if min(length[sides[0]], length[sides[2]]) > 0.5 * max(length[sides[0]], length[sides[2]]) and min(
                length[sides[1]], length[sides[3]]
            ) > 0.5 * max(length[sides[1]], length[sides[3]]):
                mapped.append(f)
                leader[lead(sides[0])] = lead(sides[2])
                leader[lead(sides[1])] = lead(sides[3])
    count: dict[int, int] = {}
    for f in mapped:
        for e, _ in parts.rings[f][0]:
            count[lead(e)] = max(count.get(lead(e), 1), int(np.ceil(length[e] / plan.size - 1e-9)))
    for f in mapped:
        for e, _ in parts.rings[f][0]:
            gmsh.model.mesh.setTransfiniteCurve(e + 1, count[lead(e)] + 1)
        gmsh.model.mesh.setTransfiniteSurface(surfaces[f])
    return {e for f in mapped for e, _ in parts.rings[f][0]}


ALGORITHMS = (8, 6, 5)
"""Gmsh's numbers of surface algorithms, tried in this order: frontal for quadrilaterals, frontal, Delaunay."""
TRIANGLES = 5
"""The algorithm of the last rung."""
SIZES = (1.0, 0.85, 0.7)
"""Shares of the element size that are tried one after the other, before a plan is refused."""


class SpoiltError(ValueError):
    """A face that could not be meshed, by a point in it (m)."""

    def __init__(self, at: Array) -> None:
        super().__init__(f"near ({at[0]:.2f}, {at[1]:.2f})")


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
    return any(b.shape[1] == 3 and angles(xy, _anticlockwise(xy, b)).min() < FLAT for b in blocks)


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


def _even(parts: Partition, fixed: set[int]) -> None:
    """Divide the edges, but for the ``fixed`` ones, so that no face has an odd number of elements around it: recombination
    would leave triangles."""
    gmsh.model.mesh.generate(1)
    count = np.zeros(len(parts.edges), dtype=np.int64)
    for e in range(len(count)):
        _, _, nodes = gmsh.model.mesh.getElements(1, e + 1)
        count[e] = len(nodes[0]) // 2 if len(nodes) else 0
    for e in to_lengthen(parts, count, fixed):
        gmsh.model.mesh.setTransfiniteCurve(int(e) + 1, int(count[e]) + 2)
    gmsh.model.mesh.clear()


def _mesh(plan: Linework) -> Mesh:
    surfaces = _geometry(plan)
    graded, fixed = _sizes(plan)
    if not graded:
        fixed |= _regular(plan, surfaces)
    _even(plan.parts, fixed)
    plain = _generate(surfaces)
    xy, where = _nodes()
    blocks: dict[int, list[Ints]] = {3: [], 4: []}
    faces: dict[int, list[Ints]] = {3: [], 4: []}
    for f, surface in enumerate(surfaces):
        found = _elements(surface, where)
        if not found or _folded(found, xy):
            raise SpoiltError(plan.parts.inside[f])
        if surface in plain:
            tris = without_slivers(xy, _anticlockwise(xy, np.concatenate(found)))
            found = list(paired(xy, tris))
        for block in found:
            corners = block.shape[1]
            blocks[corners].append(block)
            faces[corners].append(np.full(len(block), f, dtype=np.int64))
    segments = []
    for e in range(len(plan.parts.edges)):
        _, _, nodes = gmsh.model.mesh.getElements(1, e + 1)
        if len(nodes):
            segments.append(where[nodes[0].reshape(-1, 2).astype(np.int64)])
    quads, quad_face = _joined(blocks[4], faces[4], 4)
    tris, tri_face = _joined(blocks[3], faces[3], 3)

    used = np.zeros(len(xy), dtype=bool)
    used[quads] = True
    used[tris] = True
    number = np.cumsum(used) - 1
    xy, quads, tris = xy[used], number[quads], number[tris]
    edges = np.concatenate(segments) if segments else np.zeros((0, 2), dtype=np.int64)
    edges = number[edges[used[edges].all(axis=1)]]
    quads, tris = _anticlockwise(xy, quads), _anticlockwise(xy, tris)
    quads, tris, quad_face, tri_face = split_poor_quads(xy, quads, tris, quad_face, tri_face)
    free = np.ones(len(xy), dtype=bool)
    free[edges] = False
    free[list(_on_points(plan, xy).values())] = False
    xy = smooth(xy, quads, tris, free)
    quality = assess(xy, quads, tris)
    return Mesh(
        xy, quads, tris, quad_face, tri_face, _on_lines(plan, xy, edges), _on_points(plan, xy),
        _on_footprints(plan, quads, tris, quad_face, tri_face), quality, _told(quality, plan),
    )  # fmt: skip


def _joined(blocks: list[Ints], faces: list[Ints], corners: int) -> tuple[Ints, Ints]:
    if not blocks:
        return np.zeros((0, corners), dtype=np.int64), np.zeros(0, dtype=np.int64)
    return np.concatenate(blocks), np.concatenate(faces)


def _anticlockwise(xy: Array, elements: Ints) -> Ints:
    p = xy[elements]
    q = np.roll(p, -1, axis=1)
    area = (p[..., 0] * q[..., 1] - p[..., 1] * q[..., 0]).sum(axis=1)
    return np.where(area[:, None] > 0, elements, elements[:, ::-1])


def _on_lines(plan: Linework, xy: Array, edges: Ints) -> dict[str, Ints]:
    pieces: dict[str, list[Ints]] = {label: [] for label, _ in plan.lines}
    if not plan.lines:
        return {}
    middles = shapely.points(xy[edges].mean(axis=1))
    ends = shapely.points(xy[edges])
    for label, line in plan.lines:
        # Corners may have been merged, so an edge of the line can lie off it by that much, though not across it.
        off = 1e-3 + merged(plan.size)
        d = np.array(line.coords[-1]) - np.array(line.coords[0])
        e = xy[edges[:, 1]] - xy[edges[:, 0]]
        parallel = np.abs(e[:, 0] * d[1] - e[:, 1] * d[0]) <= 0.2 * np.hypot(*e.T) * np.hypot(*d)
        on = parallel & (shapely.distance(middles, line) < off) & (shapely.distance(ends, line) < off).all(axis=1)
        pieces[label].append(edges[on])
    return {label: np.unique(np.concatenate(parts), axis=0) for label, parts in pieces.items()}


def _on_points(plan: Linework, xy: Array) -> dict[str, int]:
    found = {}
    for label, at in plan.points:
        gap = np.hypot(*(xy - np.array(at)).T)
        if gap.min() < 2e-3 + merged(plan.size):
            found[label] = int(gap.argmin())
    return found


def _on_footprints(plan: Linework, quads: Ints, tris: Ints, quad_face: Ints, tri_face: Ints) -> tuple[Ints, ...]:
    quad_column, tri_column = plan.column[quad_face], plan.column[tri_face]
    return tuple(
        np.unique(np.concatenate([quads[quad_column == c].ravel(), tris[tri_column == c].ravel()]))
        for c in range(len(plan.footprints))
    )


def _told(quality: Quality, plan: Linework) -> tuple[Message, ...]:
    if quality.least_angle_deg >= 15:
        return ()
    x, y = quality.least_at
    return (
        Message("warning", "mesh", f"has an angle of {quality.least_angle_deg:.0f} degrees: edges or corners lie too close "
                f"together there for elements of {amount(plan.size, 'length')}", (x, y)),
    )  # fmt: skip
