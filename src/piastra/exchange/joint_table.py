"""Forces and moments at columns and walls out of tables, from a frame analysis say: of one floor, and of all floors of a building."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from piastra.core.model import Floor
from piastra.exchange.tables import Wrong, address, column_of, label_of
from piastra.exchange.workbook import Cell

KIP, KIP_FOOT = 4.4482216152605, 1.3558179483314004
"""One kip in kN, one kip-ft in kNm."""
NAMES = {
    "level": ("Level", "Storey", "Floor"), "case": ("Case",), "support": ("Support", "Column", "Wall", "Joint"),
    "F_kN": ("F", "F kN", "F kip"), "Mx_kNm": ("Mx", "Mx kNm", "Mx kip-ft"), "My_kNm": ("My", "My kNm", "My kip-ft"),
}  # fmt: skip
"""Headings, however they are spelled. They may name units: kN and kNm, which hold without any, or kip and kip-ft."""
ACTING = ("F_kN", "Mx_kNm", "My_kNm")


@dataclass(frozen=True, slots=True)
class AtJoint:
    """One row: the ``level`` (empty: the table has none), the load case, the column or wall, and what acts (kN, kNm by the keys of a joint load);
    ``cells``: addresses of the first three; ``whole``: all of its numbers are."""

    level: str
    case: str
    support: str
    forces: Mapping[str, float]
    cells: Mapping[str, str]
    whole: bool = True


def forces_from(rows: Sequence[Sequence[Cell]], levelled: bool = False) -> tuple[list[AtJoint], list[Wrong]]:
    """The rows (headings first), and what is wrong cell by cell; ``levelled``: each row names its level."""
    headings = rows[0]
    columns = {key: column_of(headings, *names) for key, names in NAMES.items()}
    needed = [key for key in ("level", "case", "support") if levelled or key != "level"]
    wrong = [
        Wrong(address(0, k), f"no column is headed {NAMES[key][0]}; add it")
        for k, key in enumerate(needed)
        if columns[key] is None
    ]
    if all(columns[k] is None for k in ACTING):
        wrong.append(Wrong(address(0, len(needed)), "no column is headed F, Mx or My; add what acts"))
    if wrong:
        return [], wrong
    found: list[AtJoint] = []
    for r, row in enumerate(rows[1:], start=1):
        cells = [*row, *[None] * (len(headings) - len(row))]
        if not any(c not in (None, "") for c in cells):
            continue
        named = {key: label_of(cells[k]) for key in needed if (k := columns[key]) is not None}
        forces: dict[str, float] = {}
        fine = True
        for key in ACTING:
            k = columns[key]
            value = cells[k] if k is not None else None
            if k is None or value in (None, ""):
                continue
            if not isinstance(value, float) or not math.isfinite(value):
                wrong.append(Wrong(address(r, k), f"“{value}” is not a number"))
                fine = False
                continue
            heading = str(headings[k])
            forces[key] = round(value * (KIP_FOOT if "kip-ft" in heading else KIP if "kip" in heading else 1.0), 9)
        at = {key: address(r, k) for key in needed if (k := columns[key]) is not None}
        found.append(AtJoint(named.get("level", ""), named["case"], named["support"], forces, at, fine))
    return found, wrong


def joints_of(floor: Floor) -> set[str]:
    """What joint loads act on: columns and walls by id."""
    return {c.id for c in floor.columns} | {w.id for w in floor.walls}


def loads_of(found: Sequence[AtJoint], taken: Collection[str]) -> list[dict[str, Any]]:
    """Joint loads as the floor file has them, with labels that are not ``taken``."""
    known, out = set(taken), []
    for one in found:
        label = base = f"{one.case} {one.support}"
        n = 1
        while label in known:
            n += 1
            label = f"{base} {n}"
        known.add(label)
        out.append({"id": label, "kind": "joint", "case": one.case, "support": one.support, **one.forces})
    return out


def joint_loads_from(rows: Sequence[Sequence[Cell]], floor: Floor) -> tuple[list[dict[str, Any]], list[Wrong]]:
    """Joint loads of one floor out of a table with the columns Case, Support, F, Mx, My, and what is wrong cell by cell; none of them where
    anything is."""
    found, wrong = forces_from(rows)
    cases, joints = {c.id for c in floor.load_cases}, joints_of(floor)
    for one in found:
        for key, known, what in (("case", cases, "load case"), ("support", joints, "column or wall")):
            label = getattr(one, key)
            if label not in known:
                wrong.append(Wrong(one.cells[key], f"“{label}” is no {what} of this floor"))
    return ([], wrong) if wrong else (loads_of(found, [load.id for load in floor.loads]), [])
