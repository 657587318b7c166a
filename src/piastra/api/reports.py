"""The calculation report of a floor."""

from __future__ import annotations

import subprocess
import sys
import threading
from datetime import datetime
from typing import Annotated, Literal, get_args

import structlog
from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import BaseModel

from piastra.api.combinations import XLSX
from piastra.api.drawn import drawn
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.exchange.report import CHAPTERS, Detail, SaidLine, SignedLine, Source, page, workbook
from piastra.store import repository as store
from piastra.store import review
from piastra.store.tables import Project, User

router = APIRouter(prefix="/api")
log = structlog.get_logger()
_few = threading.BoundedSemaphore(2)
"""So many are typeset at a time; others wait."""

SECONDS = 120
"""A report that is not typeset by then is given up."""


class ChapterState(BaseModel):
    """A chapter that a report may have."""

    key: str
    title: str


@router.get("/report-chapters")
def report_chapters() -> list[ChapterState]:
    """What a report can be made of, in order."""
    return [ChapterState(key=key, title=title) for key, (title, _) in CHAPTERS.items()]


def _wanted(given: list[str]) -> dict[str, Detail]:
    """Chapters with their details, given as ``key:detail``; without any all of them with what governs."""
    if not given:
        return dict.fromkeys(CHAPTERS, "governing")
    out: dict[str, Detail] = {}
    for entry in given:
        key, _, detail = entry.partition(":")
        if key not in CHAPTERS or (detail or "governing") not in get_args(Detail):
            known = ", ".join(CHAPTERS)
            raise RefusedError(
                [Refusal("chapter", f"'{entry}' is none; write one of {known}, and :summary, :governing or :all behind it")]
            )
        out[key] = detail or "governing"  # type: ignore[assignment]
    return out


def _typeset(text: str) -> bytes:
    """In a process of its own, with a memory of its own: typesetting takes seconds, in which everybody else is to be served."""
    try:
        with _few:
            made = subprocess.run(
                [sys.executable, "-m", "piastra.exchange.report"],
                input=text.encode(),
                capture_output=True,
                check=True,
                timeout=SECONDS,
            )
    except (subprocess.CalledProcessError, subprocess.TimeoutExpired) as error:
        log.error("report.failed", error=type(error).__name__)
        told = "could not be typeset: it is too long; take fewer chapters, or less of them, or read it as a web page"
        raise RefusedError([Refusal("the report", told)]) from None
    return made.stdout


@router.get("/runs/{run_id}/report.{kind}", responses=REFUSED, response_class=Response)
def report(
    run_id: int, kind: Literal["html", "pdf", "xlsx"], session: Sessions, chapter: Annotated[list[str] | None, Query()] = None
) -> Response:
    """The report of a run, as a web page, PDF, or a workbook of its tables. Each ``chapter`` as ``key:detail``; none: all with what governs."""
    wanted = _wanted(chapter or [])
    floor, document = drawn(session, run_id)
    revision = store.revision_of(session, run_id)
    record = store.floor(session, revision.floor_id)
    newest = store.newest(session, revision.floor_id)
    stale = ""
    if newest.number != revision.number and newest.computes != revision.computes:
        stale = f"The floor was changed since: these are the results of revision {revision.number}, and the newest is {newest.number}."
    project = session.get_one(Project, record.project_id)
    source = Source(
        floor, document, project.name, revision.number, datetime.now().astimezone().strftime("%Y-%m-%d %H:%M"), session.get_one(User, revision.author_id).name, stale,
        signed=[
            SignedLine(x.signature.check, x.author, f"{x.signature.made:%Y-%m-%d %H:%M}", x.signature.number, x.signature.note, x.why)
            for x in review.signatures(session, record.id)
        ],
        said=[
            SaidLine(author, f"{c.made:%Y-%m-%d %H:%M}", "the floor" if c.x is None else f"{c.x:.2f}, {c.y:.2f} m", c.text, settler or "")
            for c, author, settler in review.comments(session, record.id)
        ],
    )  # fmt: skip
    name = f"report-{revision.floor_id}-r{revision.number}"
    if kind == "xlsx":
        return Response(
            workbook(source, wanted), media_type=XLSX, headers={"Content-Disposition": f'attachment; filename="{name}.xlsx"'}
        )
    text = page(source, wanted)
    # Typesetting takes seconds, in which nobody's connection is to be held.
    session.close()
    if kind == "html":
        return Response(text, media_type="text/html")
    return Response(
        _typeset(text), media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )
