"""Section forces of all unit loads."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.fe.recovery import forces_by
from piastra.core.fe.reuse import Directions, Known, columns_of, in_blocks, responses
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.loads import LOADS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.tendons import TENDON_FORCES
from piastra.core.tendons.effects import initial_strain

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Forces:
    """Section forces about the reference plane, ``at_places`` (p, 8, r): in single precision where panels share load vectors."""

    at_places: Array
    directions: Directions
    tendons: Array | None = None
    """(p, 8) those of the tendons themselves, spread over the elements that they run through."""

    def with_tendons(self) -> Array:
        """With one unit more, where there are tendons: their final force as it presses the section."""
        if self.tendons is None:
            return self.at_places
        return np.concatenate([self.at_places, -self.tendons[..., None].astype(self.at_places.dtype)], axis=2)


RECOVERED = 8
"""Columns whose forces are found at once: on the way there they take several times the room of the result."""


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Forces]) -> Forces:
    stiffness, solutions, last = made[STIFFNESS], made[SOLUTIONS], made.earlier
    u = solutions.solution.u
    # Of large floors these are most of what is held. To share vectors changes a hundred times more than seven figures do.
    kind = np.float64 if made[LOADS].apart is None else np.float32
    known = Known(last.directions, (last.at_places,)) if last is not None and last.at_places.dtype == kind else None

    def made_of(columns: npt.NDArray[np.int64]) -> tuple[Array, ...]:
        # Made only where a direction is new: a changed value scales what is known.
        found = forces_by(stiffness.system, stiffness.kept)
        return in_blocks(columns, lambda some: (found(columns_of(u, some), None).astype(kind, copy=False),), RECOVERED)

    (at_places,) = responses(solutions.directions, known, made_of)
    return Forces(at_places, solutions.directions)


PLAIN_FORCES = Stage("plain forces", _inputs, _make, (STIFFNESS, SOLUTIONS, LOADS), kin=(STIFFNESS,))
"""Of the concrete, under the loads and the tendons that act on it."""


def _with_tendons(given: None, made: Made[Forces]) -> Forces:
    plain, tendons = made[PLAIN_FORCES], made[TENDON_FORCES]
    secondary = made[LOADS].secondary
    if tendons is None:
        return plain
    stiffness = made[STIFFNESS]
    still = np.zeros((*made[SOLUTIONS].solution.u.shape[:2], 1))
    held = initial_strain(stiffness.system, tendons.final)
    own = forces_by(stiffness.system, stiffness.kept)(still, held)
    if not secondary:
        return replace(plain, tendons=own[..., 0])
    out = plain.at_places.copy()
    # Section and tendon together: what equilibrium with the reactions alone asks for.
    out[..., list(secondary)] += own.astype(out.dtype)
    return Forces(out, plain.directions, own[..., 0])


FORCES = Stage("forces", _inputs, _with_tendons, (PLAIN_FORCES, STIFFNESS, SOLUTIONS, LOADS, TENDON_FORCES))
