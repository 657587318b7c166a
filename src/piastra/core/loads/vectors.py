"""The load stage: unit load vectors, one a case, and one a panel for a pattern case."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.loads.integrate import along_line, element_weights, over_area
from piastra.core.mesh.locate import Elements, find, weights
from piastra.core.model import Floor
from piastra.core.model.loading import AreaLoad, JointLoad, LineLoad, Load, PointLoad
from piastra.core.model.members import Column, Wall
from piastra.core.model.message import Message
from piastra.core.model.shapes import Patch
from piastra.core.model.values import Plane, at_points, ends_of, plane_of, volume
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

NEGLIGIBLE = 1e-4
"""A share of a pattern case that lies on no panel up to this is rounding of the panels' borders."""
TOLD_LOSS = 0.005
"""A share of a load off the floor beyond this is told; chords of curved edges stay below it."""


Packed = tuple[npt.NDArray[np.int64], Array]
"""The nodes (k,) that a vector loads, and the loads there."""


@dataclass(frozen=True, slots=True)
class Unit:
    """One load vector: a case, and the panel that it covers (None: all of the case) with the ``others``, far away, that
    share it."""

    case: str
    panel: str | None
    others: tuple[str, ...] = ()

    @property
    def panels(self) -> tuple[str, ...]:
        """All panels that it covers."""
        return (*(() if self.panel is None else (self.panel,)), *self.others)


@dataclass(frozen=True, slots=True)
class LoadSum:
    """What a load amounts to (kN): as given, on the floor, and lost beside it; the ``area`` (m2) or ``length`` (m)
    that it was given on, nil where it has none."""

    load: str
    case: str
    given_kN: float
    on_floor_kN: float
    lost_kN: float
    area_m2: float = 0.0
    length_m: float = 0.0


@dataclass(frozen=True, slots=True)
class Piece:
    """The part of a load that belongs to a unit: numbers of both, and its shape (None: the whole floor)."""

    load: int
    unit: int
    shape: BaseGeometry | None


@dataclass(frozen=True, slots=True)
class LoadVectors:
    """``matrix`` (5 n, r), by columns, for the r ``units``: five forces a node; ``applied`` (r,) kN downwards; ``panels`` by label; the sums of
    each load; the ``pieces`` that the loads fall into; ``weight`` (e,) kN/m2 of the elements; the ``shapes`` of the
    loads (None: the whole floor); what of them is known at nodes (``shares``), by what that follows from. ``apart``: of the unit that most
    panels share its number, one panel, and the vector (n, 5) of that panel alone; None where none share."""

    units: tuple[Unit, ...]
    matrix: sp.csc_matrix
    applied: Array
    panels: tuple[tuple[str, Polygon], ...]
    sums: tuple[LoadSum, ...]
    pieces: tuple[Piece, ...]
    weight: Array
    shapes: tuple[BaseGeometry | None, ...]
    messages: tuple[Message, ...]
    shares: Mapping[bytes, Packed] = field(default_factory=dict, repr=False)
    apart: tuple[int, str, Array] | None = None
    secondary: tuple[int, ...] = ()
    """Units whose forces are those of section and tendon together."""

    def vectors(self, columns: npt.NDArray[np.int64] | None = None) -> Array:
        """The vectors (n, 5, k) of some units, or of all."""
        some = self.matrix if columns is None else self.matrix[:, columns]
        return np.asarray(some.toarray()).reshape(some.shape[0] // 5, 5, some.shape[1])

    def combined(self, factors: Array) -> Array:
        """The vector (n, 5) of all units by their ``factors`` (r,)."""
        return np.asarray(self.matrix @ factors).reshape(-1, 5)

    def of_case(self, case: str) -> list[int]:
        """Columns of a case."""
        return [k for k, u in enumerate(self.units) if u.case == case]


@dataclass(frozen=True, slots=True)
class Ground:
    """What loads fall on: the elements with the nodal shares ``whole`` (e, 4) m2 of each, the meshed ``area``, the part of it
    that belongs to each slab, and the nodes of each column's footprint."""

    elements: Elements
    whole: Array
    area: BaseGeometry
    slabs: Mapping[str, BaseGeometry]
    footprints: tuple[npt.NDArray[np.int64], ...]


@dataclass(slots=True)
class _Spread:
    """What loads are at nodes while vectors are made: what is ``known`` from before, and what is ``used`` now."""

    ground: Ground
    known: Mapping[bytes, Packed]
    used: dict[bytes, Packed] = field(default_factory=dict)

    def over_elements(self, plane: Plane) -> Array:
        """Nodal shares (e, 4) kN of a load on all elements."""
        if plane[1] or plane[2]:
            return element_weights(self.ground.elements, plane)
        return plane[0] * self.ground.whole

    def over(self, shape: BaseGeometry) -> Packed:
        """Nodal shares (k, 1) m2 of an area."""
        return self.nodal(shape.wkb, lambda: over_area(self.ground.elements, self.ground.whole, shape))

    def nodal(self, key: bytes, make: Callable[[], Array]) -> Packed:
        """What a load ``make`` (n,) is at nodes (k, 1), by the ``key`` of what it follows from: most edits change few values, so most are known."""
        if key not in self.used:
            self.used[key] = self.known.get(key) or _packed(make()[:, None])
        return self.used[key]


def load_vectors(
    floor: Floor,
    ground: Ground,
    weight: Array,
    panels: tuple[tuple[str, Polygon], ...],
    groups: Sequence[Sequence[str]],
    known: Mapping[bytes, Packed] | None = None,
) -> LoadVectors:
    """All unit load vectors of a floor.

    ``weight`` (e,) kN/m2 is the elements' self-weight; ``known`` are shares of shapes on the same ground. A pattern case has one unit for each of the
    ``groups`` of panels, by their labels, and one more for what lies on no panel. Loads need not fit the mesh; what falls off the floor is told.
    """
    elements, mesh_area = ground.elements, ground.area
    n = len(elements.xy)
    whole = ground.whole
    spread = _Spread(ground, known or {})
    units: list[Unit] = []
    vectors: list[list[Packed]] = []
    sums: list[LoadSum] = []
    pieces: list[Piece] = []
    messages: list[Message] = []
    apart: tuple[int, str, Array] | None = None
    shapes_of = [_shape(floor, l, ground) for l in floor.loads]
    for case in floor.load_cases:
        mine = [i for i, l in enumerate(floor.loads) if l.case == case.id]
        total = np.zeros((n, 5))
        if case.nature == "self_weight":
            total[:, 2] = _at_nodes(elements, whole * weight[:, None])
            own = float((whole * weight[:, None]).sum())
            sums.append(LoadSum("self-weight", case.id, own, own, 0.0, mesh_area.area))
        for i in mine:
            parts = _vectors(floor, floor.loads[i], spread, shapes_of[i])
            _add(total, parts)
            down = sum(float(forces[:, 2].sum()) for _, forces in parts)
            sums.append(_sum(floor, floor.loads[i], shapes_of[i], down, mesh_area, messages))
        if not case.pattern or not panels:
            pieces += [Piece(i, len(units), shapes_of[i]) for i in mine]
            units.append(Unit(case.id, None))
            vectors.append([_packed(total)])
            continue
        cut = [_cut(floor.loads[i], shapes_of[i], panels) for i in mine]
        rest = total.copy()
        number = {label: k for k, (label, _) in enumerate(panels)}
        for group in groups:
            covered: list[tuple[str, Packed]] = []
            for label in group:
                k = number[label]
                found = [(i, shapes[k]) for i, shapes in zip(mine, cut, strict=True) if not shapes[k].is_empty]
                part = _joined(n, [one for i, shape in found for one in _vectors(floor, floor.loads[i], spread, shape)])
                if part[1].any():
                    pieces += [Piece(i, len(units), shape) for i, shape in found]
                    covered.append((label, part))
                    rest[part[0]] -= part[1]
            if covered:
                if len(covered) > max(1, len(units[apart[0]].panels) if apart else 0):
                    label, part = covered[len(covered) // 2]
                    apart = len(units), label, _add(np.zeros((n, 5)), [part])
                units.append(Unit(case.id, covered[0][0], tuple(label for label, _ in covered[1:])))
                vectors.append([part for _, part in covered])
        left = np.abs(rest).sum()
        if 0 < left <= NEGLIGIBLE * np.abs(total).sum() and len(vectors) and units[-1].case == case.id:
            # Panels cut on the noder's grid miss a hair of the floor: it belongs to the last of them.
            vectors[-1].append(_packed(rest))
        elif left > NEGLIGIBLE * np.abs(total).sum():
            beside = shapely.unary_union([p for _, p in panels]).buffer(1e-6)
            for i in mine:
                pieces.append(Piece(i, len(units), (shapes_of[i] or mesh_area).difference(beside)))
            units.append(Unit(case.id, "beside the panels"))
            vectors.append([_packed(rest)])
    stacked = _stacked(n, vectors)
    down = sp.csr_matrix((np.ones(n), (np.zeros(n, dtype=np.int64), 5 * np.arange(n) + 2)), shape=(1, 5 * n))
    return LoadVectors(
        tuple(units), stacked, np.asarray((down @ stacked).toarray()[0]), panels, tuple(sums), tuple(pieces), weight, tuple(shapes_of),
        tuple(messages), spread.used, apart,
    )  # fmt: skip


def _stacked(n: int, vectors: Sequence[Sequence[Packed]]) -> sp.csc_matrix:
    """Sums of packed vectors as the columns of a matrix (5 n, r)."""
    rows, columns, values = [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)], [np.zeros(0)]
    for k, parts in enumerate(vectors):
        for nodes, forces in parts:
            # Most loads are of the five forces the one downwards alone.
            loaded = np.flatnonzero(forces)
            rows.append(5 * nodes[loaded // 5] + loaded % 5)
            columns.append(np.full(len(loaded), k))
            values.append(forces.ravel()[loaded])
    shape = (5 * n, len(vectors))
    found = sp.csc_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=shape)
    found.eliminate_zeros()
    return found


def _packed(vector: Array) -> Packed:
    """The nodes that a vector (n, k) loads, and the loads: a panel's are few."""
    rows = np.flatnonzero(vector) // vector.shape[1]
    rows = rows[np.diff(rows, prepend=-1) > 0]
    return rows, vector[rows]


def _add(total: Array, parts: Sequence[Packed]) -> Array:
    """Add packed vectors to one (n, 5)."""
    for rows, forces in parts:
        total[rows] += forces
    return total


def _joined(n: int, parts: Sequence[Packed]) -> Packed:
    """The sum of packed vectors."""
    return parts[0] if len(parts) == 1 else _packed(_add(np.zeros((n, 5)), parts))


def _down(share: Packed, times: float = 1.0) -> Packed:
    """Downward forces at nodes, as a vector."""
    rows, values = share
    forces = np.zeros((len(rows), 5))
    forces[:, 2] = times * values[:, 0]
    return rows, forces


def _joint(floor: Floor, load: JointLoad) -> Column | Wall:
    holders: list[Column | Wall] = [*floor.columns, *floor.walls]
    return next(h for h in holders if h.id == load.support)


def _shape(floor: Floor, load: Load, ground: Ground) -> BaseGeometry | None:
    if isinstance(load, AreaLoad):
        outline = polygon(load.outline) if load.outline else None
        if load.slabs is None:
            return outline
        covered = shapely.unary_union([ground.slabs[s] for s in load.slabs])
        return covered if outline is None else covered.intersection(outline)
    if isinstance(load, LineLoad):
        return LineString(load.line)
    if isinstance(load, JointLoad):
        holder = _joint(floor, load)
        return shapely.Point(holder.at) if isinstance(holder, Column) else LineString(polyline(holder.line))
    return shapely.Point(load.at)


def patch_of(load: PointLoad) -> Polygon | None:
    """The rectangle over which a point load is spread, m."""
    return None if load.patch is None else patch_area(load.at, load.patch)


def patch_area(at: Sequence[float], patch: Patch) -> Polygon:
    """A rectangle about a point, m."""
    (x, y), b, d = at, patch.b_m / 2, patch.d_m / 2
    return rotate(shapely.box(x - b, y - d, x + b, y + d), patch.angle_deg, origin=(x, y))


def pressure_of(load: PointLoad) -> Plane:
    """The plane of pressure under a patch that has the load's force and moments about its centre."""
    assert load.patch is not None
    b, d = load.patch.b_m, load.patch.d_m
    c, s = np.cos(np.radians(load.patch.angle_deg)), np.sin(np.radians(load.patch.angle_deg))
    # About the patch's own axes: a downward pressure at (u, v) turns by -v about u and by +u about v.
    m_u, m_v = c * load.Mx_kNm + s * load.My_kNm, -s * load.Mx_kNm + c * load.My_kNm
    of_u, of_v = m_v / (d * b**3 / 12), -m_u / (b * d**3 / 12)
    p_x, p_y = c * of_u - s * of_v, s * of_u + c * of_v
    return float(load.F_kN / (b * d) - p_x * load.at[0] - p_y * load.at[1]), float(p_x), float(p_y)


def _cut(load: Load, left: BaseGeometry | None, panels: tuple[tuple[str, Polygon], ...]) -> list[BaseGeometry]:
    """The load's part on each panel; what runs along a common border belongs to the first."""
    parts: list[BaseGeometry] = []
    whole = left
    for _, panel in panels:
        if left is None:
            parts.append(panel)
            continue
        part = left.intersection(panel)
        if isinstance(load, JointLoad) and not part.is_empty:
            # A joint's load is one thing: it goes with the first panel that its support touches.
            part, left = whole, shapely.Point()
        parts.append(part)
        if not isinstance(load, AreaLoad) and not part.is_empty:
            left = left.difference(part.buffer(1e-7))
    return parts


def _sum(
    floor: Floor, load: Load, shape: BaseGeometry | None, on: float, mesh_area: BaseGeometry, messages: list[Message]
) -> LoadSum:
    area = length = 0.0
    if isinstance(load, AreaLoad):
        where = mesh_area if shape is None else shape
        plane = plane_of(floor, load)
        given, area = volume(plane, where), where.area
        corners = at_points(plane, shapely.get_coordinates(where)) if area else np.zeros(1)
        size = area * float(np.abs(corners).max())
    elif isinstance(load, LineLoad):
        ends = ends_of(floor, load)
        length = LineString(load.line).length
        given, size = length * sum(ends) / 2, length * max(map(abs, ends))
    else:
        given = size = load.F_kN
    lost = given - on
    if isinstance(load, LineLoad | AreaLoad):
        off = abs(lost) > TOLD_LOSS * size
    elif isinstance(load, JointLoad):
        off = abs(lost) > TOLD_LOSS * abs(size)
    else:
        reach = patch_of(load) or shapely.Point(load.at)
        off = reach.distance(mesh_area) > 1e-6 or abs(lost) > TOLD_LOSS * abs(size)
    if off:
        centre = shape.centroid if shape is not None and not shape.is_empty else mesh_area.centroid
        share = f"{amount(lost, 'force')} of {amount(given, 'force')}" if given else "all of it"
        messages.append(
            Message("warning", load.id, f"lies partly or wholly beside the floor: {share} is not applied; move or shorten it", (centre.x, centre.y))
        )  # fmt: skip
    return LoadSum(load.id, load.case, given, on, lost, area, length)


def _at_nodes(elements: Elements, shares: Array) -> Array:
    """Sums (n,) at the nodes of what elements have at their corners, ``shares`` (e, 4)."""
    n = len(elements.xy)
    # A triangle's fourth corner, -1, is the row behind all nodes.
    return np.asarray(np.bincount((elements.nodes % (n + 1)).ravel(), shares.ravel(), minlength=n + 1)[:-1], dtype=np.float64)


def _vectors(floor: Floor, load: Load, spread: _Spread, shape: BaseGeometry | None) -> list[Packed]:
    """Vectors whose sum is a load, or the part of it with the given shape (None: on all elements)."""
    ground, elements = spread.ground, spread.ground.elements
    if isinstance(load, AreaLoad):
        plane = plane_of(floor, load)
        if shape is not None:
            return [_on_area(spread, shape, plane)] if shape.area > 0 else []
        nodes = np.arange(len(elements.xy))
        return [_down((nodes, _at_nodes(elements, spread.over_elements(plane))[:, None]))]
    if isinstance(load, LineLoad):
        line = LineString(load.line)
        found = []
        for run in shapely.get_parts(shape):
            if isinstance(run, LineString) and run.length > 0:
                ends = [value_at(floor, load, line, shapely.Point(p)) for p in (run.coords[0], run.coords[-1])]
                found.append(_down(spread.nodal(run.wkb + np.array(ends).tobytes(), partial(_along, elements, run, ends))))
        return found
    if isinstance(load, PointLoad) and load.patch is not None:
        patch = patch_of(load)
        assert patch is not None
        return [_on_area(spread, patch, pressure_of(load))]
    out = np.zeros((len(elements.xy) + 1, 5))
    if isinstance(load, JointLoad):
        _on_joint(floor, load, ground, out)
    else:
        _at_point(elements, np.array(load.at), load, out)
    return [_packed(out[:-1])]


def _on_area(spread: _Spread, shape: BaseGeometry, plane: Plane) -> Packed:
    if plane[1] == 0.0 and plane[2] == 0.0:
        return _down(spread.over(shape), plane[0])
    return _down(spread.nodal(
        shape.wkb + np.array(plane).tobytes(),
        lambda: over_area(spread.ground.elements, spread.over_elements(plane), shape, plane),
    ))  # fmt: skip


def _along(elements: Elements, run: LineString, ends: Sequence[float]) -> Array:
    return along_line(elements, run, (ends[0], ends[1]))[0]


def _at_point(elements: Elements, at: Array, load: PointLoad | JointLoad, out: Array) -> None:
    element = find(elements, at[None])
    if element[0] >= 0:
        share = weights(elements, element, at[None])[0]
        force = np.array([0.0, 0.0, load.F_kN, -load.My_kNm, load.Mx_kNm])
        np.add.at(out, elements.nodes[element[0]], share[:, None] * force)


def _on_joint(floor: Floor, load: JointLoad, ground: Ground, out: Array) -> None:
    """A column's joint is rigid over its footprint: any node of it takes the load, with its arm. A wall takes the
    force and the moment in its plane as a load that varies along it, the rest as an even moment about it."""
    holder, xy = _joint(floor, load), ground.elements.xy
    if isinstance(holder, Column):
        nodes = ground.footprints[floor.columns.index(holder)]
        if not len(nodes):
            _at_point(ground.elements, np.array(holder.at), load, out)
            return
        near = nodes[np.hypot(*(xy[nodes] - holder.at).T).argmin()]
        rx, ry = np.array(holder.at) - xy[near]
        out[near] += (0.0, 0.0, load.F_kN, -(load.My_kNm + load.F_kN * rx), load.Mx_kNm - load.F_kN * ry)
        return
    line = LineString(polyline(holder.line))
    points = np.array(line.coords)
    start, way = points[:-1], np.diff(points, axis=0)
    length = np.hypot(*way.T)
    centre = ((start + way / 2) * length[:, None]).sum(axis=0) / length.sum()
    off = start + way / 2 - centre
    spread = np.einsum("k,ki,kj->ij", length, off, off) + np.einsum("k,ki,kj->ij", length / 12, way, way)
    axis = np.linalg.eigh(spread)[1][:, -1]
    inertia = float(axis @ spread @ axis)
    # The moment in the wall's plane turns about the horizontal axis square to it.
    in_plane = -load.Mx_kNm * axis[1] + load.My_kNm * axis[0]
    about = load.Mx_kNm * axis[0] + load.My_kNm * axis[1]
    for a, b in pairwise(points):
        q = [load.F_kN / length.sum() + in_plane * float((p - centre) @ axis) / inertia for p in (a, b)]
        out[:-1, 2] += along_line(ground.elements, LineString([a, b]), (q[0], q[1]))[0]
        m = along_line(ground.elements, LineString([a, b]), (about / length.sum(),) * 2)[0]
        out[:-1, 3] -= m * axis[1]
        out[:-1, 4] += m * axis[0]


def value_at(floor: Floor, load: LineLoad, line: LineString, point: shapely.Point) -> float:
    q0, q1 = ends_of(floor, load)
    return q0 + (q1 - q0) * line.project(point) / line.length
