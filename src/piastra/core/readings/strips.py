"""Forces of strips at their stations: those of free bodies, under a case, a combination, an arrangement or over a limit state."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, envelopes, governing_panels
from piastra.core.readings import reading
from piastra.core.readings.responses import Responses
from piastra.core.trace import Loaded

Array = npt.NDArray[np.float64]

EFFECTS = {"M": (0, "kNm"), "T": (1, "kNm"), "V": (2, "kN"), "N": (3, "kN")}
"""Moment about the concrete's centroid (sagging positive), twisting moment, shear and axial force (tension positive) of a
whole strip, with their rows and units."""


@dataclass(frozen=True, slots=True)
class Peak:
    """The extreme of a diagram: its value, m along the axis, the combination and the panels that are loaded."""

    value: float
    at: float
    combination: str
    panels: tuple[Loaded, ...]


@dataclass(frozen=True, slots=True)
class Along:
    """An effect along a strip: ``least`` and ``greatest`` (k,) at stations ``s`` (k,) m; the combinations that give them, and the
    peaks. Under one arrangement both are the same."""

    s: Array
    width: Array
    least: Array
    greatest: Array
    least_of: tuple[str, ...]
    greatest_of: tuple[str, ...]
    low: Peak
    high: Peak
    unit: str


WAYS = ("envelope", "all", "least", "greatest", "arrangement")
"""With both sides of the envelope, all live load, one side, or a named arrangement."""
LIFTED = "lifts a part of the floor off its bedding, and forces of strips are those of a bedding that also pulls"


def along_strip(responses: Responses, strip: str, effect: str, chosen: reading.Chosen | None, state: str | None = None) -> Along:
    """An effect along a strip as ``chosen``, or over all combinations of a limit ``state`` and all their arrangements.

    Raises :class:`piastra.core.readings.reading.UnknownReadingError`.
    """
    found = responses.strips
    if found is None:
        raise reading.UnknownReadingError("forces of strips were not kept with this run; compute the floor anew")
    if strip not in found.labels or effect not in EFFECTS:
        raise reading.UnknownReadingError(f"there is no effect {effect} of strip {strip} in this run")
    if chosen is not None and chosen.kind not in WAYS:
        raise reading.UnknownReadingError(f"{chosen.kind} is no way to read a strip; choose one of {', '.join(WAYS)}")
    row, unit = EFFECTS[effect]
    mine = np.flatnonzero(found.strip == found.labels.index(strip))
    mine = mine[np.argsort(found.s[mine], kind="stable")]
    if not len(mine):
        raise reading.UnknownReadingError(f"strip {strip} has no station on the floor")
    values = found.forces[mine, row]
    s, width = found.s[mine], found.width[mine]
    acting = _acting(responses, chosen, state)
    if lifting := [f.combination for f in acting if f.combination in responses.lifted]:
        raise reading.UnknownReadingError(f"combination {lifting[0]} {LIFTED}")
    if chosen is not None and chosen.kind in ("all", "arrangement"):
        one = values @ reading.vector(responses, chosen)
        shown = _loaded_in(responses, chosen)
        low, high = (Peak(float(one[k]), float(s[k]), chosen.of, shown) for k in (int(one.argmin()), int(one.argmax())))
        named = (chosen.of,) * len(s)
        return Along(s, width, one, one, named, named, low, high, unit)
    low_each, high_each = envelopes(values, acting)
    low_by, high_by = low_each.argmin(axis=1), high_each.argmax(axis=1)
    least, greatest = low_each.min(axis=1), high_each.max(axis=1)

    def peak(k: int, f: Factors, value: float, most: bool) -> Peak:
        return Peak(value, float(s[k]), f.combination, governing_panels(values[k], f, responses.units, most))

    a, b = int(least.argmin()), int(greatest.argmax())
    if chosen is not None and chosen.kind in ("least", "greatest"):
        # One side of the envelope alone.
        one, by = (least, low_by) if chosen.kind == "least" else (greatest, high_by)
        named = tuple(acting[int(k)].combination for k in by)
        most = chosen.kind == "greatest"
        ends = [peak(k, acting[int(by[k])], float(one[k]), most) for k in (int(one.argmin()), int(one.argmax()))]
        return Along(s, width, one, one, named, named, ends[0], ends[1], unit)
    return Along(
        s, width, least, greatest, tuple(acting[int(k)].combination for k in low_by), tuple(acting[int(k)].combination for k in high_by),
        peak(a, acting[int(low_by[a])], float(least[a]), False), peak(b, acting[int(high_by[b])], float(greatest[b]), True), unit,
    )  # fmt: skip


def _acting(responses: Responses, chosen: reading.Chosen | None, state: str | None) -> Sequence[Factors]:
    if chosen is not None:
        return [reading.combination_of(responses, chosen.of)]
    found = [f for f in responses.combinations if f.limit_state == state]
    if not found:
        raise reading.UnknownReadingError(f"there is no combination of the limit state {state} in this run")
    return found


def _loaded_in(responses: Responses, chosen: reading.Chosen) -> tuple[Loaded, ...]:
    """Panels that a named arrangement loads; none to tell with all of them."""
    if chosen.kind == "all":
        return ()
    share = reading.loaded(responses, chosen.arrangement or "")
    return tuple(
        Loaded(u.case, panel)
        for u, on in zip(responses.units, share, strict=True)
        if u.panel is not None and on > 0
        for panel in u.panels
    )
