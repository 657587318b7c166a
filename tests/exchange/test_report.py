"""The calculation report: what it says is what the results say, nothing is left out unasked, and its PDF is one."""

import html
import io
import re
import subprocess
import sys
from dataclasses import replace

import pytest
from openpyxl import load_workbook

from piastra.core.audit import audit
from piastra.core.model import floor_from
from piastra.exchange.report import CHAPTERS, SaidLine, SignedLine, Source, page, typeset, workbook
from piastra.exchange.report.units import number
from piastra.exchange.report.written import _nothing
from piastra.exchange.results_file import results
from tests.floors import flat_slab
from tests.solving import solve_floor

ALL = dict.fromkeys(CHAPTERS, "all")


@pytest.fixture(scope="module")
def source():
    data = flat_slab(2, 2, size=1.0, name="Rig & <b>bay</b>", fire={"resistance": "R60"}, parameters={"gamma_C": 1.45})
    outcome = solve_floor(floor_from(data))
    return Source(outcome.floor, results(outcome), "Mudflat", 7, "2031-05-04 10:20", "Ada")


def words(text):
    return html.unescape(re.sub(r"<[^>]+>", " ", re.sub(r"<style>.*?</style>", "", text, flags=re.S)))


def cells(text):
    return [
        [html.unescape(c) for c in re.findall(r"<td[^>]*>(.*?)</td>", row)] for row in re.findall(r"<tr>(.*?)</tr>", text, re.S)
    ]


def test_its_figures_are_those_of_the_results(source):
    text = page(source, ALL)
    rows = cells(text)
    for r in source.results["verdict"]:
        row = next(c for c in rows if c and c[0] == r["check"].replace("_", " ").capitalize() and c[1] == r["where"])
        assert row[3] == number(r["utilisation"])
        assert (
            row[4] == {"pass": "passes", "fail": "fails", "unchecked": "not checked", "uncovered": "not all covered"}[r["status"]]
        )
    for b in source.results["equilibrium"]:
        assert any(c[:2] == [b["case"], number(b["applied_kN"], 1)] for c in rows if c)
    zones = {z["id"]: z for z in source.results["zones"]}
    assert all(any(c and c[0] == k and c[-1] == number(z["utilisation"]) for c in rows) for k, z in zones.items())
    told = words(text)
    # Every step of every row's trace, with its result.
    for r in source.results["rows"]:
        for step in r["trace"]["steps"] if r["trace"] else ():
            assert step["title"] in told
            assert step["note"] in told
    assert "1.45" in told
    assert "R60" in told
    assert "Ada" in told
    assert "Revision 7" in re.sub(r"\s+", " ", told)


def test_a_trace_tells_sizes_in_mm_and_small_figures_as_they_are(source):
    told = words(page(source, {"verdict": "all"}))
    assert re.search(r"h = 250 mm", told)
    assert re.search(r"f_ck = 30\.00 MPa", told)
    assert not re.search(r"= −?0\.0+ (mm|kNm|MPa)\b", told)


def test_names_are_text_and_nothing_else(source):
    text = page(source, ALL)
    assert "<b>bay</b>" not in text
    assert "Rig &amp; &lt;b&gt;bay&lt;/b&gt;" in text


def test_chapters_are_those_that_were_asked_for(source):
    def chapters(wanted):
        return re.findall(r'<section id="(\w+)">', page(source, wanted))

    # A floor without tendons and without a life has nothing to tell of them, and nothing was drawn over it. and nothing was drawn over it.
    assert chapters(ALL) == [c for c in CHAPTERS if c not in ("tendons", "life", "moments")]
    assert chapters({"loads": "summary", "verdict": "summary"}) == ["verdict", "loads"]
    short, long = (page(source, {"verdict": d}) for d in ("summary", "all"))
    assert 'class="traced"' not in short
    assert long.count('class="traced"') == sum(r["trace"] is not None for r in source.results["rows"])


def test_it_never_says_works_of_what_fails_or_was_not_checked_or_is_out_of_date(source):
    def first(results, **more):
        return words(page(replace(source, results={**source.results, **results}, **more), {"verdict": "summary"}))

    rows = [{**r, "status": "pass", "reason": ""} for r in source.results["verdict"]]
    assert "The floor works" in first({"verdict": rows, "uncovered": []})
    for status, sentence in (
        ("fail", "does not work"),
        ("unchecked", "Not all was checked"),
        ("uncovered", "Not all was checked"),
    ):
        told = first({"verdict": [*rows[:-1], {**rows[-1], "status": status}]})
        assert sentence in told
        assert "The floor works" not in told
    assert "Nothing was checked." in first({"verdict": [], "uncovered": []})
    assert "changed since" in first({}, stale="The floor was changed since.")


def test_it_is_typeset_without_reading_anything(source):
    with pytest.raises(ValueError, match="reads nothing"):
        _nothing("file:///etc/hostname")
    made = typeset(page(source, {"verdict": "summary", "geometry": "governing"}))
    assert made.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type\s*/Page\b", made)) >= 1 or b"/ObjStm" in made
    assert len(made) > 10_000


@pytest.mark.study
def test_it_is_typeset_by_a_process_that_ends_with_it(source):
    """And one that cannot be is told, not left as half a file."""
    text = page(source, {"materials": "summary"})
    made = subprocess.run([sys.executable, "-m", "piastra.exchange.report"], input=text.encode(), capture_output=True, check=True)
    assert made.stdout.startswith(b"%PDF-")
    broken = subprocess.run(
        [sys.executable, "-m", "piastra.exchange.report"], input=b"\xff\xfe\xff", capture_output=True, check=False
    )
    assert broken.returncode != 0
    assert not broken.stdout


def test_strips_signatures_comments_and_the_audit_stand_in_it(source):
    signed = [
        SignedLine("flexure", "Ada", "2031-05-04 11:00", 7, "seen", ""),
        SignedLine("punching", "Bo", "2031-05-03 09:00", 5, "", "the thickness of S1 was changed since"),
    ]
    said = [
        SaidLine("Bo", "2031-05-04 12:00", "the floor", "Is the <edge> right?", ""),
        SaidLine("Bo", "x", "y", "old one", "Ada"),
    ]
    full = replace(source, signed=signed, said=said)
    text = page(full, {"review": "governing", "strips": "all", "audit": "all"})
    rows, told = cells(text), words(text)
    assert ["Flexure", "Ada", "2031-05-04 11:00", "7", "seen", "yes"] in rows
    assert "Bo" not in [r[1] for r in rows if r and r[0] == "Punching"]
    unsigned = [r["check"] for r in source.results["verdict"] if r["check"] != "flexure"]
    assert f"Nobody answers for: {', '.join(c.replace('_', ' ').capitalize() for c in unsigned)}." in told
    assert "Is the <edge> right?" in told
    assert "old one" not in told
    everything = page(full, {"review": "all"})
    assert ["Punching", "Bo", "2031-05-03 09:00", "5", "", "the thickness of S1 was changed since"] in cells(everything)
    assert "old one" in everything
    strips = {s["label"]: s for s in source.results["strips"]}
    mine = [r for r in rows if r and r[0] in strips and len(r) == 10]
    assert len(mine) == len(source.results["strips"])
    first = strips[mine[0][0]]
    assert mine[0][4:6] == [number(min(first["M_kNm"][0]), 1), number(max(first["M_kNm"][1]), 1)]
    assert words(page(source, {"audit": "all"})).count("The audit finds nothing.") == (0 if audit(source.floor) else 1)


def test_its_tables_are_a_workbook_of_numbers(source):
    book = load_workbook(io.BytesIO(workbook(source, {"balance": "governing", "strips": "all", "verdict": "summary"})))
    assert book.sheetnames[:2] == ["Verdict", "Mesh and balance"]
    rows = [[c.value for c in row] for row in book["Mesh and balance"].iter_rows(min_row=2)]
    assert [r[:3] for r in rows] == [
        [b["case"], pytest.approx(b["applied_kN"], abs=0.05), pytest.approx(b["reaction_kN"], abs=0.05)]
        for b in source.results["equilibrium"]
    ]
    uses = {r["check"].replace("_", " ").capitalize(): r["utilisation"] for r in source.results["verdict"]}
    found = {r[0].value: r[3].value for r in book["Verdict"].iter_rows(min_row=2)}
    assert found.keys() == uses.keys()
    assert workbook(source, {})[:2] == b"PK"


def test_tendons_and_the_life_of_a_floor_stand_in_it(source):
    tendon = {"id": "T1", "length_m": 24.5, "area_mm2": 600.0, "jacking_kN": [830.0, 800.0], "extension_mm": 171.3, "transfer_kN": [700.0, 720.0],
              "least_kN": 650.0, "mean_kN": 668.0, "time_loss_MPa": 88.4, "mass_kg": 115.4}  # fmt: skip
    stage = {"id": "props out", "start_days": 28.0, "end_days": 180.0, "combination": "Q1", "greatest_w_mm": 12.34, "cracked_share": 0.42, "steel_MPa": 181.0,
             "crack_mm": None, "rounds": 9, "converged": False}  # fmt: skip
    sag = {"where": "A1-B1", "limit": "partitions", "sag_mm": 7.7, "limit_mm": 14.0, "utilisation": 0.55, "band_mm": [6.1, 9.3]}
    history = {"stages": [stage], "probes": [], "governing": None, "sags": [sag]}
    full = replace(source, results={**source.results, "tendons": [tendon], "history": history})
    rows = cells(page(full, {"tendons": "governing", "life": "all"}))
    assert ["T1", "24.50", "600", "830", "171.3", "710", "650", "668", "88.4"] in rows
    assert ["props out", "28", "180", "Q1", "12.3", "42", "181", "–", "9", "did not come to rest"] in rows
    assert ["A1-B1", "partitions", "7.7", "6.1 to 9.3", "14.0", "0.55"] in rows


SI_UNITS = re.compile(r"(?<![\w/])(?:mm|m|kN|kNm|kPa|MPa|kg|mm²|m²|m³)(?:/\w+[²³]?)?(?![\w/²³-])")


def test_figures_are_in_the_units_of_the_project(source):
    """Each figure is that of the results in its unit, not the rounded one of SI turned over."""
    american = replace(source, system="US", title=[("Job", "4711"), ("Client", "Mudflat Trust & Co")])
    parts = dict.fromkeys((k for k in CHAPTERS if k not in ("verdict", "basis")), "all")
    text = page(american, parts)
    told, rows = words(re.sub(r"<svg.*?</svg>", "", text, flags=re.S)), cells(text)
    assert "Units US: ft, in, kip, psi" in re.sub(r"\s+", " ", told)
    assert not SI_UNITS.findall(told)
    assert SI_UNITS.findall(words(re.sub(r"<svg.*?</svg>", "", page(source, parts), flags=re.S)))
    for b in source.results["equilibrium"]:
        assert any(c[:2] == [b["case"], number(b["applied_kN"] / 4.4482216)] for c in rows if c)
    z = max(source.results["zones"], key=lambda z: z["utilisation"])
    row = next(c for c in rows if c and c[0] == z["id"] and c[-1] == number(z["utilisation"]))
    assert row[5:8] == [number(z["u_m"] / 0.3048), number(z["d_mm"] / 25.4), number(z["v_Ed_kPa"] * 0.14503774, 1)]
    slab = source.floor.slabs[0]
    assert [slab.id, number(slab.thickness_m / 0.0254)] in [c[:2] for c in rows if c]
    strip = max(source.results["strips"], key=lambda x: max(map(abs, (*x["M_kNm"][0], *x["M_kNm"][1]))))
    assert number(min(strip["M_kNm"][0]) * 0.73756215) in next(
        c for c in rows if c and c[0] == strip["label"] and c[1] == strip["direction"]
    )
    assert f"{source.results['steel']['mass_kg'] / 0.45359237:,.0f} lb" in told
    # Traces: 250 mm and 30 MPa; rules that hold in SI alone keep their units.
    told = words(page(american, {"verdict": "all"}))
    assert re.search(r"h = 9\.84 in", told)
    assert re.search(r"f_ck = 4,351 psi", told)
    assert "Job 4711 Client Mudflat Trust & Co" in re.sub(r"\s+", " ", words(page(american, {"run": "all"})))


def test_nothing_reaches_beyond_the_edge_of_its_page(source):
    """Tables and figures of all chapters, with names as long as they may be, and a row of every check."""
    from weasyprint import HTML

    long = "column strip of the north-eastern corner C00–C10 and on"
    strips = [{**s, "label": long} for s in source.results["strips"]]
    rows = list({r["check"]: r for r in source.results["rows"]}.values())
    assert {r["check"] for r in rows} >= {"flexure", "crack_width", "punching", "deflection", "fire"}
    wide = replace(source, results={**source.results, "strips": strips, "rows": rows})
    for page_ in HTML(string=page(wide, ALL)).render().pages:
        box = page_._page_box
        right = box.content_box_x() + box.width
        for part in box.descendants():
            if part.element_tag in ("table", "td", "th", "p", "figure", "svg"):
                assert part.position_x + part.margin_width() <= right + 0.5, (part.element_tag, part.element)
