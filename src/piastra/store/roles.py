"""What people are in projects, as a part of the question who they are."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from sqlalchemy import BindParameter, ScalarSelect, bindparam, select

from piastra.store.tables import FloorRecord, Membership, Revision, Role, RunRecord, User

Place = Literal["project", "floor", "run"]
"""How a project is named: by itself, by a floor in it, or by a run of such a floor."""
NUMBER: BindParameter[int] = bindparam("place")


def _role_at(kind: Place) -> ScalarSelect[Role]:
    query = select(Membership.role).where(Membership.user_id == User.id)
    if kind == "project":
        query = query.where(Membership.project_id == NUMBER)
    else:
        query = query.join(FloorRecord, FloorRecord.project_id == Membership.project_id)
        if kind == "floor":
            query = query.where(FloorRecord.id == NUMBER)
        else:
            query = (
                query.join(Revision, Revision.floor_id == FloorRecord.id)
                .join(RunRecord, RunRecord.revision_id == Revision.id)
                .where(RunRecord.id == NUMBER)
            )
    return query.correlate(User).scalar_subquery()


ROLE_AT: Mapping[Place, ScalarSelect[Role]] = {kind: _role_at(kind) for kind in get_args(Place)}
"""The role of a user of the question around it at the place with that ``NUMBER``; nothing for who is nobody there, and for a place that is not there."""
