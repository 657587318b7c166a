"""Critical perimeters for punching, from the real geometry of the column, the edges and the openings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import numpy.typing as npt
import shapely
from shapely.affinity import scale, translate
from shapely.geometry import LineString, MultiPoint, Point, Polygon
from shapely.geometry.base import BaseGeometry

Array = npt.NDArray[np.float64]

ARC_STEPS = 32
"""Chords of a quarter circle of a perimeter."""


@dataclass(frozen=True, slots=True)
class Perimeter:
    """A critical perimeter.

    ``segments`` (k, 2, 2) m; ``length`` m; ``centroid`` m; ``inside`` the area that it encloses on the floor;
    ``edges`` the number of free edges that it runs out to; ``lost`` m taken away by each opening, by its label.
    """

    segments: Array
    length: float
    centroid: tuple[float, float]
    inside: BaseGeometry
    edges: int
    lost: tuple[tuple[str, float], ...]

    @property
    def place(self) -> str:
        """Interior, edge or corner, as the geometry has it."""
        return ("interior", "edge", "corner")[min(self.edges, 2)]

    def first_moment(self, angle: float) -> float:
        """Integral of ``|e| dl`` (m2), ``e`` the distance from the axis through the centroid at ``angle`` rad:
        the first moment of a plastic distribution."""
        normal = np.array([-np.sin(angle), np.cos(angle)])
        e = (self.segments - np.array(self.centroid)) @ normal
        l = np.hypot(*(self.segments[:, 1] - self.segments[:, 0]).T)
        a, b = e[:, 0], e[:, 1]
        same = np.abs(a + b) / 2
        total = np.maximum(np.abs(a) + np.abs(b), 1e-15)
        return float((l * np.where(a * b >= 0, same, (a * a + b * b) / (2 * total))).sum())

    def second_moments(self) -> tuple[float, float, float]:
        """``I_x``, ``I_y`` and ``I_xy`` (m3) of the line about its centroid."""
        p = self.segments - np.array(self.centroid)
        l = np.hypot(*(p[:, 1] - p[:, 0]).T)
        product = (2 * (p[:, 0, :, None] * p[:, 0, None] + p[:, 1, :, None] * p[:, 1, None])
                   + p[:, 0, :, None] * p[:, 1, None] + p[:, 1, :, None] * p[:, 0, None]) / 6  # fmt: skip
        I = (l[:, None, None] * product).sum(axis=0)
        return float(I[1, 1]), float(I[0, 0]), float(I[0, 1])


def _free_edges(shape: Polygon, solid: BaseGeometry, reach: float) -> list[Array]:
    """Vectors (m) from the shape out over each free edge within reach, nearest first."""
    runs: list[tuple[float, Array]] = []
    for part in shapely.get_parts(solid):
        xy = shapely.get_coordinates(shapely.orient_polygons(part).exterior)
        sides = np.stack([xy[:-1], xy[1:]], axis=1)
        gaps = shapely.distance(shapely.linestrings(sides), shape)
        for k in np.flatnonzero(gaps <= reach):
            a, b = sides[k]
            t = (b - a) / np.hypot(*(b - a))
            runs.append((float(gaps[k]), np.array([t[1], -t[0]])))
    runs.sort(key=lambda r: r[0])
    normals: list[Array] = []
    for _, n in runs:
        # Chords of one curved edge, and the two ends of one straight edge, are one edge.
        if all(n @ m < np.cos(np.radians(40.0)) for m in normals):
            normals.append(n)
    return [n * (reach + 2.0) for n in normals[:3]]


def _perimeter(loaded: BaseGeometry, distance: float, solid: BaseGeometry, inner: BaseGeometry, cones: Sequence[tuple[str, BaseGeometry]],
               holes: BaseGeometry, edges: int, straight: bool) -> Perimeter | None:  # fmt: skip
    area = loaded.buffer(distance, quad_segs=ARC_STEPS, join_style="mitre" if straight else "round")
    line = area.exterior.intersection(inner)
    lost = []
    for label, cone in cones:
        rest = line.difference(cone)
        if line.length - rest.length > 1e-6:
            lost.append((label, float(line.length - rest.length)))
        line = rest
    line = line.difference(holes)
    parts = [g for g in shapely.get_parts(line) if isinstance(g, LineString) and g.length > 1e-6]
    if not parts:
        return None
    pairs = [np.stack([xy[:-1], xy[1:]], axis=1) for xy in map(shapely.get_coordinates, parts)]
    segments = np.concatenate(pairs)
    l = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    length = float(l.sum())
    centroid = (l[:, None] * segments.mean(axis=1)).sum(axis=0) / length
    inside = area.intersection(solid).difference(holes)
    return Perimeter(segments, length, (float(centroid[0]), float(centroid[1])), inside, edges, tuple(lost))


def control_perimeter(
    loaded: Polygon,
    distance: float,
    solid: BaseGeometry,
    openings: Sequence[tuple[str, Polygon]],
    reach: float,
    straight: bool = False,
) -> Perimeter | None:
    """The shortest admissible perimeter at ``distance`` m from a convex loaded area.

    ``solid`` is the floor with its openings filled. Near free edges the loaded area is continued to the edge, so
    that the perimeter meets it at a right angle, if that is shorter. The part between the tangents from the
    column's middle to an opening within ``reach`` m of it is left out. ``straight``: corners are not rounded. Distance and reach are the standard's; the
    construction is that of EN 1992-1-1, 6.4.2, figures 6.13 to 6.15.
    """
    centre = loaded.intersection(solid).centroid
    cones = []
    for label, opening in openings:
        if opening.distance(loaded) <= reach and not opening.contains(centre):
            wedge = MultiPoint([*opening.exterior.coords, (centre.x, centre.y)]).convex_hull
            cones.append((label, scale(wedge, 50.0, 50.0, origin=(centre.x, centre.y))))
    inner = solid.buffer(-1e-4)
    holes = shapely.unary_union([o for _, o in openings])
    width = float(max(np.ptp(shapely.get_coordinates(loaded), axis=0)))
    out = _free_edges(loaded, solid, 2.0 * distance + width)
    best: Perimeter | None = None
    for count in range(len(out) + 1):
        for chosen in combinations(out, count):
            shapes = [loaded]
            for vector in chosen:
                shapes = [*shapes, *(translate(s, *vector) for s in shapes)]
            hull = shapely.unary_union(shapes).convex_hull
            found = _perimeter(hull, distance, solid, inner, cones, holes, count, straight)
            if found is not None and not Point(centre).within(found.inside.buffer(1e-3)):
                continue
            # A column flush with an edge has one length either way; it is then the edge's.
            if found is not None and (best is None or found.length < best.length + 1e-6):
                best = found
    return best
