"""The application: routers, errors as sentences, the front end's files, and the runs behind them."""

from __future__ import annotations

import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.routing import APIRoute
from sqlalchemy.exc import DataError, DBAPIError
from starlette.exceptions import HTTPException

from piastra import __version__
from piastra.api import (
    account,
    building,
    combinations,
    drawings,
    entrance,
    floors,
    health,
    keeping,
    lateral,
    models,
    overview,
    people,
    plan_work,
    projects,
    readings,
    replacing,
    reports,
    review,
    springs,
    studies,
    watch,
    wiring,
)
from piastra.api.assets import Assets
from piastra.api.bounds import Bounds
from piastra.api.door import Door
from piastra.api.headers import Headers
from piastra.api.messages import Problem, Problems
from piastra.api.schema import typed_documents
from piastra.api.watch import Watch
from piastra.core.model import RefusedError
from piastra.jobs.apart import ADDRESS, KEY, RunsApart
from piastra.jobs.running import running
from piastra.store import repository as store
from piastra.store.database import connect, sessions

log = structlog.get_logger()

ROUTERS = tuple(
    module.router
    for module in (
        health, entrance, account, people, projects, floors, keeping, replacing, plan_work, drawings, readings, reports, review, springs, building, lateral, models, overview, studies, combinations, watch,
    )
)  # fmt: skip
"""Everything that the interface and scripts may ask for."""
WEB = Path(__file__).resolve().parents[3] / "web" / "dist"


MOST, LONGEST = 50, 1000
"""Problems that an answer tells, and characters of each."""


def _answer(status: int, problems: list[Problem]) -> JSONResponse:
    """Problems as sentences, the first of many; of what was sent, characters that cannot be written back are left out."""
    told = [Problem(path=_written(p.path), sentence=_written(p.sentence)) for p in problems[:MOST]]
    if len(problems) > MOST:
        told.append(Problem(path="and", sentence=f"{len(problems) - MOST:,} more of the kind"))
    return JSONResponse(Problems(problems=told).model_dump(), status_code=status)


def _written(text: str) -> str:
    return text[:LONGEST].encode("utf-8", "replace").decode()


@asynccontextmanager
async def _life(app: FastAPI) -> AsyncIterator[None]:
    engine = connect()
    app.state.sessions = sessions(engine)
    address = os.environ.get(ADDRESS)
    if address:
        app.state.manager = RunsApart(address, os.environ[KEY].encode())
        yield
        app.state.manager.close()
    else:
        with running(engine) as manager:
            app.state.manager = manager
            yield
    engine.dispose()


def _name(route: APIRoute) -> str:
    return route.name


def create_app() -> FastAPI:
    """The ASGI application."""
    app = FastAPI(
        title="Piastra",
        version=__version__,
        lifespan=_life,
        generate_unique_id_function=_name,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    app.add_middleware(Door, routes=[route for router in ROUTERS for route in router.routes])
    app.add_middleware(Bounds)
    # Added later, these are further out: refusals of bounds have the headers, and are noted, too.
    app.add_middleware(Headers)
    app.add_middleware(Watch)
    for router in ROUTERS:
        app.include_router(router)

    made = app.openapi
    app.openapi = lambda: typed_documents(made())  # type: ignore[method-assign]

    @app.exception_handler(RefusedError)
    async def refused(request: Request, error: RefusedError) -> JSONResponse:
        return _answer(422, [Problem(path=r.path, sentence=r.sentence) for r in error.refusals])

    @app.exception_handler(RequestValidationError)
    async def malformed(request: Request, error: RequestValidationError) -> JSONResponse:
        return _answer(
            422,
            [Problem(path=".".join(map(str, e["loc"][1:])) or "the request", sentence=e["msg"].lower()) for e in error.errors()],
        )

    @app.exception_handler(store.MissingError)
    async def missing(request: Request, error: store.MissingError) -> JSONResponse:
        return _answer(404, [Problem(path=request.url.path, sentence=str(error))])

    @app.exception_handler(wiring.LateError)
    async def late(request: Request, error: wiring.LateError) -> JSONResponse:
        return JSONResponse(error.conflict.model_dump(), status_code=409)

    @app.exception_handler(DataError)
    async def too_long(request: Request, error: DataError) -> JSONResponse:
        return _answer(
            422, [Problem(path="the request", sentence="has a text or a number that is too long to be kept; shorten it")]
        )

    @app.exception_handler(HTTPException)
    async def turned_away(request: Request, error: HTTPException) -> JSONResponse:
        return _answer(error.status_code, [Problem(path=request.url.path, sentence=str(error.detail).lower())])

    @app.exception_handler(DBAPIError)
    async def away(request: Request, error: DBAPIError) -> JSONResponse:
        log.error("database.away", error=type(error.orig).__name__)
        return _answer(
            503, [Problem(path="the database", sentence="does not answer; what you did is not saved yet, try again in a moment")]
        )

    @app.exception_handler(Exception)
    async def unforeseen(request: Request, error: Exception) -> JSONResponse:
        log.error("request.failed", operation=getattr(request.state, "operation", None), error=watch.where(error))
        return _answer(500, [Problem(path=request.url.path, sentence="failed in a way it should not; the log tells more")])

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def unknown(path: str) -> JSONResponse:
        return _answer(404, [Problem(path=f"/api/{path}", sentence="is no address of this application")])

    if WEB.is_dir():
        app.mount("/assets", Assets(directory=WEB / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> FileResponse:
            return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})

    return app
