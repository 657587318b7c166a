"""The plan: the floor cut into faces, and which slab, thickening and bedding holds in each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import chords, polygon, polyline
from piastra.core.geometry.partition import Partition, partition
from piastra.core.mesh.pieces import piece_lines
from piastra.core.mesh.singular import corner_points, exit_points, leap_points, singular_points, tip_points
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.core.model.extent import TARGET, floor_region, merged, twelfth, typical_size
from piastra.core.model.footprint import beam_outline, footprint
from piastra.core.model.message import Message
from piastra.core.trace.amounts import amount

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Finer:
    """A place ``at`` (m) around which elements are of ``size`` (m) within ``radius`` (m), and grow from there to the target size over ``reach``
    times what they grow by."""

    at: tuple[float, float]
    size: float
    radius: float
    reach: float = 6.0


@dataclass(frozen=True, slots=True)
class Linework:
    """The floor cut into faces by everything that changes its section or its support, and what the mesh must follow.

    ``column`` (f,): the footprint in each face (index into the floor's columns, -1 for none). ``lines`` are straight pieces
    of what holds the floor along a line. ``size`` is the target size of elements (m), ``usual`` what it is where none is asked for; ``region`` the
    concrete as drawn, arcs in fine chords; ``footprints`` each column's footprint clipped to the floor (may be empty).
    """

    parts: Partition
    column: Ints
    size: float
    usual: float
    region: BaseGeometry
    footprints: tuple[BaseGeometry, ...]
    lines: tuple[tuple[str, LineString], ...]
    points: tuple[tuple[str, tuple[float, float]], ...]
    messages: tuple[Message, ...]
    finer: tuple[Finer, ...] = ()


@dataclass(frozen=True, slots=True)
class Ranks:
    """Order of thicknesses, which settles overlaps of equal priority: numbers for each slab, thickening and beam."""

    slabs: tuple[int, ...]
    thickenings: tuple[int, ...]
    beams: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Plan:
    """Which slab, thickening, beam, area and bedding holds in each face of the ``linework``.

    Per face (index into the floor's lists, -1 for none): ``slab``, ``thickening``, ``beam``, ``one_way`` and
    ``stiffness`` (its areas of that kind), ``bedding`` (its area support).
    """

    linework: Linework
    slab: Ints
    thickening: Ints
    beam: Ints
    one_way: Ints
    stiffness: Ints
    bedding: Ints
    overlaps: tuple[Message, ...]

    @property
    def parts(self) -> Partition:
        """The faces."""
        return self.linework.parts

    @property
    def column(self) -> Ints:
        """The footprint in each face."""
        return self.linework.column

    @property
    def size(self) -> float:
        """Target size of elements, m."""
        return self.linework.size

    @property
    def region(self) -> BaseGeometry:
        """The concrete as drawn, m."""
        return self.linework.region

    @property
    def footprints(self) -> tuple[BaseGeometry, ...]:
        """Each column's footprint clipped to the floor, m."""
        return self.linework.footprints

    @property
    def messages(self) -> tuple[Message, ...]:
        """What the plan has to tell."""
        return (*self.linework.messages, *self.overlaps)


def ranks_of(floor: Floor) -> Ranks:
    """The order of a floor's thicknesses."""
    order = sorted({s.thickness_m for s in floor.slabs} | {t.thickness_m for t in floor.thickenings})
    depths = sorted({b.depth_m for b in floor.beams})
    return Ranks(
        tuple(order.index(s.thickness_m) for s in floor.slabs), tuple(order.index(t.thickness_m) for t in floor.thickenings),
        tuple(depths.index(b.depth_m) for b in floor.beams),
    )  # fmt: skip


def _owner(polygons: Sequence[BaseGeometry], rank: Sequence[tuple[float, ...]], at: npt.NDArray[np.float64]) -> Ints:
    """For each point the polygon of the highest rank that contains it, or -1."""
    owner = np.full(len(at), -1, dtype=np.int64)
    for i in sorted(range(len(polygons)), key=lambda k: rank[k]):
        owner[shapely.contains_xy(polygons[i], at[:, 0], at[:, 1])] = i
    return owner


Pressed = tuple[tuple[float, float], float, float]
"""A place where a load presses on a point or a patch: m, with the patch's lesser and greater side (m), 0 for a point."""

FINER = 3.0
"""Elements are so many times finer at a point load than elsewhere, and at a patch a third of its lesser side."""
FINEST = 8.0
"""Elements are so many times finer than usual where shear has no bound: at the effective depth from there it is then within a tenth in any mesh, with slabs
of a thirtieth of the span."""
LEAP = 16.0
"""Elements are so many times finer than usual where the thickness leaps beside what holds the floor, a ninth of the effective depth of a
slab of a thirtieth of the span: pieces along which shear is looked at run over such corners."""
EXIT = 6.0
"""Elements are so many times finer than usual where a line that holds the floor comes out of a column: of 24 lines of random floors the one with the least
shear had 0.95 of that of 0.15 m then, and 0.90 without, with 7 % more nodes."""
STEEP = 3.0
"""Times what elements grow by, over which they grow away from such a corner: a quarter of the nodes that a slope of 6 takes."""


def _pressed(at: tuple[float, float], less: float, more: float, size: float) -> Finer:
    """What a load asks for that presses on a patch of these sides, or on a point."""
    return Finer(at, float(np.clip(less / 3 if less else size / FINER, size / 10, size)), max(more * 0.71, 0.5 * size))


def make_linework(floor: Floor, pressed: Sequence[Pressed] = ()) -> Linework:
    """Partition the floor by everything that changes its section or its support; finer where it is ``pressed``.

    Raises :class:`RefusedError` when nothing of the floor is left.
    """
    if not floor.slabs:
        raise RefusedError([Refusal("slabs", "has none yet; draw a slab, and the floor is computed")])
    size = typical_size(floor)
    messages: list[Message] = []
    region = floor_region(floor)
    coarse = floor_region(floor, size)
    if coarse.is_empty or coarse.area < 1e-3:
        raise RefusedError([Refusal("openings", "leave nothing of the slabs; make them smaller or delete one")])

    outlines = [r.outline for r in floor.slabs] + [o.outline for o in floor.openings] + [t.outline for t in floor.thickenings]
    lines: list[BaseGeometry]
    outlines += [a.outline for a in floor.one_way_areas] + [a.outline for a in floor.stiffness_areas]
    lines = [LineString(_closed(chords(o, size))) for o in outlines]
    beams = [beam_outline(b, size) for b in floor.beams]
    lines += [b.exterior for b in beams]
    beddings = [s for s in floor.supports if s.kind == "area"]
    lines += [LineString(_closed(chords(s.outline, size))) for s in beddings]

    prints: list[BaseGeometry] = []
    for column in floor.columns:
        clipped = footprint(column, sides=12).intersection(coarse)
        if clipped.area < 0.02 * footprint(column).area:
            messages.append(
                Message("warning", column.id, "stands outside the floor and does not act; move it under a slab",
                        (column.at[0], column.at[1]))
            )  # fmt: skip
            clipped = Polygon()
        for j, other in enumerate(prints):
            if clipped.intersection(other).area > 1e-6:
                messages.append(
                    Message("warning", column.id, f"overlaps column {floor.columns[j].id}; move one of them",
                            (column.at[0], column.at[1]))
                )  # fmt: skip
                clipped = clipped.difference(other)
        prints.append(clipped)
        if not clipped.is_empty:
            lines.append(clipped.boundary)

    along = [(w.id, LineString(polyline(w.line, size))) for w in floor.walls]
    along += [(s.id, LineString(polyline(s.line, size))) for s in floor.supports if s.kind == "line"]
    loose = {s.id for s in floor.supports if s.kind == "line" and s.vertical in ("free", 0.0)}
    supports: list[tuple[str, LineString]] = []
    for label, line in along:
        supports += [(label, LineString(piece)) for piece in pairwise(line.coords)]
        share = line.intersection(coarse.buffer(1e-3)).length / line.length
        if share < 0.99:
            what = (
                "lies outside the floor and does not act"
                if share < 0.01
                else f"has {100 * (1 - share):.0f} % of its length outside the floor"
            )
            messages.append(Message("warning", label, f"{what}; move it or extend the slab", _middle(line)))
        lines.append(line)
    points = [(s.id, (s.at[0], s.at[1])) for s in floor.supports if s.kind == "point"]
    for label, spot in points:
        if shapely.Point(spot).distance(coarse) > 1e-3:
            messages.append(Message("warning", label, "lies outside the floor and does not act; move it onto a slab", spot))

    lines += piece_lines(lines, coarse, size)
    parts = partition(lines, coarse, merged(size))
    standing = _owner(prints, [(k,) for k in range(len(prints))], parts.inside)
    holding = [line for label, line in along if label not in loose]
    thickness = {w.id: w.thickness_m for w in floor.walls}
    faces = [
        line.buffer(thickness.get(label, 0.0) / 2 + merged(size), cap_style="flat") for label, line in along if label not in loose
    ]
    thick = [polygon(t.outline, size) for t in floor.thickenings]
    bands = [shape for t, shape in zip(floor.thickenings, thick, strict=True) if t.kind == "band"]
    # Shear is looked at at the slab's own scale, however large or small elements are to be.
    usual = TARGET * twelfth(floor)
    finer = (
        *(Finer((r.at[0], r.at[1]), r.size_m, r.radius_m) for r in floor.mesh.refinements), *(_pressed(*p, size) for p in pressed),
        *(Finer(at, min(size, usual) / FINEST, min(size, usual)) for at in singular_points(holding, coarse, prints, merged(size), size)),
        *(Finer(at, usual / EXIT, usual, STEEP) for at in exit_points(holding, coarse, prints, merged(size))),
        *(Finer(at, usual / LEAP, usual / 4, STEEP) for at in leap_points(holding, thick, coarse, prints, merged(size), 2 * usual)),
        *(Finer(at, usual / LEAP, usual / 4) for at in tip_points(bands, coarse, prints, merged(size), usual)),
        *(Finer(at, usual / LEAP, usual / 4, STEEP) for at in corner_points([*faces, *beams, *bands], coarse, prints, merged(size), 2 * usual)),
    )  # fmt: skip
    return Linework(
        parts, standing, size, usual, region, tuple(prints), tuple(supports), tuple(points), tuple(messages), finer
    )  # fmt: skip


def make_plan(floor: Floor, linework: Linework, ranks: Ranks) -> Plan:
    """Find out what holds in each face."""
    size, at = linework.size, linework.parts.inside
    slabs = [polygon(s.outline, size) for s in floor.slabs]
    slab = _owner(slabs, [(s.priority, r) for s, r in zip(floor.slabs, ranks.slabs, strict=True)], at)
    if (slab < 0).any():
        # A face next to a chorded arc can lie a hair outside every outline: the nearest slab is its slab.
        for f in np.flatnonzero(slab < 0):
            slab[f] = int(np.argmin([s.distance(shapely.Point(at[f])) for s in slabs]))
    thick = _owner(
        [polygon(t.outline, size) for t in floor.thickenings],
        [(t.priority, r) for t, r in zip(floor.thickenings, ranks.thickenings, strict=True)], at,
    )  # fmt: skip
    beams = [beam_outline(b, size) for b in floor.beams]
    beam = _owner(beams, [(b.priority, r) for b, r in zip(floor.beams, ranks.beams, strict=True)], at)
    one_way = _owner([polygon(a.outline, size) for a in floor.one_way_areas], [(k,) for k in range(len(floor.one_way_areas))], at)
    stiffness = _owner(
        [polygon(a.outline, size) for a in floor.stiffness_areas], [(k,) for k in range(len(floor.stiffness_areas))], at
    )
    beddings = [s for s in floor.supports if s.kind == "area"]
    bedding = _owner([polygon(s.outline, size) for s in beddings], [(k,) for k in range(len(beddings))], at)
    return Plan(linework, slab, thick, beam, one_way, stiffness, bedding, tuple(_overlaps(floor, ranks)))


def _closed(xy: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    return np.concatenate([xy, xy[:1]])


def _middle(line: LineString) -> tuple[float, float]:
    point = line.interpolate(0.5, normalized=True)
    return point.x, point.y


def _overlaps(floor: Floor, ranks: Ranks) -> list[Message]:
    found: list[Message] = []
    shapes = [polygon(s.outline) for s in floor.slabs]
    for i in range(len(shapes)):
        for j in range(i):
            common = shapes[i].intersection(shapes[j])
            a, b = floor.slabs[i], floor.slabs[j]
            if (
                common.area > 1e-3
                and a.priority == b.priority
                and (ranks.slabs[i], a.top_offset_m) != (ranks.slabs[j], b.top_offset_m)
            ):
                c = common.centroid
                found.append(
                    Message("warning", a.id, f"overlaps slab {b.id} over {amount(common.area, 'area')}; the thicker one is used there. "
                            "Give one of them a higher priority or pull them apart", (c.x, c.y))
                )  # fmt: skip
    return found
