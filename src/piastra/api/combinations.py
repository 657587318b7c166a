"""Combinations: generated, read from tables, written to them; and any table as a file to download."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from pydantic import ValidationError

from piastra.api.projects import with_project
from piastra.api.reading_messages import (
    CellProblem,
    CombinationRows,
    CombinationSetState,
    Generate,
    ParameterState,
    ReadLoads,
    ReadTable,
    SetName,
    TableFile,
    TakeSet,
)
from piastra.api.wiring import REFUSED, Sessions
from piastra.core.combine.sets import rows_of, set_of
from piastra.core.model import Floor
from piastra.core.model.loading import CombinationSet
from piastra.core.model.refusal import Refusal, RefusedError, refusals_of
from piastra.core.model.uses import with_categories
from piastra.core.standards import registry
from piastra.core.standards.generating import joined
from piastra.exchange import floor_file
from piastra.exchange.combination_table import combination_table, combinations_from
from piastra.exchange.joint_table import joint_loads_from
from piastra.exchange.tables import Table, read_table, to_csv, to_xlsx
from piastra.store import projects as shared
from piastra.store import repository as store

router = APIRouter(prefix="/api")

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def _floor(session: Sessions, floor_id: int, document: dict[str, Any] | None = None) -> Floor:
    record = store.floor(session, floor_id)
    content = document if document is not None else store.unpack(store.newest(session, floor_id).content)
    return floor_file.floor_from(with_project(session, record, content))


@router.get("/projects/{project_id}/parameters", responses=REFUSED)
def parameters(project_id: int, session: Sessions) -> list[ParameterState]:
    """The values of the project's standard that may be chosen nationally, with those that the project has chosen."""
    project = shared.head(session, project_id).model
    return [
        ParameterState(
            key=p.key,
            symbol=p.symbol,
            meaning=p.meaning,
            value=p.value,
            own=project.parameters.get(p.key),
            source=p.source,
            design=p.design,
        )
        for p in registry.parameters(project.standard)
    ]


@router.post("/floors/{floor_id}/combinations", responses=REFUSED, response_model_exclude_defaults=True)
def generate(floor_id: int, body: Generate, session: Sessions) -> CombinationRows:
    """The floor's combinations after generating the standard's anew; own and edited rows stay. Nothing is saved."""
    floor = _floor(session, floor_id, body.document)
    own = shared.head(session, store.floor(session, floor_id).project_id).model.parameters
    made = joined(floor.combinations, registry.generated(floor.standard, with_categories(floor), own, body.options))
    before, after = {c.id for c in floor.combinations}, {c.id for c in made}
    return CombinationRows(
        combinations=made, added=len(after - before), removed=len(before - after),
        kept=len(after & before),
    )  # fmt: skip


@router.get("/combination-sets", responses=REFUSED)
def combination_sets(session: Sessions, standard: str) -> list[CombinationSetState]:
    """The sets of combinations that any project keeps for a standard."""
    out = []
    for record in store.projects(session):
        model = shared.head(session, record.id).model
        out += [CombinationSetState(project=record.name, set=s) for s in model.combination_sets if s.standard == standard]
    return out


@router.post("/floors/{floor_id}/combination-set", responses=REFUSED)
def combination_set(floor_id: int, body: SetName, session: Sessions) -> CombinationSet:
    """The floor's combinations as a set, for the project to keep. Nothing is saved."""
    floor = _floor(session, floor_id)
    if not floor.combinations:
        raise RefusedError([Refusal("combinations", "has none to keep; generate some first")])
    return set_of(body.name, floor.standard, floor.combinations, with_categories(floor))


@router.post("/floors/{floor_id}/combinations/from-set", responses=REFUSED, response_model_exclude_defaults=True)
def from_set(floor_id: int, body: TakeSet, session: Sessions) -> CombinationRows:
    """The floor's combinations with those of a set beside them. Nothing is saved."""
    floor = _floor(session, floor_id)
    try:
        chosen = CombinationSet.model_validate(body.set)
    except ValidationError as error:
        raise RefusedError(refusals_of(error, body.set)) from None
    if chosen.standard != floor.standard:
        raise RefusedError([Refusal("the set", f"is for {chosen.standard}, the floor is designed to {floor.standard}")])
    rows, missing = rows_of(chosen, with_categories(floor), floor.combinations)
    return CombinationRows(
        combinations=[*floor.combinations, *rows], added=len(rows), removed=0,
        kept=len(floor.combinations), missing=missing,
    )  # fmt: skip


@router.get("/floors/{floor_id}/combinations.{kind}", responses=REFUSED, response_class=Response)
def combinations_file(floor_id: int, kind: str, session: Sessions) -> Response:
    """The combinations as CSV or XLSX."""
    return download(combination_table(_floor(session, floor_id)), kind)


@router.post("/floors/{floor_id}/combinations/read", responses=REFUSED, response_model_exclude_unset=True)
async def read_combinations(floor_id: int, request: Request, session: Sessions, name: str = "the table") -> ReadTable:
    """Combinations out of a CSV or XLSX file, or the cells that are wrong. Nothing is saved."""
    content = await request.body()
    found, wrong = await run_in_threadpool(lambda: combinations_from(read_table(content, name), _floor(session, floor_id)))
    return ReadTable(combinations=found, problems=[CellProblem(cell=w.cell, sentence=w.sentence) for w in wrong])


@router.post("/floors/{floor_id}/joint-loads/read", responses=REFUSED, response_model_exclude_unset=True)
async def read_joint_loads(floor_id: int, request: Request, session: Sessions, name: str = "the table") -> ReadLoads:
    """Forces and moments at columns and walls out of a CSV or XLSX file, or the cells that are wrong. Nothing is saved."""
    content = await request.body()
    found, wrong = await run_in_threadpool(lambda: joint_loads_from(read_table(content, name), _floor(session, floor_id)))
    return ReadLoads(loads=found, problems=[CellProblem(cell=w.cell, sentence=w.sentence) for w in wrong])


@router.post("/table.{kind}", responses=REFUSED, response_class=Response)
def table_file(kind: str, body: TableFile) -> Response:
    """Any table of the interface as CSV or XLSX."""
    width = len(body.columns)
    rows = tuple((tuple(row) + (None,) * width)[:width] for row in body.rows)
    return download(Table(body.title, tuple(body.columns), rows), kind)


def download(table: Table, kind: str) -> Response:
    """A table as a file of a ``kind``: csv or xlsx."""
    content, media = (to_xlsx(table), XLSX) if kind == "xlsx" else (to_csv(table), "text/csv; charset=utf-8")
    name = "".join(c if c.isascii() and (c.isalnum() or c in "-_") else "-" for c in table.title.lower())
    return Response(
        content,
        media_type=media,
        headers={"Content-Disposition": f'attachment; filename="{name}.{"xlsx" if kind == "xlsx" else "csv"}"'},
    )
