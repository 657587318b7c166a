"""Joined, cut and subtracted outlines keep their arcs and their area."""

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.geometry.outlines import cut, join, subtract

SQUARE = [[0, 0], [4, 0], [4, 4], [0, 4]]
# A half circle of radius 2 on the square's right-hand side.
ROUNDED = [[0, 0], [4, 0, 1.0], [4, 4], [0, 4]]


def arcs(outline):
    return [v for v in outline if len(v) > 2 and v[2]]


def test_two_squares_that_share_an_edge_become_one_rectangle():
    got = join([SQUARE, [[4, 0], [7, 0], [7, 4], [4, 4]]])
    assert sorted(got.outlines[0]) == [[0, 0], [0, 4], [7, 0], [7, 4]]


def test_an_arc_comes_through_a_join_as_the_same_arc():
    (got,) = join([ROUNDED, [[-2, 0], [0, 0], [0, 4], [-2, 4]]]).outlines
    ((x, y, bulge),) = arcs(got)
    assert (x, y, bulge) == pytest.approx((4, 0, 1.0), abs=1e-6)
    assert len(got) == 4
    assert polygon(got).area == pytest.approx(24 + np.pi * 2**2 / 2, abs=0.005)


def test_a_cut_through_an_arc_leaves_two_arcs_of_the_same_circle():
    got = cut(ROUNDED, [[0, 2], [1, 2]])
    assert len(got.outlines) == 2
    for piece in got.outlines:
        ((_, _, bulge),) = arcs(piece)
        # A quarter circle: the tangent of a sixteenth of the full turn.
        assert abs(bulge) == pytest.approx(np.tan(np.pi / 8), abs=1e-3)
        assert polygon(piece).area == pytest.approx(8 + np.pi, abs=0.005)


def test_a_circle_comes_through_and_a_hole_is_told_apart():
    circle = [[1, 2, 1.0], [3, 2, 1.0]]
    got = subtract([SQUARE, circle])
    assert got.outlines[0] == [[0, 0], [0, 4], [4, 4], [4, 0]] or len(got.outlines[0]) == 4
    (hole,) = got.holes
    assert len(arcs(hole)) == 2
    assert polygon(hole).area == pytest.approx(np.pi, rel=2e-3)


def test_a_line_beside_the_outline_cuts_nothing():
    assert len(cut(SQUARE, [[9, 0], [9, 1]]).outlines) == 1


@settings(max_examples=40, deadline=None)
@given(st.floats(-0.9, 0.9), st.floats(0.5, 3.5), st.floats(-60, 60))
# The line comes out beside a corner, where it leaves a sliver between the arc and its chord.
@example(-0.75, 0.5, float(np.degrees(np.arctan2(0.6589356520472296, 0.7521993129889792))))
def test_the_pieces_of_a_cut_make_up_the_whole(bulge, height, degrees):
    assume(abs(bulge) > 0.05)
    outline = [[0, 0], [4, 0, bulge], [4, 4], [0, 4]]
    t = np.radians(degrees)
    got = cut(outline, [[0, height], [np.cos(t), height + np.sin(t)]])
    area = sum(polygon(o).area for o in got.outlines)
    assert area == pytest.approx(polygon(outline).area, rel=2e-3)
    whole = join(got.outlines)
    assert polygon(whole.outlines[0]).symmetric_difference(polygon(outline)).area < 0.02


@settings(max_examples=40, deadline=None)
@given(st.floats(-2, 2).filter(lambda b: abs(b) > 0.02), st.floats(1, 5))
def test_points_along_an_open_arc_lie_on_its_circle(bulge, chord):
    xy = polyline([[0, 0, bulge], [chord, 0]], 0.4)
    radius = chord * (1 + bulge**2) / (4 * abs(bulge))
    centre = np.array([chord / 2, chord * (1 - bulge**2) / (4 * bulge)])
    assert np.hypot(*(xy - centre).T) == pytest.approx(radius, rel=1e-9)
    assert xy[-1] == pytest.approx([chord, 0])


def test_an_arc_so_flat_that_its_chords_are_one_is_an_outline_all_the_same():
    """A rise of half a millimetre over 100 km: the sagitta of a chord is rounded away beside the radius."""
    shape = polygon([[0, 0, 1e-8], [1e5, 0], [1e5, 5e4], [0, 5e4]])
    assert shape.area == pytest.approx(5e9)
    # Elsewhere chords lie off their arc by next to a millimetre: no more, and not many times as many of them as that takes.
    xy = polyline([[5, 0, np.tan(np.pi / 8)], [0, 5]])
    middle = (xy[1:] + xy[:-1]) / 2
    off = 5 - np.hypot(*middle.T)
    assert 0.0005 < off.max() < 0.001 + 1e-9
