"""Section forces from displacements, at places: nodes, apart for every section and for each side of what holds the floor."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.spatial import cKDTree

from piastra.core.fe.faces import Faces, faces_of
from piastra.core.fe.neighbours import corners_of, joined, neighbours
from piastra.core.fe.patches import STEEP, Fits, fits
from piastra.core.fe.restraints import Restraints
from piastra.core.fe.system import System, blocks_of
from piastra.core.mesh.mesher import Mesh

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

FORCES = ("n_x", "n_y", "n_xy", "m_x", "m_y", "m_xy", "v_x", "v_y")


@dataclass(frozen=True, slots=True, eq=False)
class Surroundings:
    """What places on one mesh hang on, besides it: the ``part`` (e,) of each element, the nodes ``held`` (k,), the nodes of each
    footprint and the columns' ``axes`` (m, 2) m."""

    part: Ints
    held: Ints
    footprints: tuple[Ints, ...]
    axes: Array

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, Surroundings)
            and np.array_equal(self.part, other.part)
            and np.array_equal(self.held, other.held)
            and np.array_equal(self.axes, other.axes)
            and len(self.footprints) == len(other.footprints)
            and all(map(np.array_equal, self.footprints, other.footprints))
        )


@dataclass(frozen=True, slots=True)
class Places:
    """Where section forces are kept: one place for each node, part of one section, and side of walls and line supports.

    ``of`` (e, 4) the places of each element's corners (-1 for a triangle's fourth), elements as in
    :class:`piastra.core.mesh.locate.Elements`; ``node``, ``part`` and one ``element`` (p,) of each place; ``zeta`` (p,) m
    the depth of its section's middle plane below the reference plane, ``h`` (p,) m. ``fits`` gives forces at most of them; at the places
    ``averaged`` (a,) ``mean`` (a, corners) averages the values at the corners of the elements ``rough`` (k,): of those ``no_moments`` (b,) are numbers
    where these count for membrane forces and moments, ``no_shear`` (c,) where for shear. ``faces`` are the places at columns' faces. All but ``zeta``
    and ``h`` follow from the mesh and what is ``around``.
    """

    of: Ints
    node: Ints
    part: Ints
    element: Ints
    zeta: Array
    h: Array
    averaged: Ints
    mean: sp.csr_matrix
    no_moments: Ints
    no_shear: Ints
    rough: Ints
    fits: Fits
    faces: Faces
    around: Surroundings

    @property
    def own_shear(self) -> Ints:
        """Places whose shear is the elements' own."""
        return np.setdiff1d(self.averaged[self.no_shear], self.faces.places)


LEANING = 1.7
"""Where a patch lies so much to one side that its weights' magnitudes add up to more, moments are averaged instead."""


def places(
    mesh: Mesh, families: list[Ints], holding: Restraints, part: Ints, zeta: Array, h: Array, last: Places | None = None
) -> Places:
    """Places for elements of the given ``part`` (e,), with ``zeta`` (e,) and ``h`` (e,); ``families`` are the nodes of the mesh's quadrilaterals and
    triangles, ``holding`` what supports it.

    Those of the same mesh that were found ``last`` stand where other sections have the same parts and the same supports.
    """
    axes = np.array(holding.master_at, dtype=np.float64).reshape(-1, 2)
    around = Surroundings(part, _supported(holding), tuple(holding.slaves), axes)
    if last is not None and last.around == around:
        return replace(last, zeta=zeta[last.element], h=h[last.element])
    corners = corners_of(families)
    lines = np.concatenate([np.zeros((0, 2), dtype=np.int64), *mesh.lines.values()])
    found = neighbours(families, part, lines)
    place = joined(corners, found)
    count = np.bincount(place)
    first = np.zeros(len(count), dtype=np.int64)
    first[place[::-1]] = np.arange(len(place))[::-1]
    node, element = corners.node[first], corners.element[first]
    own = sp.csr_matrix((np.ones(len(place)), (place, corners.element)), shape=(len(count), len(part)))
    centres = np.concatenate([mesh.xy[nodes].mean(axis=1) for nodes in families])
    points = [*holding.master_at, *(mesh.xy[n] for n in mesh.points.values())]
    fitted = fits(mesh.xy[node], own, centres, found, np.array(points, dtype=np.float64).reshape(-1, 2))
    held = mesh.xy[around.held]
    to_support = cKDTree(held).query(mesh.xy[node])[0] if len(held) else np.full(len(node), np.inf)
    smooth = (fitted.leaning <= LEANING) & (to_support > fitted.radius)
    sloped = fitted.steepness <= STEEP
    averaged = np.flatnonzero(~(smooth & sloped))
    number = np.full(len(count), -1, dtype=np.int64)
    number[averaged] = np.arange(len(averaged))
    is_rough = np.zeros(len(part), dtype=bool)
    is_rough[corners.element[number[place] >= 0]] = True
    its = number[place[is_rough[corners.element]]]
    there = np.flatnonzero(its >= 0)
    mean = sp.csr_matrix((1.0 / count[averaged[its[there]]], (its[there], there)), shape=(len(averaged), len(its)))
    no_moments, no_shear = np.flatnonzero(~smooth[averaged]), np.flatnonzero(~sloped[averaged])
    of = np.full((len(part), 4), -1, dtype=np.int64)
    start = row = 0
    for nodes in families:
        n, c = nodes.shape
        of[row : row + n, :c] = place[start : start + n * c].reshape(n, c)
        start, row = start + n * c, row + n
    faces = faces_of(mesh.xy, families, corners, place, node, holding.slaves, axes)
    rough = np.flatnonzero(is_rough)
    return Places(
        of, node, part[element], element, zeta[element], h[element], averaged, mean, no_moments, no_shear, rough, fitted, faces, around
    )  # fmt: skip


def _supported(held: Restraints) -> Ints:
    """Nodes of columns, walls, point and line supports; beddings leave no kink."""
    node, owner, _, _ = held.springs()
    nodes = [n for n, _, _ in held.fixed] + [c[0] for c in held.clamped]
    nodes += [int(n) for n, o in zip(node, owner, strict=True) if o not in held.beds]
    return np.unique(np.concatenate([np.array(nodes, dtype=np.int64), *held.slaves]))


def section_forces(system: System, kept: Places, u: Array, initial: Array | None = None) -> Array:
    """Section forces (p, 8, r) at the places, about the reference plane, for displacements ``u`` (n, 5, r) and initial
    strains ``initial`` (e, 8, r) of the elements.

    Rows as ``FORCES``: kN/m, kNm/m; sagging positive.
    """
    return forces_by(system, kept)(u, initial)


def forces_by(system: System, kept: Places) -> Callable[[Array, Array | None], Array]:
    """What gives the section forces at the places (p, 8, r) as :func:`section_forces` for displacements (n, 5, r) and initial
    strains (e, 8, r) of the elements, if they have any.

    Shear is what the equilibrium of moments asks for, ``v_x = m_x,x + m_xy,y`` and ``v_y = m_xy,x + m_y,y``: the
    elements' own shear strains are constant along each side and 10 to 40 % low in thin plates. Only where no moments can
    be fitted, or none whose slopes can be told, as in a part an element or two wide, is it the elements' own.
    """
    parts = []
    start = 0
    for family in system.families:
        e, c = family.nodes.shape
        rough = kept.rough[(kept.rough >= start) & (kept.rough < start + e)] - start
        operator = family.operators(system.mesh.xy, rough).forces().reshape(len(rough), 8 * c, 5 * c)
        parts.append((family.nodes, family.mean, rough, operator, family.law, slice(start, start + e)))
        start += e

    def found(u: Array, initial: Array | None = None) -> Array:
        count = u.shape[2]
        at_corners = []
        by_element = np.empty((len(kept.of), 8, count))
        for nodes, mean, rough, operator, law, mine in parts:
            its = by_element[mine]
            for some in blocks_of(len(nodes)):
                np.matmul(law[some], mean[some] @ u[nodes[some]].reshape(len(its[some]), mean.shape[2], count), out=its[some])
            local = u[nodes[rough]].reshape(len(rough), mean.shape[2], count)
            rough_ones = (operator @ local).reshape(len(rough), nodes.shape[1], 8, count)
            if initial is not None:
                free = law @ initial[mine]
                its -= free
                rough_ones -= free[rough, None]
            at_corners.append(rough_ones.reshape(len(rough) * nodes.shape[1], 8 * count))
        averages = np.asarray(kept.mean @ np.concatenate(at_corners)).reshape(len(kept.averaged), 8, count)
        at_corners.clear()
        forces = kept.fits.values_of(by_element)
        forces[:, 6:8] = kept.fits.slopes_of(by_element[:, 3:6])
        forces[kept.averaged[kept.no_moments], :6] = averages[kept.no_moments, :6]
        forces[kept.averaged[kept.no_shear], 6:8] = averages[kept.no_shear, 6:8]
        kept.faces.into(forces[:, 6:8], _held_at(system, kept.faces.corner, u, initial))
        return forces

    return found


def _held_at(system: System, corner: Ints, u: Array, initial: Array | None) -> Array:
    """Vertical forces (k, r) with which elements are held at the given ``corner`` (k,) of theirs."""
    out = np.zeros((len(corner), u.shape[2]))
    start = first = 0
    for family in system.families:
        count, c = family.nodes.shape
        mine = (corner >= start) & (corner < start + count * c)
        element, of = np.divmod(corner[mine] - start, c)
        row = (5 * of + 2)[:, None, None]
        rows = np.take_along_axis(family.stiffness[element], row, axis=1)[:, 0]
        out[mine] = np.einsum("kd,kdr->kr", rows, u[family.nodes[element]].reshape(len(element), 5 * c, u.shape[2]))
        if initial is not None:
            free = family.strained(system.mesh.xy, initial[first : first + count])[element]
            out[mine] -= np.take_along_axis(free, row, axis=1)[:, 0]
        start, first = start + count * c, first + count
    return out


def about_own_plane(kept: Places, forces: Array, pick: Ints | slice = slice(None)) -> Array:
    """The same forces with moments about each section's own middle plane, (p, 8, r), of all places or of some."""
    out = np.array(forces[pick])
    out[:, 3:6] -= kept.zeta[pick, None, None] * out[:, :3]
    return out
