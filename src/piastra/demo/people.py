"""The demo's people. They have no passwords: the demo lets its designer in on the machine that it runs on."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from piastra.store import people
from piastra.store import repository as store
from piastra.store.tables import Role


@dataclass(frozen=True, slots=True)
class Shown:
    """Somebody of the demo: what he is in its projects, and whether he looks after people."""

    name: str
    email: str
    role: Role
    administrator: bool = False


DESIGNER = Shown("Mara Lindqvist", "mara@saltmarsh.example", "owner", administrator=True)
OTHERS = (
    Shown("Idris Bakare", "idris@saltmarsh.example", "designer"),
    Shown("Petra Novak", "petra@saltmarsh.example", "checker"),
    Shown("Tomas Reyes", "tomas@saltmarsh.example", "reader"),
)


def settle(session: Session, projects: list[int]) -> None:
    """Give the demo its people, and them their roles in its projects where they have none. What nobody owns is the designer's."""
    for shown in (DESIGNER, *OTHERS):
        user = people.by_email(session, shown.email)
        if user is None:
            user = store.user_named(session, shown.name)
            user.email, user.administrator, user.begins = shown.email, shown.administrator, shown.role in ("owner", "designer")
            session.flush()
        for project_id in projects:
            if people.role_of(session, user.id, project_id) is None:
                people.give_role(session, project_id, user.id, shown.role)
        if shown is DESIGNER:
            for project_id in people.unowned(session):
                people.give_role(session, project_id, user.id, "owner")
