"""What zones bear in the floor as a change would make it: solved anew on the mesh that there is.

A slab that gets thicker draws moment, and so does a larger column: forces that are kept would promise too much.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.floor_sections import FaceValues, thickened
from piastra.core.fe.restraints import Restraints
from piastra.core.fe.solution import solve
from piastra.core.fe.system import System, in_turn, renewed, with_sections
from piastra.core.loads.integrate import pressed
from piastra.core.loads.vectors import LoadVectors
from piastra.core.model import Floor
from piastra.core.punching.zone_places import Outline
from piastra.core.punching.zones import Forces, Response, forces_of

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Given:
    """The floor as it is: what its loads are read from, the ``found`` response with its loads; the faces' ``values`` and the ``face`` (e,) of each element; E
    (kN/m2) by concrete; nodal shares ``whole`` (e, 4) m2; and what gives the ``restraints`` of the floor with other columns."""

    floor: Floor
    found: Response
    values: FaceValues
    face: Ints
    moduli: dict[str, float]
    whole: Array
    restraints: Callable[[Floor], Restraints]


class Anew:
    """Responses of a floor with something changed. To be closed: it holds a factorisation of its own. ``tick`` is called before each zone or floor that is
    tried; it may raise."""

    def __init__(self, given: Given, tick: Callable[[], None] = lambda: None) -> None:
        self._given, self.tick = given, tick
        # Of a large floor only the worst zones' changes are solved for, or what would mend it took longer than the floor.
        self._left = max(FEWEST, int(WORK // max(given.found.u.size, 1)))
        self.short = False
        """Whether more changes were asked for than are solved."""
        self._current: System | None = None
        self._thick: dict[bytes, Response] = {}

    def close(self) -> None:
        """Give the factorisation's memory back."""
        if self._current is not None:
            self._current.factor.free()
            self._current = None

    def forces(self, before: Forces, old: Outline, made: Outline, found: Response | None) -> Forces:
        """Forces of the zone ``made`` in the response ``found``, or in that of the floor as it is, where the zone ``old`` has the forces ``before`` in the floor as it is: both
        zones' own, about their own centroids, so that what else ``before`` holds, as what tendons carry, stays."""
        floor = self._given.floor
        was, now = forces_of(floor, [old], self._given.found)[0], forces_of(floor, [made], found or self._given.found)[0]
        return Forces(*(getattr(before, n) + getattr(now, n) - getattr(was, n) for n in ("joint", "inside", "V", "M_x", "M_y")))

    def thicker(self, more: Array) -> Response | None:
        """With elements so much ``more`` (e,) m thick, downwards, which weigh as much more. None where no more floors are solved."""
        key = more.tobytes()
        if key not in self._thick:
            made = self._thicker(more)
            if made is None:
                return None
            # A drop concerns one zone, a slab all of them: the last ones are kept.
            while self._thick and (len(self._thick) + 1) * made.u.nbytes > KEPT:
                self._thick.pop(next(iter(self._thick)))
            self._thick[key] = made
        return self._thick[key]

    def _thicker(self, more: Array) -> Response | None:
        g = self._given
        gamma = np.array([c.unit_weight_kN_m3 for c in g.floor.concretes])[g.values.concrete[g.face]]
        loads, heavier = g.found.loads, gamma * more
        heavy = {c.id for c in g.floor.load_cases if c.nature == "self_weight"}
        added = pressed(g.found.elements, g.whole, heavier)
        own = np.array([float(u.case in heavy) for u in loads.units])
        matrix = (loads.matrix + sp.csc_matrix(added.reshape(-1, 1)) @ sp.csc_matrix(own[None])).tocsc()
        return self._solved(more, more / 2, g.found.system.held, replace(loads, matrix=matrix, weight=loads.weight + heavier))

    def larger(self, floor: Floor, column: str, inside: Array) -> Response | None:
        """With a column as it is in ``floor``, whose footprint covers a share ``inside`` (e,) of each element: over that the slab is held stiff. None where
        the floor does not rest on it, or no more floors are solved."""
        held = self._given.found.system.held
        owner = next((k for k, label in enumerate(held.labels) if label == column), None)
        if owner is None or owner not in held.masters:
            return None
        # Of an element that is stiff in a part, the rest bends: its flexibility falls by as much.
        stiff = (1 - np.minimum(inside, MOST_STIFF)) ** (-1 / 3) - 1
        h = self._given.values.h[self._given.face]
        return self._solved(h * stiff, np.zeros(len(h)), self._given.restraints(floor), self._given.found.loads)

    def _solved(self, more: Array, lower: Array, held: Restraints, loads: LoadVectors) -> Response | None:
        """With elements so much ``more`` (e,) m thick, and their middle planes so much ``lower`` (e,) m."""
        if not self._left:
            self.short = True
            return None
        self._left -= 1
        self.tick()
        g = self._given
        base = g.found.system
        made = with_sections(base, *thickened(g.floor, g.values, g.face, g.moduli, more, lower))
        self._current = renewed(replace(in_turn(base, self._current), held=held), made)
        columns = np.arange(len(loads.units))
        some = [solve(self._current, loads.vectors(c)) for c in np.array_split(columns, max(1, -(-len(columns) // SOLVED)))]
        u, reactions = (np.concatenate([getattr(s, n) for s in some], axis=2) for n in ("u", "reactions"))
        # Of the system zones read what holds the floor.
        return replace(g.found, loads=loads, system=replace(base, held=held), u=u, reactions=reactions)


KEPT = 150e6
"""Bytes of displacements that are kept of floors with a change."""
SOLVED = 24
"""Columns solved at once."""
WORK, FEWEST = 2e8, 4
"""So many floors are solved that their displacements are no more numbers than this, but some in any case."""
MOST_STIFF = 0.99
"""An element that lies under a column wholly is so stiff."""
