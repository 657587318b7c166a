"""What would mend the line that sags too much: a thicker slab, bars in the stretched face, a stronger concrete.

Each by the quick estimate of the floor with the change made; of a floor with a history, its sag changes as the estimate does.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
import shapely.affinity
from shapely.geometry.base import BaseGeometry

from piastra.core.deflection.sag import FRACTIONS, Line, sampled
from piastra.core.fe.states import Frozen
from piastra.core.geometry.arcs import polygon
from piastra.core.history.body import INNER, Body
from piastra.core.mesh.locate import Elements, middles
from piastra.core.model import Floor
from piastra.core.model.floor import BarGroup
from piastra.core.reinforcement.groups import anchorage_at, group_of
from piastra.core.remedies.remedy import (
    STEEL_DENSITY,
    STRONGER,
    THICKER,
    Remedy,
    first,
    free_group,
    rated,
    sorted_out,
    stronger_slab,
    thicker_slab,
)
from piastra.core.standards import Standard
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

TRIED = 2
"""So many sizes of each change are tried: each is a solution of the floor."""


@dataclass(frozen=True, slots=True)
class Change:
    """A floor with something changed: its ``body``, E (kN/m2) by concrete, by how much (e,) kN/m2 the elements weigh more, and these;
    ``elastic`` (n, 5) displacements with uncracked sections, under the load that cracks them."""

    body: Body
    moduli: dict[str, float]
    weight: Array
    families: tuple[Frozen, ...]
    elastic: Array


@dataclass(frozen=True, slots=True)
class Bent:
    """What remedies of a sag of the utilisation ``use`` are computed with: ``sag`` gives the greatest sag (m) of a line as the floor is, or with a
    change, None where that is not known; ``thick``, ``laid`` and ``strong`` make bodies with a slab (its number) so much thicker, with a group of bars more, and with another concrete
    in a slab (MPa)."""

    floor: Floor
    standard: Standard
    elements: Elements
    region: BaseGeometry
    slab: Ints
    use: float
    sag: Callable[[Line, Change | None], float | None]
    thick: Callable[[int, float], Change]
    laid: Callable[[BarGroup], Change]
    strong: Callable[[int, float], Change | None]


def mended(b: Bent, line: Line, fraction: float) -> tuple[Remedy, ...]:
    """Of one line, whose sag lies at a ``fraction`` of it."""
    base = b.sag(line, None)
    if base is None or base <= 0:
        return ()

    def used(change: Change) -> float | None:
        found = b.sag(line, change)
        return None if found is None else b.use * found / base

    places = sampled([line], b.elements, len(b.elements.xy))
    k = int(np.abs(FRACTIONS - fraction).argmin())
    element = places.element[k] if places.element[k] >= 0 else places.element[places.element >= 0][0]
    slab = int(b.slab[element])
    found = [r for make in (_thicker, _bars, _stronger) for r in make(b, line, slab, used)]
    return sorted_out(found, b.use)


def _thicker(b: Bent, line: Line, slab: int, use: Callable[[Change], float | None]) -> Iterator[Remedy]:
    h = b.floor.slabs[slab].thickness_m
    # Sag falls with about the third power of the thickness, its weight set against cracks that close: what is plainly too little is not tried.
    steps = [more for more in THICKER if b.use * (h / (h + more)) ** 3 < 1.15] or [THICKER[-1]]
    found = first(steps[: TRIED + 1], lambda more: use(b.thick(slab, more)))
    if found is not None:
        area = float(polygon(b.floor.slabs[slab].outline).intersection(b.region).area)
        yield thicker_slab(b.floor, b.floor.slabs[slab], found[0], found[1], area)


def _bars(b: Bent, line: Line, slab: int, use: Callable[[Change], float | None]) -> Iterator[Remedy]:
    """Along the line: in the bottom of a span, in the top of a cantilever and as far again behind it."""
    (ax, ay), (bx, by) = line.ends
    long = float(np.hypot(bx - ax, by - ay))
    angle = float(np.arctan2(by - ay, bx - ax))
    face = "top" if line.cantilever else "bottom"
    own = np.radians(b.floor.slabs[slab].bar_angle_deg)
    direction = "x" if abs(np.cos(angle - own)) >= np.sqrt(0.5) else "y"
    sizes = sorted(b.floor.bar_sizes_mm)[-TRIED:]
    spacing = sorted(b.floor.spacings_mm)[len(b.floor.spacings_mm) // 2]
    back = long if line.cantilever else 0.0
    half = max(long / 2, 1.0)
    label = free_group(b.floor, f"stiff {direction} {len(b.floor.designed_bars) + 1}")

    def group(size: float) -> BarGroup | None:
        more = anchorage_at(b.floor, b.standard, slab, size / 1e3, face == "top")
        box = shapely.box(-back - more, -half, long + more, half)
        turned = shapely.affinity.translate(shapely.affinity.rotate(box, angle, origin=(0, 0), use_radians=True), ax, ay)
        parts = [p for p in shapely.get_parts(turned.intersection(b.region)) if p.geom_type == "Polygon"]
        if not parts:
            return None
        ring = np.round(shapely.get_coordinates(max(parts, key=lambda p: p.area).exterior)[:-1], 4).tolist()
        return BarGroup(id=label, face=face, direction=direction, bar_mm=float(size), spacing_mm=float(spacing), outline=ring, origin="drawn",
                        locked=True, angle_deg=round(float(np.degrees(angle)) % 180, 6))  # fmt: skip

    groups = {s: g for s in sizes if (g := group(s)) is not None}
    found = first(list(groups), lambda size: use(b.laid(groups[size])))
    if found is None:
        return
    g = groups[found[0]]
    steel = float(polygon(g.outline).area) * np.pi * (g.bar_mm / 1e3) ** 2 / 4 / (g.spacing_mm / 1e3) * STEEL_DENSITY
    text = f"{amount(g.bar_mm, 'bar')} bars at {amount(g.spacing_mm, 'cover')} more along the line, {face}"
    yield rated(b.floor, "bars", text, found[1], {"designed_bars": [g.model_dump(mode="json", exclude_none=True)]}, steel=steel)


def _stronger(b: Bent, line: Line, slab: int, use: Callable[[Change], float | None]) -> Iterator[Remedy]:
    item = b.floor.slabs[slab]
    concrete = next(c for c in b.floor.concretes if c.id == item.concrete)

    def tried(more: float) -> float | None:
        change = b.strong(slab, concrete.strength_MPa + more)
        return None if change is None else use(change)

    found = first(STRONGER[1:TRIED], tried)
    if found is not None:
        area = float(polygon(item.outline).intersection(b.region).area)
        yield stronger_slab(b.floor, item, round(concrete.strength_MPa + found[0], 3), found[1], area)


def laid_on(
    body: Body, group: BarGroup, floor: Floor, standard: Standard, elements: Elements, region: BaseGeometry, slab: Ints
) -> Body:
    """A body with a group of bars more, beside those of its face; ``slab`` (e,) of the elements."""
    g = group_of(floor, standard, group)
    xy = middles(elements)
    inside = np.flatnonzero(shapely.contains_xy(g.outline, xy))
    share = g.developed(xy[inside], region)
    area, z = body.area.copy(), body.z.copy()
    covers = np.array([s.cover_top_mm if g.face else s.cover_bottom_mm for s in floor.slabs])[slab[inside]] / 1e3
    side = -1.0 if g.face else 1.0
    for d in (0, 1):
        more = share * g.area * np.cos(g.angle - body.angle[inside] - d * np.pi / 2) ** 2
        there = area[g.face, d, inside]
        deep = body.h[inside] / 2 - covers - (INNER if d else 0.0) - g.bar / 2
        total = np.maximum(there + more, 1e-12)
        z[g.face, d, inside] = np.where(
            more > 1e-9, (there * z[g.face, d, inside] + side * more * deep) / total, z[g.face, d, inside]
        )
        area[g.face, d, inside] = there + more
    return replace(body, area=area, z=z)
