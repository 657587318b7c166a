"""Where the bars of a beam lie in its web."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from piastra.core.beams.bars import along_beams
from piastra.core.beams.curtailment import LINK, across
from piastra.core.beams.design import BeamDesign
from piastra.core.model import Floor
from piastra.core.standards.beam_rules import BeamRules
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout


@dataclass(frozen=True, slots=True)
class WebBar:
    """One bar of a section: the ``mark`` of its group, its ``face`` (0 bottom, 1 top), diameter ``bar`` m, the ``depth`` (m) of its centre from that
    face, ``aside`` (m) of the web's middle, to the left positive, and the share to which it is ``developed``."""

    mark: str
    face: int
    bar: float
    depth: float
    aside: float
    developed: float


def web_bars(floor: Floor, layout: Layout, cuts: Cuts, design: BeamDesign, k: int, rules: BeamRules) -> list[WebBar]:
    """The bars at a designed station (number ``k``): as many beside each other as the links let lie, the first layer filled first and its corners by what runs
    through the whole beam. Depths are those that the design measures with: within links of 10 mm.
    """
    cut = int(design.sections.cuts[k])
    strip, s, web = layout.strips[cuts.strip[cut]], cuts.s[cut : cut + 1], float(design.sections.b_w[k])
    covers = [max(x.cover_bottom_mm for x in floor.slabs) / 1e3, max(x.cover_top_mm for x in floor.slabs) / 1e3]
    there = [
        (p, g.mark)
        for p, g in along_beams(floor, layout, design)
        if (p.beam, p.axis) == (strip.beam, strip.axis) and p.there(s)[0]
    ]
    out: list[WebBar] = []
    for f in (0, 1):
        mine = sorted((one for one in there if one[0].face == f), key=lambda one: not all(one[0].bent))
        bars = [(p.bar, mark, float(p.developed(s)[0])) for p, mark in mine for _ in range(p.count)]
        if not bars:
            continue
        bar = bars[0][0]
        beside = across(bar, web, max(covers), rules)
        half = web / 2 - max(covers) - LINK - bar / 2
        for first in range(0, len(bars), beside):
            row = bars[first : first + beside]
            places = np.linspace(half, -half, len(row)) if len(row) > 1 else np.zeros(1)
            depth = covers[f] + LINK + bar / 2 + first // beside * (bar + rules.clear(bar))
            corners_first = places[np.argsort(-np.abs(places), kind="stable")].tolist()
            out += [
                WebBar(mark, f, bar, depth, aside, developed)
                for (_, mark, developed), aside in zip(row, corners_first, strict=True)
            ]
    return out
