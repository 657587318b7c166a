"""Fire: tables of two standards, the fire situation, and what a verdict may not leave out."""

from dataclasses import replace
from functools import partial

import numpy as np
import pytest

from piastra.core.checks.fire import FireResistance, _lowest_strands
from piastra.core.geometry.arcs import polygon
from piastra.core.model import floor_from
from piastra.core.model.fire import Fire
from piastra.core.model.loading import LoadCase
from piastra.core.standards.registry import generated, standard_named
from tests import floors
from tests.core.tees import tee
from tests.core.test_one_way_shear import one_way
from tests.solving import solve_floor

flat_slab = partial(floors.flat_slab, 2, 2, size=1.0)
EN, ACI = "EN 1992-1-1", "ACI 318-19"


def rows(data):
    return {r.id.key: r for r in solve_floor(floor_from(data)).rows if r.check == "fire"}


def top(data):
    return next(r for r in solve_floor(floor_from(data)).verdict if r.check == "fire")


@pytest.mark.parametrize(
    ("resistance", "flat", "one", "square", "long"),
    [
        ("R30", (150, 10), (60, 10), 10, 10), ("R60", (180, 15), (80, 20), 10, 15), ("R90", (200, 25), (100, 30), 15, 20),
        ("R120", (200, 35), (120, 40), 20, 25), ("R180", (200, 45), (150, 55), 30, 40), ("R240", (200, 50), (175, 65), 40, 50),
    ],
)  # fmt: skip
def test_slabs_of_en_1992_1_2(resistance, flat, one, square, long):
    """Tables 5.8 and 5.9, mm; strands lie 15 mm deeper; calcareous aggregate takes a tenth of the thickness, and none of the distance."""
    rules = standard_named(EN).fire

    def found(flat, **more):
        needs = rules.slab(Fire(resistance=resistance, **more), flat)
        assert needs.strands == pytest.approx(needs.bars + 0.015)
        return needs.size * 1e3, needs.bars * 1e3

    assert found(True) == pytest.approx(flat)
    assert found(False) == pytest.approx(one)
    assert found(False, sides_ratio=1.5) == pytest.approx((one[0], square))
    assert found(False, sides_ratio=2.0) == pytest.approx((one[0], long))
    assert found(False, sides_ratio=2.01) == pytest.approx(one)
    assert found(True, aggregate="calcareous") == pytest.approx((0.9 * flat[0], flat[1]))


def test_beams_of_en_1992_1_2():
    """R 90: 45 mm at 200 mm, 40 at 300, between them straight; 10 mm more beside a single layer up to 300 mm (column 4), 250 mm of
    continuous ones (column 3)."""
    rules, fire = standard_named(EN).fire, Fire(resistance="R90")

    def found(width, continuous=False, one_layer=False):
        needs = rules.beam(fire, width, continuous, one_layer)
        return needs.size, round(needs.bars * 1e3, 6)

    assert found(0.25) == (0.15, 42.5)
    assert found(0.25, one_layer=True) == (0.15, 52.5)
    assert found(0.30, one_layer=True) == (0.15, 50.0)
    assert found(0.35, one_layer=True) == (0.15, 37.5)
    assert found(0.9) == (0.15, 35.0)
    assert found(0.2, continuous=True, one_layer=True) == (0.15, 40.0)
    assert found(0.3, continuous=True, one_layer=True) == (0.15, 25.0)
    assert rules.beam(Fire(resistance="R120"), 0.4, True, False).bars == pytest.approx(0.035)
    # Another aggregate takes a tenth of the least width; how deep bars lie is read at the width that there is.
    light = rules.beam(Fire(resistance="R90", aggregate="lightweight"), 0.25, False, False)
    assert (light.size, light.bars) == (pytest.approx(0.135), pytest.approx(0.0425))


def test_tables_that_go_with_aci():
    """2 h, inches: siliceous 5.0 thick, 1 of cover or 3/4 restrained, 1 3/4 to tendons; semi-lightweight 3.8; half an hour as one hour."""
    rules, inch = standard_named(ACI).fire, 0.0254

    def slab(resistance, **more):
        n = rules.slab(Fire(resistance=resistance, **more), True)
        return n.size / inch, n.bars / inch, n.strands / inch

    assert slab("R120") == pytest.approx((5.0, 1.0, 1.75))
    assert slab("R120", restrained=True) == pytest.approx((5.0, 0.75, 0.75))
    assert slab("R120", aggregate="lightweight") == pytest.approx((3.8, 0.75, 1.5))
    assert slab("R180", aggregate="calcareous") == pytest.approx((5.7, 1.25, 2.125))
    assert slab("R30") == slab("R60") == pytest.approx((3.5, 0.75, 1.125))
    assert slab("R240") == pytest.approx((7.0, 1.625, 2.75))
    beam = [
        rules.beam(Fire(resistance=r), b * inch, False, True).bars
        for r, b in (("R120", 5), ("R180", 5), ("R180", 9.9), ("R240", 10))
    ]
    assert [None if c is None else round(c / inch, 6) for c in beam] == [1.25, None, 1.75, 1.75]
    assert rules.beam(Fire(resistance="R240", restrained=True), 5 * inch, False, True).bars == pytest.approx(1.25 * inch)


def test_a_flat_slab_in_a_fire():
    """250 mm, bars of 16 below 25 mm: their axes at 33 mm. R 90 takes 200 and 25 mm: 0.8; R 120 takes 35 mm: 35 / 33."""
    slab = "fire/slabs/S1///"
    found = rows(flat_slab(fire={"resistance": "R90"}))
    assert found[slab].utilisation == pytest.approx(0.8)
    # A fifth of the top bars runs through: mats of 16 at 150 give 1,340 mm2/m everywhere.
    through = [r for r in found.values() if "top bars" in r.id.part]
    assert through
    assert all(r.status == "pass" for r in through)
    r = rows(flat_slab(fire={"resistance": "R120"}))[slab]
    assert (r.status, r.utilisation) == ("fail", pytest.approx(35 / 33))
    assert "2 mm more cover would do" in " ".join(s.note for s in r.trace.steps)
    assert not rows(flat_slab())


def test_top_bars_that_stop_short_do_not_run_through():
    """Top mats in bays' corners alone leave spans bare: a fifth of the support's steel is not there, from REI 90 on."""
    data = flat_slab(fire={"resistance": "R90"})
    bottom = [m for m in data["mats"] if m["face"] == "bottom"]
    heads = [
        {"id": f"h{i}{j}{d}", "face": "top", "direction": d, "bar_mm": 16, "spacing_mm": 150,
         "outline": [[6 * i - 1.8, 6 * j - 1.8], [6 * i + 1.8, 6 * j - 1.8], [6 * i + 1.8, 6 * j + 1.8], [6 * i - 1.8, 6 * j + 1.8]]}
        for i in range(3) for j in range(3) for d in "xy"
    ]  # fmt: skip
    data["mats"] = bottom + heads
    assert any(r.status == "fail" and "top bars" in r.id.part for r in rows(data).values())
    data["fire"] = {"resistance": "R60"}
    assert not any("top bars" in r.id.part for r in rows(data).values())


def test_which_table_a_slab_is_read_by():
    """On lines: table 5.8 (R 120: 40 mm one way, 20 held along four edges of equal spans), with bars at 25 + 8 mm."""
    slab = "fire/slabs/S1///"
    data = one_way()
    data["fire"] = {"resistance": "R120"}
    assert rows(data)[slab].utilisation == pytest.approx(40 / 33)
    data["fire"]["sides_ratio"] = 1.0
    assert rows(data)[slab].utilisation == pytest.approx(20 / 33)
    # Bars along y in the outer layer lie lowest, whatever the order of the mats.
    for m in data["mats"]:
        m["layer"] = "inner" if m["direction"] == "x" else "outer"
        m["bar_mm"] = 12 if m["direction"] == "y" else 16
    assert rows(data)[slab].utilisation == pytest.approx(20 / 31)


@pytest.mark.study
def test_a_bay_that_nothing_of_its_own_holds_up_is_flat_like_those_beside_it():
    """A set-down bay within a flat slab: 25 mm by table 5.9, not the 30 mm of a slab that spans one way; on a wall it is one."""
    data = flat_slab(fire={"resistance": "R90"})
    bay = {**data["slabs"][0], "id": "down", "outline": [[1, 1], [5, 1], [5, 5], [1, 5]], "top_offset_m": -0.05, "priority": 1}
    data["slabs"].append(bay)
    assert rows(data)["fire/slabs/down///"].utilisation == pytest.approx(0.8)
    data["walls"] = [{"id": "W", "line": [[1.5, 3], [4.5, 3]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}]
    assert rows(data)["fire/slabs/down///"].utilisation == pytest.approx(30 / 33)


def test_an_inner_column_without_a_strip_leaves_the_top_bars_open():
    """One column in a slab on lines: nothing says what runs through over it."""
    data = one_way()
    data["columns"] = [
        {"id": "M", "at": [3.0, 2.0], "shape": {"kind": "circle", "diameter_m": 0.3}, "concrete": "C30", "below": {"height_m": 3}}
    ]
    data["fire"] = {"resistance": "R90"}
    found = [r for r in rows(data).values() if "top bars" in r.id.part]
    assert found
    data["fire"] = {"resistance": "R60"}
    assert not [r for r in rows(data).values() if "top bars" in r.id.part]


def test_a_thin_part_and_the_clear_cover_of_aci():
    data = flat_slab(standard=ACI, fire={"resistance": "R240"})
    data["rebars"][0]["yield_MPa"] = 420
    data["thickenings"] = [{"id": "R", "kind": "recess", "outline": [[2, 2], [4, 2], [4, 4], [2, 4]], "thickness_m": 0.15}]
    found = rows(data)
    assert found["fire/slabs/S1///"].utilisation == pytest.approx(1.625 * 25.4 / 25)
    assert found["fire/thickenings/R/S1//"].utilisation == pytest.approx(7 * 25.4 / 150)


def test_a_beam_in_a_fire():
    """A web of 300 mm, cover of 25, links of 10: R 120 takes 55 mm of bars in two layers, 10 mm more of one."""
    data = tee(fire={"resistance": "R120"})
    outcome = solve_floor(floor_from(data))
    found = next(r for r in outcome.rows if r.id.key == "fire/beams/B///")
    laid = next(iter(outcome.beams.bars.values()))[0]
    asked = 0.065 if laid.layers == 1 else 0.055
    assert found.utilisation == pytest.approx(asked / (0.025 + 0.010 + laid.bar / 2))


def test_what_no_table_covers_is_told():
    data = flat_slab(fire={"resistance": "R60"})
    data["concretes"][0]["strength_MPa"] = 60
    assert top(data).status == "uncovered"
    data = flat_slab(fire={"resistance": "R60"}, mats=[])
    assert "no bottom bars" in top(data).reason
    # A combination of a fire without any resistance asked for, and one that the tables of ACI have no use for.
    fire = {"id": "E1", "limit_state": "fire", "factors": {"G": 1.0, "Q": 0.5}}
    data = flat_slab()
    data["combinations"].append(fire)
    assert top(data).status == "unchecked"
    data = flat_slab(standard=ACI, fire={"resistance": "R60"})
    data["combinations"].append(fire)
    assert top(data).status == "uncovered"


def test_the_fire_situation_of_en_1990():
    """(6.11b) without an accident's load: permanent 1.0, the leading action by psi_1, others by psi_2; only when it is asked for."""
    cases = [
        LoadCase(id="G", nature="self_weight"),
        LoadCase(id="Q", nature="live", category="B"),
        LoadCase(id="S", nature="snow"),
    ]
    assert not [g for g in generated(EN, cases, {}) if g.limit_state == "fire"]
    found = [g.factors for g in generated(EN, cases, {}, {"fire": True}) if g.limit_state == "fire"]
    assert found == [{"G": 1.0}, {"G": 1.0, "Q": 0.5}, {"G": 1.0, "S": 0.2, "Q": 0.3}]
    late = [g.factors for g in generated(EN, cases, {}, {"fire": True, "beside_accident": "lasting"}) if g.limit_state == "fire"]
    assert late == [{"G": 1.0}, {"G": 1.0, "Q": 0.3}]


@pytest.mark.parametrize(("build", "checks"), [(flat_slab, ("flexure", "punching")), (one_way, ("flexure", "shear"))])
def test_in_a_fire_seven_tenths_of_the_strength_count(build, checks):
    """A fire combination of 0.7 Q asks for the same steel, shear and punching as an ultimate one of Q."""

    def solved(*combinations):
        data = build()
        data["combinations"] = [{"id": i, "limit_state": s, "factors": {"Q": f}} for i, s, f in combinations]
        return solve_floor(floor_from(data))

    plain, fire = solved(("U", "ultimate", 2.0)), solved(("U", "ultimate", 0.1), ("E", "fire", 1.4))
    use, used = ({r.check: r.utilisation for r in o.verdict} for o in (plain, fire))
    for check in checks:
        assert used[check] == pytest.approx(use[check], rel=1e-6), check
    row = next(r for r in fire.rows if r.check == "flexure" and r.combination == "E")
    assert any(s.title == "Level of load" and s.values[0].value == 0.7 for s in row.trace.steps)
    assert fire.steel_everywhere.required.max() == pytest.approx(plain.steel_everywhere.required.max(), rel=1e-6)


def test_a_fifth_of_the_steel_over_the_column_runs_through():
    """0.2 of the top steel of the panel over the inner column, over the least that lies at any station of its strips."""
    outcome = solve_floor(floor_from(flat_slab(fire={"resistance": "R90"})))
    found = [r for r in outcome.rows if r.check == "fire" and r.id.part == "top bars"]
    at, cuts = outcome.steel.stations.faces[1].at, outcome.strips.cuts
    numbers = {s.id: k for k, s in enumerate(outcome.strips.layout.strips)}
    assert {outcome.strips.layout.strips[numbers[r.id.of.id]].direction for r in found} == {"x", "y"}
    for r in found:
        mine = np.flatnonzero(cuts.strip == numbers[r.id.of.id])
        laid = (outcome.steel.stations.provided[1] * cuts.width)[mine].min()
        # Rows along edges count as well: in their own direction their columns are intermediate. At the row's end they are not.
        holds = outcome.strips.layout.strips[numbers[r.id.of.id]].holds
        over = [at.total[mine[k]] for k, h in zip((0, -1), holds, strict=True) if not h.last]
        assert r.utilisation == pytest.approx(0.2 * max(over) / laid)
        # Mats of 16 at 150 lie everywhere: 1,340 mm2/m over the strip's width.
        assert laid == pytest.approx(np.pi * 0.016**2 / 4 / 0.15 * cuts.width[mine].min(), rel=0.01)


def test_design_lays_what_runs_through_in_a_fire():
    """Without top mats nothing but this asks for top bars in mid-span: 0.2 of the steel over the columns there, R 60 leaves the spans bare."""
    mats = [m for m in flat_slab()["mats"] if m["face"] == "bottom"]
    for resistance, through in (("R90", True), ("R60", False)):
        outcome = solve_floor(floor_from(flat_slab(mats=mats, design_bars=True, fire={"resistance": resistance})))
        found = [r for r in outcome.rows if r.check == "fire" and r.id.part == "top bars"]
        own, cuts, layout = outcome.steel.stations.faces[1], outcome.strips.cuts, outcome.strips.layout
        inner = [k for k, s in enumerate(layout.strips) if s.kind == "column" and s.direction == "x" and s.band > 0]
        middle = [
            int(mine[np.abs(cuts.s[mine] - np.mean(cuts.s[mine])).argmin()])
            for mine in (np.flatnonzero(cuts.strip == k) for k in inner)
        ]
        given = outcome.steel.stations.provided[1][middle]
        asked = own.provisions["fire_through"][middle] * cuts.width[middle]
        assert len(middle) == 2
        if through:
            assert {r.status for r in found} == {"pass"}
            assert (given > 0).all()
            total = [max(own.at.total[cuts.strip == k]) for k in inner]
            assert (asked > 0).all()
            assert (asked <= 0.2 * np.array(total) * (1 + 1e-9)).all()
            assert asked == pytest.approx(own.required[middle] * cuts.width[middle])
        else:
            assert found == []
            assert (asked == 0).all()
            assert (given == 0).any()


def test_an_inner_column_is_proved_in_both_directions_and_a_point_support_too(monkeypatch):
    """Where the strips of one direction are no column strips, whether its bars run through that way is not known."""
    seen = {}
    whole = FireResistance._kept_top

    def spy(self, context, rules, flat):
        seen.update(context=context, rules=rules, flat=flat)
        return whole(self, context, rules, flat)

    monkeypatch.setattr(FireResistance, "_kept_top", spy)
    outcome = solve_floor(floor_from(flat_slab(fire={"resistance": "R90"})))
    assert not [r for r in outcome.rows if r.check == "fire" and r.status == "uncovered"]
    context = seen["context"]

    def with_kept(kept):
        bottom, top = context.steel.faces
        return replace(context, steel=replace(context.steel, faces=(bottom, replace(top, at=replace(top.at, kept=kept)))))

    kept = context.steel.faces[1].at.kept
    along_y = np.array([s.direction == "y" for s in context.layout.strips])[context.cuts.strip]
    assert kept[along_y].any()
    told = whole(FireResistance(), with_kept(np.where(along_y, 0.0, kept)), seen["rules"], seen["flat"])
    assert {(r.id.of.id, r.label) for r in told if r.status == "uncovered"} == {("C11", "top bars over C11, along y")}
    data = flat_slab(fire={"resistance": "R90"})
    data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    data["supports"] = [{"id": "P", "kind": "point", "at": [6, 6], "vertical": "fixed", "rotation": "free"}]
    solve_floor(floor_from(data))
    told = whole(
        FireResistance(), replace(with_kept(np.zeros_like(kept)), floor=seen["context"].floor), seen["rules"], seen["flat"]
    )
    assert {(r.id.of.kind, r.id.of.id) for r in told} == {("supports", "P")}
    assert len(told) == 2


def test_a_tendon_is_measured_from_the_soffit_that_it_lies_over():
    """In a band of 400 mm below a slab of 250 its lowest point is 60 mm above the band's soffit: 100 mm below the slab's own."""
    data = flat_slab(fire={"resistance": "R90"})
    data["strands"] = [{"id": "s", "area_mm2": 150, "fpk_MPa": 1860, "fp01k_MPa": 1640, "duct_mm": 20}]
    data["thickenings"] = [
        {"id": "B", "kind": "band", "outline": [[-0.2, 5], [12.2, 5], [12.2, 7], [-0.2, 7]], "thickness_m": 0.4}
    ]
    profile = [{"s_m": 0, "z_mm": -200}, {"s_m": 6, "z_mm": -340, "tangent": "level"}, {"s_m": 12, "z_mm": -200}]
    data["tendons"] = [{"id": "T", "line": [[0, 6], [12, 6]], "strand": "s", "count": 1, "jack_MPa": 1400, "profile": profile}]
    floor = floor_from(data)
    slab, region = floor.slabs[0], polygon(floor.slabs[0].outline)
    assert _lowest_strands(floor, True, slab, region).distance == pytest.approx(0.060, abs=1e-4)
    assert _lowest_strands(floor, False, slab, region).distance == pytest.approx(0.050, abs=1e-4)
    # In a thinner part, which is recessed from below, less lies beneath it.
    data["thickenings"] = [{"id": "R", "kind": "recess", "outline": [[5, 5], [7, 5], [7, 7], [5, 7]], "thickness_m": 0.15}]
    data["tendons"][0]["profile"] = [{"s_m": 0, "z_mm": -125}, {"s_m": 12, "z_mm": -125}]
    assert _lowest_strands(floor_from(data), True, slab, region).distance == pytest.approx(0.025, abs=1e-4)


def test_a_beam_is_continuous_over_two_spans_and_not_over_an_overhang():
    """R 120 at 300 mm: 55 mm as simply supported (table 5.5), 35 mm as continuous (5.6)."""

    def asked(data):
        row = next(r for r in solve_floor(floor_from(data)).rows if r.id.key == "fire/beams/B///")
        return row.trace.steps[0]

    two = tee(2, fire={"resistance": "R120"})
    assert "table 5.6" in asked(two).clause
    (beam,) = two["beams"]
    start, end = beam["line"]
    bays = [{**beam, "line": [start, [end[0] / 2, end[1]]]}, {**beam, "id": "B2", "line": [[end[0] / 2, end[1]], end]}]
    assert "table 5.6" in asked({**two, "beams": bays}).clause
    over = tee(2, fire={"resistance": "R120"})
    # The second span has no support at its end.
    over["supports"] = [s for s in over["supports"] if s["id"] != "L2"]
    assert "table 5.5" in asked(over).clause


@pytest.mark.parametrize(("spacing", "status"), [(150, "pass"), (250, "uncovered")])
def test_top_bars_over_the_inner_support_of_a_solid_slab(spacing, status):
    """5.7.3: 0.005 A_c of 250 mm are 1,250 mm2/m. Mats of 16 at 150 give 1,340; at 250 they give 804, and whether that does depends on
    the bars' ductility and on what else carries, which is not known."""
    data = one_way(q=20.0, span=12.0)
    data["supports"].append({"id": "M", "kind": "line", "line": [[6, 0], [6, 4]], "vertical": "fixed", "rotation": "free"})
    for m in data["mats"]:
        if m["face"] == "top":
            m["spacing_mm"] = spacing
    data["fire"] = {"resistance": "R60"}
    found = [r for r in rows(data).values() if r.id.part == "over M"]
    assert found
    assert {r.status for r in found} == {status}
    if status == "pass":
        assert max(r.utilisation for r in found) == pytest.approx(1250 / 1340.4, rel=0.02)
    # A single span has no such support, and tables of ACI have no such rule.
    assert not [r for r in rows({**one_way(), "fire": {"resistance": "R60"}}).values() if r.id.part.startswith("over")]
