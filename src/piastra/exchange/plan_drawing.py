"""A floor on plan as SVG: what other drawings stand on."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any
from xml.sax.saxutils import escape

import numpy as np
import shapely

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline, footprint

SCALE = 40.0
"""Units of the drawing for a metre."""
TEXT = 0.22
"""Height of letters, m."""
PRINTED = 0.015
"""Of what is printed as wide as a page: height of letters over the drawing's width."""
MARGIN = 1.5
"""Around the floor, m."""
THIN, BOLD = 'fill="none" stroke="#1e2a35" stroke-width="1"', 'fill="none" stroke="#1e2a35" stroke-width="2"'


class PlanDrawing:
    """A drawing in the making; what is added later lies on top. ``printed``: its letters can be read on a page of its width; ``beside`` m are free to
    the right."""

    def __init__(self, floor: Floor, printed: bool = False, beside: float = 0.0) -> None:
        self.floor = floor
        solid = shapely.unary_union([*(polygon(s.outline) for s in floor.slabs), *(beam_outline(b) for b in floor.beams)])
        self.x0, self.y0, self.x1, self.y1 = solid.bounds
        self.width = SCALE * (self.x1 - self.x0 + 2 * MARGIN + beside)
        self.height = SCALE * (self.y1 - self.y0 + 2 * MARGIN)
        self.letters = max(SCALE * TEXT, PRINTED * self.width if printed else 0.0)
        self.lines: list[str] = []

    def at(self, p: Any) -> tuple[float, float]:
        """Where a place (m) is drawn."""
        return SCALE * (p[0] - self.x0 + MARGIN), self.height - SCALE * (p[1] - self.y0 + MARGIN)

    def path(self, points: Iterable[Any], closed: bool) -> str:
        """A line through places, as a path has it."""
        return "M" + "L".join("{:.1f} {:.1f}".format(*self.at(p)) for p in points) + ("Z" if closed else "")

    def add(self, points: Iterable[Any], closed: bool, style: str) -> None:
        """A line through places."""
        self.lines.append(f'<path d="{self.path(points, closed)}" {style}/>')

    def write(self, x: float, y: float, text: str, more: str = "") -> None:
        """Letters at a place of the drawing."""
        self.lines.append(f'<text x="{x:.1f}" y="{y:.1f}" font-size="{self.letters:.1f}" {more}>{escape(text)}</text>')

    def plan(self, named: bool = False) -> None:
        """The floor itself; ``named``: with the names of columns, walls and setting-out lines."""
        f = self.floor
        for s in f.slabs:
            self.add(shapely.get_coordinates(polygon(s.outline).exterior)[:-1], True, BOLD)
        for o in f.openings:
            self.add(shapely.get_coordinates(polygon(o.outline).exterior)[:-1], True, THIN)
        for t in f.thickenings:
            self.add(shapely.get_coordinates(polygon(t.outline).exterior)[:-1], True, f'{THIN} stroke-dasharray="6 4"')
        for c in f.columns:
            self.add(shapely.get_coordinates(footprint(c).exterior)[:-1], True, 'fill="#1e2a35"')
        for w in f.walls:
            self.add(polyline(w.line), False, f'fill="none" stroke="#1e2a35" stroke-width="{SCALE * w.thickness_m:.1f}"')
        for g in f.grid:
            self.add(g.line, False, f'{THIN} stroke-dasharray="12 4 2 4" opacity="0.5"')
        if not named:
            return
        for id, place, aside in [
            *((c.id, c.at, 0.3) for c in f.columns),
            *((w.id, np.mean([v[:2] for v in w.line], axis=0), 0.2) for w in f.walls),
            *((g.id, g.line[0], 0.05) for g in f.grid),
        ]:
            self.write(*self.at(np.asarray(place) + aside), id)

    def svg(self, told: str) -> bytes:
        """The drawing with what it shows; nothing of that is written where it has a caption."""
        if told:
            self.write(10, 24, told)
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {self.width:.0f} {self.height:.0f}" font-family="sans-serif">\n'
            + "\n".join(self.lines) + "\n</svg>\n"
        ).encode()  # fmt: skip


def plan_svg(floor: Floor) -> bytes:
    """The floor alone, with the names of its columns, walls and setting-out lines, to be printed under a caption."""
    drawing = PlanDrawing(floor, printed=True)
    drawing.plan(named=True)
    return drawing.svg("")
