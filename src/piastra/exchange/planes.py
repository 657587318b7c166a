"""Values over a plan as whole numbers, and these as planes of bytes: smooth fields become mostly zeros, which any packer makes small.

Each row is rounded to a share of its own peak, the points are taken along a curve that keeps neighbours together, and of each value only the
difference from the one before it is kept.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bytes = npt.NDArray[np.uint8]

CURVE_BITS = 12
"""The curve passes through 2^12 x 2^12 cells over the plan."""


def along_curve(xy: Array) -> Ints:
    """Order (p,) in which points (p, 2) of a plan, m, lie along a Hilbert curve (D. Hilbert, 1891): points that follow each other are near
    each other. Points of one cell keep their order."""
    if not len(xy):
        return np.zeros(0, dtype=np.int64)
    low, width = xy.min(axis=0), max(float(np.ptp(xy, axis=0).max()), 1e-9)
    x, y = ((xy - low) / width * (2**CURVE_BITS - 1)).astype(np.int64).T
    distance = np.zeros(len(xy), dtype=np.int64)
    for level in reversed(range(CURVE_BITS)):
        right, up = (x >> level) & 1, (y >> level) & 1
        distance += ((3 * right) ^ up) << (2 * level)
        # Each quarter is passed through as the whole is, mirrored and turned so that its ends meet those of the next.
        mirrored = (up == 0) & (right == 1)
        last = 2**CURVE_BITS - 1
        x, y = np.where(mirrored, last - x, x), np.where(mirrored, last - y, y)
        x, y = np.where(up == 0, y, x), np.where(up == 0, x, y)
    return np.argsort(distance, kind="stable")


def planes(values: Array, order: Ints, bits: int) -> tuple[Bytes, Array]:
    """Values (..., p) as bytes (4, ...), with the peak (...) of each row: they come back within peak / 2^(bits + 1), a hair more for ``bits``
    beyond 30. ``order`` (p,) is that of the points; ``bits`` at most 31. Raises ValueError for values that are no finite numbers."""
    peak = np.abs(values).max(axis=-1, initial=0.0)
    if not np.isfinite(peak).all():
        raise ValueError("values to be kept are no finite numbers")
    # Shares first: what makes them whole numbers of a next to nothing peak is more than a number holds.
    whole = np.rint(values[..., order] / np.where(peak > 0, peak, 1.0)[..., None] * (2**bits - 1)).astype(np.int32)
    # Differences wrap around where they leave 32 bits, and back again in the sum.
    step = np.diff(whole, axis=-1, prepend=np.int32(0)).astype(np.int32)
    folded = (step << 1) ^ (step >> 31)
    return np.ascontiguousarray(np.ascontiguousarray(folded, dtype="<i4").reshape(-1).view(np.uint8).reshape(-1, 4).T), peak


def values_of(found: Bytes, peak: Array, order: Ints, bits: int) -> Array:
    """The values (..., p) that :func:`planes` were made of."""
    folded = np.ascontiguousarray(found.T).reshape(-1).view("<u4").reshape(*peak.shape, len(order))
    step = (folded >> 1).astype(np.int32) ^ -(folded & 1).astype(np.int32)
    whole = np.cumsum(step, axis=-1, dtype=np.int32)
    out = np.empty(whole.shape)
    out[..., order] = whole * (peak / (2**bits - 1))[..., None]
    return out
