"""A building at a glance: every floor with its picture and its verdict, and runs of several floors at once."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from piastra.api.messages import RunSummary
from piastra.api.streams import stream_of
from piastra.api.wiring import REFUSED, Manager, Sessions, run_summaries
from piastra.core.geometry.arcs import chords, polyline
from piastra.core.model.project import storeys
from piastra.exchange.results_model import CheckRow, TakeoffState
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord, User

router = APIRouter(prefix="/api")

Pair = tuple[float, float]


class PictureState(BaseModel):
    """What a small picture of a floor shows, m: outlines of slabs, thickenings and openings, arcs as chords; lines of walls and beams; places of columns. What stands on
    the floor and does not hold it is told apart (``upper``)."""

    slabs: list[list[Pair]]
    thickenings: list[list[Pair]]
    openings: list[list[Pair]]
    walls: list[list[Pair]]
    beams: list[list[Pair]]
    columns: list[Pair]
    upper_walls: list[list[Pair]]
    upper_columns: list[Pair]


class CardState(BaseModel):
    """A floor of the building. ``known``: of which revision its verdict is, null without one; ``life``: whether it has a history, and that was computed for
    this verdict; ``thicknesses_m`` of its slabs; ``ground``: it lies on the ground."""

    id: int
    name: str
    level: str | None
    elevation_m: float | None
    follows: str | None
    standard: str
    revision: int
    made: datetime
    author: str
    line: str
    run: RunSummary | None
    known: int | None
    life: Literal["none", "estimated", "computed"]
    verdict: list[CheckRow]
    takeoff: TakeoffState | None
    area_m2: float | None
    thicknesses_m: list[float]
    tendons: int
    ground: bool
    picture: PictureState


class LevelState(BaseModel):
    """A level with its elevation, m."""

    id: str
    elevation_m: float


class OverviewState(BaseModel):
    """A building: its levels from the lowest, above its base (``base_m``), its floors in their order."""

    id: int
    name: str
    units: str
    standard: str
    base_m: float
    levels: list[LevelState]
    floors: list[CardState]


def _picture(document: dict[str, Any]) -> PictureState:
    def rings(name: str) -> list[list[Pair]]:
        return [_points(chords(o["outline"])) for o in document.get(name, [])]

    def lines(items: list[dict[str, Any]]) -> list[list[Pair]]:
        return [_points(polyline(o["line"])) for o in items]

    def places(items: list[dict[str, Any]]) -> list[Pair]:
        return [(round(c["at"][0], 3), round(c["at"][1], 3)) for c in items]

    columns, walls = (
        [[i for i in document.get(k, []) if bool(i.get("below")) is held] for held in (True, False)] for k in ("columns", "walls")
    )
    return PictureState(
        slabs=rings("slabs"), thickenings=rings("thickenings"), openings=rings("openings"), walls=lines(walls[0]), upper_walls=lines(walls[1]),
        beams=lines(document.get("beams", [])), columns=places(columns[0]), upper_columns=places(columns[1]),
    )  # fmt: skip


def _points(found: Any) -> list[Pair]:
    return [(round(float(x), 3), round(float(y), 3)) for x, y in found]


def _card(session: Session, record: FloorRecord, elevations: dict[str, float], names: dict[int, str]) -> CardState:
    last = store.newest(session, record.id)
    document = store.unpack(last.content)
    run, fresh = run_summaries(session, record.id, last)
    brief = store.briefs(session, [fresh.id]).get(fresh.id, {}) if fresh is not None else {}
    author = session.get(User, last.author_id)
    return CardState(
        id=record.id, name=record.name, level=record.level, elevation_m=elevations.get(record.level or ""),
        follows=names.get(record.follows_id or 0), standard=document.get("standard", ""), revision=last.number, made=last.made,
        author=author.name if author else "", line=last.line, run=run, known=fresh.revision if fresh is not None else None,
        life="none" if not document.get("history") else "computed" if brief.get("lived") else "estimated",
        verdict=brief.get("verdict") or [], takeoff=brief.get("takeoff"), area_m2=brief.get("area_m2"),
        thicknesses_m=sorted({s["thickness_m"] for s in document.get("slabs", [])}), tendons=len(document.get("tendons", [])),
        ground=any(s.get("kind") == "area" for s in document.get("supports", [])), picture=_picture(document),
    )  # fmt: skip


@router.get("/projects/{project_id}/overview", responses=REFUSED)
def overview(project_id: int, session: Sessions) -> OverviewState:
    """Every floor of a building that is in use, with what is known of it."""
    head = shared.head(session, project_id)
    levels = storeys(head.model)
    elevations = {s.id: round(s.elevation, 6) for s in levels}
    records = store.floors(session, project_id)
    names = {r.id: r.name for r in records}
    return OverviewState(
        id=project_id, name=head.record.name, units=head.model.units, standard=head.model.standard, base_m=head.model.base_m,
        levels=[LevelState(id=k, elevation_m=z) for k, z in elevations.items()],
        floors=[_card(session, r, elevations, names) for r in records if not r.put_away],
    )  # fmt: skip


class Batch(BaseModel):
    """Floors of the project; none given: all that are in use. ``lives``: with their histories, where these are asked for."""

    floors: Annotated[list[int], Field(max_length=1000)] = []
    lives: bool = False


class Begun(BaseModel):
    """Names of the floors whose runs were begun, of those that have their results already or are on their way, and of those without a slab (or, where
    lives are asked for, without a history)."""

    begun: list[str]
    known: list[str]
    empty: list[str]


def _chosen(session: Session, project_id: int, wanted: list[int]) -> list[FloorRecord]:
    if wanted:
        return [store.floor_of(session, project_id, floor_id) for floor_id in dict.fromkeys(wanted)]
    return [r for r in store.floors(session, project_id) if not r.put_away]


@router.post("/projects/{project_id}/runs", responses=REFUSED, status_code=202)
def run_floors(project_id: int, body: Batch, session: Sessions, manager: Manager) -> Begun:
    """Run the floors that have no results of their newest revision: those whose runs were cancelled or failed, or that another engine computed; with
    ``lives`` those whose histories are not computed."""
    out = Begun(begun=[], known=[], empty=[])
    for record in _chosen(session, project_id, body.floors):
        last = store.newest(session, record.id)
        document, standing = store.unpack(last.content), store.standing_run(session, last)
        if not document.get("slabs") or (body.lives and not document.get("history")):
            out.empty.append(record.name)
        elif standing is not None and (not body.lives or store.briefs(session, [standing.id]).get(standing.id, {}).get("lived")):
            out.known.append(record.name)
        else:
            manager.submit(record.id, last.id, last.number, document, rigorous=body.lives, together=True)
            out.begun.append(record.name)
    return out


@router.post("/projects/{project_id}/runs/cancel", responses=REFUSED, status_code=204)
def cancel_floors(project_id: int, body: Batch, session: Sessions, manager: Manager) -> None:
    """Cancel the open runs of floors."""
    for record in _chosen(session, project_id, body.floors):
        manager.stop(record.id, "cancelled")


def _in_use(request: Request, project_id: int) -> list[int]:
    with request.app.state.sessions() as session:
        shared.head(session, project_id)
        return [r.id for r in store.floors(session, project_id) if not r.put_away]


@router.get("/projects/{project_id}/events", responses=REFUSED, response_class=StreamingResponse)
async def project_events(project_id: int, manager: Manager, request: Request) -> StreamingResponse:
    """What happens to all floors of a project, as server-sent events; of floors that are made later, those who ask again hear."""
    return stream_of(await run_in_threadpool(_in_use, request, project_id), manager, request)
