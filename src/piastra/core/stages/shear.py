"""One-way shear along what carries the slab."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from piastra.core.model import Floor
from piastra.core.reinforcement.groups import extra_at
from piastra.core.reinforcement.mats import mats_of, provided
from piastra.core.reinforcement.stations import materials
from piastra.core.shear.links import carry, designed
from piastra.core.shear.places import lines_of, within
from piastra.core.shear.shear import ShearUse, Unresolved, read, shear_uses
from piastra.core.stages.bar_groups import BAR_GROUPS
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.factors import FACTORS
from piastra.core.stages.forces import PLAIN_FORCES
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.shear_lines import SHEAR_LINES, SHEAR_READ, ShearLines
from piastra.core.stages.stiffness import STIFFNESS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_of
from piastra.core.standards.beam_rules import BeamRules
from piastra.core.standards.situations import Acting, acting_in

COARSE, DEEP = 1.3, 2.0
"""A mesh is coarse from so many times the usual size of its elements on; what it has beside lines is then too large beyond so many effective depths."""
FURTHEST = 10.0
"""Links are followed so many effective depths from the face at most."""


def _inputs(floor: Floor) -> Floor:
    return only(
        floor, "standard", "parameters", "exposure", "crack_width_limit_mm", "construction", "design_links", "bar_sizes_mm", concretes=ALL, rebars=ALL, mats=ALL, slabs=ALL,
        walls=("id", "line", "thickness_m", "below"), supports=ALL, beams=("id", "line", "width_m"),
        thickenings=("id", "kind", "outline", "thickness_m"),
    )  # fmt: skip


def _make(floor: Floor, made: Made[tuple[ShearUse, ...] | None]) -> tuple[ShearUse, ...] | None:
    standard = standard_of(floor)
    situations = acting_in(standard, made[FACTORS])
    known = made[SHEAR_LINES]
    if standard.shear is None or not situations[0].combinations or known is None:
        return None
    look = _Look(floor, made, situations, known)
    found = look.at(known.depth)
    if floor.design_links:
        found = _with_links(floor, look, found)
    return tuple(found.values())


@dataclass(frozen=True, slots=True)
class _Look:
    """The worst piece of every line at a distance from the face."""

    floor: Floor
    made: Made[tuple[ShearUse, ...] | None]
    situations: list[Acting]
    known: ShearLines

    @property
    def depth(self) -> float:
        """Effective depth (m) at which shear is looked at, and within which of a column it is punching's."""
        return self.known.depth

    def of(self, a: Acting, distance: float, for_links: bool = False) -> list[ShearUse]:
        """In one design situation, at a ``distance`` (m) from the faces."""
        floor, made = self.floor, self.made
        plan, meshed = made[PLAN], made[MESH]
        along = made[SHEAR_READ]
        if along is None or distance != self.depth:
            lines = lines_of(floor, plan.region, plan.footprints, self.depth, distance)
            along = read(lines, meshed.elements, made[STIFFNESS].kept, plan.slab[meshed.face], plan.region)
        given = provided(mats_of(floor), along.spots.xy, along.slab)
        kind, pairs = materials(floor)
        bars = np.radians(np.array([s.bar_angle_deg for s in floor.slabs]))
        assert a.standard.shear is not None
        largest = DEEP * self.depth if plan.linework.size > COARSE * plan.linework.usual else np.inf
        # Of the concrete: what tendons carry by their slope it does not, and it has their compression.
        return [replace(use, situation=a.situation) for use in shear_uses(
            a.standard.shear, along, made[PLAIN_FORCES].at_places, given, bars, kind, a.pairs(pairs), a.combinations, made[LOADS].units,
            lambda spots, angle: extra_at(made[BAR_GROUPS], spots, angle).area, for_links, largest,
        )]  # fmt: skip

    def at(self, distance: float) -> dict[tuple[str, str], ShearUse]:
        """The worst of all situations, by what carries the slab; and all pieces that are not resolved in one of them, each with its most."""
        worst: dict[tuple[str, str], ShearUse] = {}
        unsure: dict[tuple[str, str], list[Unresolved]] = {}
        for a in self.situations:
            for use in self.of(a, distance):
                if use.of not in worst or worst[use.of].utilisation < use.utilisation:
                    worst[use.of] = use
                unsure.setdefault(use.of, []).extend(use.unresolved)
        return {of: replace(use, unresolved=_each_once(unsure[of])) for of, use in worst.items()}


def _each_once(pieces: Iterable[Unresolved]) -> tuple[Unresolved, ...]:
    """Of pieces in several situations that at each place which is the furthest beyond the resistance, the furthest first."""
    first: dict[tuple[float, float], Unresolved] = {}
    for piece in sorted(pieces, key=lambda p: p.most / max(p.resistance, 1e-9), reverse=True):
        first.setdefault(piece.at, piece)
    return tuple(first.values())


@dataclass(frozen=True, slots=True)
class _End:
    """How far (m) links ``reach`` from the face, the utilisation of the concrete ``beyond`` and what is not resolved there."""

    reach: float
    beyond: float
    unresolved: tuple[Unresolved, ...] = ()


def _ends(look: _Look, found: dict[tuple[str, str], ShearUse]) -> dict[tuple[str, str], _End]:
    """Where links of what the concrete does not carry may end: where it does."""
    ends = {of: _End(look.depth, use.bare) for of, use in found.items() if use.bare > 1}
    going, distance = set(ends), look.depth
    while going and distance < FURTHEST * look.depth:
        distance += look.depth / 2
        there = look.at(distance)
        for of in going:
            # Where no line lies so far out, the floor has ended.
            ends[of] = _End(distance, there[of].bare, _hidden(there[of])) if of in there else _End(distance, 0.0)
        going = {of for of in going if ends[of].beyond > 1}
    return ends


def _hidden(use: ShearUse) -> tuple[Unresolved, ...]:
    """Pieces whose elements tell too little of the shear; what grows within others does so towards the face, where links are."""
    return tuple(piece for piece in use.unresolved if piece.large or piece.narrow)


def _with_links(floor: Floor, look: _Look, found: dict[tuple[str, str], ShearUse]) -> dict[tuple[str, str], ShearUse]:
    """Links where the concrete does not carry the shear, as far as it does not, for the piece and the situation that ask for the most."""
    ends = _ends(look, found)
    if not ends:
        return found
    out = dict(found)
    doubtful: dict[tuple[str, str], list[tuple[BeamRules, Unresolved]]] = {}
    for a in look.situations:
        beams, shear = a.standard.beams, a.standard.shear
        if beams is None or shear is None:
            continue
        for use in look.of(a, look.depth, for_links=True):
            if use.of not in ends:
                continue
            doubtful.setdefault(use.of, []).extend((beams, piece) for piece in use.unresolved)
            if use.bare <= 1:
                continue
            end = ends[use.of]
            links = designed(
                beams, shear.links, use.v, use.place, use.thinnest or use.place, floor.bar_sizes_mm, end.reach, end.beyond
            )
            before = out[use.of].links
            if before is not None:
                # One set of links serves all situations: the struts of each, and the thickness of every piece.
                struts, thick = max(before.struts, links.struts), before.thick and links.thick
                if links.asked <= before.asked:
                    out[use.of] = replace(out[use.of], links=replace(before, struts=struts, thick=thick))
                    continue
                links = replace(links, struts=struts, thick=thick)
            places = within(floor, use.of, end.reach, look.made[PLAN].region)
            out[use.of] = replace(use, links=replace(links, places=places))
    for of, end in ends.items():
        laid = out[of].links
        if laid is not None:
            within_them = [piece for beams, piece in doubtful[of] if not carry(laid, beams, piece.most, piece.place)]
            out[of] = replace(out[of], unresolved=_each_once([*within_them, *end.unresolved]))
    return out


SHEAR = Stage("shear", _inputs, _make, (FACTORS, LOADS, BAR_GROUPS, PLAN, MESH, STIFFNESS, PLAIN_FORCES, SHEAR_LINES, SHEAR_READ))
