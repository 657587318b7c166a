"""How tendons are spread over slabs and columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.model.tendon_curve import Curve

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ALIKE = float(np.cos(np.pi / 4))
"""A tendon runs along a direction from which it turns by less than 45 degrees."""
AT = 1e-3
FARTHER = 3.0
"""Neighbours are looked for so many times the greatest spacing away."""


@dataclass(frozen=True, slots=True)
class Spread:
    """Where tendons of a ``slab`` lie farthest apart: the ``gaps`` (2,) m between neighbours along the slab's x and y bars ``at`` a place (infinite:
    there are none), whose greatest spacing is ``limit`` m in a thickness ``h`` m."""

    slab: int
    at: tuple[float, float]
    gaps: tuple[float, float]
    h: float
    limit: float

    @property
    def use(self) -> float:
        """Of the closer direction."""
        return min(self.gaps) / self.limit


@dataclass(frozen=True, slots=True)
class Arrangement:
    """``strands`` (t,) that cross each column along each direction, in the order of the bars through columns, the greatest ``thickness`` (t,) m of the
    slab and its drop over the column, and how slabs' tendons are ``spread``."""

    strands: Array
    thickness: Array
    spread: tuple[Spread, ...]


def strands_over(
    footprints: Sequence[Polygon], angles: Array, inset: float, curves: Sequence[Curve], counts: Sequence[int]
) -> Array:
    """Strands (t,) that run across each of t columns along ``angles`` (t,) rad: through their footprints less ``inset`` m at all sides, and past their
    middles; those that are anchored there end beyond them."""
    tree = shapely.STRtree([LineString(c.xy) for c in curves])
    out = np.zeros(len(footprints))
    for k, (footprint, angle) in enumerate(zip(footprints, angles, strict=True)):
        core = footprint.buffer(-inset, join_style="mitre")
        if core.is_empty:
            continue
        middle = np.array(footprint.centroid.coords[0])
        way = np.array([np.cos(angle), np.sin(angle)])
        for number in tree.query(core, predicate="intersects"):
            for part in shapely.get_parts(core.intersection(tree.geometries[number])):
                xy = shapely.get_coordinates(part)
                run = xy[-1] - xy[0]
                t = (xy - middle) @ way
                along = abs(run @ way) >= ALIKE * max(float(np.hypot(*run)), 1e-12)
                if len(xy) > 1 and along and t.min() <= AT and t.max() >= -AT:
                    out[k] += counts[int(number)]
    return out


def widest(
    xy: Array,
    slab: Ints,
    h: Array,
    limit: Array,
    angles: Array,
    region: BaseGeometry,
    curves: Sequence[Curve],
    runs_in: Sequence[int],
) -> tuple[Spread, ...]:
    """Of each slab of the numbers ``runs_in``, whose bars along x lie at ``angles`` (s,) rad, the place among ``xy`` (k, 2) m where tendons of
    the closer direction lie farthest apart for their greatest spacing ``limit`` (k,) m. Beyond the outermost tendon the distance to it counts."""
    ends = np.concatenate([np.stack([c.xy[:-1], c.xy[1:]], axis=1) for c in curves])
    ends = ends[np.hypot(*(ends[:, 1] - ends[:, 0]).T) > 1e-9]
    heading = np.arctan2(*(ends[:, 1] - ends[:, 0]).T[::-1])
    out = []
    for s in runs_in:
        here = np.flatnonzero(slab == s)
        if not len(here):
            continue
        gaps = np.stack([
            _gaps(xy[here], FARTHER * limit[here], a, ends[np.abs(np.cos(heading - a)) >= ALIKE], region)
            for a in (angles[s], angles[s] + np.pi / 2)
        ])  # fmt: skip
        k = int((gaps.min(axis=0) / limit[here]).argmax())
        place = here[k]
        at = (float(xy[place, 0]), float(xy[place, 1]))
        out.append(Spread(int(s), at, (float(gaps[0, k]), float(gaps[1, k])), float(h[place]), float(limit[place])))
    return tuple(out)


def _gaps(xy: Array, reach: Array, angle: float, ends: Array, region: BaseGeometry) -> Array:
    """Distances (k,) m between the neighbours of places, square to an angle."""
    across = np.array([-np.sin(angle), np.cos(angle)])
    total, none = np.zeros(len(xy)), np.ones(len(xy), dtype=bool)
    tree = shapely.STRtree(shapely.linestrings(ends))
    for side in (1.0, -1.0):
        far = xy + side * reach[:, None] * across
        rays = shapely.linestrings(np.stack([xy, far], axis=1))
        free = _free(xy, rays, region)
        nearest = np.full(len(xy), np.inf)
        of, piece = tree.query(rays, predicate="intersects")
        a, e = ends[piece, 0], ends[piece, 1] - ends[piece, 0]
        cross = side * (across[0] * e[:, 1] - across[1] * e[:, 0])
        with np.errstate(divide="ignore", invalid="ignore"):
            t = ((a - xy[of])[:, 0] * e[:, 1] - (a - xy[of])[:, 1] * e[:, 0]) / cross
        np.minimum.at(nearest, of, np.where(np.isfinite(t), np.maximum(t, 0.0), 0.0))
        met = nearest <= free + AT
        none &= ~met
        # Where the slab ends before there is a tendon, the other side counts alone.
        total += np.where(met, nearest, np.where(free < reach - AT, 0.0, np.inf))
    return np.where(none, np.inf, total)


def _free(xy: Array, rays: npt.NDArray[np.object_], region: BaseGeometry) -> Array:
    """How far (k,) m rays run in concrete from where they begin."""
    shapely.prepare(region)
    out: Array = shapely.length(rays)
    for k in np.flatnonzero(~shapely.covers(region, rays)):
        parts = shapely.get_parts(shapely.intersection(rays[k], region))
        start = shapely.Point(xy[k])
        out[k] = next((float(p.length) for p in parts if p.distance(start) < AT), 0.0)
    return out
