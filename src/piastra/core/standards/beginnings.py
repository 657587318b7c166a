"""Documents of a new project and of a new floor."""

from __future__ import annotations

from typing import Any

from piastra.core.model.project import Project, shared_keys
from piastra.core.standards.protocol import Library
from piastra.core.standards.registry import standard_named

STOREY = {"SI": 3.6, "US": 3.6576}
"""Height (m) of a new project's one storey, a round figure in its units."""


def library(standard: str) -> dict[str, list[dict[str, Any]]]:
    """The materials and uses that a standard's projects may choose from, by list of the project file."""
    known: Library = standard_named(standard).library
    return {name: [dict(i) for i in getattr(known, name)] for name in ("concretes", "rebars", "load_materials", "occupancies")}


def new_project(name: str, units: str, standard: str) -> dict[str, Any]:
    """The document of an empty project with the standard's common materials and one level."""
    known = library(standard)
    concrete, rebar = standard_named(standard).library.first
    return {
        "format": "piastra-project", "version": 1, "name": name, "units": units, "standard": standard,
        "concretes": [known["concretes"][concrete]], "rebars": [known["rebars"][rebar]],
        "levels": [{"id": "Level 1", "height_m": STOREY[units]}], "grid_sets": [],
        "load_materials": known["load_materials"], "occupancies": known["occupancies"],
    }  # fmt: skip


def new_floor(project: Project, name: str) -> dict[str, Any]:
    """The document of a floor with nothing on it but self-weight, a dead, a live case and their combinations."""
    rows = standard_named(project.standard).actions.beginning
    return {
        "format": "piastra-floor", "version": 1, "name": name, "slabs": [],
        "load_cases": [{"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"},
                       {"id": "Q", "nature": "live", "pattern": True}],
        "combinations": [{"id": k, "limit_state": state, "factors": dict(f), "rule": rule} for k, state, f, rule in rows],
        **shared_keys(project),
    }  # fmt: skip
