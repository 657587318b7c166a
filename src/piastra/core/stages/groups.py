"""Groups of panels that share a load vector."""

from __future__ import annotations

from piastra.core.combine.sharing import alone, shared, wanted
from piastra.core.model import Floor
from piastra.core.stages.axes import AXES, main_direction
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.panels import PANELS

Groups = tuple[tuple[str, ...], ...]


def _inputs(floor: Floor) -> str:
    return floor.panels_together


def _make(choice: str, made: Made[Groups]) -> Groups:
    panels = made[PANELS]
    return shared(panels, main_direction(made[AXES])) if wanted(choice, len(panels)) else alone(panels)


GROUPS = Stage("groups", _inputs, _make, (PANELS, AXES), content=lambda found: found)
"""Labels of the panels of each group."""
