"""The mesh with its elements indexed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.mesh.locate import Elements, elements_of
from piastra.core.mesh.mesher import Mesh, make_mesh
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.linework import LINEWORK
from piastra.core.stages.slab_outlines import SLAB_OUTLINES


@dataclass(frozen=True, slots=True)
class Meshed:
    """The mesh, its elements indexed, the face of each element (e,), and the meshed area (m)."""

    mesh: Mesh
    elements: Elements
    face: npt.NDArray[np.int64]
    area: BaseGeometry


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Meshed]) -> Meshed:
    linework = made[LINEWORK]
    mesh = make_mesh(linework, made.earlier.mesh.kept if made.earlier else None)
    area = shapely.unary_union(linework.parts.polygons)
    return Meshed(mesh, elements_of(mesh), np.concatenate([mesh.quad_face, mesh.tri_face]), area)


# Faces are kept from the last mesh of the same floor: its slabs' outlines stand for it.
MESH = Stage("mesh", _inputs, _make, (LINEWORK, SLAB_OUTLINES), kin=(SLAB_OUTLINES,))
