"""Control of cracks in service at the stations of strips."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from piastra.core.checks.beams import rows_in_service
from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.flexure import NO_BARS, beside_strips, slab_strips, station_row, without_station
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, uncovered
from piastra.core.combine.envelope import Factors
from piastra.core.model.tendons import Tendon
from piastra.core.reinforcement.stations import responses_of, service_pair
from piastra.core.standards.provision import CrackUse
from piastra.core.tendons.stresses import scaled
from piastra.core.trace import Trace

Ints = npt.NDArray[np.int64]
NO_FREQUENT = "with bonded tendons cracks are limited under the frequent combination as well, and there is none; add one"


@dataclass(frozen=True, slots=True)
class _Bonded:
    """What bonded tendons ask for: uses by face with the governing of the ``combinations``; ``told``: a tendon, where it cannot be looked at."""

    combinations: Sequence[Factors]
    uses: Sequence[tuple[int, CrackUse, Ints]]
    told: Tendon | None


class CrackWidth:
    """Crack widths, or the spacing of bars that stands for them."""

    name = "crack_width"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every strip."""
        if context.standard.cracking is None:
            return context.not_at_hand()
        if not context.ultimate:
            return Unchecked(NO_ULTIMATE)
        if context.steel is None:
            return Unchecked(NO_BARS)
        use = context.steel.cracks
        if use is None:
            wanted = " or ".join(context.standard.cracking.limit_states).replace("_", "-")
            return Unchecked(f"there is no {wanted} combination; add one")
        bonded = self._bonded(context)
        rows = []
        for k, mine in slab_strips(context):
            if not len(mine):
                rows.append(without_station(self.name, context, k))
                continue
            face, place = np.unravel_index(int(use[:, mine].argmax()), (2, len(mine)))
            lasting = float(use[face, mine[place]])
            found = [(float(own.use[mine].max()), f, own, chosen) for f, own, chosen in bonded.uses]
            most, f, own, chosen = max(found, key=lambda one: one[0], default=(-1.0, 0, None, None))
            if own is None or chosen is None or most <= lasting:
                rows.append(self._row(context, int(mine[place]), int(face), lasting))
                continue
            cut = int(mine[own.use[mine].argmax()])
            named = bonded.combinations[int(chosen[cut])].combination

            def explain(own: CrackUse = own, cut: int = cut, named: str = named) -> Trace:
                return Trace(named, context.factors_by_case(named), (), own.steps(cut))

            rows.append(station_row(self.name, context, cut, f, most, named, explain))
        rows += self._of_beams(context, bonded)
        if bonded.told:
            t = bonded.told
            rows.append(uncovered(RowId(self.name, Ref("tendons", t.id)), t.id, NO_FREQUENT, (t.line[0][0], t.line[0][1])))
        return rows + beside_strips(self.name, context) + context.doubtful_rows(self.name, context.service)

    def _bonded(self, context: Context) -> _Bonded:
        """Stations of members with bonded tendons, by the rules for these, under both bounds of the prestress."""
        rules = context.standard.cracking.bonded if context.standard.cracking is not None else None
        strands = {s.id: s for s in context.floor.strands}
        tendon = next((t for t in context.floor.tendons if strands[t.strand].bond == "bonded"), None)
        if rules is None or context.prestress is None or context.steel is None or tendon is None:
            return _Bonded([], [], None)
        plain = [f for f in context.all_service if f.limit_state in rules.limit_states]
        combinations = [scaled(f, context.prestress.units, r) for r in context.prestress.spread for f in plain]
        if not combinations:
            return _Bonded([], [], tendon)
        uses: list[tuple[int, CrackUse, Ints]] = []
        for face, sign in ((0, 1.0), (1, -1.0)):
            at = context.steel.faces[face].at
            worst = service_pair(responses_of(context.cuts, sign, at.d), at.d, combinations)
            uses.append((face, rules.check(replace(at, m_service=worst.m, n_service=worst.n)), worst.combination))
        return _Bonded(combinations, uses, None)

    def _of_beams(self, context: Context, bonded: _Bonded) -> list[Row]:
        rules, design = context.standard.cracking, context.beams
        assert rules is not None
        uses: list[tuple[int, CrackUse, Ints]] = []
        if design is None:
            return rows_in_service(self.name, context, context.service, uses)
        for face in (0, 1):
            at, chosen = design.served(context.cuts, face, context.service)
            uses.append((face, rules.check(at), chosen))
            if bonded.combinations and rules.bonded is not None:
                at, chosen = design.served(context.cuts, face, bonded.combinations)
                uses.append((face, rules.bonded.check(at), chosen + len(context.service)))
        return rows_in_service(self.name, context, [*context.service, *bonded.combinations], uses)

    def _row(self, context: Context, cut: int, face: int, use: float) -> Row:
        assert context.steel is not None
        assert context.standard.cracking is not None
        own = context.steel.faces[face]
        factors = context.service[int(own.crack_combination[cut])]
        rules, name = context.standard.cracking, factors.combination

        def explain() -> Trace:
            return Trace(name, context.factors_by_case(name), (), rules.check(own.at.some(slice(cut, cut + 1))).steps(0))

        return station_row(self.name, context, cut, face, use, name, explain)
