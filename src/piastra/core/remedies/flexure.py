"""What would mend strips whose bars fall short: more bars where they do, or a thicker slab."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import product
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
import shapely.affinity
from shapely.geometry.base import BaseGeometry

from piastra.core.checks.row import Ref, RowId
from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import anchorage_at
from piastra.core.reinforcement.stations import StationSteel, ratio
from piastra.core.remedies.remedy import (
    STEEL_DENSITY,
    THICKER,
    Edit,
    Remedy,
    first,
    free_group,
    rated,
    sorted_out,
    thicker_slab,
)
from piastra.core.standards import Standard
from piastra.core.standards.protocol import Sections
from piastra.core.standards.provision import NOTHING, Stations
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

MOST = 8
"""So many strips get remedies, the worst first."""
ROW = 0.01
"""Stations whose places along one axis differ by less than this (m) lie side by side."""
FACES = ("bottom", "top")


@dataclass(frozen=True, slots=True)
class Strips:
    """What remedies of strips are computed with: the ``slab`` (k,) and the thickness ``h`` (k,) m at each sample of the cuts; ``grown`` gives the
    moments at all cuts (c,) over those of today where a slab (its number) is so much thicker."""

    floor: Floor
    standard: Standard
    layout: Layout
    cuts: Cuts
    steel: StationSteel
    slab: Ints
    h: Array
    region: BaseGeometry
    grown: Callable[[int, float], Array]

    def shares(self, slab: int) -> Array:
        """Share (c,) of each cut's width that is as thick as a slab, and gets thicker with it: drops and beams keep their own depth."""
        samples, item = self.cuts.samples, self.floor.slabs[slab]
        own = (self.slab == slab) & (np.abs(self.h - item.thickness_m) < 1e-9)
        inside = np.bincount(samples.cut, samples.length * own, minlength=len(self.cuts.strip))
        return np.asarray(inside / np.maximum(self.cuts.width, 1e-9))

    def side_by_side(self, mine: Ints) -> tuple[Ints, Ints, Ints]:
        """The stations (a,) that lie side by side with some of ``mine`` (k,), these among them, on strips of one axis; the number (a,) of the row that each
        lies in, and where among them those are (k,)."""
        axis = np.array([strip.axis for strip in self.layout.strips])[self.cuts.strip]
        rows = np.column_stack([axis, np.round(self.cuts.s / ROW)])
        group = np.unique(rows, axis=0, return_inverse=True)[1].ravel()
        around = np.flatnonzero(np.isin(group, group[mine]))
        return around, np.unique(group[around], return_inverse=True)[1].ravel(), np.searchsorted(around, mine)

    def first_slab(self, cut: int) -> int:
        """The slab at a cut's first sample."""
        return int(self.slab[min(int(np.searchsorted(self.cuts.samples.cut, cut)), len(self.slab) - 1)])


def mended(s: Strips) -> dict[str, tuple[Remedy, ...]]:
    """Of every strip that falls short, by the key of its row."""
    use = s.steel.utilisation
    worst: list[tuple[float, int, int, int, Ints]] = []
    for k, strip in enumerate(s.layout.strips):
        mine = np.flatnonzero(s.cuts.strip == k)
        if strip.beam or not len(mine) or use[:, mine].max() <= 1:
            continue
        f, at = (int(i) for i in np.unravel_index(int(use[:, mine].argmax()), (2, len(mine))))
        worst.append((float(use[f, mine[at]]), k, f, int(mine[at]), mine))
    out = {}
    for u, k, face, station, mine in sorted(worst, key=lambda w: -w[0])[:MOST]:
        id = RowId("flexure", Ref("strips", s.layout.strips[k].id), face=FACES[face], station=round(float(s.cuts.s[station]), 4))
        found = [*_bars(s, k, mine), *_thicker(s, face, mine)]
        out[id.key] = sorted_out(found, u)
    return out


@dataclass(frozen=True, slots=True)
class _Laid:
    """Bars for the stations of one face that fall short: their ``group``, the utilisation ``use`` that is left there, and their ``steel`` (kg)."""

    group: dict[str, Any]
    text: str
    use: float
    steel: float


def _bars(s: Strips, k: int, mine: Ints) -> Iterator[Remedy]:
    """Locked groups over the stations that fall short, in either face, anchored beyond them."""
    rest = 0.0
    laid: list[_Laid] = []
    for face in (1, 0):
        short = mine[s.steel.steel[face, mine] > 1]
        name = free_group(s.floor, f"more {s.layout.strips[k].direction} {len(s.floor.designed_bars) + 1 + len(laid)}")
        found = _more(s, name, face, mine, short) if len(short) else None
        # Where bars come, they lie closer too; everywhere else all stays as it is.
        other = np.setdiff1d(mine, short) if found else mine
        rest = max(rest, float(s.steel.utilisation[face, other].max(initial=0.0)))
        if found:
            laid.append(found)
    if laid:
        edit: Edit = {"designed_bars": [one.group for one in laid]}
        use = max(rest, *(one.use for one in laid))
        yield rated(s.floor, "bars", "; ".join(one.text for one in laid), use, edit, steel=sum(one.steel for one in laid))


def _more(s: Strips, name: str, face: int, mine: Ints, short: Ints) -> _Laid | None:
    own = s.steel.faces[face]
    if own.over[mine].max() > 1:
        return None

    sizes = [b for b in s.floor.bar_sizes_mm if b >= 8] or list(s.floor.bar_sizes_mm)
    choices: dict[float, tuple[float, float]] = {}
    for b, p in product(sorted(sizes), s.floor.spacings_mm):
        # Of equal areas the thinner bars.
        choices.setdefault(round(np.pi * b**2 / 4 / p * 1e-3, 12), (b, p))
    there, bar, d = own.at.given[short], own.at.bar[short], own.at.d[short]

    def use(area: float) -> float:
        # Their near sides are level with those of the bars that are there: thicker ones lie deeper, and more of them is asked for.
        lower = np.maximum(choices[area][0] / 1e3 - bar, 0.0) / 2 * area / (there + area)
        deeper = d / np.maximum(d - lower, d / 2)
        spread = ratio(deeper * own.in_strip[short], s.steel.provided[face, short] + area)
        band = ratio(deeper * own.in_band[short], s.steel.in_band[face, short] + area)
        return float(np.maximum(spread, band).max())

    found = first(sorted(choices), use)
    if found is None:
        return None
    area, (size, spacing) = found[0], choices[found[0]]
    left = found[1]
    if s.standard.spacing is not None:
        apart = spacing / 1e3 / s.standard.spacing.greatest(own.at.some(short)).limit
        left = max(left, float(np.minimum(s.steel.spacing[face, short], apart).max()))
    slab = s.first_slab(int(short[0]))
    angle = float(s.cuts.angle[short[0]])
    long = anchorage_at(s.floor, s.standard, slab, size / 1e3, face == 1)
    flat = shapely.affinity.rotate(shapely.MultiLineString(list(s.cuts.ends[short])), -angle, origin=(0, 0), use_radians=True)
    x0, y0, x1, y1 = flat.bounds
    # Half the way to the next station lies with each that falls short.
    step = float(np.diff(np.sort(s.cuts.s[mine])).min(initial=0.5)) / 2
    turned = shapely.affinity.rotate(
        shapely.box(x0 - long - step, y0, x1 + long + step, y1), angle, origin=(0, 0), use_radians=True
    )
    parts = [p for p in shapely.get_parts(turned.intersection(s.region)) if p.geom_type == "Polygon"]
    if not parts:
        return None
    part = max(parts, key=lambda p: p.area)
    ring = np.round(shapely.get_coordinates(part.exterior)[:-1], 4).tolist()
    direction = s.layout.strips[int(s.cuts.strip[short[0]])].direction
    group = {"id": name, "face": FACES[face], "direction": direction, "bar_mm": size, "spacing_mm": spacing, "outline": ring, "origin": "drawn",
             "locked": True, "angle_deg": round(float(np.degrees(angle)) % 180, 6)}  # fmt: skip
    text = f"{amount(size, 'bar')} bars at {amount(spacing, 'cover')} more, {FACES[face]}, where {len(short)} stations fall short"
    return _Laid(group, text, left, float(part.area) * area * STEEL_DENSITY)


def _thicker(s: Strips, face: int, mine: Ints) -> Iterator[Remedy]:
    """A thicker slab: deeper bars, and moments that it draws by its weight and its stiffness. ``face``: that which falls short most."""
    # Of the slabs that the strip lies in, the one of which most is at the station that falls short most.
    station = mine[int(s.steel.utilisation[face, mine].argmax())]
    shares = [s.shares(number) for number in range(len(s.floor.slabs))]
    number = int(np.argmax([share[station] for share in shares]))
    share, slab = shares[number], s.floor.slabs[number]
    if share[station] <= 0:
        return

    row = s.side_by_side(mine)

    def use(more: float) -> float:
        return max(_use_with(s, f, mine, row, share * more, s.grown(number, more)) for f in (0, 1))

    found = first(THICKER, use)
    if found is not None:
        area = float(polygon(slab.outline).intersection(s.region).area)
        yield thicker_slab(s.floor, slab, found[0], found[1], area)


def _use_with(s: Strips, face: int, mine: Ints, row: tuple[Ints, Ints, Ints], more: Array, grown: Array) -> float:
    """The utilisation of a strip's stations ``mine`` (k,) in one face, with all sections ``more`` (c,) m deeper and moments ``grown`` (c,) times today's;
    ``row``: what lies beside them."""
    found, rules = s.steel.faces[face], s.standard.flexure
    assert rules is not None
    around, group, back = row

    def changed(f: int) -> tuple[Stations, Array, Array]:
        """The stations of a face with the change made, and what they ask for of themselves, now and then."""
        own = s.steel.faces[f].at.some(around)
        moments = {
            q: getattr(own, q) * grown[around] for q in ("m", "m_service", *(f"m_{a.name}" for a in s.standard.situations))
        }
        at = replace(own, h=own.h + more[around], d=own.d + more[around], **moments)
        now, asked = (
            np.maximum.reduce([p.demand(one).area for p in s.standard.provisions if not p.derived]) for one in (own, at)
        )
        return at, now, asked

    at, now, asked = changed(face)
    over = 0.0
    for kind, (concrete, rebar) in enumerate(at.materials):
        here = np.flatnonzero(at.kind == kind)
        here = here[np.isin(around[here], mine)]
        if len(here):
            sections = Sections(at.h[here], at.d[here], at.d2[here], concrete, rebar)
            over = max(over, float(rules.design(at.m[here], at.n[here], sections).over.max(initial=0.0)))
            for situation in s.standard.situations:
                then, strength = replace(sections, concrete=situation.concrete(concrete)), situation.standard.flexure
                m, n = (getattr(at, f"{q}_{situation.name}")[here] for q in ("m", "n"))
                if strength is not None:
                    over = max(over, float(strength.design(m, n, then).over.max(initial=0.0)))

    def growth(asked: Array, now: Array) -> Array:
        return np.where(now > NOTHING, asked / np.maximum(now, NOTHING), 1.0)

    def along(now: Array, asked: Array) -> float:
        """Of the strip's greatest."""
        return float(growth(asked[back].max(keepdims=True), now[back].max(keepdims=True))[0])

    # What follows from elsewhere grows as that does: all that lies side by side at a support, the strip's greatest, what columns take. Of shear on
    # columns nothing is known: its stress is taken to stay.
    width = s.cuts.width[around]
    beside = growth(*(np.bincount(group, width * v).astype(np.float64) for v in (asked, now)))[group]
    own = along(now, asked)
    bottom = along(*changed(0)[1:]) if face else own
    at = replace(at, total=at.total * beside, kept=at.kept * beside, bent=at.bent * growth(asked, now), span=at.span * own,
                 principal=at.principal * own, span_bottom=at.span_bottom * bottom, corner=at.corner * bottom,
                 transfer=at.transfer * grown[around], frame=at.frame * at.h / (at.h - more[around]))  # fmt: skip
    steel, given = s.steel.steel[face, mine], (s.steel.provided[face, mine], s.steel.in_band[face, mine])
    use, explained = ratio(asked[back], given[0]), ratio(now[back], given[0])
    for p in s.standard.provisions:
        if p.derived:
            use = np.maximum(use, ratio(p.demand(at).area[back], given[bool(p.gathers)]))
            explained = np.maximum(explained, ratio(found.provisions[p.name][mine], given[bool(p.gathers)]))
    # Of the rest, as steel that is pressed, it is known what it came to.
    use = np.maximum(use, np.where(explained >= steel * (1 - 1e-9), 0.0, steel * growth(asked, now)[back]))
    # Bars lie as far apart as they did.
    spaced = float(s.steel.spacing[face, mine].max())
    return max(float(use.max()), spaced, over if over > 1 else 0.0)
