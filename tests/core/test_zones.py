"""Punching zones of whole floors: what presses, with which force, and by which free body."""

import itertools
from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
import shapely

from piastra.core.fe.restraints import stretches
from piastra.core.loads.within import clip
from piastra.core.mesh.locate import find
from piastra.core.model import floor_from
from piastra.core.punching.sources import Leg
from piastra.core.punching.stretches import stretch_reaction
from piastra.core.punching.zone_places import Site
from piastra.core.punching.zones import Response, axial_stress, forces_of, least_axial, soil_within, with_axial
from piastra.core.stages import StageCache
from tests.floors import flat_slab, turned
from tests.solving import solve_floor

MATS = flat_slab(1, 1)["mats"]


def solved(**more):
    return solve_floor(floor_from(flat_slab(2, 2, design_rails=False, **more)))


def zones_of(outcome, around="column"):
    return {z.id: z for z in outcome.zones if z.place.outline.around == around}


def response_of(outcome, forces):
    system, solution = outcome.stiffness.system, outcome.solution
    return Response(
        outcome.loads, system.held.labels, solution.reactions, system, solution.u, outcome.stiffness.kept, forces, outcome.meshed.elements,
    )  # fmt: skip


def with_dead_case(data):
    """The floor with a case for what stands on it."""
    data["load_cases"] = [*data["load_cases"], {"id": "G2", "nature": "dead"}]
    for c in data["combinations"]:
        c["factors"] = {**c["factors"], "G2": 1.0}
    return data


def rect(x0, y0, x1, y1):
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


def test_the_governing_stress_is_the_worst_of_all_512_arrangements_with_its_panels():
    """3 x 3 panels, each loaded or not: every sum of unit loads one by one."""
    outcome = solve_floor(floor_from(flat_slab(3, 3, size=0.8, design_rails=False)))
    found = response_of(outcome, outcome.forces)
    acting = forces_of(outcome.floor, [z.place.outline for z in outcome.zones], found)
    factors = next(f for f in outcome.combinations if f.limit_state == "ultimate")
    units = outcome.loads.units
    live = [k for k, u in enumerate(units) if u.panel is not None]
    assert len(live) == 9
    always = np.array([1.35 if u.case in ("G", "D") else 0.0 for u in units])
    every = np.array(list(itertools.product((0.0, 1.5), repeat=9)))
    loads = np.tile(always, (512, 1))
    loads[:, live] = every
    assert factors.full == pytest.approx(loads[-1])
    for z, f in zip(outcome.zones, acting, strict=True):
        # What is drawn along the perimeter is the same stress: of the force on average, more where the moments press.
        drawn, segments = z.place.check.along(z.action), z.place.outline.perimeter.segments
        l = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
        assert drawn.max() <= z.stress * (1 + 1e-9)
        if z.action.row < 4:
            assert drawn.max() == pytest.approx(z.stress, rel=1e-9)
            x, y = (segments.mean(axis=1) - z.place.outline.perimeter.centroid).T
            for turned, m in (((drawn * l * y).sum(), z.action.M_x), (-(drawn * l * x).sum(), z.action.M_y)):
                assert abs(m) < 1.0 or turned * m > 0
        stress = z.place.check.coefficients @ np.stack([f.V, f.M_x, f.M_y]) @ loads.T
        row, worst = np.unravel_index(int(stress.argmax()), stress.shape)
        assert z.stress == pytest.approx(stress.max(), rel=1e-9)
        assert {p.panel for p in z.panels if p.panel} == {units[k].panel for k in live if loads[worst, k] > 0}
        assert pytest.approx(f.V @ loads[worst], rel=1e-9) == z.action.V
        assert z.action.row == row


def test_what_a_wall_presses_with_adds_up_to_its_reaction():
    data = flat_slab(2, 2)
    data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    data["walls"] = [{"id": "W", "line": [[4.5, 6], [7.5, 6]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}]
    outcome = solve_floor(floor_from({**data, "design_rails": False}))
    system, u = outcome.stiffness.system, outcome.solution.u
    whole = outcome.solution.reactions[system.held.labels.index("W")]
    at = (6.0, 6.0)
    parts = [
        stretch_reaction(system, u, leg, at)
        for leg in (Leg("W", (4.5, 6.0), (1.0, 0.0), 1.13), Leg("W", (7.5, 6.0), (-1.0, 0.0), 1.87))
    ]
    assert sum(parts)[0] == pytest.approx(whole[0], rel=1e-9)
    # Out of its plane the wall bends with its nodes, exactly; in its plane each half of an edge presses evenly, about its middle.
    assert sum(parts)[1] == pytest.approx(whole[1], rel=1e-9, abs=1e-9)
    nodes, half, along = stretches(system.mesh.xy, system.mesh.lines["W"])
    stiffness = next(b for n, o, b, _ in zip(*system.held.springs(), strict=True) if o == system.held.labels.index("W"))[2, 2]
    out = np.where(np.arange(len(nodes)) % 2 == 0, 1.0, -1.0)
    up = stiffness / half[0] * half[:, None] * u[nodes, 2]
    arm = system.mesh.xy[nodes, 0] + out * along[:, 0] * half / 2 - 6.0
    assert up.sum(axis=0) == pytest.approx(whole[0], rel=1e-6)
    in_plane = -(arm[:, None] * up).sum(axis=0)
    assert sum(parts)[2] == pytest.approx(in_plane, rel=1e-6, abs=1e-6)
    assert np.abs(in_plane).max() > 1.0
    ends = {z.place.outline.part: z for z in outcome.zones if z.id == "W"}
    assert set(ends) == {"end1", "end2"}
    assert {z.source.kind for z in ends.values()} == {"wall_end"}
    d = ends["end1"].place.check.d
    assert ends["end1"].place.outline.perimeter.length == pytest.approx(
        0.2 + 2 * np.pi * d + 3 * ends["end1"].source.legs[0].length / 1.5, rel=2e-3
    )
    # A floor that is alike on both sides presses both ends alike.
    assert ends["end1"].stress == pytest.approx(ends["end2"].stress, rel=0.02)


def test_a_step_through_a_column_counts_alike_from_both_sides():
    """Slabs of 350 and 200 mm that meet at the axis: mirrored, the same."""

    def floor(left, right):
        data = flat_slab(2, 2, size=1.0, design_rails=False)
        base = data["slabs"][0]
        data["slabs"] = [{**base, "id": "L", "outline": rect(-0.2, -0.2, 6, 12.2), "thickness_m": left},
                         {**base, "id": "R", "outline": rect(6, -0.2, 12.2, 12.2), "thickness_m": right}]  # fmt: skip
        return solve_floor(floor_from(data))

    one, two = zones_of(floor(0.35, 0.2))["C11"], zones_of(floor(0.2, 0.35))["C11"]
    assert one.utilisation == pytest.approx(two.utilisation, rel=0.01)
    assert one.place.check.d == pytest.approx((0.35 + 0.2) / 2 - 0.041, abs=2e-3)
    assert one.place.outline.steps
    assert "crosses steps" in " ".join(s.note for s in one.steps())
    # A recess within the perimeter makes it less deep there.
    recess = [{"id": "R", "kind": "recess", "outline": rect(6.35, 5.0, 7.2, 7.0), "thickness_m": 0.15}]
    bare, less = zones_of(solved())["C11"], zones_of(solved(thickenings=recess))["C11"]
    assert less.place.check.d < bare.place.check.d - 0.005
    assert less.utilisation > bare.utilisation


def test_what_crosses_a_straight_side_beside_its_middle_counts():
    """A channel 120 mm wide, what presses there, and a strip of weaker concrete, each between the middle and the end of a side of 0.4 m."""

    def place():
        data = flat_slab(2, 2, size=1.0, design_rails=False)
        next(c for c in data["columns"] if c["id"] == "C11")["shape"] = {"kind": "rectangle", "b_m": 1.2, "d_m": 0.4}
        # Its edges are ends of pieces of 20 mm, none of whose middles lies on a step.
        return data, rect(6.9, 6.06, 7.6, 6.18)

    def inner(data):
        outcome = solve_floor(floor_from(data))
        return outcome, zones_of(outcome)["C11"].place.outline

    data, strip = place()
    bare = inner(data)[1]
    data["thickenings"] = [{"id": "R", "kind": "recess", "outline": strip, "thickness_m": 0.15}]
    crossed = inner(data)[1]
    assert crossed.steps
    assert not bare.steps
    assert np.mean(bare.depths) - np.mean(crossed.depths) == pytest.approx(0.1 * 0.12 / bare.perimeter.length, rel=1e-9)

    data, strip = place()
    data["concretes"] = [*data["concretes"], {"id": "C20", "strength_MPa": 20}]
    data["slabs"] = [*data["slabs"], {**data["slabs"][0], "id": "W", "outline": strip, "concrete": "C20", "priority": 2}]
    outcome, weak = inner(data)
    assert (bare.concrete, weak.concrete) == ("C30", "C20")

    # 90 kN/m on 0.12 m that are 0.25 m thick: 360 kPa.
    kept, forces = outcome.stiffness.kept, np.zeros_like(outcome.forces)
    forces[np.isin(kept.part, kept.part[kept.element == find(outcome.meshed.elements, np.array([[7.2, 6.12]]))[0]]), 0] = -90.0
    along_x, along_y, _ = axial_stress([weak], response_of(outcome, forces))[0]
    assert along_x == pytest.approx(np.full(forces.shape[2], 360 * 0.12 / weak.perimeter.length), rel=1e-9)
    assert not along_y.any()


def test_along_a_step_the_lesser_depth_counts_whichever_way_rounding_falls():
    """The section of ACI 318-19 at d / 2 from a column runs along all four edges of a drop; or along one, where what presses counts half from
    each side: 90 kN/m on 0.35 m and 30 on 0.25."""

    def inner(half, beyond=0.0):
        data = flat_slab(2, 2, standard="ACI 318-19", size=1.0, design_rails=False)
        drop = rect(6 - half - beyond, 6 - half - beyond, 6 + half, 6 + half + beyond)
        data["thickenings"] = [{"id": "D", "outline": drop, "thickness_m": 0.35}]
        outcome = solve_floor(floor_from(data))
        return outcome, zones_of(outcome)["C11"].place.outline

    half = float(np.abs(inner(0.8)[1].perimeter.segments - 6).max())
    depths = [sum(inner(half + off)[1].depths) / 2 for off in (-1e-6, 0.0, 1e-6)]
    assert depths == pytest.approx([0.25 - 0.041] * 3, abs=1e-9)

    outcome, along = inner(half, 0.5)
    forces = np.zeros_like(outcome.forces)
    forces[:, 0] = np.where(outcome.stiffness.kept.h == 0.35, -90.0, -30.0)[:, None]
    pressed = axial_stress([along], response_of(outcome, forces))[0, 0, 0]
    assert pressed == pytest.approx((90 / 0.35 * 7 + 30 / 0.25) / 8, rel=1e-9)


@pytest.mark.study
def test_where_the_floor_is_as_thick_all_along_a_perimeter_it_is_not_looked_at_point_by_point(monkeypatch):
    """With drops, a recess that a perimeter crosses and one that it only just misses, an opening, and an edge column: as looked at point by point."""
    data = flat_slab(2, 2, size=0.6)
    data["thickenings"] = [
        {"id": "D", "outline": rect(4.8, 4.8, 7.2, 7.2), "thickness_m": 0.4},
        {"id": "R", "kind": "recess", "outline": rect(0.35, 5.0, 1.2, 7.0), "thickness_m": 0.15},
        {"id": "S", "kind": "recess", "outline": rect(6.9, 11.0, 8.0, 12.0), "thickness_m": 0.15},
    ]
    data["openings"] = [{"id": "O", "outline": rect(6.5, -0.1, 7.1, 0.4)}]
    looked = []
    depths = Site.depths
    monkeypatch.setattr(Site, "depths", lambda self, xy, h: looked.append(len(xy)) or depths(self, xy, h))

    def found():
        looked.clear()
        outlines = solve_floor(floor_from(data), StageCache()).zones
        return [z.place.outline for z in outlines], sum(looked)

    some, few = found()
    monkeypatch.setattr(Site, "is_even", lambda *args: False)
    every, many = found()
    assert 0 < few < many / 3
    assert len(some) == len(every) == 10
    for a, b in zip(some, every, strict=True):
        assert (a.source.id, a.around, a.steps, a.counts) == (b.source.id, b.around, b.steps, b.counts)
        for name in ("h", "depths", "d_face"):
            assert getattr(a, name) == pytest.approx(getattr(b, name), abs=1e-12), (a.source.id, name)
        assert a.perimeter.length == pytest.approx(b.perimeter.length, abs=1e-12)
        assert a.perimeter.weight == pytest.approx(b.perimeter.weight, abs=1e-12)
    assert {o.source.id for o in some if o.steps} >= {"C01"}


def test_columns_on_one_drop_share_its_outer_perimeter():
    """Two columns 1.2 m apart on one drop: around it both forces together, less the load inside; neither is said not to press."""
    data = flat_slab(2, 2, design_rails=False)
    data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    column = data["columns"][0]
    data["columns"] += [{**column, "id": "P", "at": [5.4, 6.0]}, {**column, "id": "Q", "at": [6.6, 6.0]}]
    data["thickenings"] = [{"id": "D", "outline": rect(4.2, 4.8, 7.8, 7.2), "thickness_m": 0.4}]
    outcome = solve_floor(floor_from(data))
    (zone,) = zones_of(outcome, "thickening").values()
    assert [s.id for s in zone.place.outline.sources] == ["P", "Q"]
    reactions = outcome.solution.reactions
    labels = outcome.stiffness.system.held.labels
    both = sum(reactions[labels.index(k), 0] for k in "PQ")
    assert zone.forces.joint == pytest.approx(both, rel=1e-9)
    assert pytest.approx(zone.action.joint - zone.action.inside) == zone.action.V
    assert zone.action.V > 600
    # By symmetry the moments cancel where all is loaded.
    full = next(f for f in outcome.combinations if f.limit_state == "ultimate").full
    assert abs(zone.forces.M_y @ full) < 0.02 * (zone.forces.V @ full)
    assert {"P", "Q"} <= set(zones_of(outcome))


def test_a_drop_flush_with_an_edge_through_the_columns_centre_has_its_outer_perimeter():
    found = []
    for x in (6.0, 5.999):
        drop = [{"id": "D", "outline": rect(x, 4.8, 7.4, 7.2), "thickness_m": 0.4}]
        found.append(zones_of(solved(thickenings=drop), "thickening")["C11"])
    assert found[0].utilisation == pytest.approx(found[1].utilisation, rel=0.01)


def test_the_load_inside_the_perimeter_is_taken_off_with_its_arm():
    """By the free body: V and moments about the perimeter's centroid of the joint's reaction and the load inside, by hand for the
    self-weight alone."""
    outcome = solved(loads=[])
    zone = zones_of(outcome)["C10"]
    o = zone.place.outline
    unit = next(k for k, u in enumerate(outcome.loads.units) if u.case == "G")
    R, M_x, M_y = outcome.solution.reactions[outcome.stiffness.system.held.labels.index("C10"), :, unit]
    weight, middle = 6.25 * o.perimeter.inside.area, np.array(o.perimeter.inside.centroid.coords[0])
    arm, off = np.array([6.0, 0.0]) - o.perimeter.centroid, middle - o.perimeter.centroid
    assert zone.forces.V[unit] == pytest.approx(R - weight, rel=1e-6)
    assert zone.forces.M_x[unit] == pytest.approx(M_x + arm[1] * R - off[1] * weight, rel=1e-5)
    assert zone.forces.M_y[unit] == pytest.approx(M_y - arm[0] * R + off[0] * weight, abs=1e-3)


def test_a_planted_column_and_a_patch_press_down_on_the_bottom_bars():
    """100 kN on a planted column in mid-bay: V is that, and of other loads what lies inside; the bars are those of the bottom."""
    data = with_dead_case(flat_slab(2, 2, design_rails=False))
    data["mats"] = [{**m, "bar_mm": 12 if m["face"] == "bottom" else 20} for m in data["mats"]]
    column = {**data["columns"][0], "id": "P", "at": [3.0, 3.0], "below": None, "above": {"height_m": 3.0}}
    data["columns"].append(column)
    data["loads"] += [{"id": "onP", "case": "G2", "kind": "joint", "support": "P", "F_kN": 100.0},
                      {"id": "axle", "case": "Q", "kind": "point", "at": [9, 3], "F_kN": 60.0, "patch": {"b_m": 0.6, "d_m": 0.25}},
                      {"id": "dot", "case": "Q", "kind": "point", "at": [9, 9], "F_kN": 60.0}]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    zone = zones_of(outcome)["P"]
    unit = next(k for k, u in enumerate(outcome.loads.units) if u.case == "G2")
    assert zone.forces.V[unit] == pytest.approx(100.0, rel=1e-9)
    assert zone.place.outline.source.up is False
    spacing = next(m for m in data["mats"] if m["face"] == "bottom")["spacing_mm"] / 1e3
    d_x = zone.place.outline.depths[0]
    assert zone.place.rho[0] == pytest.approx(np.pi * 0.012**2 / 4 / spacing / d_x, rel=1e-6)
    axle = zones_of(outcome)["axle"]
    assert axle.source.kind == "patch"
    assert axle.place.outline.perimeter.length == pytest.approx(1.7 + 4 * np.pi * axle.place.check.d, rel=2e-3)
    bare = [r for r in outcome.rows if r.check == "punching" and r.status == "uncovered"]
    assert [r.id.of.id for r in bare] == ["dot"]


def test_bars_beside_the_mats_count_in_the_face_that_a_zone_stretches_and_in_their_own_direction():
    data = flat_slab(2, 2, design_rails=False)
    data["columns"].append({**data["columns"][0], "id": "P", "at": [3.0, 3.0], "below": None, "above": {"height_m": 3.0}})
    data["loads"].append({"id": "onP", "case": "Q", "kind": "joint", "support": "P", "F_kN": 100.0})
    around = [[0.5, 0.5], [9, 0.5], [9, 9], [0.5, 9]]
    data["designed_bars"] = [
        {"id": "over", "face": "top", "direction": "x", "bar_mm": 16, "spacing_mm": 100, "outline": around},
        {"id": "under", "face": "bottom", "direction": "y", "bar_mm": 20, "spacing_mm": 100, "outline": around},
    ]
    bare, found = (zones_of(solve_floor(floor_from(d))) for d in ({**data, "designed_bars": []}, data))
    for column, stretched, added in (("C11", "top", (0.016, 0.0)), ("P", "bottom", (0.0, 0.020))):
        place = found[column].place
        assert place.outline.source.up == (stretched == "top")
        more = [np.pi * bar**2 / 4 / 0.1 / d for bar, d in zip(added, place.outline.depths, strict=True)]
        assert np.subtract(place.rho, bare[column].place.rho) == pytest.approx(more, abs=1e-9)
        assert max(more) > 0.5 * max(bare[column].place.rho)


def test_a_foot_on_the_ground_is_checked_with_the_net_force_at_its_worst_perimeter():
    data = with_dead_case(flat_slab(1, 1, design_rails=False))
    data["columns"] = [{**data["columns"][0], "id": "P", "at": [3.0, 3.0], "below": None, "above": {"height_m": 3.0}}]
    data["supports"] = [{"id": "soil", "kind": "area", "outline": data["slabs"][0]["outline"], "modulus_kN_m3": 40000.0}]
    data["loads"] = [{"id": "onP", "case": "G2", "kind": "joint", "support": "P", "F_kN": 600.0}]
    outcome = solve_floor(floor_from(data))
    zone = zones_of(outcome)["P"]
    o = zone.place.outline
    assert o.nearness in (0.5, 0.75, 1.0, 1.25, 1.5, 1.75, 2.0)
    unit = next(k for k, u in enumerate(outcome.loads.units) if u.case == "G2")
    # What the soil pushes up inside: modulus times settlement over the area, by hand from the nodes near the column.
    xy, w = outcome.meshed.mesh.xy, outcome.solution.u[:, 2, unit]
    reach = np.hypot(*(xy - 3.0).T) < 1.0
    soil = 40000 * w[reach].mean() * o.perimeter.inside.area
    assert zone.forces.V[unit] == pytest.approx(600 - soil, rel=0.05)
    assert zone.forces.V[unit] < 600


@pytest.mark.study
def test_wide_shallow_bands_are_no_beams_and_sized_supports_are_zones():
    data = flat_slab(2, 2, design_rails=False)
    data["beams"] = [{"id": "B", "line": [[-0.2, 6], [12.2, 6]], "width_m": 1.2, "depth_m": 0.4, "concrete": "C30"}]
    data["supports"] = [{"id": "pad", "kind": "point", "at": [3, 3], "vertical": "fixed", "patch": {"b_m": 0.3, "d_m": 0.3}},
                        {"id": "pin", "kind": "point", "at": [9, 3], "vertical": "fixed"}]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    assert "C11" in zones_of(outcome)
    assert zones_of(outcome)["pad"].source.kind == "point"
    assert zones_of(outcome)["pad"].action.joint > 0
    bare = {r.id.of.id for r in outcome.rows if r.check == "punching" and r.status == "uncovered"}
    assert bare == {"pin"}
    data["beams"][0].update(width_m=0.3, depth_m=0.6)
    assert "C11" not in zones_of(solve_floor(floor_from(data)))


def test_rails_of_a_zone_are_as_they_are_laid_and_designed_where_they_are_needed():
    data = flat_slab(2, 2)
    data["loads"] = [{**l, "q_kPa": 1.4 * l["q_kPa"]} if l["kind"] == "area" else l for l in data["loads"]]
    bare = zones_of(solve_floor(floor_from({**data, "design_rails": False})))["C11"]
    assert bare.utilisation > 1.1
    free = zones_of(solve_floor(floor_from(data)))["C11"]
    assert free.designed
    assert free.utilisation <= 1
    r = free.reinforced.laid.rails
    setting = {"kind": "stud", "bar_mm": 1e3 * r.bar, "yield_MPa": r.yield_MPa, "rails": r.rails, "per_rail": r.per_rail,
               "first_mm": 1e3 * r.first, "spacing_mm": 1e3 * r.spacing, "pattern": "radial"}  # fmt: skip

    def laid(**more):
        return zones_of(solve_floor(floor_from({**data, "zone_settings": [{"zone": "C11", "rails": {**setting, **more}}]})))[
            "C11"
        ]

    same = laid()
    assert not same.designed
    assert same.utilisation == pytest.approx(free.utilisation, rel=1e-9)
    # A rail fewer: tangential spacing or strength falls short; studs fewer: what is beyond them.
    assert laid(rails=r.rails // 2).utilisation > 1
    assert laid(per_rail=2).worst.part in ("outer", "perimeter")
    # An opening takes a rail away by itself.
    hole = {"id": "H", "outline": rect(6.6, 5.9, 6.8, 6.1)}
    cut = zones_of(solve_floor(floor_from({**data, "openings": [hole], "zone_settings": [{"zone": "C11", "rails": setting}]})))[
        "C11"
    ]
    assert cut.reinforced.laid.left_out >= 1
    simplified = zones_of(
        solve_floor(floor_from({**data, "design_rails": False, "zone_settings": [{"zone": "C11", "beta": "simplified"}]}))
    )["C11"]
    assert simplified.place.check.beta(simplified.action) == pytest.approx(1.15)


def test_axial_compression_adds_to_the_resistance_and_tension_takes_from_it():
    """100 kN/m along x and 50 along y, pressing, in 250 mm: 300 kPa on average; k_1 = 0.1 adds 30 kPa to 636.3. The least over all
    arrangements counts: what only live load presses is not there."""
    outcome = solved()
    zone = zones_of(outcome)["C11"]
    forces = np.zeros_like(outcome.forces)
    dead, live = outcome.loads.units[0], next(k for k, u in enumerate(outcome.loads.units) if u.panel is not None)
    assert dead.case == "G"
    forces[:, 0, 0], forces[:, 1, 0] = -100.0, -50.0
    forces[:, 0, live] = -80.0
    found = response_of(outcome, forces)
    along_x, along_y, _ = axial_stress([zone.place.outline], found)[0]
    assert (along_x[0], along_y[0]) == pytest.approx((400.0, 200.0), rel=1e-9)
    assert (along_x[live], along_y[live]) == pytest.approx((320.0, 0.0), rel=1e-9)
    # Of all perimeters at once as of each by itself.
    every = [z.place.outline for z in outcome.zones]
    any_forces = replace(found, forces=np.random.default_rng(2).normal(size=forces.shape))
    for one, own in zip(every, axial_stress(every, any_forces), strict=True):
        assert own == pytest.approx(axial_stress([one], any_forces)[0], rel=1e-9)
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    rules = outcome.standard.punching
    pressed = with_axial(zone.place, rules, least_axial(axial_stress([zone.place.outline], found), ultimate)[0], False).check
    assert pressed.shape.sigma_cp == pytest.approx(1.35 * 300, rel=1e-9)
    assert pressed.shape.least_pressed == pytest.approx(1.35 * 200, rel=1e-9)
    # The same of a floor turned by 30 degrees: 350 along x, 250 along y, and 50 sqrt(3) of shear.
    turned_forces = forces.copy()
    turned_forces[:, 0, 0], turned_forces[:, 1, 0], turned_forces[:, 2, 0] = -87.5, -62.5, -12.5 * np.sqrt(3)
    turned_forces[:, :3, live] = 0.0
    least = least_axial(axial_stress([zone.place.outline], replace(found, forces=turned_forces)), ultimate)[0]
    assert least == pytest.approx((1.35 * 300, 1.35 * 200), rel=1e-9)
    assert pressed.resistance == pytest.approx(zone.place.check.resistance + 0.1 * 405, rel=1e-9)
    pulled = with_axial(
        zone.place, rules, least_axial(axial_stress([zone.place.outline], replace(found, forces=-forces)), ultimate)[0], False
    ).check
    assert pulled.resistance == pytest.approx(zone.place.check.resistance - 0.1 * (405 + 1.5 * 160), rel=1e-9)
    assert zone.place.check.shape.sigma_cp == 0.0


@pytest.mark.parametrize("degrees", [0.0, 40.0])
def test_bars_and_a_small_loaded_area_are_seen_in_their_own_axes(degrees):
    """Mats of 2 x 2.4 m over a column of 0.5 x 0.3 m hold it and 3 d to each side, but not, once the floor is turned, a box along x and y around these."""
    data = flat_slab(2, 2, size=1.0, design_rails=False)
    column = next(c for c in data["columns"] if c["id"] == "C11")
    column["shape"] = {"kind": "rectangle", "b_m": 0.5, "d_m": 0.3}
    data["mats"] = [{**m, "outline": rect(5.0, 4.8, 7.0, 7.2)} if m["face"] == "top" else m for m in data["mats"]]
    data["loads"].append({"id": "box", "case": "Q", "kind": "area", "outline": rect(8.7, 2.9, 9.3, 3.15), "q_kPa": 200.0})
    found = zones_of(solve_floor(floor_from(turned(data, degrees))))
    place, box = found["C11"].place, found["box"].source
    area = np.pi / 4 * 0.016**2 / 0.15
    assert place.rho == pytest.approx([area / d for d in place.outline.depths], rel=1e-9)
    assert box.sides == pytest.approx((0.6, 0.25), rel=1e-9)
    assert np.degrees(box.angle) == pytest.approx(degrees, abs=1e-6)


def test_a_wall_between_others_is_told():
    data = flat_slab(2, 2, design_rails=False)
    below = {"height_m": 3.0}
    walls = [("A", [[3, 2], [3, 10]]), ("B", [[9, 2], [9, 10]]), ("M", [[3, 6], [9, 6]])]
    data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    data["walls"] = [{"id": k, "line": l, "thickness_m": 0.2, "concrete": "C30", "below": below} for k, l in walls]
    outcome = solve_floor(floor_from(data))
    told = {r.id.of.id: r.reason for r in outcome.rows if r.check == "punching" and r.status == "uncovered"}
    assert set(told) == {"M"}
    assert "run into other walls" in told["M"]
    assert {z.id for z in outcome.zones} >= {"A", "B"}


def test_moments_of_loads_inside_turn_a_zone_as_they_turn_the_floor():
    """A patch with 30 kNm about x: the same moment in its zone. A point load with moments inside a column's perimeter: with its arm."""
    data = with_dead_case(flat_slab(2, 2, design_rails=False))
    data["loads"] += [{"id": "pump", "case": "G2", "kind": "point", "at": [3, 3], "F_kN": 80.0, "Mx_kNm": 30.0, "My_kNm": -12.0,
                       "patch": {"b_m": 0.6, "d_m": 0.4, "angle_deg": 30}},
                      {"id": "near", "case": "G2", "kind": "point", "at": [6.5, 6.0], "F_kN": 10.0, "Mx_kNm": 4.0, "My_kNm": 5.0}]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    unit = next(k for k, u in enumerate(outcome.loads.units) if u.case == "G2")
    pump = zones_of(outcome)["pump"]
    assert pump.forces.V[unit] == pytest.approx(80.0, rel=1e-9)
    c, s = np.cos(np.radians(30)), np.sin(np.radians(30))
    # It presses down, so its own axes see the moments the other way round.
    own = (-(c * 30 + s * -12), -(-s * 30 + c * -12))
    assert (pump.forces.M_x[unit], pump.forces.M_y[unit]) == pytest.approx(own, rel=1e-6)
    column = zones_of(outcome)["C11"]
    R, M_x, M_y = outcome.solution.reactions[outcome.stiffness.system.held.labels.index("C11"), :, unit]
    assert column.forces.V[unit] == pytest.approx(R - 10.0, rel=1e-9)
    assert column.forces.M_x[unit] == pytest.approx(M_x + 4.0, rel=1e-6, abs=1e-6)
    assert column.forces.M_y[unit] == pytest.approx(M_y + 5.0 + 0.5 * 10.0, rel=1e-6, abs=1e-6)


def test_a_head_on_a_drop_panel_has_three_perimeters():
    """Round the column, round the head in the drop's depth, round the drop in the slab's: whatever their priorities."""
    for first in (0, 5):
        thick = [{"id": "head", "kind": "column_head", "outline": rect(5.4, 5.4, 6.6, 6.6), "thickness_m": 0.6, "priority": 9},
                 {"id": "drop", "outline": rect(4.2, 4.2, 7.8, 7.8), "thickness_m": 0.4, "priority": first}]  # fmt: skip
        outcome = solved(thickenings=thick)
        found = [z for z in outcome.zones if z.id == "C11"]
        outer = sorted((z for z in found if z.place.outline.around == "thickening"), key=lambda z: z.place.outline.loaded.area)
        assert [round(z.place.check.d, 3) for z in outer] == [0.359, 0.209]
        d = 0.359
        assert outer[0].place.outline.perimeter.length == pytest.approx(4.8 + 4 * np.pi * d, rel=1e-3)
        assert outer[1].place.outline.perimeter.length == pytest.approx(14.4 + 4 * np.pi * 0.209, rel=1e-3)
        assert len({r.id.key for r in outcome.rows}) == len(outcome.rows)


def test_soil_pushes_up_inside_a_perimeter_with_its_arm():
    """w = 1 + x mm on 40 MN/m3 over 2 <= x <= 4, 1 <= y <= 2: 40 x (1 + 3) x 2 = 320 kN; first moments of x 40 (x^2 / 2 + x^3 / 3) = 986.7,
    of y 480 kNm."""
    data = flat_slab(1, 1, size=0.5)
    data["supports"] = [{"id": "soil", "kind": "area", "outline": data["slabs"][0]["outline"], "modulus_kN_m3": 40000.0}]
    outcome = solve_floor(floor_from(data))
    xy = outcome.meshed.mesh.xy
    u = np.zeros((len(xy), 5, 1))
    u[:, 2, 0] = 1e-3 * (1 + xy[:, 0])
    inside = clip(outcome.meshed.elements, shapely.box(2, 1, 4, 2))
    bed = [(shapely.box(-1, -1, 9, 9), 40000.0)]
    response = SimpleNamespace(system=outcome.stiffness.system, u=u)
    total, x, y = soil_within(inside, bed, response)[:, 0]
    assert total == pytest.approx(320.0, rel=5e-3)
    assert x == pytest.approx(40 * (6 + 56 / 3), rel=1e-2)
    assert y == pytest.approx(480.0, rel=1e-2)


def test_an_axle_on_a_slab_on_the_ground_has_zones_with_the_net_force():
    data = with_dead_case(flat_slab(1, 1, design_rails=False))
    data["columns"] = []
    data["supports"] = [{"id": "soil", "kind": "area", "outline": data["slabs"][0]["outline"], "modulus_kN_m3": 40000.0}]
    wheel = {"case": "G2", "kind": "point", "F_kN": 60.0, "patch": {"b_m": 0.4, "d_m": 0.25}}
    data["loads"] = [{**wheel, "id": "left", "at": [2.1, 3.0]}, {**wheel, "id": "right", "at": [3.9, 3.0]}]
    outcome = solve_floor(floor_from(data))
    found = zones_of(outcome)
    assert set(found) == {"left", "right"}
    unit = next(k for k, u in enumerate(outcome.loads.units) if u.case == "G2")
    for z in found.values():
        assert z.source.kind == "patch"
        assert z.place.outline.nearness is not None
        # The soil pushes by how each element settles: none of them may stand for others.
        o = z.place.outline
        assert (o.inside.element == clip(outcome.meshed.elements, o.perimeter.inside).element).all()
        assert 10.0 < z.forces.V[unit] < 60.0
    assert found["left"].stress == pytest.approx(found["right"].stress, rel=0.02)
    punching = next(r for r in outcome.verdict if r.check == "punching")
    assert punching.status == "pass"


def test_a_wall_whose_line_lies_beside_the_floor_is_told_and_breaks_nothing():
    data = flat_slab(2, 2, design_rails=False)
    data["walls"] = [
        {"id": "W", "line": [[-0.25, 4], [-0.25, 8]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}
    ]
    outcome = solve_floor(floor_from(data))
    assert "W" in {r.id.of.id for r in outcome.rows if r.check == "punching" and r.status == "uncovered"}


@pytest.mark.study
def test_zones_at_a_leap_of_thickness_do_not_hang_on_the_mesh():
    """A shaft whose walls stand on the edge of a band: the corners' depth is that round about them, whichever elements lie there."""
    found = []
    for size in (0.5, 0.42, 0.37):
        data = flat_slab(2, 2, size=size, design_rails=False)
        data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
        shaft = [[5.4, 5.7], [6.9, 5.7], [6.9, 6.1], [5.4, 6.1], [5.4, 5.7]]
        data["walls"] = [{"id": "K", "line": shaft, "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}]
        data["openings"] = [{"id": "O", "outline": shaft[:-1]}]
        data["thickenings"] = [{"id": "B", "kind": "band", "outline": rect(0, 4.8, 12, 5.98), "thickness_m": 0.5}]
        zones = [z.place for z in solve_floor(floor_from(data)).zones if z.id == "K"]
        found.append([(z.outline.part, z.outline.perimeter.length, z.check.d, z.outline.d_face) for z in zones])
    for other in found[1:]:
        assert [p for p, *_ in other] == [p for p, *_ in found[0]]
        assert np.allclose([o for _, *o in other], [o for _, *o in found[0]], rtol=0.02)
    _, _, left, right = found[0]
    assert [face for *_, face in found[0][:2]] == pytest.approx([0.459, 0.459])
    # Beside the upper ones there is a little of the band, and alike of both.
    assert 0.21 < left[3] < 0.25
    assert right[1:] == pytest.approx(left[1:], rel=0.01)


@pytest.mark.parametrize("at", [5.3, 6.0])
def test_a_drop_given_in_pieces_is_one(at):
    def around(*pieces):
        drops = [{"id": f"D{k}", "outline": rect(*piece), "thickness_m": 0.4} for k, piece in enumerate(pieces)]
        return [
            (z.id, z.place.outline.around, z.place.outline.perimeter.length, z.utilisation)
            for z in solved(thickenings=drops, size=1.0).zones if z.id == "C11" or z.place.outline.around == "thickening"
        ]  # fmt: skip

    one, pieces = around((4.8, 4.8, 7.2, 7.2)), around((4.8, 4.8, at, 7.2), (at, 4.8, 7.2, 7.2))
    assert [z[:2] for z in pieces] == [z[:2] for z in one]
    assert [z[2] for z in pieces] == pytest.approx([z[2] for z in one], rel=1e-6)
    assert [z[3] for z in pieces] == pytest.approx([z[3] for z in one], rel=0.02)


def test_all_corners_of_a_shaft_whose_walls_stand_on_its_opening_have_zones():
    """Half of each wall stands over the opening; turned by a quarter, every corner keeps its perimeter."""

    def perimeters(degrees):
        a = np.radians(degrees)
        ring = [[4 + u * np.cos(a) - v * np.sin(a), 4 + u * np.sin(a) + v * np.cos(a)] for u, v in rect(0, 0, 1.24, 0.9)]
        document = flat_slab(1, 1, a=8.0, size=1.0)
        document["openings"] = [{"id": "O", "outline": ring}]
        document["walls"] = [
            {"id": "K", "line": [*ring, ring[0]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.2}}
        ]
        return sorted(
            z.place.outline.perimeter.length for z in solve_floor(floor_from(document)).zones if z.source.list == "walls"
        )

    one, other = perimeters(45.84), perimeters(135.84)
    assert len(one) == 4
    assert other == pytest.approx(one, rel=1e-6)


@pytest.mark.parametrize(
    ("whole", "pieces"),
    [
        pytest.param((6.5, 5.2, 8.1, 5.8), [(6.5, 5.2, 7.1, 5.8), (7.1, 5.2, 8.1, 5.8)], id="inside"),
        pytest.param((6.5, -0.2, 8.1, 0.3), [(6.5, -0.2, 8.1, 0.0), (6.5, 0.0, 8.1, 0.3)], id="at the edge"),
    ],
)
def test_an_opening_given_in_pieces_is_one(whole, pieces):
    """A perimeter loses what the whole opening takes (EN 1992-1-1 6.4.2 (3)), which by its length and width is more than what its pieces do; what
    touches a notch of the edge is part of it."""

    def perimeters(*rings, slabs=1):
        document = flat_slab(2, 2, size=1.0, design_rails=False)
        document["openings"] = [{"id": f"O{k}", "outline": rect(*ring)} for k, ring in enumerate(rings)]
        if slabs == 2:
            s = document["slabs"][0]
            xs, ys = zip(*s["outline"], strict=True)
            sides = (rect(min(xs), min(ys), 7.3, max(ys)), rect(7.3, min(ys), max(xs), max(ys)))
            document["slabs"] = [{**s, "id": f"S{k}", "outline": ring} for k, ring in enumerate(sides)]
        return {z.id: z.place.outline.perimeter.length for z in solve_floor(floor_from(document)).zones}

    one = perimeters(whole)
    assert perimeters(*pieces) == pytest.approx(one, rel=1e-4)
    assert perimeters(whole, slabs=2) == pytest.approx(one, rel=1e-4)
