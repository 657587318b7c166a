"""The layout of tendons as DXF, and tendons in the results document."""

import io

import ezdxf
import numpy as np
import pytest

from piastra.core.model import floor_from
from piastra.core.model.tendon_curve import curve
from piastra.exchange.results_file import results
from piastra.exchange.results_model import ResultsDocument
from piastra.exchange.tendon_drawing import levels_at, tendons_dxf
from tests.core.tendon_strips import P, checked_strip, points, strip, tendon
from tests.solving import solve_floor


@pytest.fixture(scope="module")
def checked():
    data = checked_strip()
    data["tendons"][0].update(count=4, stressed_from="both")
    outcome = solve_floor(floor_from(data))
    return outcome, results(outcome)


def test_levels_stand_at_tenths_of_the_spans(checked):
    outcome, document = checked
    t = outcome.floor.tendons[0]
    found = levels_at(t, curve(t.line, t.profile))
    assert [round(s, 6) for s, *_ in found] == [float(k) for k in range(11)]
    assert [z for _, _, _, z, _ in found] == pytest.approx([-150 - 100 * (1 - (k / 5 - 1) ** 2) for k in range(11)], abs=0.05)
    space = ezdxf.read(io.StringIO(tendons_dxf(outcome.floor, document).decode())).modelspace()
    assert sorted(float(e.dxf.text) for e in space.query('TEXT[layer=="LEVELS"]')) == sorted(
        float(round(z)) for _, _, _, z, _ in found
    )
    line = np.array(space.query('LWPOLYLINE[layer=="TENDONS"]')[0].get_points("xy"))
    assert line[[0, -1]] == pytest.approx(np.array([[0.0, 0.5], [10.0, 0.5]]))
    assert len(space.query('CIRCLE[layer=="ANCHORS"]')) == 2
    assert (
        space.query('TEXT[layer=="MARKS"]')[0].dxf.text == f"T: 4 x S, extension {document['tendons'][0]['extension_mm']:.0f} mm"
    )


def test_results_tell_tendons_stresses_and_precompression(checked):
    _, document = checked
    ResultsDocument.model_validate(document)
    (t,) = document["tendons"]
    assert t["jacking_kN"] == pytest.approx([4 * P] * len(t["s_m"]))
    assert t["final_kN"] == t["locked_kN"]
    # 4 x 150 kN over 4 x 150 mm2 of 195 GPa along 10.0027 m.
    assert t["extension_mm"] == pytest.approx(1e3 * 1000 / 195e3 * t["length_m"], abs=6e-3)
    assert {s["combination"] for s in document["stresses"]} == {"C", "T", "K"}
    along = [s for s in document["stresses"] if s["strip"].startswith("x") and s["combination"] == "T"]
    least, greatest = along[0]["bottom_MPa"]
    assert all(a <= b for a, b in zip(least, greatest))
    pressed = next(p for p in document["precompression"] if p["strip"].startswith("x"))
    assert pressed["P_over_A_MPa"] == pytest.approx(4 * P / 0.3 / 1e3, rel=2e-3)
    assert pressed["analysis_MPa"] == pytest.approx(pressed["P_over_A_MPa"], rel=2e-3)
    # 8 P a / L2 over self-weight and 0.3 of the live load.
    assert pressed["balanced_share"] == pytest.approx(8 * 4 * P * 0.1 / 100 / (7.5 + 3.0), rel=0.01)
    assert document["equilibrium"][1]["residual"] < 1e-9


def test_each_jacked_end_slips_once():
    found = {}
    for ends in ("start", "both"):
        data = checked_strip()
        data["strands"][0]["draw_in_mm"] = 6.0
        data["tendons"][0]["stressed_from"] = ends
        (found[ends],) = results(solve_floor(floor_from(data)))["tendons"]
    for ends, slips in (("start", 1), ("both", 2)):
        assert found[ends]["extension_mm"] - found[ends]["extension_locked_mm"] == pytest.approx(6.0 * slips, abs=0.02)


def test_a_floor_without_tendons_has_none_in_its_results():
    data = strip([6.0], [tendon(points((0, -150, "free"), (6, -150, "free")))])
    data["tendons"], data["combinations"] = [], data["combinations"][:1]
    document = results(solve_floor(floor_from(data)))
    assert (document["tendons"], document["stresses"], document["precompression"]) == ([], [], [])
    assert not {"transfer_stress", "service_stress", "precompression"} & {r["check"] for r in document["verdict"]}
