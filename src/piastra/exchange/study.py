"""Studies: variants of one floor by the values of some of its fields, computed side by side, a row of a table each."""

from __future__ import annotations

import copy
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import product
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from piastra.core import pipeline
from piastra.core.model import Floor, Refusal, RefusedError, floor_from
from piastra.core.readings.takeoff import takeoff
from piastra.core.trace.amounts import plain
from piastra.exchange import floor_file
from piastra.exchange.tables import Cell, Table

MOST = 500
"""Variants of one study."""
STEP = re.compile(r"([A-Za-z_][A-Za-z0-9_]*)|\[([^\[\]]+)\]")
Value = float | int | str | bool | None


class Varied(BaseModel):
    """One field by its ``path`` in the floor file, as ``slabs[S1].thickness_m``, ``slabs[0].thickness_m`` or, of all, ``slabs[*].thickness_m``; its ``values``."""

    model_config = ConfigDict(extra="forbid")
    path: Annotated[str, Field(min_length=1, max_length=200)]
    values: Annotated[list[Value], Field(min_length=1, max_length=MOST)]


class Study(BaseModel):
    """A study file: the ``floor`` (the name of a floor file beside it, or the floor itself) and what varies: every value with every other (``grid``), each field
    for itself while the others stay (``one_at_a_time``), or the values of all fields in step (``list``). ``history``: with the floor's life."""

    model_config = ConfigDict(extra="forbid")
    format: Literal["piastra-study"]
    version: Literal[1]
    floor: str | dict[str, Any]
    vary: Annotated[list[Varied], Field(min_length=1, max_length=12)]
    how: Literal["grid", "one_at_a_time", "list"] = "grid"
    history: bool = False

    @model_validator(mode="after")
    def _in_step(self) -> Study:
        if self.how == "list" and len({len(v.values) for v in self.vary}) > 1:
            raise ValueError("vary: a list needs as many values of every field; make them equally many")
        if self.count > MOST:
            raise ValueError(f"vary: makes {self.count:,} variants, and a study has {MOST} at most; take fewer values")
        return self

    @property
    def count(self) -> int:
        """How many variants there are."""
        lengths = [len(v.values) for v in self.vary]
        if self.how == "list":
            return lengths[0]
        if self.how == "one_at_a_time":
            return 1 + sum(lengths)
        out = 1
        for n in lengths:
            out *= n
        return out

    def variants(self) -> Iterator[dict[str, Value]]:
        """Values by path; one at a time begins with the floor as it is."""
        if self.how == "grid":
            for values in product(*(v.values for v in self.vary)):
                yield dict(zip([v.path for v in self.vary], values, strict=True))
        elif self.how == "list":
            for values in zip(*(v.values for v in self.vary), strict=True):
                yield dict(zip([v.path for v in self.vary], values, strict=True))
        else:
            yield {}
            for v in self.vary:
                for value in v.values:
                    yield {v.path: value}


def read(path: Path) -> tuple[Study, Floor]:
    """A study and its floor. Raises :class:`RefusedError`."""
    try:
        data = json.loads(path.read_bytes())
        study = Study.model_validate(data)
    except OSError as error:
        raise RefusedError([Refusal(str(path), f"cannot be read: {(error.strerror or 'unknown reason').lower()}")]) from None
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise RefusedError([Refusal(str(path), "is not JSON in UTF-8; see the README for what a study file holds")]) from None
    except ValidationError as error:
        raise RefusedError(
            [Refusal(".".join(map(str, e["loc"])) or "the study", e["msg"].removeprefix("Value error, ")) for e in error.errors()]
        ) from None
    floor = floor_file.read(path.parent / study.floor) if isinstance(study.floor, str) else floor_from(study.floor)
    document = floor_file.document(floor)
    for v in study.vary:
        placed(document, v.path, v.values[0])
    return study, floor


def placed(document: Mapping[str, Any], path: str, value: Value) -> dict[str, Any]:
    """The document with a ``value`` at a ``path``. Raises :class:`RefusedError` where the path leads nowhere."""
    out = copy.deepcopy(dict(document))
    steps = [name or f"[{index}]" for name, index in STEP.findall(path)]
    if not steps or "".join(s if s.startswith("[") else f".{s}" for s in steps) != f".{path}":
        raise RefusedError([Refusal(path, "is no path; write it as slabs[S1].thickness_m, or slabs[*].thickness_m for all")])
    for here in _at(out, steps[:-1], path):
        here[steps[-1]] = value
    return out


def _at(here: Any, steps: Sequence[str], path: str) -> list[dict[str, Any]]:
    places = [here]
    for step in steps:
        found: list[Any] = []
        for place in places:
            if not step.startswith("["):
                if not isinstance(place, dict) or step not in place:
                    raise RefusedError([Refusal(path, f"leads nowhere: there is no {step}")])
                found.append(place[step])
                continue
            key = step[1:-1]
            listed = place if isinstance(place, list) else []
            mine = (
                listed if key == "*"
                else [o for o in listed if isinstance(o, dict) and o.get("id") == key]
                or ([listed[int(key)]] if key.isdigit() and int(key) < len(listed) else [])
            )  # fmt: skip
            if not mine:
                raise RefusedError([Refusal(path, f"leads nowhere: there is no {key} in that list")])
            found += mine
        places = found
    if not all(isinstance(p, dict) for p in places):
        raise RefusedError([Refusal(path, "leads to a value that has no fields")])
    return places


class Computed(BaseModel):
    """One variant: its ``values``, whether it works (``verdict``), what stands against it, utilisations by check, bars, strands and concrete, the greatest sag."""

    values: dict[str, Value]
    verdict: Literal["pass", "fail", "uncovered", "unchecked", "refused", "lost"]
    told: str = ""
    utilisation: dict[str, float | None] = {}
    steel_kg: float | None = None
    strands_kg: float | None = None
    concrete_m3: float | None = None
    carbon_kg: float | None = None
    sag_mm: float | None = None


RANK = ("pass", "uncovered", "unchecked", "fail")


def computed(document: dict[str, Any], values: dict[str, Value], history: bool) -> Computed:
    """One variant of the floor in a ``document``; one that cannot be computed says why."""
    try:
        for path, value in values.items():
            document = placed(document, path, value)
        outcome = pipeline.solve_floor(floor_from(document), rigorous=history, remedies=False)
    except RefusedError as error:
        return Computed(values=values, verdict="refused", told="; ".join(str(r) for r in error.refusals[:3]))
    except Exception as error:
        # A fault of the computation costs its own row, not those of the others.
        return Computed(values=values, verdict="lost", told=f"its computation broke: {type(error).__name__}")
    worst = max((r.status for r in outcome.verdict), key=RANK.index, default="unchecked")
    against = [r for r in outcome.verdict if r.status == worst != "pass"]
    takes = takeoff(outcome, pipeline.scheduled(outcome))
    return Computed(
        values=values, verdict=worst, told="; ".join(f"{r.check}: {plain(r.reason) or r.label}" for r in against),
        utilisation={r.check: r.utilisation for r in outcome.verdict}, steel_kg=takes.bars, strands_kg=takes.strands,
        concrete_m3=takes.concrete, carbon_kg=takes.carbon,
        sag_mm=1e3 * max((s.sag for s in outcome.sags), default=0.0),
    )  # fmt: skip


def run(study: Study, floor: Floor, workers: int = 1) -> Iterator[Computed]:
    """Every variant in the study's order. A worker that is killed loses none: from then on each variant that is not there yet has a process of its own, and
    only one that takes two of them with it is told as lost."""
    document, variants = floor_file.document(floor), list(study.variants())
    if workers <= 1:
        for values in variants:
            yield computed(document, values, study.history)
        return
    told = 0
    try:
        with ProcessPoolExecutor(workers) as pool:
            for job in [pool.submit(computed, document, values, study.history) for values in variants]:
                yield job.result()
                told += 1
    except BrokenProcessPool:
        for values in variants[told:]:
            yield _alone(document, values, study.history)


def _alone(document: dict[str, Any], values: dict[str, Value], history: bool) -> Computed:
    for _ in range(2):
        try:
            with ProcessPoolExecutor(1) as pool:
                return pool.submit(computed, document, values, history).result()
        except BrokenProcessPool:
            continue
    return Computed(values=values, verdict="lost", told="its process was killed twice; it may need more memory than there is")


def table(study: Study, found: Sequence[Computed]) -> Table:
    """The variants as a table: values, verdict, utilisations, quantities."""
    checks = list(dict.fromkeys(c for f in found for c in f.utilisation))
    paths = [v.path for v in study.vary]
    columns = (
        "variant",
        *paths,
        "verdict",
        *checks,
        "steel kg",
        "strands kg",
        "concrete m3",
        "carbon kg",
        "deflection mm",
        "told",
    )

    def rounded(value: float | None, digits: int) -> Cell:
        return None if value is None else round(value, digits)

    def cell(value: Value) -> Cell:
        return value if isinstance(value, str | float) or value is None else float(value)

    rows = [
        (
            float(k + 1), *(cell(f.values[p]) if p in f.values else None for p in paths), f.verdict,
            *(rounded(f.utilisation.get(c), 4) for c in checks),
            rounded(f.steel_kg, 1), rounded(f.strands_kg, 1), rounded(f.concrete_m3, 3), rounded(f.carbon_kg, 0), rounded(f.sag_mm, 2), f.told,
        )
        for k, f in enumerate(found)
    ]  # fmt: skip
    return Table("Study", columns, tuple(rows))
