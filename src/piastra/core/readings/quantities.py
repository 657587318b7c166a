"""Quantities that can be read, as linear functionals of the unit responses or as the greatest of several.

Each quantity is one functional, or the greatest (or least) over a family of them: then its envelope over all
arrangements is exact as well, because the greatest over arrangements and over the family can be taken in any order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from piastra.core.combine.envelope import Factors, envelopes
from piastra.core.readings.responses import ROWS

Array = npt.NDArray[np.float64]
Sense = Literal["least", "greatest"]

DIRECTIONS = np.radians(np.arange(0.0, 180.0, 2.0))
"""Directions over which principal values are sought in envelopes; a value between two of them is missed by 0.03 %."""


@dataclass(frozen=True, slots=True)
class Quantity:
    """A quantity: its ``symbol``, ``name``, ``unit``, what of it is of interest over arrangements (``senses``), and
    whether it needs the ``direction`` of a slice."""

    key: str
    symbol: str
    name: str
    unit: str
    senses: tuple[Sense, ...] = ("least", "greatest")
    direction: bool = False


_M, _F = "kNm/m", "kN/m"
QUANTITIES: dict[str, Quantity] = {
    q.key: q
    for q in (
        Quantity("w", "w", "deflection", "mm"),
        Quantity("mx", "m_x", "moment of bars along x", _M),
        Quantity("my", "m_y", "moment of bars along y", _M),
        Quantity("mxy", "m_xy", "twisting moment", _M),
        Quantity("m1", "m_1", "greater principal moment", _M, ("greatest",)),
        Quantity("m2", "m_2", "lesser principal moment", _M, ("least",)),
        Quantity("wa_bottom_x", "m_bx", "Wood–Armer moment, bottom bars along x", _M, ("greatest",)),
        Quantity("wa_bottom_y", "m_by", "Wood–Armer moment, bottom bars along y", _M, ("greatest",)),
        Quantity("wa_top_x", "m_tx", "Wood–Armer moment, top bars along x", _M, ("greatest",)),
        Quantity("wa_top_y", "m_ty", "Wood–Armer moment, top bars along y", _M, ("greatest",)),
        Quantity("vx", "v_x", "shear across x", _F),
        Quantity("vy", "v_y", "shear across y", _F),
        Quantity("v", "v", "resultant shear", _F, ("greatest",)),
        Quantity("nx", "n_x", "membrane force along x", _F),
        Quantity("ny", "n_y", "membrane force along y", _F),
        Quantity("nxy", "n_xy", "membrane shear", _F),
        Quantity("bearing", "σ_z", "bearing pressure", "kPa"),
        Quantity("mn", "m_n", "moment of bars across the slice", _M, direction=True),
        Quantity("mt", "m_t", "twist along the slice", _M, direction=True),
        Quantity("vn", "v_n", "shear across the slice", _F, direction=True),
    )
}


def _row(values: Array, name: str) -> Array:
    return values[:, ROWS.index(name)]


def bending(values: Array, angle: Array | float) -> tuple[Array, Array]:
    """Moment of bars along ``angle`` (rad, scalar or (k,)) and the twist there, (k, r) each, from ``values`` (k, 9, r)."""
    a = np.broadcast_to(np.asarray(angle, dtype=float), (len(values),))[:, None]
    c, s = np.cos(a), np.sin(a)
    mx, my, mxy = (_row(values, n) for n in ("mx", "my", "mxy"))
    return c * c * mx + s * s * my + 2 * c * s * mxy, c * s * (my - mx) + (c * c - s * s) * mxy


def functionals(key: str, values: Array, bars: Array, bed: Array, across: float = 0.0) -> Array:
    """The family of functionals (f, k, r) of a quantity at k places.

    ``values`` (k, 9, r) unit responses as ``ROWS``; ``bars`` (k,) rad; ``bed`` (k,) kN/m3; ``across`` (rad) the
    direction square to a slice. The quantity is the greatest of the family (for ``m2`` the least); the moments of
    Wood (1968) and Armer (1968) are besides at least nil.
    """
    if key == "bearing":
        return (1e-3 * bed[:, None] * _row(values, "w"))[None]
    if key in ROWS:
        return _row(values, key)[None]
    if key in ("mn", "mt"):
        return bending(values, across)[key == "mt"][None]
    if key == "vn":
        return (np.cos(across) * _row(values, "vx") + np.sin(across) * _row(values, "vy"))[None]
    if key in ("m1", "m2"):
        return np.stack([bending(values, a)[0] for a in DIRECTIONS])
    if key == "v":
        both = np.concatenate([DIRECTIONS, DIRECTIONS + np.pi])
        return np.stack([np.cos(a) * _row(values, "vx") + np.sin(a) * _row(values, "vy") for a in both])
    _, face, direction = key.split("_")
    m, t = bending(values, bars + (np.pi / 2 if direction == "y" else 0.0))
    sign = 1.0 if face == "bottom" else -1.0
    return np.stack([sign * m + t, sign * m - t])


def plain(key: str, values: Array, bars: Array, bed: Array, across: float = 0.0) -> Array:
    """The quantity (k,) under one load: ``values`` (k, 9)."""
    mx, my, mxy = (values[:, ROWS.index(n)] for n in ("mx", "my", "mxy"))
    middle, radius = (mx + my) / 2, np.hypot((mx - my) / 2, mxy)
    if key == "m1":
        return middle + radius
    if key == "m2":
        return middle - radius
    if key == "v":
        return np.hypot(values[:, ROWS.index("vx")], values[:, ROWS.index("vy")])
    found = functionals(key, values[..., None], bars, bed, across)[..., 0].max(axis=0)
    return np.maximum(found, 0.0) if key.startswith("wa_") else found


def direction_of(key: str, values: Array) -> Array:
    """Direction (k,) rad of the greater principal moment (keys ``m1``, ``m2``), or of the resultant shear (``v``), for
    ``values`` (k, 9)."""
    if key == "v":
        return np.arctan2(values[:, ROWS.index("vy")], values[:, ROWS.index("vx")])
    mx, my, mxy = (values[:, ROWS.index(n)] for n in ("mx", "my", "mxy"))
    return np.arctan2(2 * mxy, mx - my) / 2


DIRECTED = ("m1", "m2", "v")
"""Quantities that have a direction of their own."""


def extreme(key: str, family: Array, combinations: Sequence[Factors], sense: Sense) -> Array:
    """Least or greatest (k, C) of a quantity's ``family`` (f, k, r) over all arrangements under each combination."""
    out: Array | None = None
    # One functional after the other: a family of directions over a whole floor would not fit into memory at once.
    for one in family:
        found = envelopes(one, combinations)[0 if sense == "least" else 1]
        out = found if out is None else np.minimum(out, found) if sense == "least" else np.maximum(out, found)
    assert out is not None
    return np.maximum(out, 0.0) if key.startswith("wa_") else out


def acting(family: Array, factors: Factors, sense: Sense) -> Array:
    """Of a ``family`` (f, r) at one place, the functional (r,) that is least or greatest over all arrangements."""
    low, high = envelopes(family, [factors])
    return family[int(low[:, 0].argmin() if sense == "least" else high[:, 0].argmax())]
