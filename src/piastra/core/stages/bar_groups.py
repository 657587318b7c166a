"""Groups of bars beside the mats; what follows from them runs anew only where they change."""

from __future__ import annotations

from dataclasses import fields, replace

import numpy as np
import shapely

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import Group
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.steel import STEEL


def _inputs(floor: Floor) -> None:
    return None


def _make(given: None, made: Made[tuple[Group, ...]]) -> tuple[Group, ...]:
    # Why they lie there changes with every load, and nothing follows from it.
    return tuple(replace(g, why=()) for g in made[STEEL].groups)


def _content(found: tuple[Group, ...]) -> tuple[list[str], str]:
    """Outlines and all else; at once, as it is looked at after every edit."""
    outlines = shapely.to_wkb(np.array([g.outline for g in found], dtype=object), hex=True).tolist()
    return outlines, repr([[getattr(g, name) for name in _NAMES] for g in found])


_NAMES = tuple(f.name for f in fields(Group) if f.name not in ("outline", "why"))

BAR_GROUPS = Stage("bar groups", _inputs, _make, (STEEL,), content=_content)
