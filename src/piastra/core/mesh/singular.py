"""Where shear has no bound: ends and bends of what holds the floor along lines, and thickness that leaps beside it. Elements of the target
size see little of it there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from piastra.core.mesh.pieces import segments

Array = npt.NDArray[np.float64]

BOUNDED = 0.9
"""Exponent from which on elements of the target size follow a deflection: shear then grows like the inverse of the tenth root at the most."""
LAYER = 1.02
"""As BOUNDED, between a line that holds and a free edge: at a right angle shear has a bound, but what twists the slab goes along the edge
in a layer as thin as that, and into the line's end."""
BENT = np.radians(30.0)
"""A thick region's outline that turns by less, as along an arc, has no corner."""
NARROW = 1 / 3
"""A floor no wider than this share of its length bends as a beam does, and nothing twists it."""
TIP = 0.01
"""A thick region that takes less of the plane round about a place does not end there."""
ASKEW = 0.5 * np.pi / BOUNDED
"""Thin slab at a free edge beside something thick that takes more than this angle (rad) deflects with a lesser exponent."""
SAME = np.radians(2.0)
"""An edge that leaves a place in the direction of a line that holds, but for this, is held."""


def singular_points(
    held: Sequence[LineString], region: BaseGeometry, footprints: Sequence[BaseGeometry], near: float, size: float
) -> list[tuple[float, float]]:
    """Places (m) where the shear beside the lines ``held`` grows without bound as one comes nearer; not those within columns' ``footprints``.

    What lies within ``near`` (m) of a place is at it; concrete that ends within half an element's ``size`` (m) is none. There the deflection by
    shear goes like r to the power of pi / alpha between two lines that hold, and of pi / (2 alpha) between one and a free edge, with alpha the
    angle of concrete between them. Source: Burton and Sinclair 1986 (plates that give way in shear).
    """
    lines = segments(held)
    if not len(lines):
        return []
    edges = segments([region.boundary])
    columns = shapely.union_all(list(footprints)).buffer(near)
    wide = shapely.union_all([line for line in held if not _across_a_strip(line, region, near)])
    found: list[tuple[float, float]] = []
    for x, y in np.unique(np.round(lines.reshape(-1, 2) / near) * near, axis=0):
        p = lines.reshape(-1, 2)[np.hypot(*(lines.reshape(-1, 2) - (x, y)).T).argmin()]
        limit = LAYER if wide.distance(shapely.Point(p)) <= near else BOUNDED
        if _is_new(p, found, columns, near) and _is_singular(p, lines, edges, region, near, size, limit):
            found.append((float(p[0]), float(p[1])))
    return found


def leap_points(
    held: Sequence[LineString],
    thick: Sequence[Polygon],
    region: BaseGeometry,
    footprints: Sequence[BaseGeometry],
    near: float,
    reach: float,
) -> list[tuple[float, float]]:
    """Places (m) no further than ``reach`` from the lines ``held``, along which shear is looked at, where a ``thick`` region's outline bends
    or meets such a line; not those at edges of the ``region`` or within columns' ``footprints``.

    A quarter of a plane that is thicker draws moments to its corner, so that shear beside it has no bound (Kellogg 1974, of fields in two
    materials); where it meets what holds the floor, shear changes within the thickness.
    """
    if not held or not thick:
        return []
    lines = shapely.union_all(list(held))
    inner = region.buffer(-near)
    columns = shapely.union_all(list(footprints)).buffer(near)
    found: list[tuple[float, float]] = []
    for outline in thick:
        xy = shapely.get_coordinates(outline.exterior)[:-1]
        way = np.roll(xy, -1, axis=0) - xy
        angle = np.arctan2(way[:, 1], way[:, 0])
        turn = (angle - np.roll(angle, 1) + np.pi) % (2 * np.pi) - np.pi
        met = shapely.get_coordinates(outline.exterior.intersection(lines))
        for p in (*xy[np.abs(turn) > BENT], *met):
            at = shapely.Point(p)
            if (
                lines.distance(at) <= reach
                and (inner.contains(at) or lines.distance(at) <= near)
                and _is_new(p, found, columns, near)
            ):
                found.append((float(p[0]), float(p[1])))
    return found


def corner_points(
    beside: Sequence[Polygon], region: BaseGeometry, footprints: Sequence[BaseGeometry], near: float, reach: float
) -> list[tuple[float, float]]:
    """Corners (m) of openings and edges that concrete goes round by more than half, no further than ``reach`` from what shear is looked at ``beside``;
    not those within that, as in the walls of a shaft, or within columns' ``footprints``.

    Between two free edges the deflection by shear goes like r to the power of pi / alpha with alpha the angle of concrete. Source: Burton and
    Sinclair 1986.
    """
    if not beside:
        return []
    held = shapely.union_all(list(beside))
    columns = shapely.union_all(list(footprints)).buffer(near)
    found: list[tuple[float, float]] = []
    for part in shapely.get_parts(shapely.orient_polygons(region)):
        for ring in (part.exterior, *part.interiors):
            xy = shapely.get_coordinates(ring)[:-1]
            way = np.roll(xy, -1, axis=0) - xy
            angle = np.arctan2(way[:, 1], way[:, 0])
            # Concrete is to the left: where the edge turns to the right, it goes round by more than half.
            turn = (np.roll(angle, 1) - angle + np.pi) % (2 * np.pi) - np.pi
            for p in xy[np.pi / (np.pi + np.maximum(turn, 0.0)) < BOUNDED]:
                if 0.0 < held.distance(shapely.Point(p)) <= reach and _is_new(p, found, columns, near):
                    found.append((float(p[0]), float(p[1])))
    return found


def exit_points(
    held: Sequence[LineString], region: BaseGeometry, footprints: Sequence[BaseGeometry], near: float
) -> list[tuple[float, float]]:
    """Places (m) where the lines ``held`` come out of columns' ``footprints`` within the ``region``.

    Around the corners of a column the deflection by shear goes like r to the power of 2 / 3 (Burton and Sinclair 1986, with 270 degrees of concrete), and the
    shear beside the line is looked at from the effective depth off the column's face on.
    """
    found: list[tuple[float, float]] = []
    inner = region.buffer(near)
    for line in held:
        ends = shapely.points([line.coords[0], line.coords[-1]])
        for column in footprints:
            if column.is_empty or line.distance(column) > near:
                continue
            for p in shapely.get_parts(line.intersection(column.buffer(near)).boundary):
                # Where the line itself ends nothing comes out.
                if (
                    shapely.distance(ends, p).min() > 1e-9
                    and inner.contains(p)
                    and all(np.hypot(p.x - a, p.y - b) > near for a, b in found)
                ):
                    found.append((float(p.x), float(p.y)))
    return found


def tip_points(
    thick: Sequence[Polygon], region: BaseGeometry, footprints: Sequence[BaseGeometry], near: float, size: float
) -> list[tuple[float, float]]:
    """Places (m) where a ``thick`` region's outline leaves the concrete askew, so that the thick part ends in a tip at a free edge; not those within
    columns' ``footprints``.

    Beside something much stiffer the deflection by shear goes like r to the power of pi / (2 alpha), with alpha the angle of thin slab between it and
    the free edge: below :data:`BOUNDED` shear there has no bound that elements of a ``size`` (m) follow. Source: Burton and Sinclair 1986.
    """
    if not thick:
        return []
    columns = shapely.union_all(list(footprints)).buffer(near)
    found: list[tuple[float, float]] = []
    for outline in thick:
        for p in shapely.get_coordinates(outline.exterior.intersection(region.boundary)):
            around = shapely.Point(p).buffer(size / 4, quad_segs=32)
            concrete = around.intersection(region)
            inside = concrete.intersection(outline).area
            thin = 2 * np.pi * (concrete.area - inside) / around.area
            if inside > TIP * around.area and thin > ASKEW and _is_new(p, found, columns, near):
                found.append((float(p[0]), float(p[1])))
    return found


def _is_new(p: Array, found: Sequence[tuple[float, float]], columns: BaseGeometry, near: float) -> bool:
    """Whether a place lies neither within columns nor at one that was found before."""
    return not columns.intersects(shapely.Point(p)) and all(np.hypot(p[0] - a, p[1] - b) > near for a, b in found)


def _across_a_strip(line: LineString, region: BaseGeometry, near: float) -> bool:
    """Whether a line that holds runs from edge to edge of a floor that is a narrow strip."""
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(region))
    longest = float(np.hypot(*np.diff(box, axis=0).T).max())
    return line.length < NARROW * longest + near and bool(
        shapely.distance(region.boundary, shapely.points([line.coords[0], line.coords[-1]])).max() <= near
    )


def _is_singular(p: Array, lines: Array, edges: Array, region: BaseGeometry, near: float, size: float, limit: float) -> bool:
    """Whether the exponent at ``p`` is below BOUNDED between two lines, or below the ``limit`` between one and a free edge."""
    holding = _rays(p, lines, near)
    # What ends within half an element of an edge ends at it.
    free = [a for a in _rays(p, edges, size / 2) if all(abs((a - b + np.pi) % (2 * np.pi) - np.pi) > SAME for b in holding)]
    rays = sorted([(a, True) for a in holding] + [(a, False) for a in free])
    for (a, one), (b, other) in zip(rays, [*rays[1:], (rays[0][0] + 2 * np.pi, rays[0][1])], strict=True):
        alpha = b - a
        middle = p + 0.5 * size * np.array([np.cos(a + alpha / 2), np.sin(a + alpha / 2)])
        if (
            (one or other)
            and region.contains(shapely.Point(middle))
            and (np.pi / alpha < BOUNDED if one and other else np.pi / (2 * alpha) < limit)
        ):
            return True
    return False


def _rays(p: Array, segments: Array, near: float) -> list[float]:
    """Directions (rad) in which pieces of line leave a place, each once."""
    way = segments[:, 1] - segments[:, 0]
    length = np.maximum(np.hypot(*way.T), 1e-12)
    along = ((p - segments[:, 0]) * way).sum(axis=1) / length
    off = np.abs((p - segments[:, 0])[:, 0] * way[:, 1] - (p - segments[:, 0])[:, 1] * way[:, 0]) / length
    at = (off <= near) & (along >= -near) & (along <= length + near)
    onward, back = at & (along < length - near), at & (along > near)
    turned = np.concatenate([np.arctan2(way[onward, 1], way[onward, 0]), np.arctan2(-way[back, 1], -way[back, 0])])
    out: list[float] = []
    for angle in np.mod(turned, 2 * np.pi):
        if all(abs((angle - other + np.pi) % (2 * np.pi) - np.pi) > SAME for other in out):
            out.append(float(angle))
    return out
