"""What a practice may let go to save room: results that can be computed again, and what is over. Revisions are never among it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, func, or_, select, text
from sqlalchemy.orm import Session

from piastra.store import entry
from piastra.store.tables import Attempts, FloorRecord, Invitation, Project, ResultArray, Revision, RunRecord, SignIn, Token, now

FORGOTTEN = timedelta(days=30)
"""Links and tokens that are over stay in their lists for so long."""


@dataclass(frozen=True, slots=True)
class Pruned:
    """What went, or would go: ``bytes`` of ``results`` (runs), and sign-ins, links and tokens that are ``over``."""

    results: int
    bytes: int
    over: int

    def __str__(self) -> str:
        return f"results of {self.results} runs, {self.bytes / 1e6:.1f} MB; {self.over} sign-ins, links and tokens that are over"


def prune(session: Session, keep: int = 1, away: bool = False) -> Pruned:
    """Let go the results of all but the newest ``keep`` fresh runs of every floor; of floors and projects that are put ``away`` all of them.

    Their verdicts, messages and probes stay, and they are computed again when they are opened or brought back. The caller commits, or not.
    """
    gone: list[int] = []
    rows = session.execute(
        select(RunRecord.id, Revision.floor_id, FloorRecord.put_away | Project.put_away)
        .join(Revision, Revision.id == RunRecord.revision_id)
        .join(FloorRecord, FloorRecord.id == Revision.floor_id)
        .join(Project, Project.id == FloorRecord.project_id)
        .where(RunRecord.state == "fresh")
        .order_by(RunRecord.id.desc())
    )
    counted: dict[int, int] = {}
    for run_id, floor_id, is_away in rows:
        counted[floor_id] = counted.get(floor_id, 0) + 1
        if counted[floor_id] > keep or (away and is_away):
            gone.append(run_id)
    kept = select(ResultArray.run_id).where(ResultArray.run_id.in_(gone), ResultArray.kind != "brief")
    held = list(session.scalars(kept.distinct())) if gone else []
    size = 0
    if held:
        where = (ResultArray.run_id.in_(held), ResultArray.kind != "brief")
        size = int(session.scalar(select(func.sum(func.length(ResultArray.content))).where(*where)) or 0)
        session.execute(delete(ResultArray).where(*where))
    over = 0
    for statement in (
        delete(SignIn).where(or_(SignIn.made < now() - entry.LIFETIME, SignIn.seen < now() - entry.IDLE)),
        delete(Token).where(Token.expires < now() - FORGOTTEN),
        delete(Invitation).where(or_(Invitation.expires < now() - FORGOTTEN, Invitation.used < now() - FORGOTTEN)),
        delete(Attempts).where(Attempts.last < now() - entry.FORGOTTEN),
    ):
        over += session.execute(statement).rowcount  # type: ignore[attr-defined]
    return Pruned(len(held), size, over)


def give_back(session: Session) -> None:
    """Give the room back to the disk, which the database otherwise keeps for later: the table of results is written anew."""
    session.execute(text("OPTIMIZE TABLE result_arrays"))
