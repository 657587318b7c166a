"""The layout of tendons as a drawing: lines on plan, and the level of each at tenths of its spans."""

from __future__ import annotations

import io
from typing import Any

import ezdxf
import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor
from piastra.core.model.tendon_curve import Curve, curve
from piastra.core.model.tendons import Tendon
from piastra.exchange.dxf.writing import write_plan

Array = npt.NDArray[np.float64]

TEXT = 0.09
"""Height of the levels' figures, m."""
TENTHS = 10


def places_of(t: Tendon) -> list[float]:
    """Tenths of each span between high points, or of the whole tendon where it has none inside; m along it."""
    points = t.profile
    high = [points[0].s_m]
    high += [p.s_m for a, p, b in zip(points, points[1:], points[2:]) if p.z_mm >= a.z_mm and p.z_mm >= b.z_mm]
    high.append(points[-1].s_m)
    out = {round(a + (b - a) * k / TENTHS, 4) for a, b in zip(high, high[1:]) for k in range(TENTHS + 1)}
    return sorted(out)


def levels_at(t: Tendon, c: Curve) -> list[tuple[float, float, float, float, float]]:
    """Places, points on plan, levels (mm) and headings (rad) of a tendon at tenths: (s, x, y, z, heading)."""
    s = np.array(places_of(t))
    x, y, z = (np.interp(s, c.s, v) for v in (c.xy[:, 0], c.xy[:, 1], c.z))
    heading = np.interp(s, c.s, c.heading)
    return list(zip(s.tolist(), x.tolist(), y.tolist(), (1e3 * z).tolist(), heading.tolist(), strict=True))


def tendons_dxf(floor: Floor, document: dict[str, Any]) -> bytes:
    """The layout as DXF (R2010, metres): the plan's layers, TENDONS, ANCHORS, LEVELS (mm above the floor's datum) and MARKS."""
    drawing = ezdxf.new("R2010", units=6)
    space = write_plan(drawing, floor)
    for name, colour in (("TENDONS", 4), ("ANCHORS", 1), ("LEVELS", 7), ("MARKS", 7)):
        drawing.layers.add(name, color=colour)
    found = {t["id"]: t for t in document["tendons"]}
    for t in floor.tendons:
        c = curve(t.line, t.profile)
        space.add_lwpolyline([tuple(p) for p in c.xy], dxfattribs={"layer": "TENDONS", "lineweight": 35})
        for k, live in ((0, t.stressed_from != "end"), (-1, t.stressed_from != "start")):
            x, y = c.xy[k]
            # A full circle is a jack's end, a cross a fixed one.
            if live:
                space.add_circle((x, y), 0.1, dxfattribs={"layer": "ANCHORS"})
            else:
                space.add_line((x - 0.1, y - 0.1), (x + 0.1, y + 0.1), dxfattribs={"layer": "ANCHORS"})
                space.add_line((x - 0.1, y + 0.1), (x + 0.1, y - 0.1), dxfattribs={"layer": "ANCHORS"})
        for _, x, y, z, heading in levels_at(t, c):
            turn = float(np.degrees(heading))
            turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
            text = space.add_text(f"{z:.0f}", height=TEXT, rotation=turn + 90, dxfattribs={"layer": "LEVELS"})
            text.set_placement((x, y))
        middle = c.xy[len(c.xy) // 2]
        told = found.get(t.id)
        drawn_out = f", extension {told['extension_mm']:.0f} mm" if told else ""
        space.add_text(
            f"{t.id}: {t.count} x {t.strand}{drawn_out}", height=1.4 * TEXT, dxfattribs={"layer": "MARKS"}
        ).set_placement((float(middle[0]), float(middle[1]) + 0.05))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
