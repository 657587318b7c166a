"""Forces at the stations of strips, of all unit loads."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.fe.reuse import Directions, Known, columns_of, in_blocks, responses
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.forces import FORCES, PLAIN_FORCES
from piastra.core.stages.loads import LOADS
from piastra.core.stages.solutions import SOLUTIONS
from piastra.core.stages.stations import STATIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.tendons import TENDON_FORCES
from piastra.core.strips.cuts import Cuts, forces_across
from piastra.core.strips.layout import Layout


@dataclass(frozen=True, slots=True)
class Strips:
    """Strips with the forces at their stations."""

    layout: Layout
    cuts: Cuts
    directions: Directions


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[Strips]) -> Strips:
    stations, solutions, last = made[STATIONS], made[SOLUTIONS], made.earlier
    u, forces = solutions.solution.u, made[PLAIN_FORCES].at_places
    known = Known(last.directions, (last.cuts.forces, last.cuts.twists)) if last else None

    def across(columns: npt.NDArray[np.int64]) -> tuple[npt.NDArray[np.float64], ...]:
        return forces_across(stations.cuts, made[STIFFNESS].system, columns_of(u, columns), columns_of(forces, columns))

    found, twists = responses(solutions.directions, known, lambda columns: in_blocks(columns, across))
    return Strips(stations.layout, replace(stations.cuts, forces=found, twists=twists), solutions.directions)


PLAIN_STRIPS = Stage("plain strips", _inputs, _make, (STATIONS, STIFFNESS, SOLUTIONS, PLAIN_FORCES), kin=(STIFFNESS, STATIONS))
"""Of the concrete, under the loads and the tendons that act on it."""


def _with_tendons(given: None, made: Made[Strips]) -> Strips:
    plain, tendons, units = made[PLAIN_STRIPS], made[TENDON_FORCES], list(made[LOADS].secondary)
    if tendons is None or not units or not len(plain.cuts.strip):
        return plain
    cuts, system = plain.cuts, made[STIFFNESS].system
    u = made[SOLUTIONS].solution.u[..., units]
    forces, twists = forces_across(cuts, system, u, made[FORCES].at_places[..., units])
    forces += tendons.final.across(cuts.bodies.element, cuts.bodies.sums, cuts.zeta)[..., None]
    whole, parts = cuts.forces.copy(), cuts.twists.copy()
    whole[..., units], parts[..., units] = forces, twists
    return replace(plain, cuts=replace(cuts, forces=whole, twists=parts))


STRIPS = Stage("strips", _inputs, _with_tendons, (PLAIN_STRIPS, STIFFNESS, SOLUTIONS, FORCES, LOADS, TENDON_FORCES))
