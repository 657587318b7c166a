"""Two people change one floor: what each changed, whether they touch, and the floor that holds both."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """One object or setting that differs: ``list`` and ``id`` of the object (``id`` empty for a setting),
    ``kind`` of change, and the ``keys`` of the object that differ."""

    list: str
    id: str
    kind: str
    keys: tuple[str, ...]

    def sentence(self, before: Any, after: Any) -> str:
        """The change in words, from the object before to the object after."""
        name = f"{self.list} {self.id}".strip()
        if self.kind != "changed":
            return f"{name} {self.kind}"
        if not self.id:
            return f"{name}: {_short(before)} to {_short(after)}"
        parts = [p for k in self.keys for p in _differing(k, before.get(k), after.get(k))]
        return f"{name}: {', '.join(parts)}"


@dataclass(frozen=True, slots=True)
class Merged:
    """The floor that holds both changes, and where both changed the same thing (there ``mine`` stands)."""

    document: Document
    clashes: tuple[str, ...]


def _differing(key: str, before: Any, after: Any) -> list[str]:
    """Words for one key that differs; of nested objects, only what differs in them."""
    if isinstance(before, dict) and isinstance(after, dict):
        keys = [k for k in dict.fromkeys([*before, *after]) if before.get(k) != after.get(k)]
        return [p for k in keys for p in _differing(f"{key} {k}", before.get(k), after.get(k))]
    return [f"{key} {_short(before)} to {_short(after)}"]


def _short(value: Any) -> str:
    text = "nothing" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
    return text if len(text) <= 36 else text[:33] + "..."


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


def told(before: Document, after: Document) -> list[str]:
    """The changes from one floor file to another, in words."""
    sentences = []
    for c in changes(before, after):
        if c.id:
            old, new = (_objects(d.get(c.list) or []) or {} for d in (before, after))
            sentences.append(c.sentence(old.get(c.id, {}), new.get(c.id, {})))
        else:
            sentences.append(c.sentence(before.get(c.list), after.get(c.list)))
    return sentences


def merge(base: Document, theirs: Document, mine: Document) -> Merged:
    """Their floor with my changes in it.

    Each object's keys are merged one by one. Where both changed the same key to different values, or one changed
    what the other deleted, it is a clash, and mine stands.
    """
    out = dict(theirs)
    clashes: list[str] = []
    for name in _lists(base, theirs, mine):
        b, t, m = base.get(name), theirs.get(name), mine.get(name)
        if m in (b, t):
            continue
        if t == b:
            out = _with(out, name, m, name in mine)
            continue
        was, they, me = _objects(b or []), _objects(t or []), _objects(m or [])
        if was is None or they is None or me is None:
            clashes.append(name)
            out = _with(out, name, m, name in mine)
            continue
        merged = []
        for label in dict.fromkeys([*they, *me]):
            item, clash = _one(was.get(label), they.get(label), me.get(label))
            if clash:
                clashes.append(f"{name} {label}")
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
