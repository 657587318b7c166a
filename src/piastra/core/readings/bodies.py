"""What is read from elements one by one: totals across a slice, those of the free body on one side of it whatever the mesh, and
forces by element."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors
from piastra.core.fe import quad, triangle
from piastra.core.fe.element import Operators
from piastra.core.fe.section import Sections
from piastra.core.fe.system import blocks_of
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
    of those with ``law`` (k, 8, 8), ``h`` and ``zeta`` (k,) m. Of the units ``secondary`` (s,) forces are those of section and tendons
    together: these act on the nodes of elements ``threaded`` (m,) with ``pull`` (m, 20), and spread over them are ``stress`` (m, 8).
    """

    u: Array
    node: Ints
    which: Ints
    law: Array
    h: Array
    zeta: Array
    secondary: Ints
    threaded: Ints
    pull: Array
    stress: Array


def free_bodies_of(outcome: Outcome) -> FreeBodies:
    """The free bodies of a computed floor."""
    stiffness, face = outcome.stiffness, outcome.meshed.face
    law = np.concatenate([f.law for f in stiffness.system.families])
    h, zeta = stiffness.values.h[face], stiffness.values.zeta[face]
    # Elements of one face of the plan have one section.
    _, first, which = np.unique(face, return_index=True, return_inverse=True)
    own = outcome.tendon_forces.final if outcome.tendon_forces is not None else None
    none = np.zeros(0, dtype=np.int64)
    return FreeBodies(
        outcome.solution.u, stiffness.kept.node, which.ravel(), law[first], h[first], zeta[first],
        np.array(outcome.loads.secondary, dtype=np.int64), own.element if own else none,
        own.nodal if own else np.zeros((0, 20)), own.stress if own else np.zeros((0, 8)),
    )  # fmt: skip


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


def at_centres(responses: Responses, found: FreeBodies) -> Array:
    """Unit responses (e, 9, r) in the middle of every element, not averaged with its neighbours but for the shear; rows and
    units as :data:`piastra.core.readings.responses.ROWS`."""
    elements = responses.elements
    count, units = len(elements.nodes), found.u.shape[2]
    corners = elements.nodes >= 0
    share = (corners / corners.sum(axis=1, keepdims=True))[:, :, None]
    out = np.empty((count, 9, units))
    for some in blocks_of(count):
        nodes = elements.nodes[some]
        out[some, 0] = (share[some] * responses.at_places[nodes, 0]).sum(axis=1)
        out[some, 7:] = (share[some, :, None] * responses.at_places[nodes, 7:]).sum(axis=1)
    for module, mine, sides in _families(elements):
        for some in blocks_of(len(mine)):
            pick = mine[some]
            nodes = elements.nodes[pick, :sides]
            sections = _sections(found, pick)
            mean = module.operators(elements.xy[nodes], sections).mean_strain()
            u = found.u[found.node[nodes]].reshape(len(pick), 5 * sides, units)
            out[pick, 1:7] = (Operators.law_of(sections) @ (mean @ u))[:, :6]
            threaded, at = _threaded(found, pick)
            if len(threaded):
                out[np.ix_(pick[threaded], np.arange(1, 7), found.secondary)] += found.stress[at][:, :6, None]
            out[pick, 4:7] -= sections.zeta[:, None, None] * out[pick, 1:4]
    return out


def _threaded(found: FreeBodies, pick: Ints) -> tuple[Ints, Ints]:
    """Of some elements those that tendons run through, and where these are listed; none where no unit is secondary."""
    if not len(found.secondary):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    _, mine, at = np.intersect1d(pick, found.threaded, return_indices=True)
    return mine, at


def _families(elements: Elements) -> list[tuple[Any, Ints, int]]:
    """Quadrilaterals and triangles: what makes their operators, their numbers, and how many corners they have."""
    count = len(elements.nodes)
    both = [(quad, np.arange(elements.quads), 4), (triangle, np.arange(elements.quads, count), 3)]
    return [f for f in both if len(f[1])]


def _sections(found: FreeBodies, pick: Ints) -> Sections:
    law, zeta, h = (values[found.which[pick]] for values in (found.law, found.zeta, found.h))
    A, B, D = law[:, :3, :3], law[:, :3, 3:6], law[:, 3:6, 3:6]
    own = D - A * (zeta**2)[:, None, None]
    return Sections(A, B, D, own, law[:, 6:, 6:], zeta, h)


def _held(elements: Elements, found: FreeBodies, pick: Ints) -> Array:
    """Forces (k, 20, r) at the nodes of elements under the unit loads."""
    out = np.zeros((len(pick), 20, found.u.shape[2]))
    for module, mine, corners in _families(elements):
        k = np.flatnonzero(np.isin(pick, mine, assume_unique=True))
        if len(k):
            places = elements.nodes[pick[k], :corners]
            stiffness = module.operators(elements.xy[places], _sections(found, pick[k])).stiffness()
            out[k, : 5 * corners] = stiffness @ found.u[found.node[places]].reshape(len(k), 5 * corners, -1)
    threaded, at = _threaded(found, pick)
    if len(threaded):
        out[np.ix_(threaded, np.arange(20), found.secondary)] -= found.pull[at][:, :, None]
    return out
