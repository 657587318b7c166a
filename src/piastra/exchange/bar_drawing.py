"""Bars of one face and direction as a drawing: SVG and DXF, one bar of each group drawn, the extent marked."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import ezdxf
import numpy as np
import numpy.typing as npt
import shapely
import shapely.affinity
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.exchange.dxf.writing import write_plan
from piastra.exchange.plan_drawing import MARGIN, TEXT, PlanDrawing

Array = npt.NDArray[np.float64]

TICK = 0.12
"""Half of the tick that ends an extent, m."""


@dataclass(frozen=True, slots=True)
class Mark:
    """What is drawn of a group: its middle ``bar`` (2, 2) m, the line across over which its bars lie (``reach``), its ``mark``, and that with all that is
    told of it."""

    bar: Array
    reach: Array
    mark: str
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
        out.append(Mark(np.array([[a0, o], [a1, o]]) @ turn, np.array([[a, o0], [a, o1]]) @ turn, b["mark"], text))
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


def bars_svg(floor: Floor, document: dict[str, Any], face: str, direction: str, printed: bool = False) -> bytes:
    """The drawing as SVG, 1 m to 40 units; ``printed``: with marks alone, which can be read on a page, as far as they find room, for a caption beside it."""
    drawing = PlanDrawing(floor, printed)
    drawing.plan()
    taken: list[BaseGeometry] = []
    for m in marks(document["bars"], face, direction):
        for line in (m.reach, *_ticks(m.reach)):
            drawing.add(line, False, 'fill="none" stroke="#b4532a" stroke-width="0.8"')
        drawing.add(m.bar, False, 'fill="none" stroke="#b4532a" stroke-width="3"')
        turn = np.degrees(np.arctan2(-(m.bar[1] - m.bar[0])[1], (m.bar[1] - m.bar[0])[0]))
        turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
        x, y = drawing.at(m.bar.mean(axis=0))
        if printed and not _room(taken, x, y, turn, drawing.letters, len(m.mark)):
            continue
        drawing.write(
            0,
            0,
            m.mark if printed else m.text,
            f'transform="translate({x:.1f} {y:.1f}) rotate({turn:.1f})" dy="-5" text-anchor="middle"',
        )
    return drawing.svg("" if printed else title(document, face, direction))


def _room(taken: list[BaseGeometry], x: float, y: float, turn: float, letters: float, count: int) -> bool:
    """Whether so many letters along a bar lie on no others that were ``taken`` in; they are taken in then."""
    half = 0.32 * letters * count
    mine = shapely.affinity.rotate(shapely.box(x - half, y - 5 - letters, x + half, y - 5), turn, origin=(x, y))
    if any(mine.intersects(other) for other in taken):
        return False
    taken.append(mine)
    return True


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
