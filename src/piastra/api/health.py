"""Whether the application is alive, and whether it can do its work."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import BaseModel
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from piastra.api.wiring import Manager, Sessions
from piastra.engine import engine

router = APIRouter(prefix="/api")


class Alive(BaseModel):
    """That it answers, and which engine it is."""

    engine: str


class Ready(BaseModel):
    """What it needs: the ``database`` and ``workers`` that compute."""

    ready: bool
    database: bool
    workers: int


@router.get("/health")
def health() -> Alive:
    """That the application answers."""
    return Alive(engine=engine())


@router.get("/ready", responses={503: {"model": Ready}})
def ready(session: Sessions, manager: Manager, response: Response) -> Ready:
    """Whether it can keep and compute floors; 503 where it cannot."""
    try:
        session.execute(text("select 1"))
        database = True
    except DBAPIError:
        database = False
    workers = manager.workers
    found = Ready(ready=database and workers > 0, database=database, workers=workers)
    if not found.ready:
        response.status_code = 503
    return found
