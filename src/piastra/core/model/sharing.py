"""How a floor takes what it shares from its project, and how a project takes in a floor from elsewhere."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor, floor_from
from piastra.core.model.copying import free_id
from piastra.core.model.project import SHARED, Project, level_of, project_from, shared_keys
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.model.values import ends_of, plane_of

Document = dict[str, Any]

_USERS = {"concretes": ("concrete", ("slabs", "beams", "columns", "walls")), "rebars": ("rebar", ("slabs",))}


def with_shared(document: Document, project: Project, level: str | None = None) -> Document:
    """The floor file with its project's standard, materials, setting-out lines, build-ups and occupancies, and with the heights of the ``level``
    that it lies on."""
    own = {k: v for k, v in document.items() if k not in SHARED}
    here = level_of(project, level)
    if here is not None:
        for name in ("columns", "walls"):
            if own.get(name):
                own[name] = [_at_level(item, here) for item in own[name]]
    return {**own, **shared_keys(project), **({"level": here} if here else {})}


def _at_level(item: dict[str, Any], level: dict[str, Any]) -> dict[str, Any]:
    """A column or wall with the level's heights, where it follows them."""
    out = dict(item)
    for part in ("below", "above"):
        storey, height = item.get(part), level[f"{part}_m"]
        if isinstance(storey, dict) and storey.get("by_level") and height is not None:
            out[part] = {**storey, "height_m": height}
    return out


def _used(document: Document, materials: str) -> set[str]:
    key, lists = _USERS[materials]
    return {item[key] for name in lists for item in document.get(name) or []}


def materials_of(document: Document) -> set[str]:
    """Ids of the concretes and steels that a floor file uses."""
    return _used(document, "concretes") | _used(document, "rebars")


def _loading_values(floor: Floor) -> list[Any]:
    """What each load is worth, wherever its value comes from."""
    return [plane_of(floor, l) if l.kind == "area" else ends_of(floor, l) if l.kind == "line" else None for l in floor.loads]


def computes_otherwise(document: Document, project: Project, level: str | None = None) -> bool:
    """Whether taking over what the project shares changes what the floor computes. Raises :class:`RefusedError`
    where the floor uses a material that the project no longer has."""
    after = floor_from(with_shared(document, project, level))
    before = floor_from(document)
    return (
        before.columns != after.columns
        or before.walls != after.walls
        or before.standard != after.standard
        or before.parameters != after.parameters
        or _loading_values(before) != _loading_values(after)
        or any(_picked(before, name, _used(document, name)) != _picked(after, name, _used(document, name)) for name in _USERS)
    )


def _picked(floor: Floor, materials: str, labels: set[str]) -> dict[str, Any]:
    return {m.id: m for m in getattr(floor, materials) if m.id in labels}


def taken_in(document: Document, project: Document) -> tuple[Document, Document]:
    """A floor from elsewhere made to fit a project: the floor and the project with what the floor brings along.

    Materials that the project lacks join it; one whose id stands for another material there gets a new id.
    Setting-out lines with new labels join it too. Raises :class:`RefusedError` where the standards differ.
    """
    have = project_from(project)
    floor = floor_from(document)
    if floor.standard != have.standard:
        raise RefusedError(
            [Refusal("standard", f"is {floor.standard}, but the project designs to {have.standard}; add the floor to a project of its own")]
        )  # fmt: skip
    here = shared_keys(have).get("parameters", {})
    if floor.parameters != here:
        keys = sorted(k for k in {*floor.parameters, *here} if floor.parameters.get(k) != here.get(k))
        raise RefusedError(
            [Refusal("parameters", f"differ from the project's in {', '.join(keys)}; add the floor to a project of its own, or make them equal")]
        )  # fmt: skip
    document, project = dict(document), dict(project)
    for materials, (key, lists) in _USERS.items():
        there = {m.id: m for m in getattr(have, materials)}
        for material in getattr(floor, materials):
            if material.id not in _used(document, materials) or there.get(material.id) == material:
                continue
            label = free_id(material.id, set(there))
            if label != material.id:
                for name in lists:
                    items = document.get(name) or []
                    document[name] = [{**i, key: label} if i[key] == material.id else i for i in items]
            there[label] = material
            project[materials] = [*project[materials], {**material.model_dump(), "id": label}]
    document, project = _loading_taken_in(document, project, floor)
    labels = {g["id"] for g in shared_keys(have)["grid"]} | {g["id"] for g in project.get("grid_sets", [])}
    new = [{"id": g.id, "kind": "single", "line": g.line} for g in floor.grid if g.id not in labels]
    project["grid_sets"] = [*project.get("grid_sets", []), *new]
    return with_shared(document, project_from(project)), project


_LOADING_USERS: tuple[tuple[str, str, str, str | None], ...] = (
    ("load_materials", "build_ups", "material", "layers"), ("build_ups", "partitions", "build_up", None), ("build_ups", "loads", "build_up", None),
    ("partitions", "loads", "partition", None), ("occupancies", "loads", "occupancy", None),
)  # fmt: skip
"""Lists that are named, with the list and key that names them (within a list of each item where one is given)."""


def _loading_taken_in(document: Document, project: Document, floor: Floor) -> tuple[Document, Document]:
    """Materials of layers, build-ups, partitions and occupancies that a floor brings along, the ones that others name
    first, so that a new label is known to those that name it."""
    for name in ("load_materials", "build_ups", "partitions", "occupancies"):
        mine = [dict(i) for i in document.get(name) or []]
        there = {i["id"]: i for i in project.get(name) or []}
        for item in mine:
            label = free_id(item["id"], set(there)) if there.get(item["id"], item) != item else item["id"]
            if label not in there:
                project[name] = [*(project.get(name) or []), {**item, "id": label}]
                there[label] = item
            if label != item["id"]:
                document = _relabelled(document, name, item["id"], label)
    return document, project


def _relabelled(document: Document, name: str, old: str, new: str) -> Document:
    out = {**document, name: [{**i, "id": new} if i["id"] == old else i for i in document.get(name) or []]}
    for named, users, key, within in _LOADING_USERS:
        if named != name:
            continue
        out[users] = [
            {**i, within: [{**l, key: new} if l[key] == old else l for l in i.get(within) or []]} if within
            else {**i, key: new} if i.get(key) == old else i
            for i in out.get(users) or []
        ]  # fmt: skip
    return out
