"""How a floor takes what it shares from its project, and how a project takes in a floor from elsewhere."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor, floor_from
from piastra.core.model.copying import free_id
from piastra.core.model.project import Project, project_from, shared_keys
from piastra.core.model.refusal import Refusal, RefusedError

Document = dict[str, Any]

_USERS = {"concretes": ("concrete", ("slabs", "beams", "columns", "walls")), "rebars": ("rebar", ("slabs",))}


def with_shared(document: Document, project: Project) -> Document:
    """The floor file with its project's standard, materials and setting-out lines."""
    return {**document, **shared_keys(project)}


def _used(document: Document, materials: str) -> set[str]:
    key, lists = _USERS[materials]
    return {item[key] for name in lists for item in document.get(name) or []}


def materials_of(document: Document) -> set[str]:
    """Ids of the concretes and steels that a floor file uses."""
    return _used(document, "concretes") | _used(document, "rebars")


def computes_otherwise(document: Document, project: Project) -> bool:
    """Whether taking over what the project shares changes what the floor computes. Raises :class:`RefusedError`
    where the floor uses a material that the project no longer has."""
    after = floor_from(with_shared(document, project))
    before = floor_from(document)
    return before.standard != after.standard or any(
        _picked(before, name, _used(document, name)) != _picked(after, name, _used(document, name)) for name in _USERS
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
    labels = {g["id"] for g in shared_keys(have)["grid"]} | {g["id"] for g in project.get("grid_sets", [])}
    new = [{"id": g.id, "kind": "single", "line": g.line} for g in floor.grid if g.id not in labels]
    project["grid_sets"] = [*project.get("grid_sets", []), *new]
    return with_shared(document, project_from(project)), project
