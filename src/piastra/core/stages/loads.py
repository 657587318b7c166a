"""Unit load vectors, those of tendons among them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy.sparse as sp

from piastra.core.loads.vectors import LoadVectors
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.given_loads import GIVEN_LOADS
from piastra.core.stages.tendons import TENDON_FORCES


def _inputs(floor: Floor) -> dict[str, str]:
    return {c.id: c.effect for c in floor.load_cases if c.effect is not None}


def _make(effects: dict[str, str], made: Made[LoadVectors]) -> LoadVectors:
    given, tendons = made[GIVEN_LOADS], made[TENDON_FORCES]
    if tendons is None or not effects:
        return given
    columns = [given.matrix[:, k] for k in range(given.matrix.shape[1])]
    secondary = []
    for k, unit in enumerate(given.units):
        effect = effects.get(unit.case)
        if effect is None:
            continue
        made_by = tendons.transfer if effect == "transfer" else tendons.final
        columns[k] = sp.csc_matrix(made_by.vector.reshape(-1, 1))
        if effect == "secondary":
            secondary.append(k)
    matrix = sp.csc_matrix(sp.hstack(columns))
    matrix.sort_indices()
    return replace(given, matrix=matrix, secondary=tuple(secondary), applied=np.array(given.applied))


LOADS = Stage("loads", _inputs, _make, (GIVEN_LOADS, TENDON_FORCES))
