"""Footprints of columns, and section properties of columns and walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import rotate, translate
from shapely.geometry import Polygon

from piastra.core.model.members import Column, Rectangle

CIRCLE_SIDES = 32
"""A round column is computed as the regular polygon of equal area with so many sides."""


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
