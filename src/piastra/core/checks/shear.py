"""One-way shear."""

from __future__ import annotations

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.flexure import NO_BARS
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.model import Floor
from piastra.core.shear.links import steps_of
from piastra.core.shear.shear import ShearUse, Unresolved, thickness_for
from piastra.core.trace import Step, Trace, Value
from piastra.core.trace.amounts import amount, spot

NO_LINE = "no line beside it lies on the floor and clear of columns, so that shear there is not checked"


def _carrying(floor: Floor) -> dict[tuple[str, str], tuple[float, float]]:
    """Walls, lines of support and beams that a slab may rest on, each with the middle of its ends (m)."""
    found = {("walls", w.id): w.line for w in floor.walls if w.below is not None}
    found |= {("supports", s.id): s.line for s in floor.supports if s.kind == "line" and s.vertical not in ("free", 0.0)}
    found |= {("beams", b.id): b.line for b in floor.beams}
    return {of: ((l[0][0] + l[-1][0]) / 2, (l[0][1] + l[-1][1]) / 2) for of, l in found.items()}


def _unresolved(piece: Unresolved) -> str:
    """What is to be done where elements are too large for a piece."""
    v, most, resistance = (amount(float(f"{x:.3g}"), "force_per_m") for x in (piece.v, piece.most, piece.resistance))
    bound = resistance if piece.v <= piece.resistance else "what the links there carry"
    if piece.large:
        return (
            f"shear at {spot(*piece.at)} is {v} on average, in elements that are too large for the slab's depth to tell whether it grows beyond "
            f"{bound}; a finer mesh there does"
        )
    if piece.narrow:
        return (
            f"shear at {spot(*piece.at)} is {v} on average, as elements tell it in concrete that is one or two of them wide; there it may be as much as "
            f"{most}, beyond {bound}; a finer mesh there tells whether it passes"
        )
    return (
        f"shear at {spot(*piece.at)} is {v} on average but grows to {most} within an element, beyond {bound}; "
        "a finer mesh there tells whether it passes"
    )


def _label(of: tuple[str, str]) -> str:
    return f"step of {of[1]}" if of[0] == "slabs" else of[1]


class Shear:
    """Shear of the slab along what carries it on a line."""

    name = "shear"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst piece beside every wall, line of support, beam and thick region; None where there are none of these."""
        if context.standard.shear is None:
            return context.not_at_hand()
        if context.shear is None:
            return Unchecked(NO_ULTIMATE)
        carrying = _carrying(context.floor)
        if not context.shear and not carrying:
            return None
        if context.steel is None:
            return Unchecked(NO_BARS)
        rows = [
            checked(RowId(self.name, Ref(*u.of)), _label(u.of), u.utilisation, u.at, self._trace(context, u)) for u in context.shear
        ]  # fmt: skip
        done = {u.of for u in context.shear}
        rows += [uncovered(RowId(self.name, Ref(*of)), of[1], NO_LINE, at) for of, at in carrying.items() if of not in done]
        for u in context.shear:
            # What the concrete does not carry fails without links, whatever more there may be.
            doubtful = [p for p in u.unresolved if u.links is not None or p.v <= p.resistance]
            rows += [
                uncovered(RowId(self.name, Ref(*u.of), part=f"mesh {k}"), _label(u.of), _unresolved(piece), piece.at)
                for k, piece in enumerate(doubtful, 1)
            ]
        return rows + context.doubtful_rows(self.name, context.strength)

    def _trace(self, context: Context, u: ShearUse) -> Trace:
        rules = (u.situation.standard if u.situation else context.standard).shear
        assert rules is not None
        v = Value("v_Ed", u.v, "force_per_m", "mean over a width of 2d, in the direction of its resultant")
        found = rules.steps(u.place, 0)
        resistance = Value("v_Rd,c", u.resistance, "force_per_m")
        note = thickness_for(rules, u.place, u.v) if u.bare > 1 and u.links is None else ""
        steps = (
            Step("Place", values=(v, Value("h", float(u.place.h[0]), "size"), Value("d", float(u.place.d[0]), "size")),
                 note="At the effective depth from the face of what carries the slab; "
                 f"the moment there stretches the {('bottom', 'top')[u.face]} bars, whose depth and ratio count."),
            *context.strength_then(u.situation, u.place.concrete), *found,
            Step("Utilisation", "", "use = min(v_Ed / v_Rd,c, 99)", (v, resistance), Value("use", u.bare), note=note) if u.resistance > 0
            else Step("Utilisation", values=(v, resistance), result=Value("use", u.bare),
                      note=f"Tension leaves the concrete no strength. {note}".strip()),
        )  # fmt: skip
        beams = (u.situation.standard if u.situation else context.standard).beams
        if u.links is not None and beams is not None:
            steps = (*steps, *steps_of(u.links, beams, rules.links, u.v, u.place, u.thinnest or u.place))
        return Trace(u.combination, context.factors_by_case(u.combination), u.panels, steps)
