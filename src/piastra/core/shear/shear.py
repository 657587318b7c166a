"""One-way shear: the worst piece of every line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
import shapely

from piastra.core.combine.envelope import Factors, companion, envelopes, governing_panels
from piastra.core.fe.recovery import Places
from piastra.core.loads.vectors import Unit
from piastra.core.mesh.locate import Elements, find, weights
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

DIRECTIONS = np.radians(np.arange(0, 360, 10.0))
"""The resultant is the greatest of the components in these directions: at most 0.4 % more."""


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A piece of a line that passes, ``at`` m, with the mean shear ``v`` kN/m, but would not with the ``most`` that there is within the
    elements it runs through, or that there may be where these are too ``large`` for the slab's depth or the concrete is too ``narrow`` for its moments'
    slopes to be told. Which of the two is nearer only finer elements tell."""

    at: tuple[float, float]
    v: float
    most: float
    resistance: float
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
    links: SlabLinks | None = None
    unresolved: tuple[Unresolved, ...] = ()
    """Pieces of the line whose elements are too large for them, the one with the most first."""

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


def _most(greatest: Array, wide: npt.NDArray[np.bool_]) -> float:
    """What the mean over a piece may be at the most: of the ``greatest`` shear at the corners of the element around each point, and of all
    such elements for which the piece is short (``wide``)."""
    return float(np.maximum(greatest, greatest[wide].max(initial=-np.inf)).mean())


def shear_uses(
    rules: ShearRules, lines: Lines, elements: Elements, kept: Places, forces: Array, slab_of: Ints, given: Provided, bars: Array,
    kind: Ints, pairs: Sequence[Pair], combinations: Sequence[Factors], units: Sequence[Unit],
    more: Callable[[Array, Array], Array], for_links: bool = False, largest: float = np.inf,
) -> list[ShearUse]:  # fmt: skip
    """The worst piece of every line; ``for_links``: of those that the concrete does not carry the one with the most shear over its depth,
    by which links grow. Elements larger than the ``largest`` (m) hide shear. ``forces`` (p, 8, r) at the places; ``slab_of`` (e,); ``given`` at the lines' points with
    the direction ``bars`` (rad) of the slabs' bars and ``kind`` of their materials, by slab; ``more`` (points, directions) the
    area (2, k) m2/m of bottom and top bars beside the mats. The bars that count are those of the face that the moment along the
    shear stretches under the governing arrangement."""
    count = len(lines.of)
    if not count:
        return []
    xy = lines.xy.reshape(-1, 2)
    element = find(elements, xy, within=2e-3)
    on = element >= 0
    share = weights(elements, np.maximum(element, 0), xy)
    at = kept.of[np.maximum(element, 0)]
    valid = (at >= 0) & on[:, None]
    piece = np.repeat(np.arange(count), POINTS)
    total = np.maximum(np.bincount(piece, on, minlength=count), 1)
    row = np.broadcast_to(piece[:, None], at.shape)
    mean = sp.csr_matrix((share[valid] / total[row[valid]], (row[valid], at[valid])), shape=(count, len(kept.node)))
    there = np.flatnonzero(np.bincount(piece, on, minlength=count) > 0)
    vx, vy = (np.asarray(mean @ forces[:, q])[there] for q in (6, 7))
    directions = _directions(lines)[there]
    c, s = np.cos(directions)[:, :, None], np.sin(directions)[:, :, None]
    family = vx[:, None] * c + vy[:, None] * s
    greatest = envelopes(family, combinations)[1]
    flat = greatest.reshape(len(there), -1)
    chosen = flat.argmax(axis=1)
    v, way, number = flat[np.arange(len(there)), chosen], chosen // len(combinations), chosen % len(combinations)
    angle = directions[np.arange(len(there)), way]
    h = np.asarray(mean @ kept.h)[there]
    first = np.array([np.flatnonzero((piece == k) & on)[0] for k in there])
    slab = slab_of[element[first]]
    turn = angle - bars[slab]
    along = np.stack([np.cos(turn) ** 2, np.sin(turn) ** 2])
    axial, bending = np.empty(len(there)), np.empty(len(there))
    planar = [np.asarray(mean @ forces[:, q])[there] for q in range(6)]
    for k in range(len(there)):
        ca, sa = np.cos(angle[k]), np.sin(angle[k])
        n, m = (ca * ca * planar[q][k] + sa * sa * planar[q + 1][k] + 2 * ca * sa * planar[q + 2][k] for q in (0, 3))
        at_once = family[k, way[k]], combinations[number[k]]
        axial[k], bending[k] = (float(companion(at_once[0], effect, at_once[1], greatest=True)) for effect in (n, m))
    face = (bending < 0).astype(np.int64)
    rows, every = 2 * face + np.arange(2)[:, None], np.arange(len(there))
    area = (along * given.area[rows, first]).sum(axis=0) + more(xy[first], angle)[face, every]
    d = np.maximum(h - (along * given.depth[rows, first]).sum(axis=0), 0.02)
    resistance = np.zeros(len(there))
    for p, (concrete, rebar) in enumerate(pairs):
        mine = kind[slab] == p
        if mine.any():
            resistance[mine] = rules.resistance(ShearPlaces(h[mine], d[mine], area[mine] / d[mine], axial[mine], concrete, rebar))
    use = v / np.maximum(resistance, 1e-9)
    size = np.sqrt(shapely.area(elements.shapes[np.maximum(element, 0)]))
    wide = size > np.repeat(lines.length, POINTS) / 2
    large = np.zeros(len(there), dtype=bool)
    low = np.zeros(len(kept.node), dtype=bool)
    low[kept.own_shear] = True
    narrow = (mean[there] @ low) > 0
    most = np.empty(len(there))
    for i, k in enumerate(there.tolist()):
        its = np.flatnonzero((piece == k) & on)
        corner = np.cos(angle[i]) * forces[at[its], 6] + np.sin(angle[i]) * forces[at[its], 7]
        acting = companion(family[i, way[i]], corner, combinations[number[i]], greatest=True)
        large[i] = size[its].max() > largest
        acting = acting * np.where(low[at[its]] & (acting > 0), OWN, 1.0)
        most[i] = _most(np.where(valid[its], acting, -np.inf).max(axis=1), wide[its]) * (HIDDEN if large[i] else 1.0)
    unsure = np.where((use <= 1) & (most > RIGHT * resistance), most / np.maximum(resistance, 1e-9), 0.0)
    out = []
    for k, ref in enumerate(lines.carried):
        mine = np.flatnonzero(lines.of[there] == k)
        if not len(mine):
            continue
        worst = np.where(use[mine] > 1, v[mine] / d[mine], 0.0) if for_links and (use[mine] > 1).any() else use[mine]
        w = int(mine[worst.argmax()])
        factors = combinations[int(number[w])]
        x, y = lines.middle[there[w]]
        concrete, rebar = pairs[int(kind[slab[w]])]
        one = slice(w, w + 1)
        place = ShearPlaces(h[one], d[one], area[one] / d[one], axial[one], concrete, rebar)
        panels = governing_panels(family[w, way[w]], factors, units, greatest=True)
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
                place,
                int(face[w]),
                unresolved=tuple(
                    Unresolved((ux, uy), float(v[u]), float(most[u]), float(resistance[u]), bool(large[u]), bool(narrow[u]))
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
