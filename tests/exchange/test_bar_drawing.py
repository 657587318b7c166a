"""Bars of one face as SVG and DXF."""

import io
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pytest

from piastra.core.model import floor_from
from piastra.exchange.bar_drawing import bars_dxf, bars_svg, marks, title
from piastra.exchange.results_file import results
from tests.floors import flat_slab
from tests.solving import solve_floor


@pytest.fixture(scope="module")
def designed():
    data = flat_slab(2, 2, size=1.0)
    data["design_bars"] = True
    for mat in data["mats"]:
        mat.update(bar_mm=8, spacing_mm=200)
    outcome = solve_floor(floor_from(data))
    return outcome.floor, results(outcome)


def test_every_group_of_the_face_is_drawn_once_with_its_mark(designed):
    floor, document = designed
    own = [b for b in document["bars"] if b["origin"] == "designed" and (b["face"], b["direction"]) == ("top", "y")]
    assert len(own) > 3
    found = marks(document["bars"], "top", "y")
    assert [m.text.split()[0] for m in found] == [b["mark"] for b in own]
    for m, b in zip(found, own, strict=True):
        # Bars along y: the bar drawn is as long as the longest, the extent as wide as the bars lie.
        assert np.ptp(m.bar[:, 1]) == pytest.approx(b["length_m"], abs=1e-3)
        assert np.ptp(m.bar[:, 0]) == pytest.approx(0.0, abs=1e-6)
        assert np.ptp(m.reach[:, 0]) == pytest.approx(b["count"] * b["spacing_mm"] / 1e3, abs=b["spacing_mm"] / 1e3)
    assert title(document, "top", "y").endswith("bars top, along y; mats ⌀8-200")
    drawing = ET.fromstring(bars_svg(floor, document, "top", "y"))
    texts = [t.text for t in drawing.iter("{http://www.w3.org/2000/svg}text")]
    assert [t for t in texts if t.startswith("TY")] == [m.text for m in found]


def test_the_drawing_has_the_plan_and_its_bars_by_layer(designed):
    floor, document = designed
    drawing = ezdxf.read(io.StringIO(bars_dxf(floor, document, "top", "x").decode()))
    space = drawing.modelspace()
    own = marks(document["bars"], "top", "x")
    assert len(space.query('LWPOLYLINE[layer=="BARS"]')) == len(own)
    assert len(space.query('LINE[layer=="EXTENTS"]')) == 3 * len(own)
    assert len(space.query('LWPOLYLINE[layer=="COLUMNS"]')) == len(floor.columns)
    first = space.query('LWPOLYLINE[layer=="BARS"]')[0]
    assert np.array(first.get_points("xy")) == pytest.approx(own[0].bar)
