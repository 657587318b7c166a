"""Mats where none are given: the lightest of the allowed ones, with the extra bars that they leave over."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.bars.design import Choice, Site, asked_of
from piastra.core.geometry.arcs import polygon
from piastra.core.reinforcement.groups import Group, anchorage_at
from piastra.core.reinforcement.stations import StationSteel

Array = npt.NDArray[np.float64]

EXTRA = 1.3
"""Mass of extra bars over that of the steel that is missing: steps of diameter and spacing."""
SPANS = 0.25
"""Extra bars in spans, away from supports, at no more than this share of their stations."""


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

    In the bottom face one is always laid. Extra bars are weighed as what is missing, with their anchorage.
    """
    cuts, own = site.cuts, steel.faces[f]
    asked = asked_of(steel)[f]
    mine = np.flatnonzero(np.array([s.direction == direction for s in site.layout.strips])[cuts.strip])
    if not len(mine) or not (asked[mine] > 0).any():
        return None
    share = _share(cuts.strip[mine], cuts.s[mine])
    width, need = cuts.width[mine], asked[mine]
    at_support = own.at.end[mine] | own.at.column[mine] | (share[1] > 0)
    limit = np.inf
    if site.standard.spacing is not None:
        stretched = mine[need > 0]
        limit = float(site.standard.spacing.greatest(own.at.some(stretched)).limit.min())
    best: Choice | None = None
    least = np.inf
    options: list[Choice | None] = [c for c in site.choices if c.spacing <= limit + 1e-9]
    if f == 1:
        options.insert(0, None)
    for c in options:
        area = c.area if c else 0.0
        missing = np.maximum(need - area, 0.0)
        in_span = (missing > 0) & ~at_support
        if c is not None and in_span.mean() > SPANS and c is not options[-1]:
            continue
        bar = c.bar if c else site.choices[0].bar
        length = anchorage_at(site.floor, site.standard, int(site.slab[mine[0]]), bar, f == 1) + float(own.at.d[mine].mean())
        ends = share[1] > 0
        mass = (
            area * site.region.area
            + EXTRA * float((missing * width * share[0]).sum())
            + 2 * length * float((missing * width)[ends].sum())
        )
        if mass < least:
            best, least = c, mass
    return best


def _share(strip: npt.NDArray[np.int64], s: Array) -> tuple[Array, Array]:
    """Length (k,) m of its strip that each station stands for, and 1 (k,) at the first and last station of a strip."""
    length, end = np.zeros(len(s)), np.zeros(len(s))
    for k in np.unique(strip):
        here = np.flatnonzero(strip == k)
        order = here[np.argsort(s[here])]
        length[order] = np.gradient(s[order]) if len(order) > 1 else 0.0
        end[order[[0, -1]]] = 1.0
    return length, end
