"""Beams designed."""

from __future__ import annotations

from piastra.core.beams.design import BeamDesign, design_beams
from piastra.core.beams.sections import beam_sections
from piastra.core.model import Floor
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS, in_service
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.strips import STRIPS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of
from piastra.core.standards.situations import acting_in


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "fire", "bar_sizes_mm", "spacings_mm", concretes=ALL, rebars=ALL,
        slabs=("rebar", "cover_top_mm", "cover_bottom_mm"), beams=ALL,
    )  # fmt: skip


def _make(floor: Floor, made: Made[BeamDesign | None]) -> BeamDesign | None:
    if not floor.beams or not floor.slabs:
        return None
    strips = made[STRIPS]
    found = beam_sections(floor, strips.layout, strips.cuts, made[STIFFNESS].kept)
    standard = standard_of(floor)
    service = in_service(standard, made[FACTORS])
    return design_beams(floor, acting_in(standard, made[FACTORS]), service, strips.layout, strips.cuts, found)


BEAMS = Stage("beams", _inputs, _make, (FACTORS, STRIPS, STIFFNESS))
