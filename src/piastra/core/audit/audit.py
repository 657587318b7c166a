"""The audit: every rule, over one floor."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from piastra.core.audit import figures, history, holding, levels, loading, outlines, tendons
from piastra.core.audit.finding import Add, Finding, Mend, Remove
from piastra.core.audit.site import site_of
from piastra.core.model import Floor

RULES = (
    outlines.slabs, outlines.corners, outlines.openings, outlines.thickenings, outlines.beams, holding.columns, holding.lines,
    holding.joints, holding.pieces, levels.heights, figures.sizes, figures.far_away, figures.doubles,
    loading.loads, loading.signs, loading.totals, loading.cases, loading.categories, tendons.tendons, history.history,
)  # fmt: skip


def audit(floor: Floor, used_elsewhere: Collection[str] = ()) -> list[Finding]:
    """Everything doubtful or wrong about a floor, one finding a mistake.

    ``used_elsewhere``: ids of materials that other floors of the project use. Doubles are told once: an object
    that repeats another is not reported again for lying on top of it.
    """
    site = site_of(floor)
    found = [f for rule in RULES for f in rule(site)] + list(figures.unused(site, used_elsewhere))
    doubled = {(f.list, f.id) for f in found if f.rule == "double"}
    return [f for f in found if f.rule == "double" or (f.list, f.id) not in doubled]


def mended(document: dict[str, Any], mend: Mend) -> dict[str, Any]:
    """The floor file (or project document) after a mend's steps; the original stays as it is."""
    out = dict(document)
    for step in mend.steps:
        items = out[step.list]
        if isinstance(step, Add):
            out[step.list] = [*items, step.item]
        elif isinstance(step, Remove):
            out[step.list] = [i for i in items if i["id"] != step.id]
        else:
            out[step.list] = [_with(i, step.key.split("."), step.value) if i["id"] == step.id else i for i in items]
    return out


def _with(item: Any, keys: list[str], value: Any) -> Any:
    if not keys:
        return value
    head, rest = keys[0], keys[1:]
    if isinstance(item, list):
        return [_with(v, rest, value) if k == int(head) else v for k, v in enumerate(item)]
    return {**item, head: _with(item.get(head), rest, value)}
