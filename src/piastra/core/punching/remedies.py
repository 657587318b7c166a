"""What would mend a zone, by the real check with each change made, under the forces of the floor with that change.

The mesh stays, and so does how arrangements and bars were chosen: what these do then shows when the floor is computed anew.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely
import shapely.affinity
from shapely.affinity import translate
from shapely.geometry import Polygon

from piastra.core.combine.envelope import Factors
from piastra.core.geometry.arcs import polygon
from piastra.core.loads.vectors import LoadVectors
from piastra.core.loads.within import clip
from piastra.core.model import Floor
from piastra.core.model.footprint import footprint
from piastra.core.model.members import Rectangle
from piastra.core.punching.anew import Anew
from piastra.core.punching.heads_and_openings import heads_of, thickenings_at
from piastra.core.punching.sources import Source
from piastra.core.punching.zone_places import (
    Around,
    Pressing,
    Site,
    extent_over,
    outline_of,
    over_zones,
    ratios_of,
    spread_over,
    zone_of,
)
from piastra.core.punching.zones import Response, Zone, checked, with_rails
from piastra.core.reinforcement.groups import Group, anchorage_at
from piastra.core.remedies.remedy import (
    STEEL_DENSITY,
    STRONGER,
    THICKER,
    Edit,
    Remedy,
    dumped,
    first,
    free_group,
    rated,
    sorted_out,
    stronger_slab,
    thicker_slab,
)
from piastra.core.standards import Standard
from piastra.core.standards.zone_rules import PunchingRules
from piastra.core.trace.amounts import amount

Array = npt.NDArray[np.float64]

MOST = 12
"""So many zones get remedies, the worst first: what mends them changes the others."""
FAILS = 1.0
"""Zones beyond this utilisation get remedies."""
FAR = 1.5
"""A thicker slab's own check with the forces as they were, beyond which it is not tried: beside edges a thicker slab leaves a column a quarter less."""
DROPS = (0.10, 0.15, 0.20)
LARGER = (0.05, 0.10, 0.15, 0.20, 0.30)
MOVED = (0.25, 0.5, 0.75, 1.0, 1.5)
"""Steps of each change, m or MPa, the least first: the first that does is offered, or else the last that helps."""


@dataclass(frozen=True, slots=True)
class Bench:
    """What remedies are computed with."""

    floor: Floor
    standard: Standard
    rules: PunchingRules
    site: Site
    pressing: Pressing
    depths: Array
    """(s, 2) m of the x and y bars over what presses."""
    groups: Sequence[Group]
    region: shapely.Geometry
    combinations: list[Factors]
    loads: LoadVectors
    anew: Anew


def remedies(benches: Mapping[str, Bench], zones: Sequence[Zone]) -> dict[str, tuple[Remedy, ...]]:
    """Of every zone that fails or nearly does, those that work first, then by carbon; by the zone's list, id and part. They are rated in the
    design situation that governs the zone; ``benches`` by its name, empty for that of the finished floor. One without a bench has none."""
    out = {}
    failing = [(z, benches.get(z.situation.name if z.situation else "")) for z in zones if z.utilisation > FAILS]
    for z, bench in sorted(failing, key=lambda pair: -pair[0].utilisation)[:MOST]:
        if bench is not None:
            bench.anew.tick()
            out[key_of(z)] = sorted_out([r for make in MAKERS for r in make(bench, z)], z.utilisation)
    return out


def key_of(z: Zone) -> str:
    """The identity of a zone."""
    return f"{z.source.list}/{z.source.id}/{z.place.outline.part}"


def _rated(b: Bench, kind: str, text: str, use: float, edit: Edit, concrete: float = 0.0, steel: float = 0.0, formwork: float = 0.0,
           worse: str = "") -> Remedy:  # fmt: skip
    return rated(b.floor, kind, text, use, edit, concrete, steel, formwork, worse)


def _with_bars(b: Bench, z: Zone, rho: tuple[float, float], concrete_MPa: float | None = None) -> float | None:
    """Utilisation of the zone where it is, with other bars or another concrete."""
    o = z.place.outline
    again = checked(zone_of(o, rho, b.floor, b.rules, concrete_MPa, z.place.check.shape), z.forces, b.combinations, b.loads)
    if again is not None and z.reinforced is not None and not z.designed:
        again = with_rails(b.floor, b.rules, again, b.combinations, b.loads, z.reinforced.laid.rails)
    return again.utilisation if again is not None else None


def _again(
    b: Bench, z: Zone, site: Site | None = None, loaded: Source | None = None, found: Response | None = None
) -> float | None:
    """Utilisation of the zone in another place, in the response ``found`` of the changed floor, or that of the floor as it is; its rails laid as they
    were."""
    site = site or b.site
    source = loaded or z.source
    old = z.place.outline
    number = next(
        k for k, s in enumerate(b.pressing.sources) if (s.list, s.id, s.part) == (z.source.list, z.source.id, z.source.part)
    )
    deep = b.depths[number]
    worst = 0.0
    around: list[tuple[Around, Polygon]] = [("column", source.loaded)] if old.around == "column" else [("thickening", old.loaded)]
    if site.extra and old.around == "column":
        around.append(("thickening", site.extra[0][0]))
    for which, area in around:
        raised = bool(thickenings_at(heads_of(site.floor), site.floor, old.slab, source)) or bool(site.extra)
        h = site.thickness(source.at, old.slab) if which == "column" else site.floor.slabs[old.slab].thickness_m
        made = outline_of(
            site, (source, *old.sources[1:]), which, area, h, old.slab, deep, raised and which == "column", old.nearness
        )
        if made is None:
            return None
        ratios = ratios_of([made], over_zones(site.floor, spread_over(site.floor, b.rules, b.region, [made])), b.groups)[0]
        place = zone_of(made, ratios, site.floor, b.rules, pressed=z.place.check.shape)
        again = checked(place, b.anew.forces(z.forces, old, made, found), b.combinations, b.loads)
        if again is None:
            return None
        if z.reinforced is not None and not z.designed and which == "column" and made.counts:
            again = with_rails(b.floor, b.rules, again, b.combinations, b.loads, z.reinforced.laid.rails)
        worst = max(worst, again.utilisation)
    return worst


def studs(b: Bench, z: Zone) -> Iterator[Remedy]:
    """Rails, where the zone has none."""
    o = z.place.outline
    if z.reinforced is not None or not o.counts or o.around != "column":
        return
    laid = b.rules.design(z.place.check, z.action, o.ground.lay)
    if laid is None:
        return
    strong = with_rails(b.floor, b.rules, z, b.combinations, b.loads, laid.rails)
    r = laid.rails
    steel = len(laid.lines) * r.per_rail * r.one * 1.2 * o.h * STEEL_DENSITY
    setting = next((s.model_dump(mode="json") for s in b.floor.zone_settings if s.zone == z.id), {"zone": z.id})
    rails = {"kind": r.kind, "bar_mm": 1e3 * r.bar, "yield_MPa": r.yield_MPa, "rails": r.rails, "per_rail": r.per_rail,
             "first_mm": round(1e3 * r.first, 3), "spacing_mm": round(1e3 * r.spacing, 3), "pattern": r.pattern}  # fmt: skip
    text = f"Studs: {r.rails} rails of {r.per_rail} of {amount(1e3 * r.bar, 'bar')} at {amount(r.spacing, 'size')}"
    yield _rated(b, "studs", text, strong.utilisation, {"zone_settings": [{**setting, "rails": rails}]}, steel=steel,
                 worse="Rails cross the bars of both faces.")  # fmt: skip


def bars(b: Bench, z: Zone) -> Iterator[Remedy]:
    """More bars in the stretched face over the support and 6 d beyond, as locked groups."""
    o = z.place.outline
    if o.around != "column" or not o.counts:
        return
    d_x, d_y = o.depths
    base = z.place.rho
    wide = b.rules.bars_within(z.place.check.d)
    sizes = [s for s in b.floor.bar_sizes_mm if s >= 10] or list(b.floor.bar_sizes_mm)

    def added(area: float) -> float | None:
        return _with_bars(b, z, (base[0] + area / d_x, base[1] + area / d_y))

    choices = sorted((np.pi * s**2 / 4 / p * 1e-3, s, p) for s in sizes for p in b.floor.spacings_mm)
    found = first([c[0] for c in choices], added)
    if found is None:
        return
    area, size, spacing = next(c for c in choices if c[0] == found[0])
    up = z.source.up
    long = anchorage_at(b.floor, b.standard, o.slab, size / 1e3, up)
    turn = float(np.radians(b.floor.slabs[o.slab].bar_angle_deg))
    x0, y0, x1, y1 = extent_over(z.source.loaded, turn, wide).bounds
    groups = []
    steel = 0.0
    for k, way in enumerate("xy"):
        a, t = (long, 0.0) if k == 0 else (0.0, long)
        shape = shapely.affinity.rotate(shapely.box(x0 - a, y0 - t, x1 + a, y1 + t), turn, origin=(0, 0), use_radians=True)
        part = max(shapely.get_parts(shape.intersection(b.region)), key=lambda p: p.area)
        steel += part.area * area * STEEL_DENSITY
        ring = np.round(shapely.get_coordinates(part.exterior)[:-1], 4).tolist()
        groups.append({"id": free_group(b.floor, f"{z.id} {way}"), "face": "top" if up else "bottom", "direction": way, "bar_mm": size,
                       "spacing_mm": spacing, "outline": ring, "origin": "drawn", "locked": True})  # fmt: skip
    text = f"{amount(size, 'bar')} bars at {amount(spacing, 'cover')} more, {'top' if up else 'bottom'} both ways"
    yield _rated(b, "bars", text, found[1], {"designed_bars": groups}, steel=steel)


def thicker(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A thicker slab."""
    slab = z.place.outline.slab
    item = b.floor.slabs[slab]

    def use(more: float) -> float | None:
        slabs = [
            s.model_copy(update={"thickness_m": s.thickness_m + more}) if k == slab else s for k, s in enumerate(b.floor.slabs)
        ]
        heights = np.where(
            (b.site.slab_of == slab) & (np.abs(b.site.h_of - item.thickness_m) < 1e-9), b.site.h_of + more, b.site.h_of
        )
        site = replace(b.site, floor=b.floor.model_copy(update={"slabs": slabs}), h_of=heights)
        # What is far too little whatever moment goes elsewhere is not solved for.
        if more != THICKER[-1] and (_again(b, z, site) or 0.0) > FAR:
            return None
        found = b.anew.thicker(heights - b.site.h_of)
        return None if found is None else _again(b, z, site, found=found)

    found = first(THICKER, use)
    if found is None:
        return
    yield thicker_slab(b.floor, item, found[0], found[1], float(polygon(item.outline).intersection(b.region).area))


def drop(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A drop panel, where there is none."""
    o, s = z.place.outline, z.source
    if s.kind != "column" or o.around != "column" or not s.up or thickenings_at(heads_of(b.floor), b.floor, o.slab, s):
        return
    slab = b.floor.slabs[o.slab]
    side = np.ceil((max(s.sides) + 8 * (z.place.check.d + DROPS[0])) / 0.2) * 0.2

    def shape() -> Polygon:
        (x, y), a = s.at, side / 2
        box = shapely.box(x - a, y - a, x + a, y + a).intersection(b.region)
        return Polygon(max(shapely.get_parts(box), key=lambda p: p.area).exterior)

    area = shape()

    inside = _shares(b, area)

    def use(more: float) -> float | None:
        site = replace(b.site, extra=((area, slab.thickness_m + more),))
        # What is too little before it draws any moment is not solved for.
        if more != DROPS[-1] and (_again(b, z, site) or 0.0) > 1:
            return None
        found = b.anew.thicker(inside * more)
        return None if found is None else _again(b, z, site, found=found)

    found = first(DROPS, use)
    if found is None:
        return
    h = slab.thickness_m + found[0]
    taken = {t.id for t in b.floor.thickenings}
    label = next(n for n in (f"drop {s.id}", *(f"drop {s.id} {k}" for k in range(2, 99))) if n not in taken)
    item = {"id": label, "kind": "drop_panel", "outline": np.round(shapely.get_coordinates(area.exterior)[:-1], 4).tolist(),
            "thickness_m": round(h, 4), "top_offset_m": slab.top_offset_m, "priority": 1}  # fmt: skip
    yield _rated(b, "drop", f"Drop panel {amount(side, 'length')} square, {amount(h, 'size')} thick", found[1], {"thickenings": [item]},
                 concrete=found[0] * area.area, formwork=area.exterior.length * found[0],
                 worse="A drop draws moment: top steel over the column grows, and the soffit is no longer plane.")  # fmt: skip


def _shares(b: Bench, area: shapely.Geometry) -> Array:
    """Share (e,) of each element that lies in an area."""
    part = clip(b.site.elements, area)
    out = np.zeros(len(b.site.h_of))
    out[part.element] = part.size / shapely.area(b.site.elements.shapes[part.element])
    return out


def larger(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A larger column."""
    s = z.source
    item = next((c for c in b.floor.columns if c.id == s.id), None)
    if s.list != "columns" or item is None or z.place.outline.around != "column" or item.below is None:
        return

    def grown(more: float) -> Any:
        shape = item.shape
        sides = (
            {"b_m": shape.b_m + more, "d_m": shape.d_m + more}
            if isinstance(shape, Rectangle)
            else {"diameter_m": shape.diameter_m + more}
        )
        return item.model_copy(update={"shape": shape.model_copy(update={k: round(v, 4) for k, v in sides.items()})})

    def use(more: float) -> float | None:
        column = grown(more)
        shape = column.shape
        sides = (shape.b_m, shape.d_m) if isinstance(shape, Rectangle) else (shape.diameter_m, shape.diameter_m)
        columns = [column if c.id == item.id else c for c in b.floor.columns]
        source = replace(s, loaded=footprint(column), sides=sides)
        # What is too little before it draws any moment is not solved for.
        if more != LARGER[-1] and (_again(b, z, loaded=source) or 0.0) > 1:
            return None
        found = b.anew.larger(b.floor.model_copy(update={"columns": columns}), item.id, _shares(b, footprint(column)))
        return None if found is None else _again(b, z, loaded=source, found=found)

    found = first(LARGER, use)
    if found is None:
        return
    column = grown(found[0])
    concrete = (footprint(column).area - footprint(item).area) * item.below.height_m
    shape = column.shape
    size = (
        f"{amount(shape.b_m, 'size')} x {amount(shape.d_m, 'size')}"
        if isinstance(shape, Rectangle)
        else f"{amount(shape.diameter_m, 'size')} round"
    )
    yield _rated(b, "column", f"Column {item.id} {size}", found[1], {"columns": [dumped(column)]}, concrete,
                 worse="A stiffer column takes more moment; the storey below has to follow.")  # fmt: skip


def stronger(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A stronger concrete in the slab."""
    slab = b.floor.slabs[z.place.outline.slab]
    concrete = next(c for c in b.floor.concretes if c.id == slab.concrete)

    def use(more: float) -> float | None:
        if b.standard.materials.not_covered(concrete.model_copy(update={"strength_MPa": concrete.strength_MPa + more})):
            return None
        return _with_bars(b, z, z.place.rho, concrete.strength_MPa + more)

    found = first(STRONGER, use)
    if found is None:
        return
    strength = round(concrete.strength_MPa + found[0], 3)
    yield stronger_slab(b.floor, slab, strength, found[1], float(polygon(slab.outline).intersection(b.region).area))


def opening(b: Bench, z: Zone) -> Iterator[Remedy]:
    """The opening that costs most, moved away from the column."""
    lost = z.place.outline.perimeter.lost
    if not lost:
        return
    label = max(lost, key=lambda l: l[1])[0]
    item = next((o for o in b.floor.openings if o.id == label), None)
    if item is None:
        return
    shape = polygon(item.outline)
    away = np.array([shape.centroid.x, shape.centroid.y]) - np.array(z.source.at)
    away /= max(float(np.hypot(*away)), 1e-9)

    def use(by: float) -> float | None:
        moved = translate(shape, *(by * away))
        others = shapely.union_all([footprint(c) for c in b.floor.columns])
        if not b.site.solid.contains(moved) or moved.intersects(others):
            return None
        openings = tuple((k, moved if k == label else o) for k, o in b.site.openings)
        return _again(b, z, replace(b.site, openings=openings))

    found = first(MOVED, use)
    if found is None:
        return
    by = found[0] * away
    outline = [[round(p[0] + by[0], 4), round(p[1] + by[1], 4), *p[2:]] for p in item.outline]
    yield _rated(b, "opening", f"Opening {label} moved {amount(found[0], 'length')} away", found[1], {"openings": [dumped(item, outline=outline)]},
                 worse="What runs through it has to move as well.")  # fmt: skip


MAKERS: tuple[Callable[[Bench, Zone], Iterator[Remedy]], ...] = (studs, bars, thicker, drop, larger, stronger, opening)
