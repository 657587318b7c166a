"""The calculation report: what it says is what the results say, nothing is left out unasked, and its PDF is one."""

import html
import re
import subprocess
import sys
from dataclasses import replace

import pytest

from piastra.core.model import floor_from
from piastra.exchange.report import CHAPTERS, Source, page, typeset
from piastra.exchange.report.chapters import number
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

    assert chapters(ALL) == list(CHAPTERS)
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
