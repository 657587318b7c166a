"""Flat slabs in a fire: which they are, and the top bars that have to run through their spans."""

from __future__ import annotations

from dataclasses import dataclass

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
Ints = npt.NDArray[np.int64]

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


@dataclass(frozen=True, slots=True)
class Intermediate:
    """Of column strips of flat slabs the stations and, of these, those at intermediate supports, of whose top steel a ``share`` runs through;
    none where nothing asks for it."""

    share: float = 0.0
    strips: tuple[tuple[Ints, Ints], ...] = ()


def intermediate(floor: Floor, rules: FireRules | None, layout: Layout, cuts: Cuts, solid: BaseGeometry) -> Intermediate:
    """In a strip's direction a support is intermediate where another span follows or concrete lies all about it."""
    step = rules.kept_top(floor.fire) if rules is not None and floor.fire is not None else None
    flat = flat_slabs(floor, solid) if step is not None else set()
    if step is None or step.result is None or not flat:
        return Intermediate()
    where = shapely.union_all([polygon(s.outline) for s in floor.slabs if s.id in flat])
    labels = {label for _, label, _ in inner_supports(floor, flat, solid)}
    found = []
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        if strip.kind != "column" or strip.cantilever or not len(mine) or not strip.outline.intersects(where):
            continue
        ends = mine[np.argsort(cuts.s[mine])][[0, -1]].tolist()
        over = [
            c for c, hold in zip(ends, strip.holds, strict=True) if hold is not None and (not hold.last or hold.label in labels)
        ]
        if over:
            found.append((mine, np.array(over)))
    return Intermediate(step.result.value, tuple(found))


def kept_through(kept: Intermediate, cuts: Cuts, total: Array) -> Array:
    """Top bars that run through column strips over intermediate supports, m2/m at each station (c,).

    ``total`` (c,) m2 of the panel's top steel, at the faces of columns. The share of the greater support runs through, in whatever width the
    strip has.
    """
    out: Array = np.zeros(len(cuts.strip))
    for mine, ends in kept.strips:
        out[mine] = kept.share * float(total[ends].max()) / np.maximum(cuts.width[mine], 1e-9)
    return out
