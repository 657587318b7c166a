"""Perimeters of punching against closed forms: edges, joints, courtyards, openings, walls, long columns."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate, scale
from shapely.geometry import Point, box
from shapely.ops import unary_union

from piastra.core.standards import standard_named

EC2, ACI = standard_named("EN 1992-1-1").punching, standard_named("ACI 318-19").punching
D = 0.2
SQUARE = box(-0.2, -0.2, 0.2, 0.2)


def perimeter(loaded=SQUARE, solid=box(-10, -10, 10, 10), openings=(), d=D, rules=EC2, **more):
    named = [(f"O{k}", o) for k, o in enumerate(openings)]
    return rules.perimeter(loaded, solid, named, d, d + 0.04, **more)


def test_edges_count_as_far_as_they_shorten_the_perimeter():
    """0.4 square, d = 0.2, 1.0 m from its faces to two edges: 0.8 + 2 x 1.0 + 0.4 pi = 3.457 m against 4.113 inside. At 1.3 m:
    0.8 + 2.6 + 0.4 pi / 2 = 4.028; farther than 1.343 m the closed one is shorter. One edge at 0.7: 1.2 + 1.4 + 0.8 pi = 3.857... of
    which 1.2 is three sides less the column's depth: 0.4 + 2 (0.4 + 0.7) + 0.4 pi = 3.857."""
    for inset, expected in ((1.0, 0.8 + 2.0 + 0.2 * np.pi), (1.3, 0.8 + 2.6 + 0.2 * np.pi), (1.4, 1.6 + 0.8 * np.pi)):
        p = perimeter(solid=box(-0.2 - inset, -0.2 - inset, 10, 10))
        assert p.length == pytest.approx(expected, rel=1e-3), inset
        assert p.edges == (2 if inset < 1.35 else 0)
    one = perimeter(solid=box(-0.2 - 0.7, -10, 10, 10))
    assert one.length == pytest.approx(0.4 + 2 * (0.4 + 0.7) + 0.4 * np.pi, rel=1e-3)
    assert one.outward[0] == pytest.approx((-1.0, 0.0))


def test_a_perimeter_does_not_enclose_other_supports_on_its_way_to_an_edge():
    solid = box(-0.2 - 1.0, -10, 10, 10)
    edge = perimeter(solid=box(-0.2 - 0.7, -10, 10, 10))
    assert edge.edges == 1
    beside = perimeter(solid=box(-0.2 - 0.7, -10, 10, 10), others=box(-0.9, -0.1, -0.7, 0.1))
    assert beside.edges == 0
    assert perimeter(solid=solid).edges == 0


def test_a_joint_and_a_courtyard_are_edges():
    """Twin columns at a joint of 50 mm: each in its own slab, flush with the joint: 0.4 + 2 x 0.4 + 0.4 pi. A courtyard that
    four slabs leave open is an edge of each of them."""
    two = unary_union([box(-10, -10, 0, 10), box(0.05, -10, 10, 10)])
    left = perimeter(box(-0.4, -0.2, 0, 0.2), two)
    right = perimeter(box(0.05, -0.2, 0.45, 0.2), two)
    for p in (left, right):
        assert p.length == pytest.approx(1.2 + 0.4 * np.pi, rel=1e-3)
        assert p.place == "edge"
    yard = box(-10, -10, 10, 10).difference(box(0.2, -4, 6, 4))
    assert perimeter(solid=yard).length == pytest.approx(1.2 + 0.4 * np.pi, rel=1e-3)
    corner = box(-10, -10, 10, 10).difference(box(0.2, 0.2, 6, 6))
    # At the courtyard's corner concrete goes round it: three quarters of the circle, nothing to run straight out to.
    round_it = perimeter(solid=corner)
    assert round_it.place == "interior"
    assert round_it.length == pytest.approx(0.75 * (1.6 + 0.8 * np.pi) + 2 * 0.2, rel=1e-3)


def test_slabs_that_meet_at_a_column_leave_a_perimeter():
    """Three slabs of 3, 5 and 6 m about one column, the fourth quarter open: no straight line, no crash."""
    floor = unary_union([box(-3, 0, 0, 5), box(-6, -5, 0, 0), box(0, -6, 5, 0)])
    p = perimeter(solid=floor)
    assert p.length == pytest.approx(0.75 * (1.6 + 0.8 * np.pi), rel=1e-3)
    assert not p.is_straight


def test_openings_longer_than_wide_take_the_wider_part_of_figure_6_14():
    """An opening 0.2 wide and 0.8 long, 0.5 m from the column's middle: sqrt(0.16) = 0.4 wide for its tangents, half angle
    atan(0.2 / 0.5) = 21.80 degrees. Turned, it is as wide as it is: atan(0.4 / 0.5)."""
    whole = 1.6 + 0.8 * np.pi
    long = perimeter(openings=[box(0.5, -0.1, 1.3, 0.1)])
    # The ray leaves the column's face at x = 0.6: the straight part of the perimeter is 0.4 wide and cut over 2 x 0.6 tan.
    assert long.length == pytest.approx(whole - _lost(np.arctan2(0.2, 0.5)), rel=1e-3)
    wide = perimeter(openings=[box(0.5, -0.4, 0.7, 0.4)])
    assert wide.length == pytest.approx(whole - _lost(np.arctan2(0.4, 0.5)), rel=1e-3)
    assert long.lost[0][1] == pytest.approx(_lost(np.arctan2(0.2, 0.5)), rel=2e-3)
    # What is taken is known by its place too: with the rest it is the whole line.
    assert np.hypot(*(long.dead[:, 1] - long.dead[:, 0]).T).sum() == pytest.approx(long.lost[0][1], rel=1e-6)
    assert long.length + long.lost[0][1] == pytest.approx(whole, rel=1e-3)


def _lost(half):
    """What rays at an angle to both sides of x take of the perimeter at 0.4 m from a column of 0.4 m: the straight part, and the arc
    about the corner (0.2, 0.2)."""
    y = 0.6 * np.tan(half)
    if y <= 0.2:
        return 2 * y
    # Where the ray meets the circle of 0.4 about the corner.
    t = np.array([np.cos(half), np.sin(half)])
    b = t @ (0.2, 0.2)
    s = b + np.sqrt(b * b - 0.08 + 0.16)
    return 2 * (0.2 + 0.4 * np.arctan2(s * t[1] - 0.2, s * t[0] - 0.2))


def test_a_large_opening_counts_as_an_edge_and_takes_of_the_face_what_it_touches():
    p = perimeter(openings=[box(0.2, -3, 3, 3)])
    assert p.length == pytest.approx(1.2 + 0.4 * np.pi, rel=1e-3)
    assert p.place == "edge"
    assert p.face == pytest.approx(1.2, abs=1e-4)
    # As wide, but so far away that an edge there would not shorten the perimeter: its rays take their part (6.4.2 (3)).
    far = perimeter(openings=[box(1.2, -0.65, 2.0, 0.65)])
    assert far.length == pytest.approx(1.6 + 0.8 * np.pi - _lost(np.arctan2(0.65, 1.2)), rel=1e-3)
    # A small one at the face: its rays take of the column's own outline too.
    small = perimeter(openings=[box(0.2, -0.1, 0.4, 0.1)])
    assert small.face == pytest.approx(1.6 - 0.2, abs=1e-3)


def test_long_columns_and_ends_and_corners_of_walls():
    """0.25 x 1.5, d = 0.2: of the long sides 2 x 0.3 count, 1.5 - 0.6 = 0.9 m do not, on both: 3.5 + 0.8 pi - 1.8. ACI keeps all:
    2 (0.45 + 1.7). A wall's end, 0.25 thick: 0.25 + 2 x 0.3 + 0.4 pi; ACI 0.45 + 2 (0.3 + 0.1)."""
    blade = box(-0.75, -0.125, 0.75, 0.125)
    assert perimeter(blade).length == pytest.approx(3.5 + 0.8 * np.pi - 1.8, rel=1e-3)
    assert perimeter(blade, rules=ACI).length == pytest.approx(2 * (0.45 + 1.7), rel=1e-4)
    assert perimeter(box(-0.3, -0.2, 0.3, 0.2)).length == pytest.approx(2.0 + 0.8 * np.pi, rel=1e-3)
    wall, end = box(0, -0.125, 5, 0.125), box(0, -0.125, 0.3, 0.125)
    keep = box(-50, -50, 0.3, 50)
    assert perimeter(end, whole=wall, keep=keep).length == pytest.approx(0.25 + 0.6 + 0.4 * np.pi, rel=1e-3)
    assert perimeter(end, rules=ACI, whole=wall, keep=keep).length == pytest.approx(0.45 + 2 * (0.3 + 0.1), rel=1e-4)
    # 0.4 m before an edge: straight out to it on both sides.
    near = perimeter(end, solid=box(-0.4, -10, 10, 10), whole=wall, keep=keep)
    assert near.length == pytest.approx(2 * (0.3 + 0.4), rel=1e-3)
    legs = unary_union([box(-0.1, -0.1, 5, 0.1), box(-0.1, -0.1, 0.1, 5)])
    corner = unary_union([box(-0.1, -0.1, 0.4, 0.1), box(-0.1, -0.1, 0.1, 0.4)])
    both = perimeter(corner, whole=legs, keep=box(-50, -50, 0.4, 0.4))
    # Outside two legs of 0.5 and a quarter circle; inside the angle nothing lies within 0.4 of the walls' stretches.
    assert both.length == pytest.approx(1.0 + 0.2 * np.pi, rel=1e-3)


shift = st.floats(0.25, 2.0)


@settings(max_examples=40, deadline=None)
@given(shift, shift, st.floats(0.3, 0.9), st.floats(0.2, 1.0), st.sampled_from([EC2, ACI]), st.floats(0, 360))
def test_openings_never_lengthen_and_mirrors_and_turns_change_nothing(x, y, b, t, rules, angle):
    """An opening takes something or nothing; a mirrored or turned place has the same perimeter, centroid and moments."""
    solid, hole = box(-x, -y, 8, 8), box(0.5, -t / 2, 0.5 + b, t / 2)
    bare, holed = perimeter(solid=solid, rules=rules), perimeter(solid=solid, openings=[hole], rules=rules)
    if bare is None or holed is None:
        return
    assert holed.length <= bare.length + 1e-6
    assert holed.face <= bare.face + 1e-6
    mirrored = [scale(g, -1, 1, origin=(0, 0)) for g in (SQUARE, solid, hole)]
    p = perimeter(mirrored[0], mirrored[1], [mirrored[2]], rules=rules)
    assert p.length == pytest.approx(holed.length, rel=1e-6)
    assert p.first_moment(np.pi / 2) == pytest.approx(holed.first_moment(np.pi / 2), rel=1e-5)
    turned = [rotate(g, angle, origin=(0, 0)) for g in (SQUARE, solid, hole)]
    q = perimeter(turned[0], turned[1], [turned[2]], rules=rules)
    assert q.length == pytest.approx(holed.length, rel=2e-3)
    assert np.hypot(*q.centroid) == pytest.approx(np.hypot(*holed.centroid), rel=5e-3, abs=2e-3)


def test_integrals_of_the_rectangle_with_quarter_circles():
    """0.3 x 0.6, d = 0.2, by (6.41) for one axis and its mirror for the other, to 1e-4; and of the circle, 4 r^2."""
    p = perimeter(box(-0.3, -0.15, 0.3, 0.15))
    for c1, c2, angle in ((0.6, 0.3, np.pi / 2), (0.3, 0.6, 0.0)):
        W = c1**2 / 2 + c1 * c2 + 4 * c2 * D + 16 * D**2 + 2 * np.pi * D * c1
        assert p.first_moment(angle) == pytest.approx(W, rel=1e-4)
    assert p.centroid == pytest.approx((0.0, 0.0), abs=1e-9)
    ring = perimeter(Point(0, 0).buffer(0.2, quad_segs=256))
    assert ring.first_moment(0.7) == pytest.approx(4 * 0.6**2, rel=1e-4)
    assert ring.length == pytest.approx(2 * np.pi * 0.6, rel=1e-4)
    # Second moments of a quarter circle's ends and of straight sides: J of a square section of 0.6 m, to 1e-9.
    square = perimeter(SQUARE, rules=ACI)
    assert square.second_moments() == pytest.approx((2 * 0.6**3 / 12 + 2 * 0.6 * 0.3**2,) * 2 + (0.0,), abs=1e-9)
