"""The mesh stage: Gmsh on the faces of the plan."""

from __future__ import annotations

import ctypes
import signal
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.geometry.partition import Partition
from piastra.core.mesh.counts import to_lengthen
from piastra.core.mesh.faces import Border, FaceMesh, SpoiltError, anticlockwise, border, keys, mesh_faces
from piastra.core.mesh.plan import Linework, merged
from piastra.core.mesh.quality import Quality, assess, smooth, split_poor_quads
from piastra.core.mesh.sizes import set_sizes
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
    point support its node; ``footprints`` per column the nodes of its footprint; ``faces`` meshes of faces by what they follow from, which
    are not smoothed.
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
    faces: Mapping[bytes, FaceMesh]

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


def make_mesh(plan: Linework, earlier: Mapping[bytes, FaceMesh] | None = None) -> Mesh:
    """Mesh every face of the plan with quadrilaterals and a few triangles; ``earlier`` are meshes of faces that may be among this plan's.

    Raises :class:`RefusedError` with the place of a face that no algorithm and no size can mesh.
    Source: Gmsh (Geuzaine and Remacle 2009), frontal Delaunay for quadrilaterals, blossom recombination.
    """
    with _GMSH:
        told = ""
        for share in SIZES:
            try:
                with _mesher():
                    return _mesh(replace(plan, size=share * plan.size), earlier or {})
            except SpoiltError as error:
                told = str(error)
            except RefusedError:
                raise
            except Exception as error:
                raise RefusedError([Refusal("slabs", f"cannot be meshed ({error}); look for slivers and gaps")]) from None
        raise RefusedError([Refusal("slabs", f"cannot be meshed {told}; remove the sliver there")])


def _geometry(plan: Linework) -> tuple[list[int], dict[int, list[int]]]:
    """Gmsh's surfaces of the plan's faces, and the points that are set in them by the face."""
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
    points: dict[int, list[int]] = {}
    for label, tag in embedded.items():
        at = dict(plan.points)[label]
        for f, face in enumerate(parts.polygons):
            if face.contains(shapely.Point(at)):
                gmsh.model.mesh.embed(0, [tag], 2, surfaces[f])
                points.setdefault(f, []).append(tag)
    return surfaces, points


SIZES = (1.0, 0.85, 0.7)
"""Shares of the element size that are tried one after the other, before a plan is refused."""


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
    gmsh.model.mesh.generate(1)


def _mesh(plan: Linework, earlier: Mapping[bytes, FaceMesh]) -> Mesh:
    surfaces, embedded = _geometry(plan)
    sizes = set_sizes(plan, surfaces)
    _even(plan.parts, sizes.fixed)
    edge = border(plan, embedded)
    known = keys(plan, sizes, edge)
    changed = [f for f, key in enumerate(known) if key not in earlier]
    made = mesh_faces(plan, surfaces, changed, edge) if changed else {}
    of_faces = [made[f] if f in made else earlier[key] for f, key in enumerate(known)]
    xy, quads, tris, quad_face, tri_face = _together(of_faces, edge)

    used = np.zeros(len(xy), dtype=bool)
    used[quads] = True
    used[tris] = True
    number = np.cumsum(used) - 1
    xy, quads, tris = xy[used], number[quads], number[tris]
    edges = np.concatenate([np.column_stack([p[:-1], p[1:]]) for p in edge.paths])
    edges = number[edges[used[edges].all(axis=1)]]
    quads, tris = anticlockwise(xy, quads), anticlockwise(xy, tris)
    quads, tris, quad_face, tri_face = split_poor_quads(xy, quads, tris, quad_face, tri_face)
    free = np.ones(len(xy), dtype=bool)
    free[edges] = False
    free[list(_on_points(plan, xy).values())] = False
    xy = smooth(xy, quads, tris, free)
    quality = assess(xy, quads, tris)
    return Mesh(
        xy, quads, tris, quad_face, tri_face, _on_lines(plan, xy, edges), _on_points(plan, xy),
        _on_footprints(plan, quads, tris, quad_face, tri_face), quality, _told(quality, plan), dict(zip(known, of_faces, strict=True)),
    )  # fmt: skip


def _together(faces: list[FaceMesh], edge: Border) -> tuple[Array, Ints, Ints, Ints, Ints]:
    """Nodes, quadrilaterals, triangles and the faces of these, of meshes of faces that meet along borders."""
    first = len(edge.xy) + np.concatenate([[0], np.cumsum([len(m.inside) for m in faces])])
    blocks: dict[int, list[Ints]] = {3: [np.zeros((0, 3), dtype=np.int64)], 4: [np.zeros((0, 4), dtype=np.int64)]}
    of: dict[int, list[Ints]] = {3: [], 4: []}
    for f, mesh in enumerate(faces):
        number = np.concatenate([edge.around[f], first[f] + np.arange(len(mesh.inside))])
        for block in mesh.blocks:
            corners = block.shape[1]
            blocks[corners].append(number[block])
            of[corners].append(np.full(len(block), f, dtype=np.int64))
    none = np.zeros(0, dtype=np.int64)
    return (
        np.concatenate([edge.xy, *(m.inside for m in faces)]), np.concatenate(blocks[4]), np.concatenate(blocks[3]),
        np.concatenate([none, *of[4]]), np.concatenate([none, *of[3]]),
    )  # fmt: skip


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
