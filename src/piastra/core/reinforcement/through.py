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
from piastra.core.reinforcement.groups import Group, extra_at
from piastra.core.reinforcement.mats import mats_of, provided

Ints = npt.NDArray[np.int64]

INSIDE = 0.6
"""A column with so much floor (m) to all sides stands inside the floor."""


@dataclass(frozen=True, slots=True)
class Through:
    """Bottom bars of one direction through a column: their ``count`` over its ``width`` (m), by the metre ``per_m``; whether the
    column stands ``inside`` the floor."""

    column: str
    at: tuple[float, float]
    direction: str
    width: float
    per_m: float
    inside: bool

    @property
    def count(self) -> float:
        """Bars that fall within the width, on average."""
        return self.per_m * self.width


def bars_through(
    floor: Floor, footprints: Sequence[Polygon], slabs: Ints, region: BaseGeometry, groups: Sequence[Group], inset: float
) -> tuple[Through, ...]:
    """Of every column that carries the floor and stands in a slab (``slabs`` (c,), -1 in none): the width across the bars less
    ``inset`` m at both sides."""
    mats = mats_of(floor)
    whole = shapely.union_all([Polygon(p.exterior) for p in shapely.get_parts(region)])
    out = []
    for column, footprint, slab in zip(floor.columns, footprints, slabs.tolist(), strict=True):
        if column.below is None or footprint.is_empty or slab < 0:
            continue
        at = np.array([column.at])
        here = provided(mats, at, np.array([slab]))
        inside = whole.contains(footprint.buffer(INSIDE))
        for k, direction in enumerate("xy"):
            angle = np.radians(floor.slabs[slab].bar_angle_deg) + k * np.pi / 2
            xy = shapely.get_coordinates(footprint)
            width = float(np.ptp(xy @ (-np.sin(angle), np.cos(angle)))) - 2 * inset
            more = extra_at(groups, at, np.array([angle]), region).count[0, 0]
            out.append(
                Through(
                    column.id, (column.at[0], column.at[1]), direction, max(width, 0.0), float(here.count[k, 0] + more), inside
                )
            )
    return tuple(out)
