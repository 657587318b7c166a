"""Hand calculations for EN 1992-1-1, with every intermediate value."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from piastra.core.geometry.perimeter import control_perimeter
from piastra.core.model import floor_from
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.standards import standard_named
from piastra.core.standards.en1992 import flexure as en_flexure
from piastra.core.standards.en1992.punching import face_length, moment_share
from piastra.core.standards.protocol import Sections
from piastra.core.standards.zone_rules import ZoneAction, ZoneShape
from tests.floors import flat_slab
from tests.solving import solve_floor

EC2 = standard_named("EN 1992-1-1")


def concrete(fck, **more):
    return Concrete(id=f"C{fck}", strength_MPa=float(fck), **more)


C30, C60, B500 = concrete(30), concrete(60), Rebar(id="B500", yield_MPa=500.0)
FCD, FYD = 20e3, 500e3 / 1.15


def section(d=0.2, concrete=C30):
    return Sections(np.array([d + 0.04]), np.array([d]), np.array([0.04]), concrete, B500)


def flexure(m, d=0.2, n=0.0, concrete=C30, standard=EC2):
    return standard.flexure.design(np.array([m]), np.array([n]), section(d, concrete))


def test_material_values_of_table_3_1():
    known = EC2.materials
    assert known.f_cd(C30) == 20e3
    assert known.f_ctm(C30) == pytest.approx(2896.5, abs=0.5)  # 0.30 x 30^(2/3)
    assert known.modulus(C30) == pytest.approx(32.84e6, rel=1e-3)  # 22 (38/10)^0.3 GPa
    assert known.f_ctm(C60) == pytest.approx(4354, abs=2)  # 2.12 ln(1 + 68/10)
    assert known.f_ctm(concrete(50)) == pytest.approx(300 * 50 ** (2 / 3), rel=1e-9)
    assert known.modulus(concrete(30, E_MPa=31000.0)) == 31e6
    assert known.f_yd(B500) == pytest.approx(434.78e3, rel=1e-5)
    assert [known.not_covered(concrete(f)) == "" for f in (11.9, 12, 90, 90.1)] == [False, True, True, False]


def test_national_values_reach_every_formula():
    own = {"gamma_C": 1.4, "gamma_S": 1.1, "alpha_cc": 0.85, "C_Rd,c": 0.15, "v_min": 0.028, "v_Rd,max": 0.45, "nu": 0.5,
           "rho_l,max": 0.015, "k_As,min": 0.3, "rho_As,min": 0.0015, "x_d_limit": 0.35, "x_d_limit_high": 0.25, "k_max": 1.4}  # fmt: skip
    chosen = standard_named("EN 1992-1-1", own)
    assert chosen.materials.f_cd(C30) == pytest.approx(0.85 * 30e3 / 1.4)
    assert chosen.materials.f_yd(B500) == pytest.approx(500e3 / 1.1)
    # mu = 80 / (18214.3 x 0.04) = 0.109804; omega = 1 - sqrt(1 - 0.219608) = 0.116595; x 0.2 x 18214.3 / 454545
    assert flexure(80.0, standard=chosen).tension[0] == pytest.approx(934.42e-6, rel=1e-4)
    # x/d 0.35: omega = 0.28, mu_lim = 0.2408, m_lim = 175.44; the rest of 200 is 24.56, over 0.16 and f_yd.
    assert flexure(200.0, standard=chosen).compression[0] == pytest.approx(24.56 / 0.16 / 454545, rel=1e-3)
    # Above C50/60: lambda 0.775, x/d 0.25: omega 0.19375, mu_lim 0.174980, eta 0.95, f_cd 36428.6: m_lim = 242.22
    assert flexure(242.0, concrete=C60, standard=chosen).compression[0] == 0.0
    assert flexure(243.0, concrete=C60, standard=chosen).compression[0] > 0.0
    least = chosen.minimum.least(np.array([80.0]), section())
    assert least.area[0] == pytest.approx(0.3 * 2896.5 / 500e3 * 0.2, rel=1e-4)
    low = chosen.minimum.least(np.array([80.0]), section(concrete=concrete(12)))
    assert low.area[0] == pytest.approx(0.0015 * 0.2)
    found = zone(chosen)
    # 0.15 / 1.4 x 2 x (100 x 0.01 x 30)^(1/3) = 0.66584 MPa
    assert found.resistance == pytest.approx(665.84, abs=0.1)
    assert zone(chosen, rho=0.03).rho_l == 0.015
    assert zone(chosen, rho=0.0).resistance == pytest.approx(1e3 * 0.028 * 2**1.5 * 30**0.5)
    assert found.v_rd_max == pytest.approx(0.45 * 0.5 * (1 - 30 / 250) * 0.85 * 30e3 / 1.4)
    most = next(s for s in found.steps(ZoneAction(900, 20, 880, 40, 10, 0)) if "k_max" in s.formula)
    assert most.result.value == pytest.approx(1.4 * found.resistance)


def test_flexure_by_hand():
    """m = 80, d = 0.2: mu = 80/(20e3 x 0.04) = 0.1, omega = 1 - sqrt(0.8) = 0.105573, A_s = omega d fcd/fyd."""
    found = flexure(80.0)
    assert found.tension[0] == pytest.approx(0.105573 * 0.2 * 20e3 / 434.7826e3, rel=1e-5)  # 971.3 mm2/m
    assert found.x_d[0] == pytest.approx(0.105573 / 0.8, rel=1e-5)
    assert found.z[0] == pytest.approx(0.2 * (1 - 0.105573 / 2), rel=1e-5)
    assert found.compression[0] == 0.0
    assert flexure(80.0, n=100.0).tension[0] == pytest.approx(found.tension[0] + 100 / 434.7826e3, rel=1e-5)


def test_compression_steel_beyond_the_ductility_limit_by_hand():
    """x/d = 0.45: omega = 0.36, mu_lim = 0.2952, m_lim = 236.16; for m = 280 a couple of 43.84 at 0.16 m."""
    found = flexure(280.0)
    assert found.compression[0] == pytest.approx(43.84 / 0.16 / 434.7826e3, rel=1e-4)
    assert found.tension[0] == pytest.approx((0.36 * 0.2 * 20e3 + 43.84 / 0.16) / 434.7826e3, rel=1e-4)
    assert found.x_d[0] == pytest.approx(0.45)


def test_block_and_minimum_above_c50():
    assert en_flexure.block(60) == pytest.approx((0.775, 0.95))
    assert [EC2.flexure.limit(f) for f in (50, 50.1, 60)] == [0.45, 0.35, 0.35]
    least = lambda m, c=C30: EC2.minimum.least(np.array([m]), section(concrete=c)).area[0]  # noqa: E731
    assert least(80.0) == pytest.approx(0.26 * 2896.5 / 500e3 * 0.2, rel=1e-3)  # 301 mm2/m
    assert least(80.0, concrete(12)) == pytest.approx(0.0013 * 0.2)
    # Asked for from a twentieth of the cracking moment on: 0.05 x 2896.5 x 0.24^2 / 6 = 1.3903 kNm/m.
    assert least(1.3902) == 0.0
    assert least(1.3905) > 0.0


def test_a_section_wholly_in_tension_shares_the_force_by_its_levers():
    """n = 100 at a moment of -5 about this steel, the layers 0.16 apart: 100 - 5 / 0.16 = 68.75 kN/m; nothing jumps at nil."""
    assert flexure(-5.0, n=100.0).tension[0] == pytest.approx(68.75 / FYD)
    # About the middle: half each, where the layers are as deep. d - h/2 = 0.08: m about the steel = -100 x 0.08.
    assert flexure(-8.0, n=100.0).tension[0] == pytest.approx(50 / FYD)
    assert flexure(-1e-9, n=100.0).tension[0] == pytest.approx(flexure(1e-9, n=100.0).tension[0], rel=1e-9)
    assert flexure(-5.0, n=-100.0).tension[0] == 0.0
    assert flexure(80.0, n=-1e4).tension[0] == 0.0


@settings(max_examples=100, deadline=None)
@given(st.floats(1, 400), st.floats(0.1, 0.6))
def test_the_section_with_its_steel_carries_the_moment(m, d):
    """Equilibrium of the section about the tension steel gives the moment back."""
    found = flexure(m, d)
    lam, eta = en_flexure.block(30)
    x = found.x_d[0] * d
    block = lam * x * eta * FCD
    couple = found.compression[0] * FYD
    assert block * (d - lam * x / 2) + couple * (d - 0.04) == pytest.approx(m, rel=1e-9)
    assert found.tension[0] * FYD == pytest.approx(block + couple, rel=1e-9)


def test_punching_resistance_by_hand():
    """d = 200: k = 2, rho = 1 %: 0.12 x 2 x 30^(1/3) = 0.7457 MPa; v_min = 0.035 x 2^1.5 x 30^0.5 = 0.5422."""
    found = zone(EC2)
    assert (found.size, found.rho_l) == (2.0, 0.01)
    assert found.resistance == pytest.approx(745.7, abs=0.2)
    assert found.v_min == pytest.approx(542.2, abs=0.2)
    assert found.v_rd_max == pytest.approx(0.4 * 0.6 * (1 - 30 / 250) * 20e3)  # 4224
    assert zone(EC2, rho=0.0).resistance == found.v_min
    assert zone(EC2, rho=0.04).rho_l == 0.02
    assert zone(EC2, d=0.15).size == 2.0
    assert zone(EC2, d=0.8).size == pytest.approx(1.5)
    assert [moment_share(*c) for c in ((0.2, 0.6), (1, 1), (2, 1), (3, 1), (9, 1))] == pytest.approx([0.45, 0.6, 0.7, 0.8, 0.8])


SOLID = box(-10, -10, 10, 10)


def perimeter(footprint, openings=(), d=0.2, solid=SOLID):
    return control_perimeter(footprint, 2 * d, solid, openings, 6 * d)


def zone(standard, d=0.2, rho=0.01, column=None, solid=None, sides=(0.4, 0.4)):
    """A zone of a square column of 400 mm inside a large slab, unless told otherwise."""
    column = column or box(-0.2, -0.2, 0.2, 0.2)
    p = standard.punching.perimeter(column, solid or SOLID, [], d, d + 0.04)
    return standard.punching.zone(ZoneShape(column, p, 0.0, sides, d + 0.04, d, d, (rho, rho), C30, True))


def test_lengths_of_the_face_by_6_4_5():
    """Interior: the girth. Edge: c2 + 3d <= c2 + 2 c1. Corner: 3d <= c1 + c2."""

    def u0(column, d):
        return face_length(column, perimeter(column, d=d), d)[0]

    assert u0(box(-0.2, -0.15, 0.2, 0.15), 0.2) == pytest.approx(1.4)
    edge = box(-10, -0.25, -9.6, 0.25)  # c1 = 0.4 across the edge, c2 = 0.5 along it
    assert u0(edge, 0.2) == pytest.approx(0.5 + 0.6)
    assert u0(edge, 0.3) == pytest.approx(0.5 + 0.8)  # 3d = 0.9 is capped at 2 c1
    corner = box(-10, -10, -9.6, -9.5)
    assert u0(corner, 0.2) == pytest.approx(0.6)
    assert u0(corner, 0.35) == pytest.approx(0.9)  # 3d = 1.05 is capped at c1 + c2


def test_stress_of_a_zone_with_both_moments_by_hand():
    """Square column 0.4, d 0.2: u = 1.6 + 4 pi 0.2 = 4.11327, W = 0.4^2/2 + 0.16 + 4 0.4 0.2 + 16 0.04 + 2 pi 0.2 0.4
    = 1.70265 (6.41); k = 0.6 (table 6.1). V = 600, M_x = 30, M_y = -20: beta = 1 + 4.11327/600 x 0.6 x 50 / 1.70265
    = 1.12079; v_Ed = 1.12079 x 600 / (4.11327 x 0.2) = 817.4; at the face 1.12079 x 650 / (1.6 x 0.2) = 2276.6."""
    found = zone(EC2)
    rows = found.coefficients @ (600, 30, -20)
    assert pytest.approx((1.70265, 1.70265), rel=1e-3) == found.W
    assert rows.max() == pytest.approx(817.4, rel=1e-3)
    action = ZoneAction(650, 50, 600, 30, -20, int(rows.argmax()))
    assert found.beta(action) == pytest.approx(1.12079, rel=1e-3)
    perimeter_use, face_use = found.uses(action)
    assert (perimeter_use.stress, perimeter_use.resistance) == (pytest.approx(817.4, rel=1e-3), found.resistance)
    assert (face_use.stress, face_use.resistance) == (pytest.approx(2276.6, rel=1e-3), pytest.approx(4224))


def test_interior_perimeter_is_the_closed_form():
    p = perimeter(box(-0.2, -0.15, 0.2, 0.15))
    assert (p.place, p.length) == ("interior", pytest.approx(2 * 0.7 + 4 * np.pi * 0.2, rel=1e-3))
    c1, c2, d = 0.4, 0.3, 0.2
    # (6.41): c1 across the axis about which the moment turns.
    W1 = c1**2 / 2 + c1 * c2 + 4 * c2 * d + 16 * d**2 + 2 * np.pi * d * c1
    assert p.first_moment(np.pi / 2) == pytest.approx(W1, rel=1e-3)
    circle = perimeter(shapely.Point(0, 0).buffer(0.2, quad_segs=64))
    assert circle.length == pytest.approx(2 * np.pi * 0.6, rel=1e-3)
    I_x, I_y, I_xy = circle.second_moments()
    assert (I_x, I_y, I_xy) == pytest.approx((np.pi * 0.6**3, np.pi * 0.6**3, 0), rel=2e-3, abs=1e-9)


def test_edge_and_corner_perimeters_are_those_of_figure_6_15():
    d = 0.2
    edge = perimeter(box(-10, -0.2, -9.6, 0.2))
    assert (edge.place, edge.length) == ("edge", pytest.approx(0.4 + 2 * 0.4 + 2 * np.pi * d, rel=1e-3))
    corner = perimeter(box(-10, -10, -9.6, -9.6))
    assert (corner.place, corner.length) == ("corner", pytest.approx(0.8 + np.pi * d, rel=1e-3))
    # Set in from the edge by 0.1 m: the sides run on to the edge at right angles.
    inset = perimeter(box(-9.9, -0.2, -9.5, 0.2))
    assert inset.length == pytest.approx(0.4 + 2 * 0.5 + 2 * np.pi * d, rel=1e-3)
    # Far from the edge the closed perimeter is the shorter one: 1.6 + 0.8 pi against 0.4 + 2 (0.4 + 2.5) + 0.4 pi.
    assert perimeter(box(-7.5, -0.2, -7.1, 0.2)).place == "interior"


def test_openings_take_the_part_between_their_tangents():
    p = perimeter(box(-0.2, -0.2, 0.2, 0.2), [("O", box(1.0, -0.2, 1.4, 0.2))])
    # Tangents from the middle through (1.0, +-0.2): on the straight side at x = 0.6 they cut 2 x 0.12.
    assert p.lost == (("O", pytest.approx(0.24, rel=1e-3)),)
    assert perimeter(box(-0.2, -0.2, 0.2, 0.2), [("O", box(1.41, -0.2, 1.8, 0.2))]).lost == ()  # beyond 6d = 1.2 m
    assert perimeter(box(-0.2, -0.2, 0.2, 0.2), [("O", box(1.39, -0.2, 1.8, 0.2))]).lost != ()


@settings(max_examples=25, deadline=None)
@given(st.floats(0, 360), st.floats(0, 3), st.floats(0.2, 0.6))
def test_a_turned_plan_has_the_same_perimeter(angle, inset, side):
    from shapely.affinity import rotate

    column, opening = box(-10 + inset, -0.2, -10 + inset + side, 0.2), box(-10 + inset, 0.9, -9.6 + inset, 1.2)
    p = perimeter(column, [("O", opening)])
    turned = [rotate(g, angle, origin=(0, 0)) for g in (column, opening, SOLID)]
    q = perimeter(turned[0], [("O", turned[1])], solid=turned[2])
    assert q.length == pytest.approx(p.length, rel=1e-3)
    assert q.first_moment(np.radians(angle)) == pytest.approx(p.first_moment(0), rel=5e-3)


def test_a_zone_of_a_floor_adds_up_by_hand():
    outcome = solve_floor(floor_from(flat_slab(2, 2, design_rails=False)))
    zone = next(z for z in outcome.zones if z.column == "C11")
    d = 0.25 - 0.025 - 0.016  # between the two layers of 16 mm bars
    check, action = zone.place.check, zone.action
    assert check.d == pytest.approx(d)
    assert check.shape.perimeter.length == pytest.approx(1.6 + 4 * np.pi * d, rel=1e-3)
    rho = np.pi * 0.016**2 / 4 / 0.15 / np.array([d + 0.008, d - 0.008])
    v_rd_c = 0.12 * (1 + np.sqrt(0.2 / d)) * (100 * np.sqrt(rho[0] * rho[1]) * 30) ** (1 / 3) * 1e3
    assert check.resistance == pytest.approx(v_rd_c, rel=1e-6)
    whole = outcome.solution.reactions[outcome.stiffness.system.held.labels.index("C11"), 0] @ outcome.combinations[0].full
    inside = 0.4**2 + 4 * 0.4 * 2 * d + np.pi * (2 * d) ** 2
    assert action.inside <= (1.35 * 6.25 + 1.5 * 4) * inside * 1.001
    assert action.joint <= whole * 1.02
    k_Mx, k_My = (k * abs(m) / W for k, m, W in zip(check.k, (action.M_x, action.M_y), check.W, strict=True))
    v = (action.V / check.shape.perimeter.length + k_Mx + k_My) / d
    assert zone.uses[0].stress == pytest.approx(v, rel=1e-9)
    face = check.beta(action) * action.joint / (1.6 * d) / 4224
    assert zone.utilisation == pytest.approx(max(v / v_rd_c, face), rel=1e-6)


def test_an_oblong_column_has_the_share_of_the_side_along_each_eccentricity():
    """Sides 0.3 along x and 0.6 along y. M_x turns about x, so its eccentricity lies along y: c1/c2 = 2, k = 0.70; for M_y
    c1/c2 = 0.5, k = 0.45 (table 6.1). W by (6.41)."""
    found = zone(EC2, column=box(-0.15, -0.3, 0.15, 0.3), sides=(0.3, 0.6))
    assert found.k == pytest.approx((0.70, 0.45))
    W_x = 0.6**2 / 2 + 0.6 * 0.3 + 4 * 0.3 * 0.2 + 16 * 0.2**2 + 2 * np.pi * 0.2 * 0.6
    W_y = 0.3**2 / 2 + 0.3 * 0.6 + 4 * 0.6 * 0.2 + 16 * 0.2**2 + 2 * np.pi * 0.2 * 0.3
    assert pytest.approx((W_x, W_y), rel=2e-3) == found.W
    u = 1.8 + 4 * np.pi * 0.2
    v = (500 / u + 0.70 * 30 / W_x + 0.45 * 20 / W_y) / 0.2
    assert (found.coefficients @ (500, 30, 20)).max() == pytest.approx(v, rel=2e-3)


def test_moments_that_a_joint_brings_go_into_its_zone_with_their_sign():
    """Columns so long that they take next to nothing of a joint's moments: the slab takes them, each about its own axis."""
    data = flat_slab(2, 2)
    for c in data["columns"]:
        c["below"], c["above"] = {"height_m": 300.0, "far_end": "pinned"}, None
    data["load_cases"].append({"id": "D", "nature": "dead"})
    data["loads"].append(
        {"id": "j", "case": "D", "kind": "joint", "support": "C11", "F_kN": 0.0, "Mx_kNm": 60.0, "My_kNm": -40.0}
    )
    data["combinations"][0]["factors"]["D"] = 1.0
    data["load_cases"][1]["pattern"] = False
    zone = next(z for z in solve_floor(floor_from(data)).zones if z.column == "C11")
    assert zone.action.M_x == pytest.approx(60.0, rel=0.05)
    assert zone.action.M_y == pytest.approx(-40.0, rel=0.05)


def test_bars_count_within_three_depths_and_perimeters_lie_at_two():
    assert EC2.punching.bars_within(0.2) == pytest.approx(0.6)
    column = box(-0.2, -0.2, 0.2, 0.2)
    p = EC2.punching.perimeter(column, box(-5, -5, 5, 5), [], 0.2, 0.24)
    assert p.length == pytest.approx(1.6 + 2 * np.pi * 0.4, rel=1e-3)
    # An opening 5.9 d away takes its part, one 6.1 d away none.
    for far, takes in ((5.9 * 0.2, True), (6.1 * 0.2, False)):
        hole = box(0.2 + far, -0.2, 0.6 + far, 0.2)
        q = EC2.punching.perimeter(column, box(-5, -5, 5, 5), [("O", hole)], 0.2, 0.24)
        assert (q.length < p.length - 0.05) == takes


def test_a_narrow_thickening_is_checked_at_the_face_and_around_itself():
    """A head of 0.8 m and 0.15 m more: 2 d from the column lies beyond it. Outside, (6.34): 2 pi (2 d + 0.56 x 0.8) is less than
    the outline's 3.2 + 4 pi d."""
    data = flat_slab(2, 2, design_rails=False)
    data["thickenings"] = [{"id": "D", "outline": [[5.6, 5.6], [6.4, 5.6], [6.4, 6.4], [5.6, 6.4]], "thickness_m": 0.4}]
    found = {z.place.outline.around: z for z in solve_floor(floor_from(data)).zones if z.column == "C11"}
    assert set(found) == {"column", "thickening"}
    assert [u.part for u in found["column"].uses] == ["face"]
    assert [u.part for u in found["thickening"].uses] == ["perimeter"]
    assert found["column"].place.check.d_face == pytest.approx(0.4 - 0.041)
    outer = found["thickening"].place
    d = outer.check.d
    assert d == pytest.approx(0.25 - 0.041)
    assert outer.outline.perimeter.length == pytest.approx(3.2 + 4 * np.pi * d, rel=1e-3)
    assert outer.check.u == pytest.approx(2 * np.pi * (2 * d + 0.56 * 0.8), rel=1e-3)
    # A drop wide enough has its own perimeter inside, and all of its outline outside.
    data["thickenings"][0]["outline"] = [[4.8, 4.8], [7.2, 4.8], [7.2, 7.2], [4.8, 7.2]]
    wide = {z.place.outline.around: z for z in solve_floor(floor_from(data)).zones if z.column == "C11"}
    assert [u.part for u in wide["column"].uses] == ["perimeter", "face"]
    assert wide["thickening"].place.check.u == pytest.approx(9.6 + 4 * np.pi * d, rel=1e-3)
