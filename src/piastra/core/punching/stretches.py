"""What a stretch of a wall presses with."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.fe.restraints import stretches
from piastra.core.fe.system import System
from piastra.core.punching.sources import Leg

Array = npt.NDArray[np.float64]


def stretch_reaction(system: System, u: Array, leg: Leg, about: tuple[float, float]) -> Array:
    """Force up and moments about x and y (3, r) (kN, kNm) of a stretch of a wall, about a point (m), for displacements ``u``
    (n, 5, r). Each half of an edge of the mesh presses evenly, with what its node has."""
    held, xy = system.held, system.mesh.xy
    owner = held.labels.index(leg.wall)
    node, of, block, _ = held.springs()
    mine = of == owner
    node, block = node[mine], block[mine]
    _, half, along = stretches(xy, system.mesh.lines[leg.wall])
    # Halves are listed by edge: the first goes out from its node along the edge, the second comes back.
    outward = np.where(np.arange(len(node)) % 2 == 0, 1.0, -1.0)[:, None] * along
    way = np.array(leg.way)
    start = (xy[node] - np.array(leg.start)) @ way
    aside = np.abs((xy[node] - np.array(leg.start)) @ np.array([-way[1], way[0]]))
    end = start + half * (outward @ way)
    low, high = np.minimum(start, end), np.maximum(start, end)
    share = np.clip(np.minimum(high, leg.length) - np.maximum(low, 0.0), 0.0, None) / half
    share[(aside > 0.05) | (np.abs(outward @ way) < 0.95)] = 0.0
    some = np.flatnonzero(share > 0)
    force = np.einsum("kij,kjr->kir", block[some] * share[some, None, None], u[node[some]])
    up = force[:, 2]
    middle = np.clip((np.maximum(low, 0.0) + np.minimum(high, leg.length)) / 2, 0.0, leg.length)[some]
    arm = np.array(leg.start) + middle[:, None] * way - np.array(about)
    m_x = -force[:, 4] + arm[:, 1, None] * up
    m_y = force[:, 3] - arm[:, 0, None] * up
    return np.stack([up.sum(axis=0), m_x.sum(axis=0), m_y.sum(axis=0)])
