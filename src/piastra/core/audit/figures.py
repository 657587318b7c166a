"""Figures that are out of the ordinary, doubles, and what is used nowhere."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from shapely.geometry import LineString

from piastra.core.audit.finding import Finding, Mend, Remove, Set
from piastra.core.audit.site import Site, at
from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model.floor import PLACED
from piastra.core.model.quantities import Quantity
from piastra.core.trace.amounts import amount

FACTORS = (1000.0, 0.001, 10.0, 0.1, 0.3048, 1 / 0.3048, 0.0254, 1 / 0.0254)
"""Slips of unit that are tried, the likeliest first."""


@dataclass(frozen=True, slots=True)
class Range:
    """What is ordinary for one value: its limits, as it is kept, and its quantity."""

    list: str
    key: str
    name: str
    least: float
    most: float
    quantity: Quantity


RANGES = (
    Range("slabs", "thickness_m", "thickness", 0.08, 2.0, "size"),
    Range("slabs", "cover_top_mm", "top cover", 10, 100, "cover"),
    Range("slabs", "cover_bottom_mm", "bottom cover", 10, 100, "cover"),
    Range("slabs", "top_offset_m", "top offset", -2.0, 2.0, "size"),
    Range("thickenings", "thickness_m", "thickness", 0.08, 3.0, "size"),
    Range("beams", "width_m", "width", 0.1, 4.0, "size"),
    Range("beams", "depth_m", "depth", 0.1, 3.0, "size"),
    Range("walls", "thickness_m", "thickness", 0.08, 1.5, "size"),
    Range("columns", "shape.b_m", "width", 0.12, 3.0, "size"),
    Range("columns", "shape.d_m", "depth", 0.12, 3.0, "size"),
    Range("columns", "shape.diameter_m", "diameter", 0.12, 3.0, "size"),
    Range("columns", "below.height_m", "height below", 1.0, 20.0, "length"),
    Range("columns", "above.height_m", "height above", 1.0, 20.0, "length"),
    Range("walls", "below.height_m", "height below", 0.5, 20.0, "length"),
    Range("walls", "above.height_m", "height above", 0.5, 20.0, "length"),
    Range("loads", "q_kPa", "load", -60, 60, "pressure"),
    Range("loads", "F_kN", "force", -5000, 5000, "force"),
    Range("loads", "q_kN_m.0", "load", -500, 500, "lineload"),
    Range("loads", "q_kN_m.1", "load", -500, 500, "lineload"),
    Range("concretes", "strength_MPa", "strength", 12, 100, "stress"),
    Range("concretes", "unit_weight_kN_m3", "unit weight", 10, 35, "weight"),
    Range("rebars", "yield_MPa", "yield strength", 200, 800, "stress"),
    Range("mats", "spacing_mm", "spacing", 40, 500, "cover"),
)


def _value(item: object, path: str) -> float | None:
    here = item
    for key in path.split("."):
        if here is None:
            return None
        here = here[int(key)] if isinstance(here, list) else getattr(here, key, None)
    return float(here) if isinstance(here, int | float) else None


def _place(item: object) -> tuple[float, float] | None:
    spot = getattr(item, "at", None)
    if spot:
        return spot[0], spot[1]
    outline, line = getattr(item, "outline", None), getattr(item, "line", None)
    if outline:
        return at(polygon(outline))
    return at(LineString(polyline(line))) if line else None


def sizes(site: Site) -> Iterable[Finding]:
    """Values that no building has; usually a unit was mistaken."""
    for r in RANGES:
        for item in getattr(site.floor, r.list):
            value = _value(item, r.key)
            if value is None or r.least <= value <= r.most:
                continue
            better = next((value * f for f in FACTORS if _likely(value * f, r)), None)
            told = amount(value, r.quantity)
            mend = None
            if better is not None:
                better = float(f"{better:.9g}")
                line = f"{item.id}: {r.name} {told} to {amount(better, r.quantity)}"
                mend = Mend(line, (Set(r.list, item.id, r.key, better),), shared=r.list in ("concretes", "rebars"))
            yield Finding(
                "implausible", r.list, item.id, f"has a {r.name} of {told}",
                f"Ordinary is {amount(r.least, r.quantity)} to {amount(r.most, r.quantity)}; a unit was probably mistaken.", _place(item), mend,
            )  # fmt: skip


def _likely(value: float, r: Range) -> bool:
    """Whether a corrected value lies well inside what is ordinary (loads: at least a tenth of a unit)."""
    if r.least < 0:
        return 0.1 <= abs(value) <= r.most
    return 1.2 * r.least <= value <= 0.7 * r.most


def far_away(site: Site) -> Iterable[Finding]:
    """A floor larger than any building: millimetres read as metres."""
    if site.floor.slabs:
        x0, y0, x1, y1 = site.concrete.bounds
        if max(x1 - x0, y1 - y0) > 1000:
            yield Finding(
                "implausible", "slabs", site.floor.slabs[0].id, f"belongs to a floor {amount(x1 - x0, 'length')} by {amount(y1 - y0, 'length')} large",
                "No floor is that large; millimetres or inches were probably read as metres.", at(site.slabs[0]),
            )  # fmt: skip


DOUBLED = tuple(name for name in PLACED if name != "grid")
"""Lists in which an object that is there twice is a finding."""


_TWICE = {"loads": "The load acts twice.", "mats": "Its bars count twice.", "designed_bars": "Its bars count twice."}


def doubles(site: Site) -> Iterable[Finding]:
    """Objects that are there twice."""
    for name in DOUBLED:
        first: dict[str, str] = {}
        for item in getattr(site.floor, name):
            if name == "designed_bars" and item.origin == "designed":
                # Design lays bars side by side with equal ones where one group is not enough.
                continue
            essence = item.model_dump_json(exclude={"id"})
            if essence in first:
                why = _TWICE.get(name, "One of them is enough; with two, edits miss one.")
                yield Finding(
                    "double", name, item.id, f"equals {first[essence]}", why, _place(item),
                    Mend(f"{item.id}: deleted, {first[essence]} stands there", (Remove(name, item.id),)),
                )  # fmt: skip
            first.setdefault(essence, item.id)


def unused(site: Site, elsewhere: Collection[str]) -> Iterable[Finding]:
    """Materials that no floor uses; ``elsewhere`` are ids that other floors of the project use."""
    floor = site.floor
    used = {s.concrete for s in floor.slabs} | {b.concrete for b in floor.beams}
    used |= {c.concrete for c in floor.columns} | {w.concrete for w in floor.walls}
    steels = {s.rebar for s in floor.slabs}
    if not floor.slabs:
        return
    for name, items, there in (("concretes", floor.concretes, used), ("rebars", floor.rebars, steels)):
        for item in items:
            if item.id not in there and item.id not in elsewhere and len(items) > 1:
                yield Finding(
                    "unused material", name, item.id, "is used nowhere in the project", "It only lengthens the lists to choose from.",
                    None, Mend(f"{item.id}: deleted", (Remove(name, item.id),), shared=True),
                )  # fmt: skip
