"""Tables to and from spreadsheets: CSV and XLSX."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

from openpyxl import Workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from piastra.core.model import Refusal, RefusedError
from piastra.exchange.confined import UnreadableError
from piastra.exchange.workbook import MOST_CELLS, MOST_COLUMNS, MOST_ROWS, NO_BOOK, READER, TOO_MANY, Cell

LARGEST = 10 * 2**20


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of cells below a row of headings."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


@dataclass(frozen=True, slots=True)
class Wrong:
    """What is wrong with one cell, by its address in the spreadsheet."""

    cell: str
    sentence: str


def address(row: int, column: int) -> str:
    """The cell's name in a spreadsheet, both counted from 0 with the headings as row 0: ``B3``."""
    return f"{get_column_letter(column + 1)}{row + 1}"


def to_csv(table: Table) -> bytes:
    """A table as CSV: commas, decimal points, UTF-8 with a mark that spreadsheets look for."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow([_plain(c) for c in table.columns])
    writer.writerows([_plain(c) for c in row] for row in table.rows)
    return b"\xef\xbb\xbf" + buffer.getvalue().encode()


FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""Spreadsheets take a text that begins so for a formula."""


def _plain(cell: Cell) -> str | float:
    """A cell that no spreadsheet computes: a mark stands before a text that looks like a formula, and is no number."""
    if cell is None:
        return ""
    if isinstance(cell, str) and cell.startswith(FORMULA) and not isinstance(_number(cell, decimal_comma=False), float):
        return f"'{cell}"
    return cell


def to_xlsx(table: Table) -> bytes:
    """A table as a workbook with one sheet, headings bold and fixed."""
    return to_book([table])


def to_book(tables: Sequence[Table]) -> bytes:
    """Tables as a workbook with a sheet each, headings bold and fixed."""
    book = Workbook()
    book.remove(book.active)
    for table in tables:
        _sheet(book, table)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _sheet(book: Any, table: Table) -> None:
    # Sheet names bear no more than 31 characters and none of these, and each is there once.
    name = "".join(c for c in _seen(table.title) if c not in "[]:*?/\\")[:31].strip() or "Table"
    sheet: Any = book.create_sheet(name)
    sheet.append([_seen(c) for c in table.columns])
    for row in table.rows:
        sheet.append([_seen(c) if isinstance(c, str) else c for c in row])
    # A text that begins with an equals sign is a text, no formula.
    for line in sheet.iter_rows():
        for cell in line:
            if cell.data_type == "f":
                cell.data_type = "s"
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for k, name in enumerate(table.columns):
        longest = max([len(name), *(len(str(r[k])) for r in table.rows[:200] if r[k] is not None)])
        sheet.column_dimensions[get_column_letter(k + 1)].width = min(max(longest + 2, 8), 48)
    sheet.freeze_panes = "B2"


def _seen(text: str) -> str:
    """Without characters that a workbook cannot hold."""
    return ILLEGAL_CHARACTERS_RE.sub("", text)


def read_table(content: bytes, name: str) -> list[list[Cell]]:
    """The cells of a CSV or XLSX file, the headings first; empty rows at the end are left out.

    Numbers in a CSV may have a decimal comma where semicolons part the cells. Raises :class:`RefusedError`.
    """
    if len(content) > LARGEST:
        raise RefusedError([Refusal(name, f"is larger than {LARGEST // 2**20} MB; tables of that size are not read")])
    rows = _confined(content, name) if content[:4] == b"PK\x03\x04" else _csv(content, name)
    while rows and not any(c not in (None, "") for c in rows[-1]):
        rows.pop()
    if len(rows) < 2:
        raise RefusedError([Refusal(name, "has no rows below its headings; write a row of headings and the rows below it")])
    return rows


def _confined(content: bytes, name: str) -> list[list[Cell]]:
    try:
        answer = READER.read({}, content)
    except TimeoutError:
        raise RefusedError([Refusal(name, f"takes more than {READER.seconds} s to read; leave out what is no table")]) from None
    except UnreadableError:
        raise RefusedError([Refusal(name, NO_BOOK)]) from None
    if "refused" in answer:
        raise RefusedError([Refusal(name, answer["refused"])])
    rows: list[list[Cell]] = answer["rows"]
    return rows


def _csv(content: bytes, name: str) -> list[list[Cell]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("cp1252", errors="replace")
    if "\0" in text:
        raise RefusedError([Refusal(name, "is neither CSV nor XLSX; save the table as one of them")])
    first = text.split("\n", 1)[0]
    mark = max(",;\t", key=first.count)
    rows = []
    cells = 0
    try:
        for row in islice(csv.reader(io.StringIO(text), delimiter=mark), MOST_ROWS + 1):
            cells += len(row)
            if cells > MOST_CELLS:
                raise RefusedError([Refusal(name, TOO_MANY)])
            rows.append(row)
    except csv.Error:
        raise RefusedError([Refusal(name, "is neither CSV nor XLSX; save the table as one of them")]) from None
    return [[_number(c, decimal_comma=mark == ";") for c in row[:MOST_COLUMNS]] for row in rows]


def _number(text: str, decimal_comma: bool) -> Cell:
    given = text.strip()
    if not given:
        return None
    if given.startswith("'") and given[1:].startswith(FORMULA):
        given = given[1:]
    plain = given.replace("−", "-").replace(",", ".") if decimal_comma else given.replace("−", "-")
    try:
        return float(plain)
    except ValueError:
        return given


def column_of(headings: Sequence[Cell], *names: str) -> int | None:
    """Which column has one of the names as its heading, however it is spelled."""
    wanted = {n.casefold().replace("_", " ") for n in names}
    for k, heading in enumerate(headings):
        if isinstance(heading, str) and heading.strip().casefold().replace("_", " ") in wanted:
            return k
    return None


def label_of(cell: Cell) -> str:
    """A cell as a label: a number without needless figures."""
    return f"{cell:g}" if isinstance(cell, float) else str(cell or "").strip()
