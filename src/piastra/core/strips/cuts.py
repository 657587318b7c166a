"""Forces integrated across strips. A cut may lie anywhere in the mesh."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely

from piastra.core.fe.recovery import Places
from piastra.core.fe.system import System, blocks_of
from piastra.core.mesh.locate import Elements, lengths_inside, stretch_inside, weights
from piastra.core.strips.layout import LEAST_CUT, Layout, ends_of, stations

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


PARTS = 4
"""Equal parts of a cut's width over which twisting moments are summed with their sign: a whole strip's would cancel."""


@dataclass(frozen=True, slots=True)
class Samples:
    """Points at which cuts are sampled: ``xy`` (k, 2) m, the ``cut`` and the ``length`` (m) of each, and
    ``spread`` (k, p) from places to samples."""

    xy: Array
    cut: Ints
    length: Array
    element: Ints
    spread: sp.csr_matrix


@dataclass(frozen=True, slots=True)
class Bodies:
    """What lies behind each cut: the ``element`` (k,) that cuts go through, and the operator ``sums`` (3 c, 20 k) that gives
    moment about the reference plane, shear and axial force on c cuts, all moments first, from the forces at their nodes."""

    element: Ints
    sums: sp.csr_matrix
    torque: sp.csr_matrix | None = None
    """(c, 20 k): the twisting moment of all forces behind a cut about its axis, of beams."""


@dataclass(frozen=True, slots=True)
class Cuts:
    """Every station of every strip, c in all.

    ``strip`` (c,), ``s`` (c,) m along the axis, ``ends`` (c, 2, 2) m on plan, ``angle`` (c,) rad, ``width`` (c,)
    m of concrete, ``h`` (c,) its mean thickness, ``zeta`` (c,) the depth of its centroid below the reference
    plane; ``forces`` (c, 4, r): moment about that centroid (kNm, sagging positive), twisting moment (kNm; of beams about
    their axis, by the free body), shear (kN) and axial force (kN, tension positive) of each unit load; ``twists`` (c, PARTS, r) kNm the twisting moment of each
    part of the width; ``bodies`` what lies behind the cuts.
    """

    strip: Ints
    s: Array
    ends: Array
    angle: Array
    width: Array
    h: Array
    zeta: Array
    forces: Array
    twists: Array
    samples: Samples
    bodies: Bodies


SLIVER = 1e-3
"""No part of a cut is shorter than this (m)."""
BETWEEN = 1e-9
"""Two elements may leave so much of a cut's way between them."""


@dataclass(frozen=True, slots=True)
class Met:
    """Elements that straight cuts meet, by pairs (k,): the ``cut`` and the ``element``, and between which parts of its way, from 0 to 1, the cut lies in
    it (``first`` and ``last``)."""

    cut: Ints
    element: Ints
    first: Array
    last: Array

    def at(self, cut: Ints, way: Array) -> Ints:
        """The elements (p,) in which places lie, ``way`` (p,) along their cuts ``cut`` (p,); -1 where there is none. Of two that a cut runs between, the
        same one everywhere."""
        through = self.last > self.first + 1e-12
        order = np.lexsort((self.element[through], self.first[through], self.cut[through]))
        of, first, last, element = (v[through][order] for v in (self.cut, self.first, self.last, self.element))
        # Cuts and their parts in one row; what was met last before a place holds it, if it ends after it.
        before = np.searchsorted(2.0 * of + first, 2.0 * cut + way, side="right") - 1
        out = np.full(len(cut), -1, dtype=np.int64)
        some = np.flatnonzero(before >= 0)
        found = before[some]
        # Where one element ends the next begins, but for rounding: none is lost between the two.
        holds = (of[found] == cut[some]) & (last[found] >= way[some] - BETWEEN)
        out[some[holds]] = element[found[holds]]
        return out


def met_by(elements: Elements, ends: Array) -> Met:
    """The elements that cuts with ends (c, 2, 2) m meet."""
    cut, element = elements.tree.query(shapely.linestrings(ends), predicate="intersects")
    return Met(cut, element, *stretch_inside(elements, element, ends[cut, 0], ends[cut, 1]))


def sample(elements: Elements, met: Met, kept: Places, ends: Array, step: float, borders: shapely.STRtree) -> Samples:
    """Sample straight cuts with ends (c, 2, 2) m, of which it is known what they ``met``, at the middles of pieces no longer than ``step`` m.

    No piece crosses one of the ``borders`` (the edges of the plan's faces), where sections change, or lies in two of a cut's ``PARTS``.
    """
    length = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    count = PARTS * np.maximum(np.ceil(length / (PARTS * step)).astype(np.int64), 1)
    of = np.repeat(np.arange(len(ends)), count + 1)
    place = np.arange(len(of)) - np.repeat(np.cumsum(count + 1) - count - 1, count + 1)
    lines = shapely.linestrings(ends)
    cut, border = borders.query(lines, predicate="intersects")
    crossing, source = shapely.get_coordinates(shapely.intersection(lines[cut], borders.geometries[border]), return_index=True)
    cut = cut[source]
    way = ends[cut, 1] - ends[cut, 0]
    t_border = ((crossing - ends[cut, 0]) * way).sum(axis=1) / np.maximum(length[cut] ** 2, 1e-12)
    t = np.concatenate([place / count[of], t_border])
    own = np.arange(len(t)) < len(of)
    of = np.concatenate([of, cut])
    order = np.lexsort((t, of))
    t, of, own = t[order], of[order], own[order]
    # A border next to another point would part a sliver off, whose depth would count as the section's.
    near = (np.diff(of) == 0) & (np.diff(t) * length[of[1:]] <= SLIVER)
    kept_points = own | ~(np.append(False, near) | np.append(near & own[1:], False))
    t, of = t[kept_points], of[kept_points]
    piece = (np.diff(of) == 0) & (np.diff(t) > 1e-9)
    middle, span, cut = (t[1:] + t[:-1])[piece] / 2, np.diff(t)[piece], of[:-1][piece]
    xy = ends[cut, 0] * (1 - middle[:, None]) + ends[cut, 1] * middle[:, None]
    element = met.at(cut, middle)
    on = element >= 0
    xy, cut, element, span = xy[on], cut[on], element[on], span[on]
    share = weights(elements, element, xy)
    at = kept.of[element]
    rows = np.broadcast_to(np.arange(len(xy))[:, None], at.shape)
    valid = at >= 0
    spread = sp.csr_matrix((share[valid], (rows[valid], at[valid])), shape=(len(xy), len(kept.node)))
    return Samples(xy, cut, length[cut] * span, element, spread)


def nodal_forces(system: System, u: Array, pick: Ints) -> Array:
    """Forces (k, 20, r) with which the elements ``pick`` (k,) are held at their nodes; nil for a triangle's fourth node."""
    out = np.zeros((len(pick), 20, u.shape[2]))
    start = 0
    for family in system.families:
        e, corners = family.nodes.shape
        mine = np.flatnonzero((pick >= start) & (pick < start + e))
        for some in blocks_of(len(mine)):
            its = pick[mine[some]] - start
            local = u[family.nodes[its]].reshape(len(its), 5 * corners, u.shape[2])
            out[mine[some], : 5 * corners] = family.stiffness[its] @ local
        start += e
    return out


def bodies(
    elements: Elements, s: Array, ends: Array, angle: Array, offset: Array | None = None, met: Met | None = None
) -> Bodies:
    """The parts of elements behind cuts at ``s`` (c,) with ``ends`` (c, 2, 2) m, square to ``angle`` (c,) rad.

    The part of each cut element behind the cut is a free body: the forces at its nodes there are balanced by the cut. So
    strips right across a floor balance the loads and reactions on one side exactly, whatever the mesh. An element that a
    strip's border cuts gives the share of its width inside. With the ``offset`` (c,) m of each cut's axis, which is not a number
    where it is not asked for, the twisting moment about that axis too. ``met``: what the cuts meet, where that is known.
    """
    met = met_by(elements, ends) if met is None else met
    cut, element = met.cut, met.element
    way = ends[:, 1] - ends[:, 0]
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    # Lengths along the whole line, and how much of that lies within the strip's borders.
    endless = ends[:, 0] - 20 * way, ends[:, 1] + 20 * way
    inside = np.maximum(met.last - met.first, 0.0) * np.hypot(*(ends[cut, 1] - ends[cut, 0]).T)
    end, there = elements.tree.query(shapely.points(ends.reshape(-1, 2)), predicate="dwithin", distance=1e-6)
    total = len(elements.nodes)
    at_border = np.isin(cut * total + element, end // 2 * total + there)
    whole = inside.copy()
    whole[at_border] = lengths_inside(elements, element[at_border], endless[0][cut[at_border]], endless[1][cut[at_border]])
    share = np.where(whole > 1e-9, np.minimum(inside / np.maximum(whole, 1e-9), 1.0), 0.0)
    nodes = elements.nodes[element]
    c, sn = np.cos(angle[cut]), np.sin(angle[cut])
    xy = elements.xy[nodes]
    arm = xy[..., 0] * c[:, None] + xy[..., 1] * sn[:, None] - s[cut][:, None]
    behind = np.where((arm < 0) & (nodes >= 0), share[:, None], 0.0)
    used, number = np.unique(element, return_inverse=True)
    count = len(s)
    rows, columns, values = [], [], []
    # Each row of the sums: the nodal unknown, and its factor at every node behind.
    for row, unknown, factor in (
        (0, 2, arm * behind), (0, 3, -c[:, None] * behind), (0, 4, -sn[:, None] * behind), (1, 2, -behind),
        (2, 0, -c[:, None] * behind), (2, 1, -sn[:, None] * behind),
    ):  # fmt: skip
        which, node = np.nonzero(factor)
        rows.append(row * count + cut[which])
        columns.append(20 * number[which] + 5 * node + unknown)
        values.append(factor[which, node])
    sums = sp.csr_matrix(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(3 * count, 20 * len(used))
    )
    if offset is None:
        return Bodies(used, sums)
    about = offset[cut]
    lateral = np.nan_to_num(-xy[..., 0] * sn[:, None] + xy[..., 1] * c[:, None] - about[:, None]) * behind
    turned = behind * np.isfinite(about)[:, None]
    rows, columns, values = [], [], []
    for unknown, factor in ((2, lateral * np.isfinite(about)[:, None]), (3, sn[:, None] * turned), (4, -c[:, None] * turned)):
        which, node = np.nonzero(factor)
        rows.append(cut[which])
        columns.append(20 * number[which] + 5 * node + unknown)
        values.append(factor[which, node])
    torque = sp.csr_matrix(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(count, 20 * len(used))
    )
    return Bodies(used, sums, torque)


def across(found: Bodies, system: System, u: Array) -> tuple[Array, Array, Array]:
    """Moment about the reference plane, shear and axial force on the cuts of some bodies, each (c, r), for displacements
    ``u`` (n, 5, r)."""
    held = nodal_forces(system, u, found.element)
    out = np.asarray(found.sums @ held.reshape(20 * len(found.element), u.shape[2])).reshape(
        3, found.sums.shape[0] // 3, u.shape[2]
    )
    return out[0], out[1], out[2]


def place_cuts(
    layout: Layout, elements: Elements, kept: Places, step: float, borders: shapely.STRtree, more: Array | None = None
) -> Cuts:
    """Cut every strip at its stations, and where one of the points ``more`` (k, 2) m lies in it; cuts with no concrete in them are left
    out. No forces yet: ``forces`` is empty.

    ``step`` and ``borders`` as in :func:`sample`.
    """
    strip, s, ends, angle = [np.zeros(0, np.int64)], [np.zeros(0)], [np.zeros((0, 2, 2))], [np.zeros(0)]
    for k, one in enumerate(layout.strips):
        axis = layout.axes[one.axis]
        own = np.zeros((0, 2)) if more is None else more[shapely.intersects_xy(one.outline, *more.T)]
        at = stations(one, own @ (np.cos(axis.angle), np.sin(axis.angle)))
        lines = ends_of(axis, one, at)
        hits = np.isfinite(lines[:, 0, 0])
        strip.append(np.full(int(hits.sum()), k))
        s.append(at[hits])
        ends.append(lines[hits])
        angle.append(np.full(int(hits.sum()), axis.angle))
    of, along, where, turn = np.concatenate(strip), np.concatenate(s), np.concatenate(ends), np.concatenate(angle)
    if not len(of):
        none = np.zeros(0)
        empty = Samples(np.zeros((0, 2)), of, none, of, sp.csr_matrix((0, len(kept.node))))
        return Cuts(
            of,
            none,
            where,
            none,
            none,
            none,
            none,
            np.zeros((0, 4, 0)),
            np.zeros((0, PARTS, 0)),
            empty,
            Bodies(of, sp.csr_matrix((0, 0))),
        )
    met = met_by(elements, where)
    samples = sample(elements, met, kept, where, step, borders)
    width: Array = np.bincount(samples.cut, weights=samples.length, minlength=len(of)).astype(np.float64)
    solid = width > LEAST_CUT
    number = np.cumsum(solid) - 1
    kept_samples = solid[samples.cut]
    thin = Samples(
        samples.xy[kept_samples], number[samples.cut[kept_samples]], samples.length[kept_samples],
        samples.element[kept_samples], samples.spread[np.flatnonzero(kept_samples)],
    )  # fmt: skip
    none, parts = np.zeros((int(solid.sum()), 4, 0)), np.zeros((int(solid.sum()), PARTS, 0))
    of_beam = np.array([bool(s.beam) for s in layout.strips])[of[solid]]
    about = np.where(of_beam, np.array([layout.axes[s.axis].offset for s in layout.strips])[of[solid]], np.nan)
    still = solid[met.cut]
    left = Met(number[met.cut[still]], met.element[still], met.first[still], met.last[still])
    behind = bodies(elements, along[solid], where[solid], turn[solid], about if of_beam.any() else None, left)
    unknown = np.zeros(int(solid.sum()))
    placed = Cuts(
        of[solid], along[solid], where[solid], turn[solid], width[solid], unknown, unknown, none, parts, thin, behind
    )  # fmt: skip
    return with_sections(placed, kept)


def with_sections(cuts: Cuts, kept: Places) -> Cuts:
    """The same cuts through sections as they are ``kept`` at the same places: their mean thickness, and the depth of their centroid."""
    samples, count = cuts.samples, len(cuts.strip)
    thick, depth = samples.spread @ kept.h, samples.spread @ kept.zeta
    area = np.bincount(samples.cut, weights=samples.length * thick, minlength=count)
    first = np.bincount(samples.cut, weights=samples.length * thick * depth, minlength=count)
    return replace(cuts, h=area / np.maximum(cuts.width, 1e-9), zeta=first / np.maximum(area, 1e-9))


def forces_across(cuts: Cuts, system: System, u: Array, forces: Array) -> tuple[Array, Array]:
    """Forces (c, 4, r) and twisting moments (c, PARTS, r) at the cuts, as :class:`Cuts` keeps them, for displacements ``u``
    (n, 5, r) and section forces ``forces`` (p, 8, r) at the places. Twisting moments are integrated from the recovered field."""
    count = len(cuts.strip)
    integrated, twists = np.zeros((count, 4, u.shape[2])), np.zeros((count, PARTS, u.shape[2]))
    if not count:
        return integrated, twists
    moment, shear, axial = across(cuts.bodies, system, u)
    samples = cuts.samples
    way = cuts.ends[:, 1] - cuts.ends[:, 0]
    t = ((samples.xy - cuts.ends[samples.cut, 0]) * way[samples.cut]).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-12)[
        samples.cut
    ]
    row = PARTS * samples.cut + np.clip((PARTS * t).astype(np.int64), 0, PARTS - 1)
    collect = sp.csr_matrix((samples.length, (row, np.arange(len(row)))), shape=(PARTS * count, len(row)))
    operator = collect @ samples.spread
    for a in np.unique(cuts.angle):
        mine = cuts.angle == a
        c, d = np.cos(a), np.sin(a)
        rows = (PARTS * np.flatnonzero(mine)[:, None] + np.arange(PARTS)).ravel()
        twist = c * d * (forces[:, 4] - forces[:, 3]) + (c * c - d * d) * forces[:, 5]
        twists[mine] = (operator[rows] @ twist).reshape(int(mine.sum()), PARTS, u.shape[2])
    integrated[:, 0], integrated[:, 2], integrated[:, 3] = moment - cuts.zeta[:, None] * axial, shear, axial
    integrated[:, 1] = twists.sum(axis=1)
    if cuts.bodies.torque is not None:
        held = nodal_forces(system, u, cuts.bodies.element).reshape(20 * len(cuts.bodies.element), u.shape[2])
        of_beam = np.diff(cuts.bodies.torque.indptr) > 0
        integrated[of_beam, 1] = np.asarray(cuts.bodies.torque @ held)[of_beam]
    return integrated, twists
