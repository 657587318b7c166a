"""What the mats give at every place and at the stations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Spots
from piastra.core.reinforcement.mats import Provided, mats_of, provided
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stations import STATIONS
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only


@dataclass(frozen=True, slots=True)
class Given:
    """What the mats give at every place, whose ``slab`` (p,) is known, and at the samples of the stations; these ``places`` and ``samples``, where
    groups of bars are looked for."""

    slab: npt.NDArray[np.int64]
    at_places: Provided
    at_stations: Provided
    places: Spots
    samples: Spots


def _inputs(floor: Floor) -> Floor:
    return only(floor, mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm"))


def _make(floor: Floor, made: Made[Given]) -> Given:
    meshed, kept, samples = made[MESH], made[STIFFNESS].kept, made[STATIONS].cuts.samples
    slab_of = made[PLAN].slab[meshed.face]
    slab = np.zeros(len(kept.node), dtype=np.int64)
    valid = kept.of >= 0
    slab[kept.of[valid]] = np.broadcast_to(slab_of[:, None], kept.of.shape)[valid]
    mats = mats_of(floor)
    at_stations = provided(mats, samples.xy, slab_of[samples.element])
    region, xy = made[PLAN].region, meshed.mesh.xy[kept.node]
    return Given(slab, provided(mats, xy, slab), at_stations, Spots(xy, region), Spots(samples.xy, region))


MATS = Stage("mats", _inputs, _make, (MESH, PLAN, STIFFNESS, STATIONS))
