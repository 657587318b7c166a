"""Any station of a strip, as the check of flexure sees it: its row with the trace, and the bars of its section."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

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


def section_at(context: Context, slab: npt.NDArray[np.int64], strip: str, s: float, face: str) -> Section:
    """The section ``s`` m along a ``strip``'s axis for the steel of a ``face``; ``slab`` (e,) of each element.

    Raises :class:`UnknownStationError`.
    """
    cuts, layout = context.cuts, context.layout
    number = next((k for k, known in enumerate(layout.strips) if known.id == strip and not known.beam), None)
    if number is None:
        raise UnknownStationError(f"{strip} is no strip of a slab here")
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
