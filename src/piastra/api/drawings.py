"""Drawings under floors, and floors as drawings."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from piastra.api.messages import DrawingLine, DrawingState, LayerChoice, LayerState, RecognisedState, UnreadState
from piastra.api.projects import with_project
from piastra.api.streams import body_of
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.geometry.arcs import chords, polyline
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.exchange import floor_file
from piastra.exchange.dxf.drawing import Drawing, Path, drawing_from
from piastra.exchange.dxf.reading import LARGEST, read_dxf
from piastra.exchange.dxf.recognise import recognise
from piastra.exchange.dxf.writing import write_dxf
from piastra.store import repository as store

router = APIRouter(prefix="/api")


def _points(path: Path) -> list[list[float]]:
    """Where a path is drawn along, arcs as chords; most paths of a drawing are short and straight, and there may be very many."""
    if all(len(v) == 2 for v in path.vertices):
        return [[round(x, 4), round(y, 4)] for x, y in path.vertices]
    xy = chords(path.vertices) if path.closed else polyline(path.vertices)
    points: list[list[float]] = xy.round(4).tolist()
    return points


def _state(number: int, drawing: Drawing) -> DrawingState:
    lines, texts = Counter(p.layer for p in drawing.paths), Counter(t.layer for t in drawing.texts)
    shown = []
    for path in drawing.paths:
        points = _points(path)
        shown.append(DrawingLine(layer=path.layer, points=[*points, points[0]] if path.closed else points))
    return DrawingState(
        id=number, name=drawing.name, unit=drawing.unit, notes=drawing.notes, lines=shown,
        layers=[LayerState(name=n, lines=lines[n], texts=texts[n]) for n in drawing.layers],
        unread=[UnreadState(**asdict(u)) for u in drawing.unread],
    )  # fmt: skip


@router.post("/floors/{floor_id}/drawing", responses=REFUSED, status_code=201)
async def underlay(
    floor_id: int,
    request: Request,
    session: Sessions,
    name: str = "drawing.dxf",
    unit: str | None = None,
    to_origin: bool = False,
) -> DrawingState:
    """Lay a DXF file (the request's body) under a floor. A broken or huge one is refused with a sentence."""
    content = await body_of(request, LARGEST)

    # Neither reading nor the database holds up the loop that hears everybody, and no connection is held while the file comes.
    def read_and_kept() -> DrawingState:
        store.floor(session, floor_id)
        session.rollback()
        drawing = read_dxf(content, name, unit, to_origin)
        made = store.keep_drawing(session, floor_id, name, drawing.plain())
        session.commit()
        return _state(made.id, drawing)

    return await run_in_threadpool(read_and_kept)


def _kept(session: Sessions, floor_id: int) -> tuple[int, Drawing] | None:
    store.floor(session, floor_id)
    found = store.drawing(session, floor_id)
    return (found.id, drawing_from(store.unpack(found.content))) if found else None


@router.get("/floors/{floor_id}/drawing", responses=REFUSED)
def drawing(floor_id: int, session: Sessions) -> DrawingState | None:
    """The drawing under a floor, if there is one."""
    found = _kept(session, floor_id)
    return _state(*found) if found else None


@router.delete("/floors/{floor_id}/drawing", status_code=204, responses=REFUSED)
def take_away(floor_id: int, session: Sessions) -> Response:
    """Take the drawing under a floor away."""
    store.floor(session, floor_id)
    store.drop_drawing(session, floor_id)
    session.commit()
    return Response(status_code=204)


@router.post("/floors/{floor_id}/drawing/recognise", responses=REFUSED)
def recognised(floor_id: int, body: LayerChoice, session: Sessions) -> RecognisedState:
    """What the chosen layers of the floor's drawing would become; nothing is saved."""
    found = _kept(session, floor_id)
    if found is None:
        raise store.MissingError("there is no drawing under this floor; bring one in first")
    try:
        made = recognise(found[1], body.layers, body.wall_thickness_m)
    except ValueError as error:
        raise RefusedError([Refusal("layers", str(error))]) from None
    return RecognisedState(
        slabs=made.slabs, openings=made.openings, drop_panels=made.drop_panels, columns=made.columns, beams=made.beams, walls=made.walls,
        grid=made.grid, unused=[UnreadState(**asdict(u)) for u in made.unused],
    )  # fmt: skip


@router.get("/floors/{floor_id}/dxf", responses=REFUSED, response_class=Response)
def as_dxf(floor_id: int, session: Sessions) -> Response:
    """The floor's plan as a DXF file."""
    record = store.floor(session, floor_id)
    document = with_project(session, record, store.unpack(store.newest(session, floor_id).content))
    content = write_dxf(floor_file.floor_from(document))
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " -_") else "_" for c in record.name)
    return Response(content, media_type="image/vnd.dxf", headers={"Content-Disposition": f'attachment; filename="{plain}.dxf"'})
