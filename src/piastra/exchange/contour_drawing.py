"""A field over a floor as SVG: bands of even steps, with their legend and the extremes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.model import Floor
from piastra.exchange.plan_drawing import SCALE, PlanDrawing

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

BANDS = 11
"""About so many bands."""
LEVEL = 1e-7
"""A value so near to the end of a band, in steps, lies at that end."""
FINE = 5e-3
"""Outlines of bands are drawn to within this, m."""
LEGEND = 0.16
"""Width of the legend over that of the floor."""
ABOVE = ("#f3e7cf", "#ebd2ae", "#e1b98a", "#d49c68", "#c67f4b", "#b4622f", "#98492a", "#7a3727", "#5a2a22")
BELOW = ("#d5e0dc", "#b3c8c6", "#8eaeb0", "#6b969a", "#477980", "#2c5f69", "#17414a")


@dataclass(frozen=True, slots=True)
class Field:
    """Values (p,) at places (p, 2) m, which ``triangles`` (t, 3) join; their ``unit`` of SI, and what they are."""

    title: str
    unit: str
    xy: Array
    triangles: Ints
    values: Array


def step_of(least: float, greatest: float) -> float:
    """A round step by which about ``BANDS`` bands reach from nought, or from the least to the greatest value."""
    rough = max(max(greatest, 0.0) - min(least, 0.0), 1e-9) / BANDS
    power = 10.0 ** np.floor(np.log10(rough))
    return float(next(m for m in (1, 2, 2.5, 5, 10) if m * power >= rough * (1 - 1e-9)) * power)


@dataclass(frozen=True, slots=True)
class Band:
    """Where a field lies from ``low`` to ``high``: closed ``rings`` (k, 2) m without their last point, which have it on their left and may run to and fro
    along an edge where the field leaps."""

    low: float
    high: float
    rings: tuple[Array, ...]


def bands(field: Field, factor: float) -> list[Band]:
    """Of the field, straight over each triangle, in the values' unit times ``factor``."""
    values = field.values * factor
    corners, v = field.xy[field.triangles], values[field.triangles]
    fine = np.isfinite(v).all(axis=1)
    corners, v = corners[fine], v[fine]
    if not len(v):
        return []
    (ax, ay), (bx, by) = ((corners[:, k] - corners[:, 0]).T for k in (1, 2))
    clockwise = ax * by < ay * bx
    corners[clockwise], v[clockwise] = corners[clockwise, ::-1], v[clockwise, ::-1]
    step = step_of(float(v.min()), float(v.max()))
    # In steps, so that bands end at whole numbers.
    v, nearest = v / step, np.round(v / step)
    v = np.where(np.abs(v - nearest) < LEVEL, nearest, v)
    least, greatest = v.min(axis=1), v.max(axis=1)
    out = []
    first = int(np.floor(least.min()))
    last = max(int(np.ceil(greatest.max())) - 1, first)
    for k in range(first, last + 1):
        # What is level with the end of two bands lies in the upper one.
        whole = (least >= k) & (greatest <= k + 1) & ((least < k + 1) | (k == last))
        cut = ~whole & (least < k + 1) & (greatest > k)
        sides = np.stack([corners[whole], np.roll(corners[whole], -1, axis=1)], axis=2).reshape(-1, 2, 2)
        out.append(Band(k * step, (k + 1) * step, _rings(np.concatenate([sides, _between(corners[cut], v[cut], k, k + 1)]))))
    return out


def _between(corners: Array, v: Array, low: float, high: float) -> Array:
    """The sides (k, 2, 2) m, anticlockwise, of the parts of triangles (t, 3, 2) where their values (t, 3) lie between two, which each of them reaches."""
    # The outline of a part is what of each edge lies between the two, one after the other, as the triangle is convex.
    end, after = np.roll(corners, -1, axis=1), np.roll(v, -1, axis=1)
    # Both triangles at an edge look along it in one direction, so that they cut it at the very same places.
    back = (end[..., 0] < corners[..., 0]) | ((end[..., 0] == corners[..., 0]) & (end[..., 1] < corners[..., 1]))
    a, b = np.where(back[..., None], end, corners), np.where(back[..., None], corners, end)
    va, vb = np.where(back, after, v), np.where(back, v, after)
    with np.errstate(divide="ignore", invalid="ignore"):
        crossed = np.sort((np.array([low, high])[:, None, None] - va) / (vb - va), axis=0)
    # An edge of one value lies between them with all of its length, or with none.
    level = va == vb
    crossed[:, level] = np.where((va[level] >= low) & (va[level] <= high), [[0.0], [1.0]], [[1.0], [0.0]])
    share = np.stack([np.maximum(crossed[0], 0.0), np.minimum(crossed[1], 1.0)], axis=2)
    there = np.repeat((share[..., 0] <= share[..., 1])[..., None], 2, axis=2)
    share = np.where(back[..., None], share[..., ::-1], share)[..., None]
    points = np.where(share == 1.0, b[:, :, None], a[:, :, None] + share * (b - a)[:, :, None])[there]
    of = np.nonzero(there)[0]
    begins = np.searchsorted(of, of)
    closing = np.append(of[1:] != of[:-1], True)
    follows = np.where(closing, begins, np.arange(1, len(of) + 1))
    return np.stack([points, points[follows]], axis=1)


def _rings(sides: Array) -> tuple[Array, ...]:
    """Closed rings of the sides (k, 2, 2) m of many parts together: a side that two parts have between them, once to and once fro, bounds neither."""
    places, number = np.unique(sides.reshape(-1, 2), axis=0, return_inverse=True)
    start, end = number.reshape(-1, 2).T
    # Each between its lower and its higher place, told apart by how much more often it is passed to than fro.
    apart, which = np.unique(np.minimum(start, end) * len(places) + np.maximum(start, end), return_inverse=True)
    more = np.bincount(which.ravel(), np.sign(end - start), minlength=len(apart)).astype(np.int64)
    lower, higher = apart // max(len(places), 1), apart % max(len(places), 1)
    onward: dict[int, list[int]] = {}
    for one, other, times in zip(*(x[more != 0].tolist() for x in (lower, higher, more)), strict=True):
        onward.setdefault(one if times > 0 else other, []).extend([other if times > 0 else one] * abs(times))
    rings = []
    for begin, ways in onward.items():
        # As often as a place is left it is come to, so that a way always ends where it began.
        while ways:
            ring: list[int] = []
            at = begin
            while not ring or at != begin:
                ring.append(at)
                at = onward[at].pop()
            rings.append(places[ring])
    return tuple(rings)


def colours(found: Sequence[Band]) -> list[str]:
    """Of each band one of its own, from light by nought to dark at either end."""
    below = sum(band.high <= 0 for band in found)
    return [*reversed(_ramp(BELOW, below)), *_ramp(ABOVE, len(found) - below)]


def _ramp(between: Sequence[str], count: int) -> list[str]:
    ends = np.array([[int(c[k : k + 2], 16) for k in (1, 3, 5)] for c in between])
    at = np.linspace(0, len(between) - 1, count) if count > len(between) else np.arange(count)
    mixed = [np.interp(at, np.arange(len(between)), ends[:, k]) for k in range(3)]
    return ["#" + "".join(f"{round(v):02x}" for v in one) for one in zip(*mixed, strict=True)]


def _drawn(rings: Sequence[Array]) -> list[Array]:
    """Rings as they are printed a page wide: without nodes along straight edges, and what nobody sees."""
    wide = [ring for ring in rings if len(ring) > 2]
    if not wide:
        return []
    of = np.repeat(np.arange(len(wide)), [len(ring) for ring in wide])
    lines = shapely.simplify(shapely.linearrings(np.concatenate(wide), indices=of), FINE)
    return [shapely.get_coordinates(line)[:-1] for line in lines]


def contours_svg(floor: Floor, field: Field, factor: float = 1.0, unit: str = "", digits: int = 1) -> bytes:
    """The drawing, to be printed under a caption; values times ``factor`` are in the ``unit`` that it names, instead of the field's."""
    found = bands(field, factor)
    x = field.xy[:, 0]
    drawing = PlanDrawing(floor, printed=True, beside=LEGEND * float(np.ptp(x)) if len(x) else 0.0)
    step = found[0].high - found[0].low if found else 1.0
    own = colours(found)
    for colour, band in zip(own, found, strict=True):
        path = "".join(drawing.path(ring, True) for ring in _drawn(band.rings))
        drawing.lines.append(f'<path d="{path}" fill="{colour}" fill-rule="evenodd" stroke="none"/>')
    drawing.plan()
    values = field.values * factor
    for k, anchor in ((int(np.nanargmax(values)), "greatest"), (int(np.nanargmin(values)), "least")) if found else ():
        if values[k] == 0:
            continue
        px, py = drawing.at(field.xy[k])
        drawing.lines.append(
            f'<circle cx="{px:.1f}" cy="{py:.1f}" r="{drawing.letters / 4:.1f}" fill="#ffffff" stroke="#1e2a35"/>'
        )
        told = f"{values[k]:.{digits}f}".replace("-", "−")
        for rim in (f'stroke="#ffffff" stroke-width="{drawing.letters / 4:.1f}"', f'class="{anchor}"'):
            drawing.write(px + drawing.letters / 2, py - drawing.letters / 3, told, rim)
    # The legend, the greatest band at its top.
    left, line = SCALE * (drawing.x1 - drawing.x0) + 2.2 * SCALE, 1.5 * drawing.letters
    drawing.write(left, line, unit or field.unit)
    places = max(0, -int(np.floor(np.log10(step) + 1e-9)) + (step * 10 ** -np.floor(np.log10(step)) == 2.5)) if found else 0
    for k, (colour, band) in enumerate(zip(reversed(own), reversed(found), strict=True)):
        top = (k + 1.5) * line
        drawing.lines.append(f'<rect x="{left:.1f}" y="{top:.1f}" width="{1.6 * line:.1f}" height="{line:.1f}" fill="{colour}"/>')
        drawing.write(left + 1.9 * line, top + 0.75 * line, f"{band.low:.{places}f} to {band.high:.{places}f}".replace("-", "−"))
    return drawing.svg("")
