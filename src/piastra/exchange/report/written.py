"""Chapters as one web page, and that page as PDF."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape
from markupsafe import Markup

from piastra.core.model.quantities import Quantity
from piastra.exchange.report.chapters import Detail, Figure, Source, Table, Traced, chapters
from piastra.exchange.report.units import MINUS, System, formatted, number, of_quantity, spoken
from piastra.exchange.tables import Table as Sheet
from piastra.exchange.tables import to_book

_PAGES = Environment(
    loader=PackageLoader("piastra.exchange.report"), autoescape=select_autoescape(), undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
)  # fmt: skip
_DIGITS: dict[Quantity, int] = {
    "length": 3,
    "size": 0,
    "bar": 1,
    "cover": 1,
    "force": 1,
    "moment": 1,
    "moment_per_m": 1,
    "steel": 0,
    "steel_per_m": 0,
    "stress": 2,
}


def _valued(value: Mapping[str, Any], system: System) -> str:
    """A value of a trace with its unit; sizes in small units."""
    quantity: Quantity = value["quantity"]
    own = of_quantity(quantity, system)
    amount, unit = (float(value["value"]) * own.factor, own.name) if own else (float(value["value"]), str(value["unit"]))
    if amount == 0:
        return f"0 {unit}".strip()
    digits = own.digits if own else _DIGITS.get(quantity, 3)
    # Small figures keep what they say.
    if abs(amount) < 10.0**-digits * 10:
        return f"{amount:.3g} {unit}".strip().replace("-", MINUS)
    return f"{formatted(amount, digits)} {unit}".strip()


_KINDS: dict[type, str] = {str: "text", Table: "table", Figure: "figure", Traced: "traced"}
_PAGES.filters["valued"] = _valued
_PAGES.filters["number"] = number
_PAGES.filters["spoken"] = spoken
_PAGES.filters["drawing"] = lambda svg: Markup(svg)
_PAGES.tests["of_kind"] = lambda part, kind: _KINDS[type(part)] == kind


def page(source: Source, wanted: Mapping[str, Detail]) -> str:
    """The report as a web page that needs nothing else."""
    made = chapters(source, wanted)
    return _PAGES.get_template("report.html").render(source=source, chapters=made)


def workbook(source: Source, wanted: Mapping[str, Detail]) -> bytes:
    """The tables of a report as a workbook, a sheet each; figures are numbers."""
    sheets: list[Sheet] = []
    for chapter in chapters(source, wanted):
        tables = [p for p in chapter.parts if isinstance(p, Table)]
        for k, table in enumerate(tables):
            name = chapter.title if k == 0 else f"{chapter.title} {k + 1}"
            rows = tuple(tuple(_cell(c, i in table.figures) for i, c in enumerate(row)) for row in table.rows)
            sheets.append(Sheet(name, tuple(table.heads), rows))
    return to_book(sheets or [Sheet("Report", ("Nothing was chosen that has a table",), ())])


def _cell(text: str, figure: bool) -> str | float | None:
    if not figure:
        return text
    return None if text == "–" else float(text.replace(MINUS, "-").replace(",", ""))


def typeset(text: str) -> bytes:
    """A page as PDF, A4."""
    # It loads the typesetter, which takes a moment and is needed nowhere else.
    from weasyprint import HTML

    found = HTML(string=text, url_fetcher=_nothing).write_pdf()
    assert found is not None
    return bytes(found)


def _nothing(url: str, *rest: object, **more: object) -> dict[str, object]:
    """A report reads nothing from anywhere."""
    raise ValueError(f"a report reads nothing from {url}")
