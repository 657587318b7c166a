"""Sag between supports: over the history of the floor, or by the quick estimate under lasting load, against the limits."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from piastra.core.checks.check import Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.deflection.lived import Life, LivedSag, direction_of, shared_out
from piastra.core.deflection.sag import FRACTIONS, Line, Sag
from piastra.core.history.body import BARE, PARTS, Body
from piastra.core.history.estimate import Estimate
from piastra.core.mesh.locate import Elements, find
from piastra.core.trace import Step, Trace, Value
from piastra.core.trace.amounts import spot

NO_BARS = "sections crack under lasting load and no bars are given, so how far they bend then is not known; add mats or let bars be designed"


class Deflection:
    """Long-term deflection."""

    name = "deflection"
    lasting = True

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """Every line between supports and every overhang."""
        if context.standard.time is None or context.standard.ageing is None:
            return context.not_at_hand()
        if context.life is not None:
            return self._lived(context, context.life)
        if not context.lasting:
            return Unchecked("there is no quasi-permanent or sustained combination; add one")
        if not context.sags:
            return Unchecked("no span between supports was found")
        return self._estimated(context) + context.doubtful_rows(self.name, context.lasting)

    def _estimated(self, context: Context) -> list[Row]:
        found, body = context.estimate, context.body
        assert found is not None
        assert body is not None
        rows = [self._row(context, sag) for sag in context.sags]
        if not found.rests:
            told = f"still moves by {100 * found.change:.0f} % from one solution to the next; begin a history, which is followed until it rests"
            rows.append(uncovered(RowId(self.name, Ref("floor", ""), part="estimate"), "the quick estimate", told))
        if found.lost.any():
            rows.append(self._lost(context, int(found.lost.argmax())))
        if found.bare.any() and not body.bare.all():
            rows.append(self._bare(context, found.bare))
        if found.cracked.any() and body.bare.all():
            worst = found.worst.max(axis=0).argmax()
            told = f"{NO_BARS} (tension is {found.worst.max():.2f} times the strength)"
            x, y = context.centres[worst]
            rows.append(
                uncovered(RowId(self.name, Ref("floor", "")), "cracked sections without bars", told, (float(x), float(y)))
            )
        return rows

    def _bare(self, context: Context, where: npt.NDArray[np.bool_]) -> Row:
        """Sections (e,) that crack in a face without bars."""
        x, y = context.centres[int(where.argmax())]
        told = (
            f"crack at {int(where.sum())} elements in a face without bars, the first near {spot(x, y)}, where {100 * BARE:g} % of steel is "
            "assumed; lay bars there"
        )
        return uncovered(
            RowId(self.name, Ref("floor", ""), part="bare"), "cracked sections without bars", told, (float(x), float(y))
        )

    def _lost(self, context: Context, element: int) -> Row:
        """A cracked section without equilibrium."""
        x, y = context.centres[element]
        told = f"find no equilibrium, the first near {spot(x, y)}; lay more bars there or make the slab thicker"
        return uncovered(RowId(self.name, Ref("floor", ""), part="lost"), "cracked sections", told, (float(x), float(y)))

    def _row(self, context: Context, sag: Sag) -> Row:
        id = RowId(self.name, Ref("lines", sag.line.id))
        trace = Trace(sag.combination, context.factors_by_case(sag.combination), sag.panels, self._steps(context, sag))
        return checked(id, sag.line.label, sag.utilisation, sag.at, trace)

    def _steps(self, context: Context, sag: Sag) -> tuple[Step, ...]:
        time, line, floor, found, body = context.standard.time, sag.line, context.floor, context.estimate, context.body
        assert time is not None
        assert found is not None
        assert body is not None
        used = {s.concrete for s in floor.slabs}
        model = [s for c in floor.concretes if c.id in used for s in time.steps(c, context.standard.materials.modulus(c))]
        assert context.elements is not None
        here = find(context.elements, line.ends[0] + FRACTIONS[:, None] * (line.ends[1] - line.ends[0]), within=0.05)
        over = Value("n", floor.deflection.span_over, meaning="span over deflection")
        worst = Value(
            "r",
            float(found.worst[:, here[here >= 0]].max(initial=0.0)),
            meaning="greatest tension over the tensile strength along the line",
        )
        return (
            *model,
            Step("Cracking", "EN 1992-1-1, 7.4.3 (3) (7.19)", values=(worst,),
                 note="Sections beyond one are interpolated between uncracked and cracked with half of the tension stiffening gone (beta = 0.5)."),
            _parts_step(estimated_parts(context.elements, found, body, sag)),
            _sag_step(line, sag.sag, sag.w_at, sag.fraction, "A quick estimate: curvatures interpolated once, the load that lasts applied at once. "
                 "A history of stages gives the rigorous value."),
            *_limit_use(time.limit_clause, line, sag.sag, sag.limit, over, sag.utilisation),
        )  # fmt: skip

    def _lived(self, context: Context, life: Life) -> list[Row] | Unchecked:
        if not life.sags:
            return Unchecked("no span between supports was found")
        rows = [self._lived_row(context, life, sag) for sag in life.sags]
        for lived in life.stages:
            for report in (r for r in lived.reports if not r.converged):
                x, y = context.centres[report.where]
                assert context.floor.history is not None
                stage = context.floor.history.stages[report.step.stage].id
                told = (
                    f"did not come to rest at day {report.step.ends:.0f} of stage {stage} in {report.rounds} rounds: "
                    f"{100 * report.unbalanced:.1f} % of the load is out of balance, most near {spot(x, y)}"
                )
                id = RowId(self.name, Ref("floor", ""), part=f"{stage} {report.step.ends:.2f}")
                rows.append(uncovered(id, f"stage {stage}", told, (float(x), float(y))))
        body = context.body
        assert body is not None
        bare = np.zeros(len(body.h), dtype=bool)
        for lived in life.stages:
            bottom = lived.state.now[0][..., 1] > 0
            bare |= (lived.state.cracked & np.where(bottom, body.bare[0], body.bare[1])).any(axis=0)
        if bare.any():
            rows.append(self._bare(context, bare))
        names = {s.combination for s in context.floor.history.stages} if context.floor.history else set()
        known = (*context.all_service, *context.strength, *context.transfer)
        return rows + context.doubtful_rows(self.name, [f for f in known if f.combination in names])

    def _lived_row(self, context: Context, life: Life, sag: LivedSag) -> Row:
        history, body, rules = context.floor.history, context.body, context.standard.ageing
        assert history is not None
        assert body is not None
        assert rules is not None
        number = [s.id for s in history.stages].index(sag.ends)
        combination = history.stages[number].combination
        line = sag.line
        since = f"after the load of stage {sag.begins}" if sag.begins else "from the beginning"
        until = f"to day {history.until(number):.0f}"
        assert context.elements is not None
        here = find(context.elements, line.ends[0] + FRACTIONS[:, None] * (line.ends[1] - line.ends[0]), within=0.05)
        worst = life.stages[number].state.worst[:, here[here >= 0]].max(initial=0.0)
        band = Step("Band", "one property at a time, first order", values=(
            Value("low", 1e3 * sag.band[0], "deflection", "nine of ten floors of the kind deflect more"),
            Value("high", 1e3 * sag.band[1], "deflection", "nine of ten deflect less"),
            Value("p", 100 * sag.chance, meaning="per cent chance that the limit is passed"),
            *(Value(f"d_{k + 1}", 1e3 * d, "deflection", f"by one standard deviation of {CAUSES[name]}") for k, (name, d) in enumerate(sag.causes))),
            note=f"What scatters most is {CAUSES[sag.causes[0][0]]}." if sag.causes else "")  # fmt: skip
        n = life.stages[number].state.forces[sag.element, :2]
        c2 = np.cos(direction_of(line) - body.angle[sag.element]) ** 2
        axial = Value(
            "n",
            float(c2 * n[0] + (1 - c2) * n[1]),
            "force_per_m",
            "tension along the line, of shrinkage that is held back, or of tendons",
        )
        steps = (
            Step("Stage", rules.clause, values=(
                Value("r", float(worst), meaning="greatest tension over the tensile strength along the line so far"), axial),
                note=f"The deflection {since} {until}; combination {combination} lasts then, with all panels loaded."),
            _parts_step(sag.parts),
            _sag_step(line, sag.sag, sag.w_at, sag.fraction, "Of creep of every stress increment, shrinkage and remembered cracks, in equilibrium at every step."),
            *_limit_use(context.standard.time.limit_clause if context.standard.time else "", line, sag.sag, sag.limit,
                      Value("n", line.span / sag.limit, meaning="span over deflection"), sag.utilisation),
            band,
        )  # fmt: skip
        trace = Trace(combination, context.factors_by_case(combination), (), steps)
        id = RowId(self.name, Ref("lines", line.id), part=sag.limit_id)
        return checked(id, f"{line.label}, {sag.limit_id}", sag.utilisation, sag.at, trace)


CAUSES = {"modulus": "the modulus", "tension": "the tensile strength", "creep": "creep", "shrinkage": "shrinkage"}


def estimated_parts(elements: Elements, found: Estimate, body: Body, sag: Sag) -> tuple[float, ...]:
    """What an estimated sag (m) is made of."""
    line = sag.line
    xy = line.ends[0] + FRACTIONS[:, None] * (line.ends[1] - line.ends[0])
    k = int(np.abs(FRACTIONS - sag.fraction).argmin())
    return shared_out(sag.sag, found.parts, body, line, find(elements, xy, within=0.05), k)


def _parts_step(parts: Sequence[float]) -> Step:
    """What a sag is made of, and which part is the greatest."""
    named = dict(zip(PARTS, parts, strict=True))
    meaning = {"load": "of the load at once, uncracked", "shrinkage": "of shrinkage that bars hold on one side",
               "creep": "of creep, uncracked", "cracking": "of cracking"}  # fmt: skip
    greatest = max(named, key=lambda n: named[n])
    values = tuple(Value(f"delta_{k}", 1e3 * v, "deflection", meaning[k]) for k, v in named.items())
    return Step("What the deflection is made of", "EN 1992-1-1, 7.4.3 (3) (7.18)",
                "delta = delta_load + delta_shrinkage + delta_creep + delta_cracking", values,
                Value("delta", 1e3 * sum(parts), "deflection"), note=f"By virtual work of the curvatures along the line. Most of it is {greatest}. {MENDS[greatest]}")  # fmt: skip


MENDS = {
    "load": "A thicker slab or a shorter span lessens it.",
    "shrinkage": "Bars in the compressed face, or drier curing and less cement, lessen it.",
    "creep": "A later load or props left longer lessen it, and a stronger concrete.",
    "cracking": "More bottom bars, a thicker slab or a stronger concrete lessen it.",
}


def _sag_step(line: Line, sag: float, w_at: float, fraction: float, note: str) -> Step:
    base = "the slab at the line of supports" if line.cantilever else "the straight line between the supports"
    return Step("Deflection between supports", "", "delta = w - w_0", (
        Value("w", 1e3 * w_at, "deflection", f"at {100 * fraction:.0f} % of the line"),
        Value("w_0", 1e3 * (w_at - sag), "deflection", f"of {base}")), Value("delta", 1e3 * sag, "deflection"), note=note)  # fmt: skip


def _limit_use(clause: str, line: Line, sag: float, limit: float, over: Value, use: float) -> tuple[Step, Step]:
    found, most = Value("delta", 1e3 * sag, "deflection"), Value("limit", 1e3 * limit, "deflection")
    length = Value("L", line.span, "length", "twice the overhang" if line.cantilever else "span")
    return (
        Step("Limit", clause, "limit = L / n", (length, over), most),
        Step("Utilisation", "", "use = max(delta, 0) / limit", (found, most), Value("use", use)),
    )
