"""Copying chosen kinds of objects from one floor to another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from piastra.core.model.floor import PLACED

COPIED = tuple(name for name in PLACED if name != "grid")
"""Lists of the floor file whose objects can be copied to another floor: what stands on the plan; the grid is the project's."""

_HOLDING = ("columns", "walls", "supports")


def copied(source: dict[str, Any], target: dict[str, Any], kinds: Sequence[str], cases: Sequence[str] = ()) -> dict[str, Any]:
    """The target floor file with the source's objects of the chosen kinds in it.

    Of loads, those of ``cases`` only (none given: all); cases that the target lacks come along, and so do strands of tendons. An object equal
    to one that is there already is not doubled; one whose id is taken by another gets the next free id.
    Raises ``ValueError`` for a kind that cannot be copied.
    """
    unknown = [k for k in kinds if k not in COPIED]
    if unknown:
        raise ValueError(f"cannot copy {', '.join(unknown)}; choose of: {', '.join(COPIED)}")
    out = dict(target)
    for kind in (k for k in COPIED if k in kinds):
        there = list(out.get(kind) or [])
        sharing = _HOLDING if kind in _HOLDING else (kind,)
        for item in source.get(kind) or []:
            if kind == "loads" and cases and item["case"] not in cases:
                continue
            if item in there:
                continue
            taken = {i["id"] for k in sharing for i in (there if k == kind else out.get(k) or [])}
            there.append({**item, "id": free_id(item["id"], taken)})
        out[kind] = there
    if "loads" in kinds:
        have = {c["id"] for c in out.get("load_cases") or []}
        used = {load["case"] for load in out["loads"]}
        missing = [c for c in source.get("load_cases") or [] if c["id"] in used - have]
        out["load_cases"] = [*(out.get("load_cases") or []), *missing]
    if "tendons" in kinds and out["tendons"]:
        have = {s["id"] for s in out.get("strands") or []}
        used = {t["strand"] for t in out["tendons"]}
        out["strands"] = [*(out.get("strands") or []), *(s for s in source.get("strands") or [] if s["id"] in used - have)]
        # And the cases through which tendons act.
        cases_there = out.get("load_cases") or []
        effects, labels = {c.get("effect") for c in cases_there}, {c["id"] for c in cases_there}
        own = [c for c in source.get("load_cases") or [] if c.get("effect") and c["effect"] not in effects]
        out["load_cases"] = [*cases_there, *({**c, "id": free_id(c["id"], labels)} for c in own)]
    return out


def free_id(wanted: str, taken: set[str]) -> str:
    """``wanted``, or the first of ``wanted-2``, ``wanted-3``, … that is free."""
    if wanted not in taken:
        return wanted
    n = 2
    while f"{wanted}-{n}" in taken:
        n += 1
    return f"{wanted}-{n}"
