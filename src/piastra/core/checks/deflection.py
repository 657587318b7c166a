"""Sag between supports under lasting load, against the limit."""

from __future__ import annotations

from piastra.core.checks.check import Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked
from piastra.core.deflection.sag import Sag
from piastra.core.trace import Step, Trace, Value


class Deflection:
    """Long-term deflection."""

    name = "deflection"

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Every line between supports and every overhang."""
        if context.standard.time is None:
            return context.not_at_hand()
        if not context.lasting:
            return Unchecked("there is no quasi-permanent or sustained combination; add one")
        if not context.sags:
            return Unchecked("no span between supports was found")
        return [self._row(context, sag) for sag in context.sags] + context.doubtful_rows(self.name, context.lasting)

    def _row(self, context: Context, sag: Sag) -> Row:
        id = RowId(self.name, Ref("lines", sag.line.id))
        trace = Trace(sag.combination, context.factors_by_case(sag.combination), sag.panels, self._steps(context, sag))
        return checked(id, sag.line.label, sag.utilisation, sag.at, trace)

    def _steps(self, context: Context, sag: Sag) -> tuple[Step, ...]:
        time, line, floor = context.standard.time, sag.line, context.floor
        assert time is not None
        used = {s.concrete for s in floor.slabs}
        model = [s for c in floor.concretes if c.id in used for s in time.steps(c, context.standard.materials.modulus(c))]
        base = "the slab at the line of supports" if line.cantilever else "the straight line between the supports"
        found = Value("sag", 1e3 * sag.sag, "deflection")
        length = Value("L", line.span, "length", "twice the overhang" if line.cantilever else "span")
        limit, over = (
            Value("limit", 1e3 * sag.limit, "deflection"),
            Value("n", floor.deflection.span_over, meaning="span over sag"),
        )
        return (
            *model,
            Step("Sag", "", "sag = w - w_0", (
                Value("w", 1e3 * sag.w_at, "deflection", f"at {100 * sag.fraction:.0f} % of the line"),
                Value("w_0", 1e3 * (sag.w_at - sag.sag), "deflection", f"of {base}")), found,
                note="Uncracked sections; cracking and load history are not in this value."),
            Step("Limit", time.limit_clause, "limit = L / n", (length, over), limit),
            Step("Utilisation", "", "use = max(sag, 0) / limit", (found, limit), Value("use", sag.utilisation)),
        )  # fmt: skip
