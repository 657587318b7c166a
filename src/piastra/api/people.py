"""The people of a project and of the practice, their roles, and the links that invite them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from piastra.api.door import Asking
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.model import Refusal, RefusedError
from piastra.core.model.shapes import NAME
from piastra.store import entry, factor
from piastra.store import people as store
from piastra.store.repository import MissingError
from piastra.store.tables import Invitation, Kind, Role, User

router = APIRouter(prefix="/api")

Note = Annotated[str, Field(max_length=120, pattern=rf"^$|{NAME}")]
MOST_LINKS = 100


class Member(BaseModel):
    """Somebody who works in a project."""

    id: int
    name: str
    email: str
    role: Role


class RoleGiven(BaseModel):
    """A role in a project."""

    role: Role


class LinkState(BaseModel):
    """A link that still lets somebody in; its secret is not kept."""

    id: int
    kind: Kind
    role: Role | None
    note: str
    by: str | None
    expires: datetime


class NewLink(BaseModel):
    """A link into a project with a role; ``note`` says for whom."""

    role: Role
    note: Note = ""


class NewPracticeLink(BaseModel):
    """A link into the practice: who comes by it may begin projects; as an ``administrator`` also look after people."""

    administrator: bool = False
    note: Note = ""


class MadeLink(BaseModel):
    """A link, and its secret, which is told this once."""

    link: LinkState
    secret: str


class Somebody(BaseModel):
    """A person with an account."""

    id: int
    name: str
    email: str
    administrator: bool
    begins: bool
    barred: bool
    factor: bool
    projects: int


class Change(BaseModel):
    """What an administrator changes of a person; null: nothing."""

    administrator: bool | None = None
    begins: bool | None = None
    barred: bool | None = None


def _link(session: Session, found: Invitation) -> LinkState:
    by = session.get(User, found.made_by_id) if found.made_by_id is not None else None
    return LinkState(
        id=found.id, kind=found.kind, role=found.role, note=found.note, by=by.name if by else None, expires=found.expires
    )  # fmt: skip


def _made(session: Session, made: tuple[Invitation, str]) -> MadeLink:
    session.commit()
    return MadeLink(link=_link(session, made[0]), secret=made[1])


def _not_too_many(session: Session, project_id: int | None) -> None:
    if len(store.invitations(session, project_id)) >= MOST_LINKS:
        raise RefusedError([Refusal("the link", f"would be one too many: {MOST_LINKS} at most; take old ones back")])


@router.get("/projects/{project_id}/people", responses=REFUSED)
def people(project_id: int, session: Sessions) -> list[Member]:
    """Who works in a project."""
    return [Member(id=u.id, name=u.name, email=u.email or "", role=role) for u, role in store.members(session, project_id)]


@router.put("/projects/{project_id}/people/{user_id}", status_code=204, responses=REFUSED)
def give_role(project_id: int, user_id: int, body: RoleGiven, session: Sessions) -> Response:
    """Change the role of somebody in a project."""
    if store.role_of(session, user_id, project_id) is None:
        raise MissingError("this person is not in the project")
    store.give_role(session, project_id, user_id, body.role)
    session.commit()
    return Response(status_code=204)


@router.delete("/projects/{project_id}/people/{user_id}", status_code=204, responses=REFUSED)
def take_role(project_id: int, user_id: int, session: Sessions) -> Response:
    """Take somebody out of a project; his changes stay in its history."""
    store.take_role(session, project_id, user_id)
    session.commit()
    return Response(status_code=204)


@router.get("/projects/{project_id}/links", responses=REFUSED)
def project_links(project_id: int, session: Sessions) -> list[LinkState]:
    """Links into a project that are open."""
    return [_link(session, i) for i in store.invitations(session, project_id)]


@router.post("/projects/{project_id}/links", responses=REFUSED, status_code=201)
def project_link(project_id: int, body: NewLink, session: Sessions, person: Asking) -> MadeLink:
    """A link that lets one person into a project."""
    _not_too_many(session, project_id)
    return _made(session, store.invite(session, "project", person.id, project_id, body.role, body.note))


@router.delete("/projects/{project_id}/links/{link_id}", status_code=204, responses=REFUSED)
def take_back_project_link(project_id: int, link_id: int, session: Sessions) -> Response:
    """Take a link back."""
    store.take_back(session, link_id, project_id)
    session.commit()
    return Response(status_code=204)


@router.get("/people", responses=REFUSED)
def everybody(session: Sessions) -> list[Somebody]:
    """All people with an account."""
    return [
        Somebody(id=u.id, name=u.name, email=u.email or "", administrator=u.administrator, begins=u.begins, barred=u.barred, factor=u.factor is not None,
                 projects=len(store.roles_of(session, u.id)))
        for u in store.everybody(session)
    ]  # fmt: skip


@router.put("/people/{user_id}", status_code=204, responses=REFUSED)
def change_person(user_id: int, body: Change, session: Sessions) -> Response:
    """Make somebody an administrator, let him begin projects, or keep him out."""
    user = store.person(session, user_id)
    if body.administrator is not None:
        store.make_administrator(session, user, body.administrator)
    if body.begins is not None:
        user.begins = body.begins
    if body.barred is not None:
        store.bar(session, user, body.barred)
    session.commit()
    return Response(status_code=204)


@router.post("/people/{user_id}/password-link", responses=REFUSED, status_code=201)
def new_password_link(user_id: int, session: Sessions, person: Asking) -> MadeLink:
    """A link with which somebody who forgot his password chooses a new one."""
    user = store.person(session, user_id)
    return _made(session, store.invite(session, "password", person.id, user_id=user.id, note=user.email or ""))


@router.post("/people/{user_id}/second-factor/off", status_code=204, responses=REFUSED)
def take_off_factor_of(user_id: int, session: Sessions) -> Response:
    """Let somebody whose device and spare codes are lost come in by the password alone."""
    user = store.person(session, user_id)
    factor.take_off(user)
    entry.note(session, user.id, "the second factor was taken off by who looks after people")
    session.commit()
    return Response(status_code=204)


@router.get("/practice-links", responses=REFUSED)
def practice_links(session: Sessions) -> list[LinkState]:
    """Links into the practice that are open."""
    return [_link(session, i) for i in store.invitations(session, None)]


@router.post("/practice-links", responses=REFUSED, status_code=201)
def practice_link(body: NewPracticeLink, session: Sessions, person: Asking) -> MadeLink:
    """A link that lets one person into the practice."""
    _not_too_many(session, None)
    return _made(session, store.invite(session, "administrator" if body.administrator else "practice", person.id, note=body.note))


@router.delete("/practice-links/{link_id}", status_code=204, responses=REFUSED)
def take_back_practice_link(link_id: int, session: Sessions) -> Response:
    """Take a link back."""
    store.take_back(session, link_id, None)
    session.commit()
    return Response(status_code=204)
