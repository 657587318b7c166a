"""Tendons: curves, friction and locking, what they do to the floor, losses; each against a closed form or a hand calculation."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.model import RefusedError, floor_from
from piastra.core.model.tendon_curve import curve
from piastra.core.model.tendons import ProfilePoint
from piastra.core.stages import tendons as tendons_stage
from piastra.core.stages.build import StageCache
from piastra.core.standards.prestress_rules import LossPlaces
from piastra.core.tendons.friction import stressed
from piastra.core.tendons.losses import losses
from tests.core.tendon_strips import (
    NO_LOSS,
    STRAND,
    P,
    cut_forces,
    points,
    reactions,
    strip,
    tendon,
)
from tests.solving import solve_floor


def test_one_level_point_makes_one_parabola_two_make_two_with_a_common_tangent():
    c = curve([[0, 0], [10, 0]], [ProfilePoint(**p) for p in points((0, -100, "free"), (10, -200, "level"))])
    middle = np.interp(5.0, c.s, c.z)
    assert middle == pytest.approx(-0.200 + 0.1 * 0.25, abs=1e-4)
    assert c.slope[-1] == pytest.approx(0.0, abs=1e-12)
    # From 100 mm higher to level, reversed a tenth from the higher point: steepest 2 x 0.1 / 10.
    c = curve([[0, 0], [10, 0]], [ProfilePoint(**p) for p in points((0, -100, "level"), (10, -200, "level"))])
    assert c.slope.min() == pytest.approx(-0.02)
    assert c.z[np.abs(c.s - 1.0).argmin()] == pytest.approx(-0.110)
    turned = curve([[0, 0], [10, 0]], [ProfilePoint(**p) for p in points((0, -200, "level"), (10, -100, "level"))])
    assert turned.z[np.abs(turned.s - 9.0).argmin()] == pytest.approx(-0.110)
    # Up to the steepest part and back again: twice its angle.
    assert c.theta[-1] == pytest.approx(2 * np.arctan(0.02))


def test_kinks_are_straight_and_turn_at_once():
    c = curve([[0, 0], [9, 0]], [ProfilePoint(**p) for p in points((0, -100, "level"), (3, -250, "kink"), (9, -100, "level"))])
    assert np.interp(1.5, c.s, c.z) == pytest.approx(-0.175)
    assert c.theta[-1] == pytest.approx(np.arctan(0.05) + np.arctan(0.025))


def test_an_arc_on_plan_turns_by_its_own_angle_whatever_its_elevation():
    bulge = float(np.tan(np.radians(60) / 4))
    line = [[0.0, 0.0, bulge], [6.0, 0.0]]
    length = 6.0 / 2 / np.sin(np.radians(30)) * np.radians(60)
    c = curve(line, [ProfilePoint(**p) for p in points((0, -100, "free"), (length, -100, "free"))])
    assert c.theta[-1] == pytest.approx(np.radians(60), rel=1e-9)
    assert c.xy[-1] == pytest.approx([6.0, 0.0], abs=1e-9)


# Friction and locking


def straight(length=50.0):
    return curve([[0, 0], [length, 0]], [ProfilePoint(**p) for p in points((0, -100, "free"), (length, -100, "free"))])


def test_friction_and_extension_by_hand():
    mu, k, L, P0, EA = 0.06, 0.05, 50.0, 200.0, 150e-6 * 195e6
    found = stressed(straight(L), P0, mu, k, "start", EA, 0.0)
    assert found.jacking[-1] == pytest.approx(P0 * np.exp(-mu * k * L))
    assert found.extension == pytest.approx(P0 * (1 - np.exp(-mu * k * L)) / (mu * k) / EA, rel=1e-6)
    parabola = [ProfilePoint(**p) for p in points((0, -100, "free"), (5, -200, "level"), (10, -100, "free"))]
    bent = stressed(curve([[0, 0], [10, 0]], parabola), P0, 0.2, 0.0, "end", EA, 0.0)
    assert bent.jacking[0] == pytest.approx(P0 * np.exp(-0.2 * 2 * np.arctan(0.04)))


def test_draw_in_is_the_area_between_the_curves():
    mu, k, L, P0, EA, slip = 0.06, 0.05, 50.0, 200.0, 150e-6 * 195e6, 6e-3
    c = straight(L)
    found = stressed(c, P0, mu, k, "start", EA, slip)
    assert np.trapezoid(found.jacking - found.locked, c.s) == pytest.approx(EA * slip, rel=2e-3)
    # With a steady loss p a metre the wedge reaches sqrt(EA slip / p); a little further, as the loss falls off.
    steady = np.sqrt(EA * slip / (P0 * mu * k))
    assert found.felt[0] == pytest.approx(steady, rel=0.05)
    assert found.locked[0] == pytest.approx(found.jacking[np.abs(c.s - found.felt[0]).argmin()] ** 2 / P0, rel=1e-3)


def test_a_short_tendon_slips_as_a_whole():
    mu, k, L, P0, EA, slip = 0.06, 0.05, 8.0, 200.0, 150e-6 * 195e6, 6e-3
    c = straight(L)
    found = stressed(c, P0, mu, k, "start", EA, slip)
    assert found.felt[0] == pytest.approx(L)
    assert np.trapezoid(found.jacking - found.locked, c.s) == pytest.approx(EA * slip, rel=1e-6)
    assert found.locked[-1] > found.locked[0]
    # Without friction: E delta / L of stress all along.
    plain = stressed(c, P0, 0.0, 0.0, "start", EA, slip)
    assert plain.locked == pytest.approx(np.full(len(c.s), P0 - EA * slip / L))


@settings(max_examples=40, deadline=None)
@given(
    length=st.floats(5, 90), slip=st.floats(1e-4, 0.012), mu=st.floats(0.01, 0.25), ends=st.sampled_from(["start", "end", "both"])
)
def test_locking_takes_what_it_must_and_mirrored_tendons_agree(length, slip, mu, ends):
    EA, P0 = 150e-6 * 195e6, 200.0
    some = points((0, -100, "free"), (0.4 * length, -220, "level"), (length, -60, "level"))
    c = curve([[0, 0], [length, 0]], [ProfilePoint(**p) for p in some])
    found = stressed(c, P0, mu, 0.01, ends, EA, slip)
    taken = np.trapezoid(found.jacking - found.locked, c.along())
    if found.locked.min() > 0:
        assert taken == pytest.approx(EA * slip * (2 if ends == "both" else 1), rel=0.01)
    assert (found.locked <= found.jacking * (1 + 1e-9)).all()
    back = [{**p, "s_m": length - p["s_m"]} for p in reversed(some)]
    other = {"start": "end", "end": "start", "both": "both"}[ends]
    mirrored = stressed(curve([[0, 0], [length, 0]], [ProfilePoint(**p) for p in back]), P0, mu, 0.01, other, EA, slip)
    at = np.linspace(0.01, 0.99, 23) * length
    assert np.interp(at, c.s, found.locked) == pytest.approx(
        np.interp(length - at, *_by(mirrored, back, length)), rel=2e-3, abs=0.05
    )


def _by(found, profile, length):
    c = curve([[0, 0], [length, 0]], [ProfilePoint(**p) for p in profile])
    return c.s, found.locked


# Effects


def test_a_parabola_balances_a_load_and_compresses_the_strip():
    a, L = 0.1, 10.0
    outcome = solve_floor(floor_from(strip([L], [tendon(points((0, -150, "free"), (5, -250, "level"), (10, -150, "free")))])))
    x, moment, axial = cut_forces(outcome, "PF")
    assert axial == pytest.approx(-P * np.cos(np.arctan(4 * a / L * (2 * x / L - 1))), rel=1e-4)
    within = (x > 0.2) & (x < L - 0.2)
    wanted = -P * a * (1 - (2 * x / L - 1) ** 2)
    assert moment[within] == pytest.approx(wanted[within], abs=0.004 * P * a)
    assert np.abs(reactions(outcome, "PF")).max() < 1e-7 * P
    # Statically determinate: nothing is secondary.
    assert np.abs(cut_forces(outcome, "PS")[1]).max() < 1e-6 * P * a
    middle = np.hypot(*(outcome.meshed.mesh.xy - [5.0, 0.5]).T).argmin()
    EI = 30e6 * 0.3**3 / 12
    w = outcome.solution.u[middle, 2, outcome.loads.of_case("PF")[0]]
    assert w == pytest.approx(-5 / 48 * P * a * L**2 / EI, rel=5e-3)


@pytest.mark.parametrize("size", [0.2, 0.37, 0.5])
def test_tendons_of_any_layout_are_in_equilibrium_with_themselves(size):
    data = strip([7.0, 5.0], [], width=6.0, mesh={"size_m": size})
    data["openings"] = [{"id": "O", "outline": [[3.1, 2.0], [4.3, 2.2], [4.0, 3.3]]}]
    data["thickenings"] = [{"id": "D", "outline": [[6.0, 1.9], [8.1, 1.9], [8.1, 4.1], [6.0, 4.1]], "thickness_m": 0.5}]
    bent = [[0.0, 1.0], [3.0, 1.2, 0.1], [9.0, 4.9, -0.05], [12.0, 4.0]]
    from piastra.core.geometry.arcs import length_of

    L = length_of(bent)
    data["tendons"] = [
        {"id": "A", "strand": "S", "line": bent, "jack_MPa": 1000.0, "count": 3,
         "profile": points((0, -80, "free"), (0.3 * L, -240, "level"), (0.55 * L, -60, "level"), (L, -170, "kink"))},
        {"id": "B", "strand": "R", "line": [[2.0, 0.0], [2.3, 6.0]], "jack_MPa": 1200.0, "stressed_from": "both",
         "profile": points((0, -150, "free"), (float(np.hypot(0.3, 6.0)), -60, "free"))},
    ]  # fmt: skip
    data["strands"].append({**STRAND, "id": "R"})
    outcome = solve_floor(floor_from(data))
    unit = outcome.loads.of_case("PF")[0]
    f, xy = outcome.loads.vectors()[..., unit], outcome.meshed.mesh.xy
    scale = 3 * P
    assert np.abs(f[:, :3].sum(axis=0)).max() < 1e-9 * scale
    # Moments about x, y and z of forces and couples.
    turns = [
        (xy[:, 1] * f[:, 2] - f[:, 4]).sum(),
        (xy[:, 0] * f[:, 2] - f[:, 3]).sum(),
        (xy[:, 0] * f[:, 1] - xy[:, 1] * f[:, 0]).sum(),
    ]
    assert np.abs(turns).max() < 1e-9 * scale * 12


def test_two_spans_against_the_closed_secondary_moment():
    L, low, high = 8.0, 0.09, 0.06
    half = L / 2
    profile = points(
        (0, -150, "free"), (half, -150 - 90, "level"), (L, -150 + 60, "free"), (L + half, -240, "level"), (2 * L, -150, "free")
    )
    outcome = solve_floor(floor_from(strip([L, L], [tendon(profile)])))
    # Loads of the parabolas on the outer and inner halves; a span beside the level tangent over the middle support is propped.
    w1, w2 = 8 * P * low / L**2, 8 * P * (low + high) / L**2
    total = (7 * w1 + 9 * w2) / 128 * L**2
    secondary = total - P * high
    R = reactions(outcome, "PF")
    assert pytest.approx([secondary / L, -2 * secondary / L, secondary / L], rel=2e-3) == R
    assert reactions(outcome, "PS") == pytest.approx(R)
    x, moment, _ = cut_forces(outcome, "PS")
    # From reactions alone, at every station.
    by_hand = np.where(x < L, R[0] * x, R[2] * (2 * L - x))
    assert np.abs(moment - by_hand).max() < 1e-6 * np.abs(by_hand).max()
    # Total less primary is secondary, with the tendon's force and level at each station.
    _, whole, _ = cut_forces(outcome, "PF")
    c = curve([[0, 0.5], [2 * L, 0.5]], [ProfilePoint(**p) for p in profile])
    e = -0.15 - np.interp(x, c.s, c.z)
    away = np.minimum(np.abs(x - L), np.minimum(x, 2 * L - x)) > 0.3
    assert (whole + P * e)[away] == pytest.approx(by_hand[away], abs=0.006 * P * (low + high))


def test_three_spans_with_reversed_parabolas_have_the_moments_of_their_reactions():
    L = 7.0
    profile = [
        {"s_m": 0.0, "z_mm": -150.0, "tangent": "free"}, {"s_m": 2.9, "z_mm": -250.0, "tangent": "level"},
        {"s_m": 7.0, "z_mm": -60.0, "tangent": "level", "reverse": 0.12}, {"s_m": 10.5, "z_mm": -240.0, "tangent": "level"},
        {"s_m": 14.0, "z_mm": -60.0, "tangent": "level", "reverse": 0.12}, {"s_m": 18.1, "z_mm": -250.0, "tangent": "level"},
        {"s_m": 21.0, "z_mm": -150.0, "tangent": "free"},
    ]  # fmt: skip
    data = strip([L, L, L], [tendon(profile)])
    data["strands"] = [STRAND]
    outcome = solve_floor(floor_from(data))
    x, moment, _ = cut_forces(outcome, "PS")
    R = reactions(outcome, "PS")
    by_hand = sum(r * np.maximum(x - k * L, 0.0) for k, r in enumerate(R))
    assert np.abs(R).max() > 0.3
    assert np.abs(moment - by_hand).max() < 1e-6 * np.abs(by_hand).max()
    assert sum(R) == pytest.approx(0.0, abs=1e-7 * P)


def test_levels_count_about_the_changing_centroid_of_drops_and_steps():
    data = strip([10.0], [tendon(points((0, -150, "free"), (10, -150, "free")))])
    data["thickenings"] = [{"id": "D", "outline": [[3, 0], [6, 0], [6, 1], [3, 1]], "thickness_m": 0.5}]
    data["slabs"][0]["outline"] = [[0, 0], [7, 0], [7, 1], [0, 1]]
    data["slabs"].append({**data["slabs"][0], "id": "low", "outline": [[7, 0], [10, 0], [10, 1], [7, 1]], "top_offset_m": -0.05})
    outcome = solve_floor(floor_from(data))
    x, moment, axial = cut_forces(outcome, "PF")
    for a, b, e in ((0.6, 2.4, 0.0), (3.6, 5.4, -0.10), (7.6, 9.4, -0.05)):
        here = (x > a) & (x < b)
        assert here.any()
        # Straight at -150 mm; centroids at -150, -250 and -200.
        assert moment[here] == pytest.approx(np.full(here.sum(), -P * e), abs=0.002 * P)
    assert axial == pytest.approx(np.full(len(x), -P), rel=1e-6)


def test_tendons_both_ways_that_balance_a_load_leave_no_deflection():
    L, a, q = 8.0, 0.1, 5.0
    # w = q_x + q_y, each by tendons at 1 m: P = q/2 * L^2 / (8 a) a metre.
    force = q / 2 * L**2 / (8 * a)
    jack = force / 0.15
    ys = np.arange(0.25, L, 0.5)
    profile = points((0, -150, "free"), (L / 2, -250, "level"), (L, -150, "free"))
    tendons = [
        {"id": f"{d}{k}", "strand": "S", "line": line, "jack_MPa": jack / 2, "profile": profile}
        for k, y in enumerate(ys) for d, line in (("x", [[0.0, y], [L, y]]), ("y", [[y, 0.0], [y, L]]))
    ]  # fmt: skip
    data = strip([L], tendons, width=L, mesh={"size_m": 0.5})
    data["slabs"][0]["outline"] = [[0, 0], [L, 0], [L, L], [0, L]]
    data["supports"] = [{"id": f"L{k}", "kind": "line", "line": line, "rotation": "free"} for k, line in enumerate(
        [[[0, 0], [L, 0]], [[L, 0], [L, L]], [[L, L], [0, L]], [[0, L], [0, 0]]])]  # fmt: skip
    data["load_cases"].append({"id": "Q", "nature": "dead"})
    data["loads"] = [{"id": "q", "case": "Q", "kind": "area", "q_kPa": q}]
    outcome = solve_floor(floor_from(data))
    u = outcome.solution.u[:, 2]
    load, balance = u[:, outcome.loads.of_case("Q")[0]], u[:, outcome.loads.of_case("PF")[0]]
    assert np.abs(load + balance).max() < 0.006 * load.max()
    n = outcome.forces[:, :3, outcome.loads.of_case("PF")[0]]
    at = outcome.meshed.mesh.xy[outcome.stiffness.kept.node]
    inside = (np.abs(at - L / 2) < L / 4).all(axis=1)
    assert n[inside, :2] == pytest.approx(np.full((inside.sum(), 2), -force), rel=0.02)


def test_a_stiff_wall_takes_precompression_out_of_the_slab():
    h, t, height, L, b = 0.2, 0.6, 3.0, 12.0, 6.0
    tendons = [{"id": f"T{k}", "strand": "S", "line": [[0.0, y], [L, y]], "jack_MPa": 1000.0,
                "profile": points((0, -100, "free"), (L, -100, "free"))} for k, y in enumerate((0.5, 1.5, 2.5, 3.5, 4.5, 5.5))]  # fmt: skip
    data = strip([L], tendons, h=h, width=b, mesh={"size_m": 0.4})
    data["supports"] = []
    ends = {"height_m": height, "far_end": "fixed"}
    data["walls"] = [{"id": f"W{k}", "line": [[x, 0.0], [x, b]], "thickness_m": t, "concrete": "C", "below": ends, "top": "hinged"}
                     for k, x in enumerate((0.0, L))]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    x, _, axial = cut_forces(outcome, "PF")
    # Each wall bends out of its plane as a cantilever on a hinge at its head: 3 E I / h^3 a metre; the slab shortens by n L / (E h) in all.
    k_wall = 3 * 30e6 * t**3 / 12 / height**3
    k_slab = 2 * 30e6 * h / L
    held = k_wall / (k_wall + k_slab)
    middle = (x > L / 3) & (x < 2 * L / 3)
    assert axial[middle] == pytest.approx(np.full(middle.sum(), -6 * P * (1 - held)), rel=0.01)
    assert held > 0.03


# Losses


def test_elastic_shortening_is_half_of_what_the_analysis_finds():
    data = strip(
        [10.0],
        [tendon(points((0, -150, "free"), (10, -150, "free")), count=4)],
        prestress={**NO_LOSS, "elastic": "half", "transfer_days": 28.0},
    )
    outcome = solve_floor(floor_from(data))
    strain = 4 * P / (0.3 * 1.0 * 30e6)
    loss = 0.5 * 195000.0 * strain
    found = outcome.tendon_forces.losses[0]
    assert found.shortening[0] == pytest.approx(loss, rel=0.01)
    assert outcome.tendon_forces.at_transfer[0] == pytest.approx(
        np.full(len(outcome.tendons.curves[0].s), 4 * 0.15 * (1000 - found.shortening[0]))
    )


def test_a_tendon_edit_makes_no_new_stiffness():
    data = strip([8.0], [tendon(points((0, -150, "free"), (4, -240, "level"), (8, -150, "free")))])
    cache = StageCache()
    solve_floor(floor_from(data), cache)
    data["tendons"][0]["profile"][1]["z_mm"] = -250.0
    again = solve_floor(floor_from(data), cache)
    assert not {"plan", "mesh", "sections", "stiffness", "given loads"} & set(again.ran)
    assert {"tendons", "tendon forces", "loads", "solutions"} <= set(again.ran)


# Bad input


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (lambda d: d["tendons"][0].update(line=[[0.0, 0.5], [10.0, 1.4]], profile=points((0, -150, "free"), (float(np.hypot(10, 0.9)), -150, "free"))),
         "leaves the floor"),
        (lambda d: d.update(openings=[{"id": "O", "outline": [[4, 0.3], [5, 0.3], [5, 0.7], [4, 0.7]]}]), "leaves the floor"),
        (lambda d: d["tendons"][0]["profile"][1].update(z_mm=-320.0), "below the concrete"),
        (lambda d: d["tendons"][0]["profile"][-1].update(s_m=9.5), "is 10.000 m long"),
        (lambda d: d["tendons"][0]["profile"][1].update(s_m=11.0), "put them in order"),
        (lambda d: d["tendons"][0].update(strand="X"), "which does not exist"),
        (lambda d: d.update(loads=[{"id": "q", "case": "PF", "kind": "area", "q_kPa": 1.0}]), "whose loads are those of the tendons"),
        (lambda d: d["load_cases"][0].update(effect="final"), "only a case of nature prestress"),
        (lambda d: d["strands"][0].update(fp01k_MPa=1900.0), "the proof stress is the lower one"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told_with_its_place(change, told):
    data = strip([10.0], [tendon(points((0, -150, "free"), (5, -250, "level"), (10, -150, "free")))])
    change(data)
    with pytest.raises(RefusedError) as found:
        solve_floor(floor_from(data))
    assert any(told in str(r) for r in found.value.refusals)


# Checks


def test_shortening_goes_by_the_young_concretes_modulus():
    data = strip(
        [10.0], [tendon(points((0, -150, "free"), (10, -150, "free")), count=4)], prestress={**NO_LOSS, "elastic": "half"}
    )
    data["concretes"][0]["transfer_strength_MPa"] = 25.0
    found = solve_floor(floor_from(data)).tendon_forces.losses[0]
    # E_cm(t) = (33 / 48)^0.3 E_cm.
    assert found.shortening[0] == pytest.approx(0.5 * 195000 * 4 * P / (0.3 * 30e6) / (33 / 48) ** 0.3, rel=0.01)


def test_a_given_long_term_loss_is_taken_off_the_force_at_transfer():
    data = strip(
        [10.0],
        [tendon(points((0, -150, "free"), (10, -150, "free")), count=2)],
        prestress={"long_term_loss": {"MPa": 150.0}, "elastic": "none"},
    )
    forces = solve_floor(floor_from(data)).tendon_forces
    assert forces.in_the_end[0] == pytest.approx(forces.at_transfer[0] - 2 * 0.15 * 150)


def test_long_term_losses_read_the_concrete_beside_the_tendon_with_lasting_loads():
    L, a, h, E = 10.0, 0.1, 0.3, 30e6
    data = strip([L], [tendon(points((0, -150, "free"), (L / 2, -250, "level"), (L, -150, "free")), count=4)],
                 prestress={"long_term_loss": "computed", "elastic": "none", "transfer_days": 7.0})  # fmt: skip
    outcome = solve_floor(floor_from(data))
    A, I, force, g = h, h**3 / 12, 4 * P, 25 * h
    # Means along the tendon, of M e = g a L^2 / 15 and of e^2, for which stands what is next to the anchors within 1.5 m of them.
    t = np.clip((np.arange(4000) + 0.5) / 4000 * L, 1.5, L - 1.5)
    e = 4 * a * t * (L - t) / L**2
    load = g * a * L**2 / 15 / (E * I)
    beside = -force / (E * A) - force * (e**2).mean() / (E * I) + load
    rules, floor = outcome.standard.prestress, outcome.floor
    places = LossPlaces(floor.strands[0], floor.concretes[0], floor.prestress, E / 1e3, *(np.array([v]) for v in (
        1000.0, beside, -force / (E * A), h, a * (8 / 15) ** 0.5, 0.0)))  # fmt: skip
    assert outcome.tendon_forces.losses[0].time[0] == pytest.approx(rules.long_term(places).loss[0], rel=0.01)
    # Without the load's part it is another figure.
    other = replace(places, strain=np.array([beside - load]))
    assert rules.long_term(other).loss[0] > 1.05 * rules.long_term(places).loss[0]


def test_losses_read_distances_from_the_slabs_own_middle(monkeypatch):
    seen = {}

    def spy(*given):
        seen["h"], seen["z"] = given[-2:]
        return losses(*given)

    monkeypatch.setattr(tendons_stage, "losses", spy)
    data = strip([10.0], [tendon(points((0, -150, "free"), (10, -250, "free")))])
    # The larger slab beside it sets the reference plane.
    data["slabs"].append(
        {
            **data["slabs"][0],
            "id": "low",
            "outline": [[10, 0], [30, 0], [30, 1], [10, 1]],
            "top_offset_m": -0.1,
            "thickness_m": 0.2,
        }
    )
    data["supports"].append({"id": "far", "kind": "line", "line": [[30.0, 0.0], [30.0, 1.0]], "rotation": "free"})
    outcome = solve_floor(floor_from(data))
    assert outcome.stiffness.values.datum == pytest.approx(-0.2)
    s = outcome.tendons.threads.s
    assert seen["z"] == pytest.approx(0.01 * s, abs=1e-6)
    assert seen["h"] == pytest.approx(np.full(len(s), 0.3))


def test_a_harped_tendon_presses_where_it_turns():
    """One kink 100 mm below the middle at 4 of 10 m: moments -P cos e, shear of the concrete -P sin on either side, no reaction."""
    data = strip([10.0], [tendon(points((0, -150, "free"), (4, -250, "kink"), (10, -150, "free")))])
    outcome = solve_floor(floor_from(data))
    x, moment, _ = cut_forces(outcome, "PF")
    left, right = np.arctan(0.1 / 4), np.arctan(0.1 / 6)
    e = np.where(x < 4, 0.1 * x / 4, 0.1 * (10 - x) / 6)
    away = (np.abs(x - 4) > 0.3) & (x > 0.3) & (x < 9.7)
    assert moment[away] == pytest.approx((-P * np.where(x < 4, np.cos(left), np.cos(right)) * e)[away], abs=0.003 * P * 0.1)
    unit = outcome.loads.of_case("PF")[0]
    cuts = outcome.strips.cuts
    along = np.array([outcome.strips.layout.strips[k].direction == "x" for k in cuts.strip])
    shear = cuts.forces[along][:, 2, unit]
    before, after = away & (x < 4), away & (x > 4)
    # Shear is the slope of the moment, which falls to the kink and rises from it.
    assert shear[before] == pytest.approx(np.full(before.sum(), -P * np.sin(left)), rel=1e-6)
    assert shear[after] == pytest.approx(np.full(after.sum(), P * np.sin(right)), rel=1e-6)
    # The equivalent force of the kink balances those of the anchors.
    f, xy = outcome.loads.vectors()[..., unit], outcome.meshed.mesh.xy
    kink = np.abs(xy[:, 0] - 4.0) < 1.5
    assert f[kink, 2].sum() == pytest.approx(-P * (np.sin(left) + np.sin(right)), rel=1e-6)
