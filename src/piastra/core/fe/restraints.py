"""Columns, walls and supports as stiffness and constraints at the nodes of the mesh."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from shapely.geometry import LineString

from piastra.core.fe import quad
from piastra.core.geometry.arcs import polyline
from piastra.core.mesh.mesher import Mesh
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import section_values
from piastra.core.model.members import Storey
from piastra.core.model.message import Message

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

RIGID = 1e9
"""Stiffness (kN/m, kNm) that stands for "fixed" at a node that belongs to a column's footprint."""


@dataclass(slots=True)
class Restraints:
    """What holds the floor.

    ``labels`` names every support. Springs: ``node`` (k,), ``owner`` (k,) index into labels, ``block`` (k, 5, 5)
    kN/m, kN, kNm. Fixed: ``fixed`` (f, 2) node and owner of nodes held vertically, ``fixed_weight`` (f,) their
    tributary length; ``clamped`` (c, 2) and ``clamp_axis`` (c, 2) nodes whose slope in that direction is nil.
    Columns: ``masters`` (m,) owners, ``master_at`` (m, 2) m, ``master_block`` (m, 3, 3) on w, beta_x, beta_y,
    ``master_sway`` (m, 2, 2) kN/m on the mean u, v of the footprint, ``slaves`` the nodes of each footprint.
    ``centre`` (labels, 2) m the points about which reactions are given; ``beds`` the owners
    that are beddings.
    """

    labels: list[str] = field(default_factory=list)
    centre: list[tuple[float, float]] = field(default_factory=list)
    node: list[Ints] = field(default_factory=list)
    owner: list[Ints] = field(default_factory=list)
    block: list[Array] = field(default_factory=list)
    lifts: list[npt.NDArray[np.bool_]] = field(default_factory=list)
    fixed: list[tuple[int, int, float]] = field(default_factory=list)
    clamped: list[tuple[int, int, float, float]] = field(default_factory=list)
    masters: list[int] = field(default_factory=list)
    master_at: list[tuple[float, float]] = field(default_factory=list)
    master_block: list[Array] = field(default_factory=list)
    master_sway: list[Array] = field(default_factory=list)
    slaves: list[Ints] = field(default_factory=list)
    beds: set[int] = field(default_factory=set)
    messages: list[Message] = field(default_factory=list)

    def name(self, label: str, centre: tuple[float, float]) -> int:
        """Number a support."""
        self.labels.append(label)
        self.centre.append(centre)
        return len(self.labels) - 1

    def spring(self, nodes: Ints, owner: int, block: Array, lifts: bool = False) -> None:
        """Add springs (k, 5, 5) at nodes (k,)."""
        self.node.append(nodes)
        self.owner.append(np.full(len(nodes), owner, dtype=np.int64))
        self.block.append(block)
        self.lifts.append(np.full(len(nodes), lifts))

    def springs(self) -> tuple[Ints, Ints, Array, npt.NDArray[np.bool_]]:
        """All springs: nodes, owners, blocks, and whether they lift off in tension."""
        if not self.node:
            empty = np.zeros(0, dtype=np.int64)
            return empty, empty, np.zeros((0, 5, 5)), np.zeros(0, dtype=bool)
        return tuple(np.concatenate(x) for x in (self.node, self.owner, self.block, self.lifts))  # type: ignore[return-value]


def stretches(xy: Array, edges: Ints) -> tuple[Ints, Array, Array]:
    """Both ends of a line's edges (k, 2): the nodes (2k,), half the edge's length (2k,) m, its direction (2k, 2)."""
    way = xy[edges[:, 1]] - xy[edges[:, 0]]
    length = np.hypot(*way.T)
    return edges.ravel(), np.repeat(length / 2, 2), np.repeat(way / length[:, None], 2, axis=0)


def _outer(axis: Array) -> Array:
    return axis[:, :, None] * axis[:, None, :]


def _middle(path: list[list[float]]) -> tuple[float, float]:
    at = LineString(polyline(path)).interpolate(0.5, normalized=True)
    return at.x, at.y


def turning(storey: Storey | None, EI: float) -> float:
    """Rotational stiffness of a storey-high member at the floor: 4EI/L, far end pinned 3EI/L."""
    if storey is None:
        return 0.0
    return (4.0 if storey.far_end == "fixed" else 3.0) * EI / storey.height_m


def _sway(storey: Storey | None, EI: float) -> float:
    """Shear stiffness of a storey-high member whose top does not turn: 12EI/L3, far end pinned 3EI/L3."""
    if storey is None:
        return 0.0
    return (12.0 if storey.far_end == "fixed" else 3.0) * EI / storey.height_m**3


def restraints(floor: Floor, plan: Plan, mesh: Mesh, moduli: dict[str, float]) -> Restraints:
    """The floor's restraints; ``moduli`` gives E (kN/m2) of each concrete by id.

    Columns and walls give 4EI/L or 3EI/L in rotation, EA/L upright (below only) and 12EI/L3 or 3EI/L3 in sway;
    a wall with a hinged top 3EI/L3 or nothing. Sway and rotation are not coupled, which is the sub-frame of a braced building (EN 1992-1-1 5.8.2, note:
    the floor does not sway under vertical load).
    """
    held = Restraints()
    held.messages += [*plan.messages, *mesh.messages]
    for c, column in enumerate(floor.columns):
        if not len(mesh.footprints[c]):
            if not plan.footprints[c].is_empty:
                told = "is too slender for this mesh and does not act; reduce the mesh size or enlarge it"
                held.messages.append(Message("warning", column.id, told, (column.at[0], column.at[1])))
            continue
        owner = held.name(column.id, (column.at[0], column.at[1]))
        E = moduli[column.concrete]
        value = section_values(column)
        angle = np.radians(column.angle_deg)
        R = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        storeys = (column.below, column.above)
        turn = [sum(turning(s, E * i) for s in storeys) for i in (value.i_x, value.i_y)]
        sway = [sum(_sway(s, E * i) for s in storeys) for i in (value.i_x, value.i_y)]
        block = np.zeros((3, 3))
        block[0, 0] = E * value.area / column.below.height_m if column.below else 0.0
        block[1:, 1:] = R @ np.diag(turn) @ R.T
        held.masters.append(owner)
        held.master_at.append((column.at[0], column.at[1]))
        held.master_block.append(block)
        held.master_sway.append(R @ np.diag(sway) @ R.T)
        held.slaves.append(mesh.footprints[c])
    tied = np.zeros(len(mesh.xy), dtype=bool)
    for nodes in held.slaves:
        tied[nodes] = True
    _walls(held, floor, mesh, moduli)
    _lines_and_points(held, floor, mesh, tied)
    _beddings(held, floor, plan, mesh)
    return held


def _walls(held: Restraints, floor: Floor, mesh: Mesh, moduli: dict[str, float]) -> None:
    for wall in floor.walls:
        edges = mesh.lines[wall.id]
        if not len(edges):
            continue
        owner = held.name(wall.id, _middle(wall.line))
        nodes, length, along = stretches(mesh.xy, edges)
        across = np.column_stack([-along[:, 1], along[:, 0]])
        concrete = next(c for c in floor.concretes if c.id == wall.concrete)
        E, t = moduli[wall.concrete], wall.thickness_m
        G = E / (2 * (1 + concrete.poisson))
        I = t**3 / 12
        storeys = (wall.below, wall.above)
        block = np.zeros((len(nodes), 5, 5))
        rack = sum(5 / 6 * G * t / s.height_m for s in storeys if s)
        # With a hinge at the floor it bends as a cantilever from its far end, if that is fixed.
        hinged = wall.top == "hinged"
        bend = sum((_sway(s, E * I) if not hinged else 0.25 * _sway(s, E * I) * (s.far_end == "fixed")) for s in storeys if s)
        block[:, :2, :2] = rack * _outer(along) + bend * _outer(across)
        block[:, 2, 2] = E * t / wall.below.height_m if wall.below else 0.0
        if wall.top == "monolithic":
            block[:, 3:, 3:] = sum(turning(s, E * I) for s in storeys) * _outer(across)
        held.spring(nodes, owner, length[:, None, None] * block)


SMOOTH = np.cos(np.radians(30.0))
"""Lines of support that meet at less than 30 degrees are taken as one curved line."""


def _lines_and_points(held: Restraints, floor: Floor, mesh: Mesh, tied: npt.NDArray[np.bool_]) -> None:
    tangents: dict[int, list[tuple[int, Array]]] = {}
    for support in floor.supports:
        if support.kind == "line":
            edges = mesh.lines[support.id]
            if not len(edges):
                continue
            owner = held.name(support.id, _middle(support.line))
            nodes, length, along = stretches(mesh.xy, edges)
            axes = [np.column_stack([-along[:, 1], along[:, 0]])]
            if support.vertical == "fixed":
                for n, tangent in zip(nodes, along, strict=True):
                    met = tangents.setdefault(int(n), [])
                    if not tied[n] and not any(o == owner and abs(t @ tangent) > 1 - 1e-9 for o, t in met):
                        met.append((owner, tangent))
        elif support.kind == "point":
            if support.id not in mesh.points:
                continue
            owner = held.name(support.id, (support.at[0], support.at[1]))
            nodes, length = np.array([mesh.points[support.id]]), np.ones(1)
            axes = [np.array([[1.0, 0.0]]), np.array([[0.0, 1.0]])]
        else:
            continue
        block = np.zeros((len(nodes), 5, 5))
        if support.vertical == "fixed":
            block[tied[nodes], 2, 2] = RIGID
            joints, place = np.unique(nodes, return_inverse=True)
            share = np.bincount(place.ravel(), weights=length)
            held.fixed += [(int(n), owner, float(l)) for n, l in zip(joints, share, strict=True) if not tied[n]]
        elif support.vertical != "free":
            block[:, 2, 2] = length * support.vertical
        for axis in axes:
            if support.rotation == "fixed":
                block[tied[nodes], 3:, 3:] += RIGID * _outer(axis)[tied[nodes]]
                turns = {(int(n), round(float(a[0]), 9), round(float(a[1]), 9)) for n, a in zip(nodes, axis, strict=True)}
                held.clamped += [(n, owner, ax, ay) for n, ax, ay in sorted(turns) if not tied[n]]
            elif support.rotation != "free":
                block[:, 3:, 3:] += length[:, None, None] * support.rotation * _outer(axis)
        if block.any():
            held.spring(nodes, owner, block)
    # A line that does not sink does not let the slab's section twist along it either: the "hard" support that
    # Kirchhoff's plate has. Where lines meet at a flat angle, it acts along their mean direction.
    for n, met in tangents.items():
        if not met:
            continue
        first = met[0][1]
        aligned = [a if a @ first >= 0 else -a for _, a in met]
        mean = np.sum(aligned, axis=0) / np.hypot(*np.sum(aligned, axis=0))
        smooth = all(a @ mean > SMOOTH for a in aligned)
        for (o, _), own in zip(met, aligned, strict=True):
            axis = mean if smooth else own
            held.clamped.append((n, o, float(axis[0]), float(axis[1])))


def nodal_areas(mesh: Mesh, quads: npt.NDArray[np.bool_], tris: npt.NDArray[np.bool_]) -> Array:
    """Area (m2) that belongs to each node, (n,), from the picked elements."""
    area = np.zeros(len(mesh.xy))
    if quads.any():
        p = mesh.xy[mesh.quads[quads]]
        J = np.einsum("gka,eac->egkc", quad.slope(quad.GAUSS), p)
        det = J[..., 0, 0] * J[..., 1, 1] - J[..., 0, 1] * J[..., 1, 0]
        np.add.at(area, mesh.quads[quads], det @ quad.shape(quad.GAUSS))
    if tris.any():
        p = mesh.xy[mesh.tris[tris]]
        d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
        np.add.at(area, mesh.tris[tris], np.abs(d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0])[:, None] / 6)
    return area


def _beddings(held: Restraints, floor: Floor, plan: Plan, mesh: Mesh) -> None:
    beds = [s for s in floor.supports if s.kind == "area"]
    for b, bed in enumerate(beds):
        area = nodal_areas(mesh, plan.bedding[mesh.quad_face] == b, plan.bedding[mesh.tri_face] == b)
        nodes = np.flatnonzero(area)
        if not len(nodes):
            continue
        centre = (mesh.xy[nodes] * area[nodes, None]).sum(axis=0) / area.sum()
        owner = held.name(bed.id, (float(centre[0]), float(centre[1])))
        held.beds.add(owner)
        block = np.zeros((len(nodes), 5, 5))
        block[:, 2, 2] = bed.modulus_kN_m3 * area[nodes]
        held.spring(nodes, owner, block, lifts=bed.compression_only)
