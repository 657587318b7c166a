"""Projects: levels, setting-out lines; merging two people's changes; copying between floors."""

import copy

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.model import RefusedError, floor_from
from piastra.core.model.copying import copied
from piastra.core.model.merge import changes, differences, merge
from piastra.core.model.project import grid_lines, project_from, project_of, shared_keys, storeys
from piastra.core.standards import registry
from piastra.core.standards.beginnings import library, new_floor, new_project
from tests.floors import one_bay


def a_project(**more):
    return project_from({**new_project("Quay", "SI", "EN 1992-1-1"), **more})


def test_elevations_add_up_from_the_base():
    levels = [{"id": "Ground", "height_m": 1.2}, {"id": "First", "height_m": 4.5}, {"id": "Second", "height_m": 3.6}]
    got = storeys(a_project(base_m=-0.7, levels=levels))
    assert [round(s.elevation, 9) for s in got] == [0.5, 5.0, 8.6]
    assert [(s.below, s.above) for s in got] == [(1.2, 4.5), (4.5, 3.6), (3.6, None)]


def test_parallel_lines_lie_to_the_left_by_their_spacings():
    sets = [
        {"id": "X", "kind": "parallel", "angle_deg": 90.0, "origin": [1.0, 2.0], "spacings_m": [7.2, 7.2, 6.6],
         "labels": ["4", "3", "2", "1"], "start_m": -1.0, "end_m": 10.0},
        {"id": "S", "kind": "single", "line": [[0, 0], [3, 4]]},
    ]  # fmt: skip
    lines = {g.id: g.line for g in grid_lines(a_project(grid_sets=sets))}
    # At 90 degrees the lines run up the sheet, and left of them is towards smaller x.
    assert [lines[k][0] for k in "4321"] == [[1.0, 1.0], [-6.2, 1.0], [-13.4, 1.0], [-20.0, 1.0]]
    assert [lines[k][1][1] for k in "4321"] == [12.0] * 4
    assert lines["S"] == [[0, 0], [3, 4]]


@pytest.mark.parametrize(
    ("more", "path", "words"),
    [
        ({"levels": [{"id": "A", "height_m": 0.0}]}, "levels[0].height_m", "greater than 0"),
        ({"levels": [{"id": "A", "height_m": 3.0}, {"id": "A", "height_m": 3.0}]}, "levels[1].id", "repeats"),
        ({"grid_sets": [{"id": "X", "kind": "parallel", "spacings_m": [3.0], "labels": ["A"], "start_m": 0.0, "end_m": 5.0}]},
         "grid_sets[0]", "one to each"),
        ({"grid_sets": [{"id": "A", "kind": "single", "line": [[0, 0], [1, 0]]},
                        {"id": "X", "kind": "parallel", "spacings_m": [], "labels": ["A"], "start_m": 0.0, "end_m": 5.0}]},
         "grid_sets", "two lines labelled 'A'"),
        ({"units": "imperial"}, "units", "must be 'SI' or 'US'"),
    ],
)  # fmt: skip
def test_a_broken_project_is_refused(more, path, words):
    with pytest.raises(RefusedError) as caught:
        a_project(**more)
    assert any(r.path == path and words in r.sentence for r in caught.value.refusals), caught.value


@pytest.mark.parametrize("standard", registry.names())
def test_a_new_floor_of_a_new_project_is_a_floor_file(standard):
    project = project_from(new_project("Quay", "US", standard))
    floor = floor_from(new_floor(project, "Level 1"))
    assert floor.standard == standard
    assert floor.slabs == []


def test_library_values():
    en = {c["id"]: c["strength_MPa"] for c in library("EN 1992-1-1")["concretes"]}
    aci = {c["id"]: c["strength_MPa"] for c in library("ACI 318-19")["concretes"]}
    assert en["C30/37"] == 30
    # 4000 psi = 4000 lbf / in2 = 4000 x 4.4482216152605 N / 645.16 mm2
    assert aci["4000 psi"] == pytest.approx(4000 * 4.4482216152605 / 645.16, abs=1e-6)


def test_a_floor_keeps_its_grid_through_a_project_made_of_it():
    document = {**one_bay(), "grid": [{"id": "A", "line": [[0, -1], [0, 7]]}]}
    shared = shared_keys(project_from(project_of(document, "Quay")))
    assert shared["grid"] == [{"id": "A", "line": [[0.0, -1.0], [0.0, 7.0]]}]
    assert shared["concretes"][0]["id"] == "C30"


def test_changes_of_two_people_on_different_objects_are_both_kept():
    base = one_bay()
    theirs, mine = copy.deepcopy(base), copy.deepcopy(base)
    theirs["slabs"][0]["thickness_m"] = 0.3
    theirs["columns"].append({**base["columns"][0], "id": "C9", "at": [5, 5]})
    mine["slabs"][0]["cover_top_mm"] = 30
    mine["openings"] = []
    got = merge(base, theirs, mine)
    assert got.clashes == ()
    assert (got.document["slabs"][0]["thickness_m"], got.document["slabs"][0]["cover_top_mm"]) == (0.3, 30)
    assert got.document["openings"] == []
    assert [c["id"] for c in got.document["columns"]] == ["C1", "C9"]
    theirs["columns"][0]["at"] = [0.5, base["columns"][0]["at"][1]]
    theirs["mesh"] = {"size_m": 0.3}
    assert [(d.list, d.id, d.kind, d.path, d.before, d.after) for d in differences(base, theirs)] == [
        ("slabs", "S1", "changed", "thickness_m", 0.25, 0.3),
        ("columns", "C1", "changed", "at.0", base["columns"][0]["at"][0], 0.5),
        ("columns", "C9", "added", "", None, None),
        ("mesh", "", "changed", "size_m", base["mesh"]["size_m"], 0.3),
    ]


@pytest.mark.parametrize(
    ("their_change", "my_change", "clash"),
    [
        (lambda d: d["slabs"][0].update(thickness_m=0.3), lambda d: d["slabs"][0].update(thickness_m=0.2), (("slabs", "S1"),)),
        (lambda d: d["columns"].clear(), lambda d: d["columns"][0].update(angle_deg=5), (("columns", "C1"),)),
        (lambda d: d["columns"][0].update(angle_deg=5), lambda d: d["columns"].clear(), (("columns", "C1"),)),
        (lambda d: d.update(mesh={"size_m": 0.3}), lambda d: d.update(mesh={"size_m": 0.4}), (("mesh", ""),)),
        (lambda d: d["slabs"][0].update(thickness_m=0.3), lambda d: d["slabs"][0].update(thickness_m=0.3), ()),
    ],
)
def test_where_both_change_the_same_it_is_told_and_mine_stands(their_change, my_change, clash):
    base = one_bay()
    theirs, mine = copy.deepcopy(base), copy.deepcopy(base)
    their_change(theirs)
    my_change(mine)
    got = merge(base, theirs, mine)
    assert got.clashes == clash
    if clash:
        assert got.document == mine


EDITS = {
    "thick": lambda d: d["slabs"][0].update(thickness_m=0.31),
    "cover": lambda d: d["slabs"][0].update(cover_bottom_mm=31),
    "no opening": lambda d: d["openings"].clear(),
    "turned": lambda d: d["columns"][0].update(angle_deg=12),
    "new load": lambda d: d["loads"].append({"id": "n", "case": "Q", "kind": "point", "at": [1, 1], "F_kN": 3}),
    "probe": lambda d: d["probes"].append({"id": "K2", "at": [1, 1]}),
    "mesh": lambda d: d.update(mesh={"size_m": 0.45}),
    "name": lambda d: d.update(name="Other"),
}


@settings(max_examples=60, deadline=None)
@given(st.sets(st.sampled_from(sorted(EDITS))), st.sets(st.sampled_from(sorted(EDITS))))
def test_merging_commutes_where_nothing_touches_and_loses_nothing(theirs, mine):
    base = one_bay()

    def edited(names):
        document = copy.deepcopy(base)
        for n in sorted(names):
            EDITS[n](document)
        return document

    got = merge(base, edited(theirs), edited(mine))
    other = merge(base, edited(mine), edited(theirs))
    assert got.clashes == other.clashes == ()
    assert changes(got.document, edited(theirs | mine)) == []
    assert changes(other.document, got.document) == []


def test_copying_renames_what_is_taken_and_brings_cases_along():
    source = one_bay()
    source["columns"][0] = {**source["columns"][0], "angle_deg": 30}
    source["load_cases"].append({"id": "Snow", "nature": "snow"})
    source["loads"].append({"id": "a1", "case": "Snow", "kind": "area", "q_kPa": 0.7})
    target = one_bay()
    target["supports"].append({"id": "C1-2", "kind": "point", "at": [3, 3]})
    got = copied(source, target, ["columns", "openings", "loads"], ["Snow"])
    assert [c["id"] for c in got["columns"]] == ["C1", "C1-3"]
    assert got["openings"] == target["openings"]
    assert [(x["id"], x["case"]) for x in got["loads"]][-1] == ("a1-2", "Snow")
    assert [c["id"] for c in got["load_cases"]] == ["G", "D", "Q", "Snow"]
    floor_from(got)
    with pytest.raises(ValueError, match="cannot copy concretes"):
        copied(source, target, ["concretes"])


def test_tendons_are_copied_with_their_strand_and_the_cases_that_they_act_in():
    strand = {"id": "S", "area_mm2": 150.0, "fpk_MPa": 1860.0, "fp01k_MPa": 1640.0}
    tendon = {
        "id": "T",
        "strand": "S",
        "line": [[0, 1], [6, 1]],
        "jack_MPa": 1000.0,
        "profile": [{"s_m": 0, "z_mm": -100}, {"s_m": 6, "z_mm": -100}],
    }
    cases = [{"id": "G", "nature": "self_weight"}, {"id": "P", "nature": "prestress", "effect": "final"}]
    source = {"strands": [strand, {**strand, "id": "other"}], "tendons": [tendon], "load_cases": cases}
    target = {"tendons": [], "load_cases": [{"id": "P", "nature": "wind"}]}
    out = copied(source, target, ["tendons"])
    assert out["strands"] == [strand]
    assert out["load_cases"][1:] == [{"id": "P-2", "nature": "prestress", "effect": "final"}]
    assert copied(source, out, ["tendons"]) == out
