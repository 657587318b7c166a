"""Beams in service: what the rules for cracks and stresses read of their stations, by the metre of the web."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from piastra.core.beams.design import BAR, BeamDesign
from piastra.core.combine.envelope import Factors
from piastra.core.reinforcement.stations import service_pair
from piastra.core.reinforcement.worst import Responses
from piastra.core.standards.provision import Stations
from piastra.core.strips.cuts import Cuts

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


def served(
    design: BeamDesign, cuts: Cuts, face: int, combinations: Sequence[Factors], pressed: bool = False
) -> tuple[Stations, Ints]:
    """Stations (k,) of all beams whose ``face`` (0 bottom, 1 top) is stretched under the worst of ``combinations``, with the bars that are laid at the
    depth where they lie; and the number of the governing combination (k,). ``pressed``: the worst for the concrete opposite to the bars."""
    s, own = design.sections, design.faces[face]
    count = len(s.cuts)
    strip = cuts.strip[s.cuts]
    area, bar, spacing, further = (np.zeros(count) for _ in range(4))
    for number, laid in design.bars.items():
        mine, bars = strip == number, laid[1] if face else laid[0]
        # Bars lie deeper than the design measured by as much as its factor tells (see choose).
        least = float(own.d[mine].min())
        further[mine] = least * (1 - 1 / np.sqrt(bars.deeper))
        across = -(-bars.count // bars.layers)
        cover = s.H[mine] - own.d[mine] - BAR / 2
        area[mine], bar[mine] = bars.area / s.b_w[mine], bars.bar
        spacing[mine] = (s.b_w[mine] - 2 * cover - bars.bar) / max(across - 1, 1)
    d = own.d - further
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
        design.materials, count, top=np.full(count, face == 1), h=s.H, d=d, d2=s.H - design.faces[1 - face].d,
        cover=s.H - own.d - BAR / 2, width=s.b_w, kind=design.kind, m_service=worst.m, n_service=worst.n, given=area, bar=bar,
        spacing=spacing, wide=b / s.b_w, flange=h_f,
    )  # fmt: skip
    return at, worst.combination
