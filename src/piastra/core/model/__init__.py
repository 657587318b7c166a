"""The floor as Pydantic models; the open floor file is their JSON."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from piastra.core.model.floor import FORMAT, VERSION, Floor
from piastra.core.model.refusal import Refusal, RefusedError, refusals_of

__all__ = ["FORMAT", "VERSION", "Floor", "Refusal", "RefusedError", "floor_from"]


def floor_from(data: Any) -> Floor:
    """The floor that a parsed JSON document describes.

    Raises :class:`RefusedError` with a path and a sentence for every field that is wrong.
    """
    if not isinstance(data, dict):
        raise RefusedError([Refusal("the floor", "must be a JSON object with the key 'format'")])
    try:
        return Floor.model_validate(data)
    except ValidationError as error:
        raise RefusedError(refusals_of(error, data)) from None
