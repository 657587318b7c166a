"""Loads carried down: sums, planted feet, reductions by hand in both standards."""

from dataclasses import replace

import pytest

from piastra.core.building.carried import carried_down, foot_of, load_id, storey_of
from piastra.core.geometry.tributary import tributary
from piastra.core.model import floor_from
from piastra.core.standards import standard_named
from piastra.core.standards.descent_rules import Carried
from piastra.exchange.results_file import results
from tests.floors import flat_slab
from tests.solving import solve_floor

EC2, ACI = standard_named("EN 1992-1-1"), standard_named("ACI 318-19")


def storey(name, **more):
    """A floor of the building, computed."""
    floor = floor_from({**flat_slab(2, 2, size=1.0, **more), "name": name})
    found = results(solve_floor(floor, rigorous=False))
    cases = {c.id for c in floor.load_cases}
    reactions = {r["support"]: {c: v["F_kN"] for c, v in r["values"].items() if c in cases} for r in found["reactions"]}
    return storey_of(floor, reactions, {e["case"]: e["applied_kN"] for e in found["equilibrium"]})


@pytest.fixture(scope="module")
def building():
    """Three floors; the middle one lacks the column C11, so that the upper floor's stands on it."""
    columns = [c for c in flat_slab(2, 2)["columns"] if c["id"] != "C11"]
    return storey("roof"), storey("second", columns=columns), storey("first")


def test_every_load_comes_to_the_ground_or_stands_on_a_floor_that_is_told(building):
    found = carried_down(building, EC2)
    feet = {(f.storey, f.bearer.id): f for f in found.feet}
    assert [(p.storey, p.bearer.id, p.on, p.there) for p in found.planted] == [("roof", "C11", "second", False)]
    assert feet["second", "C00"].on == ("first", "columns C00")
    assert feet["first", "C00"].on is None
    for case in ("G", "Q"):
        three = [
            dict(next(f for f in found.feet if f.storey == s and f.bearer.id == "C00").bearer.own)[case]
            for s in ("roof", "second", "first")
        ]
        assert feet["first", "C00"].total[case] == pytest.approx(sum(three))
    # 12.4 m x 12.4 m of 250 mm at 25 kN/m3 and 4 kN/m2, three times.
    sums = {s.case: s for s in found.sums}
    assert sums["G"].loads == pytest.approx(3 * 12.4**2 * 6.25, rel=1e-6)
    assert sums["Q"].loads == pytest.approx(3 * 12.4**2 * 4.0, rel=1e-6)
    for s in found.sums:
        assert abs(s.residual) < 1e-6
        assert s.open == pytest.approx(found.planted[0].forces[s.case])
    assert sum(f.bearer.area for f in found.feet if f.storey == "roof") == pytest.approx(12.4**2)


def test_a_planted_foot_is_a_load_of_the_next_run(building):
    """As its forces become loads of the floor that it stands on, they come down through that floor's columns, and nothing is open."""
    roof, _, first = building
    (planted,) = carried_down(building, EC2).planted
    loads = [
        {"id": load_id(planted.bearer, "roof", case), "case": case, "kind": "point", "at": list(planted.bearer.at), "F_kN": F}
        for case, F in planted.forces.items()
    ]
    columns = [c for c in flat_slab(2, 2)["columns"] if c["id"] != "C11"]
    again = storey("second", columns=columns, loads=[*flat_slab(2, 2)["loads"], *loads])
    found = carried_down((roof, again, first), EC2)
    assert [p.there for p in found.planted] == [True]
    for s in found.sums:
        assert s.open == pytest.approx(0.0, abs=1e-6)
        assert abs(s.residual) < 1e-6
        assert s.ground == pytest.approx(s.loads, rel=1e-6)
    # A foot that is gone leaves its loads behind, which the sums tell.
    gone = replace(roof, bearers=tuple(b for b in roof.bearers if b.id != "C11"))
    assert next(s for s in carried_down((gone, again, first), EC2).sums if s.case == "Q").open == pytest.approx(
        -planted.forces["Q"]
    )


def test_labels_of_loads_from_above_read_back():
    for id, name in (("C 1", "Roof, north"), ("W1", "Level of 2")):
        foot = type("Foot", (), {"id": id})()
        assert foot_of(load_id(foot, name, "Q of live")) == (name, id)
    assert foot_of("q") is None
    assert foot_of("load above, Q") is None


def test_reductions_by_hand():
    """EN, offices, psi_0 0.7: 50 m2: 5/7 x 0.7 + 10/50 = 0.7; 5 storeys: (2 + 3 x 0.7) / 5 = 0.82. ASCE 7: 4 x 50: 0.25 + 4.57 / sqrt(200) = 0.573;
    1,000 m2 of several floors: 0.4."""

    def factor(standard, category, storeys, area, mean=3.0, wall=False):
        return standard.descent.reduction(Carried(category, storeys, area, mean, wall)).factor

    assert factor(EC2, "B", 1, 50.0) == pytest.approx(0.7)
    assert factor(EC2, "B", 5, 12.0) == pytest.approx(0.82)
    assert factor(EC2, None, 5, 1e9) == pytest.approx(0.5)
    # C and D: no less than 0.6 by area; E is not reduced; no area, two storeys: none.
    assert factor(EC2, "C", 2, 1e9) == pytest.approx(0.6)
    assert factor(EC2, "E", 9, 1e3) == 1.0
    assert factor(EC2, "A", 2, 0.0) == 1.0
    assert factor(EC2, "A", 2, 12.0) == 1.0
    assert factor(ACI, "other", 1, 50.0) == pytest.approx(0.25 + 4.57 / 200**0.5)
    assert factor(ACI, "other", 1, 9.28) == 1.0
    assert factor(ACI, "other", 1, 1000.0) == 0.5
    assert factor(ACI, "other", 2, 1000.0) == 0.4
    assert factor(ACI, "other", 2, 1000.0, wall=True) == pytest.approx(max(0.25 + 4.57 / 1000**0.5, 0.4))
    assert (factor(ACI, "heavy", 1, 1000.0), factor(ACI, "other", 3, 1000.0, mean=6.0), factor(ACI, "garage", 2, 1e3)) == (
        1.0,
        0.8,
        0.8,
    )
    assert factor(ACI, "assembly", 5, 1000.0) == 1.0


def test_storeys_count_where_their_live_load_comes_down(building):
    feet = {(f.storey, f.bearer.id): f for f in carried_down(building, EC2).feet}
    assert feet["first", "C00"].storeys == {"Q": 3}
    assert feet["first", "C00"].area["Q"] == pytest.approx(3 * feet["roof", "C00"].bearer.area)
    # The planted one has not come down yet: two storeys and one.
    assert feet["first", "C11"].storeys == {"Q": 1}
    # (2 + 0.7) / 3 = 0.9 by storeys; 5/7 x 0.7 + 10 / 30.75 by area.
    area = feet["first", "C00"].area["Q"]
    assert feet["first", "C00"].reductions["Q"].factor == pytest.approx(min(0.9, 0.5 + 10 / area))
    assert feet["first", "C00"].reduced["G"] == feet["first", "C00"].total["G"]


def test_storeys_of_several_uses_in_one_case_are_not_reduced(building):
    """A roof whose live load is of category H in the case of the offices below: neither counts for the other."""
    roof, second, first = building
    other = replace(roof, cases={**roof.cases, "Q": ("live", "H")})
    offices = [replace(s, cases={**s.cases, "Q": ("live", "B")}) for s in (second, first)]
    feet = {(f.storey, f.bearer.id): f for f in carried_down((other, *offices), EC2).feet}
    assert feet["first", "C00"].reductions["Q"].factor == 1.0
    # Two storeys of offices alone: by area.
    alike = {(f.storey, f.bearer.id): f for f in carried_down(offices, EC2).feet}
    assert alike["first", "C00"].reductions["Q"].factor == pytest.approx(min(0.5 + 10 / alike["first", "C00"].area["Q"], 1.0))


def test_tributary_areas_are_the_whole_floor():
    import shapely

    region = shapely.box(0, 0, 10, 6)
    found = tributary(region, {"a": (0, 0), "b": (10, 0), "twin": (0, 0)}, {"w": [[0, 6], [10, 6]]})
    assert sum(p.area for p in found.values()) == pytest.approx(60.0)
    # The wall along the upper edge: what is nearer to it than to the corners.
    assert found["a"].area == pytest.approx(found["b"].area)
    assert found["twin"].is_empty
    assert found["w"].contains(shapely.Point(5, 1))


def test_results_tell_what_of_the_floor_each_support_carries():
    """3 m x 3 m and the edge's 0.2 m to a corner column of bays of 6 m."""
    found = results(solve_floor(floor_from(flat_slab(2, 2, size=1.0)), rigorous=False))["tributary"]
    corner = next(t for t in found if t["id"] == "C00")
    assert corner["area_m2"] == pytest.approx(3.2**2)
    assert sum(t["area_m2"] for t in found) == pytest.approx(12.4**2)
    assert {t["kind"] for t in found} == {"columns"}
    assert max(x for x, _ in corner["outlines"][0]) == pytest.approx(3.0)


def test_the_load_of_tributary_areas_is_all_of_the_load_and_beams_have_theirs():
    document = flat_slab(2, 2, size=1.0)
    document["loads"].append({"id": "P", "kind": "point", "case": "Q", "at": [1.0, 1.5], "F_kN": 40.0})
    document["loads"].append({"id": "W", "kind": "line", "case": "Q", "line": [[0.0, 2.0], [12.0, 2.0]], "q_kN_m": [5.0, 5.0]})
    found = results(solve_floor(floor_from(document), rigorous=False))
    on_floor = {c: sum(x["on_floor_kN"] for x in found["loads"] if x["case"] == c) for c in ("G", "Q")}
    for case, total in on_floor.items():
        assert sum(t["loads_kN"][case] for t in found["tributary"]) == pytest.approx(total, rel=1e-5)
    # The corner's 3.2 m square under its own weight; the point and 3 m of the line are its own too.
    corner = next(t for t in found["tributary"] if t["id"] == "C00")
    even = next(x["q_kPa"] for x in document["loads"] if x["kind"] == "area")
    thick = document["slabs"][0]["thickness_m"]
    assert corner["loads_kN"]["G"] == pytest.approx(25 * thick * 3.2**2, rel=1e-5)
    assert corner["loads_kN"]["Q"] == pytest.approx(even * 3.2**2 + 40.0 + 15.0, rel=1e-5)

    # Beams along the edges of one bay: 45 degrees part it; no column takes of them.
    document = flat_slab(1, 1, size=1.0)
    document["slabs"][0]["outline"] = [[0, 0], [6, 0], [6, 6], [0, 6]]
    ring = [(0, 0), (6, 0), (6, 6), (0, 6)]
    section = {"width_m": 0.3, "depth_m": 0.6, "concrete": document["concretes"][0]["id"]}
    document["beams"] = [{"id": f"B{k}", "line": [list(ring[k]), list(ring[(k + 1) % 4])], **section} for k in range(4)]
    parts = [t for t in results(solve_floor(floor_from(document), rigorous=False))["tributary"] if t["kind"] == "beams"]
    assert [t["id"] for t in parts] == ["B0", "B1", "B2", "B3"]
    assert [t["area_m2"] for t in parts] == pytest.approx([9.0] * 4, rel=0.03)
    assert sum(t["area_m2"] for t in parts) == pytest.approx(36.0)
