"""What tendons carry across the border of a region by their slope."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from piastra.core.model.tendon_curve import Curve

Array = npt.NDArray[np.float64]


def carried_by(region: BaseGeometry, curves: Sequence[Curve], force: Sequence[Array]) -> float:
    """Force (kN) with which tendons of ``force`` (n,) kN hold up what lies outside a region: positive where they fall on their way out.

    A tendon that ends at the region's border is anchored in it, and carries nothing across.
    """
    shapely.prepare(region)
    x0, y0, x1, y1 = region.bounds
    total = 0.0
    for c, P in zip(curves, force, strict=True):
        x, y = c.xy.T
        if x.max() < x0 or x.min() > x1 or y.max() < y0 or y.min() > y1:
            continue
        inside = shapely.contains_xy(region, x, y)
        leaves = np.flatnonzero(inside[:-1] & ~inside[1:])
        enters = np.flatnonzero(~inside[:-1] & inside[1:])
        for k, out in (*((k, 1.0) for k in leaves), *((k, -1.0) for k in enters)):
            last = 0 if out < 0 else len(c.s) - 2
            if k == last:
                # Its end lies on the border: there is no tendon beyond.
                continue
            slope = out * float(c.slope[k] + c.slope[k + 1]) / 2
            total -= float(P[k] + P[k + 1]) / 2 * slope / np.sqrt(1 + slope**2)
    return total
