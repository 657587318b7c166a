"""Building models: solids by hand, the demo's building with the mess that real models have, and what cannot be read."""

import math
import re

import ifcopenshell
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.geometry.arcs import chords, polygon
from piastra.core.model import RefusedError, floor_from
from piastra.exchange.ifc.floors import as_project
from piastra.exchange.ifc.reading import read_ifc, read_model
from piastra.exchange.ifc.solids import Solid, bar_of, circle_of, outline_of
from piastra.exchange.ifc.writing import Written, write_ifc
from tests.floors import flat_slab
from tests.ifc_models import Model, of_floors, station


def prism(ring, bottom, top):
    """A closed prism over a ring, its faces triangles."""
    n = len(ring)
    points = np.array([[x, y, z] for z in (bottom, top) for x, y in ring])
    sides = [f for k in range(n) for f in ((k, (k + 1) % n, n + k), ((k + 1) % n, n + (k + 1) % n, n + k))]
    caps = [f for k in range(1, n - 1) for f in ((0, k + 1, k), (n, n + k, n + k + 1))]
    return Solid(points, np.array([*sides, *caps]))


def turned(points, degrees, by=(0.0, 0.0)):
    a = math.radians(degrees)
    return np.array(points) @ np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]]) + by


@settings(max_examples=40, deadline=None)
@given(st.floats(0.2, 9), st.floats(0.2, 0.95), st.floats(-89, 89), st.floats(-50, 50), st.floats(0.1, 4))
def test_a_turned_rectangle_is_found_with_its_sides_and_direction(length, ratio, degrees, x, height):
    width = length * ratio
    ring = turned(
        [[-length / 2, -width / 2], [length / 2, -width / 2], [length / 2, width / 2], [-length / 2, width / 2]], degrees, (x, 3)
    )
    solid = prism(ring, -1.0, height)
    (shape,) = solid.cut()
    assert solid.volume == pytest.approx(length * width * (height + 1), rel=1e-6)
    found = bar_of(shape)
    assert (found.length, found.width) == (pytest.approx(length, abs=1e-5), pytest.approx(width, abs=1e-5))
    assert np.degrees(found.angle) == pytest.approx(degrees, abs=0.02)
    assert found.middle == (pytest.approx(x, abs=1e-5), pytest.approx(3, abs=1e-5))


def test_round_and_odd_sections_are_told_apart():
    ring = [(0.25 * math.cos(a), 0.25 * math.sin(a)) for a in np.arange(32) * math.pi / 16]
    (round_one,) = prism(ring, 0, 3).cut()
    middle, diameter = circle_of(round_one)
    assert (middle, diameter) == ((pytest.approx(0, abs=1e-9), pytest.approx(0, abs=1e-9)), pytest.approx(0.5, rel=1e-4))
    assert bar_of(round_one) is None
    corner = [(0, 0), (1, 0), (1, 0.2), (0.2, 0.2), (0.2, 1), (0, 1)]
    assert bar_of(polygon(corner)) is None
    assert circle_of(polygon(corner)) is None


@pytest.mark.parametrize("bulge", [0.6, 0.2, -0.3])
def test_runs_of_chords_become_the_arc_that_they_were(bulge):
    outline = [[0.0, 0.0], [12.0, 0.0, bulge], [12.0, 9.0], [0.0, 9.0]]
    found = outline_of(np.roll(chords(outline), -7, axis=0))
    assert len(found) == 4
    (arc,) = [v for v in found if len(v) == 3]
    assert arc == [12.0, 0.0, pytest.approx(bulge, abs=1e-5)]
    assert sorted(v[:2] for v in found) == sorted(v[:2] for v in outline)


def below(document):
    return {c["id"]: c for c in document["columns"] if c.get("below")}


def test_the_station_on_a_turned_site_in_feet_becomes_its_four_floors():
    floors = station()
    building = read_ifc(of_floors(floors, turned=25.0, at=(431_200.0, 5_214_000.0, 12.0)), "station.ifc")
    project, found, told = as_project(building)
    assert [(level["id"], level["height_m"]) for level in project["levels"]][1:] == [
        ("Level 1", 3.6),
        ("Level 2", 3.4),
        ("Roof", 3.4),
    ]
    assert project["base_m"] + project["levels"][0]["height_m"] == pytest.approx(3.3)
    assert [(t.what, t.count) for t in building.told] == [("part", 4)]
    # The slab on the ground stands on nothing that a model has.
    (bare,) = told
    assert (bare.what, "Ground has nothing below" in bare.why) == ("storey", True)
    assert [level for level, _ in found] == [name for name, *_ in floors]
    for (name, _, _, given_), (_, read) in zip(floors, found, strict=True):
        floor_from(read)
        assert [s["thickness_m"] for s in read["slabs"]] == [s["thickness_m"] for s in given_["slabs"]], name
        for mine, theirs in zip(read["slabs"], given_["slabs"], strict=True):
            assert polygon(mine["outline"]).symmetric_difference(polygon(theirs["outline"])).area < 2e-3
            assert mine.get("top_offset_m", 0.0) == pytest.approx(theirs.get("top_offset_m", 0.0), abs=1e-4)
            assert len(mine["outline"]) == len(theirs["outline"])
        drops = {
            t["id"]: t["thickness_m"]
            for t in given_.get("thickenings", [])
            if t["thickness_m"] > given_["slabs"][0]["thickness_m"]
        }
        assert {t["id"]: t["thickness_m"] for t in read["thickenings"]} == pytest.approx(drops)
        area = sum(polygon(o["outline"]).area for o in given_.get("openings", []))
        assert sum(polygon(o["outline"]).area for o in read["openings"]) == pytest.approx(area, rel=1e-4)
        standing = {c["id"]: c for c in given_.get("columns", []) if c.get("below")}
        assert below(read).keys() == standing.keys()
        for label, column in below(read).items():
            assert column["at"] == pytest.approx(standing[label]["at"], abs=1e-4)
            assert sorted(v for v in column["shape"].values() if v != "rectangle" and v != "circle") == pytest.approx(
                sorted(v for v in standing[label]["shape"].values() if v != "rectangle" and v != "circle"), rel=5e-3
            )
            assert column["below"] == {"height_m": pytest.approx(column["below"]["height_m"]), "by_level": True}
        walls = {w["id"]: w for w in given_.get("walls", []) if w.get("below")}
        mine = {w["id"]: w for w in read["walls"] if w.get("below")}
        assert {k: w["thickness_m"] for k, w in mine.items()} == pytest.approx({k: w["thickness_m"] for k, w in walls.items()})
    # What stands on a floor is there as what it has above; two columns of Level 2 stand beside Level 1.
    plan = shapely.union_all([polygon(s["outline"]) for s in found[1][1]["slabs"]])
    stand = [c["at"] for c in below(found[2][1]).values() if plan.distance(shapely.Point(c["at"])) < 0.2]
    assert sorted(c["at"] for c in found[1][1]["columns"] if c.get("above")) == sorted(stand)
    assert len(stand) == 14


def test_what_cannot_be_read_is_told_and_the_rest_is_read():
    model = Model(unit=1.0)
    ground, first = model.storey("Ground", 0.0), model.storey("First", 3.0)
    plate = [(0, 0), (8, 0), (8, 6), (0, 6)]
    slab = model.product("IfcSlab", "S", first, model.shape(model.extruded(plate, -0.2, 0.2)))
    model.product("IfcSlab", "nothing", first, None)
    wedge = model.extruded(plate, 1.0, 0.5)
    plane = model.f.createIfcPlane(
        model.f.createIfcAxis2Placement3D(model.point((4, 3, 1.3)), model.f.createIfcDirection((0.3, 0.0, 1.0)), None)
    )
    cut = model.f.createIfcBooleanClippingResult("DIFFERENCE", wedge, model.f.createIfcHalfSpaceSolid(plane, False))
    model.product("IfcSlab", "ramp", first, model.shape(cut, kind="Clipping"))
    corner = [(0, 0), (1.5, 0), (1.5, 0.2), (0.2, 0.2), (0.2, 1.5), (0, 1.5)]
    model.product("IfcWall", "corner", first, model.shape(model.extruded(corner, -3.0, 2.8)))
    # A door cuts most of the wall: its head is where it is whole.
    wall = model.product("IfcWall", "W", first, model.shape(model.extruded([(0, 5.9), (8, 5.9), (8, 6.1), (0, 6.1)], -3.0, 2.8)))
    model.hole(wall, [(2, 5), (6, 5), (6, 7), (2, 7)], -3.0, 2.2)
    model.product("IfcBeam", "B", first, model.shape(model.extruded([(0, 2.85), (8, 2.85), (8, 3.15), (0, 3.15)], -0.5, 0.5)))
    round_ = [(4 + 0.2 * math.cos(a), 0.2 * math.sin(a)) for a in np.arange(24) * math.pi / 12]
    model.product("IfcColumn", "C", first, model.shape(model.extruded(round_, -3.0, 2.8)))
    model.product("IfcStair", "stair", ground, None)
    # One ends below the beam, one stands beside everything.
    square = [(3.8, 2.8), (4.2, 2.8), (4.2, 3.2), (3.8, 3.2)]
    model.product("IfcColumn", "under", first, model.shape(model.extruded(square, -3.0, 2.5)))
    model.product("IfcColumn", "lone", first, model.shape(model.extruded([(20, 0), (21, 0), (21, 1), (20, 1)], -3.0, 2.8)))
    model.made_of([slab], "Concrete C35/45")
    building = read_model(model.content())
    told = {(t.what, t.why) for t in building.told}
    assert ("slab", "has no body") in told
    assert ("slab", "slopes or is not of one thickness, and is left out") in told
    assert ("wall", "is not straight and of one thickness") in told
    assert ("stair", "is not read as a part of a floor") in told
    project, ((level, floor),), more = as_project(building)
    assert (level, project["base_m"], project["levels"][0]["height_m"]) == ("First", 0.0, 3.0)
    assert [(s["id"], s["thickness_m"], s["concrete"]) for s in floor["slabs"]] == [("S", 0.2, "C35/45")]
    assert ("column", 1, "touches no floor that was read, as lone") in {(t.what, t.count, t.why) for t in more}
    assert below(floor).keys() == {"C", "under"}
    (w,), (b,), c = floor["walls"], floor["beams"], below(floor)["C"]
    assert (w["line"], w["thickness_m"]) == ([[0.0, 6.0], [8.0, 6.0]], 0.2)
    assert (b["line"], b["width_m"], b["depth_m"]) == ([[0.0, 3.0], [8.0, 3.0]], 0.3, 0.5)
    assert (c["at"], c["shape"]["kind"], c["shape"]["diameter_m"]) == ([4.0, 0.0], "circle", pytest.approx(0.4, rel=2e-3))
    assert any("look at it" in t.why for t in more)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "IFC model"),
        (b"\x00\xff" * 50, "IFC model"),
        (b"ISO-10303-21;\nHEADER;\nENDSEC;\nEND-ISO-10303-21;", "IFC"),
        (b"{}", "IFC"),
    ],
)
def test_what_is_no_model_is_refused_in_a_sentence(content, words):
    with pytest.raises(RefusedError) as refused:
        read_ifc(content, "a.ifc")
    assert words in str(refused.value.refusals[0])


@pytest.mark.parametrize(
    ("name", "strength"),
    [("Concrete C25/30", 25.0), ("Beton C 35", 35.0), ("C27.6", 27.6), ("Concrete C4000", None), ("RC40", None), ("Grey", None)],
)
def test_a_strength_is_taken_from_a_name_only_where_it_is_one(name, strength):
    model = Model(unit=1.0)
    first = model.storey("First", 3.0)
    slab = model.product("IfcSlab", "S", first, model.shape(model.extruded([(0, 0), (8, 0), (8, 6), (0, 6)], -0.2, 0.2)))
    model.made_of([slab], name)
    project, ((_, floor),), told = as_project(read_model(model.content()))
    used = next(c for c in project["concretes"] if c["id"] == floor["slabs"][0]["concrete"])
    assert (used["strength_MPa"] == strength) if strength else used == project["concretes"][0]
    assert any("look at it" in t.why for t in told) == (strength is None)


def test_another_schema_is_refused_by_its_name():
    content = Model().content().replace(b"'IFC4'", b"'IFC9X1'")
    with pytest.raises(RefusedError, match="IFC9X1, which is not read"):
        read_ifc(content, "a.ifc")


def test_a_model_without_storeys_is_refused():
    with pytest.raises(RefusedError, match="no storeys"):
        read_model(Model().content())


def test_what_is_written_is_read_as_it_was():
    given_ = station()
    floors = [Written(name, level, floor_from(document)) for name, level, _, document in given_]
    content = write_ifc("Field station", floors)
    # The same building is written with the same global ids, so that others know its parts again.
    assert set(re.findall(rb"IFC(?:SLAB|COLUMN|WALL)\('([^']+)'", content)) == set(
        re.findall(rb"IFC(?:SLAB|COLUMN|WALL)\('([^']+)'", write_ifc("Field station", floors))
    )
    building = read_model(content)
    assert building.told == []
    _, found, told = as_project(building)
    assert [t.what for t in told] == ["storey"]
    for (name, _, _, before), (_, after) in zip(given_, found, strict=True):
        for mine, theirs in zip(after["slabs"], before["slabs"], strict=True):
            assert (mine["id"], mine["thickness_m"]) == (theirs["id"], theirs["thickness_m"]), name
            assert polygon(mine["outline"]).symmetric_difference(polygon(theirs["outline"])).area < 2e-3
            bent = [v[2] for v in theirs["outline"] if len(v) > 2 and v[2]]
            assert [v[2] for v in mine["outline"] if len(v) > 2] == pytest.approx(bent, abs=2e-4)
        standing = {c["id"]: (c["at"], c["shape"]) for c in before.get("columns", []) if c.get("below")}
        assert {k: c["at"] for k, c in below(after).items()} == {
            k: pytest.approx(at, abs=1e-4) for k, (at, _) in standing.items()
        }
        assert {w["id"] for w in after["walls"] if w.get("below")} == {w["id"] for w in before.get("walls", []) if w.get("below")}
        assert len(after["thickenings"]) == len(before.get("thickenings", []))


def test_bars_and_tendons_are_written_with_what_is_known_of_them():
    floor = floor_from(flat_slab(1, 1))
    bar = {"mark": "7", "face": "bottom", "direction": "x", "shape": "straight", "bar_mm": 16.0, "spacing_mm": 150.0, "count": 12, "length_m": 4.0,
           "angle_deg": 90.0, "mass_kg": 75.7, "outline": [[1, 1], [3, 1], [3, 5], [1, 5]]}  # fmt: skip
    tendon = {
        "id": "T1",
        "area_mm2": 600.0,
        "jacking_kN": [820.0, 790.0],
        "at": [[0, 3], [3, 3], [6, 3]],
        "z_mm": [-100, -180, -100],
    }
    results = {"bars": [bar, {**bar, "mark": "8", "shape": "link"}], "tendons": [tendon]}
    model = ifcopenshell.file.from_string(write_ifc("One", [Written("L", 3.0, floor, results)]).decode())
    (made,) = model.by_type("IfcReinforcingBar")
    assert (made.Name, made.NominalDiameter, made.BarLength) == ("7", 0.016, 4.0)
    line = made.Representation.Representations[0].Items[0].Directrix.Points
    assert [p.Coordinates for p in line] == [
        pytest.approx((2.0, 1.0, -0.25 + 0.025 + 0.008)),
        pytest.approx((2.0, 5.0, -0.25 + 0.025 + 0.008)),
    ]
    known = {p.Name: p.NominalValue.wrappedValue for p in model.by_type("IfcPropertySingleValue")}
    assert (known["Count"], known["Spacing_mm"], known["Face"]) == (12, 150.0, "bottom")
    (strand,) = model.by_type("IfcTendon")
    assert (strand.CrossSectionArea, strand.TensionForce) == (pytest.approx(6e-4), pytest.approx(820e3))
    assert [p.Coordinates[2] for p in strand.Representation.Representations[0].Items[0].Directrix.Points] == pytest.approx(
        [-0.1, -0.18, -0.1]
    )
