"""Stresses of cracked sections in service: mechanics that standards share.

Sections are by the metre of the stretched width: of a slab, or of a beam's web whose pressed side is ``wide`` times as wide (k,) down to
the depth ``flange`` (k,) m.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def neutral_axis(area: Array, d: Array, alpha_e: float | Array, wide: float | Array = 1.0, flange: float | Array = 0.0) -> Array:
    """Depth x (k,) m of the compressed zone in bending, linear elastic, with tension steel ``area`` (k,) m2/m at ``d`` (k,) m and the
    ratio of moduli ``alpha_e``: the first moments of concrete and steel about it are equal."""
    a = alpha_e * area
    within = (np.sqrt(a**2 + 2 * wide * a * d) - a) / wide
    if (np.asarray(wide) <= 1.0).all():
        return np.asarray(within)
    beside = (np.asarray(wide) - 1.0) * flange
    B = beside + a
    beyond = np.sqrt(B**2 + beside * flange + 2 * a * d) - B
    return np.where((np.asarray(wide) <= 1.0) | (within <= flange), within, beyond)


def lever_arm(
    x: Array, area: Array, d: Array, alpha_e: float | Array, wide: float | Array = 1.0, flange: float | Array = 0.0
) -> Array:
    """Lever arm z (k,) m of the steel and the compressed zone of depth ``x``: d - x / 3, or for a tee whose web is pressed as well
    the second moment of the section over the first moment of its steel."""
    if (np.asarray(wide) <= 1.0).all():
        return d - x / 3
    a = alpha_e * area
    web = np.maximum(x - flange, 0.0)
    second = (wide * x**3 - (np.asarray(wide) - 1.0) * web**3) / 3 + a * (d - x) ** 2
    tee = (np.asarray(wide) > 1.0) & (x > flange)
    return np.where(tee, second / np.maximum(a * (d - x), 1e-12), d - x / 3)


def steel_stress(
    m: Array, n: Array, area: Array, d: Array, alpha_e: float | Array, wide: float | Array = 1.0, flange: float | Array = 0.0, x: Array | None = None
) -> Array:  # fmt: skip
    """Stress (k,) kN/m2 of the tension steel under the moment ``m`` (k,) kNm/m about it and the axial tension ``n`` (k,) kN/m;
    the lever arm is that of bending alone, with its neutral axis at ``x`` (k,) m where that is known. A moment that stretches the other face
    relieves this steel by no more than m / d: what balances it lies no further away."""
    z = lever_arm(neutral_axis(area, d, alpha_e, wide, flange) if x is None else x, area, d, alpha_e, wide, flange)
    return np.maximum((np.maximum(m, 0.0) / z + np.minimum(m, 0.0) / d + n) / np.maximum(area, 1e-9), 0.0)
