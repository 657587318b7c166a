"""Thickness, level and material of every element, and the floor's reference plane."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString

from piastra.core.fe.section import Sections, sections
from piastra.core.geometry.arcs import polyline
from piastra.core.mesh.mesher import Mesh
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor
from piastra.core.model.footprint import torsion_constant

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class FaceValues:
    """Per face of the plan: thickness ``h`` (m), ``zeta`` (m below the reference plane), number of its
    ``concrete``, ``weight`` (kN/m2), and ``part`` (faces of one section share it; footprints are apart).
    ``datum`` m: level of the reference plane. ``modifiers`` (f, 6) of stiffness in axes at ``angle`` (f,) rad, see
    :func:`piastra.core.fe.section.sections`."""

    h: Array
    zeta: Array
    concrete: Ints
    weight: Array
    part: Ints
    datum: float
    modifiers: Array
    angle: Array


def face_values(floor: Floor, plan: Plan) -> FaceValues:
    """Sections of the faces. The reference plane is the middle plane of the section with the largest area."""
    slab_h = np.array([s.thickness_m for s in floor.slabs])
    slab_top = np.array([s.top_offset_m for s in floor.slabs])
    number = {c.id: i for i, c in enumerate(floor.concretes)}
    slab_concrete = np.array([number[s.concrete] for s in floor.slabs])
    gamma = np.array([c.unit_weight_kN_m3 for c in floor.concretes])
    h, top = slab_h[plan.slab], slab_top[plan.slab]
    slab_fill = np.array([s.fill_kN_m3 for s in floor.slabs])
    filled = slab_fill[plan.slab] * np.maximum(-top, 0.0)
    thick = plan.thickening >= 0
    if thick.any():
        pick = plan.thickening[thick]
        h[thick] = np.array([t.thickness_m for t in floor.thickenings])[pick]
        top[thick] = np.array([t.top_offset_m for t in floor.thickenings])[pick]
        fill = np.array([t.fill_kN_m3 for t in floor.thickenings])[pick]
        # A recess is filled to its slab's top, and from there as the slab is.
        filled[thick] += fill * np.maximum(slab_top[plan.slab[thick]] - top[thick], 0.0)
    concrete = slab_concrete[plan.slab]
    modifiers, angle = np.ones((len(h), 6)), np.zeros(len(h))
    beam = plan.beam >= 0
    if beam.any():
        pick = plan.beam[beam]
        h[beam] = np.array([b.depth_m for b in floor.beams])[pick]
        top[beam] = np.array([b.top_offset_m for b in floor.beams])[pick]
        concrete[beam] = np.array([number[b.concrete] for b in floor.beams])[pick]
        filled[beam] = 0.0
    _modify(floor, plan, modifiers, angle)
    middle = top - h / 2
    area = shapely.area(np.array(plan.parts.polygons, dtype=object))
    levels, of = np.unique(np.round(middle, 6), return_inverse=True)
    datum = float(levels[np.bincount(of.ravel(), weights=area).argmax()])
    column = plan.column >= 0
    key = np.column_stack(
        [np.round(h, 6), np.round(middle, 6), concrete, plan.slab, column, plan.one_way, plan.stiffness, plan.beam]
    )
    part = np.unique(key, axis=0, return_inverse=True)[1].ravel()
    return FaceValues(h, datum - middle, concrete, gamma[concrete] * h + filled, part.astype(np.int64), datum, modifiers, angle)


RELEASED = 0.01
"""Share of the bending stiffness that a one-way area keeps across its span, and of its twist."""


def _modify(floor: Floor, plan: Plan, modifiers: Array, angle: Array) -> None:
    """Fill in the factors and directions of faces in beams, one-way areas and stiffness areas; the last holds."""
    for k, b in enumerate(floor.beams):
        # A plate as deep as it is narrow would resist twist by b h3 / 3 instead of the rectangle's own constant.
        modifiers[plan.beam == k, 5] = torsion_constant(b.width_m, b.depth_m) / (b.width_m * b.depth_m**3 / 3)
    # The plate's twist is that of the beam's own axes, so a beam at an angle needs them.
    for f in np.flatnonzero(plan.beam >= 0):
        line = LineString(polyline(floor.beams[plan.beam[f]].line, plan.size))
        angle[f] = _direction(line, plan.parts.inside[f])
    for k, area in enumerate(floor.one_way_areas):
        here = (plan.one_way == k) & (plan.beam < 0)
        modifiers[here] = (1.0, 1.0, 1.0, 1.0, RELEASED, RELEASED)
        angle[here] = np.radians(area.angle_deg)
    for k, region in enumerate(floor.stiffness_areas):
        here = plan.stiffness == k
        modifiers[here] = (
            region.membrane_along, region.membrane_across, region.membrane_shear,
            region.bending_along, region.bending_across, region.twist,
        )  # fmt: skip
        angle[here] = np.radians(region.angle_deg)


def _direction(line: LineString, at: Array) -> float:
    """Angle (rad) of the stretch of a line that lies nearest to a point."""
    pieces = [LineString(p) for p in pairwise(line.coords)]
    (ax, ay), (bx, by) = min(pieces, key=lambda p: p.distance(shapely.Point(at))).coords
    return float(np.arctan2(by - ay, bx - ax))


def element_sections(floor: Floor, mesh: Mesh, values: FaceValues, moduli: dict[str, float]) -> tuple[Sections, Sections]:
    """Sections of the quadrilaterals and of the triangles; ``moduli`` E (kN/m2) by concrete."""
    E = np.array([moduli[c.id] for c in floor.concretes])
    nu = np.array([c.poisson for c in floor.concretes])
    made = []
    for face in (mesh.quad_face, mesh.tri_face):
        c = values.concrete[face]
        modified = (values.modifiers[face] != 1.0).any()
        factors, angle = (values.modifiers[face], values.angle[face]) if modified else (None, None)
        made.append(sections(E[c], nu[c], values.h[face], values.zeta[face], factors, angle))
    return made[0], made[1]


def thickened(
    floor: Floor, values: FaceValues, face: Ints, moduli: dict[str, float], more: Array, lower: Array
) -> tuple[Ints, Sections]:
    """Of elements in ``face`` (e,) that get so much ``more`` (e,) m thick, with their middle planes so much ``lower`` (e,) m: which (k,), and their
    sections then."""
    pick = np.flatnonzero(more)
    at = face[pick]
    kind = values.concrete[at]
    E = np.array([moduli[c.id] for c in floor.concretes])[kind]
    nu = np.array([c.poisson for c in floor.concretes])[kind]
    h, zeta = values.h[at] + more[pick], values.zeta[at] + lower[pick]
    return pick.astype(np.int64), sections(E, nu, h, zeta, values.modifiers[at], values.angle[at])
