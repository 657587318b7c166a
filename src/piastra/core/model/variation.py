"""What varies in a study: fields of floor files by their paths, and the values that each takes."""

from __future__ import annotations

import copy
import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import product
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from piastra.core.model.refusal import Refusal, RefusedError

MOST = 500
"""Variants of one study."""
STEP = re.compile(r"([A-Za-z_][A-Za-z0-9_]*)|\[([^\[\]]+)\]")
Value = Annotated[float, Field(allow_inf_nan=False)] | int | Annotated[str, Field(max_length=200)] | bool | None


class Varied(BaseModel):
    """One field by its ``path`` in the floor file, as ``slabs[S1].thickness_m``, ``slabs[0].thickness_m`` or, of all, ``slabs[*].thickness_m``; its ``values``."""

    model_config = ConfigDict(extra="forbid")
    path: Annotated[str, Field(min_length=1, max_length=200)]
    values: Annotated[list[Value], Field(min_length=1, max_length=MOST)]


class Variation(BaseModel):
    """What varies, and how: every value with every other (``grid``), each field for itself while the others stay (``one_at_a_time``), or the values of all fields
    in step (``list``). ``history``: with the life of each floor."""

    model_config = ConfigDict(extra="forbid")
    vary: Annotated[list[Varied], Field(min_length=1, max_length=12)]
    how: Literal["grid", "one_at_a_time", "list"] = "grid"
    history: bool = False

    @model_validator(mode="after")
    def _in_step(self) -> Self:
        if self.how == "list" and len({len(v.values) for v in self.vary}) > 1:
            raise ValueError("vary: a list needs as many values of every field; make them equally many")
        twice = [v.path for k, v in enumerate(self.vary) if v.path in [w.path for w in self.vary[:k]]]
        if twice:
            raise ValueError(f"vary: names {twice[0]} twice; give all of its values in one place")
        if self.count > MOST:
            raise ValueError(f"vary: makes {self.count:,} variants, and a study has {MOST} at most; take fewer values")
        return self

    @property
    def count(self) -> int:
        """How many variants of a floor there are."""
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

    def over(self, documents: Mapping[str, Mapping[str, Any]]) -> None:
        """See that it fits floors by their names. Raises :class:`RefusedError` for more variants than there may be, and for a path that leads nowhere."""
        if self.count * len(documents) > MOST:
            raise RefusedError(
                [
                    Refusal(
                        "vary",
                        f"makes {self.count * len(documents):,} variants of {len(documents)} floors, and a study has {MOST} at most; take fewer",
                    )
                ]
            )
        for name, document in documents.items():
            for v in self.vary:
                try:
                    placed(document, v.path, v.values[0])
                except RefusedError as error:
                    where = f" in {name}" if len(documents) > 1 else ""
                    raise RefusedError([Refusal(r.path, f"{r.sentence}{where}") for r in error.refusals]) from None


def variation(data: Any) -> Variation:
    """What varies, validated. Raises :class:`RefusedError`."""
    return validated(Variation, data)


Model = TypeVar("Model", bound=BaseModel)


def validated(model: type[Model], data: Any) -> Model:
    """Data as a model of what a study holds. Raises :class:`RefusedError`."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise RefusedError(
            [Refusal(".".join(map(str, e["loc"])) or "the study", e["msg"].removeprefix("Value error, ")) for e in error.errors()]
        ) from None


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
