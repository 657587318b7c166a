"""Uses of load cases, by the occupancies of their loads."""

from __future__ import annotations

from piastra.core.model.floor import Floor
from piastra.core.model.loading import AreaLoad, LoadCase

USED = ("live", "storage", "roof")
"""Natures whose combinations depend on the use of the area."""


def uses_of(floor: Floor) -> dict[str, dict[str, list[str]]]:
    """Of every case of such a nature the loads of each category, by their occupancies; those that have none are left out."""
    category = {o.id: o.category for o in floor.occupancies}
    natures = {c.id: c.nature for c in floor.load_cases}
    found: dict[str, dict[str, list[str]]] = {}
    for load in floor.loads:
        if isinstance(load, AreaLoad) and load.occupancy is not None and natures.get(load.case) in USED:
            use = category.get(load.occupancy)
            if use is not None:
                found.setdefault(load.case, {}).setdefault(use, []).append(load.id)
    return found


def with_categories(floor: Floor) -> list[LoadCase]:
    """The load cases; one without a category that all of its occupancies share has that, as its combinations are to follow its use."""
    uses = uses_of(floor)
    return [
        c.model_copy(update={"category": next(iter(uses[c.id]))}) if c.category is None and len(uses.get(c.id, {})) == 1 else c
        for c in floor.load_cases
    ]
