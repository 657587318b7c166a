"""The section at a station as it is told: its row with the trace, and the bars in place."""

from __future__ import annotations

from math import degrees
from typing import Literal

from piastra.core.checks.station import Section
from piastra.exchange.results_file import row
from piastra.exchange.results_model import CheckRow, Pair, Told


class SectionBarsState(Told):
    """Bars of one mat or group: ``depth_mm`` of their centres from their face, ``start_m`` to ``end_m`` along the cut, ``turn_deg`` from the strip's
    direction, and the share of their strength to which they are ``developed``."""

    name: str
    kind: Literal["mat", "group"]
    face: Literal["bottom", "top"]
    bar_mm: float
    spacing_mm: float
    depth_mm: float
    start_m: float
    end_m: float
    turn_deg: float
    developed: float


class SectionState(Told):
    """What a station shows for the steel of a face: its row, the mean thickness and width of the concrete, where that is along the cut, and all bars."""

    row: CheckRow
    h_mm: float
    width_m: float
    concrete_m: list[Pair]
    bars: list[SectionBarsState]


def section_state(found: Section) -> SectionState:
    """A section in the units of the results."""
    bars = [
        SectionBarsState(
            name=b.name, kind="group" if b.group else "mat", face="top" if b.face else "bottom", bar_mm=round(1e3 * b.bar, 3), spacing_mm=round(1e3 * b.spacing, 3),
            depth_mm=round(1e3 * b.depth, 3), start_m=round(b.start, 4), end_m=round(b.end, 4), turn_deg=round(degrees(b.turn), 3),
            developed=round(b.developed, 4),
        )
        for b in found.bars
    ]  # fmt: skip
    return SectionState(
        row=CheckRow.model_validate(row(found.row)),
        h_mm=1e3 * found.h,
        width_m=found.width,
        concrete_m=[(round(a, 4), round(b, 4)) for a, b in found.concrete],
        bars=bars,
    )
