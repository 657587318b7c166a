"""Building models in IFC: made projects, and read again to take over piece by piece what has changed."""

from __future__ import annotations

import json
import zlib
from collections.abc import Sequence
from typing import Annotated, Any, Literal
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from piastra.api.door import Asking
from piastra.api.floors import save
from piastra.api.keeping import from_file
from piastra.api.messages import FloorInFile, Made, ProjectFile, Save, TakenIn
from piastra.api.projects import with_project
from piastra.api.streams import body_of
from piastra.api.wiring import REFUSED, STALE, Manager, Sessions
from piastra.core.model import Refusal, RefusedError, floor_from
from piastra.core.model.merge import differences, merge
from piastra.core.model.project import storeys
from piastra.core.standards import registry
from piastra.exchange.ifc.floors import as_project
from piastra.exchange.ifc.reading import LARGEST, Told, read_ifc
from piastra.exchange.ifc.writing import Written, write_ifc
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import BuildingModel, FloorRecord

router = APIRouter(prefix="/api")

Documents = dict[str, dict[str, Any]]
"""Floor files by the level that they are on."""
COUNTED = ("slabs", "openings", "thickenings", "columns", "walls", "beams")


class ToldState(BaseModel):
    """What of a model could not be read, or was read as something else."""

    what: str
    count: int
    why: str


class StoreyRead(BaseModel):
    """A storey that was read, and how many of what it has."""

    level: str
    counts: dict[str, int]


class ModelRead(BaseModel):
    """A model that became a project."""

    made: Made
    storeys: list[StoreyRead]
    told: list[ToldState]


class PieceChanged(BaseModel):
    """An object of a floor that is new, gone or different in the newest model; ``values`` differ at their paths, before and after. ``at``: where it is, m."""

    level: str
    floor: int
    list: str
    id: str
    kind: Literal["added", "deleted", "changed"]
    values: Sequence[tuple[str, Any, Any]]
    at: tuple[float, float] | None


class ModelCompared(BaseModel):
    """What a model has other than the one that was taken in: pieces by floor; ``levels`` that the project has no floor on."""

    name: str
    pieces: list[PieceChanged]
    levels: list[str]
    told: list[ToldState]


class Piece(BaseModel):
    """A piece to take over."""

    level: str
    list: str
    id: str


class Pieces(BaseModel):
    """Pieces to take over."""

    pieces: Annotated[list[Piece], Field(min_length=1, max_length=20_000)]


class PiecesTaken(BaseModel):
    """Names of the floors that were changed, and of what stands as the floor had it changed itself."""

    floors: list[str]
    clashes: list[str]


def _told(found: list[Told]) -> list[ToldState]:
    return [ToldState(what=t.what, count=t.count, why=t.why) for t in found]


@router.post("/projects/model", responses=REFUSED, status_code=201)
async def from_model(
    request: Request, session: Sessions, manager: Manager, person: Asking, name: str = "model.ifc", standard: str = "EN 1992-1-1",
    units: Literal["SI", "US"] = "SI",
) -> ModelRead:  # fmt: skip
    """A new project from a building model in IFC (the request's body): a floor for each storey with slabs."""
    if standard not in registry.names():
        raise RefusedError([Refusal("standard", f"must be one of: {', '.join(registry.names())}")])
    content = await body_of(request, LARGEST)

    def made() -> ModelRead:
        building = read_ifc(content, name)
        project, floors, told = as_project(building, standard, units)
        files = [FloorInFile(document=d, level=level) for level, d in floors]
        project_made = from_file(TakenIn(file=ProjectFile(project=project, floors=files)), session, manager, person)
        packed = store.pack(dict(floors))
        session.add(BuildingModel(project_id=project_made.project, name=name[:200], taken=packed, newest=packed))
        session.commit()
        counts = [StoreyRead(level=level, counts={k: len(d.get(k, [])) for k in COUNTED}) for level, d in floors]
        return ModelRead(made=project_made, storeys=counts, told=_told([*building.told, *told]))

    return await run_in_threadpool(made)


def _kept(session: Session, project_id: int) -> BuildingModel:
    found = session.get(BuildingModel, project_id)
    if found is None:
        raise RefusedError([Refusal("the project", "was not made from a building model; make a new project from it instead")])
    return found


def _floors(session: Session, project_id: int) -> dict[str, FloorRecord]:
    """The first floor on each level."""
    out: dict[str, FloorRecord] = {}
    for record in store.floors(session, project_id):
        if record.level and not record.put_away:
            out.setdefault(record.level, record)
    return out


def _differing(taken: dict[str, Any], newest: dict[str, Any]) -> dict[tuple[str, str], tuple[str, list[tuple[str, Any, Any]]]]:
    """What of the geometry differs, by list and id."""
    out: dict[tuple[str, str], tuple[str, list[tuple[str, Any, Any]]]] = {}
    before, after = ({k: d[k] for k in COUNTED if k in d} for d in (taken, newest))
    for d in differences(before, after):
        _, values = out.setdefault((d.list, d.id), (d.kind, []))
        if d.path:
            values.append((d.path, d.before, d.after))
    return out


def _place(item: dict[str, Any] | None) -> tuple[float, float] | None:
    if item is None:
        return None
    points = [item["at"]] if "at" in item else item.get("line") or item.get("outline") or []
    if not points:
        return None
    return (sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points))


def _item(document: dict[str, Any], name: str, label: str) -> dict[str, Any] | None:
    return next((i for i in document.get(name, []) if i["id"] == label), None)


@router.post("/projects/{project_id}/model", responses=REFUSED)
async def read_model_again(project_id: int, request: Request, session: Sessions, name: str = "model.ifc") -> ModelCompared:
    """Read a newer building model (the request's body) and tell what differs from the one that was taken in. The floors are not changed."""
    content = await body_of(request, LARGEST)

    def compared() -> ModelCompared:
        _kept(session, project_id)
        shares = shared.head(session, project_id).model
        # Reading takes its time, and holds no connection meanwhile.
        session.rollback()
        building = read_ifc(content, name)
        _, found, told = as_project(building, shares.standard, shares.units)
        kept = _kept(session, project_id)
        newest: Documents = dict(found)
        taken: Documents = store.unpack(kept.taken)
        kept.newest, kept.name = store.pack(newest), name[:200]
        mine = _floors(session, project_id)
        pieces = [
            PieceChanged(
                level=level, floor=mine[level].id, list=which, id=label, kind=kind, values=values,
                at=_place(_item(newest.get(level, {}), which, label) or _item(taken.get(level, {}), which, label)),
            )
            for level in dict.fromkeys([*taken, *newest])
            if level in mine
            for (which, label), (kind, values) in _differing(taken.get(level, {}), newest.get(level, {})).items()
        ]  # fmt: skip
        session.commit()
        return ModelCompared(
            name=name, pieces=pieces, levels=[k for k in newest if k not in mine], told=_told([*building.told, *told])
        )

    return await run_in_threadpool(compared)


@router.post("/projects/{project_id}/model/take", responses=STALE)
def take_pieces(project_id: int, body: Pieces, session: Sessions, manager: Manager, person: Asking) -> PiecesTaken:
    """Take pieces of the newest model over into the floors; what was changed there besides stays."""
    kept = _kept(session, project_id)
    taken: Documents = store.unpack(kept.taken)
    newest: Documents = store.unpack(kept.newest)
    mine, out = _floors(session, project_id), PiecesTaken(floors=[], clashes=[])
    wishes = []
    for level in dict.fromkeys(p.level for p in body.pieces):
        if level not in mine:
            raise RefusedError([Refusal("level", f"{level} has no floor in this project; add one there first")])
        pieces = [p for p in body.pieces if p.level == level]
        wanted = _with_pieces(taken.get(level, {}), newest.get(level, {}), pieces)
        last = store.newest(session, mine[level].id)
        merged = merge(taken.get(level, {}), store.unpack(last.content), wanted)
        # All of them fit before any is changed.
        floor_from(with_project(session, mine[level], merged.document))
        wishes.append((level, len(pieces), wanted, last.number, merged))
    for level, count, wanted, number, merged in wishes:
        line = f"took {count} {'piece' if count == 1 else 'pieces'} over from {kept.name}"[:300]
        save(mine[level].id, Save(based_on=number, document=merged.document, line=line), session, manager, person)
        out.floors.append(mine[level].name)
        out.clashes += [f"{label or which} of {mine[level].name}" for which, label in merged.clashes]
        # What is taken is what the next model is compared with; what is not is told again then.
        taken[level] = wanted
        kept.taken = store.pack(taken)
        session.commit()
    return out


def _with_pieces(taken: dict[str, Any], newest: dict[str, Any], pieces: list[Piece]) -> dict[str, Any]:
    """What was taken before with some pieces of the newest model in it, or out of it."""
    out = dict(taken)
    for piece in pieces:
        if piece.list not in COUNTED:
            raise RefusedError([Refusal("list", f"must be one of: {', '.join(COUNTED)}")])
        item, items = _item(newest, piece.list, piece.id), out.get(piece.list, [])
        others = [i for i in items if i["id"] != piece.id]
        place = next((k for k, i in enumerate(items) if i["id"] == piece.id), len(others))
        out[piece.list] = others if item is None else [*others[:place], item, *others[place:]]
    return out


@router.get("/projects/{project_id}/model.ifc", responses=REFUSED, response_class=Response)
def as_model(project_id: int, session: Sessions) -> Response:
    """The building as a model in IFC4: the first floor on each level, with bars and tendons where its newest revision has results."""
    head = shared.head(session, project_id)
    mine = _floors(session, project_id)
    written = []
    for level in storeys(head.model):
        record = mine.get(level.id)
        if record is None:
            continue
        last = store.newest(session, record.id)
        document = with_project(session, record, store.unpack(last.content))
        if not document.get("slabs"):
            continue
        run = store.standing_run(session, last)
        found = store.result(session, run.id, "results") if run is not None and run.state == "fresh" else None
        results = None if found is None else json.loads(zlib.decompress(found))
        written.append(Written(level.id, round(level.elevation, 6), floor_from(document), results))
    if not written:
        raise RefusedError(
            [Refusal("the project", "has no floor with a slab on any of its levels; give floors their levels first")]
        )
    name = quote(f"{head.record.name}.ifc", safe="")
    return Response(
        write_ifc(head.record.name, written), media_type="application/x-step",
        headers={"Content-Disposition": f"attachment; filename=building.ifc; filename*=UTF-8''{name}"},
    )  # fmt: skip
