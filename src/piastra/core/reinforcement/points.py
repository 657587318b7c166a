"""Required steel at every place of the floor, for bars as they lie."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from piastra.core.combine.envelope import Factors
from piastra.core.fe.recovery import Places, about_own_plane
from piastra.core.model import Floor
from piastra.core.reinforcement.mats import ROWS, Provided
from piastra.core.reinforcement.stations import materials, ratio, ultimate_pair
from piastra.core.reinforcement.worst import Responses
from piastra.core.standards import Standard
from piastra.core.standards.protocol import Sections

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

PLACES = 4096
"""Places that are worked on at once."""


def point_steel(
    floor: Floor, standard: Standard, kept: Places, slab: Ints, forces: Array, here: Provided, combinations: Sequence[Factors],
    places: Ints,
) -> Array:  # fmt: skip
    """Steel (4, k) m2/m for strength in one design situation, and the least, at some ``places`` (k,): moments in the bars' directions plus the size of
    the twist (Wood 1968, Armer 1968).

    Of all p places ``slab`` (p,), ``forces`` (p, 8, r) about the reference plane, ``here`` what is given there.
    """
    assert standard.flexure is not None
    assert standard.minimum is not None
    pair, pairs = materials(floor)
    angle = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[slab]
    required = np.zeros((4, len(places)))
    for start in range(0, len(places), PLACES):
        some = places[start : start + PLACES]
        own = about_own_plane(kept, forces, some)
        c, s = np.cos(angle[some])[:, None], np.sin(angle[some])[:, None]
        m_x = c * c * own[:, 3] + s * s * own[:, 4] + 2 * c * s * own[:, 5]
        m_y = s * s * own[:, 3] + c * c * own[:, 4] - 2 * c * s * own[:, 5]
        m_xy = c * s * (own[:, 4] - own[:, 3]) + (c * c - s * s) * own[:, 5]
        n_x = c * c * own[:, 0] + s * s * own[:, 1] + 2 * c * s * own[:, 2]
        n_y = s * s * own[:, 0] + c * c * own[:, 1] - 2 * c * s * own[:, 2]
        h, kind = kept.h[some], pair[slab[some]]
        for r, (face, direction) in enumerate(ROWS):
            sign = 1.0 if face == "bottom" else -1.0
            m, n = (m_x, n_x) if direction == "x" else (m_y, n_y)
            d, d2 = np.maximum(h - here.depth[r, some], 0.02), here.depth[(r + 2) % 4, some]
            found = Responses(sign * m, m_xy[:, None], n, d - h / 2)
            pick = ultimate_pair(found, h, d, d2, standard, kind, pairs, combinations)
            out = np.zeros(len(h))
            for k, (concrete, rebar) in enumerate(pairs):
                mine = kind == k
                if mine.any():
                    sections = Sections(h[mine], d[mine], d2[mine], concrete, rebar)
                    strength = standard.flexure.design(pick.m[mine], pick.n[mine], sections).tension
                    out[mine] = np.maximum(strength, standard.minimum.least(pick.m[mine], sections).area)
            required[r, start : start + PLACES] = out
    return required


def used_in(piece: Polygon, direction: Literal["x", "y"], xy: Array, required: Array, given: Array) -> float | None:
    """The greatest of ``required`` over ``given`` (4, p) m2/m of the bars of one direction in a piece of the floor, point by
    point; None where no place ``xy`` (p, 2) m lies in it, or steel was not found at one that does."""
    inside = shapely.contains_xy(piece, xy)
    if not inside.any() or np.isnan(required[:, inside]).any() or np.isnan(given[:, inside]).any():
        return None
    rows = [r for r, (_, along) in enumerate(ROWS) if along == direction]
    return float(max(ratio(required[r, inside], given[r, inside]).max() for r in rows))
