"""Required against provided steel: at the stations of strips, and at every point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.combine.envelope import Factors, companions, envelopes
from piastra.core.fe.recovery import Places, about_own_plane
from piastra.core.model import Floor
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.reinforcement.mats import ROWS, Provided
from piastra.core.standards.protocol import FlexureRules, MinimumRules, Sections
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

Pair = tuple[Concrete, Rebar]


@dataclass(frozen=True, slots=True)
class Demand:
    """Steel in one face at k places (m2/m): for ``strength``, in ``compression``, the ``least``; the design
    moment about the steel ``m`` (kNm/m), the axial force ``n`` (kN/m), number of the governing combination."""

    strength: Array
    compression: Array
    least: Array
    m: Array
    n: Array
    combination: Ints

    @property
    def required(self) -> Array:
        """The greatest of the provisions."""
        return np.maximum(self.strength, self.least)


@dataclass(frozen=True, slots=True)
class StationSteel:
    """Steel at every cut, per face (0 bottom, 1 top): demands, ``provided`` (2, c) m2/m, ``d`` and ``d2`` (2, c) m, and the
    ``utilisation`` (2, c); ``kind`` (c,) numbers the pair of ``materials`` at the cut."""

    demand: tuple[Demand, Demand]
    provided: Array
    d: Array
    d2: Array
    utilisation: Array
    kind: Ints
    materials: tuple[Pair, ...]


@dataclass(frozen=True, slots=True)
class Rules:
    """The rule sets by which steel is found."""

    flexure: FlexureRules
    minimum: MinimumRules


def demand(
    moment: Array, twist: Array, axial: Array, h: Array, d: Array, d2: Array, combinations: list[Factors],
    rules: Rules, materials: tuple[Pair, ...], kind: Ints,
) -> Demand:  # fmt: skip
    """Worst demand over combinations and arrangements.

    ``moment``, ``twist``, ``axial`` (k, r): unit responses per metre, the moment positive where it stretches this
    face, about the middle of ``h`` (k,). ``kind`` (k,) numbers the pair of concrete and steel. The design moment is
    ``m + |m_xy|`` (Wood 1968, Armer 1968) less the axial force's moment about the steel; each sign of the twist
    is one linear functional, so its envelope is exact, and the axial force is that of the governing arrangement.
    """
    count = len(h)
    arm = (d - h / 2)[:, None]
    chosen = np.zeros(count, dtype=np.int64)
    m, n = np.full(count, -np.inf), np.zeros(count)
    for sign in (1.0, -1.0):
        functional = moment + sign * twist - axial * arm
        greatest = envelopes(functional, combinations)[1]
        worst = greatest.argmax(axis=1) if count else chosen
        found = np.take_along_axis(greatest, worst[:, None], axis=1)[:, 0] if count else m
        better = found > m
        n[better] = companions(functional[better], axial[better], combinations, worst[better])
        m, chosen = np.where(better, found, m), np.where(better, worst, chosen)
    strength, compression, least = (np.zeros(count) for _ in range(3))
    for k, (concrete, rebar) in enumerate(materials):
        mine = kind == k
        if not mine.any():
            continue
        sections = Sections(h[mine], d[mine], d2[mine], concrete, rebar)
        flexure = rules.flexure.design(m[mine], n[mine], sections)
        strength[mine], compression[mine] = flexure.tension, flexure.compression
        least[mine] = rules.minimum.least(m[mine], sections).area
    return Demand(strength, compression, least, m, n, chosen)


def materials(floor: Floor) -> tuple[Ints, tuple[Pair, ...]]:
    """Per slab the number of its pair of concrete and steel, and the pairs."""
    concretes = {c.id: c for c in floor.concretes}
    rebars = {r.id: r for r in floor.rebars}
    pairs = sorted({(s.concrete, s.rebar) for s in floor.slabs})
    kind = np.array([pairs.index((s.concrete, s.rebar)) for s in floor.slabs], dtype=np.int64)
    return kind, tuple((concretes[c], rebars[r]) for c, r in pairs)


def station_steel(
    floor: Floor, rules: Rules, layout: Layout, cuts: Cuts, slab_of: Ints, here: Provided, combinations: list[Factors]
) -> StationSteel:
    """Steel at the stations; ``slab_of`` (e,) the slab of each element, ``here`` what the mats give at the samples."""
    count = len(cuts.strip)
    samples = cuts.samples
    slab = slab_of[samples.element]
    collect = sp.csr_matrix((samples.length, (samples.cut, np.arange(len(samples.cut)))), shape=(count, len(samples.cut)))
    width = np.maximum(cuts.width, 1e-9)
    row_x = np.array([layout.strips[k].direction == "x" for k in cuts.strip], dtype=bool)
    first = np.searchsorted(samples.cut, np.arange(count))
    pair, pairs = materials(floor)
    kind = pair[slab[first]] if count else np.zeros(0, dtype=np.int64)
    area = np.stack([(collect @ here.area[r]) / width for r in range(4)]) if count else np.zeros((4, 0))
    depth = np.stack([(collect @ here.depth[r]) / width for r in range(4)]) if count else np.zeros((4, 0))
    faces, given, ds, use = [], [], [], []
    per_metre = cuts.forces / width[:, None, None]
    sides = [np.where(row_x, depth[x], depth[y]) for x, y in ((0, 1), (2, 3))]
    bars = [np.where(row_x, area[x], area[y]) for x, y in ((0, 1), (2, 3))]
    for f, sign in ((0, 1.0), (1, -1.0)):
        d = np.maximum(cuts.h - sides[f], 0.02)
        found = demand(sign * per_metre[:, 0], per_metre[:, 1], per_metre[:, 3], cuts.h, d, sides[1 - f],
                       combinations, rules, pairs, kind)  # fmt: skip
        faces.append(found)
        given.append(bars[f])
        ds.append(d)
        # Compression steel has to be there as well: the other face's bars give it.
        use.append(np.maximum(ratio(found.required, bars[f]), ratio(found.compression, bars[1 - f])))
    opposite = np.array([sides[1], sides[0]])
    return StationSteel((faces[0], faces[1]), np.array(given), np.array(ds), opposite, np.array(use), kind, pairs)


def ratio(required: Array, given: Array) -> Array:
    """Required over provided, 0 where nothing is required, and at most 99 where nothing is provided."""
    return np.where(required > 0, np.minimum(required / np.maximum(given, 1e-12), 99.0), 0.0)


PLACES = 4096
"""Places that are worked on at once."""


def point_steel(
    floor: Floor, rules: Rules, kept: Places, slab: Ints, forces: Array, here: Provided, combinations: list[Factors]
) -> Array:
    """Required steel (4, p) m2/m at every place.

    ``slab`` (p,), ``forces`` (p, 8, r) about the reference plane, ``here`` what the mats give there.
    """
    pair, pairs = materials(floor)
    angle = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab]
    required = np.zeros((4, len(slab)))
    for start in range(0, len(slab), PLACES):
        some = slice(start, start + PLACES)
        own = about_own_plane(kept, forces, some)
        c, s = np.cos(angle[some])[:, None], np.sin(angle[some])[:, None]
        m_x = c * c * own[:, 3] + s * s * own[:, 4] + 2 * c * s * own[:, 5]
        m_y = s * s * own[:, 3] + c * c * own[:, 4] - 2 * c * s * own[:, 5]
        m_xy = c * s * (own[:, 4] - own[:, 3]) + (c * c - s * s) * own[:, 5]
        n_x = c * c * own[:, 0] + s * s * own[:, 1] + 2 * c * s * own[:, 2]
        n_y = s * s * own[:, 0] + c * c * own[:, 1] - 2 * c * s * own[:, 2]
        h, kind = kept.h[some], pair[slab[some]]
        for r, (face, direction) in enumerate(ROWS):
            sign = 1.0 if face == "bottom" else -1.0
            m, n = (m_x, n_x) if direction == "x" else (m_y, n_y)
            d = np.maximum(h - here.depth[r, some], 0.02)
            found = demand(sign * m, m_xy, n, h, d, here.depth[(r + 2) % 4, some], combinations, rules, pairs, kind)
            required[r, some] = found.required
    return required
