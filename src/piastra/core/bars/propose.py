"""Mats where none are given: the lightest of the allowed ones, with the extra bars that they leave over."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

from piastra.core.bars.choices import Choice
from piastra.core.bars.design import Site, apart, asked_of, extra_volume, thinnest
from piastra.core.bars.lengths import above
from piastra.core.geometry.arcs import polygon
from piastra.core.reinforcement.groups import Group, anchorage_at
from piastra.core.reinforcement.stations import StationSteel
from piastra.core.standards.provision import NOTHING

DEEPER = 1.02
"""Thinner bars lie deeper than those that depths were measured with, and least areas grow with the depth."""
MORE = 1.1
"""Mass of extra bars over that of the least ones at each place: they are as wide as the widest of their places, lengths go in steps, and bars are
gathered over columns."""

LIKELY = 4
"""Of so many mats extra bars are laid in thought."""


def propose(site: Site, steel: StationSteel) -> list[Group]:
    """Mats for each face and direction in which the floor has none."""
    floor = site.floor
    given = {(m.face, m.direction) for m in floor.mats}
    out: list[Group] = []
    for f, face in enumerate(("bottom", "top")):
        for direction in ("x", "y"):
            if (face, direction) in given:
                continue
            choice = lightest(site, steel, f, direction)
            if choice is None:
                continue
            for angle in sorted({s.bar_angle_deg for s in floor.slabs}):
                where = shapely.union_all([polygon(s.outline) for s in floor.slabs if s.bar_angle_deg == angle]).intersection(
                    site.region
                )
                turned = np.radians(angle + (90.0 if direction == "y" else 0.0))
                out += [
                    Group("", f, direction, float(turned), choice.bar, choice.spacing, p, 0.0, "designed", False)
                    for p in shapely.get_parts(where) if isinstance(p, Polygon) and p.area > 1e-6
                ]  # fmt: skip
    return out


def lightest(site: Site, steel: StationSteel, f: int, direction: str) -> Choice | None:
    """The mat of one face and direction by which mat and extra bars together have the least mass; None: none at all.

    In the bottom face one is always laid. Extra bars are weighed as what is missing along each axis, with their ends, and for the mats that promise least as
    they would be laid; where floors allow extra bars in a share of the spans only, mats that leave more to them are passed over.
    """
    own, near = steel.faces[f], apart(site, steel)[f]
    asked = np.maximum(asked_of(steel)[f], thinnest(site, near))
    lies = np.array([s.direction == direction for s in site.layout.strips])
    rows = [r for r in site.rows if len(r) and lies[site.cuts.strip[r[0]]]]
    mine = np.concatenate(rows) if rows else np.zeros(0, dtype=np.int64)
    if not (asked[mine] > 0).any():
        return None
    close: list[Choice | None] = [site.choices.all[k] for k in site.choices.close(float(near[mine].min()))]
    options = close if f == 0 else [None, *close]
    area = np.array([c.area if c else 0.0 for c in options])
    volume, in_spans = area * site.region.area, np.zeros(len(options))
    away = ~(own.at.end | own.at.column)
    for r in rows:
        missing = DEEPER * asked[r] - area[:, None]
        end = anchorage_at(site.floor, site.standard, int(site.slab[r[0]]), site.choices.all[0].bar, f == 1) + float(
            own.at.d[r].mean()
        )
        volume += MORE * site.cuts.width[r].mean() * above(missing, site.cuts.s[r], end, site.choices)
        in_spans += (missing[:, away[r]] > NOTHING).sum(axis=1)
    allowed = in_spans <= site.floor.extra_in_spans_pct / 100 * away[mine].sum()
    if not allowed.any():
        # The heaviest leaves least.
        return options[-1]
    likely = [k for k in np.argsort(np.where(allowed, volume, np.inf), kind="stable").tolist()[:LIKELY] if allowed[k]]
    far = np.full(len(asked), np.inf)
    laid = [
        area[k] * site.region.area
        + extra_volume(site, f, own, rows, DEEPER * asked, np.full(len(asked), area[k]), near if options[k] is None else far)
        for k in likely
    ]
    return options[likely[int(np.argmin(laid))]]
