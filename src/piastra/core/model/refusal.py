"""Why an input is refused: the path of the field, and a sentence that says what to do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails


@dataclass(frozen=True, slots=True)
class Refusal:
    """One thing that is wrong with an input."""

    path: str
    sentence: str

    def __str__(self) -> str:
        return f"{self.path}: {self.sentence}"


class RefusedError(ValueError):
    """An input, or a floor that cannot be computed, with everything that is wrong with it."""

    def __init__(self, refusals: Sequence[Refusal]) -> None:
        self.refusals = tuple(refusals)
        super().__init__("; ".join(str(r) for r in self.refusals))


_SENTENCES = {
    "missing": "is missing; add it",
    "extra_forbidden": "is not a key of the floor file; remove it or check its spelling",
    "finite_number": "must be a finite number; NaN and infinity are refused",
    "float_type": "must be a number, not {input}",
    "int_type": "must be a whole number, not {input}",
    "bool_type": "must be true or false, not {input}",
    "string_type": "must be a text, not {input}",
    "list_type": "must be a list, not {input}",
    "dict_type": "must be an object, not {input}",
    "model_type": "must be an object, not {input}",
    "model_attributes_type": "must be an object, not {input}",
    "greater_than": "must be greater than {gt:g}, not {input}",
    "greater_than_equal": "must be at least {ge:g}, not {input}",
    "less_than": "must be less than {lt:g}, not {input}",
    "less_than_equal": "must be at most {le:g}, not {input}",
    "string_too_short": "is empty; give it a label",
    "string_too_long": "is longer than {max_length} characters; shorten it",
    "string_pattern_mismatch": "starts or ends with a space, or has a line break or another character that is not seen; remove it",
    "too_short": "needs at least {min_length} entries, but has {actual_length}",
    "too_long": "takes at most {max_length} entries, but has {actual_length}",
    "literal_error": "must be {expected}, not {input}",
    "union_tag_invalid": "has the kind {tag!r}, which is not known; use one of: {expected_tags}",
    "union_tag_not_found": "has no kind; add the key 'kind'",
}


def _path(location: tuple[int | str, ...]) -> str:
    text = ""
    for part in location:
        text += f"[{part}]" if isinstance(part, int) else (f".{part}" if text else str(part))
    return text or "the floor"


def _shown(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 40 else text[:37] + "..."


def _known_location(error: ErrorDetails, data: Any) -> tuple[int | str, ...]:
    """The location without the names of union branches, which are not keys of the file."""
    kept: list[int | str] = []
    here: Any = data
    fresh = False
    for k, part in enumerate(error["loc"]):
        last = k == len(error["loc"]) - 1
        if fresh and isinstance(here, dict) and here.get("kind") == part:
            # The branch chosen by its kind comes first, even where a key has the same name.
            fresh = False
            continue
        fresh = True
        if isinstance(here, dict) and part in here:
            here = here[part]
        elif isinstance(here, list) and isinstance(part, int) and part < len(here):
            here = here[part]
        elif not (last and error["type"] == "missing"):
            continue
        kept.append(part)
    return tuple(kept)


MOST = 2000
"""Faults of a document that are looked at: of one with more, these tell enough."""


def refusals_of(error: ValidationError, data: Any) -> list[Refusal]:
    """The refusals that a failed validation of ``data`` amounts to, one a field."""
    found: dict[str, str] = {}
    for detail in islice(error.errors(include_url=False), MOST):
        context: dict[str, Any] = detail.get("ctx", {})
        cause = context.get("error")
        if isinstance(cause, RefusedError):
            for refusal in cause.refusals:
                found.setdefault(refusal.path, refusal.sentence)
            continue
        path = _path(_known_location(detail, data))
        if isinstance(cause, ValueError):
            sentence = str(cause)
        elif detail["type"] in _SENTENCES:
            values = {**context, "input": _shown(detail["input"])}
            sentence = _SENTENCES[detail["type"]].format(**values)
        else:
            sentence = detail["msg"].lower()
        if path in found and sentence not in found[path]:
            # The branches of "a number, or one of these words" are one field to the reader.
            found[path] = f"{found[path]}, or {sentence}"
        else:
            found.setdefault(path, sentence)
    return [Refusal(path, sentence) for path, sentence in found.items()]
