"""Two-way shear of ACI 318-19 by hand, with closed forms of J."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate
from shapely.geometry import Point, box

from piastra.core.model import floor_from
from piastra.core.model.materials import Concrete
from piastra.core.standards import standard_named
from piastra.core.standards.aci318.section import size_effect
from piastra.core.standards.zone_rules import ZoneAction, ZoneShape
from tests.floors import flat_slab
from tests.solving import solve_floor

ACI = standard_named("ACI 318-19")
C30 = Concrete(id="C30", strength_MPa=30.0)
SOLID = box(-10, -10, 10, 10)
D = 0.2


def zone(column, sides=(0.4, 0.4), openings=(), solid=SOLID, d=D, angle=0.0):
    p = ACI.punching.perimeter(column, solid, openings, d, d + 0.04)
    return ACI.punching.zone(ZoneShape(column, p, angle, sides, d + 0.04, d, d, (0.01, 0.01), C30, True))


def greatest(found, V, M_x=0.0, M_y=0.0):
    return float((found.coefficients @ (V, M_x, M_y)).max())


SQUARE = box(-0.2, -0.2, 0.2, 0.2)


def test_interior_square_column():
    """b_o = 4 x 0.6 = 2.4; J = 0.2 x 0.6^3 / 6 + 0.6 x 0.2^3 / 6 + 0.2 x 0.6 x 0.6^2 / 2 = 0.0296 m4; gamma_v = 0.4. V = 600, M = 30:
    1250 + 0.4 x 30 x 0.3 / 0.0296 = 1371.6 kPa. phi v_c = 0.75 x 0.33 x sqrt(30) = 1355.6 kPa (lambda_s = 1)."""
    found = zone(SQUARE)
    assert found.shape.perimeter.length == pytest.approx(2.4, rel=1e-9)
    assert found.gamma == pytest.approx((0.4, 0.4))
    assert greatest(found, 600.0) == pytest.approx(1250.0)
    for m in ((30.0, 0.0), (0.0, -30.0), (0.0, 30.0)):
        assert greatest(found, 600.0, *m) == pytest.approx(1371.6, rel=1e-4)
    # Both axes: the corner has both parts.
    assert greatest(found, 600.0, 30.0, 20.0) == pytest.approx(1250 + 121.62 * 5 / 3, rel=1e-4)
    assert found.resistance == pytest.approx(1355.6, rel=1e-4)
    assert found.beta(ZoneAction(600.0, 0.0, 600.0, 30.0, 0.0, 0)) is None
    use = found.uses(ZoneAction(600.0, 0.0, 600.0, 0.0, 0.0, 0))
    assert [u.part for u in use] == ["perimeter"]
    assert use[0].utilisation == pytest.approx(1250 / 1355.6, rel=1e-4)


def test_edge_column_with_the_moment_across_the_edge():
    """Flush with an edge: b_1 = 0.5, b_2 = 0.6, b_o = 1.6, centroid 0.25 / 1.6 = 0.15625 m from the inner face. J = 0.2 (2 (0.5^3 / 12 +
    0.5 x 0.09375^2) + 0.6 x 0.15625^2) + 2 x 0.5 x 0.2^3 / 12 = 0.0095208 m4; gamma_v = 1 - 1 / (1 + 2/3 sqrt(0.5 / 0.6)) = 0.37833."""
    found = zone(box(-10, -0.2, -9.6, 0.2))
    assert found.shape.perimeter.length == pytest.approx(1.6, abs=5e-4)
    assert found.shape.perimeter.place == "edge"
    assert found.gamma[1] == pytest.approx(0.37833, rel=1e-4)
    assert found.gamma[0] == pytest.approx(1 - 1 / (1 + 2 / 3 * np.sqrt(0.6 / 0.5)), rel=2e-4)
    inner, outer = 0.15625, 0.5 - 0.15625
    # Upward force left of the centroid: M_y > 0 presses the outer ends, M_y < 0 the inner face; the integral of v x is -M_y.
    assert greatest(found, 100.0, 0.0, -10.0) - 312.5 == pytest.approx(0.37833 * 10 * inner / 0.0095208, rel=1e-3)
    assert greatest(found, 100.0, 0.0, 10.0) - 312.5 == pytest.approx(0.37833 * 10 * outer / 0.0095208, rel=1e-3)
    # alpha_s = 30: 0.083 (2 + 30 x 0.2 / 1.6) = 0.477 > 0.33.
    assert found.resistance == pytest.approx(1355.6, rel=1e-4)


def test_strengths_of_long_columns_large_sections_and_deep_slabs():
    """1.2 x 0.3: 0.17 (1 + 2 / 4) = 0.255. A large square of 2 m: b_o 8.8, 0.083 (2 + 40 x 0.2 / 8.8) = 0.2415. d = 0.8: lambda_s =
    sqrt(2 / 4.2) = 0.690."""
    root = np.sqrt(30.0) * 750
    long = zone(box(-0.6, -0.15, 0.6, 0.15), (1.2, 0.3))
    assert long.resistance == pytest.approx(0.255 * root, rel=1e-4)
    large = zone(box(-1, -1, 1, 1), (2.0, 2.0))
    assert large.resistance == pytest.approx(0.083 * (2 + 8 / 8.8) * root, rel=1e-4)
    corner = zone(box(-10, -10, -9.6, -9.6))
    assert corner.shape.perimeter.place == "corner"
    assert corner.shape.perimeter.length == pytest.approx(1.0, abs=5e-4)
    deep = zone(SQUARE, d=0.8)
    assert size_effect(0.8) == pytest.approx(0.6901, rel=1e-3)
    assert deep.resistance == pytest.approx(min(0.33, 0.083 * (2 + 40 * 0.8 / 4.8)) * 0.6901 * root, rel=1e-3)
    assert ACI.punching.root(90.0) == 8.3


def test_openings_within_four_thicknesses_take_their_part():
    """An opening of 0.3 m, 0.5 m from the face: within 4 x 0.24 = 0.96 m it takes what its tangents from the middle cut off."""
    near, far = box(0.7, -0.15, 1.0, 0.15), box(1.2, -0.15, 1.5, 0.15)
    cut = zone(SQUARE, openings=[("O", near)])
    assert 2.4 - cut.shape.perimeter.length == pytest.approx(2 * 0.3 * 0.15 / 0.7, rel=1e-3)
    assert zone(SQUARE, openings=[("O", far)]).shape.perimeter.length == pytest.approx(2.4)


def test_a_round_column_has_the_section_of_its_circle():
    found = zone(Point(0, 0).buffer(0.25, quad_segs=16), (0.5, 0.5))
    assert found.shape.perimeter.length == pytest.approx(np.pi * 0.7, rel=3e-3)
    # A circle's line: J / d = pi r^3 + (pi r) d^2 / 12; gamma 0.4.
    r = 0.35
    J = D * (np.pi * r**3 + np.pi * r * D**2 / 12)
    assert greatest(found, 0.0, 10.0) == pytest.approx(0.4 * 10 * r / J, rel=1e-2)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.2, 1.2), st.floats(0.2, 1.2), st.floats(-60, 60), st.floats(-60, 60), st.floats(0, 90))
def test_stresses_balance_the_moments_and_turn_with_the_column(b, t, m_x, m_y, angle):
    """The stress whose moments are gamma M: its integral over the faces is V, for any rectangle and direction."""
    column = box(-b / 2, -t / 2, b / 2, t / 2)
    one = zone(column, (b, t))
    turned = zone(rotate(column, angle, origin=(0, 0)), (b, t), angle=np.radians(angle))
    assert greatest(turned, 300.0, m_x, m_y) == pytest.approx(greatest(one, 300.0, m_x, m_y), rel=1e-6)
    # By the rectangle's closed form, both axes.
    bx, by = b + D, t + D

    def second(b1, b2):
        return D * b1**3 / 6 + b1 * D**3 / 6 + D * b2 * b1**2 / 2

    def share(b1, b2):
        return 1 - 1 / (1 + 2 / 3 * np.sqrt(b1 / b2))

    expected = (
        300 / (2 * (bx + by) * D)
        + share(by, bx) * abs(m_x) * by / 2 / second(by, bx)
        + share(bx, by) * abs(m_y) * bx / 2 / second(bx, by)
    )
    assert greatest(one, 300.0, m_x, m_y) == pytest.approx(expected, rel=1e-6)


def test_a_floor_has_its_zones():
    data = flat_slab(2, 2, size=0.8)
    data["standard"] = "ACI 318-19"
    outcome = solve_floor(floor_from(data))
    use = {z.column: z.utilisation for z in outcome.zones}
    assert set(use) == {f"C{i}{j}" for i in range(3) for j in range(3)}
    for group in (("C00", "C02", "C20", "C22"), ("C01", "C10", "C12", "C21")):
        values = [use[c] for c in group]
        assert max(values) == pytest.approx(min(values), rel=0.03)
    row = next(r for r in outcome.verdict if r.check == "punching")
    assert row.status in ("pass", "fail")


def prestressed(sigma=(2000.0, 1500.0), clear=1.0, strength=30.0, tendons=True):
    p = ACI.punching.perimeter(SQUARE, SOLID, (), D, D + 0.04)
    concrete = Concrete(id="C", strength_MPa=strength)
    shape = ZoneShape(
        SQUARE, p, 0.0, (0.4, 0.4), D + 0.04, D, D, (0.01, 0.01), concrete, True, sigma_cp=sum(sigma) / 2, least_pressed=min(sigma), tendons=tendons,
        clear=clear,
    )  # fmt: skip
    return ACI.punching.zone(shape)


def test_prestressed_strength_where_its_conditions_are_kept():
    """0.29 sqrt(30) + 0.3 x 1.75 = 2.1134 MPa (0.083 (1.5 + 40 x 0.2 / 2.4) = 0.401 is more); phi 0.75: 1585.0 kPa."""
    found = prestressed()
    assert found.resistance == pytest.approx(1585.0, rel=1e-4)
    assert found.tendon_share == 0.75
    plain = zone(SQUARE).resistance
    # Too little in one direction, too near an edge (4 x 0.24 m), no tendons: as without.
    for other in (prestressed((2600.0, 899.0)), prestressed(clear=0.959), prestressed(tendons=False)):
        assert other.resistance == pytest.approx(plain)
        assert other.tendon_share == 0.0
    assert prestressed(clear=0.961).resistance == pytest.approx(1585.0, rel=1e-4)
    # f_pc counts up to 3.5 MPa, sqrt(f'_c) up to 5.8.
    assert prestressed((5000.0, 5000.0)).resistance == pytest.approx(750 * (0.29 * 30**0.5 + 0.3 * 3.5), rel=1e-9)
    assert prestressed(strength=50.0).v_cp == pytest.approx(0.29 * 5.8 + 0.3 * 1.75, rel=1e-9)
    steps = found.steps(ZoneAction(600.0, 0.0, 600.0, 0.0, 0.0, 0))
    assert next(s for s in steps if s.title == "Prestressed strength").result.value == pytest.approx(2.1134, rel=1e-4)
    assert (
        "4 h"
        in next(
            s
            for s in prestressed(clear=0.5).steps(ZoneAction(600.0, 0.0, 600.0, 0.0, 0.0, 0))
            if s.title == "Prestressed strength"
        ).note
    )
