"""Names of the design standards that are at hand. The registry of standards fills them in, so that the model can refuse
other names without knowing any standard."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import AfterValidator, Field, GetJsonSchemaHandler
from pydantic_core import CoreSchema

KNOWN: dict[str, Mapping[str, bool]] = {}
"""By name the keys of the values that a standard leaves open, and whether design (and not only combining) reads them."""


def _known(name: str) -> str:
    if name not in KNOWN:
        raise ValueError(f"must be {' or '.join(repr(n) for n in KNOWN)}, not {name!r}")
    return name


class _Names:
    """Puts the known names into the JSON Schema at the time it is made."""

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"type": "string", "enum": list(KNOWN)}


StandardName = Annotated[str, Field(strict=True), AfterValidator(_known), _Names()]


def design_values(standard: str, own: Mapping[str, float]) -> dict[str, float]:
    """Of a project's own values those that the design to a standard reads."""
    keys = KNOWN.get(standard, {})
    return {k: v for k, v in own.items() if keys.get(k)}
