"""The calculation report of a floor: chapters from the floor file and its results, as a web page, as PDF and as a workbook."""

from piastra.exchange.report.chapters import CHAPTERS, Detail, SaidLine, SignedLine, Source
from piastra.exchange.report.written import page, typeset, workbook

__all__ = ["CHAPTERS", "Detail", "SaidLine", "SignedLine", "Source", "page", "typeset", "workbook"]
