"""Limits of stresses in service: of bars and pressed concrete of cracked sections."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from piastra.core.checks.beams import rows_in_service
from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.flexure import NO_BARS, beside_strips, slab_strips, station_row, without_station
from piastra.core.checks.row import Row, Unchecked
from piastra.core.combine.envelope import Factors
from piastra.core.reinforcement.stations import responses_of, service_pair
from piastra.core.reinforcement.worst import Responses, Turns, turns_of
from piastra.core.standards.provision import CrackUse, Stations
from piastra.core.tendons.stresses import scaled
from piastra.core.trace import Trace

Ints = npt.NDArray[np.int64]


class LimitedStress:
    """Bars and pressed concrete in service; of floors with tendons under both bounds of their prestress."""

    name = "stress_limits"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every strip; None where the standard limits no such stress."""
        rules = context.standard.stresses
        if rules is None:
            return None
        if not context.ultimate:
            return Unchecked(NO_ULTIMATE)
        if context.steel is None:
            return Unchecked(NO_BARS)
        combinations = [f for f in context.all_service if f.limit_state in rules.limit_states]
        if not combinations:
            wanted = " or ".join(rules.limit_states).replace("_", "-")
            return Unchecked(f"there is no {wanted} combination; add one")
        if context.prestress is not None:
            combinations = [scaled(f, context.prestress.units, r) for r in context.prestress.spread for f in combinations]
        # Twists are the same whichever face is stretched.
        turns = turns_of(responses_of(context.cuts, 1.0, context.cuts.h), combinations)
        by_steel = [self._of_face(context, f, combinations, turns, pressed=False) for f in (0, 1)]
        by_concrete = [self._of_face(context, f, combinations, turns, pressed=True) for f in (0, 1)]
        # Bottom and top bars, then what lies pressed opposite to them.
        found = [(f, *own) for f, own in ((0, by_steel[0]), (1, by_steel[1]), (0, by_concrete[0]), (1, by_concrete[1])) if own]
        use = np.array([own.use for _, own, _ in found])
        rows = []
        for k, mine in slab_strips(context):
            if not len(mine):
                rows.append(without_station(self.name, context, k))
                continue
            which, place = np.unravel_index(int(use[:, mine].argmax()), (len(found), len(mine)))
            cut = int(mine[place])
            face, own, chosen = found[int(which)]
            named = combinations[int(chosen[cut])].combination

            def explain(own: CrackUse = own, cut: int = cut, named: str = named) -> Trace:
                return Trace(named, context.factors_by_case(named), (), own.steps(cut))

            rows.append(station_row(self.name, context, cut, face, float(own.use[cut]), named, explain))
        rows += self._of_beams(context, combinations)
        return rows + beside_strips(self.name, context) + context.doubtful_rows(self.name, combinations)

    def _of_face(
        self, context: Context, face: int, combinations: Sequence[Factors], turns: Turns, pressed: bool
    ) -> tuple[CrackUse, Ints] | None:
        """Stations whose ``face`` is stretched, with the combination of each: of its bars, or of the concrete opposite to them."""
        rules = context.standard.stresses
        assert rules is not None
        assert context.steel is not None
        at: Stations = context.steel.faces[face].at
        found = responses_of(context.cuts, 1.0 if face == 0 else -1.0, at.d)
        if pressed:
            # The concrete's force is the moment about the steel over the lever arm, whatever pulls at the steel.
            about = found.moment - found.axial * found.arm[:, None]
            found = Responses(about, found.twist, np.zeros_like(found.axial), found.arm)
        worst = service_pair(found, at.d, combinations, turns)
        served = replace(at, m_service=worst.m, n_service=worst.n)
        use = rules.concrete(served) if pressed else rules.steel(served)
        return None if use is None else (use, worst.combination)

    def _of_beams(self, context: Context, combinations: Sequence[Factors]) -> list[Row]:
        rules, design = context.standard.stresses, context.beams
        assert rules is not None
        uses: list[tuple[int, CrackUse, Ints]] = []
        if design is None:
            return rows_in_service(self.name, context, combinations, uses)
        for face, pressed in ((0, False), (1, False), (0, True), (1, True)):
            at, chosen = design.served(context.cuts, face, combinations, pressed)
            use = rules.concrete(at) if pressed else rules.steel(at)
            if use is not None:
                uses.append((face, use, chosen))
        return rows_in_service(self.name, context, combinations, uses)
