"""Flat slabs in a fire: which they are, and the top bars that have to run through their spans."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import Floor
from piastra.core.standards.fire_rules import FireRules
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]

INSIDE = 0.01
"""Bays that end so far (m) from all edges lie within the floor."""
AROUND = 1.0
"""A column with concrete so far (m) to all sides is an inner one."""


def outline_of(region: BaseGeometry) -> BaseGeometry:
    """A floor's concrete without its openings."""
    return shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(region)])


def flat_slabs(floor: Floor, solid: BaseGeometry) -> set[str]:
    """Ids of those that stand on columns without beams between, and of bays within the floor (``solid``) that nothing of their own holds up."""
    beams = shapely.union_all([shapely.LineString(polyline(b.line)).buffer(b.width_m / 2) for b in floor.beams])
    bare = [shapely.Point(c.at) for c in floor.columns if c.below is not None and not beams.intersects(shapely.Point(c.at))]
    bare += [shapely.Point(s.at) for s in floor.supports if s.kind == "point" and s.vertical not in ("free", 0.0)]
    lines = [w.line for w in floor.walls if w.below is not None]
    lines += [s.line for s in floor.supports if s.kind == "line" and s.vertical not in ("free", 0.0)]
    edges = shapely.union_all([shapely.LineString(polyline(line)) for line in lines]).union(beams)
    shapes = {s.id: polygon(s.outline).buffer(1e-6) for s in floor.slabs}
    flat = {id for id, shape in shapes.items() if any(shape.intersects(p) for p in bare)}
    shell = solid.buffer(-INSIDE)
    return flat | {i for i, s in shapes.items() if flat and not s.intersects(edges) and shell.contains(s)}


def inner_supports(floor: Floor, flat: set[str], solid: BaseGeometry) -> list[tuple[str, str, tuple[float, float]]]:
    """Columns and point supports under ``flat`` slabs with concrete all about them: their list, id and place, m."""
    slabs = shapely.union_all([polygon(s.outline) for s in floor.slabs if s.id in flat])
    points = [("columns", c.id, c.at) for c in floor.columns if c.below is not None]
    points += [("supports", s.id, s.at) for s in floor.supports if s.kind == "point" and s.vertical not in ("free", 0.0)]
    spots = [(shapely.Point(at), (kind, label, (at[0], at[1]))) for kind, label, at in points]
    return [named for place, named in spots if slabs.intersects(place) and solid.contains(place.buffer(AROUND))]


def kept_through(
    floor: Floor, rules: FireRules | None, layout: Layout, cuts: Cuts, total: Array, solid: BaseGeometry
) -> tuple[Array, dict[int, tuple[str, ...]]]:
    """Top bars that run through column strips over intermediate supports, m2/m at each station (c,); and of each such strip, by its number, these supports.

    ``total`` (c,) m2 of the panel's top steel, at the faces of columns. In a strip's direction a support is intermediate where another
    span follows or concrete lies all about it. The share of the greater support runs through, in whatever width the strip has.
    """
    out: Array = np.zeros(len(cuts.strip))
    found: dict[int, tuple[str, ...]] = {}
    step = rules.kept_top(floor.fire) if rules is not None and floor.fire is not None else None
    flat = flat_slabs(floor, solid) if step is not None else set()
    if step is None or step.result is None or not flat:
        return out, found
    where = shapely.union_all([polygon(s.outline) for s in floor.slabs if s.id in flat])
    labels = {label for _, label, _ in inner_supports(floor, flat, solid)}
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if strip.kind != "column" or strip.cantilever or not len(mine) or not strip.outline.intersects(where):
            continue
        ends = mine[np.argsort(cuts.s[mine])][[0, -1]].tolist()
        over = {
            hold.label: float(total[c]) for c, hold in zip(ends, strip.holds, strict=True)
            if hold is not None and total[c] > 0 and (not hold.last or hold.label in labels)
        }  # fmt: skip
        if over:
            found[k] = tuple(strip.supports)
            out[mine] = step.result.value * max(over.values()) / np.maximum(cuts.width[mine], 1e-9)
    return out, found
