"""A tendon's curve in space: a line of straight and arc stretches on plan, and parabolas and straight parts in elevation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from piastra.core.geometry.arcs import arc_of
from piastra.core.model.tendons import ProfilePoint

Array = npt.NDArray[np.float64]

STEP = 0.1
"""Points along a tendon lie no farther apart (m)."""


@dataclass(frozen=True, slots=True)
class Stretches:
    """Straight and arc stretches of a line on plan, k of them: ``start`` (k,) m along the line, ``at`` (k, 2) m and ``heading``
    (k,) rad where they begin, ``curvature`` (k,) 1/m positive to the left; ``length`` m of all."""

    start: Array
    at: Array
    heading: Array
    curvature: Array
    length: float

    def find(self, s: Array) -> npt.NDArray[np.int64]:
        """The stretch of each place ``s`` (n,) m; that which begins there where two meet."""
        return np.clip(np.searchsorted(self.start, s, side="right") - 1, 0, len(self.start) - 1)

    def points(self, s: Array, which: npt.NDArray[np.int64] | None = None) -> tuple[Array, Array]:
        """Points (n, 2) m and headings (n,) rad at places ``s`` (n,) m, in the given stretches."""
        k = self.find(s) if which is None else which
        along, bend, turn = s - self.start[k], self.curvature[k], self.heading[k]
        angle = bend * along
        # sin(a) / k and (1 - cos(a)) / k, which stay finite as the arc becomes straight.
        straight = np.abs(angle) < 1e-12
        safe = np.where(straight, 1.0, bend)
        ahead = np.where(straight, along, np.sin(angle) / safe)
        aside = np.where(straight, 0.0, (1 - np.cos(angle)) / safe)
        c, d = np.cos(turn), np.sin(turn)
        xy = self.at[k] + np.column_stack([c * ahead - d * aside, d * ahead + c * aside])
        return xy, turn + angle


def stretches(line: Sequence[Sequence[float]]) -> Stretches:
    """The stretches of a line of vertices ``[x, y]`` or ``[x, y, bulge]`` (m)."""
    start, at, heading, bend, s = [], [], [], [], 0.0
    for a, b in pairwise(line):
        bulge = float(a[2]) if len(a) > 2 else 0.0
        chord = float(np.hypot(b[0] - a[0], b[1] - a[1]))
        towards = float(np.arctan2(b[1] - a[1], b[0] - a[0]))
        start.append(s)
        at.append(a[:2])
        if abs(bulge) < 1e-9:
            heading.append(towards)
            bend.append(0.0)
            s += chord
            continue
        arc = arc_of(a, b, bulge)
        heading.append(towards - arc.sweep / 2)
        bend.append(float(np.sign(bulge)) / arc.radius)
        s += arc.radius * abs(arc.sweep)
    return Stretches(np.array(start), np.array(at, dtype=np.float64), np.array(heading), np.array(bend), s)


@dataclass(frozen=True, slots=True)
class Elevation:
    """Pieces of an elevation, k of them: ``start`` (k,) m along the line, level ``z`` (k,) m and ``slope`` (k,) where they
    begin, ``bend`` (k,) 1/m: z + slope u + bend u^2 / 2. Upwards positive."""

    start: Array
    z: Array
    slope: Array
    bend: Array

    def find(self, s: Array) -> npt.NDArray[np.int64]:
        """The piece of each place ``s`` (n,) m; that which begins there where two meet."""
        return np.clip(np.searchsorted(self.start, s, side="right") - 1, 0, len(self.start) - 1)

    def levels(self, s: Array, which: npt.NDArray[np.int64] | None = None) -> tuple[Array, Array]:
        """Levels (n,) m and slopes (n,) at places ``s`` (n,) m, in the given pieces."""
        k = self.find(s) if which is None else which
        u = s - self.start[k]
        return self.z[k] + self.slope[k] * u + self.bend[k] * u**2 / 2, self.slope[k] + self.bend[k] * u


def elevation(profile: Sequence[ProfilePoint]) -> Elevation:
    """The pieces between the points of a profile, as :class:`ProfilePoint` describes them."""
    made: list[tuple[float, float, float, float]] = []
    for a, b in pairwise(profile):
        s0, s1, z0, z1 = a.s_m, b.s_m, a.z_mm / 1e3, b.z_mm / 1e3
        L, rise = s1 - s0, z1 - z0
        level = {side for side, p in (("a", a), ("b", b)) if p.tangent == "level"}
        if "kink" in (a.tangent, b.tangent) or not level:
            made.append((s0, z0, rise / L, 0.0))
        elif level == {"a"}:
            made.append((s0, z0, 0.0, 2 * rise / L**2))
        elif level == {"b"}:
            made.append((s0, z0, 2 * rise / L, -2 * rise / L**2))
        else:
            # Two parabolas with a common tangent where they meet, each level at its end.
            reverse = b.reverse if z1 > z0 else a.reverse
            first = (1 - reverse) * L if z1 > z0 else reverse * L
            steepest = 2 * rise / L
            made.append((s0, z0, 0.0, steepest / first))
            made.append((s0 + first, z0 + steepest * first / 2, steepest, -steepest / (L - first)))
    return Elevation(*(np.array(c) for c in zip(*made, strict=True)))


@dataclass(frozen=True, slots=True)
class Curve:
    """A tendon at n places: ``s`` (n,) m along its line on plan, no farther than ``STEP`` apart; a place where it bends sharply is
    there twice, before and after. ``xy`` (n, 2) m, ``heading`` (n,) rad, level ``z`` (n,) m, ``slope`` (n,) dz/ds; ``theta``
    (n,) rad the sum of angles in space from the start."""

    s: Array
    xy: Array
    heading: Array
    z: Array
    slope: Array
    theta: Array

    @property
    def length(self) -> float:
        """On plan, m."""
        return float(self.s[-1])

    def along(self) -> Array:
        """(n,) m along the curve itself."""
        steps = np.diff(self.s) * np.sqrt(1 + ((self.slope[1:] + self.slope[:-1]) / 2) ** 2)
        return np.concatenate([[0.0], np.cumsum(steps)])


def curve(line: Sequence[Sequence[float]], profile: Sequence[ProfilePoint]) -> Curve:
    """The curve of a tendon. Source of the angles: EN 1992-1-1, 5.10.5.2: their sum, irrespective of direction or sign."""
    plan, up = stretches(line), elevation(profile)
    breaks = np.unique(np.round(np.concatenate([plan.start, up.start, [plan.length]]), 9))
    breaks = breaks[(breaks >= 0) & (breaks <= plan.length + 1e-9)]
    parts_s, parts_k, parts_p = [], [], []
    for a, b in pairwise(breaks):
        if b - a < 1e-7:
            continue
        s = np.linspace(a, b, max(int(np.ceil((b - a) / STEP)), 2) + 1)
        middle = np.array([(a + b) / 2])
        parts_s.append(s)
        parts_k.append(np.full(len(s), plan.find(middle)[0]))
        parts_p.append(np.full(len(s), up.find(middle)[0]))
    s, k, p = np.concatenate(parts_s), np.concatenate(parts_k), np.concatenate(parts_p)
    xy, heading = plan.points(s, k)
    z, slope = up.levels(s, p)
    incline = np.arctan(slope)
    # Within a piece both angles turn steadily; between two, the way in space turns at once.
    way = np.column_stack([np.cos(incline) * np.cos(heading), np.cos(incline) * np.sin(heading), np.sin(incline)])
    sharp = np.arctan2(np.linalg.norm(np.cross(way[:-1], way[1:]), axis=1), (way[:-1] * way[1:]).sum(axis=1))
    smooth = np.hypot(np.abs(np.diff(incline)), np.abs(np.diff(heading)) * np.cos((incline[1:] + incline[:-1]) / 2))
    step = np.where(np.diff(s) > 1e-9, smooth, sharp)
    theta = np.concatenate([[0.0], np.cumsum(step)])
    keep = np.concatenate([[True], (np.diff(s) > 1e-9) | (sharp > 1e-9)])
    return Curve(s[keep], xy[keep], heading[keep], z[keep], slope[keep], theta[keep])
