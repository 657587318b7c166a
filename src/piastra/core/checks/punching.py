"""Punching: the zones, and what presses on a small area without one."""

from __future__ import annotations

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.punching.sources import anything_presses
from piastra.core.punching.zones import Zone
from piastra.core.trace import Trace


class Punching:
    """Punching."""

    name = "punching"

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
            trace = Trace(
                z.combination,
                context.factors_by_case(z.combination),
                z.panels,
                (*context.strength_then(z.situation, z.place.check.shape.concrete), *z.steps()),
            )
            rows.append(checked(zone_row(z), label_of(z), z.utilisation, z.at, trace))
        rows += [uncovered(RowId(self.name, Ref(u.list, u.id), part=u.part), u.id, u.reason, u.at) for u in context.zones.without]
        return rows + context.doubtful_rows(self.name, context.strength)


def zone_row(z: Zone) -> RowId:
    """The identity of a zone's row."""
    return RowId("punching", Ref(z.source.list, z.source.id), part=z.place.outline.part)


def label_of(z: Zone) -> str:
    """How a zone is called: by what presses, all of it where several stand on one thickening."""
    return ", ".join(s.id for s in z.place.outline.sources)
