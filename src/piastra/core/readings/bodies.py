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
    law = np.concatenate([f.law for f in stiffness.system.families])
    h, zeta = stiffness.values.h[face], stiffness.values.zeta[face]
    # Elements of one face of the plan have one section.
    _, first, which = np.unique(face, return_index=True, return_inverse=True)
    return FreeBodies(outcome.solution.u, stiffness.kept.node, which.ravel(), law[first], h[first], zeta[first])


def totals(responses: Responses, found: FreeBodies, line: tuple[tuple[float, float], tuple[float, float]]) -> Array | None:
    """Moment of the bars that cross a slice (kNm, sagging positive, about the middle of the concrete that it cuts) and shear
    across it (kN) of each unit load, (2, r) as ``TOTALS``; None beside the floor.

    Loads act at the nodes, so that the shear may be off by the load on half an element along the slice.
    """
    elements = responses.elements
    start, end = np.array(line[0]), np.array(line[1])
    way = (end - start) / np.hypot(*(end - start))
    across = np.array([-way[1], way[0]])
    # A hair aside, so that it does not run along a line of the mesh.
    start, end = start + ASIDE * across, end + ASIDE * across
    cut = bodies(elements, np.array([start @ across]), np.stack([start, end])[None], np.array([np.arctan2(across[1], across[0])]))
    count = len(cut.element)
    length = lengths_inside(elements, cut.element, np.broadcast_to(start, (count, 2)), np.broadcast_to(end, (count, 2)))
    area = length * found.h[found.which[cut.element]]
    if not area.sum() > 0:
        return None
    moment, shear, axial = np.asarray(cut.sums @ _held(elements, found, cut.element).reshape(20 * count, -1))
    zeta = float((area * found.zeta[found.which[cut.element]]).sum() / area.sum())
    return np.stack([moment - zeta * axial, shear])


def total(responses: Responses, of_units: Array | None, key: str, factors: Factors) -> float | None:
    """Of the :func:`totals` of a slice that of a quantity with all live load under a combination; None for a quantity that has
    no free body, beside the floor, and where a bedding lets go."""
    if of_units is None or key not in TOTALS or factors.combination in responses.lifted:
        return None
    return float(of_units[TOTALS.index(key)] @ factors.full)


def _held(elements: Elements, found: FreeBodies, pick: Ints) -> Array:
    """Forces (k, 20, r) at the nodes of elements under the unit loads."""
    out = np.zeros((len(pick), 20, found.u.shape[2]))
    law, zeta, h = (values[found.which[pick]] for values in (found.law, found.zeta, found.h))
    A, B, D = law[:, :3, :3], law[:, :3, 3:6], law[:, 3:6, 3:6]
    own = D - A * (zeta**2)[:, None, None]
    sections = Sections(A, B, D, own, law[:, 6:, 6:], zeta, h)
    for module, mine, corners in ((quad, pick < elements.quads, 4), (triangle, pick >= elements.quads, 3)):
        k = np.flatnonzero(mine)
        if len(k):
            places = elements.nodes[pick[k], :corners]
            stiffness = module.operators(elements.xy[places], sections[k]).stiffness()
            out[k, : 5 * corners] = stiffness @ found.u[found.node[places]].reshape(len(k), 5 * corners, -1)
    return out
