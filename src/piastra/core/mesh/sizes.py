"""How large elements are to be, as the mesher is told: finer at footprints and where something presses, rows where a face has four sides."""

from __future__ import annotations

from dataclasses import dataclass, field

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.geometry.partition import Partition
from piastra.core.mesh.plan import Linework

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ALGORITHM = 8
"""Gmsh's number of the surface algorithm that is tried first: frontal for quadrilaterals."""


@dataclass(slots=True)
class Sizes:
    """What elements of a plan are to be like.

    ``finer`` (k, 5): places x, y (m) with the size there (m), how far it holds (m) and how far it matters (m); ``rows``: faces that are meshed in
    rows, and ``fixed`` the edges whose division is set by that.
    """

    finer: list[tuple[float, float, float, float, float]] = field(default_factory=list)
    rows: set[int] = field(default_factory=set)
    fixed: set[int] = field(default_factory=set)


def set_sizes(plan: Linework, surfaces: list[int]) -> Sizes:
    """Tell Gmsh the sizes of a plan's elements, whose faces are its ``surfaces``: graded from footprints and places that are pressed to the
    target size; where nothing is finer, faces with four sides get rows."""
    parts = plan.parts
    sizes = Sizes()
    # One field for all columns of a size: Gmsh asks every field at every point.
    alike: dict[float, set[int]] = {}
    for column in np.unique(plan.column[plan.column >= 0]):
        corners = {i for f in np.flatnonzero(plan.column == column) for r in parts.rings[f] for e, _ in r
                   for i in parts.edges[e]}  # fmt: skip
        box = plan.footprints[column].minimum_rotated_rectangle
        xy = shapely.get_coordinates(box)
        sides = sorted(np.hypot(*(xy[1:3] - xy[0:2]).T))
        fine = min(plan.size, max(sides[0] / 3, sides[1] / 8, 0.02))
        if fine > 0.9 * plan.size:
            continue
        alike.setdefault(round(fine, 6), set()).update(int(i) + 1 for i in corners)
        _in_rows(parts, np.flatnonzero(plan.column == column), fine, sizes)
    thresholds = []
    for fine, points in sorted(alike.items()):
        threshold, matters = _graded(sorted(points), fine, plan.size, fine, 2.5)
        thresholds.append(threshold)
        sizes.finer += [(*parts.points[p - 1].tolist(), fine, fine, matters) for p in sorted(points)]
    around: dict[tuple[float, float, float], list[tuple[float, float]]] = {}
    for place in plan.finer:
        if place.size < 0.9 * plan.size:
            around.setdefault((round(place.size, 6), round(place.radius, 6), place.reach), []).append(place.at)
    tags = {key: [gmsh.model.geo.addPoint(x, y, 0.0) for x, y in places] for key, places in around.items()}
    if around:
        gmsh.model.geo.synchronize()
    for (fine, radius, reach), places in sorted(around.items()):
        threshold, matters = _graded(tags[fine, radius, reach], fine, plan.size, radius, reach)
        thresholds.append(threshold)
        sizes.finer += [(*at, fine, radius, matters) for at in places]
    if thresholds:
        least = gmsh.model.mesh.field.add("Min")
        gmsh.model.mesh.field.setNumbers(least, "FieldsList", thresholds)
        gmsh.model.mesh.field.setAsBackgroundMesh(least)
    option = gmsh.option.setNumber
    option("Mesh.MeshSizeExtendFromBoundary", 0)
    option("Mesh.MeshSizeMax", plan.size)
    option("Mesh.Algorithm", ALGORITHM)
    option("Mesh.RecombineAll", 1)
    option("Mesh.RecombinationAlgorithm", 1)
    option("Mesh.RandomSeed", 1)
    # Meshed anew are only faces that were cleared, not those that came out well.
    option("Mesh.MeshOnlyEmpty", 1)
    if not thresholds:
        _regular(plan, surfaces, sizes)
    return sizes


def _graded(points: list[int], fine: float, coarse: float, within: float, reach: float) -> tuple[int, float]:
    """A field of ``fine`` sizes within a distance of points, that grow to ``coarse`` over ``reach`` times the rise; how far it matters."""
    made = gmsh.model.mesh.field
    distance = made.add("Distance")
    made.setNumbers(distance, "PointsList", points)
    threshold = made.add("Threshold")
    matters = within + reach * (coarse - fine)
    for name, value in (
        ("InField", distance), ("SizeMin", fine), ("SizeMax", coarse), ("DistMin", within), ("DistMax", matters),
    ):  # fmt: skip
        made.setNumber(threshold, name, value)
    return int(threshold), matters


def _in_rows(parts: Partition, faces: Ints, size: float, sizes: Sizes) -> None:
    """The same number of elements along opposite sides of a column's footprint, where it is one face with four sides."""
    for f in faces:
        rings = parts.rings[f]
        if len(faces) > 1 or len(rings) > 1 or len(rings[0]) != 4:
            break
        sides = [e for e, _ in rings[0]]
        for pair in (sides[::2], sides[1::2]):
            length = max(float(np.hypot(*(parts.points[parts.edges[e, 1]] - parts.points[parts.edges[e, 0]]))) for e in pair)
            for e in pair:
                gmsh.model.mesh.setTransfiniteCurve(e + 1, max(int(np.ceil(length / size - 1e-6)), 1) + 1)
        gmsh.model.mesh.setTransfiniteSurface(f + 1)
        sizes.rows.add(int(f))
        sizes.fixed.update(sides)


def _regular(plan: Linework, surfaces: list[int], sizes: Sizes) -> None:
    """Rows of quadrilaterals in faces with four sides: opposite sides get the same number of elements."""
    parts = plan.parts
    length = np.hypot(*(parts.points[parts.edges[:, 1]] - parts.points[parts.edges[:, 0]]).T)
    points = set(dict(plan.points).values())
    leader = list(range(len(parts.edges)))

    def lead(e: int) -> int:
        while leader[e] != e:
            e = leader[e]
        return e

    mapped = []
    for f, rings in enumerate(parts.rings):
        plain = len(rings) == 1 and len(rings[0]) == 4 and not parts.loose[f]
        if plain and not any(parts.polygons[f].contains(shapely.Point(p)) for p in points):
            sides = [e for e, _ in rings[0]]
            if min(length[sides[0]], length[sides[2]]) > 0.5 * max(length[sides[0]], length[sides[2]]) and min(
                length[sides[1]], length[sides[3]]
            ) > 0.5 * max(length[sides[1]], length[sides[3]]):
                mapped.append(f)
                leader[lead(sides[0])] = lead(sides[2])
                leader[lead(sides[1])] = lead(sides[3])
    count: dict[int, int] = {}
    for f in mapped:
        for e, _ in parts.rings[f][0]:
            count[lead(e)] = max(count.get(lead(e), 1), int(np.ceil(length[e] / plan.size - 1e-9)))
    for f in mapped:
        for e, _ in parts.rings[f][0]:
            gmsh.model.mesh.setTransfiniteCurve(e + 1, count[lead(e)] + 1)
        gmsh.model.mesh.setTransfiniteSurface(surfaces[f])
    sizes.rows.update(mapped)
    sizes.fixed.update(e for f in mapped for e, _ in parts.rings[f][0])
