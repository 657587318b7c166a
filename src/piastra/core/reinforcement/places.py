"""What stations of strips lie at: faces of columns and walls, held and free edges, and the bands over columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from piastra.core.model import Floor
from piastra.core.standards import Standard
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Bounds:
    """What bounds a floor: ``footprints`` of columns by label, ``solid`` the floor, ``held`` lines of walls, supports and beams that hold its edges."""

    footprints: dict[str, shapely.Polygon]
    solid: BaseGeometry
    held: BaseGeometry


@dataclass(frozen=True, slots=True)
class Joints:
    """Moments that columns take: ``labels`` of supports, their unit reactions (s, 3, r): force and moments about x and y. ``sections``: of columns by
    label the length (m), the depth (m) and the edges of their critical sections."""

    labels: Sequence[str]
    reactions: Array
    sections: dict[str, tuple[float, float, int]]


@dataclass(frozen=True, slots=True)
class Where:
    """What stations lie at, each (c,): ``place`` 0 at the strip's start, 1 at its end, else -1. ``at_face``: whether the standard means
    moments at the faces of columns at edges."""

    place: Ints
    column: Flags
    inner: Flags
    free: Flags
    end: Flags
    simple: Flags
    band: Array
    at_face: bool


def _hinged(floor: Floor) -> set[str]:
    """Supports that are modelled as if they did not clamp the floor."""
    lines = {s.id for s in floor.supports if s.kind == "line" and s.rotation in ("free", 0.0)}
    return lines | {w.id for w in floor.walls if w.top == "hinged"}


def places_of(floor: Floor, standard: Standard, layout: Layout, cuts: Cuts, bounds: Bounds) -> Where:
    count = len(cuts.strip)
    place = np.full(count, -1, dtype=np.int64)
    column, inner, free, end, simple = (np.zeros(count, dtype=bool) for _ in range(5))
    band, hinged = np.zeros(count), _hinged(floor)
    ways = {p.gathers for p in standard.provisions}
    for k, strip in enumerate(layout.strips):
        mine = np.flatnonzero(cuts.strip == k)
        for which, hold in enumerate(strip.holds):
            if not len(mine):
                continue
            c = mine[0 if which == 0 else -1]
            near = strip.start if which == 0 else strip.end
            if abs(cuts.s[c] - near) > 0.05:
                continue
            if hold is None:
                middle = cuts.ends[c].mean(axis=0)
                free[c] = not strip.beam and not shapely.dwithin(bounds.held, shapely.Point(middle), HOLDS)
                continue
            place[c] = which
            own = strip.kind == "column"
            column[c] = own and hold.seen in ("column", "wall_end")
            inner[c] = own and hold.seen == "column" and not hold.last and strip.band > 0
            end[c] = hold.last and not strip.cantilever
            simple[c] = hold.label in hinged
            outline = bounds.footprints.get(hold.label)
            if "column" in ways and column[c] and outline is not None:
                _, across = sides(outline, float(cuts.angle[c]))
                band[c] = min(across + 3 * float(cuts.h[c]), float(cuts.width[c]))
            elif "eighth" in ways and inner[c]:
                band[c] = strip.band
            elif "edge" in ways and column[c] and end[c] and outline is not None:
                band[c] = min(edge_width(outline, float(cuts.angle[c]), which == 0, bounds.solid), float(cuts.width[c]))
    return Where(place, column, inner, free, end, simple, band, "edge" in ways)


HOLDS = 0.3
"""An edge with a wall, a line of support or a beam so near (m) is held."""
FURTHEST = 60.0


def edge_width(column: shapely.Polygon, angle: float, starts: bool, solid: BaseGeometry) -> float:
    """Width (m) over which moments pass from a slab into a column at its edge: EN 1992-1-1, figure 9.9.

    Bars run at ``angle`` rad, into the floor where the strip ``starts``. y is measured from the edge across the bars to the column's
    inner face: c_z + y at an edge; with a second edge beside the column z + y / 2, z from that edge to its inner face.
    """
    way, aside = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    xy = shapely.get_coordinates(column)
    middle = np.array(column.centroid.coords[0])
    _, across = sides(column, angle)

    def to_edge(direction: Array) -> float:
        run = LineString([middle, middle + FURTHEST * direction]).intersection(solid)
        parts = [p for p in shapely.get_parts(run) if shapely.dwithin(p, shapely.Point(middle), 0.05)]
        return max((p.length for p in parts), default=0.0)

    inward = way if starts else -way
    y = to_edge(-inward) + float(((xy - middle) @ inward).max())
    for sense in (1.0, -1.0):
        z = to_edge(sense * aside)
        if z < (across + y) / 2:
            return z + float((-sense * ((xy - middle) @ aside)).max()) + y / 2
    return across + y


def sides(footprint: shapely.Polygon, angle: float) -> tuple[float, float]:
    """Sides (m) of a column along and across a direction."""
    xy = shapely.get_coordinates(footprint)
    return float(np.ptp(xy @ (np.cos(angle), np.sin(angle)))), float(np.ptp(xy @ (-np.sin(angle), np.cos(angle))))
