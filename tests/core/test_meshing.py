"""Floors that must mesh: regular grids at any angle; and the last rung of the ladder, triangles that are paired."""

import subprocess
import sys

import gmsh
import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.spatial import Delaunay

from piastra.core.geometry.partition import GRID, partition
from piastra.core.mesh import edges, faces, mesher
from piastra.core.mesh.locate import elements_of, find, onto, weights
from piastra.core.mesh.mesher import make_mesh
from piastra.core.mesh.pairing import FLAT, paired, without_slivers
from piastra.core.mesh.plan import make_linework
from piastra.core.mesh.quality import GREATEST_QUAD_ANGLE, OPENED, angles, open_flat_quads
from piastra.core.mesh.sizes import sizes_of
from piastra.core.model import RefusedError, floor_from
from piastra.core.pipeline import solve_floor
from piastra.demo.saltmarsh import roof
from tests.floors import flat_slab, turned
from tests.random_floors import out_of_balance, random_floor


def area(mesh):
    return sum(float(shapely.area(shapely.polygons(mesh.xy[e])).sum()) for e in (mesh.quads, mesh.tris) if len(e))


@pytest.mark.parametrize("degrees", [15, 25, 45, *(pytest.param(d, marks=pytest.mark.study) for d in (5, 10, 20, 30, 37))])
@pytest.mark.parametrize("size", [pytest.param(0.5, marks=pytest.mark.study), 0.75])
def test_a_plain_grid_at_any_angle_is_meshed(degrees, size):
    linework = make_linework(floor_from(turned(flat_slab(3, 3, size=size), float(degrees))))
    mesh = make_mesh(linework)
    assert area(mesh) == pytest.approx(linework.region.area, rel=1e-4)
    assert all((angles(mesh.xy, e) > 0.5).all() and (angles(mesh.xy, e) < 179.5).all() for e in (mesh.quads, mesh.tris))
    assert mesh.quality.least_angle_deg > FLAT
    # Recombined throughout: faces whose triangles are paired afterwards keep five times as many.
    assert len(mesh.tris) < 0.04 * mesh.elements


@settings(max_examples=3, deadline=None)
@given(st.floats(0, 90), st.floats(0, 10), st.floats(0.5, 1.0))
# A corner cut off by 3 mm once poor segments had been merged; and one poor face left all others as triangles.
@example(89.13816591866102, 7.0, 1.0)
def test_grids_at_random_angles_leave_no_wedge(degrees, shift, size):
    document = turned(flat_slab(2, 2, size=size), degrees)
    document["slabs"][0]["outline"] = [[x + shift, y] for x, y in document["slabs"][0]["outline"]]
    for c in document["columns"]:
        c["at"] = [c["at"][0] + shift, c["at"][1]]
    mesh = make_mesh(make_linework(floor_from(document)))
    assert mesh.quality.least_angle_deg > FLAT
    assert len(mesh.tris) < 0.1 * mesh.elements


def test_edges_that_are_one_but_for_rounding_become_one():
    square = shapely.box(0, 0, 10, 10)
    # A line whose end lies two cells off the lower edge, and one that runs along it a cell aside.
    lines = [shapely.LineString([(4, 2 * GRID), (4, 10)]), shapely.LineString([(2, GRID), (7, 2 * GRID), (7, 10)])]
    found = partition(lines, square)
    assert len(found.polygons) == 3
    assert sorted(round(p.area, 2) for p in found.polygons) == [30.0, 30.0, 40.0]
    lengths = np.hypot(*(found.points[found.edges[:, 1]] - found.points[found.edges[:, 0]]).T)
    assert lengths.min() > 1.0


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.integers(8, 60))
def test_paired_triangles_cover_what_they_covered_and_do_not_fold(seed, count):
    random = np.random.default_rng(seed)
    xy = np.concatenate([random.uniform(0, 10, (count, 2)), [[0, 0], [10, 0], [10, 10], [0, 10]]])
    tris = Delaunay(xy).simplices.astype(np.int64)
    d1, d2 = xy[tris[:, 1]] - xy[tris[:, 0]], xy[tris[:, 2]] - xy[tris[:, 0]]
    turn = d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]
    tris = np.where(turn[:, None] > 0, tris, tris[:, ::-1])
    whole = np.abs(turn).sum() / 2
    better = without_slivers(xy, tris)
    assert angles(xy, better).min() >= angles(xy, tris).min()
    quads, rest = paired(xy, better)
    pieces = [*shapely.polygons(xy[quads]), *shapely.polygons(xy[rest])]
    assert sum(p.area for p in pieces) == pytest.approx(whole)
    assert shapely.unary_union(pieces).area == pytest.approx(whole)
    assert 2 * len(quads) + len(rest) == len(tris)
    if len(quads):
        assert angles(xy, quads).max() < 145.0


def test_a_sliver_on_a_straight_edge_is_flipped_away():
    xy = np.array([[0.0, 0.0], [1.0, -1e-6], [2.0, 0.0], [1.0, 2.0]])
    found = without_slivers(xy, np.array([[0, 1, 2], [0, 2, 3]]))
    assert {frozenset(t) for t in found.tolist()} == {frozenset((0, 1, 3)), frozenset((1, 2, 3))}
    assert (angles(xy, found) < 91).all()


def test_where_the_mesher_gives_up_the_next_algorithm_is_tried_and_in_the_end_the_place_is_told(monkeypatch):
    """A face that one algorithm ends with an error is no reason to refuse the floor; other errors are not taken for that."""
    linework = make_linework(floor_from(flat_slab(1, 1, size=0.8)))
    plain, tried = gmsh.model.mesh.generate, []

    def gives_up(kind, only):
        def generate(dimension):
            tried.extend([dimension] if dimension == 2 else [])
            if dimension == 2 and (not only or len(tried) in only):
                raise kind("edges cross")
            plain(dimension)

        return generate

    monkeypatch.setattr(gmsh.model.mesh, "generate", gives_up(Exception, (1, 2)))
    mesh = make_mesh(linework)
    assert len(tried) >= 3
    assert area(mesh) == pytest.approx(linework.region.area, rel=1e-6)
    monkeypatch.setattr(gmsh.model.mesh, "generate", gives_up(Exception, ()))
    with pytest.raises(RefusedError, match=r"cannot be meshed near \(.*\); remove the sliver there"):
        make_mesh(linework)
    monkeypatch.setattr(gmsh.model.mesh, "generate", gives_up(ArithmeticError, ()))
    with pytest.raises(RefusedError, match="edges cross"):
        make_mesh(linework)
    monkeypatch.setattr(gmsh.model.mesh, "generate", gives_up(MemoryError, ()))
    with pytest.raises(RefusedError, match=r"mesh\.size_m: makes more elements than there is memory for; use larger"):
        solve_floor(floor_from(flat_slab(1, 1, size=0.8)))


def test_the_last_rung_meshes_what_recombination_folds(monkeypatch):
    """With every recombined face taken for folded, the floor is meshed all the same, conforming and whole."""
    linework = make_linework(floor_from(flat_slab(2, 1, size=0.8)))
    plain = faces._folded
    monkeypatch.setattr(faces, "_folded", lambda blocks, xy: any(b.shape[1] == 4 for b in blocks) or plain(blocks, xy))
    mesh = make_mesh(linework)
    assert area(mesh) == pytest.approx(linework.region.area, rel=1e-6)
    assert len(mesh.quads) > len(mesh.tris)
    inner = np.concatenate(
        [np.sort(np.column_stack([e.ravel(), np.roll(e, -1, axis=1).ravel()]), axis=1) for e in (mesh.quads, mesh.tris)]
    )
    assert np.unique(inner, axis=0, return_counts=True)[1].max() == 2
    monkeypatch.setattr(faces, "_folded", lambda blocks, xy: True)
    with pytest.raises(RefusedError, match=r"cannot be meshed near \(.*\); remove the sliver there"):
        make_mesh(linework)


@pytest.mark.parametrize("number", [18, *(pytest.param(k, marks=pytest.mark.study) for k in (8, 12, 29, 45, 49, 137))])
def test_floors_that_could_be_built_are_meshed_and_balance(number):
    # Floors that were once refused, folded or left with wedges; the whole range: python -m tests.random_floors
    floor = random_floor(number)
    assert out_of_balance(floor) < 1e-9
    mesh = make_mesh(make_linework(floor_from(floor)))
    assert mesh.quality.least_angle_deg > FLAT


KITE = np.array([[0.0, 0.0], [3.0, -1.0], [6.0, 0.0], [3.0, 1.0]])
"""Cut along the short diagonal its least angle is 2 atan(1/3) = 36.9 degrees, along the long one half of that."""
SHORT, LONG = [[0, 1, 3], [1, 2, 3]], [[0, 1, 2], [0, 2, 3]]


@pytest.mark.parametrize(
    ("made", "kept", "tried"),
    [
        ([SHORT, LONG, LONG], SHORT, 1),
        ([LONG, SHORT, LONG], SHORT, 2),
        ([LONG, LONG, SHORT], SHORT, 3),
        ([LONG, LONG, LONG], LONG, 3),
    ],
)
def test_an_algorithm_that_makes_a_poor_angle_gives_way_to_the_next_and_the_best_mesh_is_kept(monkeypatch, made, kept, tried):
    asked = []

    def generated(surface, algorithm, border):
        asked.append(algorithm)
        return [np.array(made[len(asked) - 1])], KITE, np.arange(4)

    monkeypatch.setattr(faces, "_generated", generated)
    mesh = faces._best(1, KITE, np.arange(4))
    assert np.array_equal(mesh.tris, kept)
    assert asked == list(faces.ALGORITHMS[:tried])


# On a straight edge lie 0, 1, 2; node 3 within has the others around it.
THREE_AROUND = (
    [[0, 0], [1, 0], [2, 0], [1, 1], [3, 1], [2, 2], [1, 3], [0, 2], [-1, 1]],
    [[2, 4, 5, 3], [5, 6, 7, 3], [7, 8, 0, 3]],
)
FOUR_AROUND = (
    [[0, 0], [1, 0], [2, 0], [1, 1], [3, 0.5], [2.5, 1.5], [2.2, 2.7], [1, 2.5], [-0.2, 2.7], [-0.5, 1.5], [-1, 0.5]],
    [[2, 4, 5, 3], [5, 6, 7, 3], [7, 8, 9, 3], [9, 10, 0, 3]],
)


@pytest.mark.parametrize(("xy", "around"), [THREE_AROUND, FOUR_AROUND], ids=["three", "four"])
@pytest.mark.parametrize("flat", [([[0, 1, 2, 3]], []), ([], [[0, 1, 3], [1, 2, 3]])], ids=["one", "cut"])
def test_an_element_with_three_corners_on_a_free_edge_becomes_two(xy, around, flat):
    xy = np.array(xy, dtype=np.float64)
    quads, tris = np.array([*around, *flat[0]]), np.array(flat[1], dtype=np.int64).reshape(-1, 3)
    moved, found, rest = open_flat_quads(xy, quads, tris, np.arange(len(xy)) == 3, np.array([0, 1, 2]))
    assert len(rest) == 0
    assert len(found) == len(around) + 2
    # Where something holds it, it stays one.
    assert len(open_flat_quads(xy, quads, tris, np.arange(len(xy)) == 3, np.array([0, 2]))[0]) == len(xy)
    assert len(moved) == len(xy) + 1
    assert np.array_equal(np.delete(moved, [3, len(xy)], axis=0), np.delete(xy, 3, axis=0))
    assert angles(moved, found).min() > OPENED
    assert angles(moved, found).max() < GREATEST_QUAD_ANGLE
    outline = shapely.unary_union(shapely.polygons(xy[np.concatenate([around, [[0, 1, 2, 3]]])]))
    pieces = shapely.polygons(moved[found])
    assert shapely.unary_union(pieces).area == pytest.approx(outline.area)
    assert shapely.area(pieces).sum() == pytest.approx(outline.area)


def test_an_edge_is_free_where_the_floor_or_an_opening_ends_and_nothing_holds_it():
    data = flat_slab(1, 1, size=1.0)
    data["columns"] = []
    data["supports"] = [
        {"id": "S", "kind": "line", "line": [[-0.2, -0.2], [6.2, -0.2]], "vertical": "fixed", "rotation": "free"},
        {"id": "M", "kind": "line", "line": [[1.0, 4.0], [5.0, 4.0]], "vertical": "fixed", "rotation": "free"},
    ]
    hole = [[2, 1], [4, 1], [4, 2], [2, 2]]
    data["openings"] = [{"id": "O", "outline": hole}]
    # A change of thickness is no end of the floor.
    data["thickenings"] = [{"id": "T", "kind": "band", "outline": [[-1, 2.8], [7, 2.8], [7, 3.4], [-1, 3.4]], "thickness_m": 0.4}]
    linework = make_linework(floor_from(data))
    with mesher._mesher():
        border = edges.divided(linework, sizes_of(linework), {})[0]
    x, y = border.xy.T
    low, high = border.xy.min(axis=0), border.xy.max(axis=0)
    on_edge = np.isclose(x, low[0]) | np.isclose(x, high[0]) | np.isclose(y, high[1])
    on_hole = np.isclose(shapely.distance(shapely.points(border.xy), shapely.Polygon(hole).exterior), 0.0, atol=1e-9)
    expected = (on_edge | on_hole) & ~np.isclose(y, low[1])
    # Where a change of thickness meets the edge, elements part: no three corners lie there.
    ends = np.isclose(y, 2.8) | np.isclose(y, 3.4)
    assert on_hole.sum() > 8
    assert border.free[expected & ~ends].all()
    assert not border.free[~expected].any()


@pytest.mark.study
def test_a_face_that_is_alike_on_two_sides_is_meshed_alike_in_every_run(monkeypatch):
    """Around a column the floor's mesh has triangles of one size, which Gmsh takes in the order of their memory."""
    given = []
    plain = mesher.mesh_face
    monkeypatch.setattr(mesher, "mesh_face", lambda *face: given.append(face) or plain(*face))
    make_mesh(make_linework(roof()))
    around_columns = [face for face in given if len(face[3].rings[face[4]]) == 2 and len(face[3].around[face[4]]) < 60]
    assert around_columns
    with mesher._mesher():
        for face in around_columns:
            # What else the process does in between lies elsewhere in memory.
            kept = [(plain(*face), np.zeros(1000 * k)) for k in range(16)]
            assert len({(m.inside.tobytes(), m.quads.tobytes(), m.tris.tobytes()) for m, _ in kept}) == 1


@pytest.mark.parametrize("gap", [0.02, 0.05, 0.08])
def test_a_movement_joint_stays_open(gap):
    document = flat_slab(2, 1, size=0.7)
    x = 6.0
    outline = document["slabs"][0]["outline"]
    document["slabs"] = [
        {**document["slabs"][0], "id": "S1", "outline": [[-0.2, -0.2], [x, -0.2], [x, 6.2], [-0.2, 6.2]]},
        {
            **document["slabs"][0],
            "id": "S2",
            "outline": [[x + gap, -0.2], [outline[1][0], -0.2], [outline[1][0], 6.2], [x + gap, 6.2]],
        },
    ]
    twins = [c for c in document["columns"] if c["at"][0] == x]
    for c in twins:
        c["at"] = [x - 0.2, c["at"][1]]
        document["columns"].append({**c, "id": c["id"] + "b", "at": [x + gap + 0.2, c["at"][1]]})
    linework = make_linework(floor_from(document))
    assert shapely.unary_union(linework.parts.polygons).geom_type == "MultiPolygon"
    assert area(make_mesh(linework)) == pytest.approx(linework.region.area, rel=1e-6)
    assert out_of_balance(document) < 1e-9


@pytest.mark.parametrize("gap", [0.0, 0.01])
def test_slabs_that_meet_along_a_slope_are_one_floor(gap):
    """Their border's vertices were not drawn at the same places, so that they meet but for rounding: for the mesh they do, and so for strips."""
    document = flat_slab(2, 2, size=1.0)
    whole = solve_floor(floor_from(document))
    (slab,) = document["slabs"]
    (x0, y0), (x1, y1) = slab["outline"][0], slab["outline"][2]
    border = [[5.1, y0], [5.1 + 0.37 * 2.9, y0 + 0.37 * (y1 - y0)], [8.0, y1]]
    document["slabs"] = [
        {**slab, "id": "A", "outline": [[x0, y0], border[0], border[2], [x0, y1]]},
        {**slab, "id": "B", "outline": [*([x + gap, y] for x, y in border), [x1, y1], [x1, y0]]},
    ]
    parted = solve_floor(floor_from(document))
    assert parted.plan.region.geom_type == "Polygon"
    assert [(s.id, s.label) for s in parted.strips.layout.strips] == [(s.id, s.label) for s in whole.strips.layout.strips]
    assert parted.strips.cuts.width.sum() == pytest.approx(whole.strips.cuts.width.sum(), rel=1e-3)


def test_a_process_that_has_meshed_outlives_a_pipe_that_breaks():
    # The mesher's library makes a broken pipe deadly; a worker whose connection went would end without a word.
    told = (
        "import os; from piastra.core.mesh.mesher import make_mesh; from piastra.core.mesh.plan import make_linework;"
        "from piastra.core.model import floor_from; from tests.floors import one_bay;"
        "make_mesh(make_linework(floor_from(one_bay()))); r, w = os.pipe(); os.close(r); os.write(w, b'x')"
    )
    done = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr.strip().splitlines()[-1]) == (1, "BrokenPipeError: [Errno 32] Broken pipe")


def moved(k, dx, dy=0.0, **more):
    document = flat_slab(3, 2, size=0.7, **more)
    document["thickenings"] = [
        {"id": "T", "kind": "drop_panel", "outline": [[4, 4], [8, 4], [8, 8], [4, 8]], "thickness_m": 0.35}
    ]
    x, y = document["columns"][k]["at"]
    document["columns"][k]["at"] = [x + dx, y + dy]
    return floor_from(document)


SET = {"supports": [{"id": "P", "kind": "point", "at": [9.0, 9.0]}]}


@pytest.mark.parametrize(
    ("floor", "pressed", "anew"),
    [
        # Within its drop panel a column changes the panel and no more: its footprint is like all others.
        (moved(4, 0.03, 0.02), (), 1),
        # One at the floor's corner changes the numbers of all that comes after it, and what is beside it.
        (moved(0, 0.1), (), 1),
        (moved(11, -0.4, -0.4), (), 1),
        (moved(4, 0.0, **SET), (), 1),
        (moved(4, 0.0), (((15.0, 9.0), 0.0, 0.0),), 1),
        # A load that presses elsewhere within a face changes no border.
        (moved(4, 0.0), (((15.2, 9.4), 0.0, 0.0),), 1),
    ],
    ids=["within a panel", "a corner", "another corner", "a point", "a load", "the load elsewhere"],
)
def test_a_face_is_meshed_anew_where_something_in_it_changes(floor, pressed, anew, monkeypatch):
    before = make_mesh(make_linework(moved(4, 0.0)))
    if pressed and pressed[0][0][0] > 15:
        before = make_mesh(make_linework(moved(4, 0.0), (((15.0, 9.0), 0.0, 0.0),)))
    meshed = []
    plain = mesher.mesh_face
    monkeypatch.setattr(mesher, "mesh_face", lambda *given: meshed.append(given[-1]) or plain(*given))
    linework = make_linework(floor, pressed)
    warm = make_mesh(linework, before.kept)
    assert len(meshed) == anew
    cold = make_mesh(linework)
    assert np.array_equal(warm.xy, cold.xy)
    assert np.array_equal(warm.quads, cold.quads)
    assert np.array_equal(warm.tris, cold.tris)
    assert np.array_equal(warm.quad_face, cold.quad_face)
    # What has been meshed already is not looked at again.
    meshed.clear()
    make_mesh(linework, warm.kept)
    assert meshed == []


def test_what_is_alike_is_meshed_once_wherever_it_lies_and_whatever_its_numbers(monkeypatch):
    """Moved as a whole, a floor has the same mesh to a nanometre; its columns' footprints are alike."""
    meshed, divided = [], []
    plain, by_size = mesher.mesh_face, edges._by_size
    monkeypatch.setattr(mesher, "mesh_face", lambda *given: meshed.append(given[-1]) or plain(*given))
    monkeypatch.setattr(edges, "_by_size", lambda *given: divided.append(1) or by_size(*given))
    document = flat_slab(4, 3, size=0.6)
    linework = make_linework(floor_from(document))
    mesh = make_mesh(linework)
    footprints = int((linework.column >= 0).sum())
    assert footprints == 20
    assert len(meshed) == len(linework.parts.rings) - footprints + 1
    assert len(divided) < 0.3 * len(linework.parts.edges)
    by = np.array([41.37, -7.11])
    for key in ("slabs", "columns", "panels"):
        for item in document.get(key, []):
            for name in ("outline", "at"):
                if name in item:
                    item[name] = (np.array(item[name]) + by).tolist()
    meshed.clear()
    divided.clear()
    moved = make_mesh(make_linework(floor_from(document)), mesh.kept)
    assert (meshed, divided) == ([], [])
    assert np.abs(moved.xy - by - mesh.xy).max() < 2e-9
    assert np.array_equal(moved.quads, mesh.quads)


def test_a_line_is_as_long_as_it_is_drawn_however_small_elements_are_beside_its_end():
    """An element beyond the end that is smaller than corners are merged is none of the line's."""
    data = flat_slab(1, 1, size=0.5)
    data["walls"] = [
        {"id": "W", "line": [[2.0, 3.0], [2.0, 4.5]], "thickness_m": 0.2, "concrete": "C30", "below": {"height_m": 3.0}}
    ]
    # The floor's own lines go on beyond the wall.
    data["thickenings"] = [
        {"id": "T", "kind": "drop_panel", "outline": [[2.0, 1.0], [5.0, 1.0], [5.0, 5.5], [2.0, 5.5]], "thickness_m": 0.3}
    ]
    data["mesh"]["refinements"] = [{"at": [2.0, 4.5], "size_m": 0.01, "radius_m": 0.1}]
    mesh = make_mesh(make_linework(floor_from(data)))
    edges_ = mesh.xy[mesh.lines["W"]]
    length = np.hypot(*(edges_[:, 1] - edges_[:, 0]).T)
    assert length.min() < 0.012
    assert length.sum() == pytest.approx(1.5, abs=1e-6)


def test_an_edge_with_one_element_more_stays_graded(monkeypatch):
    """Towards a column's corner its elements stay as small as they were, to a tenth."""
    document = flat_slab(2, 2, size=0.6)
    asked = []
    monkeypatch.setattr(edges, "to_lengthen", lambda parts, count, fixed: asked.append((parts, count)) or np.arange(0))
    plain = make_mesh(make_linework(floor_from(document)))
    parts, count = asked[0]
    graded = next(e for e in np.argsort(-count) if _steps(parts, e, plain).max() > 2 * _steps(parts, e, plain).min())
    monkeypatch.setattr(edges, "to_lengthen", lambda parts, count, fixed: np.array([graded]))
    longer = make_mesh(make_linework(floor_from(document)))
    before, after = _steps(parts, graded, plain), _steps(parts, graded, longer)
    assert len(after) == len(before) + 1
    assert after.max() / after.min() > 0.9 * before.max() / before.min()


def _steps(parts, e, mesh):
    """Lengths of the elements along an edge of the plan."""
    a, b = parts.points[parts.edges[e]]
    along = (mesh.xy - a) @ (b - a) / np.hypot(*(b - a))
    off = np.abs((mesh.xy - a) @ np.array([-(b - a)[1], (b - a)[0]])) / np.hypot(*(b - a))
    on = (off < 1e-6) & (along > -1e-6) & (along < np.hypot(*(b - a)) + 1e-6)
    return np.diff(np.sort(along[on]))


def test_a_point_is_found_in_the_element_that_holds_it_however_small_its_neighbours_are():
    """Within 50 mm of a point lie many elements of 25 mm; values read off another one than its own are no values at all."""
    data = flat_slab(1, 1, size=1.0)
    data["mesh"]["refinements"] = [{"at": [3.0, 3.0], "size_m": 0.025, "radius_m": 0.2}]
    elements = elements_of(make_mesh(make_linework(floor_from(data))))
    rng = np.random.default_rng(4)
    xy = np.concatenate([rng.uniform(2.7, 3.3, (400, 2)), rng.uniform(-0.2, 6.2, (100, 2))])
    found = find(elements, xy, within=0.05)
    assert shapely.distance(shapely.points(xy), elements.shapes[found]).max() < 1e-9
    # Beside the floor it is the nearest one, at its edge.
    beside = np.array([[-0.23, 3.1], [6.24, 2.2], [-0.3, 3.0]])
    found = find(elements, beside, within=0.05)
    assert (found >= 0).tolist() == [True, True, False]
    moved = onto(elements, found[:2], beside[:2])
    assert moved == pytest.approx(np.array([[-0.2, 3.1], [6.2, 2.2]]))
    share = weights(elements, found[:2], moved)
    assert share.min() > -1e-9
    assert (onto(elements, find(elements, xy), xy) == xy).all()


def test_what_holds_within_a_footprint_is_not_passed_over_by_its_rows():
    """A wall leaves a column through its corner, so that the footprint has four sides and the wall's line ends within it; a support stands in another. Rows of three
    elements passed over both: a wall so tried at an inner column lost 15 % of its force to the column."""
    data = flat_slab(1, 1, size=0.5)
    data["walls"] = [
        {
            "id": "W",
            "line": [[0, 0], [3, 3]],
            "thickness_m": 0.2,
            "concrete": "C30",
            "below": {"height_m": 3.2, "far_end": "fixed"},
        }
    ]
    data["supports"] = [{"id": "P", "kind": "point", "at": [6.05, 5.97], "vertical": "fixed", "rotation": "free"}]
    xy = make_mesh(make_linework(floor_from(data))).xy
    along = np.sort(xy[np.abs(xy[:, 0] - xy[:, 1]) < 1e-6, 0])
    along = along[(along > -1e-6) & (along < 3 + 1e-6)]
    # From its first point on, the wall is met as often as elements are large there.
    assert along[0] == pytest.approx(0.0, abs=1e-6)
    assert along[-1] == pytest.approx(3.0, abs=1e-6)
    assert np.diff(along[along < 0.3]).max() <= 0.15
    assert np.hypot(*(xy - (6.05, 5.97)).T).min() < 1e-6
    # A footprint that is plain has its rows: 4 by 4 nodes.
    inside = (np.abs(xy - (0, 6)) < 0.2 + 1e-6).all(axis=1)
    assert inside.sum() == 16
