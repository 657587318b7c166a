"""How columns and walls hold the floor: their springs with the formulas that give them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query

from piastra.api.projects import with_project
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.fe.springs import springs
from piastra.core.model import Refusal, RefusedError, floor_from
from piastra.core.standards import standard_of
from piastra.exchange.results_file import step
from piastra.exchange.results_model import TraceStep
from piastra.store import repository as store

router = APIRouter(prefix="/api")


@router.get("/floors/{floor_id}/springs", responses=REFUSED, response_model=list[TraceStep])
def of_member(
    floor_id: int, kind: Literal["columns", "walls"], label: Annotated[str, Query(max_length=200)], session: Sessions
) -> list[dict[str, Any]]:
    """The springs of one column or wall of the floor's newest revision."""
    record = store.floor(session, floor_id)
    floor = floor_from(with_project(session, record, store.unpack(store.newest(session, floor_id).content)))
    member = next((m for m in getattr(floor, kind) if m.id == label), None)
    if member is None:
        raise RefusedError([Refusal(kind, f"has no '{label}'; name one that is on the floor")])
    concrete = next(c for c in floor.concretes if c.id == member.concrete)
    return [step(s) for s in springs(floor, kind, label, standard_of(floor).materials.modulus(concrete))]
