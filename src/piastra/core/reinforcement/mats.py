"""What the given mats provide at places on the plan."""

from __future__ import annotations

from dataclasses import dataclass, fields
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.model.floor import Mat

Array = npt.NDArray[np.float64]

ROWS = (("bottom", "x"), ("bottom", "y"), ("top", "x"), ("top", "y"))
"""Order of faces and directions wherever steel is kept in four rows."""
ASSUMED_BAR = 0.012
"""Bar diameter (m) where no mat says otherwise."""
EVEN = 12
"""Decimals of depths, m."""


@dataclass(frozen=True, slots=True)
class Provided:
    """Steel at k places: ``area`` (4, k) m2/m, ``depth`` (4, k) m from the face to the bars' centres, ``count`` (4, k) bars by the
    metre, ``diameters`` (4, k) the sum of their diameters, m by the metre."""

    area: Array
    depth: Array
    count: Array
    diameters: Array

    def radius(self, row: int) -> Array:
        """Mean radius (k,) m of one row's bars, by area; that of the assumed bar where there are none."""
        mean = 2 / np.pi * self.area[row] / np.maximum(self.diameters[row], 1e-12)
        return np.asarray(np.where(self.diameters[row] > 0, mean, ASSUMED_BAR / 2))


@dataclass(frozen=True, slots=True)
class Mats:
    """A floor's mats with their outlines as polygons (None: over the whole floor), and their bounds (m, 4) m."""

    floor: Floor
    outlines: tuple[Polygon | None, ...]
    bounds: Array

    def near(self, low: Array, high: Array) -> npt.NDArray[np.int64]:
        """Mats whose bounds meet those from ``low`` to ``high`` (2,) m."""
        apart = (self.bounds[:, :2] > high).any(axis=1) | (self.bounds[:, 2:] < low).any(axis=1)
        return np.flatnonzero(~apart)

    def holding(self, k: int, xy: Array) -> npt.NDArray[np.bool_]:
        """Which of the points (p, 2) lie in one mat."""
        outline = self.outlines[k]
        if outline is None:
            return np.ones(len(xy), dtype=bool)
        inside: npt.NDArray[np.bool_] = np.all((xy > self.bounds[k, :2]) & (xy < self.bounds[k, 2:]), axis=1)
        if outline.area < (1 - 1e-12) * outline.envelope.area:
            inside[inside] = shapely.contains_xy(outline, xy[inside])
        return np.asarray(inside)


def mats_of(floor: Floor) -> Mats:
    """The floor's mats, ready to be asked about places."""
    outlines = tuple(None if m.outline is None else polygon(m.outline) for m in floor.mats)
    shapely.prepare([o for o in outlines if o is not None])
    everywhere = (-np.inf, -np.inf, np.inf, np.inf)
    return Mats(floor, outlines, np.array([everywhere if o is None else o.bounds for o in outlines]).reshape(-1, 4))


def provided(mats: Mats, xy: Array, slab: npt.NDArray[np.int64]) -> Provided:
    """Steel that the mats give at points (k, 2) m in the given slabs (k,).

    Bars of the inner layer lie below the thickest outer bar of their face. Mats that overlap add up; their
    depth is the mean by area.
    """
    floor, count = mats.floor, len(xy)
    low, high = (xy.min(axis=0), xy.max(axis=0)) if count else (np.zeros(2), np.zeros(2))
    cover = {
        "bottom": np.array([s.cover_bottom_mm for s in floor.slabs])[slab] / 1e3,
        "top": np.array([s.cover_top_mm for s in floor.slabs])[slab] / 1e3,
    }
    here: list[tuple[Mat, npt.NDArray[np.bool_], str]] = []
    for k in mats.near(low, high):
        m = floor.mats[k]
        here.append((m, mats.holding(k, xy), m.layer or ("outer" if m.direction == "x" else "inner")))
    area, depth, bars, diameters = (np.zeros((4, count)) for _ in range(4))
    for r, (face, direction) in enumerate(ROWS):
        outer = np.zeros(count)
        for m, at, layer in here:
            if m.face == face and layer == "outer":
                outer = np.where(at, np.maximum(outer, m.bar_mm / 1e3), outer)
        outer[outer == 0] = ASSUMED_BAR
        moment = np.zeros(count)
        for m, at, layer in here:
            if m.face == face and m.direction == direction:
                bar = m.bar_mm / 1e3
                a = np.where(at, np.pi * bar**2 / 4 / (m.spacing_mm / 1e3), 0.0)
                area[r] += a
                bars[r] += np.where(at, 1e3 / m.spacing_mm, 0.0)
                diameters[r] += np.where(at, m.bar_mm / m.spacing_mm, 0.0)
                moment += a * (cover[face] + bar / 2 + (outer if layer == "inner" else 0.0))
        assumed = cover[face] + ASSUMED_BAR / 2 + (0.0 if direction == "x" else outer)
        # A mean that does not feel the last bit: bars of one mat, closer or wider apart, leave the depth as it is.
        depth[r] = np.where(area[r] > 0, np.round(moment / np.maximum(area[r], 1e-12), EVEN), assumed)
    return Provided(area, depth, bars, diameters)


def provided_by_parts(mats: Mats, xy: Array, slab: npt.NDArray[np.int64], starts: npt.NDArray[np.int64]) -> Provided:
    """As :func:`provided`, for points that lie close together from each of the ``starts`` (z + 1,) to the next: of many mats with outlines few are
    near to each of these."""
    if len(starts) < 3 or all(o is None for o in mats.outlines):
        return provided(mats, xy, slab)
    parts = [provided(mats, xy[a:b], slab[a:b]) for a, b in pairwise(starts.tolist())]
    return Provided(*(np.concatenate([getattr(p, f.name) for p in parts], axis=1) for f in fields(Provided)))
