"""Drawings: a messy one becomes a floor, a floor goes out and comes back, and hostile ones get a sentence."""

import io
import re
import subprocess
import sys

import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf import DXFError
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString

from piastra.core.geometry.arcs import polygon, polyline
from piastra.core.model import RefusedError, floor_from
from piastra.demo.architect import architects_drawing
from piastra.demo.saltmarsh import level_1
from piastra.exchange.dxf.drawing import Path
from piastra.exchange.dxf.linework import faces_of
from piastra.exchange.dxf.parsing import UnfitError, _Before, parse
from piastra.exchange.dxf.reading import read_dxf
from piastra.exchange.dxf.recognise import recognise
from piastra.exchange.dxf.writing import write_dxf

CHOSEN = {"A-SLAB EDGE": "slabs", "A-COLS": "columns", "A-WALL": "walls", "A-VOID": "openings", "A-GRID": "grid"}


@pytest.fixture(scope="module")
def messy():
    drawing = read_dxf(architects_drawing(), "ground.dxf")
    return drawing, recognise(drawing, CHOSEN)


def test_lines_may_end_and_files_begin_as_they_do_on_other_machines(messy):
    plain = architects_drawing().replace(b"\r\n", b"\n")
    for content in (plain.replace(b"\n", b"\r\n"), b"\xef\xbb\xbf" + plain):
        assert read_dxf(content, "ground.dxf") == messy[0]


def test_the_messy_drawing_is_read_in_metres(messy):
    drawing, _ = messy
    assert (drawing.unit, drawing.shift, drawing.notes) == ("mm", [0.0, 0.0], [])
    assert set(CHOSEN) < set(drawing.layers)


def test_the_slab_of_split_lines_with_gaps_is_one_outline_with_its_arc(messy):
    _, found = messy
    (slab,) = found.slabs
    arcs = [v for v in slab["outline"] if len(v) > 2]
    assert len(slab["outline"]) == 4
    # Rise 1.5 m over half a chord of 6.8 m.
    assert [abs(v[2]) for v in arcs] == [pytest.approx(1.5 / 6.8, rel=1e-3)]
    half, rise = 6.8, 1.5
    radius = (half**2 + rise**2) / (2 * rise)
    angle = np.arcsin(half / radius)
    segment = radius**2 * (angle - np.sin(angle) * np.cos(angle))
    assert polygon(slab["outline"]).area == pytest.approx(22.0 * 13.6 + segment, rel=1e-4)


def test_columns_come_out_of_blocks_circles_and_loose_lines_once_each(messy):
    _, found = messy
    assert len(found.columns) == 12
    at = {tuple(np.round(c["at"], 2)): c for c in found.columns}
    assert at[7.2, 6.6]["shape"] == {"kind": "circle", "diameter_m": 0.55}
    assert at[14.4, 13.2]["angle_deg"] == pytest.approx(30)
    assert at[21.6, 13.2]["shape"] == {"kind": "rectangle", "b_m": 0.6, "d_m": 0.3}
    square = {"kind": "rectangle", "b_m": 0.4, "d_m": 0.4}
    assert sum(c["shape"] == square for c in found.columns) == 9


def test_walls_are_centre_lines_that_meet(messy):
    _, found = messy
    lines = {w["thickness_m"]: [] for w in found.walls}
    for w in found.walls:
        lines[w["thickness_m"]].append(sorted(map(tuple, w["line"])))
    assert lines[0.25] == [[(2.0, 9.125), (5.0, 9.125)]]
    assert sorted(lines[0.2]) == [[(9.1, 8.1), (9.1, 11.0)], [(9.1, 8.1), (12.0, 8.1)]]


def test_openings_and_grid(messy):
    _, found = messy
    areas = sorted(polygon(o["outline"]).area for o in found.openings)
    assert areas == pytest.approx([np.pi * 0.3**2, 2.4 * 2.4], rel=5e-3)
    grid = {g["label"]: g["line"] for g in found.grid}
    assert sorted(grid) == ["1", "2", "3", "A", "B", "C", "D"]
    assert grid["B"] == [[7.2, -2.0], [7.2, 15.2]]


def test_what_was_not_used_is_reported(messy):
    _, found = messy
    told = {(u.layer, u.what): u for u in found.unused}
    assert told["A-FURNITURE", "line"].count == 6
    assert told["A-TEXT", "text"].count >= 2
    assert told["A-WALL", "HATCH"].count == 1
    assert "drawn twice" in told["A-SLAB EDGE", "line"].why or "twice" in str(found.unused)
    assert told["A-TEXT", "DIMENSION"].why == "dimensions are not needed"
    assert all(u.count > 0 and u.why for u in found.unused)


def nearest(line, others):
    return min(LineString(line).hausdorff_distance(LineString(o)) for o in others)


def test_a_floor_goes_out_and_comes_back_to_a_millimetre():
    floor = level_1()
    drawing = read_dxf(write_dxf(floor), "level 1.dxf")
    layers = {
        "SLABS": "slabs",
        "OPENINGS": "openings",
        "DROP PANELS": "drop_panels",
        "COLUMNS": "columns",
        "WALLS": "walls",
        "GRID": "grid",
    }
    found = recognise(drawing, layers)

    # Slabs that overlap come back as the faces between them: the same concrete all the same.
    def union(outlines):
        return shapely.unary_union([polygon(o) for o in outlines])

    for mine, theirs in ((floor.slabs, found.slabs), (floor.openings, found.openings), (floor.thickenings, found.drop_panels)):
        a, b = union([x.outline for x in mine]), union([x["outline"] for x in theirs])
        assert a.boundary.hausdorff_distance(b.boundary) < 1e-3
    assert len(found.openings) == len(floor.openings)
    assert len(found.columns) == len(floor.columns)
    for c in floor.columns:
        twin = min(found.columns, key=lambda t: np.hypot(*(np.array(t["at"]) - c.at)))
        assert np.hypot(*(np.array(twin["at"]) - c.at)) < 1e-3
        for key, value in twin["shape"].items():
            assert value == getattr(c.shape, key) or abs(value - getattr(c.shape, key)) < 1e-3
    assert len(found.walls) == len(floor.walls)
    for w in floor.walls:
        assert nearest(polyline(w.line), [t["line"] for t in found.walls]) < 1e-3
    assert {g["label"] for g in found.grid} == {g.id for g in floor.grid}
    # What came back is a floor file again.
    items = {
        "slabs": [
            {"id": f"S{k}", **s, "thickness_m": 0.26, "concrete": "C40", "rebar": "B500"} for k, s in enumerate(found.slabs)
        ],
        "columns": [{"id": f"C{k}", **c, "concrete": "C40"} for k, c in enumerate(found.columns)],
    }
    floor_from({**floor.model_dump(mode="json", include={"format", "version", "concretes", "rebars"}), **items})


def test_curved_and_bent_walls_and_beams_come_back_to_a_millimetre():
    document = level_1().model_dump(mode="json", exclude_unset=True)
    storey = {"height_m": 3.2}
    walls = {"WA": [[2, 2, 0.4], [8, 3]], "WB": [[10, 2], [13, 2], [13, 5]]}
    document["walls"] = [{"id": k, "line": v, "thickness_m": 0.25, "concrete": "C40", "below": storey} for k, v in walls.items()]
    beams = {"BA": [[15, 2, -0.7], [20, 6], [24, 6]]}
    document["beams"] = [{"id": k, "line": v, "width_m": 0.35, "depth_m": 0.6, "concrete": "C40"} for k, v in beams.items()]
    floor = floor_from(document)
    found = recognise(read_dxf(write_dxf(floor), "x"), {"WALLS": "walls", "BEAMS": "beams"})
    assert (len(found.walls), len(found.beams)) == (3, 2)
    for mine, theirs, key, width in ((walls, found.walls, "thickness_m", 0.25), (beams, found.beams, "width_m", 0.35)):
        assert all(abs(t[key] - width) < 1e-3 for t in theirs)
        back = shapely.unary_union([LineString(polyline(t["line"])) for t in theirs])
        drawn = shapely.unary_union([LineString(polyline(v)) for v in mine.values()])
        assert drawn.hausdorff_distance(back) < 1e-3


def drawing_of(add, units=6, version="R2010"):
    document = ezdxf.new(version, units=units)
    add(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_a_drawing_far_off_is_brought_to_the_origin_and_says_so():
    drawing = parse(drawing_of(lambda s, d: s.add_line((512_000, 4_100_000), (512_010, 4_100_000))), "x", None, False)
    assert drawing.paths[0].vertices[0] == [0.0, 0.0]
    assert "km off the origin" in drawing.notes[0]


def test_a_drawing_without_a_unit_is_guessed_and_can_be_told():
    content = drawing_of(lambda s, d: s.add_line((0, 0), (24_000, 0)), units=0)
    guessed = parse(content, "x", None, False)
    assert (guessed.unit, len(guessed.notes)) == ("mm", 1)
    assert parse(content, "x", "cm", False).paths[0].vertices[1] == [240.0, 0.0]


def _bomb(space, document):
    inner = document.blocks.new("B0")
    for k in range(40):
        inner.add_line((0, k), (1, k))
    for level in range(1, 7):
        block = document.blocks.new(f"B{level}")
        for k in range(20):
            block.add_blockref(f"B{level - 1}", (0, k))
    space.add_blockref("B6", (0, 0))


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "nothing that can be read"),
        (b"not a drawing at all\n" * 50, "cannot be read"),
        (b"\x00\xff" * 4000, "cannot be read"),
        (architects_drawing()[:2000], "nothing that can be read"),
        (b"0" * 40_000_001, "40 MB can be read"),
        (drawing_of(lambda s, d: None), "nothing that can be read"),
    ],
    ids=["empty", "prose", "binary", "cut off", "huge", "nothing drawn"],
)
def test_a_broken_or_huge_file_gets_a_sentence(content, words):
    with pytest.raises(RefusedError) as caught:
        read_dxf(content, "x.dxf")
    assert words in caught.value.refusals[0].sentence


def polyline_of(points: int, broken: bool = False) -> bytes:
    """A drawing with one polyline of so many points."""

    def fill(space, document):
        space.add_lwpolyline([(7777.5, 0.0)] * 2, close=True)

    head, _, tail = drawing_of(fill).decode().partition(" 10\n7777.5\n 20\n0.0\n" * 2)
    assert tail
    body = "".join(f" 10\n{k % 900}\n 20\n{k // 900 / 8}\n" for k in range(points))
    return (head.replace("100\nAcDbPolyline\n", "" if broken else "100\nAcDbPolyline\n") + body + tail).encode()


@pytest.mark.study
def test_a_curve_of_many_points_is_read_or_told_to_be_too_much():
    (path,) = read_dxf(polyline_of(20_000), "x.dxf", "m").paths
    assert len(path.vertices) == 20_000
    assert path.vertices[1801] == [1.0, 0.25]
    with pytest.raises(RefusedError, match="points; 100,000 can be read"):
        read_dxf(polyline_of(210_000), "x.dxf")
    with pytest.raises(RefusedError, match="values; 240,000 can be read"):
        read_dxf(polyline_of(130_000, broken=True), "x.dxf")


def test_what_is_not_read_anyway_does_not_count_and_is_told(monkeypatch):
    """Hatches of a drawing, of a sheet and of a block, with their many corners, beside lines."""

    def fill(space, document):
        sheet, block = document.layout("Layout1"), document.blocks.new("B")
        for where in (space, space, sheet, block):
            hatch = where.add_hatch(dxfattribs={"layer": "A-HATCH"})
            hatch.paths.add_polyline_path([(k % 7, k) for k in range(300)])
            where.add_line((0, 0), (5, 0), {"layer": "A-WALL"})
        space.add_blockref("B", (0, 1), {"layer": "A-COLS"})
        space.add_line((0, 2), (5, 2), {"layer": "A-WALL"})

    content = drawing_of(fill)
    # As much as the drawing has without the hatches of its model space and sheet.
    monkeypatch.setattr("piastra.exchange.dxf.parsing.VALUES", content.count(b"\n") // 2 - 600)
    for ends in (b"\n", b"\r\n"):
        drawing = parse(content.replace(b"\n", ends), "x.dxf", "m", False)
        assert {(u.layer, u.what): u.count for u in drawing.unread} == {("A-HATCH", "HATCH"): 3}
        assert sorted(p.layer for p in drawing.paths) == ["A-WALL"] * 4
    monkeypatch.setattr("piastra.exchange.dxf.parsing._lightened", lambda lines: (lines, _Before()))
    with pytest.raises(UnfitError, match="values"):
        parse(content, "x.dxf", "m", False)
    monkeypatch.setattr("piastra.exchange.dxf.parsing.VALUES", 10**6)
    whole = parse(content, "x.dxf", "m", False)
    assert whole.unread == drawing.unread
    assert sorted(map(repr, whole.paths)) == sorted(map(repr, drawing.paths))


def test_lines_taken_out_before_are_those_of_the_document(monkeypatch):
    """Open, closed, with arcs, seen from below, wide, on a sheet and in a block, and lines one of which is broken."""

    def fill(space, document):
        for where in (space, document.layout("Layout1"), document.blocks.new("B")):
            where.add_lwpolyline([(0, 0), (5, 0, 0, 0, 0.5), (5, 3)], close=True, dxfattribs={"layer": "A", "elevation": 3.0})
            where.add_lwpolyline([(1, 1, 0.2, 0.1, 0), (2, 2, 0.1, 0.3, -1)], dxfattribs={"layer": "B", "const_width": 0.1})
            where.add_lwpolyline([(1, 1), (2, 2, 0, 0, -1)], dxfattribs={"extrusion": (0, 0, -1)})
            where.add_line((0, 0, 4), (3, 4), {"layer": "C", "thickness": 2.0, "extrusion": (0, 0, -1)}).set_xdata(
                "X", [(1010, (9, 9, 9))]
            )
        space.add_blockref("B", (10, 1), {"rotation": 30})

    content = drawing_of(fill)
    found = parse(content, "x.dxf", "m", False)
    assert len(found.paths) == 8
    monkeypatch.setattr("piastra.exchange.dxf.parsing._lightened", lambda lines: (lines, _Before()))
    assert sorted(map(repr, parse(content, "x.dxf", "m", False).paths)) == sorted(map(repr, found.paths))
    monkeypatch.undo()
    (line,) = re.findall(
        rb" 10\n0\.0\n 20\n0\.0\n 30\n4\.0\n", content[content.index(b"\nENTITIES\n") :].partition(b"  1\nLayout1")[0]
    )[:1]
    broken = content.replace(line, line.replace(b"0.0", b"nought", 1))
    with pytest.raises(RefusedError, match="cannot be read"):
        read_dxf(broken, "x.dxf")
    many = drawing_of(lambda space, document: [space.add_line((k, 0), (k, 5)) for k in range(40)])
    monkeypatch.setattr("piastra.exchange.dxf.parsing.POINTS", 79)
    with pytest.raises(UnfitError, match="80 points; 79 can be read"):
        parse(many, "x.dxf", "m", False)


def test_a_broken_file_that_would_take_long_to_mend_is_not_mended(monkeypatch):
    """To mend one takes three times as long as to read it."""
    seen = []
    monkeypatch.setattr("ezdxf.recover.read", lambda stream: seen.append(stream) or 1 / 0)
    for points, mended in ((10, 1), (90_000, 0)):
        seen.clear()
        with pytest.raises((ZeroDivisionError, DXFError)):
            parse(polyline_of(points, broken=True), "x.dxf", None, False)
        assert len(seen) == mended


def test_a_file_in_an_older_code_page_is_read_as_it_says_and_not_mended(monkeypatch):
    monkeypatch.setattr("ezdxf.recover.read", lambda stream: 1 / 0)

    for page, code, layer in (("ANSI_1252", "cp1252", "Stützen"), ("ANSI_1250", "cp1250", "Płyta")):
        content = drawing_of(lambda s, d, layer=layer: s.add_line((0, 0), (5, 0), {"layer": layer}), version="R2000").decode()
        drawing = parse(content.replace("ANSI_1252", page).encode(code), "x.dxf", "m", False)
        assert [p.layer for p in drawing.paths] == [layer]


def test_characters_that_are_spelt_out_are_read_and_lines_stay_lines():
    document = ezdxf.new("R2000")
    space = document.modelspace()
    space.add_line((0, 0), (10, 0), dxfattribs={"layer": "Wände"})
    space.add_circle((5, 5), 1, dxfattribs={"layer": "Wände"})
    space.add_text("Höhe\u2028", dxfattribs={"layer": "Wände"})
    stream = io.StringIO()
    document.write(stream)
    content = re.sub("[^\0-\x7f]", lambda found: f"\\U+{ord(found[0]):04X}", stream.getvalue()).replace("\\U+2028", "\\U+000A")
    drawing = read_dxf(content.encode("ascii"), "spelt.dxf", "m")
    assert drawing.layers == ["Wände"]
    assert len(drawing.paths) == 2
    assert [t.text for t in drawing.texts] == ["Höhe\\U+000A"]


def test_blocks_in_blocks_without_end_are_cut_off(monkeypatch):
    monkeypatch.setattr("piastra.exchange.dxf.parsing.ENTITIES", 5_000)
    drawing = parse(drawing_of(_bomb), "bomb.dxf", None, False)
    assert any("Only the first 5,000" in n for n in drawing.notes)
    assert len(drawing.paths) <= 5_000


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.05, 0.95), min_size=0, max_size=5), st.floats(0, 0.004), st.floats(-180, 180), st.booleans())
def test_a_square_survives_splitting_gaps_turning_and_doubling(cuts, gap, degrees, doubled):
    t = np.radians(degrees)
    R = np.array([[np.cos(t), -np.sin(t)], [np.sin(t), np.cos(t)]])
    corners = np.array([[0, 0], [5, 0], [5, 3], [0, 3]]) @ R.T
    paths = []
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        marks = [0.0, *sorted(c for c in {round(c, 2) for c in cuts}), 1.0]
        for s, e in zip(marks[:-1], marks[1:], strict=True):
            shy = gap / np.hypot(*(b - a))
            piece = Path("L", [list(a + (b - a) * s), list(a + (b - a) * (e - shy))], False)
            paths += [piece, piece] if doubled else [piece]
    faces = faces_of(paths)
    assert len(faces.faces) == 1
    assert faces.faces[0].area == pytest.approx(15, rel=5e-3)
    assert (faces.doubles > 0) == doubled


def test_what_takes_a_drawing_apart_reads_nothing_of_the_computation():
    asked = "import sys, piastra.exchange.dxf.parsing; sys.exit(any(m.startswith('piastra.core') for m in sys.modules))"
    assert subprocess.run([sys.executable, "-c", asked], check=False).returncode == 0
