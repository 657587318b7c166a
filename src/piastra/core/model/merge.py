"""Two people change one floor: what each changed, whether they touch, and the floor that holds both."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """One object or setting that differs: ``list`` and ``id`` of the object (``id`` empty for a setting),
    ``kind`` of change, and the ``keys`` of the object that differ."""

    list: str
    id: str
    kind: Literal["added", "deleted", "changed"]
    keys: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Difference:
    """One value that differs, ``before`` and ``after``, at the dotted ``path`` within the object or setting; an object that is new or gone
    has no path. None stands for a value that is not there."""

    list: str
    id: str
    kind: Literal["added", "deleted", "changed"]
    path: str = ""
    before: Any = None
    after: Any = None


@dataclass(frozen=True, slots=True)
class Merged:
    """The floor that holds both changes, and where both changed the same thing (there ``mine`` stands)."""

    document: Document
    clashes: tuple[tuple[str, str], ...]
    """List and label of each; a setting has no label."""


def _differing(path: str, before: Any, after: Any) -> Iterator[tuple[str, Any, Any]]:
    """Where two values differ, within objects of the same keys and lists of the same length."""
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        inner = [(str(k), before.get(k), after.get(k)) for k in dict.fromkeys([*before, *after])]
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        inner = [(str(i), b, a) for i, (b, a) in enumerate(zip(before, after, strict=True))]
    else:
        yield path, before, after
        return
    for key, b, a in inner:
        yield from _differing(f"{path}.{key}" if path else key, b, a)


def _objects(value: Any) -> dict[str, Any] | None:
    if isinstance(value, list) and all(isinstance(i, dict) and "id" in i for i in value):
        return {i["id"]: i for i in value}
    return None


def _lists(*documents: Document) -> list[str]:
    """Keys in the order in which they are first met."""
    return list(dict.fromkeys(k for d in documents for k in d))


def changes(before: Document, after: Document) -> list[Change]:
    """What differs between two floor files, object by object."""
    found = []
    for name in _lists(before, after):
        b, a = before.get(name), after.get(name)
        if b == a:
            continue
        old, new = _objects(b or []), _objects(a or [])
        if old is None or new is None:
            found.append(Change(name, "", "changed", ()))
            continue
        for label in dict.fromkeys([*old, *new]):
            if label not in new:
                found.append(Change(name, label, "deleted", ()))
            elif label not in old:
                found.append(Change(name, label, "added", ()))
            elif old[label] != new[label]:
                keys = dict.fromkeys([*old[label], *new[label]])
                differ = tuple(k for k in keys if old[label].get(k) != new[label].get(k))
                found.append(Change(name, label, "changed", differ))
    return found


def differences(before: Document, after: Document) -> list[Difference]:
    """Every value that differs between two floor files, in the order of their lists."""
    found: list[Difference] = []
    for c in changes(before, after):
        if c.kind != "changed":
            found.append(Difference(c.list, c.id, c.kind))
            continue
        old, new = before.get(c.list), after.get(c.list)
        if c.id:
            old, new = (_objects(v or []) or {} for v in (old, new))
            old, new = old.get(c.id), new.get(c.id)
        found += [Difference(c.list, c.id, "changed", *d) for d in _differing("", old, new)]
    return found


def merge(base: Document, theirs: Document, mine: Document) -> Merged:
    """Their floor with my changes in it.

    Each object's keys are merged one by one. Where both changed the same key to different values, or one changed
    what the other deleted, it is a clash, and mine stands.
    """
    out = dict(theirs)
    clashes: list[tuple[str, str]] = []
    for name in _lists(base, theirs, mine):
        b, t, m = base.get(name), theirs.get(name), mine.get(name)
        if m in (b, t):
            continue
        if t == b:
            out = _with(out, name, m, name in mine)
            continue
        was, they, me = _objects(b or []), _objects(t or []), _objects(m or [])
        if was is None or they is None or me is None:
            clashes.append((name, ""))
            out = _with(out, name, m, name in mine)
            continue
        merged = []
        for label in dict.fromkeys([*they, *me]):
            item, clash = _one(was.get(label), they.get(label), me.get(label))
            if clash:
                clashes.append((name, label))
            if item is not None:
                merged.append(item)
        out[name] = merged
    return Merged(out, tuple(clashes))


def _with(document: Document, name: str, value: Any, present: bool) -> Document:
    kept = {k: v for k, v in document.items() if k != name}
    return {**kept, name: value} if present else kept


def _one(base: Any, theirs: Any, mine: Any) -> tuple[Any, bool]:
    """One object merged, None if it is gone, and whether the changes clash."""
    if mine in (base, theirs):
        return theirs, False
    if theirs == base:
        return mine, False
    if base is None or theirs is None or mine is None:
        return mine, True
    out, clash = dict(theirs), False
    for key in dict.fromkeys([*base, *theirs, *mine]):
        b, t, m = base.get(key), theirs.get(key), mine.get(key)
        if m in (b, t):
            continue
        clash = clash or t != b
        if key in mine:
            out[key] = m
        else:
            out.pop(key, None)
    return out, clash
