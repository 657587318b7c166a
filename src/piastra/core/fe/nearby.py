"""Solutions with a stiffness near one that is factorised, by conjugate gradients (Hestenes and Stiefel 1952) with that factorisation before them.

Where few sections change, or all by little, a few solutions with the old factorisation stand for a new one, which takes many times as long.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.fe.linear_solver import Factor

Array = npt.NDArray[np.float64]

TURNS = 8
"""Solutions at most; what takes more of them is not near."""


@dataclass(frozen=True, slots=True)
class Reached:
    """Free unknowns ``x`` (m,), and what the factorised matrix makes of them, ``product`` (m,)."""

    x: Array
    product: Array


def solve_near(
    factor: Factor, more: Callable[[Array], Array], right: Array, start: Reached, close: Callable[[Array, Array], bool]
) -> Reached | None:
    """The solution of (K + D) x = ``right`` (m,), K being factorised and ``more`` giving D x of an x (m,), from ``start`` on; K and K + D are positive
    definite. It is ``close`` where that says so of the whole way from there (m,) and of what is likely left of it (m,). None where it does not come
    close, or D makes the matrix indefinite."""
    x, product = start.x.copy(), start.product.copy()
    left = right - product - more(x)
    step = factor.solve(left[:, None])[:, 0]
    # The factorised matrix times a direction is a residual, or follows from it.
    way, its = step, left
    size = float(left @ step)
    for _ in range(TURNS):
        if close(x + step - start.x, step):
            return Reached(x + step, product + left)
        whole = its + more(way)
        bends = float(way @ whole)
        if not bends > 0:
            return None
        share = size / bends
        x += share * way
        product += share * its
        left = left - share * whole
        step = factor.solve(left[:, None])[:, 0]
        last, size = size, float(left @ step)
        way, its = step + size / last * way, left + size / last * its
    return None
