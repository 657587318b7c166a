"""Pages of the documentation that the code itself writes or runs."""

import re
from pathlib import Path

import pytest

import piastra
from piastra.core.standards.registry import names, parameters
from piastra.exchange.formulas_page import page, written_steps
from piastra.exchange.licences_page import python_packages, web_packages
from piastra.exchange.provisions_page import provisions_page
from piastra.exchange.schema_page import schema_page

ROOT = Path(__file__).parents[2]


def test_the_examples_of_the_python_page_run(capsys):
    blocks = re.findall(r"```python\n(.*?)```", (ROOT / "docs/python.md").read_text(), re.S)
    names: dict = {}
    for block in blocks:
        exec(block, names)
    assert len(blocks) >= 4
    printed = capsys.readouterr().out
    assert "slabs[0]" in printed
    assert "v_Rd,c = max(C_Rd,c" in printed
    results = names["results"]
    assert results.works is (False if "fail" in {r.status for r in results.verdict.values()} else None)
    assert {r["check"]: r["utilisation"] for r in results.document["verdict"]} == {
        k: r.utilisation for k, r in results.verdict.items()
    }
    with pytest.raises(KeyError, match="choose one of"):
        results.rows("buckling")
    with pytest.raises(AttributeError):
        _ = piastra.nothing


def test_every_formula_is_on_the_page_with_its_clause_and_its_line():
    text = (ROOT / "docs/formulas.md").read_text()
    assert text == page(), "docs/formulas.md is out of date; run piastra formulas --markdown docs/formulas.md"
    for step in written_steps():
        line = (ROOT / "src/piastra/core" / step.module).read_text().splitlines()[step.line - 1]
        assert re.search(r"Step\(|step\(|_use\(", line), (step.module, step.line)
    row = next(r for r in text.splitlines() if "6.4.4 (1) (6.47)" in r and "v_Rd,c = " in r)
    assert "max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min)" in row
    for name in names():
        for p in parameters(name):
            assert f"| `{p.symbol}` | {p.value:g} | {p.meaning} | {p.source} |" in text


def test_the_page_of_the_floor_file_is_up_to_date():
    assert (ROOT / "docs/floor-file.md").read_text() == schema_page(), "run piastra schema --markdown docs/floor-file.md"


def test_the_page_of_provisions_is_up_to_date():
    assert (ROOT / "docs/provisions.md").read_text() == provisions_page(), (
        "run piastra formulas --markdown docs/formulas.md --provisions docs/provisions.md"
    )


def test_all_that_is_shipped_has_its_licence_on_the_page():
    text = (ROOT / "docs/licences.md").read_text()
    shipped = [*python_packages(ROOT), *web_packages(ROOT)]
    assert {"numpy", "gmsh", "react", "@fontsource/ibm-plex-sans"} <= {name for name, _, _ in shipped}
    missing = [p for p in shipped if f"| {p[0]} | {p[1]} |" not in text]
    assert not missing, "docs/licences.md is out of date; run script/licences"
    assert not [name for name, _, licence in shipped if licence == "not told"]
    # Test tools are not shipped.
    assert "pytest" not in {name for name, _, _ in shipped}
