"""Required and given steel at every place: where the first verdict reads it, and everywhere once that is told."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from piastra.core.combine.envelope import with_constant
from piastra.core.model import Floor
from piastra.core.reinforcement.groups import extra_at
from piastra.core.reinforcement.points import point_steel
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import FORCES
from piastra.core.stages.layout import LAYOUT
from piastra.core.stages.mats import MATS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class PointSteel:
    """Steel ``required`` (4, p) m2/m with what is ``given`` there (4, p) m2/m; not a number at places that are still open. None of them where the
    standard's rules are not at hand or there is no ultimate combination."""

    required: Array
    given: Array


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "fire", concretes=ALL, rebars=ALL, slabs=ALL, beams=("id",)
    )  # fmt: skip


def _at(floor: Floor, made: Made[PointSteel | None], places: Ints, steel: PointSteel) -> None:
    """Fill in the steel at some places."""
    standard, given, forces = standard_of(floor), made[MATS], made[FORCES]
    acting = forces.with_tendons()
    steel.required[:, places] = np.maximum.reduce([
        point_steel(
            a.floor(floor), a.standard, made[STIFFNESS].kept, given.slab, acting, given.at_places,
            [with_constant(f) for f in a.combinations] if forces.tendons is not None else a.combinations, places,
        )
        for a in acting_in(standard, made[FACTORS])
    ])  # fmt: skip
    bars = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))[given.slab]
    for k in (0, 1):
        more = extra_at(made[BAR_GROUPS], given.places, bars + k * np.pi / 2).area
        steel.given[k::2, places] = (given.at_places.area[k::2] + more)[:, places]


def _first(floor: Floor, made: Made[PointSteel | None]) -> PointSteel | None:
    standard = standard_of(floor)
    situations = acting_in(standard, made[FACTORS])
    if standard.flexure is None or standard.minimum is None or not situations[0].combinations or not floor.slabs:
        return None
    xy = made[MATS].places.xy
    read = np.full(len(xy), bool(floor.beams))
    for _, piece in made[LAYOUT].beside:
        read |= shapely.contains_xy(piece, xy)
    steel = PointSteel(np.full((4, len(xy)), np.nan), np.full((4, len(xy)), np.nan))
    if read.any():
        _at(floor, made, np.flatnonzero(read), steel)
    return steel


def _make(floor: Floor, made: Made[PointSteel | None]) -> PointSteel | None:
    first = made[STEEL_READ]
    if first is None:
        return None
    steel = PointSteel(first.required.copy(), first.given.copy())
    rest = np.flatnonzero(np.isnan(first.required[0]))
    if len(rest):
        _at(floor, made, rest, steel)
    return steel


_READ = (FACTORS, MATS, STIFFNESS, FORCES, BAR_GROUPS)
STEEL_READ = Stage("steel beside strips", _inputs, _first, (*_READ, LAYOUT))
"""Where checks read it: in pieces that no strip serves, and of floors with beams, whose flanges it bends, everywhere."""
STEEL_EVERYWHERE = Stage("steel everywhere", _inputs, _make, (*_READ, STEEL_READ))
