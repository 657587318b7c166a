"""Any station of a strip, as the check of flexure sees it: its row with the trace, and the bars of its section."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.beams.design import Stirrups
from piastra.core.beams.web import WebBar, web_bars
from piastra.core.checks.beams import NOT_DESIGNED, station_row
from piastra.core.checks.check import Context
from piastra.core.checks.flexure import FACES, steel_row
from piastra.core.checks.row import Row
from piastra.core.reinforcement.section import SectionBars, concrete_along, section_bars

NEAR = 1e-3
"""A station is named by its place (m) along the strip's axis within this."""


class UnknownStationError(Exception):
    """There is no such strip or station, or no steel is asked for; the message says which."""


@dataclass(frozen=True, slots=True)
class Section:
    """A station's ``row`` for one face, the mean thickness ``h`` and the ``width`` (m) of concrete that the cut passes through, where that is along the cut
    (from, to m), and its ``bars``."""

    row: Row
    h: float
    width: float
    concrete: tuple[tuple[float, float], ...]
    bars: tuple[SectionBars, ...]


@dataclass(frozen=True, slots=True)
class BeamSection:
    """A beam's station: its ``row`` for one face; the web's width and the whole depth, the width with its flanges and what of it lies to the left of the web, their thickness
    and the depth of their top below the web's, m; its ``bars`` and ``links``."""

    row: Row
    b_w: float
    H: float
    b: float
    left: float
    h_f: float
    top: float
    bars: tuple[WebBar, ...]
    links: Stirrups


def section_at(context: Context, slab: npt.NDArray[np.int64], strip: str, s: float, face: str) -> Section | BeamSection:
    """The section ``s`` m along a ``strip``'s axis for the steel of a ``face``; ``slab`` (e,) of each element.

    Raises :class:`UnknownStationError`.
    """
    cuts, layout = context.cuts, context.layout
    number = next((k for k, known in enumerate(layout.strips) if known.id == strip), None)
    if number is None:
        raise UnknownStationError(f"{strip} is no strip here")
    if layout.strips[number].beam:
        return _of_beam(context, number, s, FACES.index(face))
    if context.steel is None:
        raise UnknownStationError(
            "no steel is asked for here: there is no ultimate combination, or the standard has no rules for it"
        )
    cut = np.flatnonzero((cuts.strip == number) & (np.abs(cuts.s - s) < NEAR))
    if not len(cut):
        raise UnknownStationError(f"{strip} has no station at {s:g} m")
    one = int(cut[0])
    bars = section_bars(context.floor, context.groups, cuts, one, slab[cuts.samples.element], context.region)
    return Section(
        steel_row(context, one, FACES.index(face)),
        float(cuts.h[one]),
        float(cuts.width[one]),
        tuple(concrete_along(cuts, one)),
        tuple(bars),
    )


def _of_beam(context: Context, number: int, s: float, face: int) -> BeamSection:
    strip, design, rules = context.layout.strips[number], context.beams, context.standard.beams
    if design is None or rules is None or number not in design.bars:
        raise UnknownStationError(
            f"{strip.label} is not designed: {NOT_DESIGNED}, there is no ultimate combination, or the standard has no rules for it"
        )
    own, cuts = design.sections, context.cuts
    mine = np.flatnonzero((cuts.strip[own.cuts] == number) & (np.abs(cuts.s[own.cuts] - s) < NEAR))
    if not len(mine):
        raise UnknownStationError(f"{strip.id} has no station at {s:g} m")
    k = int(mine[0])
    bars = tuple(web_bars(context.floor, context.layout, cuts, design, k, rules))
    row = station_row(context, design, number, k, face)
    b_w, H, b, left, h_f, top = (float(v[k]) for v in (own.b_w, own.H, own.b, own.left, own.h_f, own.top))
    return BeamSection(row, b_w, H, b, left, h_f, top, bars, design.stirrups[number])
