"""Required against given steel at the stations of strips."""

from __future__ import annotations

from typing import Literal

import numpy as np

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Region, Row, RowId, Unchecked, checked, uncovered
from piastra.core.combine.envelope import companion, envelope, governing_panels
from piastra.core.standards.protocol import Sections
from piastra.core.trace import Step, Trace, Value

FACES: tuple[Literal["bottom", "top"], ...] = ("bottom", "top")
NO_STATION = "no station of this strip lies on the floor, so its bars are not checked"


class Flexure:
    """Flexure with axial force."""

    name = "flexure"

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every strip, and the concrete that lies in no strip."""
        if context.standard.flexure is None or context.standard.minimum is None:
            return context.not_at_hand()
        if not context.ultimate:
            return Unchecked(NO_ULTIMATE)
        if not context.floor.mats or context.steel is None:
            return Unchecked("no mats are given; add mats to compare with")
        found = []
        use = context.steel.utilisation
        for k in range(len(context.layout.strips)):
            mine = np.flatnonzero(context.cuts.strip == k)
            if len(mine):
                face, place = np.unravel_index(int(use[:, mine].argmax()), (2, len(mine)))
                found.append(self._row(context, int(mine[place]), int(face)))
            else:
                strip = context.layout.strips[k]
                axis, middle = context.layout.axes[strip.axis], (strip.left + strip.right) / 2
                x, y = axis.point((strip.start + strip.end) / 2, middle)
                id = RowId(self.name, Ref("strips", strip.id))
                found.append(uncovered(id, f"{strip.direction}, {strip.label}", NO_STATION, (float(x), float(y))))
        return found + self._beside_strips(context) + context.doubtful_rows(self.name, context.ultimate)

    def _row(self, context: Context, cut: int, face: int) -> Row:
        layout, cuts, steel = context.layout, context.cuts, context.steel
        assert steel is not None
        strip = layout.strips[cuts.strip[cut]]
        s = float(cuts.s[cut])
        x, y = layout.axes[strip.axis].point(s, (strip.left + strip.right) / 2)
        id = RowId(self.name, Ref("strips", strip.id), face=FACES[face], station=round(s, 4))
        label = f"{FACES[face]} {strip.direction}, {strip.label}"
        return checked(id, label, float(steel.utilisation[face, cut]), (float(x), float(y)), self._trace(context, cut, face))

    def _trace(self, context: Context, cut: int, face: int) -> Trace:
        layout, cuts, steel = context.layout, context.cuts, context.steel
        flexure, minimum = context.standard.flexure, context.standard.minimum
        assert steel is not None
        assert flexure is not None
        assert minimum is not None
        strip, demand = layout.strips[cuts.strip[cut]], steel.demand[face]
        factors = context.ultimate[int(demand.combination[cut])]
        b, d, h = float(cuts.width[cut]), float(steel.d[face, cut]), float(cuts.h[cut])
        sign = 1.0 if face == 0 else -1.0
        per_metre = cuts.forces[cut] / b
        best = (-np.inf, 1.0)
        for twist in (1.0, -1.0):
            functional = sign * per_metre[0] + twist * per_metre[1] - per_metre[3] * (d - h / 2)
            best = max(best, (float(envelope(functional, factors)[1]), twist))
        twist = best[1]
        functional = sign * per_metre[0] + twist * per_metre[1] - per_metre[3] * (d - h / 2)
        panels = governing_panels(functional, factors, context.units, greatest=True)
        m, t, n = (
            float(companion(functional, a, factors, True)) for a in (sign * per_metre[0], twist * per_metre[1], per_metre[3])
        )
        m_ed = Value("m_Ed", float(demand.m[cut]), "moment_per_m", "about the tension steel")
        one = slice(cut, cut + 1)
        sections = Sections(cuts.h[one], steel.d[face, one], steel.d2[face, one], *steel.materials[steel.kind[cut]])
        at = 100 * (float(cuts.s[cut]) - strip.start) / (strip.end - strip.start)
        steps = [
            Step("Strip and station", values=(
                Value("b", b, "length", "width of concrete in the strip"), Value("h", h, "size", "mean thickness"),
                Value("d", d, "size", f"effective depth of the {FACES[face]} bars")),
                note=f"{strip.label}, bars along {strip.direction}, {at:.0f} % of the clear span."),
            Step("Design moment", "Wood and Armer 1968", "m_Ed = m + m_xy - n · (d - h / 2)", (
                Value("m", m, "moment_per_m", "of the strip, stretching this face"),
                Value("m_xy", t, "moment_per_m", "twisting moment, in its adverse sign"),
                Value("n", n, "force_per_m", "axial force, tension positive"), Value("d", d, "size"), Value("h", h, "size")), m_ed),
            *flexure.design(demand.m[one], demand.n[one], sections).steps(0),
            *minimum.least(demand.m[one], sections).steps(0),
            *self._compared(float(demand.strength[cut]), float(demand.least[cut]), float(demand.compression[cut]),
                            float(steel.provided[face, cut]), float(steel.provided[1 - face, cut])),
        ]  # fmt: skip
        return Trace(factors.combination, context.factors_by_case(factors.combination), panels, tuple(steps))

    def _compared(self, strength: float, least: float, compression: float, given: float, other: float) -> list[Step]:
        """Required over given, in this face and, where compression steel is asked for, in the other one."""

        def area(symbol: str, value: float, meaning: str = "") -> Value:
            return Value(symbol, 1e6 * value, "steel_per_m", meaning)

        required = area("A_s,req", max(strength, least))
        steps = [
            Step("Required", "", "A_s,req = max(A_s, A_s,min)", (area("A_s", strength), area("A_s,min", least)), required),
            self._use(
                "Utilisation", "use = min(A_s,req / A_s,prov, 99)", required, area("A_s,prov", given, "given in this face")
            ),
        ]
        if compression > 0:
            here = area("A_s2", compression, "compression steel")
            steps.append(
                self._use("Utilisation of the other face", "use = min(A_s2 / A_s2,prov, 99)", here,
                          area("A_s2,prov", other, "given in the other face"))
            )  # fmt: skip
        return steps

    def _use(self, title: str, formula: str, required: Value, given: Value) -> Step:
        if given.value <= 0:
            return Step(title, values=(required, given), result=Value("use", 99.0), note="Nothing is given there; told as 99.")
        use = Value("use", min(required.value / given.value, 99.0))
        return Step(title, "", formula, (required, given), use)

    def _beside_strips(self, context: Context) -> list[Row]:
        rows = []
        for k, (direction, piece) in enumerate(context.layout.beside):
            x, y = piece.representative_point().coords[0]
            reason = f"lies in no strip of bars along {direction}"
            rows.append(uncovered(
                RowId(self.name, Ref("floor", ""), part=f"{direction}{k + 1}"), f"{piece.area:.1f} m² of bars along {direction}", reason,
                (float(x), float(y)), Region(piece, direction),
            ))  # fmt: skip
        return rows
