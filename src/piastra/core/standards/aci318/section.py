"""Critical sections of two-way shear: ACI 318-19, 8.4.4.2.3, and the size effect of 22.5.5.1.3."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.geometry.perimeter import Perimeter

Array = npt.NDArray[np.float64]

PLACES = ("interior", "edge", "corner")
ALPHA_S = {"interior": 40.0, "edge": 30.0, "corner": 20.0}
"""22.6.5.3."""


def size_effect(d: float) -> float:
    """lambda_s of 22.5.5.1.3, d in m."""
    return min(float(np.sqrt(2 / (1 + 4 * d))), 1.0)


def stress_rows(
    p: Perimeter, d: float, angle: float, shrink: float = 1.0
) -> tuple[Array, Array, tuple[float, float], tuple[float, float]]:
    """Rows (k, 3) of the stress of 8.4.4.2.3 at the corners (k, 2) of a real section, in the member's own axes at ``angle`` rad about
    its centroid: linear, with the second moments of the faces (their depth d included, as J of the commentary has it) and their
    product. Also gamma_v of the moments about the own x and y axis, and the section's extents b_x and b_y, m."""
    c, s = np.cos(angle), np.sin(angle)
    turn = np.array([[c, s], [-s, c]])
    segments = (p.segments - np.array(p.centroid)) @ turn.T
    l = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    a, b = segments[:, 0], segments[:, 1]
    way = (b - a) / np.maximum(l, 1e-12)[:, None]
    ends = (
        2 * (a[:, :, None] * a[:, None] + b[:, :, None] * b[:, None]) + a[:, :, None] * b[:, None] + b[:, :, None] * a[:, None]
    ) / 6
    tensor = ((p.weight * l)[:, None, None] * (ends + way[:, :, None] * way[:, None] * d**2 / 12)).sum(axis=0) * shrink
    # A straight section resists no moment about itself: bending across it does, and flexure is checked.
    inverse = np.linalg.pinv(tensor, rcond=1e-4, hermitian=True)
    points = segments.reshape(-1, 2)
    hull = corners_of(points)
    extent = np.maximum(np.ptp(points, axis=0), 1e-6)
    b_x, b_y = float(extent[0]), float(extent[1])
    # M_x presses along y: its section is b_y long in that direction.
    gamma = (float(1 - 1 / (1 + 2 / 3 * np.sqrt(b_y / b_x))), float(1 - 1 / (1 + 2 / 3 * np.sqrt(b_x / b_y))))
    # The stresses balance the column's moments: the integral of v y is M_x, that of v x is -M_y.
    rows = np.column_stack([
        np.full(len(hull), 1 / (p.length * shrink * d)), gamma[0] * hull @ inverse[:, 1] / d, -gamma[1] * hull @ inverse[:, 0] / d,
    ])  # fmt: skip
    return rows, hull, gamma, (b_x, b_y)


def corners_of(points: Array) -> Array:
    """Corners (k, 2) of the convex hull: a linear stress is greatest at one of them."""
    return np.unique(shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(points))), axis=0)
