"""Beams: flexure over the whole section, shear and torsion, and whether their bars fit."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from piastra.core.beams.curtailment import Laid
from piastra.core.beams.design import BeamDesign, station_forces
from piastra.core.beams.laying import MOST
from piastra.core.checks.check import NO_ULTIMATE, Context
from piastra.core.checks.row import Ref, Row, RowId, Unchecked, checked, uncovered
from piastra.core.combine.envelope import Factors
from piastra.core.model.members import Beam
from piastra.core.standards.beam_rules import Webs
from piastra.core.standards.provision import CrackUse
from piastra.core.strips.cuts import Cuts
from piastra.core.strips.layout import Layout
from piastra.core.trace import Step, Trace, Value

Ints = npt.NDArray[np.int64]
FACES = ("bottom", "top")
NOT_DESIGNED = "no station of it lies on the floor, so that it is not designed"
NO_JOINT = "shear between the web and the flanges that count is not checked yet"


def written(laid: Laid) -> str:
    """Bars as a drawing has them: their number and diameter, mm, and how many of them run through."""
    return f"{laid.count} ⌀{1e3 * laid.bar:g}" + (f" ({laid.through} through)" if laid.through else "")


def row_of(layout: Layout, cuts: Cuts, design: BeamDesign, number: int) -> RowId:
    """The row of a span, the number of whose strip is given: that of its worst station."""
    mine = np.flatnonzero(cuts.strip[design.sections.cuts] == number)
    c, strip = int(design.sections.cuts[mine[design.use[mine].argmax()]]), layout.strips[number]
    return RowId("beams", Ref("beams", strip.beam), part=f"span {strip.number + 1}", station=round(float(cuts.s[c]), 4))


def middle_of(beam: Beam) -> tuple[float, float]:
    """Half-way between a beam's ends, m."""
    (x, y), (u, v) = beam.line[0][:2], beam.line[-1][:2]
    return (x + u) / 2, (y + v) / 2


def beam_row(check: str, context: Context, number: int, cut: int, face: int, use: float, trace: Trace) -> Row:
    """The row of a station (number of its ``cut``) of a span (number of its strip)."""
    own = context.layout.strips[number]
    part = f"span {own.number + 1}"
    x, y = context.cuts.ends[cut].mean(axis=0)
    id = RowId(check, Ref("beams", own.beam), part=part, face=FACES[face], station=round(float(context.cuts.s[cut]), 4))
    return checked(id, f"{FACES[face]} of {own.beam_name}, {part}", use, (float(x), float(y)), trace)


def rows_in_service(
    check: str, context: Context, combinations: Sequence[Factors], uses: Sequence[tuple[int, CrackUse, Ints]]
) -> list[Row]:
    """The worst station of every span of every beam, by what the faces' ``uses`` are and which combination governs; a span that was not designed
    is told."""
    design, rows = context.beams, []
    strips = (
        {}
        if design is None
        else {number: np.flatnonzero(context.cuts.strip[design.sections.cuts] == number) for number in design.bars}
    )
    for number, own in enumerate(context.layout.strips):
        if not own.beam:
            continue
        part = f"span {own.number + 1}"
        if number not in strips or design is None:
            point = own.outline.representative_point()
            rows.append(uncovered(RowId(check, Ref("beams", own.beam), part=part), own.label, NOT_DESIGNED, (point.x, point.y)))
            continue
        mine = strips[number]
        worst = np.array([own_use.use[mine] for _, own_use, _ in uses])
        which, place = np.unravel_index(int(worst.argmax()), worst.shape)
        k = int(mine[place])
        face, found, chosen = uses[int(which)]
        c, bars = int(design.sections.cuts[k]), design.bars[number]
        laid = bars[1] if face else bars[0]
        named = combinations[int(chosen[k])].combination
        first = Step("Beam and station", values=(Value("b_w", float(design.sections.b_w[k]), "size", "web; what follows is by its metre"),),
                     note=f"{own.label}, {written(laid)} in the {FACES[face]}.")  # fmt: skip
        trace = Trace(named, context.factors_by_case(named), (), (first, *found.steps(k)))
        rows.append(beam_row(check, context, number, c, face, float(found.use[k]), trace))
    spans = {b for s in context.layout.strips for b in s.beams}
    return rows + [
        uncovered(RowId(check, Ref("beams", b.id)), b.id, NOT_DESIGNED, middle_of(b))
        for b in context.floor.beams
        if b.id not in spans
    ]


class Beams:
    """Bars, links and struts of beams."""

    name = "beams"
    lasting = False

    def rows(self, context: Context) -> list[Row] | Unchecked | None:
        """The worst station of every span of every beam; beams without a station are told."""
        beams = context.floor.beams
        if not beams:
            return None
        if context.standard.beams is None or context.standard.flexure is None:
            return context.not_at_hand()
        if not context.ultimate:
            return Unchecked(NO_ULTIMATE)
        design, rows = context.beams, []
        done: set[str] = set()
        told = NOT_DESIGNED
        if design is not None:
            for strip in design.bars:
                mine = np.flatnonzero(context.cuts.strip[design.sections.cuts] == strip)
                k = int(mine[design.use[mine].argmax()])
                rows.append(self._row(context, design, strip, k))
                rows += self._flanges(context, design, strip, mine)
                done.update(context.layout.strips[strip].beams)
        # A span of a designed beam that no station lies on.
        for number, own in enumerate(context.layout.strips):
            if own.beam in done and design is not None and number not in design.bars:
                point, id = (
                    own.outline.representative_point(),
                    RowId(self.name, Ref("beams", own.beam), part=f"span {own.number + 1}"),
                )
                rows.append(uncovered(id, own.label, told, (point.x, point.y)))
        rows += [uncovered(RowId(self.name, Ref("beams", b.id)), b.id, told, middle_of(b)) for b in beams if b.id not in done]
        return rows + context.doubtful_rows(self.name, context.strength)

    def _flanges(self, context: Context, design: BeamDesign, strip: int, mine: Ints) -> list[Row]:
        """The shear that joins the flanges on which a span's steel counts to the web."""
        s, own = design.sections, context.layout.strips[strip]
        counted = any(
            bool((face.M[mine] > 0)[s.compressed(f == 0)[0][mine] > s.b_w[mine] + 1e-6].any())
            for f, face in enumerate(design.faces)
        )
        if not counted:
            return []
        id = RowId(self.name, Ref("beams", own.beam), part=f"span {own.number + 1}, flanges")
        found = [use for use in context.flanges or () if use.strip == strip]
        if not found:
            point = own.outline.representative_point()
            return [uncovered(id, f"{own.beam_name}, flanges", NO_JOINT, (point.x, point.y))]
        rows = []
        for use in found:
            beams = (use.situation.standard if use.situation else context.standard).beams
            rules = beams.joint if beams else None
            assert rules is not None
            change, length, h_f = (
                Value("F", use.change, "force", "change of the flange's force"),
                Value("x", use.length, "length"),
                use.place.h_f,
            )
            steps = (
                Step("Flange and part", values=(Value("k_f", use.share, meaning="share of the compression in the wider flange"),
                                                Value("z", use.lever, "size", "lever arm at the greatest moment")),
                     note=f"{own.label}, about {use.station:.2f} m along the axis."),
                Step("Shear along the joint", "", "v_Ed = F / (h_f · x)",
                     (change, Value("h_f", float(h_f[0]), "size"), length), Value("v_Ed", float(use.place.v[0]) / 1e3, "stress"), note=f"{rules.along}."),
                *context.strength_then(use.situation, use.place.concrete), *rules.steps(use.place),
            )  # fmt: skip
            trace = Trace(use.combination, context.factors_by_case(use.combination), use.panels, steps)
            rows.append(checked(id, f"{own.beam_name}, flanges", use.utilisation, use.at, trace))
        return rows

    def _row(self, context: Context, design: BeamDesign, strip: int, k: int) -> Row:
        """Of a span's worst station: the trace is that of the face whose bars have least left."""
        x, y = context.cuts.ends[int(design.sections.cuts[k])].mean(axis=0)
        bottom, top, links = design.bars[strip]
        label = f"{context.layout.strips[strip].beam_name}: {written(bottom)} bottom, {written(top)} top, links ⌀{1e3 * links.bar:g}–{1e3 * links.spacing:g}"
        trace = _trace(context, design, strip, k, int(design.by_face[:, k].argmax()))
        id = row_of(context.layout, context.cuts, design, strip)
        return checked(id, label, float(design.use[k]), (float(x), float(y)), trace)


def station_row(context: Context, design: BeamDesign, strip: int, k: int, face: int) -> Row:
    """The row of a designed station (number ``k``) of a span (number of its strip) for the bars of a face, the links and the struts."""
    use = max(
        float(design.by_face[face, k]),
        float(design.faces[face].over[k]),
        float(design.links.struts[k]),
        min(float(design.links.area[k]) / design.stirrups[strip].area, MOST),
    )
    trace = _trace(context, design, strip, k, face)
    return beam_row(Beams.name, context, strip, int(design.sections.cuts[k]), face, use, trace)


def _trace(context: Context, design: BeamDesign, strip: int, k: int, face: int) -> Trace:
    found = station_forces(context.cuts, design, k, face, context.units)
    factors = context.factors_by_case(found.combination)
    return Trace(found.combination, factors, found.panels, _steps(context, design, strip, k, face))


def _steps(context: Context, design: BeamDesign, strip: int, k: int, face: int) -> tuple[Step, ...]:
    bent, sheared = design.situations[int(design.bent_in[face][k])], int(design.sheared_in[k])
    rules, link_rules = bent.standard.beams, design.situations[sheared].standard.beams
    assert rules is not None
    assert link_rules is not None
    s, own = design.sections, design.faces[face]
    concrete, rebar = bent.pairs(design.materials)[int(design.kind[k])]
    b, h_f = s.compressed(face == 0)
    f_y = bent.standard.flexure.strengths(concrete, rebar)[1]  # type: ignore[union-attr]
    parts = {"M": float(own.M[k]), "N": float(own.N[k]), "d": float(own.d[k]), "b": float(b[k]), "h_f": float(h_f[k]),
             "in_flange": float(own.in_flange[k]), "z": float(own.lever[k]), "a": float(own.block[k]), "f_y": f_y}  # fmt: skip
    bottom, top, stirrups = design.bars[strip]
    laid = top if face else bottom
    least, area = float(own.least[k]), float(own.area[k])
    along = float(design.links.along[k])
    steps = [Step("Beam and station", values=(
        Value("b_w", float(s.b_w[k]), "size", "web"), Value("H", float(s.H[k]), "size", "overall depth"),
        Value("b", float(s.b[k]), "length", "with its effective flanges"), Value("d", float(own.d[k]), "size", f"of the {FACES[face]} bars")),
        note=context.layout.strips[strip].label + ".")]  # fmt: skip
    if own.M[k] > 0:
        steps += [*context.strength_then(bent.situation, concrete), *rules.flexure_steps(area, parts, concrete, rebar)]
    pressed = float(design.faces[1 - face].compression[k])
    bars = design.laid[face]
    deeper, needs = float(bars.deeper[k]), bars.needs
    needed = (max(area, least, pressed) + along / 2) * deeper
    steps.append(Step("Required", "", "A_s,req = k_d · (max(A_s, A_s,min, A_s2) + A_sl / 2)", (
        Value("k_d", deeper, meaning="square of d over that of the bars laid, where these lie deeper"),
        Value("A_s", 1e6 * area, "steel"), Value("A_s,min", 1e6 * least, "steel"),
        Value("A_s2", 1e6 * pressed, "steel", "compression steel for the other face's moment"),
        Value("A_sl", 1e6 * along, "steel", "for torsion, around the section")),
        Value("A_s,req", 1e6 * needed, "steel")))  # fmt: skip
    beside = {"A_sh": (needs.shifted, rules.shift_clause, "by the envelope shifted along the beam"),
              "A_end": (needs.restraint, rules.restraint_clause, "share of the span's bottom steel against unintended restraint at the end"),
              "A_fi": (needs.burning, context.standard.fire.beside_clause if context.standard.fire else "", "beside a support in a fire")}  # fmt: skip
    most = max(float(found[k]) for found, _, _ in beside.values())
    if most > needs.own[k] * (1 + 1e-9):
        needed = most * deeper
        sources = ", ".join(clause for found, clause, _ in beside.values() if found[k] > 0)
        steps.append(Step(
            "Required along the beam", "", "A_s,req = k_d · max(A_sh, A_end, A_fi)",
            (Value("k_d", deeper), *(Value(symbol, 1e6 * float(found[k]), "steel", told) for symbol, (found, _, told) in beside.items())),
            Value("A_s,req", 1e6 * needed, "steel"), note=f"{sources}."))  # fmt: skip
    note = (
        f"{written(laid)} at most, in {laid.layers} layer{'s' if laid.layers > 1 else ''}."
        if laid.fit
        else "No bars of the allowed ones fit the web."
    )
    there = float(bars.area[k])
    given = Value("A_s,prov", 1e6 * there, "steel", "as far as they are developed here")
    if laid.fit:
        steps.append(Step("Utilisation of the bars", "", "use = min(A_s,req / A_s,prov, 99)", (Value("A_s,req", 1e6 * needed, "steel"), given),
                          Value("use", min(needed / max(there, 1e-12), 99.0)), note=note))  # fmt: skip
    else:
        steps.append(Step("Utilisation of the bars", values=(given,), result=Value("use", 99.0), note=note))
    if own.over[k] > 0:
        steps.append(Step("Moment over what the section may carry", result=Value("use", float(own.over[k])),
                          note="More bars do not mend it; a deeper or wider beam does."))  # fmt: skip
    webs = design.webs[sheared][int(design.kind[k])]
    mine = int(np.flatnonzero(np.flatnonzero(design.kind == design.kind[k]) == k)[0])
    one = slice(mine, mine + 1)
    web = Webs(webs.b_w[one], webs.H[one], webs.d[one], webs.z[one], webs.rho_l[one], webs.centre, webs.concrete, webs.rebar)
    if sheared != int(design.bent_in[face][k]):
        steps += context.strength_then(design.situations[sheared].situation, webs.concrete)
    steps += link_rules.link_steps(float(design.V[k]), float(design.T[k]), web)
    steps.append(Step("Utilisation of the links", "", "use = a_sw,req / a_sw,prov", (
        Value("a_sw,req", 1e6 * float(design.links.area[k]), "steel_per_m"), Value("a_sw,prov", 1e6 * stirrups.area, "steel_per_m")),
        Value("use", float(design.links.area[k]) / stirrups.area)))  # fmt: skip
    return tuple(steps)
