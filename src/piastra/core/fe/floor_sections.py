"""Thickness, level and material of every element, and the floor's reference plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.fe.section import Sections, isotropic
from piastra.core.mesh.mesher import Mesh
from piastra.core.mesh.plan import Plan
from piastra.core.model import Floor

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class FaceValues:
    """Per face of the plan: thickness ``h`` (m), ``zeta`` (m below the reference plane), number of its
    ``concrete``, ``weight`` (kN/m2), and ``part`` (faces of one section share it; footprints are apart).
    ``datum`` m: level of the reference plane."""

    h: Array
    zeta: Array
    concrete: Ints
    weight: Array
    part: Ints
    datum: float


def face_values(floor: Floor, plan: Plan) -> FaceValues:
    """Sections of the faces. The reference plane is the middle plane of the section with the largest area."""
    slab_h = np.array([s.thickness_m for s in floor.slabs])
    slab_top = np.array([s.top_offset_m for s in floor.slabs])
    number = {c.id: i for i, c in enumerate(floor.concretes)}
    slab_concrete = np.array([number[s.concrete] for s in floor.slabs])
    gamma = np.array([c.unit_weight_kN_m3 for c in floor.concretes])
    h, top = slab_h[plan.slab], slab_top[plan.slab]
    thick = plan.thickening >= 0
    if thick.any():
        pick = plan.thickening[thick]
        h[thick] = np.array([t.thickness_m for t in floor.thickenings])[pick]
        top[thick] = np.array([t.top_offset_m for t in floor.thickenings])[pick]
    middle = top - h / 2
    concrete = slab_concrete[plan.slab]
    area = shapely.area(np.array(plan.parts.polygons, dtype=object))
    levels, of = np.unique(np.round(middle, 6), return_inverse=True)
    datum = float(levels[np.bincount(of.ravel(), weights=area).argmax()])
    column = plan.column >= 0
    key = np.column_stack([np.round(h, 6), np.round(middle, 6), concrete, plan.slab, column])
    part = np.unique(key, axis=0, return_inverse=True)[1].ravel()
    return FaceValues(h, datum - middle, concrete, gamma[concrete] * h, part.astype(np.int64), datum)


def element_sections(floor: Floor, mesh: Mesh, values: FaceValues, moduli: dict[str, float]) -> tuple[Sections, Sections]:
    """Sections of the quadrilaterals and of the triangles; ``moduli`` E (kN/m2) by concrete."""
    E = np.array([moduli[c.id] for c in floor.concretes])
    nu = np.array([c.poisson for c in floor.concretes])
    made = []
    for face in (mesh.quad_face, mesh.tri_face):
        c = values.concrete[face]
        made.append(isotropic(E[c], nu[c], values.h[face], values.zeta[face]))
    return made[0], made[1]
