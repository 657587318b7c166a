"""What the checks say of what they did not reach: no pass that nothing proved."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from piastra.core.checks import CHECKS, Context
from piastra.core.checks.flexure import Flexure
from piastra.core.checks.row import Ref, Row, RowId, checked, uncovered, worst
from piastra.core.model import floor_from
from piastra.core.trace import Trace
from tests.core.history_strips import strip
from tests.floors import flat_slab, one_bay
from tests.solving import solve_floor


def verdict(outcome):
    return {r.check: r for r in outcome.verdict}


def of(outcome, check):
    return {(r.id.of.kind, r.id.of.id): r for r in outcome.rows if r.check == check}


def row(use):
    return checked(RowId("flexure", Ref("strips", str(use))), "strip", use, None, Trace("U1"))


BARE = uncovered(RowId("flexure", Ref("floor", "")), "corner", "lies in no strip")


@given(st.lists(st.floats(0, 3), min_size=1), st.booleans())
def test_a_check_passes_where_every_row_does_and_nothing_is_left_out(uses, bare):
    found = worst("flexure", [row(u) for u in uses] + [BARE] * bare)
    assert found.utilisation == max(uses)
    assert found.status == ("fail" if max(uses) > 1 else "uncovered" if bare else "pass")


def test_a_check_that_reaches_nothing_is_no_pass():
    """Neither a pass nor a fault: the check says that it looked at nothing."""
    found = worst("precompression", [])
    assert (found.status, found.utilisation) == ("unchecked", None)
    assert "nothing" in found.reason


def test_the_reason_names_three_places_and_says_when_there_are_more():
    bare = [replace(BARE, label=f"place {k}") for k in range(5)]
    assert worst("flexure", [row(0.5), *bare[:3]]).reason.endswith("place 0, place 1, place 2")
    assert worst("flexure", [row(0.5), *bare]).reason.endswith("place 0, place 1, place 2 …")
    assert worst("flexure", bare).reason == "lies in no strip; and 4 more"


def test_a_trace_says_where_along_the_clear_span_its_station_lies(slab):
    strips = {s.id: s for s in slab.strips.layout.strips}
    shares = set()
    for r in Flexure().rows(context(slab)):
        strip = strips[r.id.of.id]
        share = 100 * (r.id.station - strip.start) / (strip.end - strip.start)
        assert f" {share:.0f} % of the clear span" in r.trace.steps[0].note
        shares.add(round(share))
    assert len(shares) > 1


def test_the_limit_itself_passes_and_what_is_no_number_does_not():
    assert row(1.0).status == "pass"
    # What is laid to its limit is over it by rounding as often as not.
    assert row(1.0 + 1e-12).status == "pass"
    assert row(1.0 + 1e-8).status == "fail"
    assert row(float("nan")).status == "fail"
    assert worst("flexure", [BARE]).status == "uncovered"


@pytest.fixture(scope="module")
def slab():
    data = flat_slab(2, 2)
    for mat in data["mats"]:
        mat.update(bar_mm=20, spacing_mm=100)
    return solve_floor(floor_from(data))


def context(outcome, **other):
    factors = outcome.combinations
    known = Context(
        outcome.floor, outcome.standard, outcome.loads.units, [f for f in factors if f.limit_state == "ultimate"],
        [f for f in factors if f.limit_state == "quasi_permanent"], [f for f in factors if f.lasting], outcome.plan.region,
        outcome.strips.layout, outcome.strips.cuts, outcome.steel.stations, [], (), (), None, None, outcome.sags, frozenset(), 0.0,
    )  # fmt: skip
    return replace(known, **other)


def test_every_strip_has_a_row_also_one_without_a_station_and_one_without_a_moment(slab):
    strips = slab.strips.layout.strips
    rows = Flexure().rows(context(slab))
    assert {r.id.of.id for r in rows} == {s.id for s in strips}
    assert {r.status for r in rows} == {"pass"}
    # Its stations taken away, the first strip is told, and the check passes no more.
    cuts = slab.strips.cuts
    gone = replace(cuts, strip=np.where(cuts.strip == 0, -1, cuts.strip))
    rows = Flexure().rows(context(slab, cuts=gone))
    assert [r.id.of.id for r in rows if r.status == "uncovered"] == [strips[0].id]
    assert worst("flexure", rows).status == "uncovered"
    told = next(r for r in rows if r.status == "uncovered")
    first = strips[0]
    assert shapely.contains_xy(first.outline, *told.at)
    # A strip that asks for no steel is checked all the same, and one whose figures are no numbers fails.
    use = slab.steel.stations.utilisation
    idle = np.where(cuts.strip == 0, 0.0, use)
    rows = Flexure().rows(context(slab, steel=replace(slab.steel.stations, steel=idle, spacing=0 * idle)))
    assert next(r for r in rows if r.id.of.id == strips[0].id).utilisation == 0.0
    spoilt = np.where(cuts.strip == 0, np.nan, use)
    rows = Flexure().rows(context(slab, steel=replace(slab.steel.stations, steel=spoilt)))
    assert next(r for r in rows if r.id.of.id == strips[0].id).status == "fail"


def raft(q, patterned):
    """A strip of 12 m by 1 m on a bedding that only presses, with load on its right third."""
    data = one_bay()
    for key in ("openings", "thickenings", "columns", "walls", "probes"):
        data[key] = []
    outline = [[0, 0], [12, 0], [12, 1], [0, 1]]
    data["slabs"][0].update(outline=outline)
    data["supports"] = [{"id": "B", "kind": "area", "outline": outline, "modulus_kN_m3": 10000, "compression_only": True}]
    data["load_cases"] = [
        {"id": "G", "nature": "self_weight"},
        {"id": "D", "nature": "dead"},
        {"id": "Q", "nature": "live", "pattern": patterned},
    ]
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": q}]
    data["panels"] = [{"id": f"P{i}", "outline": [[4 * i, 0], [4 * i + 4, 0], [4 * i + 4, 1], [4 * i, 1]]} for i in range(3)]
    data["mats"] = flat_slab(1, 1)["mats"]
    return data


def test_a_bedding_that_lets_go_in_some_arrangement_leaves_no_check_passed():
    """All load on: it presses everywhere. One panel loaded: the far part lifts, and values over arrangements are untrue."""
    whole = solve_floor(floor_from(raft(60.0, patterned=False)))
    assert not whole.combined.u
    assert not whole.combined.loose
    pattern = solve_floor(floor_from(raft(60.0, patterned=True)))
    assert not pattern.combined.u
    # With 0.3 of the live load the weight of the slab holds it down.
    assert pattern.combined.loose == {"U1"}
    told = [r for r in pattern.rows if r.id.of == Ref("combinations", "U1")]
    assert "flexure" in {r.check for r in told}
    assert all("bedding" in r.reason for r in told)
    # Cracks are checked under S1, which presses everywhere.
    assert {r.check for r in pattern.verdict if r.status == "pass"} <= {"crack_width"}


def test_what_presses_on_a_small_area_is_told_where_no_zone_checks_it():
    data = flat_slab(2, 2)
    data["loads"] += [
        {"id": "foot", "case": "Q", "kind": "area", "outline": [[3, 3], [3.4, 3], [3.4, 3.4], [3, 3.4]], "q_kPa": 900.0},
        {"id": "tank", "case": "Q", "kind": "area", "outline": [[7, 7], [9, 7], [9, 9], [7, 9]], "q_kPa": 9.0},
        {"id": "post", "case": "Q", "kind": "point", "at": [9, 3], "F_kN": 40.0},
        {"id": "turn", "case": "Q", "kind": "point", "at": [9, 4], "Mx_kNm": 4.0},
    ]
    outcome = solve_floor(floor_from(data))
    bare = {r.id.of.id for r in outcome.rows if r.check == "punching" and r.status == "uncovered"}
    assert bare == {"post"}
    foot = next(z for z in outcome.zones if z.id == "foot")
    assert foot.source.kind == "patch"
    assert foot.source.up is False
    assert "give it the sides" in next(r.reason for r in outcome.rows if r.id.of.id == "post" and r.check == "punching")
    assert verdict(outcome)["punching"].status in ("uncovered", "fail")
    at = {r.id.of.id: r.at for r in outcome.rows if r.check == "punching"}
    assert (at["foot"], at["post"]) == (pytest.approx((3.2, 3.2)), (9.0, 3.0))
    assert {k for kind, k in of(outcome, "punching") if kind == "columns"} == {c["id"] for c in data["columns"]}


def test_a_slab_between_the_legs_of_one_wall_has_its_spans():
    """A wall in the shape of a U: the slab spans 6 m from leg to leg, and that is no line along the wall."""
    data = one_bay()
    for key in ("openings", "thickenings", "columns", "supports", "probes"):
        data[key] = []
    data["walls"][0].update(line=[[6, 0.1], [0.1, 0.1], [0.1, 5.9], [6, 5.9]])
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": 4.0}]
    outcome = solve_floor(floor_from(data))
    across = [l for l in outcome.lines if l.labels == ("W1", "W1")]
    assert any(l.span == pytest.approx(5.8, rel=1e-9) for l in across)
    assert not any(np.ptp(l.ends, axis=0).min() < 1e-9 and l.ends[:, 1].max() < 0.2 for l in across)
    assert verdict(outcome)["deflection"].utilisation > 0
    assert {z.place.outline.part for z in outcome.zones if z.id == "W1"} | {r.id.part for r in outcome.rows if r.id.of.id == "W1" and r.check == "punching"} == {
        "end1", "end2", "corner1", "corner2",
    }  # fmt: skip


def test_beams_are_told_and_a_floor_without_any_has_no_such_row(slab):
    assert "beams" not in verdict(slab)
    assert [c.name for c in CHECKS] == ["flexure", "shear", "punching", "crack_width", "stress_limits", "deflection", "beams",
                                         "transfer_stress", "service_stress", "precompression", "tendon_spacing", "fire"]  # fmt: skip
    assert all(isinstance(r, Row) for r in slab.rows)


def test_a_column_that_carries_little_is_checked_and_one_that_lifts_is_told():
    """Bays of 1.6 m with no load but their own: the corner column's 5 kN are checked."""
    data = flat_slab(1, 1, a=1.6, size=0.4)
    data["loads"] = []
    data["slabs"][0]["thickness_m"] = 0.12
    outcome = solve_floor(floor_from(data))
    assert {z.column for z in outcome.zones} == {"C00", "C01", "C10", "C11"}
    assert all(1.0 < z.action.joint < 6.0 for z in outcome.zones)
    assert verdict(outcome)["punching"].status == "pass"
    # Pulled up by more than it carries, a column presses nothing, and the check passes no more.
    data["loads"] = [
        {"id": "up", "case": "Q", "kind": "area", "outline": [[1.0, 1.0], [1.8, 1.0], [1.8, 1.8], [1.0, 1.8]], "q_kPa": -60.0}
    ]
    data["load_cases"][1]["pattern"] = False
    lifted = solve_floor(floor_from(data))
    told = {r.id.of.id: r.reason for r in lifted.rows if r.check == "punching" and r.status == "uncovered"}
    assert "C11" in told
    assert verdict(lifted)["punching"].status in ("uncovered", "fail")


def test_a_straight_perimeter_takes_the_force_and_no_moment_about_itself():
    """A tongue as wide as its column: between three edges the perimeter is one line of 0.4 m across, stressed by V / (u d) alone."""
    document = flat_slab(1, 1, size=1.0, design_rails=False)
    document["slabs"][0]["outline"] = [
        [-0.2, -0.2],
        [6.2, -0.2],
        [6.2, 6.2],
        [3.2, 6.2],
        [3.2, 9.2],
        [2.8, 9.2],
        [2.8, 6.2],
        [-0.2, 6.2],
    ]
    document["columns"].append({**document["columns"][0], "id": "T", "at": [3.0, 9.0]})
    outcome = solve_floor(floor_from(document))
    (zone,) = [z for z in outcome.zones if z.id == "T"]
    assert zone.place.outline.perimeter.length == pytest.approx(0.4, abs=1e-3)
    assert zone.place.outline.perimeter.is_straight
    u_star = zone.place.check.u_star
    assert zone.stress == pytest.approx(zone.action.V / (u_star * zone.place.check.d), rel=1e-6)
    assert 0 < zone.utilisation < 99


@pytest.mark.parametrize("exposure", [None, "XD1"])
def test_stresses_in_service_of_a_one_way_strip_are_those_of_statics(exposure):
    """6 m, 200 mm, 12 at 150: m = (5 + 3) 36 / 8 = 36 kNm/m, d = 174 mm, A_s = 754 mm2. Lasting: alpha = 200 x 3 / 32.837 = 18.27, x = 56.8 mm,
    sigma_s = 36 / (0.174 - 0.0189) / 754e-6 = 307.9 MPa of 400. With 28 days' modulus x = 35.6 mm and sigma_c = 2 x 36 / (0.0356 x 0.1621) = 12.5 MPa
    of 18."""
    data = strip()
    del data["history"]
    assert verdict(solve_floor(floor_from(data)))["stress_limits"].reason == "there is no characteristic combination; add one"
    data["combinations"].append({"id": "C", "limit_state": "characteristic", "factors": {"G": 1.0, "D": 1.0}})
    data["exposure"] = exposure
    along = [r for r in solve_floor(floor_from(data)).rows if r.check == "stress_limits" and "x," in r.label]
    found = max(along, key=lambda r: r.utilisation)
    A, d, m, E = np.pi * 0.006**2 / 0.15, 0.174, 36.0, 32.837

    def axis(alpha):
        r = alpha * A / d
        return d * (np.sqrt(r * r + 2 * r) - r)

    x = axis(200 * 3 / E)
    assert (found.utilisation, found.combination, found.id.face) == (
        pytest.approx(m / (d - x / 3) / A / 400e3, rel=5e-3),
        "C",
        "bottom",
    )
    assert found.trace.steps[1].result.value == pytest.approx(307.9, rel=2e-3)
    if exposure:
        # Where much steel keeps its own stress low, the concrete decides.
        data["mats"][0].update(bar_mm=25, spacing_mm=75)
        found = max(
            (r for r in solve_floor(floor_from(data)).rows if r.check == "stress_limits" and "x," in r.label),
            key=lambda r: r.utilisation,
        )
        A, d = np.pi * 0.0125**2 / 0.075, 0.1675
        x = axis(200 / E)
        assert found.utilisation == pytest.approx(2 * m / (x * (d - x / 3)) / 18e3, rel=5e-3)
        assert found.trace.steps[-2].clause == "EN 1992-1-1, 7.2 (2)"
