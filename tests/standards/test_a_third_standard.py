"""A standard is one folder and one registration: this one is made up, and goes from floor file to trace."""

import json
import types
from dataclasses import dataclass

import numpy as np
import pytest
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.checks.row import Ref, Row, RowId, checked, worst
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.project import project_from
from piastra.core.stages import checks as checks_stage
from piastra.core.standards import registry
from piastra.core.standards.beginnings import new_floor, new_project
from piastra.core.standards.block import Slopes
from piastra.core.standards.generating import Generated
from piastra.core.standards.parameters import Parameter
from piastra.core.standards.protocol import Library, Standard
from piastra.core.standards.strength import Strength
from piastra.core.trace import Step, Trace, Value
from piastra.exchange.results_model import conforms
from tests.floors import flat_slab
from tests.solving import solve_floor

# --- what would be the folder standards/marsh ---------------------------------------------------------------------------


class Materials:
    def modulus(self, concrete):
        return 25e6

    def not_covered(self, concrete):
        return "is too strong for the marsh; choose 50 MPa at most" if concrete.strength_MPa > 50 else ""


@dataclass
class Steel:
    m: np.ndarray
    n: np.ndarray
    d: np.ndarray
    stress: float

    @property
    def tension(self):
        return np.maximum(self.m, 0) / (0.9 * self.d * self.stress)

    @property
    def compression(self):
        return np.zeros_like(self.m)

    over = compression

    def steps(self, i):
        return (
            Step("Steel", "Marsh 3", "A_s = max(m_Ed, 0) / (0.9 · d · f_m)",
                 (Value("m_Ed", float(self.m[i]), "moment_per_m"), Value("d", float(self.d[i]), "size"), Value("f_m", self.stress / 1e3, "stress")),
                 Value("A_s", 1e6 * float(self.tension[i]), "steel_per_m")),
        )  # fmt: skip


class Flexure:
    def __init__(self, share):
        self.share = share

    def slopes(self, sections):
        return Slopes(0.9 * sections.d, 0.8 * sections.d)

    def design(self, m, n, sections):
        return Steel(m, n, sections.d, self.share * 1e3 * sections.rebar.yield_MPa)


class None_:
    def __init__(self, m):
        self.area = np.zeros_like(m)

    def steps(self, i):
        return ()


class Minimum:
    def least(self, m, sections):
        return None_(m)


class Actions:
    categories = {"M": "marsh"}
    options = ()
    beginning = (("U1", "ultimate", {"G": 1.3, "D": 1.3, "Q": 1.4}, "Marsh 1"),)

    def generate(self, cases, own, options):
        return [Generated("ultimate", {c.id: 1.3 for c in cases}, "Marsh 1")]


class Arrangements:
    def required(self, found, live_over_dead):
        return list(found)


def bundle(values, service):
    strength = Flexure(values["share"])
    library = Library(({"id": "M30", "strength_MPa": 30.0},), ({"id": "R500", "yield_MPa": 500.0},), (), (), (0, 0))
    return Standard(
        name="Marsh 1", parameters=values, materials=Materials(), actions=Actions(), arrangements=Arrangements(), library=library,
        flexure=strength, minimum=Minimum(), provisions=(Strength(strength, "Marsh 3"),),
    )  # fmt: skip


FOLDER = types.SimpleNamespace(
    NAME="Marsh 1",
    PARAMETERS=(Parameter("share", "s", "share of the yield strength", 0.8, "Marsh 2", design=True),),
    bundle=bundle,
)


@pytest.fixture
def marsh():
    registry.register(FOLDER)
    yield
    registry.withdraw("Marsh 1")


def test_it_goes_from_floor_file_to_trace(marsh, tmp_path):
    document = {**flat_slab(2, 1, size=1.0), "standard": "Marsh 1", "parameters": {"share": 0.7}}
    file, out = tmp_path / "f.json", tmp_path / "r.json"
    file.write_text(json.dumps(document))
    done = CliRunner().invoke(app, ["solve", str(file), "--out", str(out)])
    assert done.exit_code == 0, done.output
    found = json.loads(out.read_text())
    conforms(found)
    verdict = {r["check"]: r for r in found["verdict"]}
    step = next(s for s in verdict["flexure"]["trace"]["steps"] if s["clause"] == "Marsh 3")
    assert {v["symbol"]: v["value"] for v in step["values"]}["f_m"] == pytest.approx(350.0)
    assert verdict["punching"]["status"] == verdict["deflection"]["status"] == "unchecked"
    assert verdict["punching"]["reason"] == "this check to Marsh 1 is not at hand yet"
    plain = solve_floor(floor_from({**document, "parameters": {}}))
    assert plain.verdict[0].utilisation == pytest.approx(verdict["flexure"]["utilisation"] * 0.7 / 0.8, rel=1e-9)
    document["concretes"][0]["strength_MPa"] = 60.0
    with pytest.raises(RefusedError, match=r"concretes\[0\].strength_MPa: is too strong for the marsh"):
        solve_floor(floor_from(document))
    project = project_from(new_project("P", "SI", "Marsh 1"))
    assert [c.id for c in floor_from(new_floor(project, "L")).combinations] == ["U1"]


def test_it_is_refused_when_it_is_not_there():
    with pytest.raises(RefusedError, match="standard: must be 'EN 1992-1-1' or 'ACI 318-19', not 'Marsh 1'"):
        floor_from({**flat_slab(1, 1), "standard": "Marsh 1"})
    with pytest.raises(RefusedError, match=r"parameters.gamma_X: is no value that EN 1992-1-1 leaves open"):
        floor_from({**flat_slab(1, 1), "parameters": {"gamma_X": 1.0}})


@pytest.mark.parametrize(("fck", "standard", "covered"), [(11, "EN 1992-1-1", False), (91, "EN 1992-1-1", False), (16.9, "ACI 318-19", False),
                                                          (17, "ACI 318-19", True), (120, "ACI 318-19", True), (90, "EN 1992-1-1", True)])  # fmt: skip
def test_concretes_beyond_a_standard_are_refused_with_their_path(fck, standard, covered):
    document = {**flat_slab(1, 1, size=1.5), "standard": standard}
    document["concretes"].append({"id": "unused", "strength_MPa": 150.0})
    document["concretes"][0]["strength_MPa"] = float(fck)
    if covered:
        solve_floor(floor_from(document))
    else:
        with pytest.raises(RefusedError, match=r"^concretes\[0\].strength_MPa: is "):
            solve_floor(floor_from(document))


class Marks:
    """A made-up check: one object in one tuple."""

    name = "marks"
    lasting = False

    def rows(self, context):
        trace = Trace("U1", steps=(Step("Mark", "", "use = a / b", (Value("a", 1.0), Value("b", 2.0)), Value("use", 0.5)),))
        return [checked(RowId("marks", Ref("slabs", s.concrete)), "mark", 0.5, None, trace) for s in context.floor.slabs]


def test_a_check_is_one_object_in_one_tuple(monkeypatch):
    monkeypatch.setattr(checks_stage, "CHECKS", (*checks_stage.CHECKS, Marks()))
    outcome = solve_floor(floor_from(flat_slab(2, 1, size=1.0)))
    assert [r.check for r in outcome.verdict] == ["flexure", "punching", "crack_width", "stress_limits", "deflection", "marks"]
    assert outcome.verdict[-1].utilisation == 0.5
    assert outcome.rows[-1].id.key == "marks/slabs/C30///"


def test_a_verdict_is_no_pass_where_something_is_not_covered():
    def row(status, use, label="a"):
        return Row(RowId("x", Ref("slabs", label)), label, use, status)

    good, bad, bare = row("pass", 0.9), row("fail", 1.2), row("uncovered", None, "b")
    assert worst("x", [good]).status == "pass"
    assert worst("x", [good, bare]).status == "uncovered"
    assert worst("x", [good, bare]).utilisation == 0.9
    assert worst("x", [good, bad, bare]).status == "fail"
    assert worst("x", [bare]).status == "uncovered"
    assert worst("x", [bare]).utilisation is None
    assert checked(RowId("x", Ref("slabs", "a")), "a", 1.0, None, Trace("U")).status == "pass"
    assert checked(RowId("x", Ref("slabs", "a")), "a", 1.0000001, None, Trace("U")).status == "fail"
