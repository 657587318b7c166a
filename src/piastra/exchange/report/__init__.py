"""The calculation report of a floor: chapters from the floor file and its results, as a web page and as PDF."""

from piastra.exchange.report.chapters import CHAPTERS, Detail, Source
from piastra.exchange.report.written import page, typeset

__all__ = ["CHAPTERS", "Detail", "Source", "page", "typeset"]
