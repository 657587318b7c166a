"""Sag of every line under lasting load."""

from __future__ import annotations

from piastra.core.combine.envelope import with_constant
from piastra.core.deflection.sag import Sag, sags
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.lines import LINES
from piastra.core.stages.loads import LOADS
from piastra.core.stages.long_term import LONG_TERM
from piastra.core.stages.mesh import MESH


def _inputs(floor: Floor) -> float:
    return floor.deflection.span_over


def _make(span_over: float, made: Made[tuple[Sag, ...]]) -> tuple[Sag, ...]:
    found = made[LONG_TERM]
    if found is None:
        return ()
    lasting = [with_constant(f) for f in made[FACTORS] if f.lasting]
    return tuple(sags(made[LINES], made[MESH].elements, found.w, lasting, made[LOADS].units, span_over))


SAGS = Stage("sags", _inputs, _make, (LINES, LONG_TERM, FACTORS, MESH, LOADS))
