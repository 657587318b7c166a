"""Put the demo project into the database if it is not there: ``python -m piastra.demo.load``."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import Any

from piastra.core.model import Floor
from piastra.core.model.project import Project, level_of
from piastra.core.model.sharing import with_shared
from piastra.demo import lodge
from piastra.demo.people import DESIGNER, settle
from piastra.demo.saltmarsh import LEVELS, floors, project
from piastra.exchange.floor_file import document
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.database import connect, migrate, sessions

PROJECTS = "PIASTRA_DEMO_PROJECTS"
"""Of the environment: 0 leaves the demo's projects out, and adds its people alone; another number takes so many floors of each."""


def by_level(floor: dict[str, Any], shown: Project, level: str) -> dict[str, Any]:
    """The floor with columns and walls that follow their level, where they are as high as its storeys."""
    here = level_of(shown, level)
    assert here is not None
    for item in (*floor.get("columns", []), *floor.get("walls", [])):
        for part in ("below", "above"):
            if item.get(part) and item[part]["height_m"] == here[f"{part}_m"]:
                item[part]["by_level"] = True
    return with_shared(floor, shown, level)


def _shown() -> list[tuple[Project, Sequence[Floor], Sequence[str]]]:
    few = int(os.environ.get(PROJECTS) or len(LEVELS))
    if few == 0:
        return []
    return [(project(), floors()[:few], LEVELS[:few]), (lodge.project(), [lodge.second_floor()], [lodge.LEVEL])]


def main() -> None:
    """Migrate the database and add the demo's people and projects."""
    engine = connect()
    migrate(engine)
    with sessions(engine).begin() as session:
        there = {p.name: p.id for p in store.projects(session)}
        shown_ids = []
        for shown, made_of, levels in _shown():
            if shown.name not in there:
                made = shared.add(session, shown.model_dump(mode="json", exclude_unset=True), DESIGNER.name)
                for floor, level in zip(made_of, levels, strict=True):
                    store.add_floor(
                        session, made.record.id, floor.name, by_level(document(floor), shown, level), DESIGNER.name, level
                    )
                there[shown.name] = made.record.id
            shown_ids.append(there[shown.name])
        settle(session, shown_ids)
    engine.dispose()


if __name__ == "__main__":
    main()
