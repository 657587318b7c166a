"""One change that would mend something, what it adds and what that costs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from piastra.core.model import Floor
from piastra.core.model.members import Slab
from piastra.core.trace.amounts import amount

Edit = dict[str, list[dict[str, Any]]]

STEEL_DENSITY = 7850.0
THICKER = (0.025, 0.05, 0.075, 0.10, 0.15)
STRONGER = (5.0, 10.0, 20.0)
"""Steps of each change, m or MPa, the least first: the first that does is offered, or else the last that helps."""
CEMENT = 0.5
"""A concrete so many per cent stronger has half as many per cent more carbon: an assumption, as cement grows more slowly than strength."""
DEARER = 0.25
"""And a quarter as many per cent more of its price."""
HELPS = 0.98
"""A change that leaves more than this of the utilisation is none."""


@dataclass(frozen=True, slots=True)
class Remedy:
    """One change: its ``kind``, what it is in words, the ``utilisation`` by the estimate, what it adds (m3 of concrete, kg of steel,
    m2 of formwork, kg of CO2 equivalent, and what that costs), what it makes worse, and the ``edit``: objects by list, each of which takes the
    place of the one with its id (of zone settings: its zone), or joins."""

    kind: str
    text: str
    utilisation: float
    concrete: float
    steel: float
    formwork: float
    carbon: float
    cost: float
    worse: str
    edit: Edit


def rated(floor: Floor, kind: str, text: str, use: float, edit: Edit, concrete: float = 0.0, steel: float = 0.0, formwork: float = 0.0,
          worse: str = "") -> Remedy:  # fmt: skip
    """A remedy with its carbon and its cost by the project's factors."""
    carbon = concrete * floor.carbon.concrete_kg_m3 + steel * floor.carbon.steel_kg_per_kg
    prices = floor.costs
    cost = concrete * prices.concrete_per_m3 + steel * prices.steel_per_kg + formwork * prices.formwork_per_m2
    return Remedy(kind, text, use, concrete, steel, formwork, carbon, cost, worse, edit)


def sorted_out(found: Sequence[Remedy], now: float) -> tuple[Remedy, ...]:
    """Those that help, first those that are enough, then by carbon; ``now`` is the utilisation without any."""
    return tuple(sorted((r for r in found if r.utilisation < HELPS * now), key=lambda r: (r.utilisation > 1, r.carbon)))


def first(steps: Sequence[float], use: Callable[[float], float | None]) -> tuple[float, float] | None:
    """The first step that does, or the best of those that give any value, with its utilisation."""
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


def dumped(item: Any, **changed: Any) -> dict[str, Any]:
    """An object of the floor file, with other values."""
    return {**item.model_dump(mode="json"), **changed}


def free_group(floor: Floor, wanted: str) -> str:
    """A mark that no group of bars has yet."""
    taken = {g.id for g in floor.designed_bars}
    return next(n for n in (wanted, *(f"{wanted} {k}" for k in range(2, 99))) if n not in taken)


def thicker_slab(floor: Floor, slab: Slab, more: float, use: float, area: float) -> Remedy:
    """A slab of ``area`` m2 on plan, ``more`` m thicker."""
    h = round(slab.thickness_m + more, 4)
    weight = next(c.unit_weight_kN_m3 for c in floor.concretes if c.id == slab.concrete)
    return rated(floor, "thickness", f"Slab {slab.id} {amount(h, 'size')} thick", use, {"slabs": [dumped(slab, thickness_m=h)]}, more * area,
                 worse=f"The slab weighs {amount(weight * more, 'pressure')} more; columns and foundations bear that too.")  # fmt: skip


def stronger_slab(floor: Floor, slab: Slab, strength: float, use: float, area: float) -> Remedy:
    """A slab of ``area`` m2 on plan of a concrete of the ``strength`` (MPa)."""
    concrete = next(c for c in floor.concretes if c.id == slab.concrete)
    same = next((c for c in floor.concretes if c.strength_MPa == strength), None)
    taken = {c.id for c in floor.concretes}
    label = (
        same.id
        if same
        else next(n for n in (f"{strength:g} MPa", *(f"{strength:g} MPa {k}" for k in range(2, 99))) if n not in taken)
    )
    edit: Edit = {"slabs": [dumped(slab, concrete=label)]}
    if same is None:
        edit["concretes"] = [dumped(concrete, id=label, strength_MPa=strength, E_MPa=None)]
    made = rated(
        floor,
        "concrete",
        f"Concrete of {amount(strength, 'stress')} in slab {slab.id}",
        use,
        edit,
        worse="The whole slab has it, and more cement.",
    )
    share = strength / concrete.strength_MPa - 1
    volume = area * slab.thickness_m
    return replace(
        made,
        carbon=volume * floor.carbon.concrete_kg_m3 * CEMENT * share,
        cost=volume * floor.costs.concrete_per_m3 * DEARER * share,
    )
