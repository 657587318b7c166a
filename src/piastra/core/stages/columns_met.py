"""Columns that bars may pass through, as they are met by one way after another of laying bars."""

from __future__ import annotations

import numpy as np

from piastra.core.model import Floor
from piastra.core.reinforcement.through import Columns
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.column_bars import PRESSING
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction",
        mats=ALL, slabs=("cover_top_mm", "cover_bottom_mm", "bar_angle_deg"), columns=("id", "at", "below"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[Columns | None]) -> Columns | None:
    rule, under, plan = standard_of(floor).integrity, made[PRESSING].columns, made[PLAN]
    if rule is None:
        return None
    slabs = (
        np.where(under >= 0, plan.slab[made[MESH].face][np.maximum(under, 0)], -1) if len(under) else np.zeros(0, dtype=np.int64)
    )
    return Columns(floor, plan.footprints, slabs, plan.region, rule.inset)


COLUMNS_MET = Stage("columns met by bars", _inputs, _make, (PRESSING, MESH, PLAN))
