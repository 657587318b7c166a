"""A vertical section through a floor along a line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model.floor import Floor
from piastra.core.model.footprint import beam_outline, footprint


@dataclass(frozen=True, slots=True)
class Piece:
    """A cut rectangle: the object it belongs to, from ``start`` to ``end`` along the line (m), between two levels (m,
    about the floor's datum)."""

    list: str
    id: str
    start: float
    end: float
    bottom: float
    top: float


def section_along(floor: Floor, line: Sequence[Sequence[float]]) -> list[Piece]:
    """What a vertical plane through a straight line (two points, m) cuts, from the line's start to its end.

    Where slabs or thickenings overlap, the one that the computation uses is cut: the higher priority, then the
    thicker one; beams hold over both.
    """
    way = LineString([p[:2] for p in line])
    bodies: list[tuple[str, str, Polygon, tuple[float, ...], float, float]] = []
    for s in floor.slabs:
        bodies.append(("slabs", s.id, polygon(s.outline), (0, s.priority, s.thickness_m), s.top_offset_m, s.thickness_m))
    for t in floor.thickenings:
        bodies.append(("thickenings", t.id, polygon(t.outline), (1, t.priority, t.thickness_m), t.top_offset_m, t.thickness_m))
    for b in floor.beams:
        bodies.append(("beams", b.id, beam_outline(b), (2, b.priority, b.depth_m), b.top_offset_m, b.depth_m))
    holes = [polygon(o.outline) for o in floor.openings]
    marks = {0.0, way.length}
    for shape in (*(b[2] for b in bodies), *holes):
        marks |= {way.project(shapely.Point(c)) for c in shapely.get_coordinates(way.intersection(shape.boundary))}
    stops = sorted(marks)
    out: list[Piece] = []
    for start, end in zip(stops[:-1], stops[1:], strict=True):
        if end - start < 1e-6:
            continue
        middle = way.interpolate((start + end) / 2)
        inside = [b for b in bodies if b[2].contains(middle)]
        if any(h.contains(middle) for h in holes):
            inside = [b for b in inside if b[0] == "beams"]
        if not any(b[0] != "thickenings" for b in inside):
            continue
        kind, label, _, _, top, depth = max(inside, key=lambda b: b[3])
        last = out[-1] if out else None
        if last and (last.list, last.id) == (kind, label) and abs(last.end - start) < 1e-6:
            out[-1] = Piece(kind, label, last.start, end, last.bottom, last.top)
        else:
            out.append(Piece(kind, label, start, end, top - depth, top))
    return out + _members(floor, way, out)


def _members(floor: Floor, way: LineString, cut: list[Piece]) -> list[Piece]:
    found = []
    columns = [("columns", c.id, footprint(c), c.below, c.above) for c in floor.columns]
    walls = [
        ("walls", w.id, LineString(polyline(w.line)).buffer(w.thickness_m / 2, cap_style="flat"), w.below, w.above)
        for w in floor.walls
    ]
    for kind, label, shape, below, above in (*columns, *walls):
        for part in shapely.get_parts(way.intersection(shape)):
            if part.length < 1e-6:
                continue
            s = [way.project(shapely.Point(c)) for c in shapely.get_coordinates(part)]
            start, end = float(min(s)), float(max(s))
            there = [p for p in cut if p.start < (start + end) / 2 < p.end]
            soffit = min((p.bottom for p in there), default=0.0)
            top = max((p.top for p in there), default=0.0)
            if below:
                found.append(Piece(kind, label, start, end, float(np.round(soffit - below.height_m, 9)), soffit))
            if above:
                found.append(Piece(kind, label, start, end, top, float(np.round(top + above.height_m, 9))))
    return found
