"""Heights of columns and walls against those of the level that the floor lies on."""

from __future__ import annotations

from collections.abc import Iterable

from piastra.core.audit.finding import Finding, Mend, Set
from piastra.core.audit.site import Site
from piastra.core.model.members import Column, Wall
from piastra.core.trace.amounts import amount

SAME = 1e-3
"""Heights that differ by less (m) are the same."""


def heights(site: Site) -> Iterable[Finding]:
    """Storeys whose typed height is not the level's."""
    level = site.floor.level
    if level is None:
        return
    members: list[tuple[str, Column | Wall]] = [("columns", c) for c in site.floor.columns]
    members += [("walls", w) for w in site.floor.walls]
    for kind, item in members:
        for part, height in (("below", level.below_m), ("above", level.above_m)):
            storey = item.below if part == "below" else item.above
            if storey is None or storey.by_level or height is None or abs(storey.height_m - height) < SAME:
                continue
            x, y = item.at if isinstance(item, Column) else item.line[0][:2]
            line = f"{kind[:-1].capitalize()} {item.id}: height {part} by the level, {amount(height, 'length')}"
            yield Finding(
                    "height of its own", kind, item.id, f"is {amount(storey.height_m, 'length')} high {part} the floor, where level {level.id} has {amount(height, 'length')}",
                    "It keeps that height when the level's is changed.", (x, y),
                    Mend(line, (Set(kind, item.id, f"{part}.by_level", True), Set(kind, item.id, f"{part}.height_m", height))),
                )  # fmt: skip
