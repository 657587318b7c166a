"""Footprints of columns and beams, and section properties of columns and walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import rotate, translate
from shapely.geometry import LineString, Polygon

from piastra.core.geometry.arcs import polyline
from piastra.core.model.members import Beam, Column, Rectangle

CIRCLE_SIDES = 32
"""A round column is computed as the regular polygon of equal area with so many sides."""


def beam_outline(beam: Beam, step: float | None = None) -> Polygon:
    """The beam's outline on plan, m: its line with half the width on each side, ends square, corners mitred."""
    return LineString(polyline(beam.line, step)).buffer(beam.width_m / 2, cap_style="flat", join_style="mitre")


def torsion_constant(width: float, depth: float) -> float:
    """St Venant's torsion constant of a rectangle, m4; sides in m, within 0.1 %. Source: Roark, table 10.7."""
    a, b = max(width, depth), min(width, depth)
    return a * b**3 * (1 / 3 - 0.21 * b / a * (1 - b**4 / (12 * a**4)))


@dataclass(frozen=True, slots=True)
class SectionValues:
    """Area (m2) and second moments (m4): ``i_x`` resists bending along the member's own x axis."""

    area: float
    i_x: float
    i_y: float


def section_values(column: Column) -> SectionValues:
    """Gross section values of a column's section."""
    shape = column.shape
    if isinstance(shape, Rectangle):
        b, d = shape.b_m, shape.d_m
        return SectionValues(b * d, d * b**3 / 12, b * d**3 / 12)
    r = shape.diameter_m / 2
    i = np.pi * r**4 / 4
    return SectionValues(np.pi * r * r, i, i)


def footprint(column: Column, sides: int = CIRCLE_SIDES) -> Polygon:
    """The column's outline on plan, m; a circle becomes a regular polygon of the same area."""
    shape = column.shape
    if isinstance(shape, Rectangle):
        own = shapely.box(-shape.b_m / 2, -shape.d_m / 2, shape.b_m / 2, shape.d_m / 2)
    else:
        r = shape.diameter_m / 2
        angle = 2 * np.pi / sides
        r *= np.sqrt(angle / np.sin(angle))
        t = angle * (np.arange(sides) + 0.5)
        own = Polygon(np.column_stack([r * np.cos(t), r * np.sin(t)]))
    turned = rotate(own, column.angle_deg, origin=(0, 0))
    return translate(turned, column.at[0], column.at[1])
