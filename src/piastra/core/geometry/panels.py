"""Panels of pattern load: the floor cut along the lines through its supports."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.axes import Axis

SLIVER = 0.15
"""A piece with less than this share of the median piece's area belongs to its neighbour."""


def _split_at_bends(piece: Polygon) -> list[Polygon]:
    """Cut a thin piece where it turns a re-entrant corner of the floor, from that corner to the nearest one across:
    its arms belong to different bays."""
    xy = shapely.get_coordinates(shapely.orient_polygons(piece).exterior)[:-1]
    before, after = np.roll(xy, 1, axis=0), np.roll(xy, -1, axis=0)
    turn = (xy[:, 0] - before[:, 0]) * (after[:, 1] - xy[:, 1]) - (xy[:, 1] - before[:, 1]) * (after[:, 0] - xy[:, 0])
    cuts = []
    for k in np.flatnonzero(turn < -1e-6):
        others = [j for j in range(len(xy)) if j not in (k, (k - 1) % len(xy), (k + 1) % len(xy))]
        if others:
            across = min(others, key=lambda j: float(np.hypot(*(xy[j] - xy[k]))))
            cuts.append(LineString([xy[k], xy[across]]))
    if not cuts:
        return [piece]
    return list(shapely.get_parts(shapely.polygonize(list(shapely.get_parts(shapely.unary_union([piece.boundary, *cuts]))))))


def derive_panels(region: BaseGeometry, lines: Sequence[Axis]) -> list[Polygon]:
    """Cut ``region`` (m) along axes; pieces too small to be a bay join the neighbour with the longest side.

    An axis is followed past its last support to the floor's edge, at most three quarters of its mean span.
    """
    cuts = []
    for axis in lines:
        if not axis.from_supports:
            continue
        start, end = axis.bearings[0].start, axis.bearings[-1].end
        spans = max(len(axis.bearings) - 1, 1)
        reach = max(0.75 * (end - start) / spans, 1.0)
        cuts.append(LineString(axis.point(np.array([start - reach, end + reach]))))
    work = shapely.unary_union([region.boundary, *cuts], grid_size=1e-4)
    pieces = [
        p for p in shapely.get_parts(shapely.polygonize(list(shapely.get_parts(work))))
        if shapely.contains_xy(region, *p.representative_point().coords[0])
    ]  # fmt: skip
    areas = np.array([p.area for p in pieces])
    least = SLIVER * float(np.median(areas[areas > areas.max() / 10]))
    pieces = [part for p in pieces for part in (_split_at_bends(p) if p.area <= least else [p])]
    fixed: list[Polygon] = []
    while len(pieces) > 1:
        small = int(np.argmin([p.area for p in pieces]))
        if pieces[small].area > least:
            break
        piece = pieces.pop(small)
        shared = [piece.intersection(p).length for p in pieces]
        into = int(np.argmax(shared))
        joined = pieces[into].union(piece, grid_size=1e-4)
        if shared[into] > 0.0 and isinstance(joined, Polygon):
            pieces[into] = joined
        else:
            fixed.append(piece)
    pieces += fixed
    # Numbered as one reads: rows from the top, each from the left.
    at = [p.centroid for p in pieces]
    row = max(1.0, 0.5 * float(np.sqrt(np.median([p.area for p in pieces]))))
    order = sorted(range(len(pieces)), key=lambda k: (-round(at[k].y / row), at[k].x))
    return [pieces[k] for k in order]
