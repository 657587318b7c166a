"""What tendons do to the checks and the audit: stresses, strength, punching, bonded bars, findings; by hand calculations."""

from types import SimpleNamespace

import numpy as np
import pytest
import shapely

from piastra.core.audit.audit import audit, mended
from piastra.core.checks.prestress import ConcreteStress, Precompression
from piastra.core.model import floor_from
from piastra.core.model.tendon_curve import curve
from piastra.core.model.tendons import ProfilePoint
from piastra.core.readings.bodies import at_centres, free_bodies_of, totals
from piastra.core.readings.responses import responses_of
from piastra.core.standards import standard_named
from piastra.core.tendons.arrangement import strands_over
from piastra.core.tendons.crossing_shear import carried_by
from piastra.core.tendons.crossings import crossings
from piastra.core.tendons.stresses import Sections, averaged, fibre_stress
from piastra.core.trace.amounts import plain
from piastra.exchange.responses_file import packed_bodies, unpacked_bodies
from piastra.exchange.tendon_results import frames
from tests.core.tendon_strips import (
    FREE,
    NO_LOSS,
    STRAND,
    P,
    checked_strip,
    middle_cut,
    points,
    reactions,
    rows_of,
    strip,
    tendon,
)
from tests.solving import solve_floor


def test_stresses_at_transfer_and_in_service_by_hand():
    outcome = solve_floor(floor_from(checked_strip()))
    c, found = middle_cut(outcome), outcome.prestress
    g, q, force = 7.5 * 10**2 / 8, 10.0 * 10**2 / 8, 8 * P
    W = 0.3**2 / 6
    named = {f.combination: f for f in outcome.combinations}
    from piastra.core.tendons.stresses import extremes

    low, high = extremes(found.averaged, [named["T"]], found.units, (1.0, 1.0))
    # -4 -+ (93.75 - 120) / 15: bottom -5.75, top -2.25.
    assert low[c, 0, 0] / 1e3 == pytest.approx((-force / 0.3 + (g - force * 0.1) / W) / 1e3, rel=3e-3)
    assert high[c, 1, 0] / 1e3 == pytest.approx((-force / 0.3 - (g - force * 0.1) / W) / 1e3, rel=6e-3)
    # In service the live load may be there or not, and the prestress be 5 % more or less.
    low, high = extremes(found.averaged, [named["C"]], found.units, (0.95, 1.05))
    assert high[c, 0, 0] / 1e3 == pytest.approx((-0.95 * force / 0.3 + (g + q - 0.95 * force * 0.1) / W) / 1e3, rel=5e-3)
    assert low[c, 0, 0] / 1e3 == pytest.approx((-1.05 * force / 0.3 + (g - 1.05 * force * 0.1) / W) / 1e3, rel=5e-3)
    # The verdict's row: greatest compression at transfer over 0.6 f_ck(t).
    verdict = {r.check: r for r in outcome.verdict}
    f_t = outcome.standard.prestress.at_transfer(outcome.floor.concretes[0], outcome.floor.prestress)[0]
    worst = min(extremes(found.averaged, [named["T"]], found.units, (1.0, 1.0))[0].min(), 0.0)
    pulled = extremes(found.averaged, [named["T"]], found.units, (1.0, 1.0))[1].max()
    wanted = max(-worst / 1e3 / (0.6 * f_t), pulled / 1e3 / (0.30 * f_t ** (2 / 3)))
    found_rows = [r for r in rows_of(outcome, "transfer_stress") if not r.id.part]
    assert max(r.utilisation for r in found_rows) == pytest.approx(wanted, rel=1e-6)
    # Jacked with 1000 of 1476 MPa, which is more of its limit.
    assert verdict["transfer_stress"].utilisation == pytest.approx(1000 / 1476)
    assert verdict["service_stress"].utilisation < 1
    pressed = next(r for r in rows_of(outcome, "precompression") if r.label.startswith("x"))
    assert {v.symbol: v.value for v in pressed.trace.steps[0].values}["sigma_cp"] == pytest.approx(4.0, rel=2e-3)
    # More than common practice is no failure.
    assert pressed.utilisation == 1.0
    assert pressed.status == "pass"


def test_aci_limits_the_tension_of_class_u_slabs_and_asks_for_precompression():
    data = checked_strip(standard="ACI 318-19")
    for c in data["combinations"]:
        c["limit_state"] = {"characteristic": "service", "quasi_permanent": "sustained"}.get(c["limit_state"], c["limit_state"])
    data["rebars"][0]["yield_MPa"] = 420.0
    outcome = solve_floor(floor_from(data))
    c = middle_cut(outcome)
    verdict = {r.check: r for r in outcome.verdict}
    # Bottom fibre -4 + (93.75 + 125 - 120) / 15 = 2.583 MPa against 0.5 sqrt(40).
    assert outcome.prestress.averaged[c, 0] @ next(
        f.full for f in outcome.combinations if f.combination == "C"
    ) / 1e3 == pytest.approx(2.583, rel=0.01)
    assert verdict["service_stress"].utilisation == pytest.approx(2.583 / (0.5 * 40**0.5), rel=0.02)
    # 0.9 over 4.0 MPa.
    assert verdict["precompression"].utilisation == pytest.approx(0.9 / 4.0, rel=5e-3)
    data["tendons"][0]["count"] = 1
    weak = {r.check: r for r in solve_floor(floor_from(data)).verdict}
    assert weak["precompression"].status == "fail"
    assert weak["service_stress"].status == "fail"


def test_tendons_carry_their_part_at_the_ultimate_limit_state():
    outcome = solve_floor(floor_from(checked_strip()))
    c = middle_cut(outcome)
    at = outcome.prestress.at
    assert at.A_p[c] == pytest.approx(8 * 150e-6, rel=1e-3)
    assert at.offset[c] == pytest.approx(0.1, abs=2e-3)
    # Unbonded at 1000 MPa: 1100 MPa, 1320 kN.
    assert at.faces[0].force[c] == pytest.approx(1320.0, rel=1e-3)
    own = outcome.steel.stations.faces[0]
    d = float(own.at.d[c])
    # m about the bars: 1.35 x 93.75 + 1.5 x 125 - 1320 x 0.1 + 1320 (d - 0.15); n -1320.
    m = 1.35 * 93.75 + 1.5 * 125 - 132 + 1320 * (d - 0.15)
    assert own.at.m[c] == pytest.approx(m, rel=4e-3)
    assert own.at.n[c] == pytest.approx(-1320.0, rel=1e-3)
    f_cd = 40e3 / 1.5
    x = d - (d * d - 2 * m / f_cd) ** 0.5
    needed = max(f_cd * x - 1320, 0.0) / (500e3 / 1.15)
    assert own.provisions["strength"][c] == pytest.approx(needed, abs=2e-5)
    # Half as many strands leave more to the bars.
    data = checked_strip()
    data["tendons"][0]["count"] = 4
    fewer = solve_floor(floor_from(data)).steel.stations.faces[0].provisions["strength"][c]
    assert fewer > needed + 5e-4


def flat_with_tendons(**more):
    from tests.floors import flat_slab

    data = flat_slab(2, 2, **more)
    data["strands"] = [{**STRAND, **FREE}]
    data["prestress"] = NO_LOSS
    data["load_cases"] += [
        {"id": "PF", "nature": "prestress", "effect": "final"},
        {"id": "PS", "nature": "prestress", "effect": "secondary"},
    ]
    for c in data["combinations"]:
        c["factors"]["PS" if c["limit_state"] == "ultimate" else "PF"] = 1.0
    return data


def test_tendons_that_fall_across_a_perimeter_carry_a_part_of_its_force():
    bare = flat_with_tendons()
    outline = np.array(bare["slabs"][0]["outline"])
    x0, x1 = float(outline[:, 0].min()), float(outline[:, 0].max())
    column = next(c for c in bare["columns"] if c["id"] == "C11")
    x, y = column["at"]
    L = x1 - x0
    low = -220.0
    data = flat_with_tendons()
    data["tendons"] = [{"id": "T", "strand": "S", "count": 4, "line": [[x0, y], [x1, y]], "jack_MPa": 1000.0, "profile": points(
        (0, -125, "free"), (0.45 * (x - x0), low, "level"), (x - x0, -40, "kink"), (x - x0 + 0.55 * (x1 - x), low, "level"), (L, -125, "free"))}]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    zone = next(z for z in outcome.zones if z.id == "C11")
    # Straight from the column down to the low points: 180 mm over 0.55 of the bay, on both sides.
    slope = 0.18 / (0.55 * (x - x0))
    carried = 2 * 4 * P * slope / np.sqrt(1 + slope**2)
    assert zone.action.carried == pytest.approx(carried, rel=5e-3)
    # And the concrete's compression helps.
    assert zone.place.check.shape.sigma_cp > 50


@pytest.mark.parametrize("bays", [(6.0, 7.0), pytest.param((7.0, 6.0), marks=pytest.mark.study)])
def test_bonded_bars_over_columns_follow_the_frames_and_are_none_in_the_field_of_a_wall(bays):
    data = flat_with_tendons(a=bays[0])
    for holder in ([data["slabs"][0], "outline"], *([c, "at"] for c in data["columns"])):
        holder[0][holder[1]] = (np.array(holder[0][holder[1]]) * [1.0, bays[1] / bays[0]]).tolist()
    data["standard"] = "ACI 318-19"
    data["rebars"][0]["yield_MPa"] = 420.0
    for c in data["combinations"]:
        c["limit_state"] = {"quasi_permanent": "service"}.get(c["limit_state"], c["limit_state"])
    outline = np.array(data["slabs"][0]["outline"])
    (x0, y0), (x1, y1) = outline.min(axis=0).tolist(), outline.max(axis=0).tolist()
    ys = np.arange(y0 + 0.4, y1, 0.8)
    data["tendons"] = [{"id": f"T{k}", "strand": "S", "line": [[x0, float(y)], [x1, float(y)]], "jack_MPa": 1200.0,
                        "profile": points((0, -125, "free"), (x1 - x0, -125, "free"))} for k, y in enumerate(ys)]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    layout, cuts, top = outcome.strips.layout, outcome.strips.cuts, outcome.steel.stations.faces[1]
    asked = {}
    for c in np.flatnonzero(top.provisions["bonded_support"] > 0):
        s = layout.strips[cuts.strip[c]]
        hold = s.holds[0] if abs(cuts.s[c] - s.start) < 0.05 else s.holds[1]
        asked.setdefault(hold.label, set()).add(round(float(top.provisions["bonded_support"][c] * top.at.band[c]), 9))
    # The inner column's frames are 6 and 7 m wide: the wider one counts in both directions, whichever that is.
    assert list(asked["C11"]) == [pytest.approx(0.00075 * 0.25 * max(bays), rel=0.02)]
    # Their sections lie across the plan: as wide as the bays, by 250 mm.
    drawn = {(f["direction"], f["governs"]): f for f in frames(outcome) if f["column"] == "C11"}
    for direction, wide in (("x", bays[1]), ("y", bays[0])):
        f = drawn[direction, wide == max(bays)]
        (ax, ay), (bx, by) = f["ends"]
        assert np.hypot(bx - ax, by - ay) == pytest.approx(wide, rel=0.02)
        assert f["area_m2"] == pytest.approx(0.25 * wide, rel=0.02)
        assert abs(bx - ax if direction == "x" else by - ay) < 1e-6
    walls = {**data, "walls": [{"id": "W", "line": [[bays[0], 0.4 * bays[1]], [bays[0], 1.6 * bays[1]]], "thickness_m": 0.25, "concrete": data["concretes"][0]["id"],
                                "below": {"height_m": 3.0, "far_end": "fixed"}}]}  # fmt: skip
    walls["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    held = solve_floor(floor_from(walls))
    top, cuts, layout = held.steel.stations.faces[1], held.strips.cuts, held.strips.layout
    for c in np.flatnonzero(top.provisions["bonded_support"] > 0):
        s = layout.strips[cuts.strip[c]]
        assert "W" not in {h.label for h, at in zip(s.holds, (s.start, s.end)) if h and abs(cuts.s[c] - at) < 0.05}


def spread_over(ys, strands=2, ends=12.2, fy=420.0, area=150.0, drop=None, apart=150):
    """Tendons along x at ``ys``, of so many strands, on a slab of 250 mm over 3 x 3 columns of 400 mm."""
    data = flat_with_tendons()
    data["standard"] = "ACI 318-19"
    data["rebars"][0]["yield_MPa"] = fy
    data["strands"][0]["area_mm2"] = area
    next(m for m in data["mats"] if m["id"] == "bottom x")["spacing_mm"] = apart
    if drop:
        box = [[5.0, 5.0], [7.0, 5.0], [7.0, 7.0], [5.0, 7.0]]
        data["thickenings"] = [{"id": "D", "kind": "drop_panel", "outline": box, "thickness_m": drop}]
    for c in data["combinations"]:
        c["limit_state"] = {"quasi_permanent": "service"}.get(c["limit_state"], c["limit_state"])
    data["tendons"] = [{"id": f"T{k}", "strand": "S", "count": strands, "line": [[-0.2, float(y)], [ends, float(y)]], "jack_MPa": 1200.0,
                        "profile": points((0, -125, "free"), (ends + 0.2, -125, "free"))} for k, y in enumerate(ys)]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    across = {r.id.of.id: r for r in rows_of(outcome, "flexure") if r.id.part == "integrity"}
    (spacing,) = rows_of(outcome, "tendon_spacing")
    return spacing, across


def test_tendons_lie_no_farther_apart_than_aci_has_them_in_one_direction():
    """min(8 x 0.25, 1.5) = 1.5 m; one left out leaves 2.4 m, and turned by 90 degrees the same floor has the same row."""
    ys = np.arange(0, 12.1, 1.2)
    row, _ = spread_over(ys)
    assert row.utilisation == pytest.approx(1.2 / 1.5, rel=1e-6)
    row, _ = spread_over(np.delete(ys, 4))
    assert row.utilisation == pytest.approx(2.4 / 1.5, rel=1e-6)
    assert row.status == "fail"
    assert 3.6 < row.at[1] < 6.0
    # Beyond the outermost the distance to it counts, and where there is none on either side nothing does.
    row, _ = spread_over(ys[2:])
    assert 2.2 / 1.5 < row.utilisation < 2.6 / 1.5
    assert row.at[1] < 0.6
    # A half-inch strand is 98.7 mm2 and 8 h governs below 187 mm.
    rules = standard_named("ACI 318-19", {}).prestress.arrangement
    assert rules.greatest_spacing(np.array([0.15, 0.25])) == pytest.approx([1.2, 1.5])
    assert standard_named("EN 1992-1-1", {}).prestress.arrangement is None


def test_two_strands_or_bottom_bars_in_their_place_cross_every_column_to_aci():
    """Along y there are bars only: 16 at 150 over 0.3 m give 402 mm2, 2.1 x 400 x 225 / 420 = 450 mm2 are wanted (4.5 sqrt(f'c) = 25,
    0.37 sqrt(30) = 2.03 MPa is less); of 500 MPa 378."""
    ys = np.arange(0, 12.1, 1.2)
    _, across = spread_over(ys)
    assert set(across) == {f"C{i}{j}" for i in range(3) for j in range(3)}
    area = np.pi * 16**2 / 4 / 0.15 * 0.3
    assert [r.utilisation for r in across.values()] == pytest.approx(9 * [2.1 * 400 * 225 / 420 / area], rel=1e-6)
    _, across = spread_over(ys, fy=500.0)
    assert [r.utilisation for r in across.values()] == pytest.approx(9 * [2.1 * 400 * 225 / 500 / area], rel=1e-6)
    # With a drop of 400 mm its own depth counts: 2.1 x 400 x 375 / 420 = 750 mm2.
    _, across = spread_over(ys, drop=0.4)
    assert across["C11"].utilisation == pytest.approx(2.1 * 400 * 375 / 420 / area, rel=1e-6)
    # Bars along x at twice the distance give 201 mm2: two strands of half an inch stand for them, two of less do not.
    for strand, wanted in ((98.7, 2.1 * 400 * 225 / 420 / area), (93.0, 2 * 2.1 * 400 * 225 / 420 / area)):
        _, across = spread_over(ys, area=strand, apart=300)
        assert across["C11"].utilisation == pytest.approx(wanted, rel=1e-6)
    # 0.37 sqrt(40) = 2.34 MPa is more than 2.1: 501 mm2.
    rules = standard_named("ACI 318-19", {}).prestress.arrangement
    assert rules.bars_instead(40.0, 420.0, 0.4, 0.225).result.value == pytest.approx(501.4, rel=1e-3)
    # One strand is none too few where the bars suffice; and it says so.
    _, across = spread_over(ys, strands=1, fy=500.0)
    assert across["C11"].utilisation == pytest.approx(2.1 * 400 * 225 / 500 / area, rel=1e-6)
    assert any(s.clause == "ACI 318-19, 8.7.5.6.3.1" for s in across["C11"].trace.steps)


def test_strands_count_that_run_past_a_columns_middle_between_its_bars():
    square = shapely.box(-0.2, -0.2, 0.2, 0.2)
    level = [ProfilePoint(s_m=0.0, z_mm=0.0, tangent="free"), ProfilePoint(s_m=0.5, z_mm=0.0, tangent="free")]
    lines = [
        [[-3, 0.1], [3, 0.1]],
        [[-3, 0.17], [3, 0.17]],
        [[-3, 0], [0.05, 0]],
        [[-3, 0], [-0.05, 0]],
        [[0, -3], [0, 3]],
        [[-3, -1], [3, 1]],
    ]
    curves = [curve(line, level) for line in lines]
    for k, counts in enumerate((1, 0, 1, 0, 0, 1)):
        assert strands_over([square], np.array([0.0]), 0.05, [curves[k]], [1])[0] == counts
    assert strands_over([square, square], np.array([0.0, np.pi / 2]), 0.05, curves, [2] * 6).tolist() == [6.0, 2.0]


def test_a_tendon_at_an_angle_counts_with_its_cosine():
    data = strip([10.0], [], width=4.0, mesh={"size_m": 0.4})
    length = float(np.hypot(8.0, 3.0))
    data["tendons"] = [
        {
            "id": "T",
            "strand": "S",
            "line": [[1.0, 0.5], [9.0, 3.5]],
            "jack_MPa": 1000.0,
            "profile": points((0, -150, "free"), (length, -150, "free")),
        }
    ]
    outcome = solve_floor(floor_from(data))
    c = middle_cut(outcome)
    assert outcome.prestress.at.force[c] == pytest.approx(P * 8 / length, rel=1e-6)
    assert outcome.prestress.at.A_p[c] == pytest.approx(150e-6 * 8 / length, rel=1e-6)


# The audit


def findings(data):
    return {f.rule: f for f in audit(floor_from(data))}


def test_a_tendon_with_too_little_cover_is_told_and_mended():
    data = strip([10.0], [tendon(points((0, -150, "free"), (5, -285, "level"), (10, -150, "free")))])
    # 25 mm of cover and half a sheath of 16 mm leave -267.
    found = findings(data)["tendon cover"]
    assert plain(found.what).startswith("has 18 mm too little cover 5.00 m")
    mended_data = mended(data, found.mend)
    assert mended_data["tendons"][0]["profile"][1]["z_mm"] == -267.0
    assert "tendon cover" not in findings(mended_data)
    data["thickenings"] = [{"id": "D", "outline": [[3, 0], [7, 0], [7, 1], [3, 1]], "thickness_m": 0.5}]
    assert "tendon cover" not in findings(data)


def test_tendons_that_meet_leave_the_floor_or_act_nowhere_are_told():
    data = strip([10.0], [tendon(points((0, -150, "free"), (10, -150, "free")))], width=4.0)
    data["tendons"].append(
        {
            "id": "A",
            "strand": "S",
            "line": [[5.0, 0.0], [5.0, 4.0]],
            "jack_MPa": 1000.0,
            "profile": points((0, -160, "free"), (4, -160, "free")),
        }
    )
    assert plain(findings(data)["tendon clash"].what) == "and tendon T meet at one level: 6 mm of their sheaths"
    data["tendons"][1]["profile"] = points((0, -166, "free"), (4, -166, "free"))
    assert "tendon clash" not in findings(data)
    data["openings"] = [{"id": "O", "outline": [[2, 0.2], [3, 0.2], [3, 0.8], [2, 0.8]]}]
    assert plain(findings(data)["tendon out"].what) == "runs 0.90 m through opening O"
    data["load_cases"] = data["load_cases"][:1]
    data["combinations"] = [{"id": "U", "limit_state": "ultimate", "factors": {"G": 1.35}}]
    assert findings(data)["no prestress case"].id == "T"


def test_a_combination_without_what_tendons_do_under_it_is_told_and_mended():
    data = strip([10.0], [tendon(points((0, -150, "free"), (10, -150, "free")))])
    assert "tendons left out" not in findings(data)
    del data["combinations"][0]["factors"]["PS"]
    found = findings(data)["tendons left out"]
    assert (found.id, found.what) == ("U", "leaves out the tendons: their secondary effects (PS) act in it")
    assert mended(data, found.mend)["combinations"][0]["factors"] == {"G": 1.35, "PS": 1.0}


def test_totals_across_a_slice_tell_secondary_moments_as_the_reactions_do():
    L, half = 8.0, 4.0
    profile = points((0, -150, "free"), (half, -240, "level"), (L, -90, "free"), (L + half, -240, "level"), (2 * L, -150, "free"))
    outcome = solve_floor(floor_from(strip([L, L], [tendon(profile)])))
    read = responses_of(outcome)
    found = unpacked_bodies(packed_bodies(free_bodies_of(outcome), read.elements))
    unit = outcome.loads.of_case("PS")[0]
    moment = totals(read, found, ((3.1, 0.0), (3.1, 1.0)))[0]
    assert abs(moment[unit]) == pytest.approx(abs(reactions(outcome, "PS")[0]) * 3.1, rel=1e-3)
    assert abs(moment[outcome.loads.of_case("PF")[0]]) > 2 * abs(moment[unit])
    # By element, all across: the same once more.
    middle = at_centres(read, found)[:, 4:7]
    xy = outcome.meshed.elements.xy[outcome.meshed.elements.nodes[:, :4]].mean(axis=1)
    here = np.abs(xy[:, 0] - xy[np.abs(xy[:, 0] - 3.1).argmin(), 0]) < 1e-6
    assert middle[here, 0, unit].mean() == pytest.approx(reactions(outcome, "PS")[0] * xy[here, 0].mean(), rel=0.03)


def test_a_tendon_that_is_jacked_too_hard_fails():
    data = checked_strip()
    data["tendons"][0]["jack_MPa"] = 1500.0
    row = next(r for r in solve_floor(floor_from(data)).rows if r.id.part == "jack")
    assert row.utilisation == pytest.approx(1500 / (0.9 * 1640))
    assert row.status == "fail"


# No pass that nothing proved


def status(outcome):
    return {r.check: r.status for r in outcome.verdict}


@pytest.mark.parametrize(
    "factors", [{"G": 1.35, "Q": 1.5}, {"G": 1.35, "Q": 1.5, "PF": 1.0}, {"G": 1.35, "Q": 1.5, "PS": 1.0, "PF": 1.0}]
)
def test_strength_is_not_proved_by_combinations_in_which_tendons_act_otherwise(factors):
    data = checked_strip()
    fine = status(solve_floor(floor_from(data)))
    assert fine["flexure"] == "pass"
    data["combinations"][0]["factors"] = factors
    outcome = solve_floor(floor_from(data))
    assert status(outcome)["flexure"] == "uncovered"
    told = next(r.reason for r in outcome.rows if r.check == "flexure" and r.status == "uncovered")
    assert "effect secondary" in told


def test_service_and_transfer_are_not_proved_without_the_tendons_force_nor_without_a_limit():
    data = checked_strip()
    del data["combinations"][1]["factors"]["PF"], data["combinations"][2]["factors"]["PT"]
    outcome = solve_floor(floor_from(data))
    assert "pass" not in (status(outcome)["service_stress"], status(outcome)["transfer_stress"])
    for check, label in (("service_stress", "combination C"), ("transfer_stress", "combination T")):
        assert [r.label for r in rows_of(outcome, check) if r.status == "uncovered"] == [label]
    data = checked_strip()
    data["combinations"] = [
        data["combinations"][0],
        {"id": "F", "limit_state": "frequent", "factors": {"G": 1.0, "Q": 0.5, "PF": 1.0}},
    ]
    outcome = solve_floor(floor_from(data))
    # Under the frequent combination EN 1992-1-1 limits no stress.
    assert status(outcome)["service_stress"] == "unchecked"
    assert status(outcome)["transfer_stress"] == "unchecked"


def test_tendons_without_a_strip_are_told_and_not_left_out_of_the_verdict():
    outcome = solve_floor(floor_from(checked_strip()))
    bare = SimpleNamespace(floor=outcome.floor, standard=outcome.standard, prestress=None)
    for check in (ConcreteStress("service_stress", False), Precompression()):
        assert check.rows(bare).reason.startswith("the floor has tendons, but no strip")


def test_bonded_tendons_without_a_frequent_combination_are_not_passed_over():
    data = checked_strip()
    data["strands"][0]["bond"] = "bonded"
    outcome = solve_floor(floor_from(data))
    assert status(outcome)["crack_width"] == "uncovered"
    assert "frequent" in next(r.reason for r in rows_of(outcome, "crack_width") if r.status == "uncovered")


def test_stresses_of_a_beam_with_tendons_by_hand():
    """A web of 400 x 600 below a slab of 300 x 4000 flush with its top: A = 1.2 + 0.12 = 1.32 m2, centroid (1.2 x 0.15 + 0.12 x 0.45) / 1.32 = 177.3 mm below the
    top; with the beam's own moment of the free body and the tendons' N = -8 P and their moment about the centroid."""
    data = checked_strip(width=4.0)
    data["beams"] = [{"id": "B1", "line": [[0.0, 2.0], [10.0, 2.0]], "width_m": 0.4, "depth_m": 0.6, "concrete": "C"}]
    data["tendons"][0]["line"] = [[0.0, 2.0], [10.0, 2.0]]
    outcome = solve_floor(floor_from(data))
    found, layout, cuts = outcome.prestress, outcome.strips.layout, outcome.strips.cuts
    (number,) = (k for k, s in enumerate(layout.strips) if s.beam == "B1")
    mine = np.flatnonzero(cuts.strip == number)
    c = int(mine[np.abs(cuts.s[mine] - 5.0).argmin()])
    b = float(cuts.width[c])
    A = b * 0.3 + 0.4 * 0.3
    z = (b * 0.3 * 0.15 + 0.4 * 0.3 * 0.45) / A
    second = b * 0.3**3 / 12 + b * 0.3 * (z - 0.15) ** 2 + 0.4 * 0.3**3 / 12 + 0.4 * 0.3 * (0.45 - z) ** 2
    own = found.own
    assert (own.A[c], own.I[c], own.top[c], own.bottom[c]) == pytest.approx((A, second, z, 0.6 - z), rel=1e-6)
    named = {f.combination: f for f in outcome.combinations}
    M, N = ((cuts.forces[c, q] @ named["T"].full) for q in (0, 3))
    for check in ("transfer_stress", "service_stress", "precompression"):
        rows = [r for r in rows_of(outcome, check) if r.id.of.id == "B1"]
        assert [(r.id.of.kind, r.id.part) for r in rows] == [("beams", "span 1")]
        assert rows[0].status in ("pass", "fail")
    f_t = outcome.standard.prestress.at_transfer(outcome.floor.concretes[0], outcome.floor.prestress)[0]
    sigma = (N / A + M / second * (0.6 - z), N / A - M / second * z)
    here = max(max(-s / (600 * f_t) for s in sigma), max(s / (300 * f_t ** (2 / 3)) for s in sigma))
    row = next(r for r in rows_of(outcome, "transfer_stress") if r.id.of.id == "B1")
    assert row.utilisation >= here * (1 - 1e-9)
    # The tendons lie highest in the middle's section: it governs or one beside it with nearly the same moment does.
    assert row.utilisation == pytest.approx(here, rel=0.1)
    (pressed,) = (r for r in rows_of(outcome, "precompression") if r.id.of.id == "B1")
    assert pressed.trace.steps[0].values[0].value == pytest.approx(-found.axial[mine].mean() / A / 1e3, rel=1e-6)


def bonded_strip(q=25.0, exposure="XC3", share=0.5):
    data = checked_strip(exposure=exposure)
    data["strands"][0]["bond"] = "bonded"
    data["loads"][0]["q_kPa"] = q
    data["combinations"].append({"id": "F", "limit_state": "frequent", "factors": {"G": 1.0, "Q": share, "PF": 1.0}})
    return data


def test_cracks_beside_bonded_tendons_are_limited_under_the_frequent_combination():
    """7.5 and 0.5 x 25 kN/m2 on 10 m: 250 kNm/m less 0.9 x 1200 x 0.1; with N = -1080 kN/m about the bars; 7.3.4 with its own numbers, over 0.2 mm."""
    outcome = solve_floor(floor_from(bonded_strip()))
    row = next(r for r in rows_of(outcome, "crack_width") if r.id.face == "bottom" and r.utilisation)
    assert row.combination == "F"
    c = middle_cut(outcome)
    at = outcome.steel.stations.faces[0].at
    d, h, A, bar, cover = (float(getattr(at, k)[c]) for k in ("d", "h", "given", "bar", "cover"))
    n = -0.9 * 8 * P
    m = 93.75 + 0.5 * 312.5 + n * 0.1 - n * (d - h / 2)
    concrete, rebar = outcome.floor.concretes[0], outcome.floor.rebars[0]
    E_c, f_ct = outcome.standard.materials.modulus(concrete), outcome.standard.materials.f_ctm(concrete)
    alpha = 2e8 * (1 + concrete.creep_coefficient) / E_c
    t = alpha * A / d
    x = d * (np.sqrt(t * t + 2 * t) - t)
    sigma = (m / (d - x / 3) + n) / A
    h_c = min(2.5 * (h - d), (h - x) / 3, h / 2)
    rho = A / h_c
    strain = max(sigma - 0.4 * f_ct / rho * (1 + 2e8 / E_c * rho), 0.6 * sigma) / 2e8
    w = strain * (3.4 * cover + 0.8 * 0.5 * 0.425 * bar / rho)
    assert sigma > 0
    assert row.utilisation == pytest.approx(w / 0.2e-3, rel=0.02)
    assert rebar.E_MPa == 200000.0
    # Among chlorides the concrete is to stay pressed under the frequent combination, which service stresses tell.
    for exposure, fails in (("XC3", False), ("XS1", True)):
        rows = [
            r for r in rows_of(solve_floor(floor_from(bonded_strip(13.0, exposure))), "service_stress") if r.combination == "F"
        ]
        assert any(r.status == "fail" for r in rows) == fails, exposure


def test_one_bonded_tendon_among_others_asks_for_compressed_concrete():
    data = bonded_strip(13.0, "XS1")
    data["strands"].append({**data["strands"][0], "id": "free", "bond": "unbonded"})
    data["tendons"] = [{**data["tendons"][0], "count": 4}, {**data["tendons"][0], "id": "T9", "strand": "free", "count": 4}]
    rows = rows_of(solve_floor(floor_from(data)), "service_stress")
    assert any(r.status == "fail" and r.combination == "F" for r in rows)


def test_a_tendon_anchored_at_an_edge_carries_only_across_the_inner_part_of_a_perimeter():
    c = curve([[0, 0], [10, 0]], [ProfilePoint(**p) for p in points((0, -100, "free"), (4, -260, "kink"), (10, -100, "free"))])
    force = np.full(len(c.s), 100.0)
    near = shapely.box(-0.5, -1, 1.05, 1)
    up = 100 * 0.04 / np.sqrt(1 + 0.04**2)
    assert carried_by(near, [c], [force]) == pytest.approx(up)
    # Across a column's perimeter in the field, both sides; rising outwards it presses instead.
    assert carried_by(shapely.box(3.03, -1, 4.97, 1), [c], [force]) == pytest.approx(
        -up - 100 * (0.16 / 6) / np.sqrt(1 + (0.16 / 6) ** 2)
    )
    assert carried_by(shapely.box(20, -1, 21, 1), [c], [force]) == 0.0


# What the tests above would let pass


def test_what_tendons_press_and_what_tension_pulls_by_hand():
    outcome = solve_floor(floor_from(checked_strip()))
    c, found = middle_cut(outcome), outcome.prestress
    force, W = 8 * P, 0.3**2 / 6
    assert found.pressed[:, c] == pytest.approx([force / 0.3 + force * 0.1 / W, force / 0.3 - force * 0.1 / W], rel=5e-3)
    # Characteristic with 0.95 of the prestress: bottom and top in service; the triangle of tension.
    M, N = 93.75 + 125 - 0.95 * force * 0.1, -0.95 * force
    bottom, top = N / 0.3 + M / W, N / 0.3 - M / W
    assert found.fibre[0, c] == pytest.approx(bottom, rel=0.01)
    assert found.pull[0, c] == pytest.approx(bottom**2 * 0.3 / (2 * (bottom - top)), rel=0.02)


def test_sections_side_by_side_at_two_levels_have_one_plane_of_stress():
    """sigma = a + b zeta over two rectangles: each one's own force and moment give that stress at the outermost fibres again."""
    a, b = -1500.0, 4000.0
    width, h, zeta = np.array([1.0, 3.0]), np.array([0.5, 0.2]), np.array([0.12, -0.03])
    A, I = width * h, width * h**3 / 12
    forces = np.zeros((2, 4, 1))
    forces[:, 0, 0], forces[:, 3, 0] = b * I, A * (a + b * zeta)
    strips = [SimpleNamespace(axis=0, number=0, beam="") for _ in range(2)]
    cuts = SimpleNamespace(strip=np.array([0, 1]), s=np.zeros(2), forces=forces)
    own = Sections(A, I, zeta, h / 2, h / 2)
    whole = averaged(SimpleNamespace(strips=strips), cuts, own)
    lowest, highest = (zeta + h / 2).max(), (zeta - h / 2).min()
    assert fibre_stress(cuts, own, whole)[:, :, 0] == pytest.approx(np.array([[a + b * lowest, a + b * highest]] * 2))
    assert fibre_stress(cuts, own)[1, :, 0] == pytest.approx([a + b * 0.07, a - b * 0.13])


def test_precompression_to_aci_is_that_of_the_restrained_floor():
    data = checked_strip(standard="ACI 318-19", width=6.0, mesh={"size_m": 0.4})
    for c in data["combinations"]:
        c["limit_state"] = {"characteristic": "service", "quasi_permanent": "sustained"}.get(c["limit_state"], c["limit_state"])
    data["rebars"][0]["yield_MPa"] = 420.0
    first = data["tendons"][0]
    data["tendons"] = [
        {**first, "id": f"T{k}", "line": [[0.0, y], [10.0, y]]} for k, y in enumerate((0.5, 1.5, 2.5, 3.5, 4.5, 5.5))
    ]
    free = next(r for r in solve_floor(floor_from(data)).verdict if r.check == "precompression").utilisation
    data["walls"] = [{"id": f"W{k}", "line": [[x, 0.0], [x, 6.0]], "thickness_m": 1.0, "concrete": "C", "below": {"height_m": 3.0, "far_end": "fixed"},
                      "top": "hinged"} for k, x in enumerate((0.0, 10.0))]  # fmt: skip
    data["supports"] = []
    held = next(r for r in solve_floor(floor_from(data)).verdict if r.check == "precompression").utilisation
    assert free == pytest.approx(0.9 / 4.0, rel=5e-3)
    share = 3 * 30e6 / 12 / 27 / (3 * 30e6 / 12 / 27 + 2 * 30e6 * 0.3 / 10)
    assert share > 0.1
    assert held == pytest.approx(0.9 / (4.0 * (1 - share)), rel=0.02)


def test_unbonded_strength_to_aci_at_a_station():
    data = checked_strip(standard="ACI 318-19")
    for c in data["combinations"]:
        c["limit_state"] = {"characteristic": "service", "quasi_permanent": "sustained"}.get(c["limit_state"], c["limit_state"])
    data["rebars"][0]["yield_MPa"] = 420.0
    outcome = solve_floor(floor_from(data))
    # d_p 0.25: rho_p 0.0048; 10 / 0.3 m: 1000 + 70 + 40 / 0.48 = 1153.3 MPa, phi 0.9.
    assert outcome.prestress.at.faces[0].force[middle_cut(outcome)] == pytest.approx(0.9 * 1.2e-3 * 1153.3e3, rel=2e-3)
    # Of the top face's bars the tendon lies 0.05 below: rho_p 0.024.
    assert outcome.prestress.at.faces[1].force[middle_cut(outcome)] == pytest.approx(
        0.9 * 1.2e-3 * (1070 + 0.4 / 0.024) * 1e3, rel=5e-3
    )


def test_bars_of_a_floor_with_tendons_are_stressed_under_both_bounds_of_the_prestress():
    """With r_inf = 0.95 in the standard's place, or in the combination's with r = 1: the same stress; less prestress stresses bars more."""

    def use(share, **r):
        data = checked_strip()
        data["parameters"] = {"r_inf": 1.0, "r_sup": 1.0, **r}
        # Much load, so that bars are stretched.
        data["loads"] = [{**l, "q_kPa": 4 * l["q_kPa"]} if "q_kPa" in l else l for l in data["loads"]]
        for c in data["combinations"]:
            if c["limit_state"] == "characteristic":
                c["factors"]["PF"] = share
        rows = [r for r in solve_floor(floor_from(data)).rows if r.check == "stress_limits" and r.utilisation is not None]
        return max(r.utilisation for r in rows)

    mean = use(1.0)
    assert 0 < mean < 99
    assert use(1.0, r_inf=0.8) == pytest.approx(use(0.8), rel=1e-9)
    assert use(1.0, r_inf=0.8, r_sup=1.2) == pytest.approx(use(0.8), rel=1e-9)
    assert use(0.8) > 1.02 * mean


def test_tendons_on_a_floors_edge_count_whole_and_those_on_a_border_of_strips_half_on_each_side():
    """However rounding has them lie: two strips along x of 2 and 3 m, cut in their middle, and tendons of 100 kN along edges, border and field."""
    outlines = shapely.box(0, 0, 10, 2), shapely.box(0, 2, 10, 5)
    layout = SimpleNamespace(strips=[SimpleNamespace(outline=o, direction="x") for o in outlines])
    cuts = SimpleNamespace(
        ends=np.array([[[5.0, 2.0], [5.0, 0.0]], [[5.0, 5.0], [5.0, 2.0]]]), strip=np.arange(2), angle=np.zeros(2)
    )
    for off in (-1e-9, 0.0, 1e-9):
        curves = [curve([[0, y + off], [10, y + off]], [ProfilePoint(**p) for p in points((0, 0, "free"), (10, 0, "free"))])
                  for y in (0.0, 1.0, 2.0, 5.0)]  # fmt: skip
        found = crossings(layout, cuts, curves, [np.full(len(c.s), 100.0) for c in curves], 0.0)
        force = np.bincount(found.cut, found.force * found.along * found.share)
        assert force == pytest.approx([250.0, 150.0])


def test_tendons_that_run_across_a_strip_but_for_a_millimetre_make_it_no_prestressed_one():
    data = checked_strip(standard="ACI 318-19")
    data["tendons"][0]["line"][1][1] += 0.001
    assert {r.label[0] for r in rows_of(solve_floor(floor_from(data)), "precompression")} == {"x"}
