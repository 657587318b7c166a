"""What would mend a zone, by the real check with each change made.

Estimates keep the zone's forces: how a change moves forces in the floor, and what it weighs, shows when the floor is computed anew.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
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
from piastra.core.model import Floor
from piastra.core.model.footprint import footprint, section_values
from piastra.core.model.members import Rectangle
from piastra.core.punching.sources import Source
from piastra.core.punching.zone_places import Around, Pressing, Site, outline_of, ratios_of, thickenings_at, zone_of
from piastra.core.punching.zones import Forces, Zone, checked, with_rails
from piastra.core.reinforcement.groups import Group, anchorage_at
from piastra.core.standards import Standard
from piastra.core.standards.zone_rules import PunchingRules

Array = npt.NDArray[np.float64]
Edit = dict[str, list[dict[str, Any]]]

MOST = 12
"""So many zones get remedies, the worst first: what mends them changes the others."""
FAILS = 1.0
"""Zones beyond this utilisation get remedies."""
STEEL_DENSITY = 7850.0
THICKER = (0.025, 0.05, 0.075, 0.10, 0.15)
DROPS = (0.10, 0.15, 0.20)
LARGER = (0.05, 0.10, 0.15, 0.20, 0.30)
STRONGER = (5.0, 10.0, 20.0)
MOVED = (0.25, 0.5, 0.75, 1.0, 1.5)
"""Steps of each change, m or MPa, the least first: the first that does is offered, or else the last that helps."""
CEMENT = 0.5
"""A concrete so many per cent stronger has half as many per cent more carbon: an assumption, as cement grows more slowly than strength."""
HELPS = 0.98
"""A change that leaves more than this of the utilisation is none."""


@dataclass(frozen=True, slots=True)
class Remedy:
    """One change: its ``kind``, what it is in words, the ``utilisation`` by the estimate, what it adds (m3 of concrete, kg of steel,
    m2 of formwork, kg of CO2 equivalent), what it makes worse, and the ``edit``: objects by list, each of which takes the
    place of the one with its id (of zone settings: its zone), or joins."""

    kind: str
    text: str
    utilisation: float
    concrete: float
    steel: float
    formwork: float
    carbon: float
    worse: str
    edit: Edit


@dataclass(frozen=True, slots=True)
class Bench:
    """What remedies are computed with."""

    floor: Floor
    standard: Standard
    rules: PunchingRules
    site: Site
    pressing: Pressing
    groups: Sequence[Group]
    region: shapely.Geometry
    combinations: list[Factors]
    loads: LoadVectors


def remedies(bench: Bench, zones: Sequence[Zone]) -> dict[str, tuple[Remedy, ...]]:
    """Of every zone that fails or nearly does, those that work first, then by carbon; by the zone's list, id and part."""
    out = {}
    worst = sorted((z for z in zones if z.utilisation > FAILS), key=lambda z: -z.utilisation)
    for z in worst[:MOST]:
        found = [r for make in MAKERS for r in make(bench, z) if r.utilisation < HELPS * z.utilisation]
        out[key_of(z)] = tuple(sorted(found, key=lambda r: (r.utilisation > 1, r.carbon)))
    return out


def key_of(z: Zone) -> str:
    """The identity of a zone."""
    return f"{z.source.list}/{z.source.id}/{z.place.outline.part}"


def _rated(b: Bench, kind: str, text: str, use: float, edit: Edit, concrete: float = 0.0, steel: float = 0.0, formwork: float = 0.0,
           worse: str = "") -> Remedy:  # fmt: skip
    factors = b.floor.carbon
    carbon = concrete * factors.concrete_kg_m3 + steel * factors.steel_kg_per_kg
    return Remedy(kind, text, use, concrete, steel, formwork, carbon, worse, edit)


def _with_bars(b: Bench, z: Zone, rho: tuple[float, float], concrete_MPa: float | None = None) -> float | None:
    """Utilisation of the zone where it is, with other bars or another concrete."""
    o = z.place.outline
    again = checked(zone_of(o, rho, b.floor, b.rules, concrete_MPa), z.forces, b.combinations, b.loads)
    if again is not None and z.reinforced is not None and not z.designed:
        again = with_rails(b.floor, b.rules, again, b.combinations, b.loads, z.reinforced.laid.rails)
    return again.utilisation if again is not None else None


def _again(
    b: Bench, z: Zone, site: Site | None = None, loaded: Source | None = None, moments: float = 1.0, weight: float = 1.0
) -> float | None:
    """Utilisation of the zone in another place, its forces kept but for ``moments`` and the self-``weight``, which grow so many times,
    and its rails laid as they were."""
    site = site or b.site
    source = loaded or z.source
    old = z.place.outline
    number = next(
        k for k, s in enumerate(b.pressing.sources) if (s.list, s.id, s.part) == (z.source.list, z.source.id, z.source.part)
    )
    deep = b.pressing.depth[number]
    forces = _grown(b, z.forces, moments, weight)
    worst = 0.0
    around: list[tuple[Around, Polygon]] = [("column", source.loaded)] if old.around == "column" else [("thickening", old.loaded)]
    if site.extra and old.around == "column":
        around.append(("thickening", site.extra[0][0]))
    for which, area in around:
        raised = bool(thickenings_at(site.floor, old.slab, source)) or bool(site.extra)
        h = site.thickness(source.at, old.slab) if which == "column" else site.floor.slabs[old.slab].thickness_m
        made = outline_of(
            site, (source, *old.sources[1:]), which, area, h, old.slab, deep, raised and which == "column", old.nearness
        )
        if made is None:
            return None
        ratios = ratios_of(made, site.floor, b.region, b.groups, b.rules)
        place = zone_of(made, ratios, site.floor, b.rules)
        acting = _moved(forces, z, made.perimeter.centroid)
        again = checked(place, acting, b.combinations, b.loads)
        if again is None:
            return None
        if z.reinforced is not None and not z.designed and which == "column" and made.counts:
            again = with_rails(b.floor, b.rules, again, b.combinations, b.loads, z.reinforced.laid.rails)
        worst = max(worst, again.utilisation)
    return worst


def _grown(b: Bench, f: Forces, moments: float, weight: float) -> Forces:
    """Forces with moments so many times as great, and with so many times the self-weight."""
    heavy = {c.id for c in b.floor.load_cases if c.nature == "self_weight"}
    scale = np.array([weight if u.case in heavy else 1.0 for u in b.loads.units])
    return Forces(f.joint * scale, f.inside * scale, f.V * scale, f.M_x * scale * moments, f.M_y * scale * moments)


def _moved(f: Forces, z: Zone, centroid: tuple[float, float]) -> Forces:
    """The forces about another centroid: the zone's own V with its arm."""
    dx, dy = np.array(z.place.outline.perimeter.centroid) - np.array(centroid)
    angle = z.source.angle
    c, s = np.cos(angle), np.sin(angle)
    x, y = c * dx + s * dy, -s * dx + c * dy
    return replace(f, M_x=f.M_x + y * f.V, M_y=f.M_y - x * f.V)


def _first(steps: Sequence[float], use: Callable[[float], float | None]) -> tuple[float, float] | None:
    """The first step that does, or the last of those that give any value, with its utilisation."""
    best: tuple[float, float] | None = None
    for step in steps:
        u = use(step)
        if u is None:
            continue
        if u <= 1:
            return step, u
        if best is None or u < best[1]:
            best = step, u
    return best


def _dumped(item: Any, **changed: Any) -> dict[str, Any]:
    return {**item.model_dump(mode="json"), **changed}


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
    text = f"Studs: {r.rails} rails of {r.per_rail} of {1e3 * r.bar:.0f} mm at {1e3 * r.spacing:.0f} mm"
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
    found = _first([c[0] for c in choices], added)
    if found is None:
        return
    area, size, spacing = next(c for c in choices if c[0] == found[0])
    up = z.source.up
    long = anchorage_at(b.floor, b.standard, o.slab, size / 1e3, up)
    x0, y0, x1, y1 = z.source.loaded.bounds
    angle = b.floor.slabs[o.slab].bar_angle_deg
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    half = (x1 - x0) / 2 + wide, (y1 - y0) / 2 + wide
    groups = []
    steel = 0.0
    for k, way in enumerate("xy"):
        a, t = (half[0] + long, half[1]) if k == 0 else (half[0], half[1] + long)
        shape = shapely.affinity.rotate(
            shapely.box(middle[0] - a, middle[1] - t, middle[0] + a, middle[1] + t), angle, origin=middle
        )
        part = max(shapely.get_parts(shape.intersection(b.region)), key=lambda p: p.area)
        steel += part.area * area * STEEL_DENSITY
        ring = np.round(shapely.get_coordinates(part.exterior)[:-1], 4).tolist()
        groups.append({"id": _free(b.floor, f"{z.id} {way}"), "face": "top" if up else "bottom", "direction": way, "bar_mm": size,
                       "spacing_mm": spacing, "outline": ring, "origin": "drawn", "locked": True})  # fmt: skip
    text = f"{size:g} mm bars at {spacing:g} mm more, {'top' if up else 'bottom'} both ways"
    yield _rated(b, "bars", text, found[1], {"designed_bars": groups}, steel=steel)


def _free(floor: Floor, wanted: str) -> str:
    taken = {g.id for g in floor.designed_bars}
    return next(n for n in (wanted, *(f"{wanted} {k}" for k in range(2, 99))) if n not in taken)


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
        return _again(b, z, site, weight=(item.thickness_m + more) / item.thickness_m)

    found = _first(THICKER, use)
    if found is None:
        return
    h = round(item.thickness_m + found[0], 4)
    concrete = found[0] * float(polygon(item.outline).intersection(b.region).area)
    yield _rated(b, "thickness", f"Slab {item.id} {1e3 * h:.0f} mm thick", found[1], {"slabs": [_dumped(item, thickness_m=h)]}, concrete,
                 worse=f"The floor weighs {25 * found[0]:.1f} kPa more, and so do columns and foundations.")  # fmt: skip


def drop(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A drop panel, where there is none."""
    o, s = z.place.outline, z.source
    if s.kind != "column" or o.around != "column" or not s.up or thickenings_at(b.floor, o.slab, s):
        return
    slab = b.floor.slabs[o.slab]
    side = np.ceil((max(s.sides) + 8 * (z.place.check.d + DROPS[0])) / 0.2) * 0.2

    def shape() -> Polygon:
        (x, y), a = s.at, side / 2
        box = shapely.box(x - a, y - a, x + a, y + a).intersection(b.region)
        return Polygon(max(shapely.get_parts(box), key=lambda p: p.area).exterior)

    area = shape()

    def use(more: float) -> float | None:
        return _again(b, z, replace(b.site, extra=((area, slab.thickness_m + more),)))

    found = _first(DROPS, use)
    if found is None:
        return
    h = slab.thickness_m + found[0]
    taken = {t.id for t in b.floor.thickenings}
    label = next(n for n in (f"drop {s.id}", *(f"drop {s.id} {k}" for k in range(2, 99))) if n not in taken)
    item = {"id": label, "kind": "drop_panel", "outline": np.round(shapely.get_coordinates(area.exterior)[:-1], 4).tolist(),
            "thickness_m": round(h, 4), "top_offset_m": slab.top_offset_m, "priority": 1}  # fmt: skip
    yield _rated(b, "drop", f"Drop panel {side:.1f} m square, {1e3 * h:.0f} mm thick", found[1], {"thickenings": [item]},
                 concrete=found[0] * area.area, formwork=area.exterior.length * found[0],
                 worse="A drop draws moment: top steel over the column grows, and the soffit is no longer plane.")  # fmt: skip


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
        # As if slab and column were as stiff as each other before: the column draws more of the moment.
        ratio = section_values(column).i_x / section_values(item).i_x
        return _again(b, z, loaded=replace(s, loaded=footprint(column), sides=sides), moments=2 * ratio / (1 + ratio))

    found = _first(LARGER, use)
    if found is None:
        return
    column = grown(found[0])
    concrete = (footprint(column).area - footprint(item).area) * item.below.height_m
    shape = column.shape
    size = (
        f"{1e3 * shape.b_m:.0f} x {1e3 * shape.d_m:.0f} mm"
        if isinstance(shape, Rectangle)
        else f"{1e3 * shape.diameter_m:.0f} mm round"
    )
    yield _rated(b, "column", f"Column {item.id} {size}", found[1], {"columns": [_dumped(column)]}, concrete,
                 worse="A stiffer column takes more moment; the storey below has to follow.")  # fmt: skip


def stronger(b: Bench, z: Zone) -> Iterator[Remedy]:
    """A stronger concrete in the slab."""
    slab = b.floor.slabs[z.place.outline.slab]
    concrete = next(c for c in b.floor.concretes if c.id == slab.concrete)

    def use(more: float) -> float | None:
        if b.standard.materials.not_covered(concrete.model_copy(update={"strength_MPa": concrete.strength_MPa + more})):
            return None
        return _with_bars(b, z, z.place.rho, concrete.strength_MPa + more)

    found = _first(STRONGER, use)
    if found is None:
        return
    strength = round(concrete.strength_MPa + found[0], 3)
    same = next((c for c in b.floor.concretes if c.strength_MPa == strength), None)
    taken = {c.id for c in b.floor.concretes}
    label = (
        same.id
        if same
        else next(n for n in (f"{strength:g} MPa", *(f"{strength:g} MPa {k}" for k in range(2, 99))) if n not in taken)
    )
    edit: Edit = {"slabs": [_dumped(slab, concrete=label)]}
    if same is None:
        edit["concretes"] = [_dumped(concrete, id=label, strength_MPa=strength, E_MPa=None)]
    area = float(polygon(slab.outline).intersection(b.region).area)
    cement = area * slab.thickness_m * b.floor.carbon.concrete_kg_m3 * CEMENT * found[0] / concrete.strength_MPa
    made = _rated(
        b,
        "concrete",
        f"Concrete of {strength:g} MPa in slab {slab.id}",
        found[1],
        edit,
        worse="The whole slab has it, and more cement.",
    )
    yield replace(made, carbon=cement)


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

    found = _first(MOVED, use)
    if found is None:
        return
    by = found[0] * away
    outline = [[round(p[0] + by[0], 4), round(p[1] + by[1], 4), *p[2:]] for p in item.outline]
    yield _rated(b, "opening", f"Opening {label} moved {found[0]:g} m away", found[1], {"openings": [_dumped(item, outline=outline)]},
                 worse="What runs through it has to move as well.")  # fmt: skip


MAKERS: tuple[Callable[[Bench, Zone], Iterator[Remedy]], ...] = (studs, bars, thicker, drop, larger, stronger, opening)
