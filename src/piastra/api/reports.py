"""The calculation report of a floor."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Annotated, Any, Literal, get_args

import numpy as np
import structlog
from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from piastra.api.combinations import XLSX
from piastra.api.drawn import drawn
from piastra.api.readings import responses
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.readings.quantities import Sense, extreme, functionals
from piastra.core.trace.amounts import spot
from piastra.exchange.contour_drawing import Field
from piastra.exchange.fields import drawn_fields
from piastra.exchange.report import CHAPTERS, Detail, SaidLine, SignedLine, Source, page, workbook
from piastra.exchange.report.units import System, spoken
from piastra.store import projects, review
from piastra.store import repository as store
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


def _fields(session: Session, run_id: int, wanted: Mapping[str, Detail]) -> dict[str, list[Field]]:
    """What is drawn over the floor in the chapters that are ``wanted``: the deflection that lasts, and the moments of all ultimate combinations."""
    out: dict[str, list[Field]] = {}
    if wanted.get("deflection", "summary") != "summary":
        kept = drawn_fields(store.result(session, run_id, "fields"))
        shapes = [
            (about["kind"] == "history", float(about["greatest"]), k)
            for k, about in enumerate(kept.about)
            if about["quantity"] == "w"
        ]
        if shapes:
            # That of the floor's history where there is one, and of several the deepest.
            lived, _, k = max(shapes)
            told = (
                f"Deflection at the end of {kept.about[k]['of']}"
                if lived
                else f"Deflection with creep, the greatest under {kept.about[k]['of']}"
            )
            out["deflection"] = [Field(told, "mm", kept.xy, kept.triangles, kept.values[k])]
    if "moments" in wanted:
        found = responses(session, run_id)
        ultimate = [f for f in found.combinations if f.limit_state == "ultimate"]
        elements = found.elements
        quads, tris = elements.nodes[: elements.quads], elements.nodes[elements.quads :, :3]
        triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]], tris])
        sides: tuple[tuple[Sense, Any], ...] = (("greatest", np.max), ("least", np.min))
        for kind, most in sides if ultimate else ():
            for key, along in (("mx", "x"), ("my", "y")):
                values = extreme(key, functionals(key, found.at_places, found.bars, found.bed), ultimate, kind)
                # What the bottom bars are for, then what the top bars are.
                sagging = kind == "greatest"
                worst = np.maximum(most(values, axis=1), 0.0) if sagging else np.minimum(most(values, axis=1), 0.0)
                told = f"{'Sagging' if sagging else 'Hogging'} moment of bars along {along}, the worst of all ultimate combinations and arrangements"
                out.setdefault("moments", []).append(Field(told, "kNm/m", elements.xy, triangles, worst))
    return out


def _place(x: float | None, y: float | None, system: System) -> str:
    return "the floor" if x is None or y is None else spoken(spot(x, y), system)


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
    project, shared = session.get_one(Project, record.project_id), projects.head(session, record.project_id).model
    source = Source(
        floor, document, project.name, revision.number, datetime.now().astimezone().strftime("%Y-%m-%d %H:%M"), session.get_one(User, revision.author_id).name, stale,
        signed=[
            SignedLine(x.signature.check, x.author, f"{x.signature.made:%Y-%m-%d %H:%M}", x.signature.number, x.signature.note, x.why)
            for x in review.signatures(session, record.id)
        ],
        said=[
            SaidLine(author, f"{c.made:%Y-%m-%d %H:%M}", _place(c.x, c.y, shared.units), c.text, settler or "")
            for c, author, settler in review.comments(session, record.id)
        ],
        title=[(line.id, line.text) for line in shared.title_block], system=shared.units,
    )  # fmt: skip
    source = replace(source, fields=_fields(session, run_id, wanted))
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
