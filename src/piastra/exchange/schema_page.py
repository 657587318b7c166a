"""The page that explains the floor file, made from its JSON Schema."""

from __future__ import annotations

from typing import Any

from piastra.core.model import Floor
from piastra.core.model.project import Project

HEAD = """# The floor file

One JSON document holds everything that the computation of one floor needs. `piastra schema` prints its JSON Schema, from
which `piastra schema --markdown` makes this page. Keys that carry a unit end in it. Plan coordinates are metres, x to the right,
y up, z up; loads are positive downwards. An outline is a list of `[x, y]` or `[x, y, bulge]`; the bulge is the tangent of a
quarter of the angle of the arc that leaves the vertex, positive anticlockwise. A path is the same, not closed. Unknown keys are
refused.
"""
SHARED = """
# The project document

What a building's floors share. A floor file holds its own copy of the standard, the materials and the grid, so that it
stands alone; in a project they follow the project's.
"""


def schema_page() -> str:
    """The page, Markdown."""
    floor, project = Floor.model_json_schema(), Project.model_json_schema()
    known = floor["$defs"]
    parts = [
        HEAD,
        _section("Floor", floor),
        *(_section(n, known[n]) for n in sorted(known)),
        SHARED,
        _section("Project", project),
    ]
    parts += [_section(n, d) for n, d in sorted(project["$defs"].items()) if n not in known]
    return "\n".join(parts)


def _section(name: str, schema: dict[str, Any]) -> str:
    rows = []
    required = set(schema.get("required", []))
    for key, value in schema.get("properties", {}).items():
        default = "required" if key in required else _default(value)
        meaning = " ".join(value.get("description", "").split())
        rows.append(f"| `{key}` | {_kind(key, value)} | {default} | {meaning} |")
    text = " ".join(schema.get("description", "").split())
    return f"## {name}\n\n{text}\n\n| key | value | default | meaning |\n|---|---|---|---|\n" + "\n".join(rows) + "\n"


def _default(value: dict[str, Any]) -> str:
    default = value.get("default")
    if default in ([], {}) or isinstance(default, dict):
        return "none"
    return f"`{'null' if default is None else str(default).lower() if isinstance(default, bool) else default}`"


def _kind(key: str, value: dict[str, Any]) -> str:
    if "$ref" in value:
        return str(value["$ref"]).rsplit("/", 1)[-1]
    if "const" in value:
        return f'"{value["const"]}"' if isinstance(value["const"], str) else str(value["const"])
    if "enum" in value:
        return ", ".join(map(str, value["enum"]))
    choices = value.get("anyOf") or value.get("oneOf")
    if choices:
        return " or ".join(dict.fromkeys(_kind(key, c) for c in choices if c.get("type") != "null"))
    if value.get("type") == "array":
        return {"outline": "outline", "line": "path", "at": "point", "origin": "point"}.get(
            key
        ) or f"list of {_kind('', value['items'])}"
    if value.get("type") == "object":
        return "object of numbers"
    return str(value.get("type", "any"))
