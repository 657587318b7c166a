"""The page that lists every provision of every standard with its clause and its file."""

from __future__ import annotations

import inspect
from pathlib import Path

import piastra.core
from piastra.core.standards import standard_named
from piastra.core.standards.registry import names

HEAD = """# Provisions for bars

Required steel at a station is the greatest of these; results keep all of them by name. Written by `piastra formulas --provisions`.

| standard | provision | clause | gathers in | reads others' demands | file |
|---|---|---|---|---|---|
"""
BANDS = {
    "": "the strip",
    "eighth": "an eighth of the panel each side",
    "column": "the column and 1.5 h each side",
    "edge": "b_e of figure 9.9",
}


def provisions_page() -> str:
    """The page as Markdown."""
    root = Path(piastra.core.__file__).parent
    rows = []
    for name in names():
        for p in standard_named(name).provisions:
            path = Path(inspect.getsourcefile(type(p)) or "").relative_to(root)
            clause = p.clause.removeprefix(f"{name}, ")
            rows.append(
                f"| {name} | `{p.name}` | {clause} | {BANDS[p.gathers]} | {'yes' if p.derived else 'no'} | [{path}](../src/piastra/core/{path}) |"
            )
    return HEAD + "\n".join(rows) + "\n"
