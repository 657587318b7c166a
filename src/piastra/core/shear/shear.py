"""One-way shear: the worst piece of every line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.combine.envelope import Factors, companions, envelopes, governing_panels
from piastra.core.fe.recovery import Places
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, find, weights
from piastra.core.reinforcement.groups import Spots
from piastra.core.reinforcement.mats import Provided
from piastra.core.shear.links import SlabLinks
from piastra.core.shear.places import POINTS, Lines
from piastra.core.standards.protocol import ShearPlaces, ShearRules
from piastra.core.standards.provision import Pair
from piastra.core.standards.situations import Situation
from piastra.core.trace import Loaded
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]

DIRECTIONS = np.radians(np.arange(0, 360, 10.0))
"""The resultant is the greatest of the components in these directions: at most 0.4 % more."""


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A piece of a line, ``at`` m, with the mean shear ``v`` kN/m, which it or links for as much carry, but not the ``most`` that there is within the
    elements it runs through, or that there may be where these are too ``large`` for the slab's depth or the concrete is too ``narrow`` for its moments'
    slopes to be told. Which of the two is nearer only finer elements tell. ``resistance`` is that of the concrete alone at its ``place``."""

    at: tuple[float, float]
    v: float
    most: float
    resistance: float
    place: ShearPlaces
    large: bool = False
    narrow: bool = False


@dataclass(frozen=True, slots=True)
class ShearUse:
    """The worst piece of one line: ``v`` kN/m against ``resistance``, in the direction ``angle`` rad, with what it rests on."""

    of: tuple[str, str]
    at: tuple[float, float]
    v: float
    resistance: float
    angle: float
    combination: str
    panels: tuple[Loaded, ...]
    place: ShearPlaces
    face: int
    """0 where the bottom bars are the stretched ones whose ratio counts, 1 for the top ones."""
    situation: Situation | None = None
    """The design situation that governs; None: that of the finished floor."""
    thinnest: ShearPlaces | None = None
    """Of what the concrete does not carry the place with the least effective depth, by which links are spaced; None: it carries all."""
    links: SlabLinks | None = None
    unresolved: tuple[Unresolved, ...] = ()
    """Pieces of the line that only finer elements tell of, the one with the most first; with links: those that what there is may not carry."""

    @property
    def bare(self) -> float:
        """v over the resistance of the concrete alone, told up to 99."""
        return min(self.v / self.resistance, 99.0) if self.resistance > 0 else 99.0

    @property
    def utilisation(self) -> float:
        """With links, where there are some."""
        return self.bare if self.links is None else self.links.utilisation


def _directions(lines: Lines) -> Array:
    """Directions (k, D) rad in which the shear of each piece is looked at: every one, or beside a beam or a thick region those across it: what a
    flange carries along its beam is the beam's shear, for which the web has links, and the flange's tension over a support is no force upon the
    slab. Along a leap of thickness shear balances the leap of the twisting moment, within less than the thickness from it."""
    along = lines.xy[:, -1] - lines.xy[:, 0]
    across = np.arctan2(along[:, 1], along[:, 0])[:, None] + np.pi * (np.arange(len(DIRECTIONS)) - 0.5)
    only_across = np.array([kind in ("beams", "thickenings", "slabs") for kind, _ in lines.carried])[lines.of]
    return np.where(only_across[:, None], np.mod(across, 2 * np.pi), DIRECTIONS)


RIGHT = 1.1
"""Shear beside what holds the floor is right to a tenth at the usual size: what may be beyond the resistance by less is no doubt, as it always is beside
a piece that is nearly used up."""
HIDDEN = 2.0
"""What elements that are too large for a slab's depth hide of its shear: of 230 pieces of 13 random floors with elements of 0.7 and 1.4 m, one in six that ran
through elements of more than two depths had less than 0.9 of the shear of 0.14 m, and the least 0.44, with the greatest at its elements' corners."""

OWN = 1.7
"""By how much shear may be greater than the elements' own, which stands where the slopes of moments cannot be told: in thin slabs it is 10 to 40 % low."""


def _most(greatest: Array, wide: Flags, piece: Ints, count: int) -> Array:
    """What the mean over each of ``count`` pieces may be at the most: of the ``greatest`` shear at the corners of the element around each point of a
    ``piece``, and of all such elements for which the piece is short (``wide``)."""
    top = np.full(count, -np.inf)
    np.maximum.at(top, piece[wide], greatest[wide])
    most = np.bincount(piece, np.maximum(greatest, top[piece]), minlength=count)
    return np.asarray(most / np.maximum(np.bincount(piece, minlength=count), 1))


@dataclass(frozen=True, slots=True)
class Read:
    """What does not hang on loads and bars of t pieces of ``lines`` that lie on the floor: their numbers ``there``, the weights ``mean`` (t, p) of places in what
    they have on average, their ``slab`` and thickness ``h`` m, the ``directions`` (t, D) rad of shear, and the ``spots`` (t) at which bars are looked at.

    Of the q points that lie on the floor: the number of the ``piece``, the places ``at`` (q, 4) of the element's corners, as far as they are ``valid``, the element's ``size``
    m, whether it is so ``wide`` that the piece is short for it, and at which corners shear is ``low``, the elements' own; ``narrow`` pieces (t,) reach such ones.
    """

    lines: Lines
    there: Ints
    mean: sp.csr_matrix
    slab: Ints
    h: Array
    directions: Array
    spots: Spots
    piece: Ints
    at: Ints
    valid: Flags
    size: Array
    wide: Flags
    low: Flags
    narrow: Flags


def read(lines: Lines, elements: Elements, kept: Places, slab_of: Ints, region: BaseGeometry) -> Read:
    """What pieces of lines read; ``slab_of`` (e,) the slab of each element, ``region`` the floor's concrete."""
    count = len(lines.of)
    xy = lines.xy.reshape(-1, 2)
    element = find(elements, xy, within=2e-3)
    points = np.flatnonzero(element >= 0)
    element = element[points]
    there, first, piece, number = np.unique(points // POINTS, return_index=True, return_inverse=True, return_counts=True)
    share, at = weights(elements, element, xy[points]), kept.of[element]
    valid = at >= 0
    row = np.broadcast_to(piece[:, None], at.shape)
    mean = sp.csr_matrix((share[valid] / number[row[valid]], (row[valid], at[valid])), shape=(len(there), len(kept.node)))
    own = np.zeros(len(kept.node), dtype=bool)
    own[kept.own_shear] = True
    size = np.sqrt(shapely.area(elements.shapes[element]))
    length = lines.length[there] if count else np.zeros(0)
    return Read(
        lines, there, mean, slab_of[element[first]], np.asarray(mean @ kept.h), _directions(lines)[there],
        Spots(xy[points[first]], region), piece, at, valid, size, size > length[piece] / 2, own[at] & valid, np.asarray(mean @ own) > 0,
    )  # fmt: skip


def shear_uses(
    rules: ShearRules, known: Read, forces: Array, given: Provided, bars: Array, kind: Ints, pairs: Sequence[Pair],
    combinations: Sequence[Factors], units: Sequence[Unit], more: Callable[[Spots, Array], Array], for_links: bool = False,
    largest: float = np.inf,
) -> list[ShearUse]:  # fmt: skip
    """The worst piece of every line; ``for_links``: of those that the concrete does not carry the one with the most shear over its depth,
    by which links grow. Elements larger than the ``largest`` (m) hide shear. ``forces`` (p, 8, r) at the places; ``given`` at the spots with
    the direction ``bars`` (rad) of the slabs' bars and ``kind`` of their materials, by slab; ``more`` (spots, directions) the
    area (2, k) m2/m of bottom and top bars beside the mats. The bars that count are those of the face that the moment along the
    shear stretches under the governing arrangement."""
    lines, there, slab, h, piece = known.lines, known.there, known.slab, known.h, known.piece
    if not len(there):
        return []
    every = np.arange(len(there))
    planar = np.asarray(known.mean @ forces.reshape(len(forces), -1)).reshape(len(there), *forces.shape[1:])
    c, s = np.cos(known.directions)[:, :, None], np.sin(known.directions)[:, :, None]
    family = planar[:, None, 6] * c + planar[:, None, 7] * s
    flat = envelopes(family, combinations)[1].reshape(len(there), -1)
    chosen = flat.argmax(axis=1)
    v, way, number = flat[every, chosen], chosen // len(combinations), chosen % len(combinations)
    angle, governing = known.directions[every, way], family[every, way]
    turn = angle - bars[slab]
    along = np.stack([np.cos(turn) ** 2, np.sin(turn) ** 2])
    ca, sa = np.cos(angle)[:, None], np.sin(angle)[:, None]
    axial, bending = (
        companions(
            governing, ca * ca * planar[:, q] + sa * sa * planar[:, q + 1] + 2 * ca * sa * planar[:, q + 2], combinations, number
        )
        for q in (0, 3)
    )
    face = (bending < 0).astype(np.int64)
    rows = 2 * face + np.arange(2)[:, None]
    area = (along * given.area[rows, every]).sum(axis=0) + more(known.spots, angle)[face, every]
    d = np.maximum(h - (along * given.depth[rows, every]).sum(axis=0), 0.02)
    resistance = np.zeros(len(there))
    for p, (concrete, rebar) in enumerate(pairs):
        mine = kind[slab] == p
        if mine.any():
            resistance[mine] = rules.resistance(ShearPlaces(h[mine], d[mine], area[mine] / d[mine], axial[mine], concrete, rebar))
    use = v / np.maximum(resistance, 1e-9)
    corner = ca[piece, None] * forces[known.at, 6] + sa[piece, None] * forces[known.at, 7]
    acting = companions(
        np.repeat(governing[piece], 4, axis=0), corner.reshape(-1, corner.shape[2]), combinations, np.repeat(number[piece], 4)
    ).reshape(-1, 4)
    acting *= np.where(known.low & (acting > 0), OWN, 1.0)
    large = np.zeros(len(there), dtype=bool)
    large[piece[known.size > largest]] = True
    greatest = np.where(known.valid, acting, -np.inf).max(axis=1)
    most = _most(greatest, known.wide, piece, len(there)) * np.where(large, HIDDEN, 1.0)
    # What the concrete does not carry needs links for the shear that there is, not for what elements tell of it.
    unsure = np.where(most > RIGHT * np.maximum(v, resistance), most / np.maximum(resistance, 1e-9), 0.0)

    def place(k: int) -> ShearPlaces:
        concrete, rebar = pairs[int(kind[slab[k]])]
        one = slice(k, k + 1)
        return ShearPlaces(h[one], d[one], area[one] / d[one], axial[one], concrete, rebar)

    out = []
    for k, ref in enumerate(lines.carried):
        mine = np.flatnonzero(lines.of[there] == k)
        if not len(mine):
            continue
        worst = np.where(use[mine] > 1, v[mine] / d[mine], 0.0) if for_links and (use[mine] > 1).any() else use[mine]
        w = int(mine[worst.argmax()])
        factors = combinations[int(number[w])]
        x, y = lines.middle[there[w]]
        panels = governing_panels(governing[w], factors, units, greatest=True)
        short = mine[use[mine] > 1]
        doubtful = [u for u in mine[np.argsort(-unsure[mine], kind="stable")].tolist() if unsure[u] > 0]
        at_them = lines.middle[there[doubtful]].tolist()
        out.append(
            ShearUse(
                ref,
                (float(x), float(y)),
                max(float(v[w]), 0.0),
                float(resistance[w]),
                float(angle[w]),
                factors.combination,
                panels,
                place(w),
                int(face[w]),
                thinnest=place(int(short[d[short].argmin()])) if len(short) else None,
                unresolved=tuple(
                    Unresolved(
                        (ux, uy),
                        float(v[u]),
                        float(most[u]),
                        float(resistance[u]),
                        place(u),
                        bool(large[u]),
                        bool(known.narrow[u]),
                    )
                    for u, (ux, uy) in zip(doubtful, at_them, strict=True)
                ),
            )
        )
    return out


def thickness_for(rules: ShearRules, place: ShearPlaces, v: float) -> str:
    """The thickness, in steps of 10 mm up to twice that of one place, by which the same bars carry ``v`` kN/m; as a sentence."""
    for step in range(1, int(100 * float(place.h[0])) + 1):
        d = place.d + step / 100
        thicker = ShearPlaces(place.h + step / 100, d, place.rho_l * place.d / d, place.n, place.concrete, place.rebar)
        if rules.resistance(thicker)[0] >= v:
            return f"A slab of {amount(float(thicker.h[0]), 'size')} with the same bars would carry it, or links."
    return "Not even twice the thickness would carry it without links."
