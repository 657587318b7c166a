"""Where one-way shear is checked: pieces of lines at the effective depth from what carries the slab."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import Floor

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

WIDTH = 2.0
"""Shear is the mean over pieces no longer than so many effective depths."""
POINTS = 8
"""Points of a piece, at each of which the shear is read."""
TOUCHING = 1e-3
"""What is nearer to each other than this (m) touches."""
SHORTEST = 0.3
"""A piece of line shorter than this (m) is none."""


@dataclass(frozen=True, slots=True)
class Lines:
    """Pieces of lines: what each belongs to (``of``, numbers of ``carried``: list of the floor and id), its ``middle`` (k, 2) and its points ``xy``
    (k, POINTS, 2) m."""

    carried: tuple[tuple[str, str], ...]
    of: Ints
    middle: Array
    xy: Array

    @property
    def length(self) -> Array:
        """Of each piece, (k,) m: its points are the middles of equal shares."""
        return np.asarray(np.hypot(*(self.xy[:, -1] - self.xy[:, 0]).T) * POINTS / (POINTS - 1))


def lines_of(
    floor: Floor, region: BaseGeometry, footprints: Sequence[Polygon], depth: float, distance: float | None = None
) -> Lines:
    """Lines at ``depth`` (m, effective), or at another ``distance``, beside walls and lines of support, around beams and thick regions.

    What lies within a column's footprint or no further than ``depth`` from its face is punching's; nor is anything looked at
    nearer than ``depth`` to the face of another wall, line of support or beam, into which load goes by itself (EN 1992-1-1 6.2.1 (8),
    ACI 318-19 7.4.3.2).
    """
    away = depth if distance is None else distance
    # A line that touches, as beside a beam as wide as its column, lies no further away.
    near = shapely.union_all([f.buffer(depth + TOUCHING) for f in footprints]) if footprints else Polygon()
    free = region.difference(near)
    shapely.prepare(free)
    held = _held_along(floor)
    faces = [line.buffer(half + depth - TOUCHING, cap_style="flat", join_style="mitre") for _, line, half in held]
    tree = shapely.STRtree(faces)
    carried: list[tuple[str, str]] = []
    found: list[tuple[int, LineString]] = []

    def add(ref: tuple[str, str], around: BaseGeometry, others: Sequence[Polygon] = (), all_the_same: bool = True) -> None:
        clear = around.intersection(free)
        met = _lines_in(clear.difference(shapely.union_all(list(others)))) if others else []
        # What lies within others all along, as a wall under a wider beam, is looked at all the same.
        met = met or (_lines_in(clear) if all_the_same or not others else [])
        if met:
            carried.append(ref)
            found.extend((len(carried) - 1, p) for p in met)

    for k, (ref, line, half) in enumerate(held):
        around = _beside(line, half + away)
        add(ref, around, [faces[j] for j in tree.query(around, "intersects") if j != k])
    for ref, around in _steps(floor, region, footprints, away):
        beside = [faces[j] for j in tree.query(around, "intersects")]
        # Where a slab's thickness changes upon a wall or a beam, that is what is looked at.
        add(ref, around, beside, ref[0] != "slabs")
    pieces = [(k, a, b) for k, line in found for a, b in _pieces(line, WIDTH * depth)]
    of = np.array([k for k, _, _ in pieces], dtype=np.int64)
    ends = np.array([(a, b) for _, a, b in pieces]).reshape(-1, 2, 2)
    share = (np.arange(POINTS) + 0.5) / POINTS
    xy = ends[:, None, 0] * (1 - share[:, None]) + ends[:, None, 1] * share[:, None]
    return Lines(tuple(carried), of, ends.mean(axis=1), xy)


def _steps(
    floor: Floor, region: BaseGeometry, footprints: Sequence[Polygon], away: float
) -> Iterable[tuple[tuple[str, str], BaseGeometry]]:
    """Lines ``away`` (m) from thicker slabs, bands and other thick regions, in what is thinner beside or within them; where that is narrower than
    twice as much, along its middle: all that passes a groove passes there."""
    slabs = [(("slabs", s.id), polygon(s.outline), s.thickness_m) for s in floor.slabs]
    heads = [(("thickenings", t.id), polygon(t.outline), t.thickness_m) for t in floor.thickenings]
    least = min((h for *_, h in (*slabs, *heads)), default=0.0)
    bands = {t.id for t in floor.thickenings if t.kind == "band"}
    for own in sorted({h for *_, h in (*slabs, *heads)} - {least}):
        # Around a drop or head upon a column it is punching's second perimeter that is checked, and one may be given in pieces.
        alike = shapely.union_all([o.buffer(TOUCHING) for i, o, h in heads if i[1] not in bands and h == own])
        on_columns = shapely.union_all([p for p in shapely.get_parts(alike) if any(p.intersects(f) for f in footprints)])
        # Pieces of one thickness that touch have no step between them.
        thick = _as_thick(floor, own)
        around = thick.buffer(away, join_style="mitre").boundary.union(_grooves(region.difference(thick), away))
        for ref, outline, h in (*slabs, *heads):
            if h == own and (ref[0] == "slabs" or ref[1] in bands or not on_columns.intersects(outline)):
                yield ref, around.intersection(outline.buffer(away + TOUCHING, join_style="mitre"))


NARROWEST = 0.02
"""What is narrower than twice this (m) is no groove, but a slip of drawing."""


def _grooves(thin: BaseGeometry, away: float) -> BaseGeometry:
    """Lines along the middle of what is ``thin`` and narrower than twice ``away`` (m)."""
    wide = thin.buffer(-away, join_style="mitre").buffer(away + TOUCHING, join_style="mitre")
    found = []
    for part in shapely.get_parts(thin.difference(wide)):
        radius = float(shapely.maximum_inscribed_circle(part).length) if isinstance(part, Polygon) and part.area > 0 else 0.0
        if radius > NARROWEST and part.area > 2 * radius * SHORTEST:
            found.append(part.buffer(-0.9 * radius, join_style="mitre").boundary)
    return shapely.union_all(found)


def _as_thick(floor: Floor, thickness: float) -> BaseGeometry:
    """Where the floor is of a ``thickness`` (m) or more."""
    recesses = shapely.union_all([polygon(t.outline) for t in floor.thickenings if t.thickness_m < thickness])
    slabs = [polygon(s.outline).difference(recesses) for s in floor.slabs if s.thickness_m >= thickness]
    return shapely.union_all([*slabs, *(polygon(t.outline) for t in floor.thickenings if t.thickness_m >= thickness)])


def _lines_in(shape: BaseGeometry) -> list[LineString]:
    """The lines of a shape that are long enough to be looked at."""
    return [p for p in shapely.get_parts(shapely.line_merge(shape)) if isinstance(p, LineString) and p.length > SHORTEST]


def _held_along(floor: Floor) -> list[tuple[tuple[str, str], LineString, float]]:
    """What carries the slab along a line: which, its line and half its width (m)."""
    found = [(("walls", w.id), LineString(polyline(w.line, 0.5)), w.thickness_m / 2) for w in floor.walls if w.below is not None]
    found += [
        (("supports", s.id), LineString(polyline(s.line, 0.5)), 0.0)
        for s in floor.supports
        if s.kind == "line" and s.vertical not in ("free", 0.0)
    ]
    return found + [(("beams", b.id), LineString(polyline(b.line, 0.5)), b.width_m / 2) for b in floor.beams]


def within(floor: Floor, ref: tuple[str, str], distance: float, region: BaseGeometry) -> tuple[Polygon, ...]:
    """The concrete up to ``distance`` m from the face of what carries the slab."""
    items = {item.id: item for item in getattr(floor, ref[0])}
    item = items[ref[1]]
    if ref[0] in ("slabs", "thickenings"):
        face = _as_thick(floor, item.thickness_m)
        around = face.buffer(distance, join_style="mitre").intersection(
            polygon(item.outline).buffer(distance, join_style="mitre")
        )
    else:
        line = LineString(polyline(item.line, 0.5))
        half = {"walls": "thickness_m", "beams": "width_m"}.get(ref[0])
        depth = getattr(item, half) / 2 if half else 0.0
        face = line.buffer(depth, cap_style="flat") if depth else line
        around = line.buffer(depth + distance, cap_style="flat", join_style="mitre")
    parts = shapely.get_parts(around.difference(face).intersection(region))
    return tuple(p for p in parts if isinstance(p, Polygon) and p.area > SHORTEST**2)


def _beside(line: LineString, distance: float) -> BaseGeometry:
    """Parallels to both sides of a line, as long as it is."""
    if line.is_closed:
        return line.buffer(distance, join_style="mitre").boundary
    return shapely.union_all([shapely.offset_curve(line, side * distance, join_style="mitre") for side in (1, -1)])


def _pieces(line: LineString, longest: float) -> list[tuple[Array, Array]]:
    """Straight pieces of a line, none longer than ``longest`` m."""
    xy = shapely.get_coordinates(line)
    out = []
    for a, b in zip(xy[:-1], xy[1:], strict=True):
        count = max(int(np.ceil(np.hypot(*(b - a)) / longest - 1e-9)), 1)
        at = a + (b - a) * np.linspace(0, 1, count + 1)[:, None]
        out += list(zip(at[:-1], at[1:], strict=True))
    return out
