"""A floor as a DXF drawing, its plan by layers, in metres."""

from __future__ import annotations

import io
from typing import Any

import ezdxf
import shapely
from ezdxf.document import Drawing
from ezdxf.layouts import Modelspace
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline, stretch_outlines
from piastra.core.model import Floor
from piastra.core.model.footprint import footprint
from piastra.core.model.members import Circle

LAYERS = {
    "SLABS": 7, "OPENINGS": 1, "DROP PANELS": 3, "BEAMS": 5, "COLUMNS": 6, "WALLS": 4, "GRID": 8, "LABELS": 9,
}  # fmt: skip
"""Layers by their colour index."""


def write_dxf(floor: Floor) -> bytes:
    """The floor's plan as a DXF file (R2010, metres): outlines as polylines with arcs, round columns as circles."""
    document = ezdxf.new("R2010", units=6)
    write_plan(document, floor)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def write_plan(document: Drawing, floor: Floor) -> Modelspace:
    """Draw a floor's plan by its layers into a drawing."""
    for name, colour in LAYERS.items():
        document.layers.add(name, color=colour)
    space = document.modelspace()

    def outline(vertices: list[list[float]], layer: str) -> None:
        points = [(v[0], v[1], v[2] if len(v) > 2 else 0.0) for v in vertices]
        space.add_lwpolyline(points, format="xyb", close=True, dxfattribs={"layer": layer})

    def shape(body: BaseGeometry, layer: str) -> None:
        for part in shapely.get_parts(body):
            space.add_lwpolyline([(x, y) for x, y in part.exterior.coords[:-1]], close=True, dxfattribs={"layer": layer})

    def label(text: str, at: tuple[float, float]) -> None:
        space.add_text(text, height=0.25, dxfattribs={"layer": "LABELS"}).set_placement(at)

    def inside(vertices: list[list[float]]) -> tuple[float, float]:
        point = polygon(vertices).representative_point()
        return point.x, point.y

    groups: list[tuple[str, list[Any]]] = [
        ("SLABS", list(floor.slabs)), ("OPENINGS", list(floor.openings)), ("DROP PANELS", list(floor.thickenings)),
    ]  # fmt: skip
    for layer, items in groups:
        for item in items:
            outline(item.outline, layer)
            label(item.id, inside(item.outline))
    for beam in floor.beams:
        for stretch in stretch_outlines(beam.line, beam.width_m):
            outline(stretch, "BEAMS")
    for column in floor.columns:
        if isinstance(column.shape, Circle):
            space.add_circle((column.at[0], column.at[1]), column.shape.diameter_m / 2, dxfattribs={"layer": "COLUMNS"})
        else:
            shape(footprint(column), "COLUMNS")
        label(column.id, (column.at[0] + 0.3, column.at[1] + 0.3))
    for wall in floor.walls:
        for stretch in stretch_outlines(wall.line, wall.thickness_m):
            outline(stretch, "WALLS")
        middle = shapely.LineString(polyline(wall.line)).interpolate(0.5, normalized=True)
        label(wall.id, (middle.x, middle.y))
    for grid in floor.grid:
        a, b = grid.line
        space.add_line((a[0], a[1]), (b[0], b[1]), dxfattribs={"layer": "GRID"})
        for end in (a, b):
            space.add_text(grid.id, height=0.4, dxfattribs={"layer": "GRID"}).set_placement((end[0], end[1]))
    return space
