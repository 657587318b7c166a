"""How a floor is built and used: stages in time, and the limits that its deflection is held against."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from piastra.core.model.quantities import with_quantities
from piastra.core.model.refusal import Refusal
from piastra.core.model.shapes import Label, Number, Positive, Record

DAYS = Annotated[Number, Field(ge=0.5, le=100000)]


class HistoryStage(Record):
    """From ``start_days`` after casting the floor carries a combination, until the next stage starts."""

    id: Label
    start_days: DAYS
    combination: Label


class DeflectionLimit(Record):
    """The sag between two stages is at most the span over ``span_over``."""

    model_config = ConfigDict(
        extra="forbid", frozen=True, use_attribute_docstrings=True, json_schema_extra=with_quantities, populate_by_name=True,
        serialize_by_alias=True,
    )  # fmt: skip
    id: Label
    from_: Annotated[Label | None, Field(alias="from")] = None
    """Only what comes after this stage's own instantaneous part counts; null: everything."""
    to: Label | None = None
    """To the end of this stage; null: to the end."""
    span_over: Positive = 250.0


class ScatterOfProperties(Record):
    """Coefficients of variation of what deflection follows from, by which its band is found. Assumptions, of the order that tests of ordinary concretes
    show about the standards' means (JCSS Probabilistic Model Code, part 3.1; Bažant and Baweja 1995 for creep and shrinkage)."""

    modulus: Annotated[Number, Field(ge=0, le=1)] = 0.15
    tension: Annotated[Number, Field(ge=0, le=1)] = 0.20
    creep: Annotated[Number, Field(ge=0, le=1)] = 0.20
    shrinkage: Annotated[Number, Field(ge=0, le=1)] = 0.30


class Construction(Record):
    """How old the concrete is when the floor first carries itself and what is on it while it is built, for combinations under construction."""

    age_days: Annotated[Number, Field(ge=3, le=365)]
    """Age at which forms or props are taken away; its strength counts up to 28 days (EN 1992-1-1, 3.1.2 (5), from 3 days on)."""
    cement: Literal["S", "N", "R"] = "N"
    """Class of EN 1992-1-1: slow, normal or rapid. ACI 209: R is type III, the others are type I."""


class History(Record):
    """The life of the floor, for the deflection."""

    humidity_pct: Annotated[Number, Field(ge=20, le=100)] = 50.0
    cement: Literal["S", "N", "R"] = "N"
    """Class of EN 1992-1-1: slow, normal or rapid. ACI 209: R is type III, the others are type I."""
    cured_days: Annotated[Number, Field(ge=0.5, le=365)] = 7.0
    """Shrinkage by drying begins then."""
    end_days: Annotated[Number, Field(ge=1, le=100000)] = 10950.0
    stages: Annotated[list[HistoryStage], Field(min_length=1, max_length=12)]
    limits: list[DeflectionLimit] = []
    """Without any: the whole sag, against the floor's own limit."""
    tension_stiffening: Annotated[bool, Field(strict=True)] = True
    """Whether concrete between cracks takes part."""
    tension: Literal["mean", "flexural"] = "mean"
    """The strength beyond which concrete cracks: axial, or of thin members in bending."""

    scatter: ScatterOfProperties = ScatterOfProperties()

    def until(self, k: int) -> float:
        """When stage ``k`` ends, days."""
        return self.stages[k + 1].start_days if k + 1 < len(self.stages) else self.end_days


def refused_history(history: History, combinations: Iterable[str]) -> Iterable[Refusal]:
    """What of a history does not fit together or names what does not exist."""
    known = set(combinations)
    ids = [s.id for s in history.stages]
    for i, stage in enumerate(history.stages):
        if stage.combination not in known:
            listed = ", ".join(sorted(known)) or "none"
            yield Refusal(
                f"history.stages[{i}].combination",
                f"names combination '{stage.combination}', which does not exist; use one of: {listed}",
            )
        if stage.id in ids[:i]:
            yield Refusal(f"history.stages[{i}].id", f"repeats the id '{stage.id}'; give each stage its own")
    for i, (a, b) in enumerate(pairwise(history.stages)):
        if b.start_days <= a.start_days:
            yield Refusal(
                f"history.stages[{i + 1}].start_days",
                f"is {b.start_days:g} days, but stage {a.id} before it starts at {a.start_days:g}; put stages in order of time",
            )
    if history.end_days <= history.stages[-1].start_days:
        yield Refusal(
            "history.end_days",
            f"is {history.end_days:g}, but the last stage starts at {history.stages[-1].start_days:g} days; let the history end later",
        )
    for i, limit in enumerate(history.limits):
        for key, named in (("from", limit.from_), ("to", limit.to)):
            if named is not None and named not in ids:
                yield Refusal(
                    f"history.limits[{i}].{key}", f"names stage '{named}', which does not exist; use one of: {', '.join(ids)}"
                )
        if limit.from_ in ids and limit.to in ids and ids.index(limit.to) < ids.index(limit.from_):
            yield Refusal(
                f"history.limits[{i}].to", f"is stage {limit.to}, which comes before {limit.from_}; let the later one end it"
            )
        if limit.id in [l.id for l in history.limits[:i]]:
            yield Refusal(f"history.limits[{i}].id", f"repeats the id '{limit.id}'; give each limit its own")
