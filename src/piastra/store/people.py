"""People, their roles in projects, and the links that let them in."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from piastra.core.model.refusal import Refusal, RefusedError
from piastra.store import entry, factor
from piastra.store.repository import MissingError
from piastra.store.tables import (
    Invitation,
    Kind,
    Membership,
    Notice,
    Project,
    Revision,
    Role,
    SignIn,
    Token,
    User,
    now,
)

ROLES: tuple[Role, ...] = ("reader", "checker", "designer", "owner")
"""From the least to the greatest."""
MOST_PROJECTS = 400
"""Projects that one person may own."""
GOOD_FOR = timedelta(days=7)
"""Links let somebody in for so long."""


def role_of(session: Session, user_id: int, project_id: int) -> Role | None:
    """A person's role in a project."""
    found = session.get(Membership, (project_id, user_id))
    return found.role if found else None


def roles_of(session: Session, user_id: int) -> dict[int, Role]:
    """A person's roles, by project."""
    rows = session.execute(select(Membership.project_id, Membership.role).where(Membership.user_id == user_id))
    return {row[0]: row[1] for row in rows}


def projects_of(session: Session, user_id: int) -> list[tuple[Project, Role]]:
    """The projects that a person works in, by name, also those that were put away."""
    query = select(Project, Membership.role).join(Membership, Membership.project_id == Project.id)
    rows = session.execute(query.where(Membership.user_id == user_id).order_by(Project.name, Project.id))
    return [(r[0], r[1]) for r in rows]


def not_too_many(session: Session, user_id: int) -> None:
    """Raises :class:`RefusedError` for who owns as many projects as one may."""
    if sum(role == "owner" for role in roles_of(session, user_id).values()) >= MOST_PROJECTS:
        raise RefusedError(
            [Refusal("the project", f"would be one too many: {MOST_PROJECTS} of one owner at most; hand some over")]
        )


def names_known_to(session: Session, user_id: int) -> set[str]:
    """Names that are taken for a person: of projects that he works in. What others call theirs he is not told."""
    return {p.name for p, _ in projects_of(session, user_id)}


def members(session: Session, project_id: int) -> list[tuple[User, Role]]:
    """The people of a project, by name."""
    query = select(User, Membership.role).join(Membership, Membership.user_id == User.id)
    return [(r[0], r[1]) for r in session.execute(query.where(Membership.project_id == project_id).order_by(User.name))]


def give_role(session: Session, project_id: int, user_id: int, role: Role) -> None:
    """Make somebody a member of a project, or change his role. Raises :class:`RefusedError` where no owner would be left."""
    found = session.get(Membership, (project_id, user_id))
    if found is None:
        session.add(Membership(project_id=project_id, user_id=user_id, role=role))
    else:
        if role != "owner":
            _one_owner_left(session, project_id, user_id)
        found.role = role
    session.flush()


def take_role(session: Session, project_id: int, user_id: int) -> None:
    """Take somebody out of a project. Raises :class:`MissingError`, and :class:`RefusedError` where no owner would be left."""
    found = session.get(Membership, (project_id, user_id))
    if found is None:
        raise MissingError("this person is not in the project")
    _one_owner_left(session, project_id, user_id)
    session.delete(found)


def _one_owner_left(session: Session, project_id: int, user_id: int) -> None:
    # Locked, so that two owners who leave at once do not both see the other stay.
    owners = session.scalars(
        select(Membership.user_id).where(Membership.project_id == project_id, Membership.role == "owner").with_for_update()
    ).all()
    if list(owners) == [user_id]:
        raise RefusedError([Refusal("role", "is that of the only owner of this project; make another person owner first")])


def invite(
    session: Session, kind: Kind, made_by: int | None, project_id: int | None = None, role: Role | None = None, note: str = "",
    user_id: int | None = None,
) -> tuple[Invitation, str]:  # fmt: skip
    """A link that lets one person in: into a ``project`` with a role, into the ``practice`` (who may begin projects), as ``administrator``, or
    back in with a new ``password``. The invitation, and its secret, which is told this once."""
    secret = secrets.token_urlsafe(32)
    made = Invitation(
        digest=entry.digest(secret), kind=kind, project_id=project_id, role=role, note=note, made_by_id=made_by, user_id=user_id,
        expires=now() + GOOD_FOR,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made, secret


def open_invitation(session: Session, secret: str, lock: bool = False) -> Invitation:
    """The invitation of a link. Raises :class:`MissingError` for one that is used, over or unknown."""
    query = select(Invitation).where(Invitation.digest == entry.digest(secret))
    found = session.scalar(query.with_for_update() if lock else query)
    if found is None or found.used is not None or found.expires < now():
        raise MissingError("this link is used already, is older than a week, or was taken back; ask for another")
    return found


def invitations(session: Session, project_id: int | None) -> Sequence[Invitation]:
    """Links of a project, or of the practice, that still let somebody in."""
    where = Invitation.project_id.is_(None) if project_id is None else Invitation.project_id == project_id
    query = select(Invitation).where(where, Invitation.used.is_(None), Invitation.expires > now())
    return session.scalars(query.order_by(Invitation.id.desc())).all()


def take_back(session: Session, invitation_id: int, project_id: int | None) -> None:
    """Take a link back. Raises :class:`MissingError`."""
    where = Invitation.project_id.is_(None) if project_id is None else Invitation.project_id == project_id
    done = session.execute(delete(Invitation).where(Invitation.id == invitation_id, where, Invitation.used.is_(None)))
    if not done.rowcount:  # type: ignore[attr-defined]
        raise MissingError("there is no such link; it may have been used")


def made_account(session: Session, name: str, email: str, password: str) -> User:
    """A person who can sign in. A name that stands in the history already, without an account, stays with the history. Raises
    :class:`RefusedError`."""
    address = email.strip().casefold()
    entry.fit(password, name, address)
    refusals = []
    if session.scalar(select(User.id).where(User.name == name)) is not None:
        refusals.append(Refusal("name", "is that of somebody who is here already; add what tells you apart"))
    if session.scalar(select(User.id).where(User.email == address)) is not None:
        refusals.append(Refusal("email", "has an account; sign in, then open the link once more"))
    if refusals:
        raise RefusedError(refusals)
    made = User(name=name, email=address, password=entry.hashed(password))
    session.add(made)
    try:
        session.flush()
    except IntegrityError:
        session.rollback()
        raise RefusedError([Refusal("name", "or email was taken this moment; try again")]) from None
    return made


def accept(session: Session, invitation: Invitation, user: User) -> None:
    """Give a person what an invitation is for. The first administrator takes over projects that nobody owns."""
    invitation.used = now()
    if invitation.project_id is not None and invitation.role is not None:
        had = role_of(session, user.id, invitation.project_id)
        if had is None or ROLES.index(had) < ROLES.index(invitation.role):
            give_role(session, invitation.project_id, user.id, invitation.role)
        user.begins = user.begins or invitation.role in ("owner", "designer")
    elif invitation.kind in ("practice", "administrator"):
        user.begins = True
    if invitation.kind == "administrator":
        user.administrator = True
        for project_id in unowned(session):
            give_role(session, project_id, user.id, "owner")
    session.flush()


def unowned(session: Session) -> list[int]:
    """Projects without an owner."""
    owned = select(Membership.project_id).where(Membership.role == "owner")
    return list(session.scalars(select(Project.id).where(Project.id.not_in(owned)).order_by(Project.id)))


def set_password(session: Session, user: User, password: str, but: int | None = None) -> None:
    """A new password; it signs the person out of all browsers ``but`` one."""
    entry.fit(password, user.name, user.email or "")
    user.password = entry.hashed(password)
    entry.end_sign_ins(session, user.id, but)
    session.execute(
        delete(Invitation).where(Invitation.user_id == user.id, Invitation.kind == "password", Invitation.used.is_(None))
    )
    session.flush()


def person(session: Session, user_id: int) -> User:
    """A person with an account. Raises :class:`MissingError`."""
    found = session.get(User, user_id)
    if found is None or found.email is None:
        raise MissingError("there is no such person")
    return found


def by_email(session: Session, email: str) -> User | None:
    """The person of an address."""
    return session.scalar(select(User).where(User.email == email.strip().casefold()))


def everybody(session: Session) -> Sequence[User]:
    """All people with an account, by name."""
    return session.scalars(select(User).where(User.email.is_not(None)).order_by(User.name)).all()


def bar(session: Session, user: User, barred: bool) -> None:
    """Keep somebody out, at once, or let him in again. Raises :class:`RefusedError` for the last administrator."""
    if barred:
        _one_administrator_left(session, user)
        session.execute(delete(SignIn).where(SignIn.user_id == user.id))
        session.execute(update(Token).where(Token.user_id == user.id).values(expires=now()))
    user.barred = barred


def changes_of(session: Session, user_id: int) -> int:
    """How many revisions of floors a person made."""
    return session.scalar(select(func.count()).select_from(Revision).where(Revision.author_id == user_id)) or 0


def forget(session: Session, user: User) -> None:
    """Take an account away; the name stays with what it changed. Raises :class:`RefusedError` for the only owner of a project and for the only
    administrator."""
    _one_administrator_left(session, user)
    for project_id, role in roles_of(session, user.id).items():
        if role == "owner":
            _one_owner_left(session, project_id, user.id)
    for table in (SignIn, Token, Membership, Notice):
        session.execute(delete(table).where(table.user_id == user.id))
    session.execute(delete(Invitation).where(Invitation.user_id == user.id))
    user.email = user.password = None
    user.administrator = user.begins = False
    factor.take_off(user)
    session.flush()


def make_administrator(session: Session, user: User, administrator: bool) -> None:
    """Raises :class:`RefusedError` for the last administrator, who stays one."""
    if not administrator:
        _one_administrator_left(session, user)
    user.administrator = administrator


def _one_administrator_left(session: Session, user: User) -> None:
    others = session.scalar(
        select(func.count()).select_from(User).where(User.administrator, User.barred.is_(False), User.id != user.id)
    )
    if user.administrator and not others:
        raise RefusedError([Refusal("the person", "is the only administrator; make another one first")])
