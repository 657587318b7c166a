"""Stresses of cracked sections in service: mechanics that standards share."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def neutral_axis(area: Array, d: Array, alpha_e: float | Array) -> Array:
    """Depth x (k,) m of the compressed zone of a cracked rectangular section in bending, linear elastic, with tension steel
    ``area`` (k,) m2/m at ``d`` (k,) m and the ratio of moduli ``alpha_e``: x = d (sqrt((a r)^2 + 2 a r) - a r)."""
    ar = alpha_e * area / d
    return d * (np.sqrt(ar**2 + 2 * ar) - ar)


def steel_stress(m: Array, n: Array, area: Array, d: Array, alpha_e: float | Array) -> Array:
    """Stress (k,) kN/m2 of the tension steel under the moment ``m`` (k,) kNm/m about it and the axial tension ``n`` (k,) kN/m;
    the lever arm is that of bending alone."""
    z = d - neutral_axis(area, d, alpha_e) / 3
    return np.maximum((np.maximum(m, 0.0) / z + n) / np.maximum(area, 1e-9), 0.0)
