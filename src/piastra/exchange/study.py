"""Studies: variants of floors by the values of some of their fields, computed side by side, a row of a table each."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, Field, model_validator

from piastra.core import pipeline
from piastra.core.model import Refusal, RefusedError, floor_from
from piastra.core.model.variation import Value, Variation, Varied, placed, validated
from piastra.core.readings.takeoff import takeoff
from piastra.core.stages import CancelledError, StageCache
from piastra.core.trace.amounts import plain
from piastra.exchange import floor_file
from piastra.exchange.history_results import sags
from piastra.exchange.tables import Table, address
from piastra.exchange.workbook import Cell


class Study(Variation):
    """A study file: the ``floor`` (the name of a floor file beside it, or the floor itself), or several ``floors``, and what varies."""

    format: Literal["piastra-study"]
    version: Literal[1]
    floor: str | dict[str, Any] | None = None
    floors: Annotated[list[str | dict[str, Any]], Field(max_length=50)] = []

    @model_validator(mode="after")
    def _of_something(self) -> Self:
        if (self.floor is None) == (not self.floors):
            raise ValueError("floor: give one floor, or several as floors")
        return self


Floors = dict[str, dict[str, Any]]
"""Documents of floors by their names."""


def read(path: Path) -> tuple[Study, Floors]:
    """A study and its floors. Raises :class:`RefusedError`."""
    try:
        data = json.loads(path.read_bytes())
    except OSError as error:
        raise RefusedError([Refusal(str(path), f"cannot be read: {(error.strerror or 'unknown reason').lower()}")]) from None
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise RefusedError([Refusal(str(path), "is not JSON in UTF-8; see docs/study.md for what a study file holds")]) from None
    study = validated(Study, data)
    floors: Floors = {}
    alone = [study.floor] if study.floor is not None else []
    for given in study.floors or alone:
        floor = floor_file.read(path.parent / given) if isinstance(given, str) else floor_from(given)
        if floor.name in floors:
            raise RefusedError([Refusal("floors", f"has two floors called {floor.name}; give each its own name")])
        floors[floor.name] = floor_file.document(floor)
    study.over(floors)
    return study, floors


class Computed(BaseModel):
    """One variant of a ``floor``: its ``values``, whether it works (``verdict``), what stands against it, utilisations by check, bars, strands and concrete; the
    greatest deflection, and what of it is of the load at once on uncracked concrete (``gross_mm``)."""

    floor: str = ""
    values: dict[str, Value]
    verdict: Literal["pass", "fail", "uncovered", "unchecked", "refused", "lost"]
    told: str = ""
    utilisation: dict[str, float | None] = {}
    steel_kg: float | None = None
    strands_kg: float | None = None
    concrete_m3: float | None = None
    carbon_kg: float | None = None
    sag_mm: float | None = None
    gross_mm: float | None = None


RANK = ("pass", "uncovered", "unchecked", "fail")


def computed(
    document: dict[str, Any], values: dict[str, Value], history: bool, cache: StageCache | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Computed:  # fmt: skip
    """One variant of the floor in a ``document``; one that cannot be computed says why. Raises :class:`piastra.core.stages.CancelledError`."""
    name = str(document.get("name", ""))
    try:
        for path, value in values.items():
            document = placed(document, path, value)
        outcome = pipeline.solve_floor(floor_from(document), cache=cache, cancelled=cancelled, rigorous=history, remedies=False)
    except RefusedError as error:
        return Computed(floor=name, values=values, verdict="refused", told="; ".join(str(r) for r in error.refusals[:3]))
    except CancelledError:
        raise
    except Exception as error:
        # A fault of the computation costs its own row, not those of the others.
        return Computed(floor=name, values=values, verdict="lost", told=f"its computation broke: {type(error).__name__}")
    worst = max((r.status for r in outcome.verdict), key=RANK.index, default="unchecked")
    against = [r for r in outcome.verdict if r.status == worst != "pass"]
    takes = takeoff(outcome, pipeline.scheduled(outcome))
    deepest = max(sags(outcome), key=lambda s: s["sag_mm"], default=None)
    return Computed(
        floor=name, values=values, verdict=worst, told="; ".join(f"{r.check}: {plain(r.reason) or r.label}" for r in against),
        utilisation={r.check: r.utilisation for r in outcome.verdict}, steel_kg=takes.bars, strands_kg=takes.strands,
        concrete_m3=takes.concrete, carbon_kg=takes.carbon, sag_mm=deepest["sag_mm"] if deepest else None,
        gross_mm=deepest["parts_mm"][0] if deepest else None,
    )  # fmt: skip


def run(study: Study, floors: Floors, workers: int = 1) -> Iterator[Computed]:
    """Every variant of every floor in the study's order. A worker that is killed loses none: from then on each variant that is not there yet has a process of its
    own, and only one that takes two of them with it is told as lost."""
    asked = [(document, values, study.history) for document in floors.values() for values in study.variants()]
    if workers <= 1:
        cache = StageCache()
        for one in asked:
            yield computed(*one, cache=cache)
        return
    told = 0
    try:
        with ProcessPoolExecutor(workers) as pool:
            for job in [pool.submit(_in_pool, *one) for one in asked]:
                yield job.result()
                told += 1
    except BrokenProcessPool:
        for one in asked[told:]:
            yield _alone(*one)


_KEPT = StageCache()
"""Of a process of the pool: what variants share is computed once in each."""


def _in_pool(document: dict[str, Any], values: dict[str, Value], history: bool) -> Computed:
    return computed(document, values, history, cache=_KEPT)


KILLED = "its process was killed twice; it may need more memory than there is"


def lost(document: Mapping[str, Any], values: dict[str, Value], told: str = KILLED) -> Computed:
    """A variant of which there is no result, and why."""
    return Computed(floor=str(document.get("name", "")), values=values, verdict="lost", told=told)


def _alone(document: dict[str, Any], values: dict[str, Value], history: bool) -> Computed:
    for _ in range(2):
        try:
            with ProcessPoolExecutor(1) as pool:
                return pool.submit(_in_pool, document, values, history).result()
        except BrokenProcessPool:
            continue
    return lost(document, values)


def table(study: Variation, found: Sequence[Computed]) -> Table:
    """The variants as a table: floor, values, verdict, utilisations, quantities."""
    checks = list(dict.fromkeys(c for f in found for c in f.utilisation))
    paths = [v.path for v in study.vary]
    columns = (
        "variant", "floor", *paths, "verdict", *checks, "steel kg", "strands kg", "concrete m3", "carbon kg", "deflection mm", "gross mm", "told",
    )  # fmt: skip

    def rounded(value: float | None, digits: int) -> Cell:
        return None if value is None else round(value, digits)

    def cell(value: Value) -> Cell:
        return value if isinstance(value, str | float) or value is None else float(value)

    rows = [
        (
            float(k + 1), f.floor, *(cell(f.values[p]) if p in f.values else None for p in paths), f.verdict,
            *(rounded(f.utilisation.get(c), 4) for c in checks),
            rounded(f.steel_kg, 1), rounded(f.strands_kg, 1), rounded(f.concrete_m3, 3), rounded(f.carbon_kg, 0), rounded(f.sag_mm, 2),
            rounded(f.gross_mm, 2), f.told,
        )
        for k, f in enumerate(found)
    ]  # fmt: skip
    return Table("Study", columns, tuple(rows))


def varied_from(rows: Sequence[Sequence[Cell]]) -> list[Varied]:
    """What varies, out of a table: paths in its first row, a variant in each row below. Raises :class:`RefusedError`."""
    if len(rows) < 2:
        raise RefusedError([Refusal("the table", "needs paths in its first row and a variant in each row below")])
    head = [str(c).strip() if c is not None else "" for c in rows[0]]
    kept = [k for k, path in enumerate(head) if path]
    below = [(n, row) for n, row in enumerate(rows[1:], 1) if any(k < len(row) and row[k] is not None for k in kept)]
    out = []
    for k in kept:
        bare = [n for n, row in below if k >= len(row) or row[k] is None]
        if bare:
            raise RefusedError([Refusal(address(bare[0], k), f"is empty; give {head[k]} a value in every row")])
        out.append(validated(Varied, {"path": head[k], "values": [row[k] for _, row in below]}))
    if not out:
        raise RefusedError([Refusal("the table", "names no path in its first row; write it as slabs[S1].thickness_m")])
    return out
