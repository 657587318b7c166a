"""Zones as sheets: SVG and DXF with every rail and stud to scale."""

import io
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pytest

from piastra.core.model import floor_from
from piastra.exchange.results_file import results
from piastra.exchange.zone_drawing import SCALE, zone_dxf, zone_svg
from tests.floors import flat_slab
from tests.solving import solve_floor

RAILS = {"bar_mm": 12, "rails": 12, "per_rail": 4, "first_mm": 90, "spacing_mm": 140}


@pytest.fixture(scope="module")
def drawn():
    outcome = solve_floor(floor_from(flat_slab(2, 2, size=1.0, zone_settings=[{"zone": "C11", "rails": RAILS}])))
    document = results(outcome)
    return outcome.floor, next(z for z in document["zones"] if z["id"] == "C11")


def test_the_sheet_has_perimeters_rails_and_studs_by_layer(drawn):
    floor, zone = drawn
    space = ezdxf.read(io.StringIO(zone_dxf(floor, zone).decode())).modelspace()
    assert len(space.query('LWPOLYLINE[layer=="RAILS"]')) == 12
    studs = space.query('CIRCLE[layer=="STUDS"]')
    assert len(studs) == 48
    assert {round(c.dxf.radius, 6) for c in studs} == {0.006}
    # The first 90 mm from the face of 400 mm, the others 140 mm farther out each.
    on_axis = sorted(c.dxf.center.x - 6.0 for c in studs if abs(c.dxf.center.y - 6.0) < 1e-6 and c.dxf.center.x > 6)
    assert on_axis == pytest.approx([0.29, 0.43, 0.57, 0.71])
    length = sum(
        np.hypot(*np.diff(np.array(p.get_points("xy")), axis=0).T).sum() for p in space.query('LWPOLYLINE[layer=="PERIMETER"]')
    )
    assert length == pytest.approx(zone["u_m"], abs=2e-3)
    texts = [t.dxf.text for t in space.query("TEXT")]
    assert any(t.startswith("Zone C11, column, interior: utilisation") for t in texts)
    assert any("12 rails of 4 studs of 12 mm" in t for t in texts)
    # The sheet of a zone without rails has none.
    bare = ezdxf.read(io.StringIO(zone_dxf(floor, {**zone, "rails": None}).decode())).modelspace()
    assert not bare.query('CIRCLE[layer=="STUDS"]')


def test_the_svg_is_to_scale(drawn):
    floor, zone = drawn
    drawing = ET.fromstring(zone_svg(floor, zone))
    circles = list(drawing.iter("{http://www.w3.org/2000/svg}circle"))
    assert len(circles) == 48
    assert float(circles[0].get("r")) == pytest.approx(0.006 * SCALE, abs=0.05)
