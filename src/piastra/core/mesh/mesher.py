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

from piastra.core.mesh.edges import Border, divided
from piastra.core.mesh.faces import FaceMesh, SpoiltError, keys, mesh_face
from piastra.core.mesh.plan import Linework
from piastra.core.mesh.quality import Quality, assess
from piastra.core.mesh.sizes import sizes_of
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.extent import merged
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
class Kept:
    """Divisions of ``edges`` and meshes of ``faces``, by what they follow from."""

    edges: Mapping[bytes, Array]
    faces: Mapping[bytes, FaceMesh]


@dataclass(frozen=True, slots=True)
class Mesh:
    """A conforming mesh.

    ``xy`` (n, 2) nodes, m; ``quads`` (q, 4) and ``tris`` (t, 3) anticlockwise node numbers; ``quad_face`` and
    ``tri_face`` the plan's face of each; ``lines`` per line of support its (k, 2) element edges; ``points`` per
    point support its node; ``footprints`` per column the nodes of its footprint; ``kept`` what the next mesh may be made of.
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
    kept: Kept

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


def make_mesh(plan: Linework, earlier: Kept | None = None) -> Mesh:
    """Mesh every face of the plan with quadrilaterals and a few triangles; ``earlier`` are edges and faces that may be among this plan's.

    Raises :class:`RefusedError` with the place of a face that no algorithm and no size can mesh.
    Source: Gmsh (Geuzaine and Remacle 2009), frontal Delaunay for quadrilaterals, blossom recombination.
    """
    with _GMSH:
        told = ""
        for share in SIZES:
            try:
                with _mesher():
                    return _mesh(replace(plan, size=share * plan.size), earlier or Kept({}, {}))
            except SpoiltError as error:
                told = str(error)
            except (RefusedError, MemoryError):
                raise
            except Exception as error:
                raise RefusedError([Refusal("slabs", f"cannot be meshed ({error}); look for slivers and gaps")]) from None
        raise RefusedError([Refusal("slabs", f"cannot be meshed {told}; remove the sliver there")])


SIZES = (1.0, 0.85, 0.7)
"""Shares of the element size that are tried one after the other, before a plan is refused."""


def _mesh(plan: Linework, earlier: Kept) -> Mesh:
    sizes = sizes_of(plan)
    edge, along = divided(plan, sizes, earlier.edges)
    known, about = keys(plan, sizes, edge)
    faces: dict[bytes, FaceMesh] = {}
    for f, key in enumerate(known):
        if key not in faces:
            faces[key] = earlier.faces[key] if key in earlier.faces else mesh_face(plan, sizes, about[f], edge, f)
    xy, quads, tris, quad_face, tri_face = _together([faces[key] for key in known], edge)

    used = np.zeros(len(xy), dtype=bool)
    used[quads] = True
    used[tris] = True
    number = np.cumsum(used) - 1
    xy, quads, tris = xy[used], number[quads], number[tris]
    pairs = [np.column_stack([p[:-1], p[1:]]) for p in edge.paths]
    paths = [number[p[used[p].all(axis=1)]] for p in pairs]
    quality = assess(xy, quads, tris)
    return Mesh(
        xy, quads, tris, quad_face, tri_face, _on_lines(edge, paths), _on_points(plan, xy),
        _on_footprints(plan, quads, tris, quad_face, tri_face), quality, _told(quality, plan), Kept(along, faces),
    )  # fmt: skip


def _together(faces: list[FaceMesh], edge: Border) -> tuple[Array, Ints, Ints, Ints, Ints]:
    """Nodes, quadrilaterals, triangles and the faces of these, of meshes of faces that meet along borders."""
    first = len(edge.xy) + np.concatenate([[0], np.cumsum([len(m.inside) for m in faces])])
    numbers = [
        np.concatenate([row, start + np.arange(len(m.inside))])
        for m, row, start in zip(faces, edge.around, first[:-1], strict=True)
    ]
    every = np.arange(len(faces))
    return (
        np.concatenate([edge.xy, *(m.inside + edge.xy[row[0]] for m, row in zip(faces, edge.around, strict=True))]),
        np.concatenate([number[m.quads] for m, number in zip(faces, numbers, strict=True)]),
        np.concatenate([number[m.tris] for m, number in zip(faces, numbers, strict=True)]),
        np.repeat(every, [len(m.quads) for m in faces]),
        np.repeat(every, [len(m.tris) for m in faces]),
    )


def _on_lines(edge: Border, paths: list[Ints]) -> dict[str, Ints]:
    """The element edges (k, 2) along each line, those of the plan's edges on it; ``paths`` per edge of the plan its elements'."""
    pieces: dict[str, list[Ints]] = {label: [] for label, _ in edge.lines}
    for label, edges in edge.lines:
        pieces[label] += [paths[k] for k in edges.tolist()]
    none = np.zeros((0, 2), dtype=np.int64)
    return {label: np.unique(np.concatenate([none, *parts]), axis=0) for label, parts in pieces.items()}


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
