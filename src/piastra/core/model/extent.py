"""How far a floor's concrete reaches, and at which size it is looked at."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.model.floor import Floor
from piastra.core.model.footprint import beam_outline

TARGET = 0.7
"""The target size of elements as a share of the greatest size asked for: with it no side exceeds that size by
more than a little, and a clamped plate of twelve sizes a span has a deflection within 1 %."""


def merged(size: float) -> float:
    """Corners and edges nearer to each other than this (m) become one, for elements of a ``size`` (m); movement joints, from
    20 mm, stay open."""
    return min(0.04 * size, 0.015)


def typical_size(floor: Floor) -> float:
    """The target size of elements, m: from the given greatest size or a twelfth of the typical span."""
    return TARGET * (floor.mesh.size_m or twelfth(floor))


def twelfth(floor: Floor) -> float:
    """A twelfth of the typical span, m."""
    at = [c.at for c in floor.columns] + [s.at for s in floor.supports if s.kind == "point"]
    area = sum(polygon(s.outline).area for s in floor.slabs)
    if len(at) >= 3:
        xy = np.array(at, dtype=np.float64)
        gaps = np.hypot(*(xy[:, None] - xy[None]).transpose(2, 0, 1))
        np.fill_diagonal(gaps, np.inf)
        span = float(np.median(gaps.min(axis=1)))
    else:
        lengths = [min(_sides(s.outline)) for s in floor.slabs]
        span = float(min(np.sqrt(area), max(lengths)))
    return float(np.clip(span / 12, 0.05, 1.0))


def _sides(outline: Sequence[Sequence[float]]) -> tuple[float, float]:
    box = polygon(outline).minimum_rotated_rectangle
    xy = shapely.get_coordinates(box)
    a, b = np.hypot(*(xy[1] - xy[0])), np.hypot(*(xy[2] - xy[1]))
    return float(a), float(b)


def slabs_together(slabs: Sequence[Polygon], gap: float) -> BaseGeometry:
    """What slabs (m) cover; gaps between them narrower than ``gap`` (m) are none, as the mesh has it. Borders along a slope, whose vertices were not drawn
    at the same places, meet but for rounding."""
    together = shapely.unary_union(slabs)
    if len(slabs) < 2:
        return together
    closed = together.buffer(gap / 2, join_style="mitre").buffer(-gap / 2, join_style="mitre")
    # As they were drawn where nothing was to be closed.
    return closed if together.length - closed.length > 4 * gap else together


def floor_region(floor: Floor, step: float | None = None) -> BaseGeometry:
    """Slabs less openings, with the beams, m; arcs as in :func:`piastra.core.geometry.arcs.chords`."""
    concrete = slabs_together([polygon(s.outline, step) for s in floor.slabs], merged(typical_size(floor)))
    holes = shapely.unary_union([polygon(o.outline, step) for o in floor.openings])
    beams = [beam_outline(b, step) for b in floor.beams]
    return shapely.make_valid(shapely.unary_union([concrete.difference(holes), *beams]))
