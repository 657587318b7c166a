"""The OpenAPI schema with the documents that the API carries: floor, project, results and events."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from piastra.api.messages import FloorEvent
from piastra.core.model import Floor
from piastra.core.model.project import Project

TEMPLATE = "#/components/schemas/{model}"
DOCUMENTS: tuple[type[BaseModel], ...] = (Floor, Project, FloorEvent)


def typed_documents(schema: dict[str, Any]) -> dict[str, Any]:
    """The schema with the documents among its components, and references where the API carries one of them."""
    known: dict[str, Any] = schema["components"]["schemas"]
    for model in DOCUMENTS:
        made = model.model_json_schema(ref_template=TEMPLATE)
        known.update(made.pop("$defs", {}))
        known[model.__name__] = made
    return dict(_referred(schema))


def _referred(value: Any) -> Any:
    if isinstance(value, dict):
        if "x-document" in value:
            return {"$ref": TEMPLATE.format(model=value["x-document"])}
        parts = value.get("prefixItems")
        if isinstance(parts, list) and parts and all(p == parts[0] for p in parts):
            # A tuple of like things: client generators know it as an array of fixed length.
            value = {**{k: v for k, v in value.items() if k != "prefixItems"}, "items": parts[0]}
        return {k: _referred(v) for k, v in value.items()}
    if isinstance(value, list):
        return [_referred(v) for v in value]
    return value
