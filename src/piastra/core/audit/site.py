"""The floor's shapes as the audit reads them, made once."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import Floor
from piastra.core.model.extent import merged, slabs_together, typical_size
from piastra.core.model.footprint import beam_outline, footprint

TOLERANCE = 0.05
"""Gaps and pieces narrower than this (m) are taken as slips of drawing."""


@dataclass(frozen=True, slots=True)
class Site:
    """Polygons and lines (m) of a floor's objects, in the order of their lists. ``concrete`` is slabs with beams,
    ``region`` that less the openings."""

    floor: Floor
    slabs: tuple[Polygon, ...]
    openings: tuple[Polygon, ...]
    thickenings: tuple[Polygon, ...]
    beams: tuple[Polygon, ...]
    columns: tuple[Polygon, ...]
    walls: tuple[LineString, ...]
    concrete: BaseGeometry
    region: BaseGeometry
    narrow: float
    """Gaps between slabs narrower than this (m) are closed by the computation."""


def site_of(floor: Floor) -> Site:
    """The shapes of a floor."""
    slabs = tuple(polygon(s.outline) for s in floor.slabs)
    narrow = merged(typical_size(floor)) if len(slabs) > 1 else 0.0
    openings = tuple(polygon(o.outline) for o in floor.openings)
    beams = tuple(beam_outline(b) for b in floor.beams)
    concrete = shapely.unary_union([slabs_together(slabs, narrow), *beams])
    return Site(
        floor, slabs, openings, tuple(polygon(t.outline) for t in floor.thickenings), beams,
        tuple(footprint(c) for c in floor.columns), tuple(LineString(polyline(w.line)) for w in floor.walls),
        concrete, shapely.unary_union([concrete.difference(shapely.unary_union(openings)), *beams]), narrow,
    )  # fmt: skip


def at(shape: BaseGeometry) -> tuple[float, float]:
    """A point of a shape to pin a finding to, m."""
    lines = shape.geom_type in ("LineString", "MultiLineString") and shape.length > 0
    point = (
        max(shapely.get_parts(shape), key=lambda p: p.length).interpolate(0.5, True) if lines else shape.representative_point()
    )
    return round(point.x, 4), round(point.y, 4)


def nearest_shift(shape: BaseGeometry, target: BaseGeometry) -> tuple[float, float]:
    """The shortest shift (m) that brings a shape to touch another."""
    (ax, ay), (bx, by) = shapely.shortest_line(shape, target).coords
    return bx - ax, by - ay
