"""Where shear has no bound, and that the mesh follows it there."""

import numpy as np
import pytest
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Polygon, box

from piastra.core.fe import patches
from piastra.core.mesh import plan, singular
from piastra.core.mesh.plan import make_linework
from piastra.core.mesh.singular import corner_points, exit_points, leap_points, singular_points, tip_points
from piastra.core.model import floor_from
from piastra.core.shear.shear import _most
from tests.floors import flat_slab
from tests.random_floors import random_floor
from tests.solving import solve_floor

FLOOR = box(0, 0, 12, 9)
INNER, OUTER = [(4, 3), (4, 6)], [(0, 0), (12, 0), (12, 9), (0, 9), (0, 0)]
CASES = {
    # Both ends of a line within the floor: 360 degrees of concrete between its two sides.
    "a line within the floor": (FLOOR, [INNER], [(4, 3), (4, 6)]),
    # Held on both sides, 90 degrees: pi / alpha = 2.
    "a floor held all round": (FLOOR, [OUTER], []),
    # The line and what is left of the edge, 180 degrees: pi / (2 alpha) = 1 / 2. At the corner 90 degrees to the free edge.
    "a part of an edge": (FLOOR, [[(3, 0), (12, 0)]], [(3, 0), (12, 0)]),
    # 90 degrees to each side: pi / (2 alpha) = 1.
    "a line from edge to edge": (FLOOR, [[(4, 0), (4, 9)]], [(4, 0), (4, 9)]),
    # A strip of 3 m by 12 m bends as a beam does.
    "a line across a strip": (box(0, 0, 12, 3), [[(4, 0), (4, 3)]], []),
    # 45 degrees: the slab ends in a tip that the line holds.
    "a line along the edge to a sharp corner": (Polygon([(0, 0), (9, 0), (9, 9)]), [[(0, 0), (9, 9)]], []),
    # No element has room between the line's ends and the edges: the lower end is at both, the upper one at one.
    "a line near a corner": (FLOOR, [[(0.12, 0.15), (0.12, 5)]], [(0.12, 0.15), (0.12, 5)]),
    # 45 and 135 degrees: 2 and 2 / 3 at both ends.
    "a line that leaves an edge askew": (FLOOR, [[(1, 0), (10, 9)]], [(1, 0), (10, 9)]),
    # The long side of a corner has 270 degrees: 2 / 3; there is concrete on both sides.
    "a corner": (FLOOR, [[(4, 0), (4, 5), (12, 5)]], [(4, 0), (4, 5), (12, 5)]),
    "one line that goes on in another": (FLOOR, [[(4, 0), (4, 5)], [(4, 5), (4, 9)]], [(4, 0), (4, 9)]),
    "one line that ends at another": (FLOOR, [[(4, 0), (4, 9)], [(4, 5), (12, 5)]], [(4, 0), (4, 9), (12, 5)]),
    # A shaft's walls are bends of 270 degrees on the side of the floor, and nothing on the other.
    "walls of a shaft": (
        FLOOR.difference(box(4, 3, 7, 6)),
        [[(4, 3), (7, 3), (7, 6), (4, 6), (4, 3)]],
        [(4, 3), (4, 6), (7, 3), (7, 6)],
    ),
    # 0.1 m of concrete behind the corner are no floor.
    "walls along the edges": (FLOOR, [[(0.1, 0.1), (0.1, 8.9), (11.9, 8.9), (11.9, 0.1), (0.1, 0.1)]], []),
    # 20 chords of a half circle turn by 9 degrees each: 180 / 189 = 0.95.
    "an arc": (box(-9, 0, 9, 9), [[(5 * np.cos(a), 5 * np.sin(a)) for a in np.linspace(0, np.pi, 21)]], [(-5, 0), (5, 0)]),
    "a line that ends in a column": (FLOOR, [[(4, 3), (4, 6), (4, 9)]], [(4, 3), (4, 9)], [box(3.8, 2.8, 4.2, 3.2)]),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", CASES)
def test_ends_and_bends_are_told_by_the_angle_of_concrete_at_them(name, degrees):
    region, lines, expected, *columns = CASES[name]
    prints = columns[0] if columns else []

    def turned(shape):
        return rotate(shape, degrees, origin=(0, 0))

    found = singular_points([turned(LineString(l)) for l in lines], turned(region), [turned(p) for p in prints], 0.014, 0.35)
    expected = [p for p in expected if not any(c.intersects(shapely.Point(p)) for c in prints)]
    at = shapely.get_coordinates(turned(shapely.MultiPoint(expected))) if expected else np.zeros((0, 2))
    assert np.allclose(sorted(map(tuple, found)), sorted(map(tuple, at)), atol=1e-9)


def test_a_shorter_line_within_the_tolerance_of_an_edge_ends_at_it():
    short = [LineString([(4, 0.01), (8, 6), (8, 9)])]
    assert singular_points(short, FLOOR, [], 0.014, 0.35) == singular_points(short, FLOOR, [], 0.001, 0.35)
    assert singular_points([], FLOOR, [], 0.014, 0.35) == []
    assert singular_points([LineString([(20, 1), (20, 9)])], FLOOR, [Polygon()], 0.014, 0.35) == []


def held_within(size, vertical="fixed"):
    data = flat_slab(1, 1, size=size)
    data["columns"] = []
    data["slabs"][0]["outline"] = [[0, 0], [7, 0], [7, 6], [0, 6]]
    lines = {"W": [[0, 0], [0, 6]], "E": [[7, 0], [7, 6]], "L": [[4, 2.5], [4, 4.5]]}
    data["supports"] = [
        {"id": k, "kind": "line", "line": v, "vertical": vertical if k == "L" else "fixed", "rotation": "free"}
        for k, v in lines.items()
    ]
    return floor_from(data)


EXITS = {
    "a line that ends in a column": ([(4, 3), (4, 8)], [(4, 3.2)]),
    "a line that begins at a column's face": ([(4, 3.2), (4, 8)], [(4, 3.2)]),
    "a line through a column": ([(1, 3), (8, 3)], [(3.8, 3), (4.2, 3)]),
    "a line within a column": ([(3.9, 3), (4.1, 3)], []),
    "a line beside a column": ([(4.3, 1), (4.3, 8)], []),
    "a line along a column's face": ([(4.2, 1), (4.2, 8)], [(4.2, 2.8), (4.2, 3.2)]),
    # What comes out of the column there is no longer within the floor.
    "a line that leaves the floor": ([(4, 3), (4, -2)], [(4, 2.8)]),
    "a line outside of a column at the edge": ([(12, 6), (14, 6)], []),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", EXITS)
def test_lines_are_told_where_they_come_out_of_columns(name, degrees):
    line, expected = EXITS[name]
    columns = [rotate(p, degrees, origin=(0, 0)) for p in (box(3.8, 2.8, 4.2, 3.2), box(11.8, 5.8, 12, 6.2))]
    held, region = rotate(LineString(line), degrees, origin=(0, 0)), rotate(FLOOR, degrees, origin=(0, 0))
    found = exit_points([held], region, [*columns, Polygon()], 0.014)
    at = shapely.get_coordinates(rotate(shapely.MultiPoint(expected), degrees, origin=(0, 0))) if expected else np.zeros((0, 2))
    # They lie as far outside as what is at the column.
    assert np.allclose(sorted(map(tuple, found)), sorted(map(tuple, at)), atol=0.03)
    assert len(exit_points([held, held], region, columns, 0.014)) == len(expected)


def test_shear_beside_a_wall_that_comes_out_of_a_column_follows_at_the_usual_size(monkeypatch):
    """A wall along an edge, from the column at the corner to the next one."""
    data = flat_slab(1, 1)
    data["slabs"][0]["outline"] = [[0, 0], [6.2, 0], [6.2, 6.2], [0, 6.2]]
    data["walls"] = [
        {
            "id": "W",
            "line": [[0, 0], [0, 6]],
            "thickness_m": 0.2,
            "concrete": "C30",
            "below": {"height_m": 3.2, "far_end": "fixed"},
        }
    ]

    def shear(size):
        return {u.of[1]: u for u in solve_floor(floor_from({**data, "mesh": {"size_m": size}})).shear}["W"].v

    there = shear(0.12)
    assert shear(0.5) == pytest.approx(there, rel=0.05)
    monkeypatch.setattr(plan, "exit_points", lambda *given: [])
    assert shear(0.501) < 0.9 * there


@pytest.mark.study
def test_shear_beside_the_ends_of_a_line_follows_at_the_usual_size(monkeypatch):
    def at_end(size):
        use = {u.of[1]: u for u in solve_floor(held_within(size)).shear}["L"]
        # It is the ends that govern.
        assert min(abs(use.at[1] - y) for y in (2.5, 4.5)) < 0.3
        return use.v

    there = at_end(0.15)
    assert at_end(0.6) == pytest.approx(there, rel=0.10)
    # However large the elements are that are asked for elsewhere.
    assert at_end(2.0) == pytest.approx(there, rel=0.10)
    # With elements of one size, 0.42 m, half of it would not be seen.
    monkeypatch.setattr(plan, "singular_points", lambda *given: [])
    assert at_end(0.601) < 0.5 * there


def test_lines_that_only_hold_rotations_are_no_reason_for_a_finer_mesh():
    for vertical, count in (("fixed", 6), (5e4, 6), ("free", 4), (0.0, 4)):
        assert len(make_linework(held_within(0.6, vertical)).finer) == count


LEAPS = {
    # Within reach of the line are the two near corners of the panel, not the far ones.
    "a panel beside a line": (box(4.2, 3, 7, 6), [(4.2, 3), (4.2, 6)]),
    "a panel over a line": (box(3, 3, 7, 6), [(4, 3), (4, 6)]),
    # What the outline does at the edge of the floor is no corner of thickness.
    "a band from the edge": (box(3.8, -1, 4.2, 4), [(3.8, 4), (4.2, 4), (4, 4)]),
    "a panel far away": (box(5, 3, 7, 6), []),
    "a corner within a column": (box(4.2, 1, 7, 2), [(4.2, 1)]),
    "a round head": (shapely.Point(5, 5).buffer(0.9, quad_segs=16), []),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", LEAPS)
def test_leaps_of_thickness_are_told_beside_what_holds_the_floor(name, degrees):
    thick, expected = LEAPS[name]

    def turned(shape):
        return rotate(shape, degrees, origin=(0, 0))

    line, column = LineString([(4, 0), (4, 9)]), box(4.1, 1.9, 4.4, 2.2)
    found = leap_points([turned(line)], [turned(thick)], turned(FLOOR), [turned(column)], 0.014, 0.5)
    at = shapely.get_coordinates(turned(shapely.MultiPoint(expected))) if expected else np.zeros((0, 2))
    assert np.allclose(sorted(map(tuple, np.round(found, 9))), sorted(map(tuple, np.round(at, 9))), atol=1e-9)
    assert leap_points([], [thick], FLOOR, [], 0.014, 0.5) == []


HOLE = box(5, 3, 7, 5)
CORNERS = {
    # The line is at 0.4 m from two of the opening's corners, and 2.4 m from the others.
    "an opening beside a line": (FLOOR.difference(HOLE), box(4.59, 0, 4.61, 9), [(5, 3), (5, 5)]),
    "an opening far away": (FLOOR.difference(HOLE), box(3.59, 0, 3.61, 9), []),
    # Walls stand on the opening's edge, and the floor does not go round its corner.
    "an opening within walls": (FLOOR.difference(HOLE), box(4.8, 2, 5.01, 9), []),
    "corners of the floor": (FLOOR, box(0.3, 0, 0.4, 9), []),
    "a corner inwards": (Polygon([(0, 0), (6, 0), (6, 4), (12, 4), (12, 9), (0, 9)]), box(5.5, 0, 5.6, 9), [(6, 4)]),
    # 32 sides of a circle turn by 11 degrees each: 180 / 191 = 0.94.
    "a round opening": (FLOOR.difference(shapely.Point(6, 4).buffer(1, quad_segs=8)), box(4.5, 0, 4.6, 9), []),
    "a corner within a column": (FLOOR.difference(HOLE), box(4.59, 0, 4.61, 4), [(5, 3)], box(4.9, 4.9, 5.2, 5.2)),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", CORNERS)
def test_corners_of_openings_are_told_beside_what_shear_is_looked_at(name, degrees):
    region, held, expected, *columns = CORNERS[name]

    def turned(shape):
        return rotate(shape, degrees, origin=(0, 0))

    found = corner_points([turned(held)], turned(region), [turned(c) for c in columns], 0.014, 0.5)
    at = shapely.get_coordinates(turned(shapely.MultiPoint(expected))) if expected else np.zeros((0, 2))
    assert np.allclose(sorted(map(tuple, np.round(found, 9))), sorted(map(tuple, np.round(at, 9))), atol=1e-8)
    assert corner_points([], region, [], 0.014, 0.5) == []


def over_a_line(size, **more):
    """Two spans of one slab over lines of support from edge to edge."""
    data = flat_slab(1, 1, size=size)
    data["columns"] = []
    data["slabs"][0].update(outline=[[0, 0], [10, 0], [10, 6], [0, 6]], thickness_m=0.22)
    data["supports"] = [
        {"id": k, "kind": "line", "line": v, "vertical": "fixed", "rotation": "free"}
        for k, v in {"W": [[0, 0], [0, 6]], "E": [[10, 0], [10, 6]], "L": [[4.9, 0], [4.9, 6]]}.items()
    ]
    return floor_from({**data, **more})


def used(floor, *names):
    use = {u.of[1]: u.utilisation for u in solve_floor(floor).shear}
    return np.array([use[name] for name in names])


@pytest.mark.study
def test_shear_beside_an_opening_follows_at_the_usual_size(monkeypatch):
    """A riser 0.3 m from a line of support along which shear is looked at 0.18 m away."""
    riser = {"id": "R", "outline": [[5.2, 2.4], [6.4, 2.4], [6.4, 3.6], [5.2, 3.6]]}
    (there,) = used(over_a_line(0.15, openings=[riser]), "L")
    assert 0.98 * there < used(over_a_line(0.6, openings=[riser]), "L") < 1.2 * there
    # With elements of one size some of it is lost.
    monkeypatch.setattr(plan, "corner_points", lambda *given: [])
    assert used(over_a_line(0.601, openings=[riser]), "L") < 0.92 * there
    # Nor does a patch reach round the ends of the strip between the two, an element wide, for its slope across it.
    assert used(over_a_line(0.301, openings=[riser]), "L") < 1.05 * there
    monkeypatch.setattr(patches, "STEEP", np.inf)
    assert used(over_a_line(0.302, openings=[riser]), "L") > 2 * there


def test_shear_at_the_ends_of_lines_from_edge_to_edge_follows_at_the_usual_size(monkeypatch):
    """What twists the slab goes into the ends of its lines along the free edges: more than the strip of a metre's q (5 / 8 L - d)."""
    there = used(over_a_line(0.15), "W", "E", "L")
    assert used(over_a_line(0.6), "W", "E", "L") == pytest.approx(there, rel=0.03)
    monkeypatch.setattr(singular, "LAYER", singular.BOUNDED)
    assert np.abs(used(over_a_line(0.601), "W", "E", "L") / there - 1).max() > 0.1


ASLANT = Polygon([(0, 0), (12, 0), (12, 9), (0, 5)])
TIPS = {
    # The upper edge rises by 18.4 degrees: the thick part ends in 18.4 where the band's lower side meets it, and in 161.6 at its upper side.
    "a band cut by an edge askew": (ASLANT, box(-1, 6, 13, 7), [(3, 6)]),
    # 90 degrees, and 71.6 at the upper edge: 0.83.
    "a band across": (ASLANT, box(4, -1, 6, 12), [(6, 7)]),
    "a band across a floor of right angles": (FLOOR, box(4, -1, 6, 12), []),
    "a band along an edge": (FLOOR, box(-1, 8, 13, 10), []),
    "a band within the floor": (FLOOR, box(2, 3, 9, 4), []),
    "a tip within a column": (ASLANT, box(-1, 4, 13, 5.0333333333), []),
}


@pytest.mark.parametrize("degrees", [0.0, 33.0])
@pytest.mark.parametrize("name", TIPS)
def test_tips_of_thick_regions_at_free_edges_are_told(name, degrees):
    region, thick, expected = TIPS[name]

    def turned(shape):
        return rotate(shape, degrees, origin=(0, 0))

    column = box(-0.2, 4.8, 0.2, 5.2)
    found = tip_points([turned(thick)], turned(region), [turned(column)], 0.014, 0.5)
    at = shapely.get_coordinates(turned(shapely.MultiPoint(expected))) if expected else np.zeros((0, 2))
    assert np.allclose(sorted(map(tuple, np.round(found, 9))), sorted(map(tuple, np.round(at, 9))), atol=1e-8)
    assert tip_points([], region, [], 0.014, 0.5) == []


@pytest.mark.study
def test_shear_beside_the_tip_of_a_band_follows_at_the_usual_size(monkeypatch):
    """A band that an edge of the slab cuts off at 18 degrees: there is no less with the usual elements, and at the most a seventh more."""

    def found(size):
        data = flat_slab(1, 1, size=size)
        data["columns"] = []
        data["slabs"][0].update(outline=[[0, 0], [12, 0], [12, 8], [0, 4]], thickness_m=0.22)
        data["supports"] = [
            {"id": k, "kind": "line", "line": v, "vertical": "fixed", "rotation": "free"}
            for k, v in {"S": [[0, 0], [12, 0]], "E": [[12, 0], [12, 8]]}.items()
        ]
        data["thickenings"] = [{"id": "T", "kind": "band", "outline": [[0, 5], [12, 5], [12, 6], [0, 6]], "thickness_m": 0.5}]
        return next(u.utilisation for u in solve_floor(floor_from(data)).shear if u.of[1] == "T")

    there = found(0.15)
    assert 0.95 * there < found(0.6) < 1.15 * there
    # Without the places two fifths of it are lost.
    monkeypatch.setattr(plan, "tip_points", lambda *given: [])
    assert found(0.601) < 0.65 * there


def beside_a_band(size, x):
    """A band besides, that begins at ``x`` (m), at the middle line (4.9 m) or beside it."""
    outline = [[x, 2.0], [10, 2.0], [10, 3.6], [x, 3.6]]
    return over_a_line(size, thickenings=[{"id": "T", "kind": "band", "outline": outline, "thickness_m": 0.45}])


@pytest.mark.parametrize("x", [4.9, 5.25])
@pytest.mark.study
def test_shear_beside_leaps_of_thickness_follows_at_the_usual_size(x, monkeypatch):
    def found(size):
        use = {u.of[1]: u.utilisation for u in solve_floor(beside_a_band(size, x)).shear}
        return np.array([use["L"], use["T"]])

    there = found(0.15)
    assert found(0.6) == pytest.approx(there, rel=0.05)
    # With elements of one size, 0.42 m, one of the two would be off by a tenth or more.
    monkeypatch.setattr(plan, "leap_points", lambda *given: [])
    assert np.abs(found(0.601) / there - 1).max() > 0.1


def test_a_piece_that_only_finer_elements_tell_of_is_no_pass(monkeypatch):
    """Without finer elements at the band's corners the line's piece passes on average, but not with the shear at its elements' corners: that is
    told, and the finer mesh that it asks for tells that the piece passes."""
    there = {u.of[1]: u.utilisation for u in solve_floor(beside_a_band(0.15, 5.12)).shear}["L"]
    monkeypatch.setattr(plan, "leap_points", lambda *given: [])
    monkeypatch.setattr(singular, "LAYER", singular.BOUNDED)
    floor = beside_a_band(0.402, 5.12)
    outcome = solve_floor(floor)
    use = {u.of[1]: u for u in outcome.shear}["L"]
    piece, *others = use.unresolved
    assert all(p.most / p.resistance <= piece.most / piece.resistance for p in others)
    assert use.utilisation < 1
    assert piece.v < piece.resistance < piece.most
    verdict = next(r for r in outcome.verdict if r.check == "shear")
    assert verdict.status == "uncovered"
    row, *others_told = (r for r in outcome.rows if r.id.part.startswith("mesh ") and r.id.of.id == "L")
    assert len(others_told) == len(others)
    assert (row.id.of.kind, row.id.of.id, row.at) == ("supports", "L", piece.at)
    assert "a finer mesh there" in row.reason
    finer = []
    # The band has two corners, and a mesh may tell of one after the other.
    for _ in range(2):
        finer += [{"at": list(p.at), "size_m": 0.025, "radius_m": 0.4} for u in outcome.shear for p in u.unresolved]
        mesh = type(floor.mesh).model_validate({**floor.mesh.model_dump(), "refinements": finer})
        outcome = solve_floor(floor.model_copy(update={"mesh": mesh}))
    told = next(u for u in outcome.shear if u.of[1] == "L")
    assert told.unresolved == ()
    assert 0.95 * there < told.utilisation < 1.2 * there


def test_what_may_be_within_large_elements_counts_for_the_whole_piece():
    """Points in elements as short as the piece have their own; where an element is as long as the piece, the most may be anywhere on it."""
    greatest, piece = np.array([10.0, 20.0, 30.0, 40.0] * 3), np.repeat(np.arange(3), 4)
    wide = np.array([[False] * 4, [False, False, True, False], [True] * 4]).ravel()
    assert _most(greatest, wide, piece, 3) == pytest.approx([25.0, (30 + 30 + 30 + 40) / 4, 40.0])


def test_elements_far_larger_than_the_slab_is_deep_are_no_pass(monkeypatch):
    """Elements of 1 m in 220 mm: the line's pieces have half of what they carry, and nothing tells that it is not more. The usual ones are no reason."""
    # As it is in the middle of lines, away from the finer elements at their ends.
    monkeypatch.setattr(singular, "LAYER", singular.BOUNDED)
    coarse = solve_floor(beside_a_band(1.4, 6.5))
    use = {u.of[1]: u for u in coarse.shear}["L"]
    assert use.utilisation < 0.7
    assert use.unresolved
    assert all(p.large and p.most > p.resistance > p.v for p in use.unresolved)
    assert next(r for r in coarse.verdict if r.check == "shear").status == "uncovered"
    told = next(r for r in coarse.rows if r.id.part == "mesh 1")
    assert "too large for the slab's depth" in told.reason
    usual = solve_floor(beside_a_band(0.602, 6.5))
    assert next(r for r in usual.verdict if r.check == "shear").status == "pass"
    # As large as in a mesh that is not coarse, where the finer mesh is asked for.
    spots = [{"at": list(p.at), "size_m": usual.plan.linework.usual, "radius_m": 1.0} for p in use.unresolved]
    finer = beside_a_band(1.4, 6.5)
    finer = finer.model_copy(update={"mesh": type(finer.mesh).model_validate({"size_m": 1.4, "refinements": spots})})
    assert next(r for r in solve_floor(finer).verdict if r.check == "shear").status == "pass"


def test_shear_that_is_the_elements_own_is_no_pass_where_what_they_miss_is_beyond_the_resistance():
    """Slopes of moments cannot be told beside narrow concrete: elements' own shear is up to 40 % low, and passes by less than that."""
    mats = [
        {"id": f"{face} {direction}", "face": face, "direction": direction, "bar_mm": 10, "spacing_mm": 300}
        for face in ("top", "bottom") for direction in "xy"
    ]  # fmt: skip
    floor = floor_from({**random_floor(19005), "mats": mats})
    outcome = solve_floor(floor)
    told = [p for u in outcome.shear for p in u.unresolved]
    assert told
    assert all(p.narrow and p.v < p.resistance < p.most < 1.7 * p.resistance for p in told)
    row = next(r for r in outcome.rows if r.id.check == "shear" and r.id.part == "mesh 1")
    assert row.status == "uncovered"
    assert "one or two of them wide" in row.reason
    finer = [{"at": list(p.at), "size_m": outcome.plan.linework.usual / 2, "radius_m": 0.5} for p in told]
    mesh = type(floor.mesh).model_validate({**floor.mesh.model_dump(), "refinements": finer})
    again = solve_floor(floor.model_copy(update={"mesh": mesh}))
    assert not any(u.unresolved for u in again.shear)
