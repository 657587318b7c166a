"""Punching: the zones, and what presses on a small area without one."""

from __future__ import annotations

from functools import partial

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, explained, uncovered
from piastra.core.punching.sources import anything_presses
from piastra.core.punching.zones import Zone
from piastra.core.trace import Trace


class Punching:
    """Punching."""

    name = "punching"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Every perimeter of everything that presses, and what no zone checks."""
        if not anything_presses(context.floor):
            return None
        if context.standard.punching is None:
            return context.not_at_hand()
        if not context.ultimate or context.zones is None:
            return Unchecked(NO_ULTIMATE)
        rows = []
        for z in context.zones.zones:
            rows.append(explained(zone_row(z), label_of(z), z.utilisation, z.at, z.combination, partial(self._trace, context, z)))
        rows += [uncovered(RowId(self.name, Ref(u.list, u.id), part=u.part), u.id, u.reason, u.at) for u in context.zones.without]
        return rows + context.doubtful_rows(self.name, context.strength)

    def _trace(self, context: Context, z: Zone) -> Trace:
        steps = (*context.strength_then(z.situation, z.place.check.shape.concrete), *z.steps())
        return Trace(z.combination, context.factors_by_case(z.combination), z.panels, steps)


def zone_row(z: Zone) -> RowId:
    """The identity of a zone's row."""
    return RowId("punching", Ref(z.source.list, z.source.id), part=z.place.outline.part)


def label_of(z: Zone) -> str:
    """How a zone is called: by what presses, all of it where several stand on one thickening."""
    return ", ".join(s.id for s in z.place.outline.sources)
