"""Openings, and drops and heads under columns, as punching sees them: what is given in pieces that touch is one."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.model.members import Thickening
from piastra.core.punching.sources import Source

TOUCHING = 1e-3
"""What is nearer to each other than this (m) touches."""
HOLLOW = 0.01
"""What is hollow by more than this share of its hull is no one head."""


def solid_of(floor: Floor, region: BaseGeometry) -> tuple[BaseGeometry, tuple[tuple[str, Polygon], ...]]:
    """The concrete with the openings that lie wholly in it filled, and these; what cuts an edge is part of that edge."""
    within = shapely.union_all([Polygon(p.exterior) for p in shapely.get_parts(region)]).buffer(-5e-3)
    inner = tuple((label, shape) for label, shape in _joined_openings(floor) if within.contains(shape))
    solid = shapely.union_all([region, *(shape for _, shape in inner)])
    # Chords of one arc differ by rounding between what is joined.
    return solid.buffer(1e-6, join_style="mitre").buffer(-1e-6, join_style="mitre"), inner


def _joined_openings(floor: Floor) -> Iterable[tuple[str, Polygon]]:
    """The floor's openings; what is given as several that touch is one, by the ids of all of them."""
    shapes = [polygon(o.outline) for o in floor.openings]
    parts = shapely.get_parts(shapely.union_all([s.buffer(TOUCHING / 2, join_style="mitre") for s in shapes]))
    groups = [([k for k, s in enumerate(shapes) if whole.intersects(s)], whole) for whole in parts]
    for mine, whole in sorted(groups, key=lambda group: group[0]):
        joined = shapes[mine[0]] if len(mine) == 1 else whole.buffer(-TOUCHING / 2, join_style="mitre")
        yield ", ".join(floor.openings[k].id for k in mine), joined


def heads_of(floor: Floor) -> tuple[Polygon, ...]:
    """The outlines of a floor's thickenings."""
    return tuple(polygon(t.outline) for t in floor.thickenings)


def whole_heads(floor: Floor, sources: Sequence[Source]) -> tuple[Polygon, ...]:
    """The outlines of a floor's thickenings; of one head in pieces, on which one source stands, that of the whole for each of them."""
    heads = list(heads_of(floor))
    at = shapely.points(np.array([s.at for s in sources]).reshape(-1, 2))
    for h in {t.thickness_m for t in floor.thickenings}:
        mine = [k for k, t in enumerate(floor.thickenings) if t.thickness_m == h]
        parts = shapely.get_parts(shapely.union_all([heads[k].buffer(TOUCHING / 2, join_style="mitre") for k in mine]))
        for whole in parts:
            pieces = [k for k in mine if whole.contains(heads[k])]
            standing = {s.id for s, on in zip(sources, shapely.contains(whole, at), strict=True) if on}
            compact = whole.area > (1 - HOLLOW) * whole.convex_hull.area
            if len(pieces) > 1 and len(standing) == 1 and compact:
                joined = whole.buffer(-TOUCHING / 2, join_style="mitre")
                heads = [joined if k in pieces else head for k, head in enumerate(heads)]
    return tuple(heads)


def thickenings_at(heads: Sequence[Polygon], floor: Floor, slab: int, s: Source) -> list[Thickening]:
    """The thickenings, with the outlines ``heads``, that a source stands on: a head on a drop panel is two, one in pieces is its first."""
    under, thin = Point(s.at), floor.slabs[slab].thickness_m
    near = shapely.dwithin(np.array(heads, dtype=object), under, 1e-6)
    return [
        t for k, t in enumerate(floor.thickenings)
        if near[k] and t.thickness_m > thin and not any(heads[k] is other for other in heads[:k])
    ]  # fmt: skip
