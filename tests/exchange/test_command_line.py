"""The results file and the other commands."""

import json
import struct

import numpy as np
import pytest
from typer.testing import CliRunner

from piastra.cli import app
from piastra.core.model import floor_from
from piastra.core.pipeline import STAGES
from piastra.core.stages import StageCache
from piastra.exchange.fields import fields, kept_fields, read_fields
from piastra.exchange.results_file import PARTS, seconds
from piastra.exchange.results_model import conforms
from tests.floors import one_bay
from tests.solving import solve_floor

runner = CliRunner()


def test_solve_writes_every_key_of_the_contract(tmp_path):
    file, out = tmp_path / "floor.json", tmp_path / "out.json"
    file.write_text(json.dumps(one_bay()))
    done = runner.invoke(app, ["solve", str(file), "--out", str(out), "--timings"])
    assert done.exit_code == 0, done.output
    assert "factorise" in done.stdout
    found = json.loads(out.read_text())
    assert (found["format"], found["version"]) == ("piastra-results", 1)
    assert set(found["seconds"]) == {"mesh", "assemble", "factorise", "solve", "recover", "check", "total"}
    assert {"nodes", "elements", "dof"} <= set(found["mesh"])
    assert [e["case"] for e in found["equilibrium"]] == ["G", "D", "Q"]
    probe = found["probes"][0]
    assert set(probe["values"]) == {"G", "D", "Q", "U1", "S1"}
    assert set(probe["values"]["G"]) == {"w_mm", "mx_kNm_m", "my_kNm_m", "mxy_kNm_m", "vx_kN_m", "vy_kN_m", "nx_kN_m", "ny_kN_m"}
    for name in ("w_mm", "mx_kNm_m"):
        v = {k: probe["values"][k][name] for k in probe["values"]}
        assert v["U1"] == pytest.approx(1.35 * v["G"] + 1.35 * v["D"] + 1.5 * v["Q"], rel=1e-9)
        low, high = next(e for e in found["envelopes"] if e["combination"] == "U1")[name]
        assert low - 1e-12 <= v["U1"] <= high + 1e-12
    assert {r["support"] for r in found["reactions"]} == {"C1", "W1", "L1", "P1"}
    total = sum(r["values"]["G"]["F_kN"] for r in found["reactions"])
    assert total == pytest.approx(found["equilibrium"][0]["applied_kN"], rel=1e-9)
    verdict = {r["check"]: r for r in found["verdict"]}
    assert list(verdict) == ["flexure", "shear", "punching", "crack_width", "stress_limits", "deflection"]
    for check in ("flexure", "shear", "crack_width", "stress_limits"):
        assert verdict[check]["status"] == "unchecked"
        assert "no mats" in verdict[check]["reason"]
    # The wall and the point support press on the floor, and no zone checks them: no plain pass.
    # Without bars, how a cracked section bends is not known either.
    for check, status in (("punching", "uncovered"), ("deflection", "uncovered")):
        assert verdict[check]["trace"]["steps"]
        assert verdict[check]["status"] == status
    assert (found["bars"], found["steel"]["mass_kg"]) == ([], 0)
    # Each strip tells what every provision asks for, and the greatest is required.
    for strip in found["strips"]:
        for face in ("bottom", "top"):
            assert {"strength", "least", "crack_width", "column_band", "secondary"} <= set(strip[face]["provisions"])
            assert strip[face]["required_mm2_m"] == pytest.approx(np.max(list(strip[face]["provisions"].values()), axis=0))
    for direction in ("x", "y"):
        served = sum(s["area_m2"] for s in found["strips"] if s["direction"] == direction)
        told = sum(u["area_m2"] for u in found["uncovered"] if u["direction"] == direction and u["check"] == "flexure")
        assert served + told == pytest.approx(35.0, abs=1e-3)
    assert {u["id"] for u in found["uncovered"] if u["check"] == "punching"} == {"P1", "p1"}
    conforms(found)


def test_schema_and_demo(tmp_path):
    schema = json.loads(runner.invoke(app, ["schema"]).stdout)
    assert "thickness_m" in schema["$defs"]["Slab"]["properties"]
    done = runner.invoke(app, ["demo", str(tmp_path / "out")])
    assert done.exit_code == 0
    names = sorted(p.name for p in (tmp_path / "out").iterdir())
    assert names == [
        "ground-boat-store.json", "level-1-first-draft.json", "level-1-wet-laboratories.json", "level-2-fewer-strands.json",
        "level-2-library-and-offices.json", "roof-planted-terrace.json", "second-floor-guest-rooms.json",
    ]  # fmt: skip
    for path in (tmp_path / "out").iterdir():
        floor_from(json.loads(path.read_text()))


def test_fields_read_back_with_their_limits():
    outcome = solve_floor(floor_from(one_bay()))
    data = fields(outcome)
    (length,) = struct.unpack_from("<I", data)
    head = json.loads(data[4 : 4 + length])
    at = 4 + length
    xy = np.frombuffer(data, "<f4", 2 * head["places"], at).reshape(-1, 2)
    at += xy.nbytes
    index = np.frombuffer(data, "<u4", 3 * head["triangles"], at).reshape(-1, 3)
    at += index.nbytes
    sides = np.frombuffer(data, "<u4", 2 * head["edges"], at).reshape(-1, 2)
    at += sides.nbytes
    # Every side once, and none as long as a diagonal that only splits a quadrilateral for drawing.
    assert len(np.unique(np.sort(sides, axis=1), axis=0)) == len(sides)
    mesh = outcome.meshed.mesh
    assert len(sides) >= len(
        np.unique(np.sort(np.concatenate([np.column_stack([q, np.roll(q, -1)]) for q in mesh.quads]), axis=1), axis=0)
    )
    area = 0.0
    p = xy[index].astype(float)
    d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    area = np.abs(d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]).sum() / 2
    assert area == pytest.approx(35.0, rel=1e-5)
    # As they are kept, and read again: the same but for values, by half of a 2^17th of their peak.
    again = read_fields(kept_fields(data))
    assert (len(again), again[:at]) == (len(data), data[:at])
    for field in head["fields"]:
        values = np.frombuffer(data, "<f4", head["places"], at)
        assert np.abs(np.frombuffer(again, "<f4", head["places"], at) - values).max() <= np.abs(values).max() / (2**17 - 1) * 0.51
        at += values.nbytes
        assert values.max() <= field["greatest"] + 1e-3
    assert at == len(data)
    assert {f["quantity"] for f in head["fields"]} == {"w", "steel"}


def test_american_standard_checks_and_says_what_is_missing():
    outcome = solve_floor(floor_from({**one_bay(), "standard": "ACI 318-19", "design_bars": True}))
    status = {r.check: r.status for r in outcome.verdict}
    # A quarter of the column stands under the slab's corner: 100 mm between its bars and the edge are too little for two bars.
    assert {(r.id.of.id, r.id.part) for r in outcome.rows if r.check == "flexure" and r.status == "fail"} == {("C1", "integrity")}
    # The wall, the point support and the point load have no zone yet.
    assert status["punching"] in ("uncovered", "fail")
    assert {r.id.of.id for r in outcome.rows if r.check == "punching" and r.status == "uncovered"} == {"P1", "p1"}
    reason = {r.check: r.reason for r in outcome.verdict}
    assert reason["crack_width"] == "there is no service combination; add one"


def test_every_stage_counts_in_one_part_of_the_seconds():
    cache = StageCache()
    outcome = solve_floor(floor_from(one_bay()), cache)
    found = seconds(outcome)
    parts = {name for stages in PARTS.values() for name in stages}
    assert parts <= {s.name for s in STAGES}
    assert sum(map(len, PARTS.values())) == len(parts)
    assert found["total"] == pytest.approx(sum(outcome.seconds.values()), abs=1e-3)
    factor = outcome.stiffness.system.factor
    assert found["factorise"] == pytest.approx(factor.seconds, abs=1e-4)
    assert factor.seconds > 0
    assert sum(found.values()) - found["total"] == pytest.approx(found["total"] + factor.seconds - factor.waited, abs=1e-3)
    # What was taken from an earlier run took no time.
    again = solve_floor(floor_from(one_bay()), cache)
    assert seconds(again) == dict.fromkeys(found, 0.0)
