"""Beams that are drawn in pieces between their bearings, as the one that they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from piastra.core.geometry.arcs import polyline
from piastra.core.geometry.axes import Held
from piastra.core.model.footprint import beam_outline
from piastra.core.model.members import Beam

Array = npt.NDArray[np.float64]

AS_STRAIGHT = 0.002
"""A beam whose vertices lie so little aside (m) is straight: on drawings they are given to the millimetre."""
TOUCH = 0.015
"""Beams whose ends lie no further (m) apart meet; a movement joint is wider."""
LEAST = 1e-3
"""A piece lies in a span with more of its web than this (m2)."""


@dataclass(frozen=True, slots=True)
class WholeBeam:
    """The longest of ``pieces`` of one section that go on in line, by their names with their outlines (m), it first; and the ``line`` (k, 2) m through
    all of them: where it begins, bends and ends."""

    beam: Beam
    pieces: dict[str, BaseGeometry]
    line: Array

    @property
    def outline(self) -> BaseGeometry:
        """That of all its pieces, m."""
        return shapely.union_all(list(self.pieces.values()))

    def within(self, span: BaseGeometry) -> tuple[str, ...]:
        """The pieces that lie in the web of a ``span`` (m); what another beam has taken over is not checked as a part of this one."""
        if len(self.pieces) == 1:
            return (self.beam.id,)
        return tuple(id for id, outline in self.pieces.items() if outline.intersection(span).area > LEAST)


def bends(beam: Beam) -> Array:
    """Where a beam's line begins, bends and ends (k, 2) m: a vertex along a straight line is no end of a span."""
    return _straightened(np.array(polyline(beam.line, 2.0)))


def _straightened(line: Array) -> Array:
    return shapely.get_coordinates(LineString(line).simplify(AS_STRAIGHT))


def whole_beams(beams: Sequence[Beam], bearings: Sequence[Held]) -> list[WholeBeam]:
    """Beams of one section that meet end to end in line, joined where none of the ``bearings``, and no deeper beam across, bears them there: these
    end a span, and whether a beam is drawn through over them or bay by bay is left to who draws."""
    lines = [bends(b) for b in beams]
    met = _met(beams, lines, bearings)
    out, done = [], set[int]()
    # From an end that nothing continues; what is then left are rings, which begin anywhere.
    starts = [(k, end) for k in range(len(beams)) for end in (0, 1) if (k, end) not in met]
    for first, end in [*starts, *((k, 0) for k in range(len(beams)))]:
        if first in done:
            continue
        chain = [(first, end)]
        done.add(first)
        while (following := met.get((chain[-1][0], 1 - chain[-1][1]))) is not None and following[0] not in done:
            chain.append(following)
            done.add(following[0])
        line = np.concatenate([lines[k][:: -1 if begins else 1] for k, begins in chain])
        own = sorted((k for k, _ in chain), key=lambda k: (-round(LineString(lines[k]).length, 3), beams[k].id))
        out.append(WholeBeam(beams[own[0]], {beams[k].id: beam_outline(beams[k]) for k in own}, _straightened(line)))
    return out


def _section(beam: Beam) -> tuple[float | str, ...]:
    return beam.width_m, beam.depth_m, beam.top_offset_m, beam.concrete, beam.torsion, beam.priority


def _met(beams: Sequence[Beam], lines: Sequence[Array], bearings: Sequence[Held]) -> dict[tuple[int, int], tuple[int, int]]:
    """By the number of a beam and its end, 0 or 1, the beam and end by which it goes on."""
    ends = [(k, end) for k in range(len(beams)) for end in (0, 1)]
    at = np.array([lines[k][-end] for k, end in ends]).reshape(-1, 2)
    gaps = np.hypot(*(at[:, None] - at[None]).transpose(2, 0, 1))
    met: dict[tuple[int, int], tuple[int, int]] = {}
    for n, m in np.argwhere(np.triu(gaps <= TOUCH, 1)).tolist():
        one, other = ends[n], ends[m]
        if one in met or other in met or one[0] == other[0] or _section(beams[one[0]]) != _section(beams[other[0]]):
            continue
        before, after = (lines[k][1 if end == 0 else -2] for k, end in (one, other))
        middle = (at[n] + at[m]) / 2
        if len(_straightened(np.array([before, middle, after]))) > 2 or (at[n] - before) @ (after - at[m]) <= 0:
            continue
        if not _borne(shapely.Point(middle), LineString([before, after]), beams[one[0]], beams, lines, bearings):
            met[one], met[other] = other, one
    return met


def _borne(
    at: shapely.Point, through: LineString, beam: Beam, beams: Sequence[Beam], lines: Sequence[Array], bearings: Sequence[Held]
) -> bool:
    """Whether something holds a beam ``at`` a place of its line: a support, or a deeper beam across it."""
    if any(h.shape.dwithin(at, h.width / 2 + TOUCH) for h in bearings):
        return True
    deeper = (k for k, o in enumerate(beams) if o.depth_m > beam.depth_m)
    return any(LineString(lines[k]).dwithin(at, beams[k].width_m / 2) and LineString(lines[k]).crosses(through) for k in deeper)
