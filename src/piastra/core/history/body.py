"""The concrete and the steel of a floor, element by element, in the two directions of its bars."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from shapely.geometry.base import BaseGeometry

from piastra.core.fe.floor_sections import FaceValues
from piastra.core.mesh.locate import Elements, middles
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.materials import Concrete
from piastra.core.reinforcement.groups import Group, Spots, extra_at
from piastra.core.reinforcement.mats import mats_of, provided

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

BARE = 0.0005
"""Where a face has no bars, a section that cracks there is taken with this share of steel, so that it still carries something."""
INNER = 0.012
"""Groups along y lie this much (m) deeper, below bars along x."""


@dataclass(frozen=True, slots=True)
class Body:
    """``h`` (e,) m, ``nu`` (e,), the ``kind`` (e,) of concrete and thickness, ``angle`` (e,) rad of the elements' own axes: the slab's bars, a beam's
    axis, or those of a stiffness area. ``area`` (2, 2, e) m2/m of bottom and top bars along x and y, ``z`` (2, 2, e) m their depths from the
    middle plane, ``bar`` and ``spacing`` (2, 2, e) m their mean diameter and distance, ``E_s`` and ``f_y`` (e,) kN/m2; ``cracks`` (2, e) which directions may crack; ``soft`` (e, 6) roots of the flexibilities' factors;
    ``kinds`` concretes and thicknesses."""

    h: Array
    nu: Array
    kind: Ints
    angle: Array
    area: Array
    z: Array
    bar: Array
    spacing: Array
    E_s: Array
    f_y: Array
    cracks: npt.NDArray[np.bool_]
    soft: Array
    kinds: tuple[tuple[Concrete, float], ...]

    @property
    def bare(self) -> npt.NDArray[np.bool_]:
        """Faces (2, 2, e) without bars."""
        return self.area < 1e-6

    @property
    def EA(self) -> Array:
        """Stiffness (2, 2, e) kN/m of the bars of cracked sections, or of what stands for them."""
        return np.maximum(self.area, BARE * self.h) * self.E_s

    @property
    def yields(self) -> Array:
        """Strain (2, 2, e) at which bars yield; what stands for bars that are not there never does, as it is no steel."""
        return np.where(self.bare, np.inf, self.f_y / self.E_s)


def axes_of(floor: Floor, plan: Plan, face: Ints, values: FaceValues) -> Array:
    """Directions (e,) rad of the elements' own axes: those of their stiffness where that is other than the slab's, else the bars'."""
    modified = (values.modifiers[face] != 1.0).any(axis=1)
    of_slab = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[plan.slab[face]]
    return np.where(modified, values.angle[face], of_slab)


def body_of(
    floor: Floor, plan: Plan, face: Ints, values: FaceValues, elements: Elements, groups: Sequence[Group], beams: Sequence[Group],
    region: BaseGeometry, angle: Array,
) -> Body:  # fmt: skip
    """The body of a floor; ``groups`` of bars beside the mats, ``beams`` bars of beams, ``angle`` (e,) rad as of :func:`axes_of`."""
    xy = middles(elements)
    slab, beam = plan.slab[face], plan.beam[face]
    h = values.h[face]
    of_slab = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab]
    mats = provided(mats_of(floor), xy, slab)
    c4, s4 = np.cos(angle - of_slab) ** 4, np.sin(angle - of_slab) ** 4
    area, depth, count, diameters = (np.zeros((2, 2, len(h))) for _ in range(4))
    for f in (0, 1):
        rows = mats.area[2 * f : 2 * f + 2] * (beam < 0)
        area[f] = c4 * rows + s4 * rows[::-1]
        count[f], diameters[f] = (v[2 * f : 2 * f + 2] * (beam < 0) for v in (mats.count, mats.diameters))
        # A face without bars has the depth that bars would have there.
        deep = mats.depth[2 * f : 2 * f + 2]
        depth[f] = np.where(mats.area[2 * f : 2 * f + 2] > 0, deep, np.maximum(deep, 0.02))
    spots = Spots(xy, region)
    cover = [
        np.array([s.cover_bottom_mm for s in floor.slabs])[slab] / 1e3,
        np.array([s.cover_top_mm for s in floor.slabs])[slab] / 1e3,
    ]
    for laid, here in ((groups, beam < 0), (beams, beam >= 0)):
        for d in (0, 1):
            extra = extra_at(laid, spots, angle + d * np.pi / 2)
            for f in (0, 1):
                more = np.where(here, extra.area[f], 0.0)
                inner = INNER if d else 0.0
                with np.errstate(divide="ignore", invalid="ignore"):
                    own = cover[f] + inner + np.where(extra.area[f] > 0, extra.radii[f] / extra.area[f], 0.0)
                total = area[f, d] + more
                depth[f, d] = np.where(more > 0, (area[f, d] * depth[f, d] + more * own) / np.maximum(total, 1e-12), depth[f, d])
                area[f, d] = total
                count[f, d] += np.where(here, extra.count[f], 0.0)
                diameters[f, d] += np.where(here, extra.diameters[f], 0.0)
    z = np.stack([h / 2 - np.minimum(depth[0], 0.45 * h), np.minimum(depth[1], 0.45 * h) - h / 2])
    steel = {r.id: 1e3 * r.E_MPa for r in floor.rebars}
    E_s = np.array([steel[s.rebar] for s in floor.slabs])[slab]
    strength = {r.id: 1e3 * r.yield_MPa for r in floor.rebars}
    f_y = np.array([strength[s.rebar] for s in floor.slabs])[slab]
    cracks = np.repeat((plan.column[face] < 0)[None], 2, axis=0)
    factor = values.modifiers[face]
    for d in (0, 1):
        cracks[d] &= (factor[:, d] == 1.0) & (factor[:, 3 + d] == 1.0)
    number = values.concrete[face]
    pairs, kind = np.unique(np.column_stack([number, np.round(h, 4)]), axis=0, return_inverse=True)
    kinds = tuple((floor.concretes[int(c)], float(t)) for c, t in pairs)
    nu = np.array([c.poisson for c in floor.concretes])[number]
    bar, spacing = diameters / np.maximum(count, 1e-9), 1 / np.maximum(count, 1e-9)
    return Body(h, nu, kind.ravel().astype(np.int64), angle, area, z, bar, spacing, E_s, f_y, cracks, 1 / np.sqrt(factor), kinds)


PARTS = ("load", "shrinkage", "creep", "cracking")
"""What a curvature is made of."""


def parts_along(parts: Array, body: Body, element: Ints, direction: float, weight: Array) -> tuple[float, float, float, float]:
    """Curvatures along a line in a ``direction`` (rad) from the load at once, from shrinkage and creep of uncracked sections, and from cracking, each
    summed over its places with their ``weight`` (k,), in the ``element`` (k,; less than nought: none); ``parts`` (4, 2, e) elastic, of
    shrinkage, uncracked with creep, and all, in the elements' axes."""
    on = element >= 0
    here = element[on]
    c2 = np.cos(direction - body.angle[here]) ** 2
    elastic, dry, whole, everything = (
        float((weight[on] * (c2 * p[0, here] + (1 - c2) * p[1, here])).sum()) for p in parts.astype(np.float64)
    )
    return elastic, dry, whole - elastic - dry, everything - whole
