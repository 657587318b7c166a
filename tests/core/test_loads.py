"""Loads of every kind: their sums, resultants and places, on any mesh."""

import copy
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon

from piastra.core.audit import audit
from piastra.core.geometry.arcs import polygon
from piastra.core.loads.vectors import load_vectors
from piastra.core.loads.within import Parts, clip, load_within
from piastra.core.mesh.locate import middles
from piastra.core.model import RefusedError, floor_from
from piastra.core.model.project import project_from
from piastra.core.model.sharing import computes_otherwise, taken_in, with_shared
from piastra.core.readings.responses import responses_of
from piastra.core.stages import StageCache
from piastra.core.standards.beginnings import new_project
from piastra.exchange.fields import fields
from piastra.exchange.responses_file import packed, unpacked
from piastra.exchange.results_file import results
from tests.floors import flat_slab, one_bay
from tests.solving import solve_floor

LAYERS = {
    "load_materials": [{"id": "screed", "unit_weight_kN_m3": 22.0}, {"id": "block", "unit_weight_kN_m3": 8.0}],
    "build_ups": [
        {"id": "floor", "layers": [{"material": "screed", "thickness_mm": 60.0}], "extra_kPa": 0.3},
        {
            "id": "block wall",
            "layers": [{"material": "block", "thickness_mm": 100.0}, {"material": "screed", "thickness_mm": 20.0}],
        },
    ],
    "partitions": [{"id": "P3", "build_up": "block wall", "height_m": 3.0}],
    "occupancies": [{"id": "office", "category": "B", "q_kPa": 3.0, "partitions_kPa": 0.8}],
}


def floor_with(loads, **more):
    document = {**one_bay(), **LAYERS, **more}
    document["loads"] = loads
    return floor_from(document)


@pytest.fixture(scope="module")
def ground():
    """A computed bay, to put loads on: its load stage runs without the rest."""
    return solve_floor(floor_with([]))


def vectors(ground, loads, **more):
    floor = floor_with(loads, **more)
    return floor, load_vectors(floor, ground.ground, ground.loads.weight, (), ())


def total(ground, loads, case="D", **more):
    _, v = vectors(ground, loads, **more)
    return v.vectors()[..., v.of_case(case)[0]]


def resultant(ground, vector):
    """Force down and moments about the origin of a nodal vector: a force F down at (x, y) turns by -F y and F x."""
    xy, F = ground.meshed.mesh.xy, vector[:, 2]
    return F.sum(), vector[:, 4].sum() - (F * xy[:, 1]).sum(), -vector[:, 3].sum() + (F * xy[:, 0]).sum()


# Every kind, half of it off the floor of 6 m by 6 m: its right edge is at x = 6, an opening of 1 m2 at (2..3, 2..3).
HALF_OFF = [
    {"id": "uniform", "case": "D", "kind": "area", "outline": [[5, 3], [7, 3], [7, 5], [5, 5]], "q_kPa": 4.0},
    {"id": "plane", "case": "D", "kind": "area", "outline": [[5, 0.5], [7, 0.5], [7, 1.5], [5, 1.5]],
     "varies": {"kind": "direction", "line": [[5, 0], [7, 0]], "q_kPa": [2.0, 6.0]}},
    {"id": "three", "case": "D", "kind": "area", "outline": [[4, 5.5], [5, 5.5], [5, 6.5], [4, 6.5]],
     "varies": {"kind": "three_points", "points": [[4, 5.5], [5, 5.5], [4, 6.5]], "q_kPa": [1.0, 1.0, 3.0]}},
    {"id": "layers", "case": "D", "kind": "area", "outline": [[5.5, 5], [6.5, 5], [6.5, 5.5], [5.5, 5.5]], "build_up": "floor"},
    {"id": "use", "case": "D", "kind": "area", "outline": [[5.5, 2], [6.5, 2], [6.5, 2.5], [5.5, 2.5]], "occupancy": "office"},
    {"id": "line", "case": "D", "kind": "line", "line": [[4, 4], [8, 4]], "q_kN_m": [2.0, 10.0]},
    {"id": "wall", "case": "D", "kind": "line", "line": [[5, 1], [7, 1]], "partition": "P3"},
    {"id": "foot", "case": "D", "kind": "point", "at": [6.0, 4.5], "F_kN": 20.0, "patch": {"b_m": 0.4, "d_m": 0.4}},
    {"id": "joint", "case": "D", "kind": "joint", "support": "C1", "F_kN": 12.0},
    {"id": "beside", "case": "D", "kind": "point", "at": [7.0, 4.5], "F_kN": 15.0},
]  # fmt: skip
# By hand: uniform 4 x 4 = 16, half on. Plane 4 x 2 = 8, of it (2 + 4)/2 x 1 = 3 on. Three: mean 2 x 1 = 2, of it (1 + 2)/2 x 0.5 = 0.75.
# Layers 22 x 0.06 + 0.3 = 1.62 x 0.5 = 0.81; use 3.8 x 0.5 = 1.9. Line (2 + 10)/2 x 4 = 24, of it (2 + 6)/2 x 2 = 8.
# Partition (8 x 0.1 + 22 x 0.02) x 3 = 3.72 x 2 = 7.44.
BY_HAND = {"uniform": (16.0, 8.0), "plane": (8.0, 3.0), "three": (2.0, 0.75), "layers": (0.81, 0.405), "use": (1.9, 0.95),
           "line": (24.0, 8.0), "wall": (7.44, 3.72), "foot": (20.0, 10.0), "joint": (12.0, 12.0), "beside": (15.0, 0.0)}  # fmt: skip


def test_what_is_applied_on_the_floor_and_lost_adds_up_and_is_held_up():
    document = one_bay()
    # Supports that stand on the whole floor, so that nothing but the loads decides.
    floor = floor_from({**document, **LAYERS, "loads": HALF_OFF})
    o = solve_floor(floor)
    sums = {s.load: s for s in o.loads.sums if s.load != "self-weight"}
    assert set(sums) == set(BY_HAND)
    for label, (given_kN, on) in BY_HAND.items():
        s = sums[label]
        assert (s.given_kN, s.on_floor_kN, s.lost_kN) == pytest.approx((given_kN, on, given_kN - on), abs=1e-6), label
        assert s.given_kN == pytest.approx(s.on_floor_kN + s.lost_kN, abs=1e-9)
    unit = o.loads.of_case("D")[0]
    on_floor = sum(on for _, on in BY_HAND.values())
    assert o.solution.reactions[:, 0, unit].sum() == pytest.approx(on_floor, rel=1e-6)
    told = {m.where for m in o.loads.messages}
    # All but the joint's load are told: its column stands on the floor.
    assert told == set(BY_HAND) - {"joint"}


POINTS = st.tuples(st.floats(0.3, 5.7), st.floats(0.3, 5.7))


@settings(max_examples=30, deadline=None)
@given(st.lists(POINTS, min_size=3, max_size=6), st.lists(st.floats(-9, 9), min_size=3, max_size=3))
def test_a_varying_load_over_any_polygon_has_its_exact_volume_and_moments(ground, corners, values):
    hull = shapely.MultiPoint(corners).convex_hull
    if not isinstance(hull, Polygon) or hull.area < 0.05:
        return
    outline = [[round(x, 4), round(y, 4)] for x, y in hull.exterior.coords[:-1]]
    points = [[0.0, 0.0], [6.0, 1.0], [1.0, 6.0]]
    load = {
        "id": "v",
        "case": "D",
        "kind": "area",
        "outline": outline,
        "varies": {"kind": "three_points", "points": points, "q_kPa": values},
    }
    F, Mx, My = resultant(ground, total(ground, [load]))
    # Exact, by triangles from the first corner of what lies on the floor: the opening is cut out.
    a, b, c = np.linalg.solve(np.column_stack([np.ones(3), points]), values)
    on = Polygon(outline).difference(shapely.box(2, 2, 3, 3))
    volume = first_x = first_y = 0.0
    for t in shapely.get_parts(shapely.constrained_delaunay_triangles(on)):
        xy = np.array(t.exterior.coords[:3])
        # A quadratic over a triangle is integrated exactly by the middles of its sides.
        mid = (xy + np.roll(xy, -1, axis=0)) / 2
        q = a + b * mid[:, 0] + c * mid[:, 1]
        volume += t.area * q.mean()
        first_x += t.area * (q * mid[:, 0]).mean()
        first_y += t.area * (q * mid[:, 1]).mean()
    size = max(np.abs(values)) * on.area + 1e-9
    assert pytest.approx(volume, abs=1e-6 * size) == F
    assert pytest.approx(-first_y, abs=1e-5 * size) == Mx
    assert pytest.approx(first_x, abs=1e-5 * size) == My


@pytest.mark.parametrize("size", [1.1, 0.6, 0.35])
def test_the_volume_does_not_depend_on_the_mesh(size):
    load = {"id": "v", "case": "D", "kind": "area", "outline": [[0.31, 0.77], [5.3, 1.1], [4.9, 5.6, -0.4], [1.2, 4.4]],
            "varies": {"kind": "direction", "line": [[0, 0], [3, 4]], "q_kPa": [1.0, 6.0]}}  # fmt: skip
    document = one_bay()
    document["openings"], document["loads"], document["mesh"] = [], [load], {"size_m": size}
    floor = floor_from(document)
    o = solve_floor(floor)
    # q = 1 + (x, y) . (0.6, 0.8); its mean over the area is its value at the centroid.
    shape = polygon(floor.loads[0].outline)
    assert o.loads.sums[1].on_floor_kN == pytest.approx(
        (1 + 0.6 * shape.centroid.x + 0.8 * shape.centroid.y) * shape.area, rel=1e-6
    )


@given(st.floats(-50, 50), st.floats(-20, 20), st.floats(-20, 20), st.floats(0, 90))
@settings(max_examples=25, deadline=None)
def test_a_patch_has_the_force_and_moments_of_its_point(ground, F, Mx, My, angle):
    load = {"id": "p", "case": "D", "kind": "point", "at": [4.2, 3.9], "F_kN": F, "Mx_kNm": Mx, "My_kNm": My}
    spread = {**load, "patch": {"b_m": 0.7, "d_m": 0.4, "angle_deg": angle}}
    a, b = (resultant(ground, total(ground, [l])) for l in (load, spread))
    assert b == pytest.approx(a, abs=1e-6 * (1 + abs(F) + abs(Mx) + abs(My)) * 6)


@pytest.mark.parametrize("support", ["C1", "W1"])
def test_a_joint_load_has_its_force_and_moments_about_the_supports_middle(ground, support):
    F, Mx, My = resultant(
        ground,
        total(
            ground, [{"id": "j", "case": "D", "kind": "joint", "support": support, "F_kN": 30.0, "Mx_kNm": 7.0, "My_kNm": -4.0}]
        ),
    )
    x, y = (0.0, 0.0) if support == "C1" else (3.0, 6.0)
    assert (F, Mx, My) == pytest.approx((30.0, 7.0 - 30.0 * y, -4.0 + 30.0 * x), abs=1e-6)


def test_a_joints_force_goes_straight_down_and_its_moment_reaches_the_slab():
    document = flat_slab(2, 2, size=0.8)
    document["load_cases"].append({"id": "E", "nature": "wind", "reversible": True})
    document["loads"] += [{"id": "j", "case": "E", "kind": "joint", "support": "C11", "F_kN": 100.0}]
    document["combinations"][0]["factors"] = {"G": 1.35, "Q": 1.5}
    plain = solve_floor(floor_from(document))
    document["combinations"][0]["factors"]["E"] = 1.0
    pressed = solve_floor(floor_from(document))
    a, b = (next(z for z in o.zones if z.column == "C11") for o in (plain, pressed))
    assert b.action.joint - a.action.joint == pytest.approx(100.0, rel=0.05)
    # The slab hardly moves when its column is pressed: nearly nothing of it crosses the perimeter.
    assert abs(b.action.V - a.action.V) < 5.0
    document["loads"][-1] = {"id": "j", "case": "E", "kind": "joint", "support": "C11", "My_kNm": 50.0}
    turned = solve_floor(floor_from(document))
    c = next(z for z in turned.zones if z.column == "C11")
    unit = turned.loads.of_case("E")[0]
    k = turned.stiffness.system.held.labels.index("C11")
    reaction = turned.solution.reactions[k, 2, unit]
    # What the columns do not take of the 50 kNm goes into the slab.
    assert -50.0 < reaction < 0.0
    assert c.action.M_y - a.action.M_y == pytest.approx(50.0 + reaction, abs=6.0)


def test_a_load_on_a_slab_follows_what_of_it_is_seen():
    document = flat_slab(1, 1)
    document["slabs"].append({"id": "S2", "outline": [[1, 1], [3, 1], [3, 3], [1, 3]], "thickness_m": 0.2, "top_offset_m": -0.05,
                              "fill_kN_m3": 20.0, "priority": 1, "concrete": "C30", "rebar": "B500"})  # fmt: skip
    document["loads"] = [
        {"id": "on 1", "case": "Q", "kind": "area", "slabs": ["S1"], "q_kPa": 2.0},
        {"id": "on 2", "case": "Q", "kind": "area", "slabs": ["S2"], "outline": [[0, 0], [2, 0], [2, 6], [0, 6]], "q_kPa": 3.0},
    ]
    o = solve_floor(floor_from(document))
    sums = {s.load: s for s in o.loads.sums}
    assert sums["on 1"].on_floor_kN == pytest.approx(2.0 * (6.4**2 - 4.0), rel=1e-9)
    assert sums["on 2"].on_floor_kN == pytest.approx(3.0 * 2.0, rel=1e-9)
    # The set-down's fill weighs 0.05 x 20 = 1 kPa, its slab 0.2 x 25 = 5, the rest 0.25 x 25 = 6.25.
    assert sums["self-weight"].on_floor_kN == pytest.approx(4.0 * 6.0 + (6.4**2 - 4.0) * 6.25, rel=1e-6)


def test_load_within_areas_adds_up_to_the_whole(ground):
    loads = [l for l in HALF_OFF if l["id"] not in ("three",)] + [{"id": "all", "case": "D", "kind": "area", "q_kPa": 1.5}]
    floor, v = vectors(ground, loads)
    elements = ground.meshed.elements
    halves = [clip(elements, shapely.box(-1, -1, 3.3, 7)), clip(elements, shapely.box(3.3, -1, 6.0, 7))]
    inside = load_within(floor, v, halves)
    assert inside.sum(axis=0)[0, :2] == pytest.approx(v.applied[:2], rel=1e-6)
    # First moments are those of the nodal forces; a joint's load is put on one node with its arm.
    floor, v = vectors(ground, [l for l in loads if l["kind"] != "joint"])
    inside = load_within(floor, v, halves)
    moments = np.einsum("ni,nr->ir", elements.xy, v.vectors()[:, 2])
    assert inside.sum(axis=0)[1:, :2] == pytest.approx(moments[:, :2], rel=2e-3)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 3.5), st.floats(0.3, 3.5), st.floats(0.4, 2.5), st.integers(3, 12), st.floats(0, 6))
def test_parts_of_one_weight_that_are_told_as_one_carry_the_same(ground, x, y, radius, corners, turn):
    """A polygon over a mesh of three weights, in bands that its outline may cross: sums and first moments of self-weight and of an even load are those
    of every element's own part."""
    at = turn + 2 * np.pi * np.arange(corners) / corners
    ring = np.column_stack([2.6 + x / 4 + radius * np.cos(at), 2.6 + y / 4 + radius * np.sin(at)])
    area = shapely.Polygon(ring) - shapely.box(2, 2, 3, 3)
    floor, v = vectors(ground, [{"id": "all", "case": "D", "kind": "area", "q_kPa": 2.0}])
    elements = ground.meshed.elements
    weight = np.digitize(middles(elements)[:, 0], [2.0, 2.0 + x]) + 5.0
    v = replace(v, weight=weight)
    whole, merged = clip(elements, area), clip(elements, area, weight)
    assert len(merged.element) < len(whole.element)
    assert merged.size.sum() == pytest.approx(area.area, rel=1e-12)
    assert load_within(floor, v, [merged]) == pytest.approx(load_within(floor, v, [whole]), rel=1e-9, abs=1e-9)


def test_a_load_that_slopes_has_its_own_moments_inside_an_area(ground):
    """q = 2 + 0.2 x - 0.1 y over 0.5 < x < 1.9, 3.2 < y < 5.2: F = 2.8 (2 + 0.2 x 1.2 - 0.1 x 4.2) = 5.096; about x = 0 the mean's moment and the slope's,
    1.2 F + 0.2 x 2.8 x 1.4^2 / 12 = 6.206667; about y = 0 4.2 F - 0.1 x 2.8 x 2^2 / 12 = 21.309867."""
    varies = {"kind": "three_points", "points": [[0, 0], [6, 0], [0, 6]], "q_kPa": [2.0, 3.2, 1.4]}
    floor, v = vectors(ground, [{"id": "all", "case": "D", "kind": "area", "varies": varies}])
    area = shapely.box(0.5, 3.2, 1.9, 5.2)
    inside = load_within(floor, v, [clip(ground.meshed.elements, area, v.weight)])
    assert inside[0, :, v.of_case("D")[0]] == pytest.approx([5.096, 6.206667, 21.309867], rel=1e-6)


def test_where_loads_lie_inside_areas_is_known_again_when_their_values_change(ground):
    """As found anew, for an even load, one that slopes and a patch; and of other areas nothing is known."""
    loads = [
        {"id": "even", "case": "D", "kind": "area", "q_kPa": 1.5, "outline": [[1, 1], [5, 1], [5, 4], [1, 4]]},
        {"id": "patch", "case": "D", "kind": "point", "at": [3.2, 3.0], "F_kN": 10.0, "patch": {"b_m": 0.4, "d_m": 0.6}},
    ]
    varies = {"kind": "three_points", "points": [[1, 1], [5, 1], [1, 4]], "q_kPa": [2.0, 3.2, 1.4]}
    slope = {"id": "even", "case": "D", "kind": "area", "varies": varies, "outline": loads[0]["outline"]}
    other = [slope, {**loads[1], "F_kN": 25.0}]
    halves = [
        clip(ground.meshed.elements, shapely.box(-1, -1, 3.3, 7)),
        clip(ground.meshed.elements, shapely.box(3.3, -1, 6.0, 7)),
    ]
    parts = Parts()
    floor, v = vectors(ground, loads)
    first = load_within(floor, v, halves, parts)
    again = Parts(parts)
    assert load_within(*vectors(ground, other), halves, again) == pytest.approx(
        load_within(*vectors(ground, other), halves), rel=1e-12
    )
    assert load_within(*vectors(ground, loads), halves, Parts(again)) == pytest.approx(first, rel=1e-12)
    assert first[0, 0, v.of_case("D")] == pytest.approx(1.5 * 2.3 * 3 + 10 * 0.75, rel=1e-9)


BROKEN = [
    ({"kind": "area"}, "needs one of"),
    ({"kind": "area", "q_kPa": 1.0, "occupancy": "office"}, "needs one of"),
    ({"kind": "area", "build_up": "roof"}, "roof"),
    ({"kind": "area", "slabs": ["S9"], "q_kPa": 1.0}, "S9"),
    ({"kind": "area", "varies": {"kind": "three_points", "points": [[0, 0], [1, 1], [2, 2]], "q_kPa": [1, 2, 3]}}, "on one line"),
    ({"kind": "line", "line": [[0, 0], [1, 0]]}, "needs one of"),
    ({"kind": "joint", "support": "C7", "F_kN": 1.0}, "C7"),
    ({"kind": "point", "at": [1, 1], "patch": {"b_m": 0.0, "d_m": 1.0}}, "greater than 0"),
]


@pytest.mark.parametrize(("load", "told"), BROKEN)
def test_broken_loads_are_refused_with_what_to_do(load, told):
    with pytest.raises(RefusedError, match=told):
        floor_with([{"id": "b", "case": "D", **load}])


PLANTED = [
    ("load changes sign", "loads", {"id": "x", "case": "D", "kind": "line", "line": [[1, 1], [5, 1]], "q_kN_m": [-3.0, 5.0]}),
    ("odd total", "load_cases", {"id": "x", "case": "D", "kind": "area", "q_kPa": 40.0}),
    ("double", "loads", {"id": "x", "case": "D", "kind": "area", "outline": None, "q_kPa": 1.5}),
]


@pytest.mark.parametrize(("rule", "name", "load"), PLANTED)
def test_the_audit_finds_odd_loads(rule, name, load):
    document = one_bay()
    before = {f.rule for f in audit(floor_from(document))}
    document["loads"].append(load)
    found = [f for f in audit(floor_from(document)) if f.rule not in before]
    assert [f.rule for f in found] == [rule]
    assert found[0].list == name


def test_the_audit_finds_odd_combinations():
    document = one_bay()
    assert not audit(floor_from(document))
    document["combinations"][0]["factors"] = {"G": 1.35, "Q": 1.5}
    assert [(f.rule, f.id) for f in audit(floor_from(document))] == [("permanent left out", "U1")]
    document["combinations"][0]["rule"] = "EN 1990 (6.10)"
    assert not audit(floor_from(document))
    document["combinations"][1]["limit_state"] = "frequent"
    assert [f.rule for f in audit(floor_from(document))] == ["no lasting combination"]
    document["combinations"] = document["combinations"][1:]
    document["combinations"][0]["limit_state"] = "quasi_permanent"
    assert [f.rule for f in audit(floor_from(document))] == ["no ultimate combination"]


def test_loads_take_their_value_from_the_project_and_follow_it():
    project = {**new_project("P", "SI", "EN 1992-1-1"), **copy.deepcopy(LAYERS)}
    document = {**one_bay(), **copy.deepcopy(LAYERS)}
    document["loads"] = [
        {"id": "f", "case": "D", "kind": "area", "build_up": "floor"},
        {"id": "w", "case": "D", "kind": "line", "line": [[1, 1], [5, 1]], "partition": "P3"},
    ]
    for name in ("concretes", "rebars"):
        project[name] = document[name]
    same = project_from(project)
    assert not computes_otherwise(with_shared(document, same), same)
    project["load_materials"][1]["unit_weight_kN_m3"] = 9.0
    heavier = project_from(project)
    assert computes_otherwise(with_shared(document, same), heavier)
    project["occupancies"][0]["q_kPa"] = 5.0
    project["load_materials"][1]["unit_weight_kN_m3"] = 8.0
    assert not computes_otherwise(with_shared(document, same), project_from(project))
    del project["partitions"][0]
    with pytest.raises(RefusedError, match="P3"):
        computes_otherwise(with_shared(document, same), project_from(project))


def test_a_floor_from_elsewhere_brings_its_build_ups_along():
    project = {**new_project("P", "SI", "EN 1992-1-1"), "build_ups": [{"id": "floor", "extra_kPa": 9.0}]}
    project["load_materials"] = [{"id": "screed", "unit_weight_kN_m3": 20.0}]
    document = {**one_bay(), **copy.deepcopy(LAYERS)}
    document["loads"] = [
        {"id": "f", "case": "D", "kind": "area", "build_up": "floor"},
        {"id": "w", "case": "D", "kind": "line", "line": [[1, 1], [5, 1]], "partition": "P3"},
    ]
    before = solve_floor(floor_from(document)).loads.sums
    floor, changed = taken_in(document, project)
    assert len(changed["build_ups"]) == 3
    assert solve_floor(floor_from(floor)).loads.sums == before
    assert LineString(floor["loads"][1]["line"]).length == 4.0


@pytest.mark.parametrize("cases", [[], [{"id": "Q", "nature": "live", "pattern": True}]])
def test_a_floor_without_loads_is_computed_and_read(cases):
    document = {**one_bay(), "load_cases": cases, "loads": [], "combinations": []}
    o = solve_floor(floor_from(document))
    assert all(r.status == "unchecked" for r in o.verdict)
    back = unpacked(packed(responses_of(o)))
    assert back.at_places.shape[1:] == (9, len(o.loads.units))
    assert results(o)["loads"] == []
    assert len(fields(o)) > 1000


def test_a_scaled_load_is_not_solved_anew_and_a_moved_one_is():
    cache = StageCache()
    document = flat_slab(2, 2, size=1.0)
    solve_floor(floor_from(document), cache)

    def solved():
        return next(e.value.solved for k, e in reversed(cache.kept.items()) if k.startswith("solutions:"))

    document["loads"][0]["q_kPa"] = 7.0
    scaled = solve_floor(floor_from(document), cache)
    assert solved() == 0
    afresh = solve_floor(floor_from(document))
    for a, b in (
        (scaled.solution.u, afresh.solution.u),
        (scaled.forces, afresh.forces),
        (scaled.strips.cuts.forces, afresh.strips.cuts.forces),
    ):
        assert np.abs(a - b).max() < 1e-9 * np.abs(b).max()
    document["loads"].append({"id": "more", "case": "Q", "kind": "line", "line": [[2.0, 2.0], [2.0, 3.0]], "q_kN_m": [5.0, 5.0]})
    moved = solve_floor(floor_from(document), cache)
    assert solved() == 1
    assert np.abs(moved.solution.u - solve_floor(floor_from(document)).solution.u).max() < 1e-9 * np.abs(moved.solution.u).max()
