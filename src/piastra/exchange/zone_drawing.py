"""A punching zone as a sheet: plan and section to scale, perimeters, rails and figures; SVG and DXF."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import Any
from xml.sax.saxutils import escape

import ezdxf
import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import box

from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor

Array = npt.NDArray[np.float64]

AROUND = 0.6
"""Of the plan beyond what is drawn of the zone, m."""
TEXT = 0.06
"""Height of letters, m."""
SCALE = 220.0
"""Units of the SVG to the metre."""
LAYERS = {"CONCRETE": 7, "SUPPORT": 8, "PERIMETER": 1, "OUTER": 3, "RAILS": 5, "STUDS": 5, "TEXT": 7}


@dataclass(slots=True)
class Sheet:
    """What is drawn, in m: ``lines`` by layer with whether they close, ``dots`` with their radius, ``texts`` with their place."""

    lines: list[tuple[str, Array, bool]] = field(default_factory=list)
    dots: list[tuple[str, tuple[float, float], float]] = field(default_factory=list)
    texts: list[tuple[str, tuple[float, float]]] = field(default_factory=list)

    def add(self, layer: str, points: Any, closed: bool = False) -> None:
        """Add a line."""
        self.lines.append((layer, np.asarray(points, dtype=np.float64)[:, :2], closed))


def sheet(floor: Floor, zone: dict[str, Any]) -> Sheet:
    """The sheet of a zone of the results."""
    out = Sheet()
    at = np.array(zone["at"])
    drawn = np.array([*zone["segments"], *(zone["rails"]["outer"] if zone["rails"] else [])]).reshape(-1, 2)
    reach = float(np.abs(drawn - at).max()) + AROUND
    frame = box(*(at - reach), *(at + reach))
    concrete = shapely.union_all([polygon(s.outline) for s in floor.slabs]).difference(
        shapely.union_all([polygon(o.outline) for o in floor.openings])
    )
    for shape in shapely.get_parts(concrete.intersection(frame)):
        for ring in (shape.exterior, *shape.interiors):
            out.add("CONCRETE", ring.coords, True)
    for t in floor.thickenings:
        for part in shapely.get_parts(polygon(t.outline).intersection(frame)):
            out.add("CONCRETE", part.exterior.coords, True)
    out.add("SUPPORT", zone["loaded"], True)
    for a, b in zone["segments"]:
        out.add("PERIMETER", (a, b))
    _rails(out, zone)
    _section(out, zone, at, reach)
    _figures(out, zone, at, reach)
    return out


def _studs(rails: dict[str, Any]) -> list[Array]:
    """Places (per_rail, 2) of the studs of each rail."""
    return [np.linspace(a, b, rails["per_rail"]) for a, b in rails["lines"]]


def _rails(out: Sheet, zone: dict[str, Any]) -> None:
    rails = zone["rails"]
    if not rails:
        return
    for a, b in rails["outer"]:
        out.add("OUTER", (a, b))
    for studs in _studs(rails):
        out.add("RAILS", studs[[0, -1]])
        out.dots += [("STUDS", (float(x), float(y)), rails["bar_mm"] / 2e3) for x, y in studs]


def _section(out: Sheet, zone: dict[str, Any], at: Array, reach: float) -> None:
    """Below the plan: the slab, the support, and the rails that lie nearest to the axis along x."""
    h, d = zone["h_mm"] / 1e3, zone["d_mm"] / 1e3
    loaded = np.array(zone["loaded"])
    left, right = float(loaded[:, 0].min()), float(loaded[:, 0].max())
    top = at[1] - reach - 3 * TEXT
    out.add("CONCRETE", [(at[0] - reach, top), (at[0] + reach, top), (at[0] + reach, top - h), (at[0] - reach, top - h)], True)
    out.add("SUPPORT", [(left, top - h), (left, top - h - 0.4), (right, top - h - 0.4), (right, top - h)])
    # The bars that the zone stretches: of what pushes up those of the top.
    bars = top - (h - d if zone["pushes_up"] else d)
    out.add("OUTER", [(at[0] - reach, bars), (at[0] + reach, bars)])
    rails = zone["rails"]
    if rails:
        slack = (h - d) / 1.5
        for studs in _studs(rails):
            if np.abs(studs[:, 1] - at[1]).max() < 0.5 * np.ptp(loaded[:, 1]):
                for x, _ in studs:
                    out.add("STUDS", [(x, top - slack), (x, top - h + slack)])
    out.texts.append((f"section: h {1e3 * h:.0f} mm, d {1e3 * d:.0f} mm", (at[0] - reach, top - h - 0.4 - 2 * TEXT)))


def _figures(out: Sheet, zone: dict[str, Any], at: Array, reach: float) -> None:
    rails = zone["rails"]
    told = [
        f"Zone {zone['id']}, {zone['kind'].replace('_', ' ')}, {zone['place']}: utilisation {zone['utilisation']:.2f}",
        f"V {zone['V_Ed_kN']:.1f} kN, M_x {zone['M_x_kNm']:.1f}, M_y {zone['M_y_kNm']:.1f} kNm ({zone['combination']})",
        f"u {zone['u_m']:.3f} m, v {zone['v_Ed_kPa']:.0f} kPa, without shear reinforcement {zone['v_Rd_c_kPa']:.0f} kPa",
    ]
    if rails:
        told += [
            f"{rails['laid']} rails of {rails['per_rail']} {rails['kind']}s of {rails['bar_mm']:g} mm, {rails['pattern']}, the first at "
            f"{rails['first_mm']:g} mm, then at {rails['spacing_mm']:g} mm",
            f"with them {zone['v_Rd_cs_kPa']:.0f} kPa; beyond them u {zone['u_laid_m'] or 0:.3f} m, v {zone['v_Ed_out_kPa']:.0f} kPa",
        ]
    for k, text in enumerate(told):
        out.texts.append((text, (at[0] - reach, at[1] + reach + TEXT * (1 + 1.8 * (len(told) - 1 - k)))))


STYLE = {
    "CONCRETE": 'fill="none" stroke="#1e2a35" stroke-width="1"', "SUPPORT": 'fill="#1e2a3555" stroke="#1e2a35" stroke-width="2"',
    "PERIMETER": 'fill="none" stroke="#b4532a" stroke-width="3"', "OUTER": 'fill="none" stroke="#2f6670" stroke-width="1.5" stroke-dasharray="6 4"',
    "RAILS": 'fill="none" stroke="#2f6670" stroke-width="1.5"', "STUDS": 'fill="#2f6670" stroke="#2f6670" stroke-width="1.5"',
}  # fmt: skip


def zone_svg(floor: Floor, zone: dict[str, Any]) -> bytes:
    """The sheet as SVG, to scale."""
    drawn = sheet(floor, zone)
    points = np.concatenate([p for _, p, _ in drawn.lines] + [np.array([at]) for _, at in drawn.texts])
    (x0, y0), (x1, y1) = points.min(axis=0) - 3 * TEXT, points.max(axis=0) + 3 * TEXT

    def at(p: Any) -> str:
        return f"{SCALE * (p[0] - x0):.1f} {SCALE * (y1 - p[1]):.1f}"

    body = [
        f'<path d="M{"L".join(at(p) for p in points)}{"Z" if closed else ""}" {STYLE[layer]}/>'
        for layer, points, closed in drawn.lines
    ]
    for layer, place, radius in drawn.dots:
        x, y = at(place).split()
        body.append(f'<circle cx="{x}" cy="{y}" r="{SCALE * radius:.1f}" {STYLE[layer]}/>')
    for text, place in drawn.texts:
        x, y = at(place).split()
        body.append(f'<text x="{x}" y="{y}" font-size="{SCALE * TEXT:.1f}">{escape(text)}</text>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {SCALE * (x1 - x0):.0f} {SCALE * (y1 - y0):.0f}" font-family="sans-serif">\n'
        + "\n".join(body) + "\n</svg>\n"
    ).encode()  # fmt: skip


def zone_dxf(floor: Floor, zone: dict[str, Any]) -> bytes:
    """The sheet as DXF (R2010, metres), a layer for each thing."""
    drawing = ezdxf.new("R2010", units=6)
    for name, colour in LAYERS.items():
        drawing.layers.add(name, color=colour)
    space = drawing.modelspace()
    drawn = sheet(floor, zone)
    for layer, points, closed in drawn.lines:
        space.add_lwpolyline([tuple(p) for p in points], close=closed, dxfattribs={"layer": layer})
    for layer, place, radius in drawn.dots:
        space.add_circle(place, radius, dxfattribs={"layer": layer})
    for text, place in drawn.texts:
        space.add_text(text, height=TEXT, dxfattribs={"layer": "TEXT"}).set_placement((float(place[0]), float(place[1])))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
