"""One material, build-up, partition or occupancy put in the place of another."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from piastra.core.model.refusal import Refusal, RefusedError

Document = dict[str, Any]
Replaced = Literal["concretes", "rebars", "load_materials", "build_ups", "partitions", "occupancies"]

ON_FLOORS: dict[str, tuple[str, tuple[str, ...]]] = {
    "concretes": ("concrete", ("slabs", "beams", "columns", "walls")),
    "rebars": ("rebar", ("slabs",)),
    "build_ups": ("build_up", ("loads",)),
    "partitions": ("partition", ("loads",)),
    "occupancies": ("occupancy", ("loads",)),
}
"""Key by which objects of a floor name an item, and the lists they are in."""
IN_PROJECT: dict[str, tuple[str, str]] = {"build_ups": ("build_up", "partitions")}
"""Likewise in the project."""


@dataclass(frozen=True, slots=True)
class Named:
    """An object that names another item than before: its list and id."""

    list: str
    id: str


def on_floor(document: Document, kind: Replaced, old: str, new: str) -> tuple[Document, list[Named]]:
    """A floor file in which every object that names ``old`` names ``new``, and those objects."""
    if kind not in ON_FLOORS:
        return document, []
    key, lists = ON_FLOORS[kind]
    out, changed = dict(document), []
    for name in lists:
        if not any(item.get(key) == old for item in document.get(name) or []):
            continue
        changed += [Named(name, item["id"]) for item in document[name] if item.get(key) == old]
        out[name] = [{**item, key: new} if item.get(key) == old else item for item in document[name]]
    return out, changed


def in_project(document: Document, kind: Replaced, old: str, new: str) -> tuple[Document, list[Named]]:
    """A project document likewise: layers of build-ups name materials, partitions name build-ups."""
    if kind == "load_materials":
        named = [b for b in document.get("build_ups") or [] if any(l["material"] == old for l in b.get("layers") or [])]
        if not named:
            return document, []
        fresh = [
            {**b, "layers": [{**l, "material": new} if l["material"] == old else l for l in b["layers"]]} if b in named else b
            for b in document["build_ups"]
        ]
        return {**document, "build_ups": fresh}, [Named("build_ups", b["id"]) for b in named]
    if kind not in IN_PROJECT:
        return document, []
    key, name = IN_PROJECT[kind]
    mine = [i for i in document.get(name) or [] if i.get(key) == old]
    if not mine:
        return document, []
    items = [{**i, key: new} if i in mine else i for i in document[name]]
    return {**document, name: items}, [Named(name, i["id"]) for i in mine]


def known(project: Document, kind: Replaced, old: str, new: str) -> None:
    """Raises :class:`RefusedError` unless both are there and differ."""
    labels = [i["id"] for i in project.get(kind) or []]
    for path, label in (("old", old), ("new", new)):
        if label not in labels:
            raise RefusedError(
                [Refusal(path, f"is '{label}', which is none of the project's: {', '.join(labels) or 'none yet'}")]
            )
    if old == new:
        raise RefusedError([Refusal("new", "is what is to be replaced; choose another")])
