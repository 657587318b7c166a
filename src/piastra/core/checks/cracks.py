"""Control of cracks in service at the stations of strips."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from piastra.core.checks.beams import rows_in_service
from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.flexure import NO_BARS, beside_strips, slab_strips, station_row, without_station
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, uncovered
from piastra.core.standards.provision import CrackUse
from piastra.core.trace import Trace

Ints = npt.NDArray[np.int64]
BONDED = "with bonded tendons cracks are limited under the frequent combination as well, which is not checked yet"


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
        rows = []
        for k in slab_strips(context):
            mine = np.flatnonzero(context.cuts.strip == k)
            if len(mine):
                face, place = np.unravel_index(int(use[:, mine].argmax()), (2, len(mine)))
                rows.append(self._row(context, int(mine[place]), int(face), float(use[face, mine[place]])))
            else:
                rows.append(without_station(self.name, context, k))
        rows += self._of_beams(context)
        if context.prestress is not None and context.standard.cracking.bonded_apart:
            rows += [
                uncovered(RowId(self.name, Ref("tendons", t.id)), t.id, BONDED, (t.line[0][0], t.line[0][1]))
                for t in context.floor.tendons
                if any(s.id == t.strand and s.bond == "bonded" for s in context.floor.strands)
            ][:1]
        return rows + beside_strips(self.name, context) + context.doubtful_rows(self.name, context.service)

    def _of_beams(self, context: Context) -> list[Row]:
        rules, design = context.standard.cracking, context.beams
        assert rules is not None
        uses: list[tuple[int, CrackUse, Ints]] = []
        if design is None:
            return rows_in_service(self.name, context, context.service, uses)
        for face in (0, 1):
            at, chosen = design.served(context.cuts, face, context.service)
            uses.append((face, rules.check(at), chosen))
        return rows_in_service(self.name, context, context.service, uses)

    def _row(self, context: Context, cut: int, face: int, use: float) -> Row:
        assert context.steel is not None
        assert context.standard.cracking is not None
        own = context.steel.faces[face]
        factors = context.service[int(own.crack_combination[cut])]
        rules, name = context.standard.cracking, factors.combination

        def explain() -> Trace:
            return Trace(name, context.factors_by_case(name), (), rules.check(own.at.some(slice(cut, cut + 1))).steps(0))

        return station_row(self.name, context, cut, face, use, name, explain)
