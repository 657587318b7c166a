"""Where tendons cross the stations of strips, and what they give there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.model import Floor
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.model.tendon_curve import Curve
from piastra.core.model.tendons import Strand
from piastra.core.standards.prestress_rules import PrestressRules, UltimatePlaces
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.trace import Step, Value

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]


ASSUMED_BARS = 0.004
"""Ratio of bars beside bonded tendons, whose stress falls a little with it: more than slabs with tendons have."""


@dataclass(frozen=True, slots=True)
class Crossings:
    """k crossings: the ``cut`` and the ``tendon`` of each, the cosine of its angle to the strip on plan (``along``, at least 0), depth
    ``zeta`` (m) below the reference plane, the part of the final ``force`` (kN) that lies level, in its own direction on plan, and the ``share`` of
    the tendon that is the cut's: a half of one that runs on the border between two strips."""

    cut: Ints
    tendon: Ints
    along: Array
    zeta: Array
    force: Array
    share: Array


EDGE = 1e-3
"""A tendon so near (m) to the end of a cut lies on it: on the border of the strip, or on the edge of the floor."""


def crossings(layout: Layout, cuts: Cuts, curves: Sequence[Curve], final: Sequence[Array], datum: float) -> Crossings:
    """Every crossing of a tendon with a cut."""
    owner = np.repeat(np.arange(len(curves)), [len(c.s) - 1 for c in curves])
    first = np.concatenate([np.arange(len(c.s) - 1) for c in curves])
    ends = np.concatenate([np.stack([c.xy[:-1], c.xy[1:]], axis=1) for c in curves])
    long = np.hypot(*(ends[:, 1] - ends[:, 0]).T) > 1e-9
    owner, first, ends = owner[long], first[long], ends[long]
    way = cuts.ends[:, 1] - cuts.ends[:, 0]
    length = np.hypot(*way.T)
    way = way / np.maximum(length, 1e-9)[:, None]
    longer = cuts.ends + EDGE * np.stack([-way, way], axis=1)
    lines = shapely.linestrings(longer)
    which, piece = shapely.STRtree(shapely.linestrings(ends)).query(lines, predicate="intersects")
    # By the lines' own parameters: two pieces that meet on a cut count once, by the half-open piece.
    a, b = ends[piece, 0], ends[piece, 1]
    p, q = longer[which, 0], longer[which, 1]
    d, e = b - a, q - p
    cross = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
    fine = np.abs(cross) > 1e-9 * np.hypot(*d.T) * np.maximum(np.hypot(*e.T), 1e-9)
    which, piece, a, d, e, p, cross = (v[fine] for v in (which, piece, a, d, e, p, cross))
    t = ((p - a)[:, 0] * e[:, 1] - (p - a)[:, 1] * e[:, 0]) / cross
    last = np.array([first[k] == len(curves[owner[k]].s) - 2 for k in piece], dtype=bool)
    keep = (t >= -1e-9) & ((t < 1 - 1e-9) | (last & (t <= 1 + 1e-9)))
    which, piece, t = which[keep], piece[keep], np.clip(t[keep], 0.0, 1.0)
    tendon, k = owner[piece], first[piece]
    met = ((ends[piece, 0] + t[:, None] * (ends[piece, 1] - ends[piece, 0]) - cuts.ends[which, 0]) * way[which]).sum(axis=1)

    def at(values: Callable[[Curve], Array]) -> Array:
        whole = np.concatenate([values(c) for c in curves])
        start = np.concatenate([[0], np.cumsum([len(c.s) for c in curves])])[tendon] + k
        return whole[start] + t * (whole[start + 1] - whole[start])

    s, z, slope, heading = at(lambda c: c.s), at(lambda c: c.z), at(lambda c: c.slope), at(lambda c: c.heading)
    force = np.array([np.interp(s[j], curves[tendon[j]].s, final[tendon[j]]) for j in range(len(s))])
    along = np.abs(np.cos(heading - cuts.angle[which]))
    share = _shares(layout, cuts, which, way[which], (met < EDGE, met > length[which] - EDGE))
    return Crossings(which, tendon, along, datum - z, force / np.sqrt(1 + slope**2), share)


def _shares(layout: Layout, cuts: Cuts, which: Ints, way: Array, at_ends: tuple[Flags, Flags]) -> Array:
    """What of tendons (k,) is of the cuts ``which`` that they cross, along ``way`` (k, 2), where those ``at_ends`` do it at the first end or the
    last: all of it, or half where a strip of the same direction lies beyond."""
    share = np.ones(len(which))
    outlines, direction = [s.outline for s in layout.strips], np.array([s.direction for s in layout.strips])
    for end, sign in ((0, -1.0), (1, 1.0)):
        there = np.flatnonzero(at_ends[end])
        beyond = shapely.points(cuts.ends[which[there], end] + sign * 3 * EDGE * way[there])
        near, strip = shapely.STRtree(outlines).query(beyond, predicate="intersects")
        own = cuts.strip[which[there[near]]]
        share[there[near[(strip != own) & (direction[strip] == direction[own])]]] = 0.5
    return share


@dataclass(frozen=True, slots=True)
class FaceTendons:
    """What tendons give at c stations when the bars of one face are stretched: design ``force`` (c,) kN/m of the ultimate limit state, its
    ``offset`` (c,) m from the cut's centroid towards that face, and the steps for one station."""

    force: Array
    offset: Array
    steps: Callable[[int], tuple[Step, ...]]


@dataclass(frozen=True, slots=True)
class TendonsAt:
    """Tendons at c stations: their area ``A_p`` (c,) m2 and final ``force`` (c,) kN across the cut, the ``offset`` (c,) m of that
    force below the cut's centroid, and what they give to each face's bars (bottom, top)."""

    A_p: Array
    force: Array
    offset: Array
    faces: tuple[FaceTendons, FaceTendons]


def _places(
    strand: Strand, concrete: Concrete, rebar: Rebar, A_p: Array, e: Array, f_pe: Array, width: Array, h: Array, span: Array
) -> UltimatePlaces:
    """Sections with tendons of area ``A_p`` m2 at ``e`` m from their middle towards the stretched face, stressed with ``f_pe`` MPa."""
    d_p = np.maximum(e + h / 2, 0.02)
    return UltimatePlaces(strand, concrete, rebar, A_p / width, d_p, f_pe, ASSUMED_BARS * d_p, d_p, span / h)


def tendons_at(
    floor: Floor,
    rules: PrestressRules,
    cuts: Cuts,
    found: Crossings,
    span: Array,
    kind: Ints,
    pairs: Sequence[tuple[Concrete, Rebar]],
) -> TendonsAt:
    """What crossings amount to at the stations. ``span`` (c,) m of their strips; ``kind`` (c,) numbers the pair of materials."""
    count = len(cuts.strip)
    strands = [next(s for s in floor.strands if s.id == t.strand) for t in floor.tendons]
    number = {s.id: k for k, s in enumerate(floor.strands)}
    of = np.array([number[s.id] for s in strands], dtype=np.int64)[found.tendon]
    area_of = np.array([t.count * s.area_mm2 * 1e-6 for t, s in zip(floor.tendons, strands, strict=True)])[found.tendon]
    A, N = area_of * found.along * found.share, found.force * found.along * found.share
    below = found.zeta - cuts.zeta[found.cut]

    def total(values: Array, mine: npt.NDArray[np.bool_] | slice = slice(None)) -> Array:
        return np.asarray(np.bincount(found.cut[mine], values[mine], minlength=count), dtype=np.float64)

    force = total(N)
    offset = np.divide(total(N * below), force, out=np.zeros(count), where=force > 0)
    faces = []
    for sign in (1.0, -1.0):
        F, F_e = np.zeros(count), np.zeros(count)
        for k, strand in enumerate(floor.strands):
            mine = of == k
            A_k = total(A, mine)
            there = np.flatnonzero(A_k > 0)
            if not len(there):
                continue
            e_k = sign * np.divide(total(A * below, mine), A_k, out=np.zeros(count), where=A_k > 0)
            f_pe = np.divide(total(N, mine), A_k, out=np.zeros(count), where=A_k > 0) / 1e3
            for p, (concrete, rebar) in enumerate(pairs):
                own = there[kind[there] == p]
                if not len(own):
                    continue
                places = _places(strand, concrete, rebar, A_k[own], e_k[own], f_pe[own], cuts.width[own], cuts.h[own], span[own])
                stress, _ = rules.ultimate(places)
                F[own] += A_k[own] / cuts.width[own] * 1e3 * stress
                F_e[own] += A_k[own] / cuts.width[own] * 1e3 * stress * e_k[own]
        offset_k = np.divide(F_e, F, out=np.zeros(count), where=F > 0)
        faces.append(
            FaceTendons(F, offset_k, _explained(floor, rules, cuts, found, of, A, N, below, sign, span, kind, pairs, F, offset_k))
        )
    return TendonsAt(total(A), force, offset, (faces[0], faces[1]))


def _explained(
    floor: Floor, rules: PrestressRules, cuts: Cuts, found: Crossings, of: Ints, A: Array, N: Array, below: Array, sign: float,
    span: Array, kind: Ints, pairs: Sequence[tuple[Concrete, Rebar]], F: Array, offset: Array,
) -> Callable[[int], tuple[Step, ...]]:  # fmt: skip
    def steps(c: int) -> tuple[Step, ...]:
        if F[c] <= 0:
            return ()
        out: list[Step] = []
        width, h = float(cuts.width[c]), float(cuts.h[c])
        for k, strand in enumerate(floor.strands):
            mine = (found.cut == c) & (of == k)
            if not mine.any():
                continue
            A_p = float(A[mine].sum())
            e = sign * float((A * below)[mine].sum()) / A_p
            places = _places(
                strand,
                *pairs[int(kind[c])],
                *(np.array([v]) for v in (A_p, e, float(N[mine].sum()) / A_p / 1e3, width, h, float(span[c]))),
            )
            names = ", ".join(dict.fromkeys(floor.tendons[j].id for j in found.tendon[mine][:6]))
            more = f" and {int(mine.sum()) - 6} more" if mine.sum() > 6 else ""
            stress, own = rules.ultimate(places)
            a, b = Value("A_p", 1e6 * A_p, "steel", f"of {names}{more} along the strip"), Value("b", width, "length")
            out += [
                *own,
                Step("Force of the tendons", "", "F_p = A_p · sigma_p / b", (a, Value("sigma_p", float(stress[0]), "stress"), b),
                     Value("F_p", 1e3 * float(stress[0]) * A_p / width, "force_per_m")),
            ]  # fmt: skip
        out.append(
            Step("Tendons as a force on the section", values=(Value("F_p", float(F[c]), "force_per_m"),
                 Value("e_p", float(offset[c]), "size", "from the section's middle towards this face")),
                 note="They enter as a compressive force where they lie: bars carry what is left.")
        )  # fmt: skip
        return tuple(out)

    return steps
