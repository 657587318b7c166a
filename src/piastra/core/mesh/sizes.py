"""How large elements are to be: finer at footprints and where something presses, rows where a face has four sides."""

from __future__ import annotations

from dataclasses import dataclass, field

import gmsh
import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.mesh.plan import Linework

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

ALGORITHM = 8
"""Gmsh's number of the surface algorithm that is tried first: frontal for quadrilaterals."""
WIDE = 10.0
"""A model reaches at least so many elements around."""


@dataclass(slots=True)
class Sizes:
    """What elements of a plan are to be like.

    ``finer`` (k, 5): places x, y (m) with the size there (m), how far it holds (m) and how far it matters (m); ``rows``: faces that are meshed in
    rows, and ``fixed`` by edge the number of elements that is set by that.
    """

    finer: Array
    rows: set[int] = field(default_factory=set)
    fixed: dict[int, int] = field(default_factory=dict)


def sizes_of(plan: Linework) -> Sizes:
    """The sizes of a plan's elements: graded from footprints and places that are pressed to the target size; where nothing is finer, faces with four
    sides get rows."""
    parts = plan.parts
    sizes = Sizes(np.zeros((0, 5)))
    finer: list[tuple[float, float, float, float, float]] = []
    for column in np.unique(plan.column[plan.column >= 0]):
        corners = {int(i) for f in np.flatnonzero(plan.column == column) for r in parts.rings[f] for e, _ in r
                   for i in parts.edges[e]}  # fmt: skip
        box = plan.footprints[column].minimum_rotated_rectangle
        xy = shapely.get_coordinates(box)
        sides = sorted(np.hypot(*(xy[1:3] - xy[0:2]).T))
        fine = min(plan.size, max(sides[0] / 3, sides[1] / 8, 0.02))
        if fine > 0.9 * plan.size:
            continue
        _in_rows(plan, np.flatnonzero(plan.column == column), fine, sizes)
        even = round(float(fine), 6)
        finer += [(*parts.points[i].tolist(), even, even, even + 2.5 * (plan.size - even)) for i in sorted(corners)]
    for place in plan.finer:
        if place.size < 0.9 * plan.size:
            even, radius = round(place.size, 6), round(place.radius, 6)
            finer.append((*place.at, even, radius, radius + place.reach * (plan.size - even)))
    if finer:
        sizes.finer = np.unique(np.array(finer, dtype=np.float64), axis=0)
    else:
        _regular(plan, sizes)
    return sizes


def tell(finer: Array, size: float) -> None:
    """Tell Gmsh, for the model that it has, the ``size`` (m) of elements and the places (k, 5) where they are ``finer``: one field for all places
    that are alike, as Gmsh asks every field at every point."""
    made = gmsh.model.mesh.field
    thresholds = []
    # Gmsh has no size be larger than all there is.
    for far in (-WIDE * size, WIDE * size):
        gmsh.model.geo.addPoint(far, far, 0.0)
    gmsh.model.geo.synchronize()
    for fine, within, matters in np.unique(finer[:, 2:], axis=0).tolist():
        places = finer[(finer[:, 2:] == (fine, within, matters)).all(axis=1), :2]
        tags = [gmsh.model.geo.addPoint(x, y, 0.0) for x, y in places.tolist()]
        gmsh.model.geo.synchronize()
        distance, threshold = made.add("Distance"), made.add("Threshold")
        made.setNumbers(distance, "PointsList", tags)
        for name, value in (
            ("InField", distance),
            ("SizeMin", fine),
            ("SizeMax", size),
            ("DistMin", within),
            ("DistMax", matters),
        ):
            made.setNumber(threshold, name, value)
        thresholds.append(threshold)
    if thresholds:
        least = made.add("Min")
        made.setNumbers(least, "FieldsList", thresholds)
        made.setAsBackgroundMesh(least)
    option = gmsh.option.setNumber
    option("Mesh.MeshSizeExtendFromBoundary", 0)
    option("Mesh.MeshSizeMax", size)
    option("Mesh.Algorithm", ALGORITHM)
    option("Mesh.RecombineAll", 1)
    option("Mesh.RecombinationAlgorithm", 1)
    option("Mesh.RandomSeed", 1)
    # Meshed anew are only faces that were cleared, not those that came out well.
    option("Mesh.MeshOnlyEmpty", 1)


def _in_rows(plan: Linework, faces: Ints, size: float, sizes: Sizes) -> None:
    """The same number of elements along opposite sides of a column's footprint, where it is one face with four sides."""
    parts = plan.parts
    for f in faces:
        rings = parts.rings[f]
        if len(faces) > 1 or not _is_plain(plan, int(f)):
            break
        sides = [e for e, _ in rings[0]]
        for pair in (sides[::2], sides[1::2]):
            length = max(float(np.hypot(*(parts.points[parts.edges[e, 1]] - parts.points[parts.edges[e, 0]]))) for e in pair)
            sizes.fixed.update(dict.fromkeys(pair, max(int(np.ceil(length / size - 1e-6)), 1)))
        sizes.rows.add(int(f))


def _is_plain(plan: Linework, f: int) -> bool:
    """Whether a face has four sides and nothing within it that elements in rows would pass over: neither a line that ends there nor a point that is held."""
    parts = plan.parts
    plain = len(parts.rings[f]) == 1 and len(parts.rings[f][0]) == 4 and not parts.loose[f]
    return plain and not any(parts.polygons[f].contains(shapely.Point(p)) for _, p in plan.points)


def _regular(plan: Linework, sizes: Sizes) -> None:
    """Rows of quadrilaterals in faces with four sides: opposite sides get the same number of elements."""
    parts = plan.parts
    length = np.hypot(*(parts.points[parts.edges[:, 1]] - parts.points[parts.edges[:, 0]]).T)
    leader = list(range(len(parts.edges)))

    def lead(e: int) -> int:
        while leader[e] != e:
            e = leader[e]
        return e

    mapped = []
    for f, rings in enumerate(parts.rings):
        if _is_plain(plan, f):
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
    sizes.rows.update(mapped)
    sizes.fixed.update({e: count[lead(e)] for f in mapped for e, _ in parts.rings[f][0]})
