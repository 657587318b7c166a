"""Required against given steel at the stations of strips."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Region, Row, RowId, Unchecked, checked, explained, uncovered
from piastra.core.combine.envelope import Factors, companion, governing_panels, with_constant
from piastra.core.reinforcement.stations import MOST, FaceSteel, responses_of
from piastra.core.reinforcement.through import Through
from piastra.core.reinforcement.worst import governing_signs, tension_of
from piastra.core.trace import Loaded, Step, Trace, Value

Ints = npt.NDArray[np.int64]

FACES: tuple[Literal["bottom", "top"], ...] = ("bottom", "top")
NO_BARS = "no mats are given; add mats to compare with, or let bars be designed"
NO_STATION = "no station of this strip lies on the floor, so its bars are not checked"


class Flexure:
    """Flexure with axial force, with everything else that asks for bars."""

    name = "flexure"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every strip, and the concrete that none runs through."""
        if context.standard.flexure is None or context.standard.minimum is None:
            return context.not_at_hand()
        if not context.ultimate:
            return Unchecked(NO_ULTIMATE)
        if context.steel is None:
            return Unchecked(NO_BARS)
        found = []
        use = context.steel.utilisation
        for k, mine in slab_strips(context):
            if len(mine):
                face, place = np.unravel_index(int(use[:, mine].argmax()), (2, len(mine)))
                found.append(steel_row(context, int(mine[place]), int(face)))
            else:
                found.append(without_station(self.name, context, k))
        found += [through_row(self.name, context, t) for t in _least_through(context)]
        found += tendons_through(self.name, context)
        return found + beside_strips(self.name, context) + context.doubtful_rows(self.name, context.strength)


def steel_row(context: Context, cut: int, face: int) -> Row:
    """Required over given steel at one station, in the ``face`` 0 (bottom) or 1 (top)."""
    assert context.steel is not None
    use = float(context.steel.utilisation[face, cut])
    own = context.steel.faces[face]
    asked = max(context.standard.provisions, key=lambda p: own.provisions[p.name][cut])
    named = _governing(context, own, cut, asked.name).combination
    return station_row(Flexure.name, context, cut, face, use, named, lambda: trace_of(context, cut, face))


def _least_through(context: Context) -> list[Through]:
    """Of each column that the standard means, the direction with the fewer bottom bars through it."""
    rule = context.standard.integrity
    if rule is None:
        return []
    least: dict[str, Through] = {}
    stressed = _stressed(context)
    for t in context.through:
        if (
            t.slab not in stressed
            and (t.inside or not rule.inside)
            and (t.column not in least or t.count < least[t.column].count)
        ):
            least[t.column] = t
    return list(least.values())


def _stressed(context: Context) -> set[int]:
    """Slabs with tendons whose integrity has rules of its own."""
    return {s.slab for s in context.arrangement.spread} if context.arrangement is not None else set()


def tendons_through(check: str, context: Context) -> list[Row]:
    """Tendons, or bars in their place, that run across the columns of slabs with tendons; of each column the direction that has less."""
    rules = context.standard.prestress.arrangement if context.standard.prestress is not None else None
    if context.arrangement is None or rules is None:
        return []
    floor, stressed = context.floor, _stressed(context)
    worst: dict[str, Row] = {}
    found = context.arrangement
    for t, strands, h in zip(context.through, found.strands.tolist(), found.thickness.tolist(), strict=True):
        if t.slab not in stressed:
            continue
        slab = floor.slabs[t.slab]
        concrete = next(c for c in floor.concretes if c.id == slab.concrete)
        rebar = next(r for r in floor.rebars if r.id == slab.rebar)
        # No less than the effective depth, so no less steel than is asked for.
        d = h - slab.cover_bottom_mm / 1e3
        instead = rules.bars_instead(concrete.strength_MPa, rebar.yield_MPa, t.width + 2 * rules.inset, d)
        assert instead.result is not None
        laid = Value("A_s", 1e6 * t.area * t.width, "steel", f"bottom bars along {t.direction} through the column")
        count, wanted = (
            Value("n", float(strands), meaning=f"strands along {t.direction} across the column"),
            Value("n_min", rules.strands),
        )
        by_tendons = rules.strands / strands if strands > 0 else MOST
        by_bars = instead.result.value / laid.value if laid.value > 0 else MOST
        use = min(by_tendons, by_bars, MOST)
        across = Step(
            "Tendons across the column",
            rules.clause,
            values=(count, wanted),
            note="Between its own bars and past its middle. Whether they pass under those across (8.7.5.6.2) is not looked at.",
        )
        if by_tendons <= by_bars:
            last = Step("Utilisation", "", "use = n_min / n", (wanted, count), Value("use", use)) if use < MOST else None
        else:
            last = Step("Utilisation", "", "use = A_s,min / A_s", (instead.result, laid), Value("use", use))
        last = last or Step(
            "Utilisation", values=(wanted, count), result=Value("use", use), note="Neither tendons nor bottom bars cross it."
        )
        steps = (across, *([instead] if by_bars < by_tendons or use > 1 else []), last)
        id = RowId(check, Ref("columns", t.column), part="integrity", face="bottom")
        row = checked(id, f"{t.direction}, tendons across {t.column}", use, t.at, Trace("", {}, (), steps))
        if t.column not in worst or (worst[t.column].utilisation or 0.0) < use:
            worst[t.column] = row
    return list(worst.values())


def through_row(check: str, context: Context, t: Through) -> Row:
    """Bottom bars that pass through a column."""
    rule = context.standard.integrity
    assert rule is not None
    use = min(rule.bars / t.count, MOST) if t.count > 0 else MOST
    count, wanted = Value("n", t.count, meaning="bottom bars over the column's width"), Value("n_min", rule.bars)
    steps = (
        Step("Bars through the column", "", "n = n_m · b_c", (
            Value("n_m", t.per_m, "per_m", f"bottom bars along {t.direction} by the metre"), Value("b_c", t.width, "size", "width that counts")), count),
        Step("Utilisation", rule.clause, "use = min(n_min / n, 99)", (wanted, count), Value("use", use)) if t.count > 0
        else Step("Utilisation", rule.clause, values=(wanted, count), result=Value("use", use), note="No bottom bar passes through."),
    )  # fmt: skip
    id = RowId(check, Ref("columns", t.column), part="integrity", face="bottom")
    return checked(id, f"bottom {t.direction}, bars through {t.column}", use, t.at, Trace("", {}, (), steps))


def slab_strips(context: Context) -> list[tuple[int, Ints]]:
    """Numbers of the strips that are no beams', each with those of its stations."""
    strip = context.cuts.strip
    order = np.argsort(strip, kind="stable")
    first = np.searchsorted(strip[order], np.arange(len(context.layout.strips) + 1))
    return [(k, order[first[k] : first[k + 1]]) for k, s in enumerate(context.layout.strips) if not s.beam]


def station_row(
    check: str, context: Context, cut: int, face: int, use: float, combination: str, explain: Callable[[], Trace]
) -> Row:
    """The row of a check at a station."""
    layout, cuts = context.layout, context.cuts
    strip = layout.strips[cuts.strip[cut]]
    s = float(cuts.s[cut])
    (x0, y0), (x1, y1) = cuts.ends[cut].tolist()
    id = RowId(check, Ref("strips", strip.id), face=FACES[face], station=round(s, 4))
    return explained(
        id, f"{FACES[face]} {strip.direction}, {strip.label}", use, ((x0 + x1) / 2, (y0 + y1) / 2), combination, explain
    )


def without_station(check: str, context: Context, k: int) -> Row:
    """The row of a strip that no station lies on."""
    strip = context.layout.strips[k]
    point = strip.outline.representative_point()
    return uncovered(RowId(check, Ref("strips", strip.id)), f"{strip.direction}, {strip.label}", NO_STATION, (point.x, point.y))


def beside_strips(check: str, context: Context) -> list[Row]:
    """Rows of the concrete that no station runs through."""
    rows = []
    for k, (direction, piece) in enumerate(context.layout.beside):
        x, y = piece.representative_point().coords[0]
        reason = f"no station for bars along {direction} runs through it"
        rows.append(uncovered(
            RowId(check, Ref("floor", ""), part=f"{direction}{k + 1}"), f"{piece.area:.1f} m² of bars along {direction}", reason,
            (float(x), float(y)), Region(piece, direction),
        ))  # fmt: skip
    return rows


def trace_of(context: Context, cut: int, face: int) -> Trace:
    """Why the utilisation of a station is what it is: design forces, all provisions with the governing one first, and what is
    given."""
    steel = context.steel
    assert steel is not None
    own = steel.faces[face]
    tendons = context.prestress.at.faces[face].steps(cut) if context.prestress else ()
    asked = sorted(context.standard.provisions, key=lambda p: -own.provisions[p.name][cut])
    factors = _governing(context, own, cut, asked[0].name)
    forces, panels = _design_forces(context, cut, face, own, asked[0].name)
    steps: list[Step] = []
    one = own.at.some(slice(cut, cut + 1))
    for k, p in enumerate(asked):
        area = float(own.provisions[p.name][cut])
        if area <= 0 and k:
            continue
        found = list(p.explain(one, area))
        if k == 0:
            found[-1] = replace(found[-1], note=f"{found[-1].note} This provision governs. {p.remedy}".strip())
        steps += found
    return Trace(factors.combination, context.factors_by_case(factors.combination), panels,
                 (_place(context, cut, face), *tendons, *forces, *steps, *_compared(context, cut, face, own)))  # fmt: skip


def _place(context: Context, cut: int, face: int) -> Step:
    cuts, strip = context.cuts, context.layout.strips[context.cuts.strip[cut]]
    assert context.steel is not None
    at = context.steel.faces[face].at
    share = 100 * (float(cuts.s[cut]) - strip.start) / (strip.end - strip.start)
    return Step("Strip and station", values=(
        Value("b", float(cuts.width[cut]), "length", "width of concrete in the strip"), Value("h", float(cuts.h[cut]), "size", "mean thickness"),
        Value("d", float(at.d[cut]), "size", f"effective depth of the {FACES[face]} bars")),
        note=f"{strip.label}, bars along {strip.direction}, {share:.0f} % of the clear span.")  # fmt: skip


def _governing(context: Context, own: FaceSteel, cut: int, provision: str) -> Factors:
    """The combination that a station's governing provision rests on: of its design situation, or else of the finished floor."""
    for a in context.situations:
        if a.situation is not None and a.situation.name == provision:
            return a.combinations[int(own.elsewhere[provision][cut])]
    return context.ultimate[int(own.combination[cut])]


def _design_forces(
    context: Context, cut: int, face: int, own: FaceSteel, provision: str
) -> tuple[tuple[Step, ...], tuple[Loaded, ...]]:
    """The design moment of the governing arrangement, and where pairs of several are bounded, the bound."""
    assert context.standard.flexure is not None
    factors = _governing(context, own, cut, provision)
    sign = 1.0 if face == 0 else -1.0
    at = own.at
    tendons = context.prestress.at.faces[face] if context.prestress else None
    one = responses_of(context.cuts, sign, at.d, slice(cut, cut + 1), tendons)
    if tendons is not None:
        factors = with_constant(factors)
    signs = governing_signs(one, at.d[cut : cut + 1], factors)
    tension = tension_of(one, at.d[cut : cut + 1], signs)
    panels = governing_panels(tension[0], factors, context.units, greatest=True)
    twist = (signs[0][:, None] * one.twist[0]).sum(axis=0)
    m, t, n = (float(companion(tension[0], a, factors, True)) for a in (one.moment[0], twist, one.axial[0]))
    own_pair = f"_{provision}" if provision in own.elsewhere else ""
    m_ed, n_ed = (float(getattr(at, f"{q}{own_pair}")[cut]) for q in ("m", "n"))
    d, h = Value("d", float(at.d[cut]), "size"), Value("h", float(at.h[cut]), "size")
    told = " and of the tendons" if tendons is not None and tendons.force[cut] > 0 else ""
    moment = Value("m", m, "moment_per_m", f"of the strip{told}, stretching this face")
    turned = Value("m_xy", t, "moment_per_m", "twisting moments of the quarters of the width, all adding")
    axial = Value("n", n, "force_per_m", "axial force, tension positive")
    here = m + t - n * (d.value - h.value / 2)
    steps = [
        Step("Design moment", "Wood and Armer 1968", "m_Ed = m + m_xy - n · (d - h / 2)", (moment, turned, axial, d, h),
             Value("m_Ed", here, "moment_per_m", "about the tension steel")),
    ]  # fmt: skip
    if abs(here - m_ed) > 1e-6 * max(abs(m_ed), 1.0) or abs(n - n_ed) > 1e-6 * max(abs(n_ed), 1.0):
        steps.append(
            Step("Bound of all arrangements", values=(Value("n", n_ed, "force_per_m", "axial force, tension positive"),),
                 result=Value("m_Ed", m_ed, "moment_per_m", "about the tension steel"),
                 note="Moment and force have their greatest under different arrangements; no arrangement needs more steel than this pair.")
        )  # fmt: skip
    return tuple(steps), panels


def _compared(context: Context, cut: int, face: int, own: FaceSteel) -> list[Step]:
    """Required over given, in this face and, where compression steel is asked for, in the other one; spacing over its limit."""
    steel = context.steel
    assert steel is not None

    def area(symbol: str, value: float, meaning: str = "") -> Value:
        return Value(symbol, 1e6 * value, "steel_per_m", meaning)

    band = float(own.in_band[cut])
    required = area("A_s,req", float(own.in_strip[cut]), "the greatest of the provisions")
    steps = [_use("Utilisation", "use = min(A_s,req / A_s,prov, 99)", required,
                  area("A_s,prov", float(steel.provided[face, cut]), "given in this face"))]  # fmt: skip
    if band > 0:
        steps.append(_use("Utilisation of the band", "use = min(A_s,band / A_s,prov, 99)", area("A_s,band", band),
                          area("A_s,prov", float(steel.in_band[face, cut]), "given in the band")))  # fmt: skip
    if own.compression[cut] > 0:
        steps.append(
            _use("Utilisation of the other face", "use = min(A_s2 / A_s2,prov, 99)", area("A_s2", float(own.compression[cut]), "compression steel"),
                 area("A_s2,prov", float(steel.provided[1 - face, cut]), "given in the other face"))
        )  # fmt: skip
    if own.over[cut] > 0:
        steps.append(Step("Moment over what the section may carry", result=Value("use", min(float(own.over[cut]), MOST)),
                          note="No amount of bars mends it; a thicker slab does."))  # fmt: skip
    if steel.spacing[face, cut] > 0:
        rules = context.standard.spacing
        assert rules is not None
        limit = rules.greatest(own.at.some(slice(cut, cut + 1)))
        s, most = Value("s", float(own.at.spacing[cut]), "size", "mean spacing of the bars"), float(limit.limit[0])
        steps += [*limit.steps(0), Step("Utilisation of the spacing", "", "use = min(s / s_max, 99)", (s, Value("s_max", most, "size")),
                                        Value("use", float(steel.spacing[face, cut])))]  # fmt: skip
    return steps


def _use(title: str, formula: str, required: Value, given: Value) -> Step:
    if given.value <= 0:
        return Step(
            title,
            values=(required, given),
            result=Value("use", MOST if required.value > 0 else 0.0),
            note="Nothing is given there.",
        )
    use = Value("use", min(required.value / given.value, MOST))
    return Step(title, "", formula, (required, given), use)
