"""Bands of a field: each lies where the field does, all of them make the floor, and no two look alike."""

import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.model import floor_from
from piastra.exchange.contour_drawing import Field, bands, colours, contours_svg, step_of
from tests.floors import one_bay


def over_a_square(of, count=7):
    """A field over 6 m by 6 m, straight over triangles."""
    at = np.linspace(0, 6, count)
    xy = np.array([(x, y) for x in at for y in at])
    k = np.arange(count * count).reshape(count, count)
    a, b, c, d = (k[:-1, :-1].ravel(), k[1:, :-1].ravel(), k[1:, 1:].ravel(), k[:-1, 1:].ravel())
    return Field("Deflection", "mm", xy, np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])]), of(*xy.T))


def area(band):
    """m2, by Gauss's formula; holes run the other way round."""
    return sum(float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1))) / 2 for x, y in (ring.T for ring in band.rings))


@settings(max_examples=25, deadline=None)
@given(st.floats(-40, 40), st.floats(0.1, 30), st.floats(0, 6.3))
def test_a_plane_has_bands_of_its_own_width(offset, slope, turn):
    """Of a plane that rises across the square: area by its own share, by counting fine squares."""
    field = over_a_square(lambda x, y: offset + slope * (np.cos(turn) * x + np.sin(turn) * y))
    found = bands(field, 1.0)
    fine = (np.arange(400) + 0.5) / 400 * 6
    x, y = np.meshgrid(fine, fine)
    plane = offset + slope * (np.cos(turn) * x + np.sin(turn) * y)
    for band in found:
        assert area(band) == pytest.approx(36 * float(((plane >= band.low) & (plane < band.high)).mean()), abs=0.12)
    assert sum(area(band) for band in found) == pytest.approx(36.0, abs=1e-9)
    # A strip across the square has one outline, whatever the triangles that it is made of.
    assert all(len(band.rings) == 1 for band in found)
    assert len(set(colours(found))) == len(found) <= 14


@settings(max_examples=40, deadline=None)
@given(st.lists(st.integers(-9, 9), min_size=49, max_size=49), st.sampled_from([0.0, 1e-15, 1e-9, 0.013]), st.integers(0, 99))
def test_every_place_lies_in_one_band(levels, off, seed):
    """Heights at the ends of bands, or next to nothing beside them, with terraces: bands fill the square, and none lies over another."""
    heights = np.array(levels) + off * np.random.default_rng(seed).normal(size=49)
    found = bands(over_a_square(lambda x, y: heights), 1.0)
    assert sum(area(band) for band in found) == pytest.approx(36.0, abs=1e-5)
    assert min(area(found[0]), area(found[-1])) > 0
    shapes = [shapely.polygons(ring) for band in found for ring in band.rings]
    assert shapely.unary_union([shapely.make_valid(s) for s in shapes], grid_size=1e-6).area == pytest.approx(36.0, abs=1e-4)


def test_a_leap_along_an_edge_parts_bands_there():
    """Two fields side by side, each with nodes of its own at the edge between them: on its way along the edge a band lies on one side only."""
    xy = np.array([(0, 0), (3, 0), (3, 3), (0, 3), (3, 0), (6, 0), (6, 3), (3, 3)], dtype=float)
    triangles = np.array([(0, 1, 2), (0, 2, 3), (6, 5, 4), (4, 6, 7)])
    found = bands(Field("Moment", "kNm/m", xy, triangles, np.array([0, 0, 6, 6, 3, 3, 9, 9], dtype=float)), 1.0)
    assert [(band.low, band.high) for band in found] == [(k, k + 1) for k in range(9)]
    # Half a metre of either field a band; only the right one has more than 6, only the left one less than 3.
    assert [area(band) for band in found] == pytest.approx([1.5] * 3 + [3.0] * 3 + [1.5] * 3)


def test_outlines_are_drawn_without_nodes_along_straight_edges():
    """Two hills: their tops are two outlines of one colour, round to within 5 mm; a plain square has its four corners."""
    floor = floor_from(one_bay())
    hills = over_a_square(lambda x, y: 50 - 9 * np.minimum(np.hypot(x - 1.5, y - 3), np.hypot(x - 4.5, y - 3)), 61)
    top = bands(hills, 1.0)[-1]
    assert len(top.rings) == 2
    path = next(
        p for p in re.findall(r'<path d="([^"]*)" fill="#', contours_svg(floor, hills).decode())[::-1] if p.count("M") == 2
    )
    assert path.count("Z") == 2
    assert 20 < path.count("L") < 0.8 * sum(len(ring) for ring in top.rings)
    level = over_a_square(lambda x, y: 0 * x + 5.0, 61)
    assert [
        p.count("L") for p in re.findall(r'<path d="([^"]*)" fill="#[^"]*" fill-rule', contours_svg(floor, level).decode())
    ] == [3]


def test_steps_are_round_and_the_legend_says_where_they_lie():
    assert [step_of(*ends) for ends in ((0, 11), (0, 100), (-500, 0), (-3, 8.1), (0, 23))] == pytest.approx([1, 10, 50, 2, 2.5])
    floor = floor_from(one_bay())
    field = over_a_square(lambda x, y: 2.0 * x - 3.0)
    svg = contours_svg(floor, field).decode()
    ET.fromstring(svg)
    told = re.findall(r"<text[^>]*>([^<]*)</text>", svg)
    assert "mm" in told
    assert told.count("9.0") == 2
    assert [t for t in told if " to " in t] == ["8 to 10", "6 to 8", "4 to 6", "2 to 4", "0 to 2", "−2 to 0", "−4 to −2"]
    # In inches: 9 mm are 0.35 in.
    american = contours_svg(floor, field, 1 / 25.4, "in", 2).decode()
    assert ">0.35<" in american
    assert ">in<" in american
    nothing = Field("x", "mm", field.xy, field.triangles, np.full(len(field.xy), np.nan))
    ET.fromstring(contours_svg(floor, nothing))
