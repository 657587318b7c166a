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


@settings(max_examples=25, deadline=None)
@given(st.floats(-40, 40), st.floats(0.1, 30), st.floats(0, 6.3))
def test_a_plane_has_bands_of_its_own_width(offset, slope, turn):
    """Of a plane that rises across the square: area by its own share, by counting fine squares."""
    field = over_a_square(lambda x, y: offset + slope * (np.cos(turn) * x + np.sin(turn) * y))
    found = bands(field, 1.0)
    fine = (np.arange(400) + 0.5) / 400 * 6
    x, y = np.meshgrid(fine, fine)
    plane = offset + slope * (np.cos(turn) * x + np.sin(turn) * y)
    for low, high, shape in found:
        assert shape.area == pytest.approx(36 * float(((plane >= low) & (plane < high)).mean()), abs=0.12)
    assert sum(shape.area for *_, shape in found) == pytest.approx(36.0, abs=1e-2)
    assert len(set(colours(found))) == len(found) <= 14


@settings(max_examples=40, deadline=None)
@given(st.lists(st.integers(-9, 9), min_size=49, max_size=49), st.sampled_from([0.0, 1e-15, 1e-9, 0.013]), st.integers(0, 99))
def test_every_place_lies_in_one_band(levels, off, seed):
    """Heights at the ends of bands, or next to nothing beside them, with terraces: bands fill the square, and none lies over another."""
    heights = np.array(levels) + off * np.random.default_rng(seed).normal(size=49)
    found = bands(over_a_square(lambda x, y: heights), 1.0)
    shapes = [shape for *_, shape in found]
    assert all(s.is_valid for s in shapes)
    assert sum(s.area for s in shapes) == pytest.approx(36.0, abs=1e-5)
    assert shapely.union_all(shapes, grid_size=1e-6).area == pytest.approx(36.0, abs=1e-5)
    assert found[0][2].area > 0 and found[-1][2].area > 0


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
