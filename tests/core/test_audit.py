"""Planted mistakes are found by name and place, nothing is found in clean floors, and each mend mends."""

import copy

import pytest
import shapely
from shapely.geometry import Point

from piastra.core.audit import audit
from piastra.core.audit.audit import mended
from piastra.core.geometry.arcs import polygon
from piastra.core.mesh.plan import make_linework
from piastra.core.model import floor_from
from piastra.core.model.uses import with_categories
from piastra.core.standards.registry import generated
from piastra.core.trace.amounts import plain
from piastra.demo.saltmarsh import floors
from tests.floors import flat_slab, one_bay

STOREY = {"height_m": 3.2}


def box(x0, y0, x1, y1):
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


def add(name, **item):
    return lambda d: d.setdefault(name, []).append(item)


def put(name, i=0, **values):
    return lambda d: d[name][i].update(values)


SLAB = {"thickness_m": 0.25, "concrete": "C30", "rebar": "B500"}
COLUMN = {"shape": {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}, "concrete": "C30", "below": STOREY}
WALL = {"thickness_m": 0.2, "concrete": "C30", "below": STOREY}

# The floor is 12 m by 12 m with a margin of 0.2 m: two bays of 6 m each way.
PLANTED = [
    ("overlap", "slabs", "S9", (12, 6), add("slabs", id="S9", outline=box(11.5, 4, 14, 8), thickness_m=0.3, concrete="C30", rebar="B500")),
    ("sliver", "slabs", "S9", (12.2, 6), add("slabs", id="S9", outline=box(12.17, 4, 14, 8), **SLAB)),
    ("gap", "slabs", "S9", (12.2, 6), add("slabs", id="S9", outline=box(12.2003, 4, 14, 8), **SLAB)),
    ("gap", "slabs", "S9", (12.2, 6), add("slabs", id="S9", outline=box(12.217, 4, 14, 8), **SLAB)),
    ("movement joint", "slabs", "S9", (12.2, 6), add("slabs", id="S9", outline=box(12.24, 4, 14, 8), **SLAB)),
    ("step", "slabs", "S9", (12.2, 6), add("slabs", id="S9", outline=box(12.2, 4, 14, 8), top_offset_m=-0.26, **SLAB)),
    ("short edge", "openings", "O9", (2, 2), add("openings", id="O9", outline=[[2, 2], [2.004, 2], [3, 2], [3, 3]])),
    ("sharp corner", "openings", "O9", (2, 2), add("openings", id="O9", outline=[[2, 2], [4, 2], [4, 2.2]])),
    ("opening outside", "openings", "O9", (21, 2), add("openings", id="O9", outline=box(20, 1, 22, 3))),
    ("narrow rib", "openings", "O9", (12.2, 3), add("openings", id="O9", outline=box(11, 2, 12.17, 4))),
    ("thickening outside", "thickenings", "T9", (21, 2), add("thickenings", id="T9", outline=box(20, 1, 22, 3), thickness_m=0.4)),
    ("thickening outside", "thickenings", "T8", (12.6, 6), add("thickenings", id="T8", outline=box(11, 5, 13, 7), thickness_m=0.4)),
    ("no thickening", "thickenings", "T9", (6, 6), add("thickenings", id="T9", outline=box(5, 5, 7, 7), thickness_m=0.25)),
    ("no recess", "thickenings", "T9", (3, 3), add("thickenings", id="T9", kind="recess", outline=box(2, 2, 4, 4), thickness_m=0.2)),
    ("shallow beam", "beams", "B9", (3, 0), add("beams", id="B9", line=[[0, 0], [6, 0]], width_m=0.3, depth_m=0.2, concrete="C30")),
    ("beam outside", "beams", "B9", (23, 0), add("beams", id="B9", line=[[20, 0], [26, 0]], width_m=0.3, depth_m=0.5, concrete="C30")),
    ("column outside", "columns", "C9", (12.5, 6), add("columns", id="C9", at=[12.5, 6], **COLUMN)),
    ("column in opening", "columns", "C9", (3, 3), lambda d: (add("columns", id="C9", at=[3, 3], **COLUMN)(d), add("openings", id="O9", outline=box(2, 2, 4, 4))(d))),
    ("columns overlap", "columns", "C9", (6.1, 6), add("columns", id="C9", at=[6.1, 6], **COLUMN)),
    ("wall misses", "walls", "W9", (12.25, 6), add("walls", id="W9", line=[[12.25, 4], [12.25, 8]], **WALL)),
    ("wall outside", "walls", "W9", (25, 6), add("walls", id="W9", line=[[25, 4], [25, 8]], **WALL)),
    ("wall sticks out", "walls", "W9", (9, 12.25), add("walls", id="W9", line=[[9, 8], [9, 12.3]], **WALL)),
    ("wall under opening", "walls", "W9", (3, 3), lambda d: (add("walls", id="W9", line=[[0, 3], [6, 3]], **WALL)(d), add("openings", id="O9", outline=box(2, 2, 4, 4))(d))),
    ("walls nearly meet", "walls", "W9", (3.97, 3), lambda d: (add("walls", id="W8", line=[[4, 1], [4, 5]], **WALL)(d), add("walls", id="W9", line=[[1, 3], [3.97, 3]], **WALL)(d))),
    ("support under opening", "supports", "R9", (3, 3), lambda d: (add("supports", id="R9", kind="point", at=[3, 3])(d), add("openings", id="O9", outline=box(2, 2, 4, 4))(d))),
    ("support outside", "supports", "R9", (30, 3), add("supports", id="R9", kind="point", at=[30, 3])),
    ("unsupported", "slabs", "S9", (32, 6), add("slabs", id="S9", outline=box(30, 4, 34, 8), **SLAB)),
    ("mechanism", "slabs", "S9", (32, 6), lambda d: (add("slabs", id="S9", outline=box(30, 4, 34, 8), **SLAB)(d), add("supports", id="R9", kind="line", line=[[30, 6], [34, 6]])(d))),
    ("implausible", "slabs", "S1", (6, 6), put("slabs", thickness_m=0.025, cover_top_mm=10.0, cover_bottom_mm=10.0)),
    ("implausible", "loads", "q", None, put("loads", q_kPa=2500.0)),
    ("implausible", "columns", "C11", (6, 6), lambda d: d["columns"][4]["shape"].update(b_m=0.04)),
    ("implausible", "concretes", "C30", None, put("concretes", unit_weight_kN_m3=2.5)),
    ("load off the floor", "loads", "L9", (30, 3), add("loads", id="L9", case="Q", kind="point", at=[30, 3], F_kN=5.0)),
    ("load off the floor", "loads", "L9", (13, 6), add("loads", id="L9", case="Q", kind="line", line=[[10, 6], [14, 6]], q_kN_m=[5.0, 5.0])),
    ("probe off the floor", "probes", "P9", (30, 3), add("probes", id="P9", at=[30, 3])),
    ("double", "loads", "L9", None, add("loads", id="L9", case="Q", kind="area", q_kPa=4.0)),
    ("double", "columns", "C9", (6, 6), lambda d: d["columns"].append({**d["columns"][4], "id": "C9"})),
    ("double", "slabs", "S9", (6, 6), lambda d: d["slabs"].append({**d["slabs"][0], "id": "S9"})),
    ("unused material", "concretes", "C50", None, add("concretes", id="C50", strength_MPa=50)),
    ("case not combined", "load_cases", "D", None, lambda d: (add("load_cases", id="D", nature="dead")(d), add("loads", id="L9", case="D", kind="area", q_kPa=1.0)(d))),
    ("no self-weight", "load_cases", "Q", None, lambda d: (d["load_cases"].pop(0), [c["factors"].pop("G") for c in d["combinations"]])),
    ("empty combination", "combinations", "U9", None, add("combinations", id="U9", limit_state="ultimate", factors={"Q": 0.0})),
    ("no service combination", "combinations", "U1", None, lambda d: d["combinations"].pop()),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "kind", "label", "place", "plant"), PLANTED, ids=lambda v: v if isinstance(v, str) else "")
def test_a_planted_mistake_is_found_and_its_mend_mends_it(rule, kind, label, place, plant):
    document = flat_slab(2, 2)
    assert audit(floor_from(document)) == []
    plant(document)
    found = audit(floor_from(document))
    mine = [f for f in found if (f.rule, f.list, f.id) == (rule, kind, label)]
    assert len(mine) == 1, [(f.rule, f.id, f.what) for f in found]
    finding = mine[0]
    if place is not None:
        assert Point(finding.at).distance(Point(place)) < 1.1, finding.at
    assert finding.what
    assert finding.why
    if finding.mend is None:
        return
    before = copy.deepcopy(document)
    after = mended(document, finding.mend)
    assert document == before
    assert after != before
    assert not [f for f in audit(floor_from(after)) if (f.rule, f.list, f.id) == (rule, kind, label)]


@pytest.mark.parametrize("gap", [0.001, 0.017])
def test_of_a_gap_it_is_told_what_is_made_of_it(gap):
    """Narrower than what the mesh makes one, it is closed; the step there is looked at, too."""
    document = flat_slab(2, 2)
    document["slabs"].append({"id": "S9", "outline": box(12.2 + gap, 4, 14, 8), "top_offset_m": -0.26, **SLAB})
    found = {f.rule: f.why for f in audit(floor_from(document))}
    parts = shapely.unary_union(make_linework(floor_from(document)).parts.polygons)
    joined = "closed" in found["gap"]
    assert joined == ("step" in found) == (parts.geom_type == "Polygon") == (gap < 0.015)
    assert ("no force" in found["gap"]) != joined


def test_there_are_at_least_twenty_kinds_of_mistake():
    assert len({p[0] for p in PLANTED}) >= 30


@pytest.mark.parametrize("floor", floors(), ids=lambda f: f.name)
def test_nothing_is_found_in_the_demo_floors(floor):
    assert audit(floor) == []


def test_a_mend_does_what_it_says():
    document = flat_slab(2, 2)
    put("slabs", thickness_m=0.025, cover_top_mm=10.0, cover_bottom_mm=10.0)(document)
    put("loads", q_kPa=2500.0)(document)
    add("slabs", id="S9", outline=box(12.2003, 4, 14, 8), **SLAB)(document)
    lines = {}
    for finding in audit(floor_from(document)):
        if finding.mend:
            lines[finding.id, finding.rule] = plain(finding.mend.line)
            document = mended(document, finding.mend)
    assert lines["S1", "implausible"] == "S1: thickness 25 mm to 250 mm"
    assert lines["q", "implausible"] == "q: load 2500.0 kPa to 2.5 kPa"
    by_id = {s["id"]: s for s in document["slabs"]}
    assert by_id["S1"]["thickness_m"] == 0.25
    assert document["loads"][0]["q_kPa"] == 2.5
    assert polygon(by_id["S9"]["outline"]).distance(polygon(by_id["S1"]["outline"])) == 0
    assert by_id["S9"]["outline"][0] == [12.2, 4]

    document = flat_slab(2, 2)
    add("beams", id="B9", line=[[0, 0], [6, 0]], width_m=0.3, depth_m=0.2, concrete="C30")(document)
    (finding,) = audit(floor_from(document))
    assert mended(document, finding.mend)["beams"][0]["depth_m"] == pytest.approx(0.2 + 0.25)


def test_materials_of_other_floors_are_not_unused():
    document = one_bay()
    add("concretes", id="C50", strength_MPa=50)(document)
    assert [f.id for f in audit(floor_from(document)) if f.rule == "unused material"] == ["C50"]
    assert not [f for f in audit(floor_from(document), {"C50"}) if f.rule == "unused material"]


OFFICES, STORE = {"id": "offices", "category": "B", "q_kPa": 2.5}, {"id": "store", "category": "E", "q_kPa": 7.5}


def used(category, *loads, standard="EN 1992-1-1", nature="live"):
    """A floor whose live loads are of occupancies; ``loads`` their ids, cases and occupancies."""
    data = {**flat_slab(1, 1), "standard": standard}
    data["occupancies"] = [OFFICES, STORE]
    data["load_cases"] = [
        {"id": "G", "nature": "self_weight"}, {"id": "D", "nature": "dead"}, {"id": "Q", "nature": nature, "category": category, "pattern": True},
    ]  # fmt: skip
    data["loads"] = [{"id": i, "case": c, "kind": "area", "occupancy": o} for i, c, o in loads]
    return data


def test_a_case_has_the_category_that_its_occupancies_share():
    """Storage lasts with psi_2 = 0.8 in whatever case it lies, offices with 0.3: EN 1990, table A1.1."""
    for category, occupancy, psi_2 in ((None, "store", 0.8), (None, "offices", 0.3), ("B", "store", 0.3)):
        cases = with_categories(floor_from(used(category, ("q", "Q", occupancy))))
        lasting = [c for c in generated("EN 1992-1-1", cases, {}) if c.limit_state == "quasi_permanent" and "Q" in c.factors]
        assert {c.factors["Q"] for c in lasting} == {psi_2}
    mixed = floor_from(used(None, ("q", "Q", "offices"), ("s", "Q", "store")))
    assert with_categories(mixed)[2].category is None


def test_categories_that_do_not_fit_the_loads_are_told_and_mended():
    def of(data, rule):
        return [f for f in audit(floor_from(data)) if f.rule == rule]

    data = used("B", ("q", "Q", "store"))
    (found,) = of(data, "category of another use")
    after = mended(data, found.mend)
    assert after["load_cases"][2]["category"] == "E"
    assert not of(after, "category of another use")

    data = used("B", ("q", "Q", "offices"), ("s", "Q", "store"))
    (found,) = of(data, "two categories")
    after = mended(data, found.mend)
    assert [(c["id"], c.get("category")) for c in after["load_cases"][2:]] == [("Q", "B"), ("Q E", "E")]
    assert after["load_cases"][3]["pattern"] is True
    assert [(l["id"], l["case"]) for l in after["loads"]] == [("q", "Q"), ("s", "Q E")]
    assert all(c["factors"].get("Q E") == c["factors"].get("Q") for c in after["combinations"])
    assert not [
        f for f in audit(floor_from(after)) if f.rule in ("two categories", "category of another use", "case not combined")
    ]

    data = used("B", ("q", "D", "offices"))
    (found,) = of(data, "live load in a dead case")
    after = mended(data, found.mend)
    assert after["loads"][0]["case"] == "Q"
    assert not of(after, "live load in a dead case")


def test_designed_groups_side_by_side_are_no_doubles():
    """Design lays two equal groups where one is not enough; of bars drawn by hand the second is told to count twice."""
    data = flat_slab()
    group = {"face": "top", "direction": "x", "bar_mm": 12, "spacing_mm": 150, "outline": box(4, 4, 8, 8)}
    for origin, expected in (("designed", []), ("drawn", ["G2"])):
        data["designed_bars"] = [{**group, "id": k, "origin": origin} for k in ("G1", "G2")]
        found = [f for f in audit(floor_from(data)) if f.rule == "double"]
        assert [f.id for f in found] == expected
