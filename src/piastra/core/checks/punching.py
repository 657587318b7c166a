"""Punching: the zones, and what presses on a small area without one."""

from __future__ import annotations

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.geometry.arcs import polygon
from piastra.core.model import Floor
from piastra.core.trace import Trace

NOT_YET = "is not checked for punching yet"
SMALL = 1.0
"""A load on an area below this (m2) presses like a foot."""


class Punching:
    """Punching."""

    name = "punching"

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Every perimeter of every column; columns, walls, point supports and loads that no zone checks."""
        pressing = _pressing(context.floor)
        if not pressing:
            return None
        if context.standard.punching is None:
            return context.not_at_hand()
        if not context.ultimate or context.zones is None:
            return Unchecked(NO_ULTIMATE)
        rows = []
        for z in context.zones.zones:
            id = RowId(self.name, Ref("columns", z.column), part=z.place.outline.around)
            trace = Trace(z.combination, context.factors_by_case(z.combination), z.panels, z.place.check.steps(z.action))
            rows.append(checked(id, z.column, z.utilisation, z.at, trace))
        done = {z.column for z in context.zones.zones}
        why = {u.column: u.reason for u in context.zones.without if u.around == "column"}
        for u in context.zones.without:
            if u.around != "column" or u.column in done:
                id = RowId(self.name, Ref("columns", u.column), part=u.around)
                rows.append(uncovered(id, u.column, u.reason, u.at))
        for of, at in pressing:
            if of.kind != "columns" or of.id not in done:
                rows.append(uncovered(RowId(self.name, of), of.id, why.get(of.id, NOT_YET), at))
        return rows + context.doubtful_rows(self.name, context.ultimate)


def _pressing(floor: Floor) -> list[tuple[Ref, tuple[float, float]]]:
    """What holds or presses the floor on a small area, with its place (m)."""
    loaded = {l.support for l in floor.loads if l.kind == "joint"}
    found: list[tuple[Ref, tuple[float, float]]] = []
    for c in floor.columns:
        if c.below is not None or c.id in loaded:
            found.append((Ref("columns", c.id), (c.at[0], c.at[1])))
    for w in floor.walls:
        if w.below is not None or w.id in loaded:
            (x0, y0), (x1, y1) = w.line[0][:2], w.line[-1][:2]
            found.append((Ref("walls", w.id), ((x0 + x1) / 2, (y0 + y1) / 2)))
    for s in floor.supports:
        if s.kind == "point" and s.vertical not in ("free", 0.0):
            found.append((Ref("supports", s.id), (s.at[0], s.at[1])))
    for l in floor.loads:
        if l.kind == "point" and l.F_kN:
            found.append((Ref("loads", l.id), (l.at[0], l.at[1])))
        if l.kind == "area" and l.outline is not None and (shape := polygon(l.outline)).area < SMALL:
            found.append((Ref("loads", l.id), (shape.centroid.x, shape.centroid.y)))
    return found
