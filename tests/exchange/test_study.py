"""Studies: variants by grid, one at a time and in step; the table; what goes wrong; a worker that is killed."""

import csv
import json
import os
import signal

import pytest
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.model import RefusedError, floor_from
from piastra.exchange import study as studies
from tests.floors import flat_slab
from tests.solving import solve_floor


def study(**more):
    floor = flat_slab(1, 1, size=1.5, name="Bay")
    return {
        "format": "piastra-study",
        "version": 1,
        "floor": floor,
        "vary": [{"path": "slabs[S1].thickness_m", "values": [0.2, 0.25]}],
        **more,
    }


def written(tmp_path, **more):
    path = tmp_path / "study.json"
    path.write_text(json.dumps(study(**more)))
    return path


def ran(path, out, *more):
    return CliRunner().invoke(app, ["study", str(path), "--out", str(out), *more])


def test_a_grid_is_every_value_with_every_other_and_its_table_is_that_of_the_floors_alone(tmp_path):
    vary = [{"path": "slabs[*].thickness_m", "values": [0.2, 0.25]}, {"path": "loads[0].q_kPa", "values": [2.0, 6.0]}]
    path, out = written(tmp_path, vary=vary), tmp_path / "table.csv"
    assert ran(path, out).exit_code == 0
    rows = list(csv.DictReader(out.read_text(encoding="utf-8-sig").splitlines()))
    assert [(float(r["slabs[*].thickness_m"]), float(r["loads[0].q_kPa"])) for r in rows] == [
        (0.2, 2.0),
        (0.2, 6.0),
        (0.25, 2.0),
        (0.25, 6.0),
    ]
    # 6.4 m x 6.4 m of concrete; 300 kg of carbon a cubic metre and so much a kilogram of steel, by the floor's factors.
    _, floors = studies.read(path)
    factors = floor_from(floors["Bay"]).carbon
    assert [float(r["concrete m3"]) for r in rows] == pytest.approx([6.4**2 * h for h in (0.2, 0.2, 0.25, 0.25)], rel=1e-3)
    for r in rows:
        carbon = float(r["concrete m3"]) * factors.concrete_kg_m3 + float(r["steel kg"]) * factors.steel_kg_per_kg
        assert float(r["carbon kg"]) == pytest.approx(carbon, abs=1.0)
    document = studies.placed(studies.placed(study()["floor"], "slabs[*].thickness_m", 0.25), "loads[0].q_kPa", 6.0)
    solved = solve_floor(floor_from(document), rigorous=False)
    alone = {r.check: r.utilisation for r in solved.verdict}
    assert float(rows[3]["deflection mm"]) == pytest.approx(1e3 * max(s.sag for s in solved.sags), abs=5e-3)
    for check, use in alone.items():
        assert (rows[3][check] == "") if use is None else float(rows[3][check]) == pytest.approx(use, abs=1e-4)
    assert float(rows[1]["flexure"]) > float(rows[0]["flexure"]) > 0
    # Two processes find the same table, as a workbook too.
    assert ran(path, tmp_path / "two.csv", "--workers", "2").exit_code == 0
    assert (tmp_path / "two.csv").read_bytes() == out.read_bytes()
    assert ran(path, tmp_path / "table.xlsx").exit_code == 0
    assert (tmp_path / "table.xlsx").read_bytes()[:2] == b"PK"


def test_one_at_a_time_begins_with_the_floor_and_a_list_goes_in_step():
    vary = [{"path": "a", "values": [1, 2]}, {"path": "b", "values": [3, 4]}]
    made = [list(studies.Study.model_validate(study(vary=vary, how=how)).variants()) for how in ("one_at_a_time", "list")]
    assert made[0] == [{}, {"a": 1}, {"a": 2}, {"b": 3}, {"b": 4}]
    assert made[1] == [{"a": 1, "b": 3}, {"a": 2, "b": 4}]


def test_a_variant_that_cannot_be_computed_says_why_and_the_others_go_on(tmp_path):
    path = written(tmp_path, vary=[{"path": "slabs[0].thickness_m", "values": [0.2, -1.0]}])
    given, floors = studies.read(path)
    first, second = studies.run(given, floors)
    assert first.verdict in ("pass", "fail", "uncovered", "unchecked")
    assert (second.verdict, second.steel_kg) == ("refused", None)
    assert "slabs[0].thickness_m" in second.told


def test_a_fault_of_the_computation_costs_one_row(monkeypatch, tmp_path):
    whole = studies.pipeline.solve_floor

    def breaks(floor, **how):
        if floor.slabs[0].thickness_m == 0.2:
            raise ZeroDivisionError
        return whole(floor, **how)

    monkeypatch.setattr(studies.pipeline, "solve_floor", breaks)
    given, floors = studies.read(written(tmp_path))
    first, second = studies.run(given, floors)
    assert (first.verdict, first.utilisation, first.told) == ("lost", {}, "its computation broke: ZeroDivisionError")
    assert second.steel_kg is not None


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"vary": [{"path": "slabs[S9].thickness_m", "values": [1]}]}, "there is no S9"),
        ({"vary": [{"path": "slabs.thickness_m", "values": [1]}]}, "slabs.thickness_m"),
        ({"vary": [{"path": "slabs[0]", "values": [1]}]}, "has no fields"),
        ({"vary": [{"path": "roofs[0].a", "values": [1]}]}, "there is no roofs"),
        ({"vary": [{"path": "slabs[0]..a", "values": [1]}]}, "is no path"),
        ({"floors": ["a.json"]}, "one floor, or several"),
        ({"vary": [{"path": "mesh.size_m", "values": [1]}] * 2}, "mesh.size_m twice"),
        (
            {"vary": [{"path": "mesh.size_m", "values": list(range(1, 30))}, {"path": "name", "values": ["x"] * 29}]},
            "841 variants",
        ),
        ({"how": "list", "vary": [{"path": "name", "values": ["a"]}, {"path": "mesh.size_m", "values": [1, 2]}]}, "equally many"),
        ({"floor": "not-there.json"}, "cannot be read"),
        ({"version": 2}, "version"),
    ],
)
def test_a_study_that_is_wrong_is_refused_in_a_line(tmp_path, more, words):
    result = ran(written(tmp_path, **more), tmp_path / "out.csv")
    assert result.exit_code == 2
    assert words in result.output
    assert "Traceback" not in result.output
    assert not (tmp_path / "out.csv").exists()


def test_a_path_reaches_an_object_by_its_label_before_its_place():
    document = {"slabs": [{"id": "1", "a": 0}, {"id": "0", "a": 0}]}
    assert studies.placed(document, "slabs[0].a", 5)["slabs"] == [{"id": "1", "a": 0}, {"id": "0", "a": 5}]
    assert document["slabs"][1]["a"] == 0
    with pytest.raises(RefusedError):
        studies.placed(document, "slabs[7].a", 5)


def test_several_floors_have_each_variant_and_a_path_must_lead_somewhere_in_all(tmp_path):
    floors = [flat_slab(1, 1, size=1.5, name="Bay"), flat_slab(2, 1, size=1.5, name="Two bays")]
    path, out = written(tmp_path, floor=None, floors=floors), tmp_path / "table.csv"
    assert ran(path, out).exit_code == 0
    rows = list(csv.DictReader(out.read_text(encoding="utf-8-sig").splitlines()))
    assert [(r["floor"], float(r["slabs[S1].thickness_m"])) for r in rows] == [
        ("Bay", 0.2), ("Bay", 0.25), ("Two bays", 0.2), ("Two bays", 0.25),
    ]  # fmt: skip
    assert [float(r["concrete m3"]) for r in rows] == pytest.approx(
        [6.4**2 * 0.2, 6.4**2 * 0.25, 12.4 * 6.4 * 0.2, 12.4 * 6.4 * 0.25]
    )
    # Whatever cracks, shrinks and creeps deflects more than its load does at once without cracks; a thicker slab less.
    for r in rows:
        assert 0 < float(r["gross mm"]) < float(r["deflection mm"])
    assert float(rows[1]["gross mm"]) < float(rows[0]["gross mm"])
    vary = [{"path": "columns[C9].shape.b_m", "values": [0.5]}]
    result = ran(written(tmp_path, floor=None, floors=floors, vary=vary), out)
    assert (result.exit_code, "there is no C9 in that list in Bay" in result.output) == (2, True)
    same = ran(written(tmp_path, floor=None, floors=[floors[0]] * 2), out)
    assert "two floors called Bay" in same.output


def test_a_list_comes_from_a_table():
    rows = [["slabs[*].thickness_m", None, "name"], [0.2, None, "a"], [None, None, None], [0.3, "note", "b"]]
    found = studies.varied_from(rows)
    assert [(v.path, v.values) for v in found] == [("slabs[*].thickness_m", [0.2, 0.3]), ("name", ["a", "b"])]
    rows[3][0] = None
    for wrong, at, words in (
        (rows, "A4", "is empty"),
        ([[None], [1.0]], "the table", "names no path"),
        ([["a"]], "the table", "first row"),
    ):
        with pytest.raises(RefusedError) as refused:
            studies.varied_from(wrong)
        assert (refused.value.refusals[0].path, words in refused.value.refusals[0].sentence) == (at, True)


def killed_once(document, values, history, cache=None, whole=studies.computed):
    """Takes its process with it the first time that it has the second variant."""
    mark = os.environ["PIASTRA_TEST_MARK"]
    if values["slabs[S1].thickness_m"] == 0.25 and (not os.path.exists(mark) or "always" in mark):
        open(mark, "w").close()
        os.kill(os.getpid(), signal.SIGKILL)
    return whole(document, values, history)


@pytest.mark.parametrize(("name", "verdict"), [("once", "computed"), ("always", "lost")])
def test_a_killed_worker_loses_no_variant(monkeypatch, tmp_path, name, verdict):
    monkeypatch.setenv("PIASTRA_TEST_MARK", str(tmp_path / name))
    monkeypatch.setattr(studies, "computed", killed_once)
    given, floors = studies.read(written(tmp_path))
    found = list(studies.run(given, floors, workers=2))
    assert [f.values["slabs[S1].thickness_m"] for f in found] == [0.2, 0.25]
    assert found[0].steel_kg is not None
    assert (found[1].verdict == "lost") == (verdict == "lost")
