"""Reading and writing floor files."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from piastra.core.model import Floor, Refusal, RefusedError, floor_from

__all__ = ["document", "floor_from", "parse", "read", "write"]

GREATEST_BYTES = 20_000_000


def parse(text: str | bytes) -> Floor:
    """The floor in a JSON text. Raises :class:`RefusedError` saying where the text or the floor is wrong."""
    if len(text) > GREATEST_BYTES:
        raise RefusedError([Refusal("the file", f"is larger than {GREATEST_BYTES // 1_000_000} MB; a floor file is not")])
    try:
        data = json.loads(text)
    except UnicodeDecodeError:
        raise RefusedError([Refusal("the file", "is not UTF-8 text; save it as UTF-8")]) from None
    except json.JSONDecodeError as error:
        raise RefusedError(
            [Refusal("the file", f"is not JSON: line {error.lineno}, column {error.colno}: {error.msg.lower()}")]
        ) from None
    except RecursionError:
        raise RefusedError([Refusal("the file", "is nested too deeply for a floor file")]) from None
    return floor_from(data)


def read(path: Path) -> Floor:
    """The floor in a file. Raises :class:`RefusedError`, also when the file cannot be read."""
    try:
        content = path.read_bytes()
    except OSError as error:
        raise RefusedError([Refusal(str(path), f"cannot be read: {(error.strerror or 'unknown reason').lower()}")]) from None
    return parse(content)


def document(floor: Floor) -> dict[str, Any]:
    """The floor as the JSON document of its file; defaults that were not given stay out."""
    return floor.model_dump(mode="json", exclude_unset=True)


def write(floor: Floor, path: Path) -> None:
    """Write a floor file."""
    path.write_text(json.dumps(document(floor), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
