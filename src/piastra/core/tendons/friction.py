"""Force along a tendon while it is stressed and when its anchors are locked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.optimize import brentq

from piastra.core.model.tendon_curve import Curve

Array = npt.NDArray[np.float64]
Ends = Literal["start", "end", "both"]


@dataclass(frozen=True, slots=True)
class Stressed:
    """Force (n,) kN at the places of a curve, ``jacking`` and ``locked``; the ``extension`` (m) of all jacks together, and
    how far (m) from either end the locking is felt."""

    jacking: Array
    locked: Array
    extension: float
    felt: tuple[float, float]


def stressed(curve: Curve, P0: float, mu: float, k: float, ends: Ends, EA: float, draw_in: float) -> Stressed:
    """Forces of a tendon jacked with ``P0`` kN from one or both ``ends``.

    Friction P0 exp(-mu (theta + k x)) (EN 1992-1-1, 5.10.5.2 (5.45); ACI 318-19, R20.3.2.6, with K = mu k). Draw-in (m) of
    each jacked end with the tendon's ``EA`` kN: the area between the curves before and after is EA times it, and friction holds
    the tendon back on its way in as it did on its way out.
    """
    s, length = curve.s, curve.length
    from_start = P0 * np.exp(-mu * (curve.theta + k * s))
    from_end = P0 * np.exp(-mu * (curve.theta[-1] - curve.theta + k * (length - s)))
    pull = {"start": from_start, "end": from_end, "both": np.maximum(from_start, from_end)}[ends]
    x = curve.along()
    extension = float(np.trapezoid(pull, x)) / EA
    area = EA * draw_in
    if area <= 0:
        return Stressed(pull, pull.copy(), extension, (0.0, 0.0))
    if ends == "start":
        locked, felt = _one_end(x, pull, area)
        return Stressed(pull, locked, extension, (felt, 0.0))
    if ends == "end":
        locked, felt = _one_end(x[-1] - x[::-1], pull[::-1], area)
        return Stressed(pull, locked[::-1], extension, (0.0, felt))
    locked, both = _both_ends(x, from_start, from_end, area)
    return Stressed(pull, locked, extension, both)


def _slips_to(x: Array, P: Array, w: float) -> Array:
    """Force after locking from the start of a falling curve up to ``w`` m: mirrored there."""
    at = float(np.interp(w, x, P))
    return np.where(x <= w, at**2 / P, P)


def _area_to(x: Array, P: Array, w: float) -> float:
    """Area between the curve and its mirror up to ``w`` m."""
    inner = np.append(x[x < w], w)
    values = np.append(P[x < w], np.interp(w, x, P))
    return float(np.trapezoid(values - values[-1] ** 2 / values, inner))


def _one_end(x: Array, P: Array, area: float) -> tuple[Array, float]:
    """Locked at the start of a falling curve; the whole tendon slips where friction does not hold it."""
    if _area_to(x, P, float(x[-1])) <= area:
        c = (np.trapezoid(P, x) - area) / np.trapezoid(1 / P, x)
        return np.maximum(c / P, 0.0), float(x[-1])
    w = brentq(lambda w: _area_to(x, P, w) - area, 0.0, float(x[-1]), xtol=1e-6)
    return _slips_to(x, P, w), float(w)


def _both_ends(x: Array, start: Array, end: Array, area: float) -> tuple[Array, tuple[float, float]]:
    """Locked at both ends: each slips by itself where friction holds the middle; else they meet where neither moves."""
    pull = np.maximum(start, end)
    length = float(x[-1])
    meeting = float(np.interp(0.0, start[::-1] - end[::-1], x[::-1]))
    back = length - x[::-1]
    left, right = _area_to(x, start, meeting), _area_to(back, end[::-1], length - meeting)
    if left > area and right > area:
        one, w1 = _one_end(x, start, area)
        other, w2 = _one_end(back, end[::-1], area)
        return np.where(x <= w1, one, np.where(x >= length - w2, other[::-1], pull)), (w1, w2)

    def halves(at: float) -> tuple[float, float]:
        """Constants of both mirrored curves if the tendon stands still at ``at``."""
        first = x < at
        xs, ps = np.append(x[first], at), np.append(pull[first], np.interp(at, x, pull))
        ss = np.append(start[first], np.interp(at, x, start))
        xe, pe = np.append(at, x[~first]), np.append(np.interp(at, x, pull), pull[~first])
        ee = np.append(np.interp(at, x, end), end[~first])
        return (
            (np.trapezoid(ps, xs) - area) / np.trapezoid(1 / ss, xs),
            (np.trapezoid(pe, xe) - area) / np.trapezoid(1 / ee, xe),
        )

    def gap(at: float) -> float:
        a, b = halves(at)
        return a / float(np.interp(at, x, start)) - b / float(np.interp(at, x, end))

    near, far = 0.02 * length, 0.98 * length
    at = brentq(gap, near, far, xtol=1e-6) if gap(near) * gap(far) < 0 else meeting
    a, b = halves(at)
    return np.maximum(np.where(x <= at, a / start, b / end), 0.0), (at, length - at)
