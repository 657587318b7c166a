"""The section at a station as it is told: its row with the trace, and the bars in place."""

from __future__ import annotations

from math import degrees
from typing import Literal

from piastra.core.checks.station import BeamSection, Section
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


class WebBarState(Told):
    """One bar of a beam: ``depth_mm`` of its centre from its face, ``aside_mm`` of the web's middle, and the share of its strength to which it is
    ``developed``."""

    mark: str
    face: Literal["bottom", "top"]
    bar_mm: float
    depth_mm: float
    aside_mm: float
    developed: float


class WebState(Told):
    """A beam's section, seen along its axis: its web, the widths of the flanges that count, their thickness and the depth of their top below the web's, its
    bars and links."""

    width_mm: float
    left_mm: float
    right_mm: float
    flange_mm: float
    flange_top_mm: float
    bars: list[WebBarState]
    link_mm: float
    link_spacing_mm: float


class SectionState(Told):
    """What a station shows for the steel of a face: its row, the mean thickness and width of the concrete, where that is along the cut, and all bars.
    Of a beam the depth, the width with its flanges, and the ``web`` with its own bars."""

    row: CheckRow
    h_mm: float
    width_m: float
    concrete_m: list[Pair]
    bars: list[SectionBarsState]
    web: WebState | None = None


def section_state(found: Section | BeamSection) -> SectionState:
    """A section in the units of the results."""
    if isinstance(found, BeamSection):
        return _of_beam(found)
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


def _of_beam(found: BeamSection) -> SectionState:
    web = WebState(
        width_mm=round(1e3 * found.b_w, 3), left_mm=round(1e3 * found.left, 3), right_mm=round(1e3 * (found.b - found.b_w - found.left), 3),
        flange_mm=round(1e3 * found.h_f, 3), flange_top_mm=round(1e3 * found.top, 3),
        link_mm=round(1e3 * found.links.bar, 3), link_spacing_mm=round(1e3 * found.links.spacing, 3),
        bars=[
            WebBarState(mark=b.mark, face="top" if b.face else "bottom", bar_mm=round(1e3 * b.bar, 3), depth_mm=round(1e3 * b.depth, 3),
                        aside_mm=round(1e3 * b.aside, 3), developed=round(b.developed, 4))
            for b in found.bars
        ],
    )  # fmt: skip
    told = CheckRow.model_validate(row(found.row))
    return SectionState(
        row=told, h_mm=round(1e3 * found.H, 3), width_m=round(found.b, 4), concrete_m=[(0.0, round(found.b, 4))], bars=[], web=web
    )
