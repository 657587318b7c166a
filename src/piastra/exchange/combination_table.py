"""Combinations as tables, out and back in."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, get_args

from piastra.core.model import Floor
from piastra.core.model.loading import Combination, LimitState
from piastra.exchange.tables import Table, Wrong, address, column_of, label_of
from piastra.exchange.workbook import Cell

STATES = {s.replace("_", "-"): s for s in get_args(LimitState)}
HEADINGS = ("Combination", "Limit state", "Rule", "Edited")


def combination_table(floor: Floor) -> Table:
    """The combinations of a floor: label, limit state, a column for each case, and the rule behind the row."""
    cases = [c.id for c in floor.load_cases]
    rows: list[tuple[Cell, ...]] = [
        (c.id, c.limit_state.replace("_", "-"), *(c.factors.get(k) for k in cases), c.rule, "yes" if c.edited else None)
        for c in floor.combinations
    ]
    return Table("Combinations", (*HEADINGS[:2], *cases, *HEADINGS[2:]), tuple(rows))


def combinations_from(rows: Sequence[Sequence[Cell]], floor: Floor) -> tuple[list[dict[str, Any]], list[Wrong]]:
    """Combinations as the floor file has them out of a table's cells (headings first), and what is wrong cell by cell.

    A generated row whose factors or state differ from the floor's row of that label counts as edited.
    """
    headings = rows[0]
    name, state = column_of(headings, "Combination", "Name"), column_of(headings, "Limit state", "State")
    rule, edited = column_of(headings, "Rule"), column_of(headings, "Edited")
    wrong: list[Wrong] = []
    if name is None:
        wrong.append(Wrong(address(0, 0), "no column is headed Combination; head the labels' column so"))
    if state is None:
        wrong.append(Wrong(address(0, 1), "no column is headed Limit state; add it with ultimate, characteristic and so on"))
    cases = {c.id for c in floor.load_cases}
    columns: dict[int, str] = {}
    for k, heading in enumerate(headings):
        if k in (name, state, rule, edited) or heading in (None, ""):
            continue
        label = f"{heading:g}" if isinstance(heading, float) else str(heading).strip()
        if label not in cases:
            wrong.append(
                Wrong(address(0, k), f"“{label}” is no load case of this floor; it has {', '.join(sorted(cases)) or 'none'}")
            )
        elif label in columns.values():
            wrong.append(Wrong(address(0, k), f"case {label} has a column already; take one of them out"))
        else:
            columns[k] = label
    if name is None or state is None:
        return [], wrong
    there = {c.id: c for c in floor.combinations}
    seen: dict[str, str] = {}
    out: list[dict[str, Any]] = []
    for r, row in enumerate(rows[1:], start=1):
        cells = [*row, *[None] * (len(headings) - len(row))]
        if not any(c not in (None, "") for c in cells):
            continue
        label = label_of(cells[name])
        if not label:
            wrong.append(Wrong(address(r, name), "is empty; every row needs a label"))
        elif len(label) > 60:
            wrong.append(Wrong(address(r, name), "is longer than 60 characters; shorten it"))
        elif label in seen:
            wrong.append(Wrong(address(r, name), f"repeats the label {label} of {seen[label]}; give it its own"))
        else:
            seen[label] = address(r, name)
        kind = STATES.get(str(cells[state] or "").strip().casefold().replace("_", "-").replace(" ", "-"))
        if kind is None:
            wrong.append(Wrong(address(r, state), f"“{cells[state] or ''}” is no limit state; use one of {', '.join(STATES)}"))
        factors: dict[str, float] = {}
        for k, case in columns.items():
            value = cells[k]
            if value in (None, ""):
                continue
            if not isinstance(value, float) or not math.isfinite(value):
                wrong.append(
                    Wrong(address(r, k), f"“{value}” is not a number; write a factor like 1.35, or leave the cell empty")
                )
            elif value:
                factors[case] = value
        text = str(cells[rule]).strip() if rule is not None and cells[rule] not in (None, "") else None
        was = there.get(label)
        changed = was is not None and (was.limit_state != kind or _nonzero(was.factors) != factors)
        mark = bool(text) and (
            changed or (edited is not None and str(cells[edited] or "").strip().casefold() in ("yes", "true", "1"))
        )
        if label and kind:
            out.append(
                Combination(id=label, limit_state=kind, factors=factors, rule=text and text[:200], edited=mark).model_dump(
                    exclude_defaults=True
                )
            )
    return ([], wrong) if wrong else (out, [])


def _nonzero(factors: dict[str, float]) -> dict[str, float]:
    return {k: f for k, f in factors.items() if f}
