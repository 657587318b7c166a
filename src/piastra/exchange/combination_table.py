"""Combinations and joint loads as tables, out and back in."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, get_args

from piastra.core.model import Floor
from piastra.core.model.loading import Combination, LimitState
from piastra.exchange.tables import Cell, Table, Wrong, address, column_of

STATES = {s.replace("_", "-"): s for s in get_args(LimitState)}
KIP, KIP_FOOT = 4.4482216152605, 1.3558179483314004
"""One kip in kN, one kip-ft in kNm."""
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
        label = _label(cells[name])
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


def _label(cell: Cell) -> str:
    return f"{cell:g}" if isinstance(cell, float) else str(cell or "").strip()


def _nonzero(factors: dict[str, float]) -> dict[str, float]:
    return {k: f for k, f in factors.items() if f}


def joint_loads_from(rows: Sequence[Sequence[Cell]], floor: Floor) -> tuple[list[dict[str, Any]], list[Wrong]]:
    """Joint loads out of a table with the columns Case, Support, F, Mx, My, and what is wrong cell by cell.

    The headings may name units: kN and kNm, which hold without any, or kip and kip-ft.
    """
    headings = rows[0]
    wanted = {"case": ("Case",), "support": ("Support", "Column", "Wall", "Joint"), "F_kN": ("F", "F kN", "F kip"),
              "Mx_kNm": ("Mx", "Mx kNm", "Mx kip-ft"), "My_kNm": ("My", "My kNm", "My kip-ft")}  # fmt: skip
    columns = {key: column_of(headings, *names) for key, names in wanted.items()}
    wrong = [
        Wrong(address(0, k), f"no column is headed {wanted[key][0]}; add it")
        for k, key in enumerate(("case", "support")) if columns[key] is None
    ]  # fmt: skip
    if all(columns[k] is None for k in ("F_kN", "Mx_kNm", "My_kNm")):
        wrong.append(Wrong(address(0, 2), "no column is headed F, Mx or My; add what acts"))
    if wrong:
        return [], wrong
    cases = {c.id for c in floor.load_cases}
    joints = {c.id for c in floor.columns} | {w.id for w in floor.walls}
    taken = {load.id for load in floor.loads}
    out: list[dict[str, Any]] = []
    for r, row in enumerate(rows[1:], start=1):
        cells = [*row, *[None] * (len(headings) - len(row))]
        if not any(c not in (None, "") for c in cells):
            continue
        load: dict[str, Any] = {"kind": "joint"}
        for key, known, what in (("case", cases, "load case"), ("support", joints, "column or wall")):
            k = columns[key]
            assert k is not None
            label = _label(cells[k])
            if label not in known:
                wrong.append(Wrong(address(r, k), f"“{label}” is no {what} of this floor"))
            load[key] = label
        for key in ("F_kN", "Mx_kNm", "My_kNm"):
            k = columns[key]
            value = cells[k] if k is not None else None
            if value in (None, ""):
                continue
            if not isinstance(value, float) or not math.isfinite(value):
                assert k is not None
                wrong.append(Wrong(address(r, k), f"“{value}” is not a number"))
            else:
                assert k is not None
                heading = str(headings[k])
                load[key] = round(value * (KIP_FOOT if "kip-ft" in heading else KIP if "kip" in heading else 1.0), 9)
        label = base = f"{load['case']} {load['support']}"
        n = 1
        while label in taken:
            n += 1
            label = f"{base} {n}"
        taken.add(label)
        out.append({"id": label, **load})
    return ([], wrong) if wrong else (out, [])
