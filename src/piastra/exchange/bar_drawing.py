"""Bars of one face and direction as a drawing: SVG and DXF, one bar of each group drawn, the extent marked."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from xml.sax.saxutils import escape

import ezdxf
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import Floor
from piastra.core.model.footprint import beam_outline, footprint
from piastra.exchange.dxf.writing import write_plan

Array = npt.NDArray[np.float64]

TICK = 0.12
"""Half of the tick that ends an extent, m."""
TEXT = 0.22
"""Height of letters, m."""
MARGIN = 1.5
"""Around the floor, m."""


@dataclass(frozen=True, slots=True)
class Mark:
    """What is drawn of a group: its middle ``bar`` (2, 2) m, the line across over which its bars lie (``reach``), and the text."""

    bar: Array
    reach: Array
    text: str


def marks(bars: Iterable[dict[str, Any]], face: str, direction: str) -> list[Mark]:
    """The groups of one face and direction, of the ``bars`` of a results document; mats over the whole floor are told in the title."""
    out = []
    for b in bars:
        if b["face"] != face or b["direction"] != direction or b["origin"] == "mat" or b["shape"] == "link":
            continue
        t = np.radians(b["angle_deg"])
        turn = np.array([[np.cos(t), np.sin(t)], [-np.sin(t), np.cos(t)]])
        local = np.array(b["outline"]) @ turn.T
        (a0, o0), (a1, o1) = local.min(axis=0), local.max(axis=0)
        a, o = (a0 + a1) / 2, (o0 + o1) / 2
        text = f"{b['mark']}  {b['count']} ⌀{b['bar_mm']:g}-{b['spacing_mm']:.0f}  L={1e3 * b['length_m']:.0f}"
        out.append(Mark(np.array([[a0, o], [a1, o]]) @ turn, np.array([[a, o0], [a, o1]]) @ turn, text))
    return out


def title(document: dict[str, Any], face: str, direction: str) -> str:
    """What the drawing shows, with the mats that lie everywhere."""
    mats = [f"⌀{b['bar_mm']:g}-{b['spacing_mm']:.0f}" for b in document["bars"]
            if b["origin"] == "mat" and b["face"] == face and b["direction"] == direction]  # fmt: skip
    everywhere = f"; mats {', '.join(dict.fromkeys(mats))}" if mats else ""
    return f"{document['name']}: bars {face}, along {direction}{everywhere}"


def _ticks(reach: Array) -> list[Array]:
    way = (reach[1] - reach[0]) / max(float(np.hypot(*(reach[1] - reach[0]))), 1e-9)
    slope = TICK * np.array([way[0] - way[1], way[1] + way[0]])
    return [np.array([end - slope, end + slope]) for end in reach]


def plan_svg(floor: Floor) -> bytes:
    """The floor alone as SVG, 1 m to 40 units, with the names of its columns, walls and setting-out lines."""
    return _svg(floor, [], f"{floor.name}: plan", named=True)


def bars_svg(floor: Floor, document: dict[str, Any], face: str, direction: str) -> bytes:
    """The drawing as SVG, 1 m to 40 units."""
    return _svg(floor, marks(document["bars"], face, direction), title(document, face, direction))


def _svg(floor: Floor, drawn: list[Mark], told: str, named: bool = False) -> bytes:
    k = 40.0
    solid = shapely.unary_union([*(polygon(s.outline) for s in floor.slabs), *(beam_outline(b) for b in floor.beams)])
    x0, y0, x1, y1 = solid.bounds
    width, height = k * (x1 - x0 + 2 * MARGIN), k * (y1 - y0 + 2 * MARGIN)

    def at(p: Any) -> str:
        return f"{k * (p[0] - x0 + MARGIN):.1f} {height - k * (p[1] - y0 + MARGIN):.1f}"

    def path(points: Any, closed: bool) -> str:
        return "M" + "L".join(at(p) for p in points) + ("Z" if closed else "")

    lines: list[str] = []

    def add(points: Any, closed: bool, style: str) -> None:
        lines.append(f'<path d="{path(points, closed)}" {style}/>')

    thin, bold = 'fill="none" stroke="#1e2a35" stroke-width="1"', 'fill="none" stroke="#1e2a35" stroke-width="2"'
    for s in floor.slabs:
        add(shapely.get_coordinates(polygon(s.outline).exterior)[:-1], True, bold)
    for o in floor.openings:
        add(shapely.get_coordinates(polygon(o.outline).exterior)[:-1], True, thin)
    for t in floor.thickenings:
        add(shapely.get_coordinates(polygon(t.outline).exterior)[:-1], True, f'{thin} stroke-dasharray="6 4"')
    for c in floor.columns:
        add(shapely.get_coordinates(footprint(c).exterior)[:-1], True, 'fill="#1e2a35"')
    for w in floor.walls:
        add(polyline(w.line), False, f'fill="none" stroke="#1e2a35" stroke-width="{k * w.thickness_m:.1f}"')
    for g in floor.grid:
        add(g.line, False, f'{thin} stroke-dasharray="12 4 2 4" opacity="0.5"')

    def name(place: Any, text: str, aside: float) -> None:
        x, y = at(np.asarray(place) + aside).split()
        lines.append(f'<text x="{x}" y="{y}" font-size="{k * TEXT:.1f}">{escape(text)}</text>')

    if named:
        for c in floor.columns:
            name(c.at, c.id, 0.3)
        for w in floor.walls:
            name(np.mean([v[:2] for v in w.line], axis=0), w.id, 0.2)
        for g in floor.grid:
            name(g.line[0], g.id, 0.05)
    for m in drawn:
        add(m.reach, False, 'fill="none" stroke="#b4532a" stroke-width="0.8"')
        for tick in _ticks(m.reach):
            add(tick, False, 'fill="none" stroke="#b4532a" stroke-width="0.8"')
        add(m.bar, False, 'fill="none" stroke="#b4532a" stroke-width="3"')
        turn = np.degrees(np.arctan2(-(m.bar[1] - m.bar[0])[1], (m.bar[1] - m.bar[0])[0]))
        turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
        x, y = at(m.bar.mean(axis=0)).split()
        lines.append(
            f'<text transform="translate({x} {y}) rotate({turn:.1f})" dy="-5" text-anchor="middle" font-size="{k * TEXT:.1f}">{escape(m.text)}</text>'
        )
    lines.append(f'<text x="10" y="24" font-size="16">{escape(told)}</text>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:.0f} {height:.0f}" font-family="sans-serif">\n'
        + "\n".join(lines) + "\n</svg>\n"
    ).encode()  # fmt: skip


def bars_dxf(floor: Floor, document: dict[str, Any], face: str, direction: str) -> bytes:
    """The drawing as DXF (R2010, metres): the plan's layers, and BARS, EXTENTS, MARKS."""
    drawing = ezdxf.new("R2010", units=6)
    space = write_plan(drawing, floor)
    for name, colour in (("BARS", 1), ("EXTENTS", 1), ("MARKS", 7)):
        drawing.layers.add(name, color=colour)
    for m in marks(document["bars"], face, direction):
        space.add_lwpolyline([tuple(p) for p in m.bar], dxfattribs={"layer": "BARS", "lineweight": 50})
        for line in (m.reach, *_ticks(m.reach)):
            space.add_line(tuple(line[0]), tuple(line[1]), dxfattribs={"layer": "EXTENTS"})
        way = m.bar[1] - m.bar[0]
        turn = float(np.degrees(np.arctan2(way[1], way[0])))
        turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
        x, y = m.bar.mean(axis=0)
        space.add_text(m.text, height=TEXT, rotation=turn, dxfattribs={"layer": "MARKS"}).set_placement((float(x), float(y)))
    solid = shapely.unary_union([polygon(s.outline) for s in floor.slabs])
    space.add_text(title(document, face, direction), height=0.4, dxfattribs={"layer": "MARKS"}).set_placement(
        (solid.bounds[0], solid.bounds[1] - MARGIN)
    )
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
