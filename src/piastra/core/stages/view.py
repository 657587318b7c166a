"""A floor of which only the declared parts can be seen."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any, Literal, TypeVar

from pydantic import BaseModel

from piastra.core.model import Floor

M = TypeVar("M", bound=BaseModel)
Fields = tuple[str, ...] | Literal["all"]
ALL: Literal["all"] = "all"


def _bare(model: M, values: dict[str, Any]) -> M:
    """An object of a model that has the given values and nothing else: reading anything more raises AttributeError."""
    made = type(model).__new__(type(model))
    object.__setattr__(made, "__dict__", values)
    object.__setattr__(made, "__pydantic_fields_set__", set(values))
    object.__setattr__(made, "__pydantic_extra__", None)
    object.__setattr__(made, "__pydantic_private__", None)
    return made


def of(items: Iterable[M], fields: Fields) -> list[M]:
    """The items with only the given fields."""
    if isinstance(fields, str):
        return list(items)
    return [_bare(i, {f: i.__dict__[f] for f in _held(type(i), fields)}) for i in items]


@cache
def _held(model: type[BaseModel], fields: tuple[str, ...]) -> tuple[str, ...]:
    """Those of some fields that a model has."""
    return tuple(f for f in fields if f in model.model_fields)


def only(floor: Floor, *scalars: str, **lists: Fields) -> Floor:
    """The floor with only the given scalars, and of each given list only the given fields of its items (``ALL``: whole
    items). Reading anything else raises :class:`AttributeError`."""
    values: dict[str, Any] = {name: getattr(floor, name) for name in scalars}
    values.update({name: of(getattr(floor, name), fields) for name, fields in lists.items()})
    return _bare(floor, values)
