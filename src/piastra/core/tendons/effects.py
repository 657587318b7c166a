"""What tendons do to the floor: an initial force along their curves in the shell."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely

from piastra.core.fe.element import Operators
from piastra.core.fe.system import System
from piastra.core.mesh.locate import Elements, weights
from piastra.core.model.tendon_curve import Curve

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

POINTS, SHARES = np.polynomial.legendre.leggauss(3)
ON_SIDE = 1e-6
"""A tendon that runs this near (m) to a side of two elements lies in both by halves."""
BESIDE = 0.03
"""A tendon this far (m) beside the mesh, whose curved edges are chords, lies in the nearest element."""


@dataclass(frozen=True, slots=True)
class Threads:
    """q sampling points of all tendons: the ``tendon`` and its place ``s`` (m), the ``element``, the ``length`` (m on plan) that
    it stands for, ``xy`` (q, 2), the ``way`` (q, 2) on plan, depth ``zeta`` (m) below the reference plane and its slope downwards."""

    tendon: Ints
    s: Array
    element: Ints
    length: Array
    xy: Array
    way: Array
    zeta: Array
    slope: Array


@dataclass(frozen=True, slots=True)
class Gap:
    """Where a tendon leaves the concrete: its number, the place ``s`` m along it, and where that is."""

    tendon: int
    s: float
    at: tuple[float, float]


def threads(curves: Sequence[Curve], elements: Elements, datum: float) -> tuple[Threads, list[Gap]]:
    """Sample curves within the elements that they run through, three Gauss points between any two borders of elements or places of
    a curve. ``datum`` m: the level of the reference plane."""
    parts: list[tuple[Ints, Array, Ints, Array, Array, Array, Array, Array]] = []
    gaps: list[Gap] = []
    boundaries = shapely.boundary(elements.shapes)
    for number, c in enumerate(curves):
        chords = [k for k, (a, b) in enumerate(pairwise(c.s)) if b - a > 1e-9]
        lines = shapely.linestrings(np.stack([c.xy[chords], c.xy[np.array(chords) + 1]], axis=1))
        which, element = elements.tree.query(lines, predicate="dwithin", distance=ON_SIDE)
        crossing, of = shapely.get_coordinates(shapely.intersection(lines[which], boundaries[element]), return_index=True)
        piece = np.array(chords)[which[of]]
        start, end = c.xy[piece], c.xy[piece + 1]
        long = np.maximum(((end - start) ** 2).sum(axis=1), 1e-18)
        t = np.clip(((crossing - start) * (end - start)).sum(axis=1) / long, 0.0, 1.0)
        at = np.concatenate([c.s[piece] + t * (c.s[piece + 1] - c.s[piece]), c.s])
        cuts = np.unique(np.round(at, 8))
        cuts = cuts[np.concatenate([[True], np.diff(cuts) > 1e-7])]
        a, b = cuts[:-1], cuts[1:]
        middle = _at(c, (a + b) / 2)[0]
        near, its = elements.tree.query(shapely.points(middle), predicate="dwithin", distance=ON_SIDE)
        count = np.bincount(near, minlength=len(a))
        lost = np.flatnonzero(count == 0)
        if len(lost):
            beside, nearest = elements.tree.query_nearest(shapely.points(middle[lost]), max_distance=BESIDE, all_matches=False)
            near, its = np.concatenate([near, lost[beside]]), np.concatenate([its, nearest])
            count[lost[beside]] = 1
            gaps += _runs(number, a, b, middle, count == 0)
        share = 1.0 / count[near]
        half = (b - a)[near] / 2
        s = ((a + b) / 2)[near][:, None] + half[:, None] * POINTS
        length = (half * share)[:, None] * SHARES
        xy, heading, z, slope = _at(c, s.ravel())
        way = np.column_stack([np.cos(heading), np.sin(heading)])
        element_of = np.repeat(its, len(POINTS))
        parts.append((np.full(s.size, number), s.ravel(), element_of, length.ravel(), xy, way, datum - z, -slope))
    return Threads(*(np.concatenate(p) for p in zip(*parts, strict=True))), gaps


def _runs(number: int, a: Array, b: Array, middle: Array, missing: npt.NDArray[np.bool_]) -> list[Gap]:
    """One gap for each run of missing pieces that is longer than a millimetre."""
    out = []
    k = 0
    while k < len(a):
        if not missing[k]:
            k += 1
            continue
        last = k
        while last + 1 < len(a) and missing[last + 1]:
            last += 1
        if b[last] - a[k] > 1e-3:
            out.append(Gap(number, float(a[k]), (float(middle[k, 0]), float(middle[k, 1]))))
        k = last + 1
    return out


def _at(c: Curve, s: Array) -> tuple[Array, Array, Array, Array]:
    """Points, headings, levels and slopes of a curve at places between its own, where it is all but straight."""
    # The piece that holds each place: of two places at one s, the later begins it.
    k = np.clip(np.searchsorted(c.s, s, side="right") - 1, 0, len(c.s) - 2)
    wide = c.s[k + 1] - c.s[k]
    k = np.where(wide < 1e-12, np.maximum(k - 1, 0), k)
    wide = c.s[k + 1] - c.s[k]
    t = (s - c.s[k]) / wide
    xy = c.xy[k] + t[:, None] * (c.xy[k + 1] - c.xy[k])
    heading = c.heading[k] + t * (c.heading[k + 1] - c.heading[k])
    slope = c.slope[k] + t * (c.slope[k + 1] - c.slope[k])
    # A parabola by both ends' levels and the slope's change.
    z = c.z[k] + t * (c.z[k + 1] - c.z[k]) - (c.slope[k + 1] - c.slope[k]) * wide * t * (1 - t) / 2
    return xy, heading, z, slope


@dataclass(frozen=True, slots=True)
class Effect:
    """What tendons of some force do: the nodal loads ``vector`` (n, 5), by ``element`` (k,) the forces ``nodal`` (k, 20) at its
    nodes of which they are made, and its mean ``stress`` (k, 8): membrane forces kN/m, moments about the reference plane kNm/m
    and shear kN/m of the tendons spread over it, tension positive."""

    vector: Array
    element: Ints
    nodal: Array
    stress: Array

    def across(self, element: Ints, sums: sp.csr_matrix, zeta: Array) -> Array:
        """Forces (c, 4) of the tendons themselves across cuts, as :class:`piastra.core.strips.cuts.Cuts` keeps them, by the free
        bodies behind the cuts: ``element`` (k,) that these go through, their ``sums``, and the depths ``zeta`` (c,) of the cuts' centroids.
        """
        held = np.zeros((len(element), 20))
        place = np.searchsorted(self.element, element)
        there = (place < len(self.element)) & (self.element[np.minimum(place, len(self.element) - 1)] == element)
        held[there] = -self.nodal[place[there]]
        moment, shear, axial = np.asarray(sums @ held.ravel()).reshape(3, -1)
        return np.stack([moment - zeta * axial, np.zeros_like(moment), shear, axial], axis=1)


@dataclass(frozen=True, slots=True)
class Along:
    """Operators of the sampling points: the strain along the tendon (q, 20) from the unknowns of its element's ``nodes`` (q, 4), and the
    ``tensor`` (q, 8) into which a tendon's force falls."""

    strain: Array
    nodes: Ints
    tensor: Array


def along(system: System, elements: Elements, t: Threads) -> Along:
    """Strain along tendons from the elements' own shape functions; with slope theta cos(theta) eps_s + sin(theta) gamma_s by the
    length on plan."""
    cos = 1 / np.sqrt(1 + t.slope**2)
    sin = t.slope * cos
    x, y = t.way.T
    plane = np.stack([x * x, y * y, x * y], axis=1)
    tensor = np.concatenate([cos[:, None] * plane, (cos * t.zeta)[:, None] * plane, sin[:, None] * t.way], axis=1)
    out = np.zeros((len(t.s), 20))
    share = weights(elements, t.element, t.xy)
    start = 0
    for family in system.families:
        count, corners = family.nodes.shape
        mine = np.flatnonzero((t.element >= start) & (t.element < start + count))
        used, number = np.unique(t.element[mine] - start, return_inverse=True)
        if len(used):
            found = family.operators(system.mesh.xy, used)
            at_corners = np.einsum("cg,ergd->ercd", found.to_corners, found.strain)
            rows = np.einsum("qr,qc,qrcd->qd", tensor[mine], share[mine, :corners], at_corners[number], optimize=True)
            out[mine, : 5 * corners] = rows
        start += count
    return Along(out, elements.nodes[t.element], tensor)


def effect(elements: Elements, nodes: int, t: Threads, found: Along, force: Array) -> Effect:
    """The effect of tendons with ``force`` (q,) kN at the sampling points."""
    used, number = np.unique(t.element, return_inverse=True)
    amount = force * t.length
    nodal = np.zeros((len(used), 20))
    np.add.at(nodal, number, -amount[:, None] * found.strain)
    stress = np.zeros((len(used), 8))
    np.add.at(stress, number, amount[:, None] * found.tensor)
    stress /= shapely.area(elements.shapes[used])[:, None]
    vector = np.zeros((nodes + 1, 5))
    np.add.at(vector, elements.nodes[used], nodal.reshape(len(used), 4, 5))
    return Effect(vector[:-1], used, nodal, stress)


def initial_strain(system: System, of: Effect) -> Array:
    """Initial strains (e, 8, 1) that would hold the elements as the tendons do, spread over each."""
    out = np.zeros((sum(len(f.nodes) for f in system.families), 8, 1))
    start = 0
    for family in system.families:
        count = len(family.nodes)
        mine = np.flatnonzero((of.element >= start) & (of.element < start + count))
        law = Operators.law_of(family.sections[of.element[mine] - start])
        out[of.element[mine]] = -np.linalg.solve(law, of.stress[mine][:, :, None])
        start += count
    return out


def strain_along(t: Threads, found: Along, u: Array) -> Array:
    """Strain (q,) of the concrete along the tendons for displacements ``u`` (n, 5)."""
    local = np.where(found.nodes[:, :, None] >= 0, u[found.nodes], 0.0).reshape(len(t.s), 20)
    # By the length of the curve, not of its plan.
    return np.asarray((found.strain * local).sum(axis=1) / np.sqrt(1 + t.slope**2))
