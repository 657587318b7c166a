"""Loads beside the floor, odd totals, and cases and combinations that do not work together."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely
from shapely.geometry import LineString, Point
from shapely.geometry.base import BaseGeometry

from piastra.core.audit.finding import Add, Finding, Mend, Remove, Set
from piastra.core.audit.site import Site, at
from piastra.core.geometry.arcs import polygon
from piastra.core.model.loading import LASTING, STRENGTH, AreaLoad, LineLoad, LoadCase, PointLoad
from piastra.core.model.quantities import Quantity
from piastra.core.model.uses import uses_of
from piastra.core.model.values import at_points, ends_of, plane_of, volume
from piastra.core.trace.amounts import amount

PLAIN_MEAN = {"dead": (0.0, 15.0), "live": (0.3, 15.0), "snow": (0.0, 10.0), "roof": (0.0, 10.0)}
"""Means over the whole floor (kN/m2) that are ordinary for cases of a nature."""


def _shape(site: Site, load: AreaLoad) -> BaseGeometry | None:
    """Where an area load is meant to be; None: everywhere."""
    outline = polygon(load.outline) if load.outline else None
    if load.slabs is None:
        return outline
    covered = shapely.unary_union([p for s, p in zip(site.floor.slabs, site.slabs, strict=True) if s.id in load.slabs])
    return covered if outline is None else covered.intersection(outline)


def loads(site: Site) -> Iterable[Finding]:
    """Loads and probes beside the floor."""
    if not site.floor.slabs:
        return
    reach = site.region.buffer(1e-3)
    for load in site.floor.loads:
        shape: BaseGeometry | None
        if load.kind == "point":
            shape, share = Point(load.at), float(not reach.contains(Point(load.at)))
        elif load.kind == "line":
            shape = LineString(load.line)
            share = shape.difference(reach).length / shape.length
        elif load.kind == "area":
            shape = _shape(site, load)
            # A load drawn over an opening is meant for the slab around it.
            share = shape.difference(site.concrete.buffer(1e-3)).area / shape.area if shape is not None and shape.area else 0.0
        else:
            shape, share = None, 0.0
        if shape is not None and share > 0.001:
            mend = Mend(f"Load {load.id}: deleted", (Remove("loads", load.id),)) if share > 0.999 else None
            yield Finding(
                "load off the floor", "loads", load.id,
                "lies off the floor" if share > 0.999 else f"lies off the floor by {100 * share:.0f} %",
                "What is off the floor does not act on it.", at(shape.difference(reach) if share < 0.999 else shape), mend,
            )  # fmt: skip
    for probe in site.floor.probes:
        if not reach.contains(Point(probe.at)):
            yield Finding(
                "probe off the floor", "probes", probe.id, "lies off the floor", "There is nothing to read there.",
                (probe.at[0], probe.at[1]), Mend(f"Probe {probe.id}: deleted", (Remove("probes", probe.id),)),
            )  # fmt: skip


def signs(site: Site) -> Iterable[Finding]:
    """Loads that vary through nil, and so push up on a part of their area."""
    for load in site.floor.loads:
        if load.kind == "line":
            q0, q1 = ends_of(site.floor, load)
            least, most, shape = min(q0, q1), max(q0, q1), LineString(load.line)
        elif load.kind == "area" and load.varies is not None:
            shape = _shape(site, load) or site.region
            q = at_points(plane_of(site.floor, load), shapely.get_coordinates(shape))
            least, most = float(np.min(q)), float(np.max(q))
        else:
            continue
        if least < -1e-6 * max(abs(most), abs(least)) and most > 1e-6 * abs(least):
            kept: Quantity = "lineload" if load.kind == "line" else "pressure"
            yield Finding(
                "load changes sign", "loads", load.id, f"runs from {amount(least, kept)} to {amount(most, kept)} and so pushes up on a part of its place",
                "A load that pulls is rare; two of its values were probably mistaken.", at(shape),
            )  # fmt: skip


def totals(site: Site) -> Iterable[Finding]:
    """Cases whose total is out of the ordinary for the floor's area."""
    floor = site.floor
    area = site.region.area if floor.slabs else 0.0
    if not area:
        return
    for case in floor.load_cases:
        mine = [load for load in floor.loads if load.case == case.id]
        if case.nature not in PLAIN_MEAN or not mine:
            continue
        total = 0.0
        for load in mine:
            if isinstance(load, AreaLoad):
                shape = _shape(site, load)
                total += volume(plane_of(floor, load), site.region if shape is None else shape.intersection(site.region))
            elif isinstance(load, LineLoad):
                total += sum(ends_of(floor, load)) / 2 * LineString(load.line).intersection(site.region).length
            elif isinstance(load, PointLoad):
                total += load.F_kN
        least, most = PLAIN_MEAN[case.nature]
        covers = any(isinstance(l, AreaLoad) and l.outline is None and l.slabs is None for l in mine)
        if abs(total) > most * area or (covers and total < least * area):
            yield Finding(
                "odd total", "load_cases", case.id, f"adds up to {amount(total, 'force')}, {amount(total / area, 'pressure')} over the floor's {amount(area, 'area')}",
                f"Ordinary for its nature is up to {amount(most, 'pressure')}; a load was probably entered in a wrong unit, or twice." if total > 0
                else "It pulls the floor up; its sign was probably mistaken.",
            )  # fmt: skip


def cases(site: Site) -> Iterable[Finding]:
    """Load cases and combinations that do not work together."""
    floor = site.floor
    if not floor.slabs:
        return
    combined = {c for k in floor.combinations for c, f in k.factors.items() if f}
    loaded = {load.case for load in floor.loads}
    for case in floor.load_cases:
        if case.id not in combined and (case.id in loaded or case.nature == "self_weight") and floor.combinations:
            yield Finding(
                "case not combined", "load_cases", case.id, "is in no combination", "Its load is applied, and checked nowhere.",
            )  # fmt: skip
    if floor.load_cases and not any(c.nature == "self_weight" for c in floor.load_cases):
        yield Finding(
            "no self-weight", "load_cases", floor.load_cases[0].id, "stands in a list without self-weight",
            "The floor's own weight does not act; add a case of that nature.",
        )  # fmt: skip
    permanent = [c.id for c in floor.load_cases if c.nature == "self_weight" or (c.nature == "dead" and c.id in loaded)]
    # Before the last stage of a history, what is finished later is not there yet.
    earlier = {s.combination for s in floor.history.stages[:-1]} if floor.history is not None else set()
    for combination in floor.combinations:
        if not any(combination.factors.values()):
            yield Finding(
                "empty combination", "combinations", combination.id, "has no factor other than 0", "It combines nothing."
            )
            continue
        missing = [c for c in permanent if not combination.factors.get(c)]
        if missing and combination.limit_state != "construction" and combination.rule is None and combination.id not in earlier:
            yield Finding(
                "permanent left out", "combinations", combination.id, f"leaves out {', '.join(missing)}",
                "Permanent load is always there; give it a factor.",
            )  # fmt: skip
    if floor.combinations and all(c.limit_state in STRENGTH for c in floor.combinations):
        yield Finding(
            "no service combination", "combinations", floor.combinations[0].id, "stands in a list of ultimate combinations only",
            "Deflection cannot be checked; generate the standard's combinations, or add one for serviceability.",
        )  # fmt: skip
    elif floor.combinations and not any(c.limit_state in LASTING for c in floor.combinations):
        yield Finding(
            "no lasting combination", "combinations", floor.combinations[0].id, "stands in a list without what lasts",
            "Long-term deflection cannot be checked; add a quasi-permanent or sustained combination.",
        )  # fmt: skip
    if floor.combinations and not any(c.limit_state == "ultimate" for c in floor.combinations):
        yield Finding(
            "no ultimate combination", "combinations", floor.combinations[0].id, "stands in a list without an ultimate combination",
            "Strength cannot be checked; generate the standard's combinations, or add one.",
        )  # fmt: skip


def categories(site: Site) -> Iterable[Finding]:
    """Cases whose combinations are those of another use than their loads', and live load among what is permanent."""
    floor = site.floor
    for case_id, uses in uses_of(floor).items():
        case = next(c for c in floor.load_cases if c.id == case_id)
        if len(uses) > 1:
            kept = case.category if case.category in uses else max(uses, key=lambda u: len(uses[u]))
            yield Finding(
                "two categories", "load_cases", case.id, f"holds loads of the categories {' and '.join(sorted(uses))}",
                "Each use has factors of its own in the combinations; give each a case.", None, _split(site, case, uses, kept),
            )  # fmt: skip
        elif case.category is not None and case.category not in uses:
            use = next(iter(uses))
            yield Finding(
                "category of another use", "load_cases", case.id, f"is of category {case.category}, its loads are of {use}",
                "Combinations follow the case's category.", None, Mend(f"Category of {case.id}: {use}", (Set("load_cases", case.id, "category", use),)),
            )  # fmt: skip
    permanent = {c.id for c in floor.load_cases if c.nature in ("dead", "self_weight")}
    live = next((c for c in floor.load_cases if c.nature == "live"), None)
    for load in floor.loads:
        if isinstance(load, AreaLoad) and load.occupancy is not None and load.case in permanent:
            mend = Mend(f"Load {load.id} moved to {live.id}", (Set("loads", load.id, "case", live.id),)) if live else None
            yield Finding(
                "live load in a dead case", "loads", load.id, f"is of the occupancy {load.occupancy} in the case {load.case}, which is permanent",
                "It would act with the factors of dead load, and on all panels at once.", None, mend,
            )  # fmt: skip


def _split(site: Site, case: LoadCase, uses: dict[str, list[str]], kept: str) -> Mend | None:
    """A case for each use but one, in the combinations as the whole was; none where names could not be written into a path."""
    floor = site.floor
    taken = {c.id for c in floor.load_cases}
    steps: list[Remove | Set | Add] = [Set("load_cases", case.id, "category", kept)]
    made = []
    for use in sorted(set(uses) - {kept}):
        name = next(n for n in (f"{case.id} {use}", *(f"{case.id} {use}{k}" for k in range(2, 99))) if n not in taken)
        if "." in name or len(name) > 60:
            return None
        made.append(name)
        steps.append(Add("load_cases", {**case.model_dump(mode="json"), "id": name, "category": use}))
        steps += [Set("loads", load, "case", name) for load in uses[use]]
        steps += [
            Set("combinations", c.id, f"factors.{name}", c.factors[case.id]) for c in floor.combinations if case.id in c.factors
        ]
    return Mend(f"{case.id} split: {', '.join(made)} made", tuple(steps))
