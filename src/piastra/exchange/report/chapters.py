"""What stands in a report: chapters of paragraphs, tables, figures and traces."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from piastra.core.audit import audit
from piastra.core.model import Floor
from piastra.core.standards.registry import parameters
from piastra.exchange.bar_drawing import bars_svg
from piastra.exchange.contour_drawing import Field, contours_svg
from piastra.exchange.plan_drawing import plan_svg
from piastra.exchange.report.units import MINUS, US, Shown, System, column, number, spoken, with_unit

Detail = Literal["summary", "governing", "all"]
"""How much of a chapter: its figures in short; with what governs; or every row with its trace."""


@dataclass(frozen=True, slots=True)
class SignedLine:
    """A check that somebody answers for: of a revision, when, with a note; why the signature does not hold any more, empty where it does."""

    check: str
    author: str
    when: str
    revision: int
    note: str
    why: str


@dataclass(frozen=True, slots=True)
class SaidLine:
    """A comment, by whom, when, where, and by whom it was found settled, empty where it is open."""

    author: str
    when: str
    where: str
    text: str
    settled: str


@dataclass(frozen=True, slots=True)
class Source:
    """What a report is made of: the ``floor`` that was computed, the ``results`` document, and what its title says. ``stale`` tells that the
    floor was changed since. ``signed`` and ``said``: who answers for which check, and comments."""

    floor: Floor
    results: Mapping[str, Any]
    project: str = ""
    revision: int | None = None
    printed: str = ""
    author: str = ""
    stale: str = ""
    signed: Sequence[SignedLine] = ()
    said: Sequence[SaidLine] = ()
    title: Sequence[tuple[str, str]] = ()
    """The project's own lines of the title block."""
    system: System = "SI"
    fields: Mapping[str, Sequence[Field]] = field(default_factory=dict)
    """By chapter, what is drawn there over the floor."""

    def drawn(self, chapter: str) -> list[Figure]:
        """The fields of a chapter as figures."""
        out = []
        for f in self.fields.get(chapter, ()):
            own = US.get(f.unit) if self.system == "US" else None
            svg = contours_svg(self.floor, f, own.factor, own.name, own.digits) if own else contours_svg(self.floor, f)
            out.append(Figure(svg.decode(), f.title))
        return out

    def told(self, value: float, unit: str, digits: int) -> str:
        """A figure of a sentence, given in a unit of SI."""
        return with_unit(value, unit, digits, self.system)

    def spoken(self, found: Mapping[str, Any], key: str) -> str:
        """A sentence of the results: marked where it has amounts."""
        return spoken(found["said"], self.system) if found.get("said") else str(found[key])


@dataclass(frozen=True, slots=True)
class Table:
    """Rows under headings; the columns of ``figures`` stand to the right."""

    heads: Sequence[str]
    rows: Sequence[Sequence[str]]
    title: str = ""
    figures: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True)
class Figure:
    """A drawing as SVG."""

    svg: str
    title: str


@dataclass(frozen=True, slots=True)
class Traced:
    """A row of the verdict with the steps that lead to it."""

    row: Mapping[str, Any]
    steps: Sequence[Mapping[str, Any]]


@dataclass(frozen=True, slots=True)
class Chapter:
    """A chapter and what stands in it, in order."""

    key: str
    title: str
    parts: list[str | Table | Figure | Traced] = field(default_factory=list)


def _table(heads: Sequence[str], rows: Iterable[Sequence[object]], title: str = "") -> Table:
    written = [[c if isinstance(c, str) else number(float(c)) if isinstance(c, float) else str(c) for c in row] for row in rows]
    right = frozenset(
        k for k in range(len(heads)) if written and all(_is_figure(r[k]) for r in written) and any(r[k] != "–" for r in written)
    )
    return Table(heads, written, title, right)


def _is_figure(text: str) -> bool:
    return text == "–" or text.replace(MINUS, "").replace(",", "").replace(".", "").replace("e", "", 1).isdigit()


ABREAST = 8
"""Load cases in one table."""
STATUS = {"pass": "passes", "fail": "fails", "unchecked": "not checked", "uncovered": "not all covered"}


def _named(check: str) -> str:
    return check.replace("_", " ").capitalize()


def _verdict(s: Source, detail: Detail) -> Chapter:
    out = Chapter("verdict", "Verdict")
    rows = s.results["verdict"]
    failing = [r for r in rows if r["status"] == "fail"]
    open_ = [r for r in rows if r["status"] in ("unchecked", "uncovered")]
    told = (
        "The floor does not work."
        if failing
        else "Not all was checked."
        if open_
        else "Nothing was checked."
        if not rows
        else "The floor works: every check passes everywhere."
    )
    out.parts.append(told)
    out.parts.append(
        _table(
            ("Check", "Worst place", "Combination", "Utilisation", "Verdict", ""),
            [
                (
                    _named(r["check"]),
                    r["where"],
                    r["combination"],
                    number(r["utilisation"]),
                    STATUS[r["status"]],
                    s.spoken(r, "reason"),
                )
                for r in rows
            ],
        )
    )
    if s.results["uncovered"]:
        out.parts.append(
            _table(("Check", "What it does not reach", "Why"),
                   [(_named(u["check"]), u["id"] or u["kind"], s.spoken(u, "reason")) for u in s.results["uncovered"]], "Not covered")
        )  # fmt: skip
    if detail == "summary":
        return out
    traced = [r for r in rows if r["trace"]] if detail == "governing" else [r for r in s.results["rows"] if r["trace"]]
    out.parts.extend(Traced(r, r["trace"]["steps"]) for r in traced)
    return out


def _basis(s: Source, detail: Detail) -> Chapter:
    floor, out = s.floor, Chapter("basis", "Basis and assumptions")
    out.parts.append(
        f"Designed to {floor.standard}. Forces come from a linear-elastic analysis of the whole floor by flat-shell finite elements "
        f"on its columns and walls; arrangements of live load are "
        + ("every one that is possible." if floor.arrangements == "exact" else "those that the standard names.")
    )
    if floor.exposure:
        out.parts.append(f"Exposure class {floor.exposure}.")
    if floor.fire is not None:
        out.parts.append(f"Fire resistance {floor.fire.resistance}, {floor.fire.aggregate} aggregate.")
    out.parts.append(f"Deflection is limited to the span over {floor.deflection.span_over:g}.")
    own = floor.parameters
    if own:
        known = {p.key: p for p in parameters(floor.standard)}
        out.parts.append(_table(("Value", "Meaning", "Recommended", "Used", "Source"),
            [(known[k].symbol, known[k].meaning, f"{known[k].value:g}", f"{v:g}", known[k].source) for k, v in own.items() if k in known],
            "National values that differ from the recommended ones"))  # fmt: skip
    else:
        out.parts.append("All national values are the recommended ones of the standard.")
    if detail == "all":
        out.parts.append(_table(("Value", "Meaning", "Used", "Source"),
            [(p.symbol, p.meaning, f"{own.get(p.key, p.value):g}", p.source) for p in parameters(floor.standard)], "All values in force"))  # fmt: skip
    return out


def _materials(s: Source, detail: Detail) -> Chapter:
    f = s.floor
    return Chapter("materials", "Materials", [
        _table(("Concrete", "Strength MPa", "Unit weight kN/m³", "Modulus MPa"),
               [(c.id, number(c.strength_MPa, 1), number(c.unit_weight_kN_m3, 1), "by the standard" if c.E_MPa is None else number(c.E_MPa, 0)) for c in f.concretes]),
        _table(("Steel", "Yield MPa", "Modulus MPa"), [(r.id, number(r.yield_MPa, 0), number(r.E_MPa, 0)) for r in f.rebars]),
    ])  # fmt: skip


def _geometry(s: Source, detail: Detail) -> Chapter:
    f = s.floor
    out = Chapter("geometry", "Geometry", [Figure(plan_svg(f).decode(), "Plan of the floor")])
    out.parts.append(_table(("Slab", "Thickness mm", "Level of top m", "Concrete", "Covers top, bottom mm"),
        [(x.id, number(1e3 * x.thickness_m, 0), number(x.top_offset_m, 3), x.concrete, Shown("{}, {}", (x.cover_top_mm, x.cover_bottom_mm), 0)) for x in f.slabs]))  # fmt: skip
    if detail != "summary":
        if f.thickenings:
            out.parts.append(_table(("Thickening", "Kind", "Thickness mm"),
                [(t.id, t.kind.replace("_", " "), number(1e3 * t.thickness_m, 0)) for t in f.thickenings]))  # fmt: skip
        if f.beams:
            out.parts.append(_table(("Beam", "Width mm", "Depth mm"),
                [(b.id, number(1e3 * b.width_m, 0), number(1e3 * b.depth_m, 0)) for b in f.beams]))  # fmt: skip
        if f.columns:
            out.parts.append(_table(("Column", "x m", "y m", "Section mm", "Below m", "Above m"),
                [(c.id, number(c.at[0], 3), number(c.at[1], 3), _section(c.shape), number(c.below.height_m if c.below else None), number(c.above.height_m if c.above else None)) for c in f.columns]))  # fmt: skip
        if f.walls:
            out.parts.append(
                _table(("Wall", "Thickness mm", "Top"), [(w.id, number(1e3 * w.thickness_m, 0), w.top) for w in f.walls])
            )
    return out


def _section(shape: Any) -> str:
    if shape.kind == "circle":
        return Shown("⌀{}", (1e3 * shape.diameter_m,), 0)
    return Shown("{} × {}", (1e3 * shape.b_m, 1e3 * shape.d_m), 0)


def _loads(s: Source, detail: Detail) -> Chapter:
    f = s.floor
    out = Chapter("loads", "Loads", [
        _table(("Case", "Nature", "Category", "Pattern load"), [(c.id, c.nature.replace("_", " "), c.category or "–", "yes" if c.pattern else "no") for c in f.load_cases]),
    ])  # fmt: skip
    if detail != "summary" and s.results["loads"]:
        out.parts.append(_table(("Load", "Case", "Given kN", "On the floor kN", "Beside it kN"),
            [(x["load"], x["case"], number(x["given_kN"], 1), number(x["on_floor_kN"], 1), number(x["lost_kN"], 1)) for x in s.results["loads"]]))  # fmt: skip
    return out


def _combinations(s: Source, detail: Detail) -> Chapter:
    rows = [
        (c.id, c.limit_state.replace("_", " "), " + ".join(f"{v:g} {k}" for k, v in c.factors.items()), c.rule or "by hand")
        for c in s.floor.combinations
    ]
    return Chapter("combinations", "Combinations", [_table(("Combination", "Limit state", "Factors", "Rule"), rows)])


def _balance(s: Source, detail: Detail) -> Chapter:
    mesh = s.results["mesh"]
    out = Chapter("balance", "Mesh and balance")
    out.parts.append(f"{mesh['elements']:,} elements with {mesh['nodes']:,} nodes; {mesh['dof']:,} unknowns.")
    out.parts.append(_table(("Case", "Load kN", "Reaction kN", "Residual", "Beside the floor kN"),
        [(b["case"], number(b["applied_kN"], 1), number(b["reaction_kN"], 1), f"{b['residual']:.0e}".replace("-", MINUS), number(b["lost_kN"], 1)) for b in s.results["equilibrium"]]))  # fmt: skip
    if detail == "all":
        names = [c.id for c in s.floor.load_cases]
        # As many cases side by side as a page is wide.
        for start in range(0, len(names), ABREAST):
            some = names[start : start + ABREAST]
            rows = [
                (r["support"], *(number(r["values"][n]["F_kN"], 1) if n in r["values"] else "–" for n in some))
                for r in s.results["reactions"]
            ]
            out.parts.append(_table(("Support", *(f"F {n} kN" for n in some)), rows, "Reactions by case" if start == 0 else ""))
    return out


def _moments(s: Source, detail: Detail) -> Chapter | None:
    figures = s.drawn("moments")
    if not figures:
        return None
    # The first two tell the bottom of the slab, the others its top.
    return Chapter("moments", "Moments", [*(figures[:2] if detail == "summary" else figures)])


def _strips(s: Source, detail: Detail) -> Chapter | None:
    strips = s.results["strips"]
    if not strips:
        return None
    out = Chapter("strips", "Strips")
    worst = sorted(strips, key=lambda x: -max(map(abs, (*x["M_kNm"][0], *x["M_kNm"][1]))))
    shown = strips if detail == "all" else worst[: 20 if detail == "governing" else 5]
    if len(shown) < len(strips):
        out.parts.append(f"The {len(shown)} strips of {len(strips)} with the greatest moments.")

    def steel(x: Mapping[str, Any], face: str) -> tuple[str, str]:
        f = x[face]
        if not f:
            return "–", "–"
        k = max(range(len(f["utilisation"])), key=lambda i: f["utilisation"][i])
        return number(f["required_mm2_m"][k], 0), number(f["provided_mm2_m"][k], 0)

    out.parts.append(_table(
        ("Strip", "Bars", "Span m", "Width m", "Least M kNm", "Greatest M kNm", "Top needs mm²/m", "Top has mm²/m", "Bottom needs mm²/m", "Bottom has mm²/m"),
        [(x["label"], x["direction"], number(x["span_m"]), number(max(x["width_m"])), number(min(x["M_kNm"][0]), 1), number(max(x["M_kNm"][1]), 1),
          *steel(x, "top"), *steel(x, "bottom")) for x in shown], "Ultimate moments, and steel at the station that is used most"))  # fmt: skip
    return out


def _tendons(s: Source, detail: Detail) -> Chapter | None:
    tendons = s.results["tendons"]
    if not tendons:
        return None
    out = Chapter("tendons", "Tendons")
    mass = sum(t["mass_kg"] for t in tendons)
    out.parts.append(f"{len(tendons)} tendons, {s.told(mass, 'kg', 0)} of strand.")
    shown = tendons if detail == "all" else tendons[: 20 if detail == "governing" else 5]
    if len(shown) < len(tendons):
        out.parts.append(f"The first {len(shown)} of {len(tendons)}.")
    out.parts.append(_table(
        ("Tendon", "Length m", "Area mm²", "Jacking kN", "Extension mm", "At transfer, mean kN", "In the end, least kN", "In the end, mean kN", "Loss over time MPa"),
        [(t["id"], number(t["length_m"]), number(t["area_mm2"], 0), number(max(t["jacking_kN"]), 0), number(t["extension_mm"], 1),
          number(sum(t["transfer_kN"]) / len(t["transfer_kN"]), 0), number(t["least_kN"], 0), number(t["mean_kN"], 0), number(t["time_loss_MPa"], 1)) for t in shown]))  # fmt: skip
    return out


def _life(s: Source, detail: Detail) -> Chapter | None:
    history = s.results["history"]
    if history is None:
        return None
    out = Chapter("life", "Life of the floor")
    out.parts.append(_table(
        ("Stage", "From day", "To day", "Combination", "Greatest deflection mm", "Cracked %", "Steel MPa", "Crack mm", "Rounds", ""),
        [(x["id"], number(x["start_days"], 0), number(x["end_days"], 0), x["combination"], number(x["greatest_w_mm"], 1), number(100 * x["cracked_share"], 0),
          number(x["steel_MPa"], 0), number(x["crack_mm"]), str(x["rounds"]), "" if x["converged"] else "did not come to rest") for x in history["stages"]]))  # fmt: skip
    if detail != "summary":
        out.parts.append(_table(
            ("Span", "Limit", "Deflection mm", "Band mm", "Limit mm", "Utilisation"),
            [(x["where"], x["limit"], number(x["sag_mm"], 1), Shown("{} to {}", (x["band_mm"][0], x["band_mm"][1]), 1), number(x["limit_mm"], 1), number(x["utilisation"]))
             for x in sorted(history["sags"], key=lambda x: -x["utilisation"])[: None if detail == "all" else 10]]))  # fmt: skip
    return out


def _audit(s: Source, detail: Detail) -> Chapter:
    found = audit(s.floor)
    out = Chapter("audit", "Audit of the model")
    if not found:
        out.parts.append("The audit finds nothing.")
    else:
        out.parts.append(
            _table(("At", "What", "Why"), [(f.id or f.list, spoken(f.what, s.system), spoken(f.why, s.system)) for f in found])
        )
    return out


def _review(s: Source, detail: Detail) -> Chapter:
    out = Chapter("review", "Checking")
    holding = [x for x in s.signed if not x.why]
    checks = [r["check"] for r in s.results["verdict"]]
    unsigned = [_named(c) for c in checks if c not in {x.check for x in holding}]
    out.parts.append(
        f"Nobody answers for: {', '.join(unsigned)}."
        if unsigned
        else "Every check has somebody who answers for it."
        if checks
        else "No check was made."
    )
    shown = s.signed if detail == "all" else holding
    if shown:
        out.parts.append(_table(("Check", "By", "When", "Revision", "Note", "Holds"),
            [(_named(x.check), x.author, x.when, str(x.revision), x.note, x.why or "yes") for x in shown], "Signatures"))  # fmt: skip
    said = [x for x in s.said if detail == "all" or not x.settled]
    if said and detail != "summary":
        out.parts.append(
            _table(
                ("By", "When", "At", "Comment", "Settled by"),
                [(x.author, x.when, x.where, x.text, x.settled) for x in said],
                "Comments",
            )
        )
    return out


def _steel(s: Source, detail: Detail) -> Chapter:
    r = s.results
    out = Chapter("steel", "Reinforcement")
    total, takes = r["steel"], r["takeoff"]
    out.parts.append(
        f"{s.told(takes['concrete_m3'], 'm³', 1)} of concrete without columns and walls; "
        f"{s.told(takes['carbon_kg'], 'kg', 0)} of CO₂ with bars and strands by the floor's factors."
    )
    out.parts.append(
        f"{s.told(total['mass_kg'], 'kg', 0)} in all, {s.told(total['kg_m2'], 'kg/m²', 2)}, of which laps {s.told(total['laps_kg'], 'kg', 0)}."
    )
    if detail != "summary" and r["bars"]:
        for face in ("bottom", "top"):
            for direction in ("x", "y"):
                if any(b["face"] == face and b["direction"] == direction for b in r["bars"]):
                    out.parts.append(
                        Figure(
                            bars_svg(s.floor, dict(r), face, direction, printed=True).decode(),
                            f"Bars {face}, along {direction}, with their marks as far as there is room",
                        )
                    )
    if detail == "all" and r["bars"]:
        out.parts.append(_table(("Mark", "Lies", "Bar mm", "Count", "Length m", "Mass kg", "Asked by"),
            [(b["mark"], f"{b['face']} {b['direction']}", Shown("⌀{}–{}", (b["bar_mm"], b["spacing_mm"]), 0), str(b["count"]), number(b["length_m"]), number(b["mass_kg"], 0),
              ", ".join(dict.fromkeys(w["provision"].replace("_", " ") for w in b["why"]))) for b in r["bars"]], "Schedule"))  # fmt: skip
    return out


def _punching(s: Source, detail: Detail) -> Chapter | None:
    zones = sorted(s.results["zones"], key=lambda z: -z["utilisation"])
    if not zones:
        return None
    shown = zones if detail == "all" else zones[: 10 if detail == "governing" else 3]
    out = Chapter("punching", "Punching")
    if len(shown) < len(zones):
        out.parts.append(f"The {len(shown)} zones of {len(zones)} that are used most.")
    out.parts.append(_table(("At", "Place", "Combination", "V kN", "β", "u m", "d mm", "v kPa", "v_Rd,c kPa", "Utilisation"),
        [(z["id"], z["place"], z["combination"], number(z["V_Ed_kN"], 1), number(z["beta"]), number(z["u_m"]), number(z["d_mm"], 0), number(z["v_Ed_kPa"], 0),
          number(z["v_Rd_c_kPa"], 0), number(z["utilisation"])) for z in shown]))  # fmt: skip
    return out


def _deflection(s: Source, detail: Detail) -> Chapter | None:
    sags = sorted(s.results["sags"], key=lambda x: -x["utilisation"])
    if not sags:
        return None
    out = Chapter("deflection", "Deflection")
    if any(x["by"] == "estimate" for x in sags):
        out.parts.append(
            "By the quick estimate with interpolated curvatures; the rigorous history of the floor was not computed."
        )
    if detail != "summary":
        out.parts.extend(s.drawn("deflection"))
    shown = sags if detail == "all" else sags[: 10 if detail == "governing" else 3]
    out.parts.append(_table(("Span", "Limit", "Combination", "Span m", "Deflection mm", "Limit mm", "Utilisation"),
        [(x["where"], x["limit"] or "–", x["combination"], number(x["span_m"]), number(x["sag_mm"], 1), number(x["limit_mm"], 1), number(x["utilisation"])) for x in shown]))  # fmt: skip
    return out


def _run(s: Source, detail: Detail) -> Chapter:
    r = s.results
    out = Chapter("run", "Run")
    out.parts.append(f"Computed by Piastra, engine {r['engine']}, in {number(sum(r['seconds'].values()), 1)} s.")
    if r["messages"]:
        out.parts.append(
            _table(
                ("Kind", "Where", "What"),
                [(m["severity"], m["where"], s.spoken(m, "sentence")) for m in r["messages"]],
                "What the run told",
            )
        )
    return out


Build = Callable[[Source, Detail], Chapter | None]
CHAPTERS: dict[str, tuple[str, Build]] = {
    "verdict": ("Verdict", _verdict), "basis": ("Basis and assumptions", _basis), "materials": ("Materials", _materials),
    "geometry": ("Geometry", _geometry), "loads": ("Loads", _loads), "combinations": ("Combinations", _combinations),
    "balance": ("Mesh and balance", _balance), "moments": ("Moments", _moments), "strips": ("Strips", _strips), "steel": ("Reinforcement", _steel), "tendons": ("Tendons", _tendons),
    "punching": ("Punching", _punching), "deflection": ("Deflection", _deflection), "life": ("Life of the floor", _life),
    "audit": ("Audit of the model", _audit), "review": ("Checking", _review), "run": ("Run", _run),
}  # fmt: skip
"""Every chapter that there is, in order: its title and what makes it."""


def chapters(source: Source, wanted: Mapping[str, Detail]) -> list[Chapter]:
    """The ``wanted`` chapters in their order; those that a floor has nothing for are left out."""
    made = [build(source, wanted[key]) for key, (_, build) in CHAPTERS.items() if key in wanted]
    return [_in_units(c, source.system) for c in made if c is not None]


def _in_units(chapter: Chapter, system: System) -> Chapter:
    """The chapter with its tables in the system's units."""

    def converted(table: Table) -> Table:
        columns = [column(head, [row[k] for row in table.rows], system) for k, head in enumerate(table.heads)]
        rows = list(zip(*(cells for _, cells in columns), strict=True))
        return Table([head for head, _ in columns], rows, table.title, table.figures)

    return Chapter(chapter.key, chapter.title, [converted(p) if isinstance(p, Table) else p for p in chapter.parts])
