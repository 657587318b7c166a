"""One-way shear."""

from __future__ import annotations

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.flexure import NO_BARS
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked
from piastra.core.shear.shear import ShearUse, thickness_for
from piastra.core.trace import Step, Trace, Value


class Shear:
    """Shear of the slab along what carries it on a line."""

    name = "shear"

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst piece beside every wall, line of support, beam and thick region; None where there are none of these."""
        if context.standard.shear is None:
            return context.not_at_hand()
        if context.shear is None:
            return Unchecked(NO_ULTIMATE)
        if not context.shear:
            return None
        if context.steel is None:
            return Unchecked(NO_BARS)
        rows = [
            checked(RowId(self.name, Ref(*u.of)), u.of[1], u.utilisation, u.at, self._trace(context, u)) for u in context.shear
        ]  # fmt: skip
        return rows + context.doubtful_rows(self.name, context.ultimate)

    def _trace(self, context: Context, u: ShearUse) -> Trace:
        rules = context.standard.shear
        assert rules is not None
        v = Value("v_Ed", u.v, "force_per_m", "mean over a width of 2d, in the direction of its resultant")
        found = rules.steps(u.place, 0)
        resistance = Value("v_Rd,c", u.resistance, "force_per_m")
        note = thickness_for(rules, u.place, u.v) if u.utilisation > 1 else ""
        steps = (
            Step("Place", values=(v, Value("h", float(u.place.h[0]), "size"), Value("d", float(u.place.d[0]), "size")),
                 note="At the effective depth from the face of what carries the slab."),
            *found,
            Step("Utilisation", "", "use = min(v_Ed / v_Rd,c, 99)", (v, resistance), Value("use", u.utilisation), note=note),
        )  # fmt: skip
        return Trace(u.combination, context.factors_by_case(u.combination), u.panels, steps)
