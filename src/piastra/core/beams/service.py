"""Beams in service: what the rules for cracks and stresses read of their stations, by the metre of the web."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from piastra.core.beams.curtailment import BAR
from piastra.core.beams.laying import FaceBars
from piastra.core.beams.sections import BeamSections
from piastra.core.combine.envelope import Factors
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.reinforcement.stations import service_pair
from piastra.core.reinforcement.worst import Responses
from piastra.core.standards.provision import Stations
from piastra.core.strips.cuts import Cuts

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


def served(
    s: BeamSections, depths: tuple[Array, Array], kind: Ints, materials: Sequence[tuple[Concrete, Rebar]], cuts: Cuts, face: int, bars: FaceBars,
    combinations: Sequence[Factors], pressed: bool = False,
) -> tuple[Stations, Ints]:  # fmt: skip
    """Stations (k,) of all beams whose ``face`` (0 bottom, 1 top) is stretched under the worst of ``combinations``, with the ``bars`` that are laid at the
    depth where they lie; and the number of the governing combination (k,). ``depths`` (k,) m of both faces as the design measured them, ``kind`` (k,)
    numbers the ``materials``. ``pressed``: the worst for the concrete opposite to the bars."""
    count = len(s.cuts)
    own = depths[face]
    cover = s.H - own - BAR / 2
    spacing = (s.b_w - 2 * cover - bars.bar) / np.maximum(bars.beside - 1, 1)
    d = own - bars.further
    b, h_f = s.compressed(face == 0)
    arm = d - s.centroid if face == 0 else s.centroid - (s.H - d)
    forces = cuts.forces[s.cuts]
    moment = (1.0 if face == 0 else -1.0) * forces[:, 0] / s.b_w[:, None]
    axial = forces[:, 3] / s.b_w[:, None]
    if pressed:
        # The concrete's force is the moment about the steel over the lever arm, whatever pulls at the steel.
        moment, axial = moment - axial * arm[:, None], np.zeros_like(axial)
    worst = service_pair(Responses(moment, np.zeros((count, 1, moment.shape[1])), axial, arm), d, combinations)
    at = Stations.of(
        tuple(materials), count, top=np.full(count, face == 1), h=s.H, d=d, d2=s.H - depths[1 - face], cover=cover, width=s.b_w, kind=kind,
        m_service=worst.m, n_service=worst.n, given=bars.area / s.b_w, bar=bars.bar, spacing=spacing, wide=b / s.b_w, flange=h_f,
    )  # fmt: skip
    return at, worst.combination
