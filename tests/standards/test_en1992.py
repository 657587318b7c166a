"""Hand calculations for EN 1992-1-1, with every intermediate value."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from piastra.core.geometry.perimeter import control_perimeter
from piastra.core.model import floor_from
from piastra.core.pipeline import solve_floor
from piastra.core.standards.en1992 import En1992
from tests.floors import flat_slab

EC2 = En1992()
C30, C60, B500 = EC2.concrete(30, None), EC2.concrete(60, None), EC2.steel(500)


def flexure(m, d=0.2, n=0.0, concrete=C30):
    return EC2.flexure(np.array([m]), np.array([n]), np.array([d]), np.array([0.04]), concrete, B500)


def test_material_values_of_table_3_1():
    assert (C30.fck, C30.fcd) == (30e3, 20e3)
    assert C30.fctm == pytest.approx(2896.5, abs=0.5)  # 0.30 x 30^(2/3)
    assert C30.Ecm == pytest.approx(32.84e6, rel=1e-3)  # 22 (38/10)^0.3 GPa
    assert C60.fctm == pytest.approx(4354, abs=2)  # 2.12 ln(1 + 68/10)
    assert EC2.concrete(30, 31000.0).Ecm == 31e6
    assert B500.fyd == pytest.approx(434.78e3, rel=1e-5)


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
    assert EC2.block(60e3) == pytest.approx((0.775, 0.95))
    assert EC2.greatest_depth(60e3) == 0.35
    assert EC2.least_steel(np.array([0.2]), C30, B500)[0] == pytest.approx(0.26 * 2896.5 / 500e3 * 0.2, rel=1e-3)  # 301 mm2/m
    assert EC2.least_steel(np.array([0.2]), EC2.concrete(12, None), B500)[0] == pytest.approx(0.0013 * 0.2)


@settings(max_examples=100, deadline=None)
@given(st.floats(1, 400), st.floats(0.1, 0.6))
def test_the_section_with_its_steel_carries_the_moment(m, d):
    """Equilibrium of the section about the tension steel gives the moment back."""
    found = flexure(m, d)
    lam, eta = EC2.block(C30.fck)
    x = found.x_d[0] * d
    block = lam * x * eta * C30.fcd
    couple = found.compression[0] * B500.fyd
    assert block * (d - lam * x / 2) + couple * (d - 0.04) == pytest.approx(m, rel=1e-9)
    assert found.tension[0] * B500.fyd == pytest.approx(block + couple, rel=1e-9)


def test_punching_resistance_by_hand():
    """d = 200: k = 2, rho = 1 %: 0.12 x 2 x 30^(1/3) = 0.7457 MPa; v_min = 0.035 x 2^1.5 x 30^0.5 = 0.5422."""
    found = EC2.punching(0.2, 0.01, 0.01, C30)
    assert (found.k, found.rho_l) == (2.0, 0.01)
    assert found.v_rd_c == pytest.approx(745.7, abs=0.2)
    assert found.v_min == pytest.approx(542.2, abs=0.2)
    assert found.v_rd_max == pytest.approx(0.4 * 0.6 * (1 - 30 / 250) * 20e3)  # 4224
    assert EC2.punching(0.2, 0.0, 0.0, C30).v_rd_c == found.v_min
    assert EC2.punching(0.8, 0.04, 0.04, C30).rho_l == 0.02
    assert [EC2.moment_share(*c) for c in ((0.2, 0.6), (1, 1), (2, 1), (3, 1), (9, 1))] == pytest.approx(
        [0.45, 0.6, 0.7, 0.8, 0.8]
    )


SOLID = box(-10, -10, 10, 10)


def perimeter(footprint, openings=(), d=0.2, solid=SOLID):
    return control_perimeter(footprint, 2 * d, solid, openings, d)


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
    outcome = solve_floor(floor_from(flat_slab(2, 2)))
    zone = next(z for z in outcome.zones if z.column == "C11")
    d = 0.25 - 0.025 - 0.016  # between the two layers of 16 mm bars
    assert zone.d == pytest.approx(d)
    assert zone.perimeter.length == pytest.approx(1.6 + 4 * np.pi * d, rel=1e-3)
    rho = np.pi * 0.016**2 / 4 / 0.15 / np.array([d + 0.008, d - 0.008])
    v_rd_c = 0.12 * (1 + np.sqrt(0.2 / d)) * (100 * np.sqrt(rho[0] * rho[1]) * 30) ** (1 / 3) * 1e3
    assert zone.resistance.v_rd_c == pytest.approx(v_rd_c, rel=1e-6)
    whole = outcome.solution.reactions[outcome.stiffness.system.held.labels.index("C11"), 0] @ outcome.combinations[0].full
    inside = 0.4**2 + 4 * 0.4 * 2 * d + np.pi * (2 * d) ** 2
    assert zone.load_inside <= (1.35 * 6.25 + 1.5 * 4) * inside * 1.001
    assert zone.V_joint <= whole * 1.02
    k_Mx, k_My = (k * abs(m) / W for k, m, W in zip(zone.k, (zone.M_x, zone.M_y), zone.W, strict=True))
    v = (zone.V / zone.perimeter.length + k_Mx + k_My) / d
    assert zone.v_ed == pytest.approx(v, rel=1e-9)
    assert zone.utilisation == pytest.approx(max(v / v_rd_c, zone.beta * zone.V_joint / (1.6 * d) / 4224), rel=1e-6)


def test_a_narrow_thickening_is_checked_at_the_column_and_around_itself():
    data = flat_slab(2, 2)
    data["thickenings"] = [{"id": "D", "outline": [[5.6, 5.6], [6.4, 5.6], [6.4, 6.4], [5.6, 6.4]], "thickness_m": 0.4}]
    found = {z.around: z for z in solve_floor(floor_from(data)).zones if z.column == "C11"}
    assert set(found) == {"column", "thickening"}
    assert found["column"].use_face > 0
    assert found["column"].d == pytest.approx(0.4 - 0.041)
    assert found["thickening"].perimeter.length == pytest.approx(3.2 + 4 * np.pi * found["thickening"].d, rel=1e-3)
