"""Put the demo project into the database if it is not there: ``python -m piastra.demo.load``."""

from __future__ import annotations

from piastra.demo.saltmarsh import LEVEL, PROJECT, floors, project
from piastra.exchange.floor_file import document
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.database import connect, migrate, sessions


def main() -> None:
    """Migrate the database and add the demo project."""
    engine = connect()
    migrate(engine)
    with sessions(engine).begin() as session:
        if PROJECT not in {p.name for p in store.projects(session)}:
            made = shared.add(session, project().model_dump(mode="json", exclude_unset=True), "Piastra")
            for floor in floors():
                store.add_floor(session, made.record.id, floor.name, document(floor), "Piastra", LEVEL)
    engine.dispose()


if __name__ == "__main__":
    main()
