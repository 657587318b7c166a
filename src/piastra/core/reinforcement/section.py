"""The bars that a station's section shows: mats and groups that a cut meets, where they lie along it and how deep."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from shapely.geometry.base import BaseGeometry

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group, Spots
from piastra.core.reinforcement.mats import ROWS, mats_of, provided
from piastra.core.strips.cuts import Cuts

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class SectionBars:
    """Bars of one mat or ``group``, called ``name``, in a ``face`` (0 bottom, 1 top): their diameter ``bar`` and ``spacing`` m, the ``depth`` (m) of their centres
    from that face, from ``start`` to ``end`` m along the cut's concrete; ``turn`` rad from the strip's direction to theirs, 0 to pi / 2, and the share to which
    they are ``developed`` there on average."""

    name: str
    group: bool
    face: int
    bar: float
    spacing: float
    depth: float
    start: float
    end: float
    turn: float
    developed: float


def section_bars(
    floor: Floor, groups: Sequence[Group], cuts: Cuts, cut: int, slab: Ints, region: BaseGeometry
) -> list[SectionBars]:
    """All bars that one ``cut`` meets or has in its plane, mats first; ``slab`` (k,) of each of the samples of all cuts.

    Depths are those that the check takes: mats that overlap have the mean by area, and the near sides of groups lie level with those of the mats of
    their direction. Of bars at an angle to the strip the check takes a mean of both layers.
    """
    mine, start, end = _along(cuts, cut)
    xy, slab = cuts.samples.xy[mine], slab[mine]
    angle = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab]
    mats = mats_of(floor)
    here = provided(mats, xy, slab)
    out: list[SectionBars] = []

    def add(
        name: str, group: bool, face: int, bar: float, spacing: float, depth: Array, at: Flags, angle: Array, developed: Array
    ) -> None:
        # Bars of another direction in the next slab are drawn apart, as is what an opening or another outline parts.
        turn = np.abs((angle - cuts.angle[cut] + np.pi / 2) % np.pi - np.pi / 2)
        apart = np.flatnonzero((np.diff(at.astype(int)) != 0) | (np.abs(np.diff(turn)) > 1e-9) | (start[1:] - end[:-1] > GAP)) + 1
        for run in np.split(np.arange(len(at)), apart):
            if len(run) and at[run[0]]:
                length = end[run] - start[run]
                out.append(SectionBars(
                    name, group, face, bar, spacing, float(np.average(depth[run], weights=length)), float(start[run[0]]), float(end[run[-1]]),
                    float(turn[run[0]]), float(np.average(developed[run], weights=length)),
                ))  # fmt: skip

    for k, m in enumerate(floor.mats):
        r = ROWS.index((m.face, m.direction))
        across = angle + (np.pi / 2 if m.direction == "y" else 0.0)
        add(m.id, False, r // 2, m.bar_mm / 1e3, m.spacing_mm / 1e3, here.depth[r], mats.holding(k, xy), across, np.ones(len(xy)))
    number, point, developed = Spots(xy, region).under(groups)
    for g in np.unique(number).tolist():
        group, met = groups[g], number == g
        at, share = np.zeros(len(xy), dtype=bool), np.zeros(len(xy))
        at[point[met]], share[point[met]] = True, developed[met]
        r = ROWS.index((("bottom", "top")[group.face], group.direction))
        depth = here.depth[r] - here.radius(r) + group.bar / 2
        add(group.mark, True, group.face, group.bar, group.spacing, depth, at, np.full(len(xy), group.angle), share)
    return out


GAP = 1e-3
"""Concrete that is so far apart along a cut (m) has no common bars drawn."""


def concrete_along(cuts: Cuts, cut: int) -> list[tuple[float, float]]:
    """Where along a cut there is concrete, from and to m from its first end: openings part it."""
    mine, start, end = _along(cuts, cut)
    parted = np.flatnonzero(start[1:] - end[:-1] > GAP) + 1
    return [(float(start[run[0]]), float(end[run[-1]])) for run in np.split(np.arange(len(mine)), parted) if len(run)]


def _along(cuts: Cuts, cut: int) -> tuple[Ints, Array, Array]:
    """A cut's samples in order, and where the length of each begins and ends, m from the cut's first end."""
    mine = np.flatnonzero(cuts.samples.cut == cut)
    a, b = cuts.ends[cut]
    middle = (cuts.samples.xy[mine] - a) @ ((b - a) / max(float(np.hypot(*(b - a))), 1e-12))
    order = np.argsort(middle, kind="stable")
    mine, middle = mine[order], middle[order]
    half = cuts.samples.length[mine] / 2
    return mine, middle - half, middle + half
