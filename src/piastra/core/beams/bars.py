"""Bars of beams in the schedule."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from piastra.core.bars.schedule import Scheduled
from piastra.core.beams.curtailment import LINK, Piece
from piastra.core.beams.design import BeamDesign
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.strips.territories import box

BENDS = 0.2
"""Length (m) of a link's two hooks."""


def along_beams(floor: Floor, layout: Layout, design: BeamDesign) -> list[tuple[Piece, Group]]:
    """Bars along the beams as they run and stop, each over the width of its web."""
    out = []
    width = {b.id: b.width_m for b in floor.beams}
    marks: dict[tuple[str, int], int] = {}
    for laid in design.laid:
        for p in laid.pieces:
            axis, web = layout.axes[p.axis], width[p.beam]
            number = marks[p.beam, p.face] = marks.get((p.beam, p.face), 0) + 1
            direction = next(s.direction for s in layout.strips if s.axis == p.axis)
            outline = box(axis, p.start, p.end, -web / 2, web / 2)
            anchored = 0.0 if p.bent[0] and p.bent[1] else p.anchored
            mark = f"{p.beam}.{'BT'[p.face]}{number}"
            out.append(
                (p, Group(mark, p.face, direction, axis.angle, p.bar, web / p.count, outline, anchored, "designed", False))
            )
    return out


def bars_of_beams(floor: Floor, layout: Layout, cuts: Cuts, design: BeamDesign, row: Callable[[int], str]) -> list[Scheduled]:
    """Bars along the beams, lapped where they are longer than the stock, and closed links of every span; ``row``: the verdict's row of a span, by the number of its strip."""
    out = []
    s, strips = cuts.s[design.sections.cuts], cuts.strip[design.sections.cuts]
    cover = max(max(s.cover_bottom_mm, s.cover_top_mm) for s in floor.slabs) / 1e3
    depth = {b.id: b.depth_m for b in floor.beams}
    width = {b.id: b.width_m for b in floor.beams}
    for p, group in along_beams(floor, layout, design):
        length = p.end - p.start
        laps = max(int(np.ceil(length / floor.stock_length_m - 1e-9)) - 1, 0) * p.lap
        shape = ("straight", "hook", "hooks")[sum(p.bent)]
        # The span that asks for most of them.
        near = np.array([layout.strips[k].axis == p.axis and layout.strips[k].beam == p.beam for k in strips]) & p.there(s)
        worst = int(strips[int(np.where(near, design.laid[p.face].use, -1.0).argmax())])
        out.append(Scheduled(group, "outer", p.count, length, p.count * length, p.count * laps, shape, row(worst)))
    for number, links in design.stirrups.items():
        strip = layout.strips[number]
        axis, web, H = layout.axes[strip.axis], width[strip.beam], depth[strip.beam]
        count = max(int(np.ceil((strip.end - strip.start) / links.spacing)) + 1, 2)
        around = 2 * (web + H - 4 * cover - 2 * LINK) + BENDS
        clear = box(axis, strip.start, strip.end, -web / 2, web / 2)
        across = "y" if strip.direction == "x" else "x"
        mark = f"{strip.beam}.{strip.number + 1}L"
        group = Group(mark, 0, across, axis.angle + np.pi / 2, links.bar, links.spacing, clear, 0.0, "designed", False)
        out.append(Scheduled(group, "link", count, around, count * around, 0.0, "link", row(number)))
    return out
