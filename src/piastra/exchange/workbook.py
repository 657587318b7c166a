"""Reads the first sheet of a workbook, in a process of its own that has little time and memory: ``python -m piastra.exchange.workbook``. It reads nothing of
the computation, which would take longer than most tables."""

from __future__ import annotations

import io
import zipfile
from typing import Any

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from piastra.exchange.confined import Confined

Cell = str | float | None
UNPACKED = 60 * 2**20
"""What a workbook may unpack to, bytes."""
MOST_CELLS = 100_000
MOST_ROWS = 20000
MOST_COLUMNS = 500
READER = Confined("piastra.exchange.workbook", seconds=10, memory=700_000_000)
NO_BOOK = "is not a workbook that can be read; save it as XLSX or CSV"
TOO_MANY = f"has more than {MOST_CELLS:,} cells; leave out what is no row of the table"


def _answer(_ask: dict[str, Any], content: bytes) -> dict[str, Any]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            if sum(i.file_size for i in archive.infolist()) > UNPACKED:
                return {"refused": "unpacks to more than a table needs; it is not read"}
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        sheet: Any = book.worksheets[0]
        rows: list[list[Cell]] = []
        cells = 0
        for line in sheet.iter_rows(max_row=MOST_ROWS + 1, max_col=MOST_COLUMNS, values_only=True):
            cells += len(line)
            if cells > MOST_CELLS:
                return {"refused": TOO_MANY}
            rows.append(
                [
                    float(c) if isinstance(c, int | float) and not isinstance(c, bool) else None if c is None else str(c)
                    for c in line
                ]
            )
    except (InvalidFileException, zipfile.BadZipFile, KeyError, ValueError, OSError, IndexError):
        return {"refused": NO_BOOK}
    width = max((k + 1 for row in rows for k, c in enumerate(row) if c not in (None, "")), default=0)
    return {"rows": [row[:width] for row in rows]}


if __name__ == "__main__":
    READER.answer(_answer)
