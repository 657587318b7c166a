"""Bars of beams in the schedule."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon

from piastra.core.bars.schedule import Scheduled
from piastra.core.beams.design import LINK, BeamDesign
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.strips.layout import Layout
from piastra.core.strips.territories import box

BENDS = 0.2
"""Length (m) of a link's two hooks."""


def bars_of_beams(floor: Floor, layout: Layout, design: BeamDesign) -> list[Scheduled]:
    """Straight bars from the middle of one support to that of the next, and closed links, of every span."""
    out = []
    cover = max(max(s.cover_bottom_mm, s.cover_top_mm) for s in floor.slabs) / 1e3
    depth = {b.id: b.depth_m for b in floor.beams}
    width = {b.id: b.width_m for b in floor.beams}
    for number, (bottom, top, links) in design.bars.items():
        strip = layout.strips[number]
        axis, web, H = layout.axes[strip.axis], width[strip.beam], depth[strip.beam]
        parts = [p for p in getattr(strip.outline, "geoms", [strip.outline]) if isinstance(p, Polygon)]
        outline = max(parts, key=lambda p: p.area)
        along = np.array(outline.exterior.coords) @ (np.cos(axis.angle), np.sin(axis.angle))
        length = float(np.ptp(along))
        mark = f"{strip.beam}.{strip.number + 1}"
        for face, laid in ((0, bottom), (1, top)):
            group = Group(
                f"{mark}{'BT'[face]}",
                face,
                strip.direction,
                axis.angle,
                laid.bar,
                web / laid.count,
                outline,
                0.0,
                "designed",
                False,
            )
            out.append(Scheduled(group, "outer", laid.count, length, laid.count * length, 0.0, "straight"))
        count = max(int(np.ceil((strip.end - strip.start) / links.spacing)) + 1, 2)
        around = 2 * (web + H - 4 * cover - 2 * LINK) + BENDS
        clear = box(axis, strip.start, strip.end, -web / 2, web / 2)
        across = "y" if strip.direction == "x" else "x"
        group = Group(f"{mark}L", 0, across, axis.angle + np.pi / 2, links.bar, links.spacing, clear, 0.0, "designed", False)
        out.append(Scheduled(group, "link", count, around, count * around, 0.0, "link"))
    return out
