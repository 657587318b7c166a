"""What the floors of a building hand down to each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import shapely
from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session

from piastra.api.door import Asking
from piastra.api.drawn import drawn
from piastra.api.floors import save
from piastra.api.messages import Save, Saved
from piastra.api.wiring import REFUSED, STALE, Manager, Sessions, run_summaries
from piastra.core.building.carried import (
    Bearer,
    Descent,
    Foot,
    Planted,
    Reaction,
    Storey,
    carried_down,
    foot_of,
    load_id,
    storey_of,
)
from piastra.core.geometry.arcs import polyline
from piastra.core.model import Floor, Refusal, RefusedError
from piastra.core.model.project import storeys
from piastra.core.standards import standard_of
from piastra.store import projects as shared
from piastra.store import repository as store
from piastra.store.tables import FloorRecord

router = APIRouter(prefix="/api")


class _Told(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReductionState(_Told):
    """By what live load may be multiplied, and why, a line each."""

    factor: float
    told: list[str]


class FootState(_Told):
    """A column or wall with its ``own`` reaction and all that comes down to its foot, kN by case; the tributary area that its live load comes from, m2; what it
    stands on, empty: the ground."""

    level: str
    floor: int
    floor_name: str
    list: str
    id: str
    at: tuple[float, float]
    on: str
    planted: bool
    own_kN: dict[str, float]
    total_kN: dict[str, float]
    area_m2: dict[str, float]
    storeys: dict[str, int]
    reductions: dict[str, ReductionState]
    reduced_kN: dict[str, float]
    combined_kN: dict[str, float]
    """In every combination of its floor, with all live load present and reduced."""
    along_kN_m: dict[str, tuple[float, float]]
    """Of straight walls by case: at their start and at their end."""


class PlantedState(_Told):
    """A foot that stands on a floor (``on``) and not on what carries it; whether that floor has its forces, kN by case, as loads."""

    floor_name: str
    id: str
    on: int
    on_name: str
    at: tuple[float, float]
    forces_kN: dict[str, float]
    there: bool


class SumState(_Told):
    """Of one case, kN: the loads of all floors, what comes to the ground, what stands on floors that do not have it yet; ``residual``: what is lost, over
    the loads."""

    case: str
    loads_kN: float
    ground_kN: float
    open_kN: float
    residual: float


class CountedState(_Told):
    """A floor of the project: whether it counts, and if not, why; empty: it was left out."""

    id: int
    name: str
    level: str
    counts: bool
    told: str


class CarriedState(_Told):
    """Loads carried down through a building: its floors from the top; those whose results are awaited, without which nothing is told."""

    floors: list[CountedState]
    awaited: list[str]
    cases: list[str]
    combinations: dict[str, str]
    """Limit states of all floors' combinations."""
    feet: list[FootState]
    planted: list[PlantedState]
    sums: list[SumState]


@dataclass(frozen=True, slots=True)
class _Found:
    record: FloorRecord
    level: str
    floor: Floor
    storey: Storey


def _counted(session: Session, project_id: int, without: Sequence[int]) -> list[tuple[FloorRecord, CountedState]]:
    """The project's floors from the top. Of several on one level the first in the project's order counts that is not left out (``without``)."""
    levels = [s.id for s in storeys(shared.head(session, project_id).model)]
    mine: dict[str, FloorRecord] = {}
    out = []
    for record in store.floors(session, project_id):
        if record.put_away:
            continue
        level, told = record.level or "", ""
        if level not in levels:
            told = "it has no level"
        elif not store.unpack(store.newest(session, record.id).content).get("slabs"):
            told = "it has no slab yet"
        elif record.id not in without and level in mine:
            told = f"{mine[level].name} counts for {level}"
        elif record.id not in without:
            mine[level] = record
        counts = mine.get(level) is record
        out.append((record, CountedState(id=record.id, name=record.name, level=level, counts=counts, told=told)))
    return sorted(out, key=lambda found: -levels.index(found[1].level) if found[1].level in levels else 1)


def floors_that_count(session: Session, project_id: int) -> list[tuple[FloorRecord, CountedState]]:
    """The floors of the building from the top, one a level."""
    return [(record, state) for record, state in _counted(session, project_id, []) if state.counts]


def _storeys(session: Session, project_id: int, without: Sequence[int]) -> tuple[list[_Found], list[CountedState], list[str]]:
    known = _counted(session, project_id, without)
    found, awaited = [], []
    for record, state in known:
        if not state.counts:
            continue
        run, _ = run_summaries(session, record.id, store.newest(session, record.id))
        if run is None or run.state != "fresh":
            awaited.append(record.name)
            continue
        floor, results = drawn(session, run.id)
        found.append(_Found(record, state.level, floor, storey_of(floor, *_forces(floor, results))))
    return found, [state for _, state in known], awaited


def _forces(floor: Floor, results: dict[str, Any]) -> tuple[dict[str, dict[str, Reaction]], dict[str, float]]:
    """Reactions by support and case, and what is applied by case, kN."""
    cases = {c.id for c in floor.load_cases}
    reactions = {
        r["support"]: {c: Reaction(v["F_kN"], v["Mx_kNm"], v["My_kNm"]) for c, v in r["values"].items() if c in cases}
        for r in results["reactions"]
    }
    return reactions, {e["case"]: e["applied_kN"] for e in results["equilibrium"]}


def _descent(found: list[_Found]) -> Descent:
    return carried_down([f.storey for f in found], standard_of(found[0].floor))


def _named(bearer: Bearer) -> str:
    word = {"columns": "column", "walls": "wall", "supports": "support"}[bearer.list]
    return f"{word} {bearer.id}"


@router.get("/projects/{project_id}/carried-down", responses=REFUSED)
def carried(project_id: int, session: Sessions, without: Annotated[list[int] | None, Query()] = None) -> CarriedState:
    """Every column and wall of every floor with what comes down to it, some floors left out (``without``). Nothing is told while a floor's results are
    awaited."""
    found, floors, awaited = _storeys(session, project_id, without or [])
    out = CarriedState(floors=floors, awaited=awaited, cases=[], combinations={}, feet=[], planted=[], sums=[])
    if awaited or not found:
        return out
    descent = _descent(found)
    by_name = {f.record.name: f for f in found}
    out.cases = [s.case for s in descent.sums]
    out.combinations = {name: state for f in found for name, (state, _) in f.storey.combinations.items()}
    out.feet = [_foot(foot, by_name) for foot in descent.feet]
    out.planted = [
        PlantedState(
            floor_name=p.storey, id=p.bearer.id, on=by_name[p.on].record.id, on_name=p.on, at=p.bearer.at, forces_kN=p.forces, there=p.there
        )
        for p in descent.planted
    ]  # fmt: skip
    out.sums = [
        SumState(case=s.case, loads_kN=s.loads, ground_kN=s.ground, open_kN=s.open, residual=s.residual) for s in descent.sums
    ]
    return out


def _foot(foot: Foot, by_name: dict[str, _Found]) -> FootState:
    on = ""
    if foot.on is not None:
        name, bearer = foot.on
        on = f"{bearer.partition(' ')[2]} of {name}" if bearer else name
    owner = by_name[foot.storey]
    return FootState(
        level=owner.level, floor=owner.record.id, floor_name=foot.storey, list=foot.bearer.list, id=foot.bearer.id, at=foot.bearer.at, on=on,
        planted=foot.on is not None and foot.on[1] is None, own_kN=dict(foot.bearer.own), total_kN=foot.total, area_m2=foot.area, storeys=foot.storeys,
        reductions={c: ReductionState(factor=r.factor, told=[_told(s) for s in r.steps]) for c, r in foot.reductions.items()},
        reduced_kN=foot.reduced, combined_kN=foot.combined,
        along_kN_m={c: foot.bearer.by_metre(F, foot.tilt.get(c, 0.0)) for c, F in foot.total.items()} if foot.bearer.line else {},
    )  # fmt: skip


def _told(step: Any) -> str:
    values = ", ".join(f"{v.symbol} {v.value:.4g}" for v in (*step.values, *((step.result,) if step.result else ())))
    return "; ".join(filter(None, (step.title, step.clause, values, step.note)))


def _load(p: Planted, case: str, F: float, lines: Mapping[tuple[str, str], Sequence[Any]]) -> dict[str, Any]:
    """What stands on a floor as its load: a wall's along its line, as it varies if that is straight; anything else at its place."""
    given = {"id": load_id(p.bearer, p.storey, case), "case": case}
    line = lines.get((p.storey, p.bearer.id)) if p.bearer.list == "walls" else None
    if line is None:
        return {**given, "kind": "point", "at": list(p.bearer.at), "F_kN": round(F, 6)}
    if p.bearer.line is None:
        chords = shapely.LineString(polyline(line))
        even = round(F / float(chords.length), 6)
        return {**given, "kind": "line", "line": [list(at) for at in chords.coords], "q_kN_m": [even, even]}
    ends = [round(q, 6) for q in p.bearer.by_metre(F, p.tilt.get(case, 0.0))]
    return {**given, "kind": "line", "line": [list(at) for at in p.bearer.line], "q_kN_m": ends}


class Planting(_Told):
    """Floors that are left out."""

    without: list[int] = []


@router.post("/floors/{floor_id}/planted", responses=STALE)
def plant(floor_id: int, body: Planting, session: Sessions, manager: Manager, person: Asking) -> Saved:
    """Put what stands on this floor from above on it as point loads, in place of those that were there before."""
    record = store.floor(session, floor_id)
    found, _, awaited = _storeys(session, record.project_id, body.without)
    if awaited:
        raise RefusedError(
            [Refusal("the floor", f"cannot be given what stands on it before {', '.join(awaited)} has results; wait for them")]
        )
    mine = [p for p in _descent(found).planted if p.on == record.name] if found else []
    newest = store.newest(session, floor_id)
    document = store.unpack(newest.content)
    cases = {c["id"] for c in document.get("load_cases", [])}
    lacking = sorted({case for p in mine for case, F in p.forces.items() if F and case not in cases})
    if lacking:
        raise RefusedError(
            [Refusal("load_cases", f"lack {', '.join(lacking)}, which the floors above have; add a case of that name")]
        )
    loads = [load for load in document.get("loads", []) if foot_of(load["id"]) is None]
    lines = {(f.floor.name, w.id): w.line for f in found for w in f.floor.walls}
    loads += [_load(p, case, F, lines) for p in mine for case, F in p.forces.items() if F]
    named = ", ".join(_named(p.bearer) for p in mine) or "nothing"
    wanted = Save(
        based_on=newest.number,
        document={**document, "loads": loads},
        line=f"took over from above: {named}"[:300],
    )
    return save(floor_id, wanted, session, manager, person)
