"""Bottom bars that pass through columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group, Spots, extra_at
from piastra.core.reinforcement.mats import mats_of, provided

Ints = npt.NDArray[np.int64]

INSIDE = 0.6
"""A column with so much floor (m) to all sides stands inside the floor."""


@dataclass(frozen=True, slots=True)
class Through:
    """Bottom bars of one direction through a column: their ``count`` over its ``width`` (m), by the metre ``per_m``, and their ``area`` m2/m; whether the
    column stands ``inside`` the floor; direction ``angle`` rad of the bars and the number of the ``slab``."""

    column: str
    at: tuple[float, float]
    direction: str
    width: float
    per_m: float
    area: float
    inside: bool
    angle: float
    slab: int

    @property
    def count(self) -> float:
        """Bars that fall within the width, on average."""
        return round(self.per_m * self.width, 9)


def bars_through(
    floor: Floor, footprints: Sequence[Polygon], slabs: Ints, region: BaseGeometry, groups: Sequence[Group], inset: float
) -> tuple[Through, ...]:
    """Of every column that carries the floor and stands in a slab (``slabs`` (c,), -1 in none): the width across the bars less
    ``inset`` m at both sides."""
    mats = mats_of(floor)
    whole = shapely.union_all([Polygon(p.exterior) for p in shapely.get_parts(region)])
    mine = [k for k, c in enumerate(floor.columns) if c.below is not None and not footprints[k].is_empty and slabs[k] >= 0]
    if not mine:
        return ()
    # A column on an edge is met where there is concrete over it.
    over = [footprints[k].intersection(region) for k in mine]
    mine = [k for k, o in zip(mine, over, strict=True) if not o.is_empty]
    at = np.array([o.centroid.coords[0] for o in over if not o.is_empty])
    if not mine:
        return ()
    turn = np.radians([floor.slabs[int(slabs[k])].bar_angle_deg for k in mine])
    angle = np.concatenate([turn, turn + np.pi / 2])
    extra = extra_at(groups, Spots(np.concatenate([at, at]), region), angle)
    more, more_area = (v[0].reshape(2, len(mine)) for v in (extra.count, extra.area))
    laid = provided(mats, at, np.array([slabs[k] for k in mine]))
    here = laid.count[:2]
    out = []
    for j, number in enumerate(mine):
        column, footprint = floor.columns[number], footprints[number]
        inside = whole.contains(footprint.buffer(INSIDE))
        xy = shapely.get_coordinates(footprint)
        for k, direction in enumerate("xy"):
            a = turn[j] + k * np.pi / 2
            width = float(np.ptp(xy @ (-np.sin(a), np.cos(a)))) - 2 * inset
            at_column, passing = (float(at[j, 0]), float(at[j, 1])), float(here[k, j] + more[k, j])
            area = float(laid.area[k, j] + more_area[k, j])
            out.append(
                Through(column.id, at_column, direction, max(width, 0.0), passing, area, inside, float(a), int(slabs[number]))
            )
    return tuple(out)
