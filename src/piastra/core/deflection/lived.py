"""Sags over the life of a floor, against limits between stages, each with its band."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr, ndtri

from piastra.core.deflection.sag import FRACTIONS, Line, Samples
from piastra.core.history.body import Body, parts_along
from piastra.core.history.life import Lasting, Swing
from piastra.core.history.march import Report
from piastra.core.model.history import DeflectionLimit, History

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

LOW = 0.1
"""The band runs from this share of all floors of the kind to its complement."""


@dataclass(frozen=True, slots=True)
class LivedSag:
    """The greatest sag (m) of one line that comes between two stages: ``w_at`` there and ``w_ends`` (m) of the line, its ``limit`` m, the ``band`` (m) in which
    eight of ten such floors lie, the ``chance`` that the limit is passed, and what one standard deviation of each property does, m."""

    line: Line
    limit_id: str
    begins: str | None
    ends: str
    sag: float
    limit: float
    at: tuple[float, float]
    element: int
    fraction: float
    w_at: float
    w_ends: tuple[float, float]
    band: tuple[float, float]
    chance: float
    causes: tuple[tuple[str, float], ...]
    parts: tuple[float, ...]
    """The sag shared out, m: of the load at once, shrinkage, creep and cracking."""

    @property
    def utilisation(self) -> float:
        return max(self.sag, 0.0) / self.limit


@dataclass(frozen=True, slots=True)
class Life:
    """A floor's whole history: its ``stages``, the scatter, and the sags against every limit."""

    stages: tuple[Lasting, ...]
    swings: tuple[Swing, ...]
    sags: tuple[LivedSag, ...]

    @property
    def unsolved(self) -> Report | None:
        """The first step that did not converge."""
        return next((r for s in self.stages for r in s.reports if not r.converged), None)


def limits_of(history: History, span_over: float) -> list[DeflectionLimit]:
    """The history's limits, or the floor's own for the whole sag."""
    return list(history.limits) or [DeflectionLimit(id="total", span_over=span_over)]


def shared_out(sag: float, parts: Array, body: Body, line: Line, element: Ints, k: int) -> tuple[float, ...]:
    """A sag (m) at the place ``k`` of a line in the proportions of what the curvatures along it make of it, by virtual work: those of a
    simply supported span, or of a cantilever, under a unit load there. ``element`` (21,) of its places."""
    f, x = FRACTIONS[k], FRACTIONS
    weight = np.maximum(f - x, 0.0) if line.cantilever else np.minimum(x * (1 - f), f * (1 - x))
    found = parts_along(parts, body, element, direction_of(line), weight)
    # What bends upwards, as over supports, lessens the whole: only the proportions are taken from here.
    total = sum(found)
    return tuple(sag * c / total for c in found) if abs(total) > 1e-12 else (sag, 0.0, 0.0, 0.0)


def direction_of(line: Line) -> float:
    """Angle (rad) of a line on plan."""
    (ax, ay), (bx, by) = line.ends
    return float(np.arctan2(by - ay, bx - ax))


def lived_sags(
    places: Samples,
    history: History,
    limits: Sequence[DeflectionLimit],
    stages: Sequence[Lasting],
    swings: Sequence[Swing],
    body: Body,
) -> list[LivedSag]:
    """Sags of every line against every limit."""
    if not places.lines:
        return []
    ids = [s.id for s in history.stages]
    out = []
    for limit in limits:
        end = ids.index(limit.to) if limit.to is not None else len(ids) - 1
        start = ids.index(limit.from_) if limit.from_ is not None else None
        w = stages[end].w[-1].astype(np.float64)
        changes = [s.w[end, 1].astype(np.float64) for s in swings]
        if start is not None:
            w = w - stages[start].w[0]
            changes = [c - s.w[start, 0] for c, s in zip(changes, swings, strict=True)]
        at, relative = places.relative(np.column_stack([w, *changes]))
        for i, line in enumerate(places.lines):
            here = np.where(places.on[i], relative[i, :, 0], -np.inf)
            k = int(here.argmax())
            if not np.isfinite(here[k]):
                continue
            sag, most = float(here[k]), line.span / limit.span_over
            causes = tuple((s.property, float(d)) for s, d in zip(swings, relative[i, k, 1:], strict=True))
            spread = float(np.sqrt(sum(d**2 for _, d in causes)))
            reach = float(ndtri(1 - LOW)) * spread
            chance = float(ndtr((sag - most) / spread)) if spread > 0 else float(sag > most)
            number = i * len(FRACTIONS) + k
            made = stages[end].parts[1].astype(np.float64)
            if start is not None:
                made = made - stages[start].parts[0]
            own = places.element[i * len(FRACTIONS) : (i + 1) * len(FRACTIONS)]
            out.append(LivedSag(
                line, limit.id, limit.from_, ids[end], sag, most, (float(places.xy[number, 0]), float(places.xy[number, 1])),
                int(places.element[number]), float(FRACTIONS[k]), float(at[i, k, 0]), (float(at[i, 0, 0]), float(at[i, -1, 0])), (sag - reach, sag + reach), chance,
                tuple(sorted(causes, key=lambda c: -abs(c[1]))), shared_out(sag, made, body, line, own, k),
            ))  # fmt: skip
    return out
