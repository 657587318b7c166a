"""Totals across a slice: those of the free body on one side of it, whatever the mesh."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors
from piastra.core.fe import quad, triangle
from piastra.core.fe.section import Sections
from piastra.core.mesh.locate import Elements, lengths_inside
from piastra.core.pipeline import Outcome
from piastra.core.readings.responses import Responses
from piastra.core.strips.cuts import bodies

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

TOTALS = ("mn", "vn")
"""Quantities whose total across a slice is that of a free body."""


ASIDE = 1e-4
"""Distance (m) from a slice at which its free body is cut."""


@dataclass(frozen=True, slots=True)
class FreeBodies:
    """What the forces at the nodes of a run's elements follow from.

    ``u`` (n, 5, r) unit displacements; ``node`` (p,) of each of the run's places; ``which`` (e,) the section of each element,
    of those with ``law`` (k, 8, 8), ``h`` and ``zeta`` (k,) m.
    """

    u: Array
    node: Ints
    which: Ints
    law: Array
    h: Array
    zeta: Array


def free_bodies_of(outcome: Outcome) -> FreeBodies:
    """The free bodies of a computed floor."""
    stiffness, face = outcome.stiffness, outcome.meshed.face
    law = np.concatenate([f.operators.law for f in stiffness.system.families])
    h, zeta = stiffness.values.h[face], stiffness.values.zeta[face]
    # Elements of one face of the plan have one section.
    faces, first, which = np.unique(face, return_index=True, return_inverse=True)
    assert len(faces) == len(first)
    return FreeBodies(outcome.solution.u, stiffness.kept.node, which.ravel(), law[first], h[first], zeta[first])


def total(
    responses: Responses, found: FreeBodies, line: tuple[tuple[float, float], tuple[float, float]], key: str, factors: Factors
) -> float | None:
    """Moment of the bars that cross a slice (kNm, sagging positive, about the middle of the concrete that it cuts), or shear
    across it (kN), with all live load under a combination. Loads act at the nodes, so that the shear may be off by the load
    on half an element along the slice. None for a quantity that has no free body, beside the floor, and
    where a bedding lets go."""
    if key not in TOTALS or factors.combination in responses.lifted:
        return None
    elements = responses.elements
    start, end = np.array(line[0]), np.array(line[1])
    way = (end - start) / np.hypot(*(end - start))
    across = np.array([-way[1], way[0]])
    # A hair aside, so that it does not run along a line of the mesh.
    start, end = start + ASIDE * across, end + ASIDE * across
    cut = bodies(elements, np.array([start @ across]), np.stack([start, end])[None], np.array([np.arctan2(across[1], across[0])]))
    if not len(cut.element):
        return None
    held = _held(elements, found, cut.element, found.u @ factors.full)
    moment, shear, axial = np.asarray(cut.sums @ held.ravel())
    length = lengths_inside(
        elements, cut.element, np.broadcast_to(start, (len(cut.element), 2)), np.broadcast_to(end, (len(cut.element), 2))
    )
    which = found.which[cut.element]
    area = length * found.h[which]
    if area.sum() <= 0:
        return None
    zeta = float((area * found.zeta[which]).sum() / area.sum())
    return float(moment - zeta * axial) if key == "mn" else float(shear)


def _held(elements: Elements, found: FreeBodies, pick: Ints, u: Array) -> Array:
    """Forces (k, 20) at the nodes of elements under displacements (n, 5)."""
    out = np.zeros((len(pick), 20))
    law, zeta, h = (values[found.which[pick]] for values in (found.law, found.zeta, found.h))
    A, B, D = law[:, :3, :3], law[:, :3, 3:6], law[:, 3:6, 3:6]
    own = D - A * (zeta**2)[:, None, None]
    sections = Sections(A, B, D, own, law[:, 6:, 6:], zeta, h)
    for module, mine, corners in ((quad, pick < elements.quads, 4), (triangle, pick >= elements.quads, 3)):
        k = np.flatnonzero(mine)
        if len(k):
            places = elements.nodes[pick[k], :corners]
            stiffness = module.operators(elements.xy[places], sections[k]).stiffness()
            local = u[found.node[places]].reshape(len(k), 5 * corners, 1)
            out[k, : 5 * corners] = (stiffness @ local)[..., 0]
    return out
