"""What can be read of runs: fields, slices, values at places, reactions, and the history of runs and probes."""

from __future__ import annotations

import json
import struct
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from fastapi import APIRouter, HTTPException, Query
from fastapi.responses import Response
from sqlalchemy.orm import Session

from piastra.api.reading_messages import (
    ArrangementState,
    Catalogue,
    DiagramState,
    GovernedState,
    PeakState,
    PlacesRead,
    PlaceValues,
    ProbeEntry,
    QuantityState,
    ReactionRow,
    ReactionTable,
    ReadingState,
    RunEntry,
    RunList,
    SelectionState,
    SliceLine,
    StripAlong,
    StripPeak,
    UnderState,
)
from piastra.api.wiring import REFUSED, Manager, Sessions
from piastra.core.mesh.locate import find, weights
from piastra.core.model.refusal import Refusal, RefusedError
from piastra.core.readings import reading
from piastra.core.readings.bodies import TOTALS, FreeBodies, at_centres, total, totals
from piastra.core.readings.quantities import QUANTITIES
from piastra.core.readings.responses import Responses
from piastra.core.readings.strips import EFFECTS, Peak, along_strip
from piastra.core.trace import Loaded
from piastra.exchange.responses_file import unpacked, unpacked_bodies
from piastra.exchange.results_model import LoadedPanel, MessageState
from piastra.exchange.section import SectionState
from piastra.store import repository as store

router = APIRouter(prefix="/api")

Array = npt.NDArray[np.float64]
KEPT = 4

_kept: OrderedDict[int, Responses] = OrderedDict()
_free: OrderedDict[int, FreeBodies] = OrderedDict()
_lock = threading.Lock()


def responses(session: Session, run_id: int, by_element: bool = False) -> Responses:
    """A run's responses; those last read stay at hand. Raises :class:`piastra.store.repository.MissingError`."""
    with _lock:
        found = _kept.get(run_id)
        if found is not None:
            _kept.move_to_end(run_id)
            if not by_element or found.at_centres is not None:
                return found
    made = found or unpacked(store.result(session, run_id, "responses"))
    if by_element:
        free = _bodies(session, run_id)
        made = made if free is None else replace(made, at_centres=at_centres(made, free))
    with _lock:
        _kept[run_id] = made
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return made


def _bodies(session: Session, run_id: int) -> FreeBodies | None:
    """A run's free bodies; None where they are not written, or not yet."""
    with _lock:
        if run_id in _free:
            return _free[run_id]
    try:
        made = unpacked_bodies(store.result(session, run_id, "bodies"))
    except store.MissingError:
        return None
    with _lock:
        _free[run_id] = made
        while len(_free) > KEPT:
            _free.popitem(last=False)
    return made


def _refuse(error: reading.UnknownReadingError) -> RefusedError:
    return RefusedError([Refusal("the reading", str(error))])


@router.get("/runs/{run_id}/catalogue", responses=REFUSED)
def catalogue(run_id: int, session: Sessions) -> Catalogue:
    """What can be read of a run."""
    r = responses(session, run_id)
    patterned = {u.case for u in r.units if u.panel is not None}
    selections = [SelectionState(of=c, kind="case", limit_state=None, pattern=c in patterned) for c in r.cases]
    selections += [
        SelectionState(of=f.combination, kind="combination", limit_state=f.limit_state, pattern=bool(f.pattern.any()))
        for f in r.combinations
    ]
    return Catalogue(
        quantities=[
            QuantityState(key=q.key, symbol=q.symbol, name=q.name, unit=q.unit, senses=list(q.senses), direction=q.direction)
            for q in QUANTITIES.values() if q.key != "bearing" or r.bed.any()
        ],
        selections=selections,
        arrangements=[
            ArrangementState(name=a.name, share=a.share, panels=[label for label, _ in r.panels if label in a.panels], required=a.name in r.required) for a in r.arrangements
        ],
        bedded=bool(r.bed.any()),
    )  # fmt: skip


@router.get("/runs/{run_id}/field", responses=REFUSED, response_class=Response)
def field(
    run_id: int, session: Sessions, quantity: str, of: str, kind: str = "all", arrangement: str | None = None,
    minus_run: int | None = None, minus_of: str | None = None, minus_kind: str = "all", minus_arrangement: str | None = None,
    by_element: Annotated[bool, Query()] = False,
) -> Response:  # fmt: skip
    """One field at the places of a run (or its elements), binary: length of a JSON header, the header, float32.

    With ``minus_of`` the difference from another case, combination or arrangement, of this run or of another.
    """
    try:
        mine = responses(session, run_id, by_element)
        values = reading.field(mine, quantity, reading.Chosen(of, kind, arrangement), by_element)
        if minus_of is not None:
            chosen = reading.Chosen(minus_of, minus_kind, minus_arrangement)
            other = responses(session, minus_run, by_element) if minus_run is not None else mine
            theirs = reading.field(other, quantity, chosen, by_element)
            values = values - (theirs if other is mine else _moved(mine, other, theirs, by_element))
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None
    finite = np.isfinite(values)
    least, greatest = (float(f(values[finite])) if finite.any() else 0.0 for f in (np.min, np.max))
    header = json.dumps({"count": len(values), "least": least, "greatest": greatest, "unit": QUANTITIES[quantity].unit}).encode()
    header += b" " * (-len(header) % 4)
    return Response(
        struct.pack("<I", len(header)) + header + values.astype("<f4").tobytes(), media_type="application/octet-stream"
    )


@router.get("/runs/{run_id}/directions", responses=REFUSED, response_class=Response)
def directions(
    run_id: int, session: Sessions, quantity: str, of: str, kind: str = "all", arrangement: str | None = None
) -> Response:
    """Directions (rad) of principal moments or of the resultant shear at the places of a run, float32."""
    try:
        found = reading.directions(responses(session, run_id), quantity, reading.Chosen(of, kind, arrangement))
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None
    return Response(found.astype("<f4").tobytes(), media_type="application/octet-stream")


INWARD = 0.02
"""A place is read a little inside of its own section, where the sections of its neighbours do not show."""


def _moved(mine: Responses, other: Responses, values: Array, by_element: bool) -> Array:
    """Values at another run's places, read at this run's; not a number where the other has no floor.

    Runs on one mesh have the same places. On different meshes the other's field is read just inside of each place's own
    elements: at the border of two sections there are two places, with a value each.
    """
    a, b = mine.elements, other.elements
    if a.xy.shape == b.xy.shape and np.array_equal(a.nodes, b.nodes) and np.allclose(a.xy, b.xy, atol=1e-9):
        return values
    corners = np.maximum(a.nodes, 0)
    share = (a.nodes >= 0)[..., None]
    middle = (a.xy[corners] * share).sum(axis=1) / share.sum(axis=1)
    if by_element:
        found = find(b, middle)
        return np.where(found >= 0, values[np.maximum(found, 0)], np.nan)
    # Any of a place's own elements will do; their mean would leave the section at a re-entrant corner.
    own = np.zeros(len(a.xy), dtype=np.int64)
    on = a.nodes >= 0
    own[a.nodes[on]] = np.broadcast_to(np.arange(len(a.nodes))[:, None], a.nodes.shape)[on]
    xy = a.xy + INWARD * (middle[own] - a.xy)
    # A place near a curved border may lie just outside of the other's mesh; elsewhere the element itself is meant, for a
    # neighbour within reach may be of another section.
    found = find(b, xy)
    lost = found < 0
    found[lost] = find(b, xy[lost], within=0.02)
    weight = weights(b, np.maximum(found, 0), xy)
    out = (weight * values[np.maximum(b.nodes[np.maximum(found, 0)], 0)]).sum(axis=1)
    return np.where(found >= 0, out, np.nan)


def _panels(panels: Sequence[Loaded]) -> list[LoadedPanel]:
    return [LoadedPanel(case=p.case, panel=p.panel) for p in panels]


def _reading_state(of: str, found: reading.Reading) -> ReadingState:
    def governed(g: reading.Governed | None) -> GovernedState | None:
        return GovernedState(value=g.value, panels=_panels(g.panels)) if g else None

    return ReadingState(
        quantity=found.quantity, unit=found.unit, of=of, all=found.all, none=found.none, least=governed(found.least),
        greatest=governed(found.greatest),
        under=[UnderState(arrangement=u.arrangement, value=u.value, required=u.required) for u in found.under],
    )  # fmt: skip


Place = Annotated[float | None, Query(ge=-1e5, le=1e5, allow_inf_nan=False)]


@router.get("/runs/{run_id}/value", responses=REFUSED)
def value(run_id: int, session: Sessions, of: str, quantity: str, x: Place = None, y: Place = None,
          support: str | None = None) -> ReadingState:  # fmt: skip
    """A quantity at a point of the plan, or a component of a support's reaction, with its arrangements."""
    try:
        r = responses(session, run_id)
        if support is not None:
            return _reading_state(of, reading.at_support(r, support, quantity, of))
        if x is None or y is None:
            raise RefusedError([Refusal("the reading", "needs x and y, or a support")])
        if quantity in QUANTITIES and QUANTITIES[quantity].direction:
            raise RefusedError([Refusal("quantity", f"{QUANTITIES[quantity].name} needs a slice; lay one through the place")])
        found = reading.at_point(r, (x, y), quantity, of)
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None
    if found is None:
        raise RefusedError([Refusal("the place", f"({x:g}, {y:g}) lies beside the floor; choose one on it")])
    return _reading_state(of, found)


def _numbers(values: Array) -> list[float | None]:
    return [None if not np.isfinite(v) else float(v) for v in values]


@router.post("/runs/{run_id}/slice", responses=REFUSED)
def slice_(run_id: int, body: SliceLine, session: Sessions) -> DiagramState:
    """A quantity along a slice, with its peaks and their arrangements, its area and its mean."""
    (ax, ay), (bx, by) = (p[:2] for p in body.line)
    if np.hypot(bx - ax, by - ay) < 0.01:
        raise RefusedError([Refusal("line", "starts and ends at the same point; give it a length")])
    line = (ax, ay), (bx, by)
    try:
        r = responses(session, run_id)
        d = reading.along(r, line, body.quantity, body.of, body.width_m)
        free = _bodies(session, run_id) if body.quantity in TOTALS and not body.width_m else None
        whole = totals(r, free, line) if free else None
        across = total(r, whole, body.quantity, reading.combination_of(r, body.of))
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None

    def peak(g: reading.Governed, at: float) -> PeakState:
        return PeakState(value=g.value if np.isfinite(g.value) else None, at_m=at, panels=_panels(g.panels))

    return DiagramState(
        quantity=body.quantity, unit=QUANTITIES[body.quantity].unit, of=body.of, s_m=d.s.tolist(), all=_numbers(d.all),
        least=_numbers(d.least), greatest=_numbers(d.greatest), low=peak(d.low, d.low_at), high=peak(d.high, d.high_at),
        area=d.area, total=across, length_m=d.length, mean=d.area / d.length if d.length else None,
    )  # fmt: skip


@router.get("/runs/{run_id}/strips/{strip}", responses=REFUSED)
def strip(
    run_id: int, strip: str, session: Sessions, of: str | None = None, kind: str = "envelope", arrangement: str | None = None,
    state: str = "ultimate",
) -> list[StripAlong]:  # fmt: skip
    """Every effect at the stations of a strip: under a case or combination ``of`` with ``all`` live load, in an ``arrangement`` of it, its
    ``least``, ``greatest`` or both (``envelope``); without ``of`` over all combinations of a limit state."""
    chosen = None if of is None else reading.Chosen(of, kind, arrangement)
    try:
        r = responses(session, run_id)
        found = {key: along_strip(r, strip, key, chosen, state) for key in EFFECTS}
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None

    def peak(p: Peak) -> StripPeak:
        return StripPeak(value=p.value, at_m=p.at, combination=p.combination, panels=_panels(p.panels))

    return [
        StripAlong(
            strip=strip, effect=key, unit=a.unit, s_m=a.s.tolist(), width_m=a.width.tolist(), least=a.least.tolist(), greatest=a.greatest.tolist(),
            least_of=list(a.least_of), greatest_of=list(a.greatest_of), low=peak(a.low), high=peak(a.high),
        )
        for key, a in found.items()
    ]  # fmt: skip


@router.get("/runs/{run_id}/strips/{strip}/station", responses=REFUSED)
def station(
    run_id: int, strip: str, session: Sessions, manager: Manager, s: float, face: Literal["bottom", "top"]
) -> SectionState:
    """What a station ``s`` m along a strip shows for the steel of a face: all provisions with the governing one first, what is given, and the bars of its
    section."""
    document = store.unpack(store.revision_of(session, run_id).content)
    # Whoever waits for a worker holds no line to the database.
    session.close()
    found = manager.section(document, strip, s, face)
    if found is None:
        raise HTTPException(503, "workers are busy with runs at the moment; ask again when they are done")
    if "told" in found:
        raise RefusedError([Refusal("the section", found["told"])])
    return SectionState.model_validate(found)


@router.post("/runs/{run_id}/places", responses=REFUSED)
def places(run_id: int, body: PlacesRead, session: Sessions) -> list[PlaceValues]:
    """Deflection, moments and shear at points, with all live load."""
    try:
        found = reading.at_places(responses(session, run_id), np.array(body.at, dtype=np.float64).reshape(-1, 2), body.of)
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None
    keys = tuple(PlaceValues.model_fields)
    return [PlaceValues(**dict(zip(keys, _numbers(row), strict=True))) for row in found]


@router.get("/runs/{run_id}/reactions", responses=REFUSED)
def reactions(run_id: int, session: Sessions, of: str, kind: str = "all", arrangement: str | None = None) -> ReactionTable:
    """Reactions of all supports under a case, combination or arrangement, with their sum against the load."""
    r = responses(session, run_id)
    chosen = reading.Chosen(of, kind, arrangement)
    try:
        found = reading.reactions(r, chosen)
    except reading.UnknownReadingError as error:
        raise _refuse(error) from None
    rows = [
        ReactionRow(support=label, F_kN=float(f), Mx_kNm=float(mx), My_kNm=float(my))
        for label, (f, mx, my) in zip(r.supports, found, strict=True)
    ]
    if kind in ("least", "greatest"):
        return ReactionTable(rows=rows, sum_kN=None, applied_kN=None)
    applied = float(r.applied @ reading.vector(r, chosen))
    return ReactionTable(rows=rows, sum_kN=float(found[:, 0].sum()), applied_kN=applied)


@router.get("/floors/{floor_id}/runs", responses=REFUSED)
def runs(floor_id: int, session: Sessions) -> RunList:
    """The newest runs of a floor: what changed before each, how it ended and how long its stages took."""
    store.floor(session, floor_id)
    found = store.runs(session, floor_id)
    briefs = store.briefs(session, [run.id for run, _ in found])
    readable = store.readable(session, [run.id for run, _ in found])
    held = store.sizes(session, [run.id for run, _ in found])
    entries = [
        RunEntry(
            id=run.id, revision=revision.number, line=revision.line, state=run.state, begun=run.begun, seconds=run.seconds,
            stages=(briefs.get(run.id) or {}).get("seconds") or {}, messages=[MessageState(**m) for m in (briefs.get(run.id) or {}).get("messages") or []],
            told=run.told, readable=run.id in readable, kept_MB=held.get(run.id, 0) / 1e6, model_kB=len(revision.content) / 1e3,
        )
        for run, revision in found
    ]  # fmt: skip
    return RunList(runs=entries, kept_runs=store.KEPT_RUNS, kept_MB=store.KEPT_BYTES / 1e6)


@router.get("/floors/{floor_id}/probes/{probe}", responses=REFUSED)
def probe_history(floor_id: int, probe: str, session: Sessions) -> list[ProbeEntry]:
    """What a probe read in the newest runs, newest first."""
    store.floor(session, floor_id)
    found = [(run, revision) for run, revision in store.runs(session, floor_id) if run.state == "fresh"]
    briefs = store.briefs(session, [run.id for run, _ in found])
    last = store.newest(session, floor_id)
    standing = store.standing_run(session, last)
    entries = []
    for run, revision in found:
        probes: list[dict[str, Any]] = (briefs.get(run.id) or {}).get("probes") or []
        mine = next((p["values"] for p in probes if p["id"] == probe), None)
        if standing is not None and run.id == standing.id:
            # The run may be older than the probe, or than its place: what it computed is read there.
            at = next((p["at"] for p in store.unpack(last.content).get("probes", []) if p["id"] == probe), None)
            mine = _probed(responses(session, run.id), at) if at else None
        if mine is not None:
            entries.append(ProbeEntry(run=run.id, revision=revision.number, line=revision.line, values=mine))
    return entries


def _probed(read: Responses, at: Sequence[float]) -> dict[str, dict[str, float | None]]:
    """Values at a point by case and combination, with all live load."""
    keys = tuple(PlaceValues.model_fields)
    xy = np.array([at[:2]], dtype=np.float64)
    of = [*read.cases, *(f.combination for f in read.combinations)]
    return {name: dict(zip(keys, _numbers(reading.at_places(read, xy, name)[0]), strict=True)) for name in of}
