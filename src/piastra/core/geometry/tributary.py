"""Tributary areas: what of a floor is nearer to each support than to any other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt
import shapely
from scipy.spatial import Voronoi
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

Array = npt.NDArray[np.float64]

ALONG = 0.5
"""Lines are taken as points so far (m) apart."""


def tributary(
    region: BaseGeometry, points: Mapping[str, tuple[float, float]], lines: Mapping[str, Array | Sequence[Sequence[float]]]
) -> dict[str, BaseGeometry]:
    """Parts of a ``region`` that belong to supports at ``points`` and along ``lines``, m. Together they are the region; points that coincide share the
    first one's part, and the others have none."""
    labels, places = list(points), [(float(x), float(y)) for x, y in points.values()]
    for label, line in lines.items():
        path = shapely.LineString(np.asarray([p[:2] for p in line], dtype=np.float64))
        count = max(int(path.length / ALONG), 1) + 1
        places += [path.interpolate(t, normalized=True).coords[0] for t in np.linspace(0, 1, count)]
        labels += [label] * count
    out: dict[str, BaseGeometry] = {label: Polygon() for label in (*points, *lines)}
    if not places:
        return out
    xy = np.array(places).reshape(-1, 2)
    _, first = np.unique(xy.round(6), axis=0, return_index=True)
    kept = np.sort(first)
    if len(kept) < 2:
        return {**out, labels[int(kept[0])]: region}
    low, high = np.array(region.bounds[:2]), np.array(region.bounds[2:])
    middle, far = (low + high) / 2, 20 * float(np.hypot(*(high - low)))
    ring = np.linspace(0, 2 * np.pi, 12, endpoint=False)
    # With points far outside, every cell that matters is bounded.
    cells = Voronoi(np.vstack([xy[kept], middle + far * np.column_stack([np.cos(ring), np.sin(ring)])]))
    parts: dict[str, list[BaseGeometry]] = {}
    for k, number in enumerate(kept.tolist()):
        corners = cells.vertices[cells.regions[cells.point_region[k]]]
        parts.setdefault(labels[number], []).append(Polygon(corners).convex_hull.intersection(region))
    return {**out, **{label: shapely.union_all(found) for label, found in parts.items()}}
