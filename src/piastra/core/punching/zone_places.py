"""Where punching zones are: what of a zone does not depend on loads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.geometry.perimeter import Perimeter
from piastra.core.loads.within import Clipped, clip
from piastra.core.mesh.locate import Elements
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline, footprint
from piastra.core.model.members import Column, Rectangle
from piastra.core.model.message import Message
from piastra.core.reinforcement.groups import Group, extra_at
from piastra.core.reinforcement.mats import mats_of, provided
from piastra.core.standards.protocol import PunchingRules, ZoneCheck, ZoneShape

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

Around = Literal["column", "thickening"]
BEAM_SHARE = 0.25
"""A column with so much of its section under a beam gets its load from that."""
UNDER_BEAM = "stands under beam {beam}, which brings it its load by shear"


@dataclass(frozen=True, slots=True)
class Outline:
    """One perimeter of one column, with the slab, the thickness ``h`` and the effective ``depths`` of the top x and y bars
    (m) there, and what it encloses."""

    column: Column
    around: Around
    loaded: Polygon
    perimeter: Perimeter
    inside: Clipped
    slab: int
    h: float
    depths: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Unzoned:
    """A column, or its perimeter ``around`` a thickening, that no zone checks, and why."""

    column: str
    at: tuple[float, float]
    reason: str
    around: Around = "column"


@dataclass(frozen=True, slots=True)
class ZonePlace:
    """A zone before anything loads it: its outline, the ratios ``rho`` of its x and y bars, and the standard's rules."""

    outline: Outline
    rho: tuple[float, float]
    check: ZoneCheck


@dataclass(frozen=True, slots=True)
class Outlines:
    """Perimeters of a floor, with the columns that have none."""

    outlines: tuple[Outline, ...]
    without: tuple[Unzoned, ...]
    messages: tuple[Message, ...]


@dataclass(frozen=True, slots=True)
class ColumnBars:
    """For each column the ``element`` (c,) under its middle (-1: none) and the ``depth`` (c, 2) m of the top x and y bars
    below the top face there."""

    element: Ints
    depth: Array


def column_bars(floor: Floor, plan: Plan, elements: Elements, slab_of: Ints) -> ColumnBars:
    """Elements and top bars at the columns; ``slab_of`` (e,)."""
    mats = mats_of(floor)
    element, depth = np.full(len(floor.columns), -1, dtype=np.int64), np.zeros((len(floor.columns), 2))
    for number, column in enumerate(floor.columns):
        outline = plan.footprints[number]
        if outline.is_empty:
            continue
        near = elements.tree.query(outline, predicate="intersects")
        inner = near[shapely.covers(outline.buffer(1e-3), elements.shapes[near])]
        if len(inner):
            element[number] = inner[0]
            here = provided(mats, np.array([column.at]), slab_of[inner[:1]])
            depth[number] = here.depth[2, 0], here.depth[3, 0]
    return ColumnBars(element, depth)


NO_PERIMETER = "edges and openings leave no control perimeter"
STRAIGHT_PERIMETER = "edges and openings leave a straight control perimeter, which resists no moment across itself"
STRAIGHT = 1e-4
"""A perimeter whose first moment is below this share of its squared length is a straight line; a square's is 0.09."""


def outlines(
    floor: Floor, rules: PunchingRules, plan: Plan, elements: Elements, slab_of: Ints, h_of: Array, bars: ColumnBars,
) -> Outlines:  # fmt: skip
    """The perimeters of every column that carries the floor.

    ``slab_of`` and ``h_of`` (e,) of each element. Of the mats, only the bars' depths count.
    """
    solid = shapely.unary_union([Polygon(p.exterior) for p in shapely.get_parts(plan.region)])
    openings = [(o.id, polygon(o.outline)) for o in floor.openings]
    found: list[Outline] = []
    without: list[Unzoned] = []
    messages: list[Message] = []
    beams = [beam_outline(b) for b in floor.beams]
    thickenings = [(t, polygon(t.outline)) for t in sorted(floor.thickenings, key=lambda t: -t.priority)]

    def add(number: int, around: Around, loaded: Polygon, h: float, slab: int) -> str:
        """Add the perimeter, or say why there is none that can be checked."""
        column = floor.columns[number]
        d_x, d_y = h - bars.depth[number]
        d = float((d_x + d_y) / 2)
        perimeter = rules.perimeter(loaded, solid, openings, d, h)
        if perimeter is None:
            return NO_PERIMETER
        turn = float(np.radians(column.angle_deg))
        if min(perimeter.first_moment(turn), perimeter.first_moment(turn + np.pi / 2)) < STRAIGHT * perimeter.length**2:
            return STRAIGHT_PERIMETER
        inside = clip(elements, perimeter.inside)
        found.append(Outline(column, around, loaded, perimeter, inside, slab, h, (float(d_x), float(d_y))))
        return ""

    for number, column in enumerate(floor.columns):
        if column.below is None or plan.footprints[number].is_empty:
            continue
        loaded, at = footprint(column), (column.at[0], column.at[1])
        element = int(bars.element[number])
        if element < 0:
            without.append(Unzoned(column.id, at, "it is too slender for the mesh"))
            continue
        slab, h = int(slab_of[element]), float(h_of[element])
        beam = next(
            (b.id for b, o in zip(floor.beams, beams, strict=True) if o.intersection(loaded).area > BEAM_SHARE * loaded.area),
            None,
        )
        if beam is not None:
            told = UNDER_BEAM.format(beam=beam)
            messages.append(Message("note", column.id, f"{told}; it is not checked for punching", at))
            without.append(Unzoned(column.id, at, told))
            continue
        thick = next(
            (o for t, o in thickenings if t.thickness_m > floor.slabs[slab].thickness_m and o.contains(shapely.Point(column.at))),
            None,
        )
        # Checked at the column even where a thickening ends inside the perimeter: the face needs it in any case.
        told = add(number, "column", loaded, h, slab)
        if told:
            messages.append(Message("warning", column.id, f"{told}; move the openings or the column", at))
            without.append(Unzoned(column.id, at, told))
        if thick is not None:
            head = thick.intersection(solid).convex_hull
            told = add(number, "thickening", head, floor.slabs[slab].thickness_m, slab)
            if told:
                without.append(Unzoned(column.id, at, f"around the thickening, {told}", "thickening"))
    return Outlines(tuple(found), tuple(without), tuple(messages))


def zone_places(
    floor: Floor, rules: PunchingRules, region: BaseGeometry, found: Sequence[Outline], groups: Sequence[Group]
) -> tuple[ZonePlace, ...]:
    """The zones with their bars, those of ``groups`` beside the mats, and the standard's rules."""
    mats = mats_of(floor)
    concretes = {c.id: c for c in floor.concretes}
    grids = [_grid(region, footprint(o.column), rules.bars_within((o.depths[0] + o.depths[1]) / 2)) for o in found]
    turns = [float(np.radians(floor.slabs[o.slab].bar_angle_deg)) for o in found]
    more = _more(groups, grids, turns, region)
    made = []
    for o, xy, extra in zip(found, grids, more, strict=True):
        d_x, d_y = o.depths
        here = provided(mats, xy, np.full(len(xy), o.slab))
        rho = (float((here.area[2] + extra[0]).mean()) / d_x, float((here.area[3] + extra[1]).mean()) / d_y)
        shape = ZoneShape(
            footprint(o.column), o.perimeter, float(np.radians(o.column.angle_deg)), _column_sides(o.column), o.h, d_x, d_y, rho,
            concretes[floor.slabs[o.slab].concrete], o.around == "column",
        )  # fmt: skip
        made.append(ZonePlace(o, rho, rules.zone(shape)))
    return tuple(made)


def _grid(region: BaseGeometry, loaded: Polygon, beyond: float) -> Array:
    """Points (k, 2) m on concrete over the loaded area's box and ``beyond`` (m) each side of it, over which ratios of bars are
    means."""
    x0, y0, x1, y1 = loaded.bounds
    gx, gy = np.meshgrid(np.linspace(x0 - beyond, x1 + beyond, 25), np.linspace(y0 - beyond, y1 + beyond, 25))
    xy = np.column_stack([gx.ravel(), gy.ravel()])
    return np.asarray(xy[shapely.contains_xy(region, xy[:, 0], xy[:, 1])])


def _more(
    groups: Sequence[Group], grids: Sequence[Array], turns: Sequence[float], region: BaseGeometry
) -> list[tuple[Array, Array]]:
    """Top bars of groups at the points of each grid, along the slab's x and y bars (at ``turns`` rad), m2/m."""
    if not grids:
        return []
    xy = np.concatenate(grids)
    turn = np.repeat(turns, [len(g) for g in grids])
    both = extra_at(groups, np.concatenate([xy, xy]), np.concatenate([turn, turn + np.pi / 2]), region).area[1]
    ends = np.cumsum([len(g) for g in grids])[:-1]
    return list(zip(np.split(both[: len(xy)], ends), np.split(both[len(xy) :], ends), strict=True))


def _column_sides(column: Column) -> tuple[float, float]:
    shape = column.shape
    return (shape.b_m, shape.d_m) if isinstance(shape, Rectangle) else (shape.diameter_m, shape.diameter_m)
