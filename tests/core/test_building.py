"""Loads carried down: sums, planted feet, reductions by hand in both standards."""

from dataclasses import replace

import pytest
from shapely.geometry import box

from piastra.core.building.carried import Bearer, Reaction, Storey, carried_down, foot_of, load_id, storey_of
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
    reactions = {
        r["support"]: {c: Reaction(v["F_kN"], v["Mx_kNm"], v["My_kNm"]) for c, v in r["values"].items() if c in cases}
        for r in found["reactions"]
    }
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


def test_forces_of_walls_lie_where_they_press_and_come_down_from_wall_to_wall():
    """100 kN with a first moment of 50 kNm over 4 m: 25 -+ 6 x 50 / 16 = 6.25 to 43.75 kN/m."""
    wall = Bearer("walls", "W", box(0, -0.1, 4, 0.1), (2.0, 0.0), {"G": 100.0}, 8.0, ((0.0, 0.0), (4.0, 0.0)), {"G": 50.0})
    assert wall.by_metre(100.0, 50.0) == pytest.approx((6.25, 43.75))

    def one(name, *bearers, **more):
        return Storey(
            name, box(0, -3, 4, 3), bearers, {"G": sum(b.own["G"] for b in bearers)}, {}, {}, {"G": ("dead", None)}, **more
        )

    # Another way round, and a column at 3 m: 50 x (2 - 1) from the wall's middle, which lies at 2 m, and 20 x (2 - 3) along -x.
    other = replace(wall, line=((4.0, 0.0), (0.0, 0.0)), own={"G": 10.0}, tilt={"G": 0.0})
    column = Bearer("columns", "C", box(2.9, -0.1, 3.1, 0.1), (3.0, 0.0), {"G": 20.0}, 1.0)
    feet = {f.storey: f for f in carried_down((one("top", wall), one("low", other)), EC2).feet}
    assert feet["low"].total["G"] == pytest.approx(110.0)
    assert feet["low"].tilt["G"] == pytest.approx(-50.0)
    feet = {f.storey: f for f in carried_down((one("top", column), one("low", other)), EC2).feet}
    assert feet["low"].tilt["G"] == pytest.approx(20.0 * -1.0)
    # On a floor it is planted: its force and its first moment have to be there.
    bare = one("low", replace(other, footprint=box(0, 5, 4, 5.2)))
    assert [p.there for p in carried_down((one("top", wall), bare), EC2).planted] == [False]
    given = {"planted": {("top", "W"): {"G": 100.0}}}
    assert [p.there for p in carried_down((one("top", wall), replace(bare, **given)), EC2).planted] == [False]
    leaning = {("top", "W"): {"G": 50.0}}
    assert [p.there for p in carried_down((one("top", wall), replace(bare, **given, leaning=leaning)), EC2).planted] == [True]


@pytest.mark.parametrize("turned", [False, True])
def test_a_wall_is_pressed_more_where_more_load_is(turned):
    """A wall along one side of a bay, with load on the half at its far end; all forces about the x axis balance the load's."""
    line = [[0, 0.2], [0, 5.8]]
    data = flat_slab(1, 1, size=0.6)
    data["columns"] = [c for c in data["columns"] if c["at"][0] > 1]
    data["walls"] = [
        {
            "id": "W",
            "line": line[::-1] if turned else line,
            "thickness_m": 0.2,
            "concrete": "C30",
            "below": {"height_m": 3.0, "far_end": "fixed"},
        }
    ]
    data["loads"] = [{"id": "half", "case": "Q", "kind": "area", "q_kPa": 5.0, "outline": [[0, 3], [6, 3], [6, 6], [0, 6]]}]
    floor = floor_from(data)
    found = results(solve_floor(floor, rigorous=False))
    reactions = {r["support"]: {"Q": Reaction(*r["values"]["Q"].values())} for r in found["reactions"]}
    made = storey_of(floor, reactions, {"Q": 90.0})
    wall = next(b for b in made.bearers if b.id == "W")
    start, end = wall.by_metre(wall.own["Q"], wall.tilt["Q"])
    far, near = (start, end) if turned else (end, start)
    assert far > 3 * abs(near)
    assert (start + end) / 2 * 5.6 == pytest.approx(wall.own["Q"])
    # About y = 0: 90 kN at 4.5 m; columns with their moments, the wall with what it presses at its ends.
    moment = sum(r["Q"].F * (6.0 if k[2:] == "1" else 0.0) + r["Q"].M_x for k, r in reactions.items() if k != "W")
    low = 0.2 * 5.6 + 5.6**2 / 2
    pressed = near * low + (far - near) / 5.6 * (0.2 * 5.6**2 / 2 + 5.6**3 / 3)
    assert moment + pressed == pytest.approx(90.0 * 4.5, rel=2e-3)


def alone(column):
    """Forces where live load only ever accompanies: beside storage that leads, and in the quasi-permanent combination."""
    combinations = {"U1": ("ultimate", {"G": 1.35, "Q": 1.05, "T": 1.5}), "Q1": ("quasi_permanent", {"G": 1.0, "Q": 0.3})}
    cases = {"G": ("dead", None), "Q": ("live", "B"), "T": ("storage", "E")}
    storeys = [
        Storey(n, box(-3, -3, 3, 3), (column,), {"G": 100.0, "Q": 60.0}, {}, {}, cases, combinations) for n in ("c", "b", "a")
    ]
    return carried_down(storeys, EC2).feet[-1].combined


def test_combinations_reduce_what_leads_and_in_one_standard_what_accompanies():
    """Three storeys of 20 m2 with 100 kN dead and 60 kN of offices each: alpha_n = (2 + 0.7) / 3 = 0.9, alpha_A = 0.5 + 10 / 60 = 0.667; 180 x 0.667 = 120."""
    column = Bearer("columns", "C", box(-0.2, -0.2, 0.2, 0.2), (0.0, 0.0), {"G": 100.0, "Q": 60.0}, 20.0)
    assert alone(column) == pytest.approx({"U1": 405 + 1.05 * 180, "Q1": 300 + 0.3 * 180})
    cases = {"G": ("dead", None), "Q": ("live", "B")}
    combinations = {
        "U1": ("ultimate", {"G": 1.35, "Q": 1.5}), "U2": ("ultimate", {"G": 1.35, "Q": 1.05}), "C1": ("characteristic", {"G": 1.0, "Q": 0.7}),
    }  # fmt: skip
    storeys = [
        Storey(name, box(-3, -3, 3, 3), (column,), {"G": 100.0, "Q": 60.0}, {}, {}, cases, combinations)
        for name in ("c", "b", "a")
    ]
    foot = carried_down(storeys, EC2).feet[-1]
    assert foot.reductions["Q"].factor == pytest.approx(2 / 3)
    assert foot.combined == pytest.approx({"U1": 405 + 1.5 * 120, "U2": 405 + 1.05 * 180, "C1": 300 + 0.7 * 120})
    # ASCE: 0.25 + 4.57 / sqrt(4 x 60) = 0.545, of everything.
    other = carried_down([replace(s, cases={**cases, "Q": ("live", None)}) for s in storeys], ACI).feet[-1]
    R = 0.25 + 4.57 / 240**0.5
    assert other.combined == pytest.approx({"U1": 405 + 1.5 * 180 * R, "U2": 405 + 1.05 * 180 * R, "C1": 300 + 0.7 * 180 * R})


def test_a_case_that_balances_itself_is_measured_by_its_forces():
    """Tendons press nothing in all, but push one column by what they pull at the other; what is lost of 100 kN is told as a part of these."""
    pair = [
        Bearer("columns", n, box(x, 0, x + 0.4, 0.4), (x + 0.2, 0.2), {"PT": F}, 10.0)
        for n, x, F in (("A", 0.0, 50.0), ("B", 5.0, -50.0))
    ]

    def total(*bearers):
        return carried_down([Storey("a", box(0, 0, 6, 6), bearers, {"PT": 0.0}, {}, {}, {"PT": ("prestress", None)})], EC2).sums[
            0
        ]

    assert total(*pair).residual == 0.0
    assert total(pair[0], replace(pair[1], own={"PT": -40.0})).residual == pytest.approx(-10 / 90)
