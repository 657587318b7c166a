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


class Columns:
    """Columns that carry a floor and stand in its slabs, for one way after another of laying bars."""

    def __init__(self, floor: Floor, footprints: Sequence[Polygon], slabs: Ints, region: BaseGeometry, inset: float) -> None:
        """``slabs`` (c,) in which each column stands, -1 in none. Bars count over the width across them less ``inset`` m at both sides."""
        whole = shapely.union_all([Polygon(p.exterior) for p in shapely.get_parts(region)])
        mine = [k for k, c in enumerate(floor.columns) if c.below is not None and not footprints[k].is_empty and slabs[k] >= 0]
        # A column on an edge is met where there is concrete over it.
        over = [(k, o) for k in mine if not (o := footprints[k].intersection(region)).is_empty]
        self.at = np.array([o.centroid.coords[0] for _, o in over]).reshape(-1, 2)
        self.slabs = np.array([slabs[k] for k, _ in over], dtype=np.int64)
        self.labels = [floor.columns[k].id for k, _ in over]
        self.inside = [bool(whole.contains(footprints[k].buffer(INSIDE))) for k, _ in over]
        turn = np.radians([floor.slabs[k].bar_angle_deg for k in self.slabs.tolist()])
        self.angle = np.concatenate([turn, turn + np.pi / 2])
        self.spots = Spots(np.concatenate([self.at, self.at]), region)
        self.mats = provided(mats_of(floor), self.at, self.slabs)
        rings = [shapely.get_coordinates(footprints[k]) for k, _ in over] * 2
        across = [float(np.ptp(xy @ (-np.sin(a), np.cos(a)))) - 2 * inset for xy, a in zip(rings, self.angle, strict=True)]
        self.width = np.maximum(np.array(across), 0.0)

    @property
    def bytes_held(self) -> int:
        """About how much memory they take."""
        return self.spots.bytes_held + 300 * len(self.labels)

    def bars_through(self, groups: Sequence[Group]) -> tuple[Through, ...]:
        """Of every column in both directions of its slab's bars, what mats and ``groups`` give."""
        count = len(self.labels)
        extra = extra_at([g for g in groups if g.face == 0], self.spots, self.angle)
        more, more_area = (v[0].reshape(2, count) for v in (extra.count, extra.area))
        return tuple(
            Through(
                self.labels[j],
                (float(self.at[j, 0]), float(self.at[j, 1])),
                direction,
                float(self.width[j + k * count]),
                float(self.mats.count[k, j] + more[k, j]),
                float(self.mats.area[k, j] + more_area[k, j]),
                self.inside[j],
                float(self.angle[j + k * count]),
                int(self.slabs[j]),
            )
            for j in range(count)
            for k, direction in enumerate("xy")
        )
