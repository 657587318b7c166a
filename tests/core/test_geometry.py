"""Arcs, partition, panels, axes, integration: closed forms and laws."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate
from shapely.geometry import LineString, Point, box

from piastra.core.geometry.arcs import arc_of, chords, polygon
from piastra.core.geometry.axes import Held, axes, main_angle
from piastra.core.geometry.panels import derive_panels
from piastra.core.geometry.partition import GRID, partition
from piastra.core.loads.integrate import along_line, element_weights, over_area
from piastra.core.mesh.locate import elements_of, find, indexed, middles, weights
from piastra.core.mesh.mesher import make_mesh
from piastra.core.mesh.plan import make_linework
from piastra.core.mesh.quality import angles
from piastra.core.model import floor_from
from tests.floors import one_bay

# On neither edge of the floor: there a line is inside or outside by the last digit.
PLACE = st.integers(-200, 800).map(lambda k: k / 100 + 0.0037)


@pytest.fixture(scope="module")
def mesh():
    return make_mesh(make_linework(floor_from(one_bay())))


@settings(max_examples=60, deadline=None)
@given(st.floats(-3, 3).filter(lambda b: abs(b) > 0.01), st.floats(0.5, 20), st.floats(0, 360))
def test_an_arc_passes_through_its_ends_with_the_angle_of_its_bulge(bulge, chord, turn):
    t = np.radians(turn)
    b = (chord * np.cos(t), chord * np.sin(t))
    arc = arc_of((0, 0), b, bulge)
    assert arc.at(np.array([0.0, 1.0])) == pytest.approx(np.array([[0, 0], b]), abs=1e-9 * (1 + arc.radius))
    assert arc.sweep == pytest.approx(4 * np.arctan(bulge))
    # The sagitta is bulge times half the chord, to the right of the chord for a positive bulge.
    middle = arc.at(np.array([0.5]))[0]
    right = np.array([np.sin(t), -np.cos(t)])
    assert middle == pytest.approx(np.array(b) / 2 + right * bulge * chord / 2, abs=1e-9 * (1 + arc.radius))


def test_two_half_circles_make_a_circle():
    circle = polygon([[-2, 0, 1], [2, 0, 1]])
    assert circle.area == pytest.approx(4 * np.pi, rel=1e-3)
    coarse = chords([[-2, 0, 1], [2, 0, 1]], 0.3)
    assert np.hypot(*coarse.T) == pytest.approx(2.0)


def test_outlines_that_share_a_circle_share_its_points():
    whole = {tuple(p) for p in chords([[-2, 0, 1], [2, 0, 1]], 0.3).round(9)}
    c, s = 2 * np.cos(0.7), 2 * np.sin(0.7)
    part = chords([[2, 0, np.tan(0.7 / 4)], [c, s], [0, 0]], 0.3)
    on_arc = [tuple(p) for p in part.round(9) if abs(np.hypot(*p) - 2) < 1e-6 and tuple(p) != (round(c, 9), round(s, 9))]
    assert set(on_arc) <= whole


def test_partition_keeps_area_holes_and_loose_lines():
    region = box(0, 0, 6, 4).difference(box(4, 1, 5, 2))
    parts = partition([box(1, 1, 3, 3).boundary, LineString([[1.5, 2], [2.5, 2]]), LineString([[-1, 3.5], [9, 3.5]])], region)
    assert sum(p.area for p in parts.polygons) == pytest.approx(region.area, abs=1e-9)
    assert len(parts.polygons) == 3
    inner = next(f for f, p in enumerate(parts.polygons) if p.contains(Point(2, 1.5)))
    assert [len(e) for e in parts.loose][inner] == 1
    around = next(f for f, p in enumerate(parts.polygons) if p.contains(Point(0.5, 0.5)))
    assert len(parts.rings[around]) == 3


def test_nearly_coincident_corners_become_one():
    almost = [box(0, 0, 3, 4).boundary, box(3.004, 0, 6, 4).boundary]
    assert len(partition(almost, box(0, 0, 6, 4), 0.01).polygons) == 2
    assert len(partition(almost, box(0, 0, 6, 4)).polygons) == 3


def test_mesh_covers_the_plan_without_folds_and_keeps_its_lines(mesh):
    elements = elements_of(mesh)
    assert shapely.area(elements.shapes).sum() == pytest.approx(35.0, rel=1e-9)
    assert shapely.unary_union(elements.shapes).area == pytest.approx(35.0, rel=1e-9)
    assert min(len(mesh.quads), len(mesh.tris)) > 0
    assert middles(elements) == pytest.approx(shapely.get_coordinates(shapely.centroid(elements.shapes)), abs=1e-12)
    assert angles(mesh.xy, mesh.quads).max() < 180
    assert mesh.quality.least_angle_deg > 20
    length = np.hypot(*(mesh.xy[mesh.lines["L1"][:, 1]] - mesh.xy[mesh.lines["L1"][:, 0]]).T)
    assert length.sum() == pytest.approx(4.0)
    sides = np.hypot(*(np.roll(mesh.xy[mesh.quads], -1, axis=1) - mesh.xy[mesh.quads]).transpose(2, 0, 1))
    assert sides.max() < 1.15 * 0.6


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(0.2, 5.8), st.floats(0.2, 5.8)), min_size=3, max_size=6))
def test_area_integrals_are_exact_wherever_the_outline_lies(mesh, corners):
    area = shapely.MultiPoint(corners).convex_hull
    if area.geom_type != "Polygon":
        return
    elements = elements_of(mesh)
    nodal = over_area(elements, element_weights(elements), area)
    inside = area.difference(box(2, 2, 3, 3))
    assert nodal.sum() == pytest.approx(inside.area, rel=1e-9, abs=1e-12)
    first = (nodal[:, None] * mesh.xy).sum(axis=0)
    assert first == pytest.approx(np.array(inside.centroid.coords[0]) * inside.area, rel=1e-8, abs=1e-10)


@settings(max_examples=40, deadline=None)
@given(PLACE, PLACE, PLACE, PLACE, st.floats(-5, 5), st.floats(-5, 5))
def test_line_integrals_are_exact_on_the_floor_and_the_rest_is_lost(mesh, ax, ay, bx, by, q0, q1):
    line = LineString([[ax, ay], [bx, by]])
    if line.length < 0.01:
        return
    nodal, lost = along_line(elements_of(mesh), line, (q0, q1))
    total = line.length * (q0 + q1) / 2
    assert nodal.sum() + lost == pytest.approx(total, abs=1e-8 * (1 + abs(total)))
    inside = shapely.get_parts(line.intersection(box(0, 0, 6, 6).difference(box(2, 2, 3, 3))))
    on = sum(
        part.length * (q0 + (q1 - q0) * line.project(part.interpolate(0.5, normalized=True)) / line.length)
        for part in inside if part.geom_type == "LineString" and part.length > 0
    )  # fmt: skip
    assert nodal.sum() == pytest.approx(on, abs=1e-6)


def test_points_are_found_with_weights_that_give_their_place_back(mesh):
    elements = elements_of(mesh)
    rng = np.random.default_rng(3)
    xy = rng.uniform(0, 6, (300, 2))
    element = find(elements, xy)
    hole = (np.abs(xy - 2.5) < 0.5).all(axis=1)
    assert ((element < 0) == hole).all()
    share = weights(elements, element[~hole], xy[~hole])
    nodes = elements.nodes[element[~hole]]
    assert (share[..., None] * mesh.xy[nodes]).sum(axis=1) == pytest.approx(xy[~hole], abs=1e-9)
    assert share.min() > -1e-6


def test_the_element_found_is_the_nearest_of_all_wherever_the_point_is(mesh):
    """By the distance to every element: inside, on nodes and sides, in the hole and beside the floor."""
    elements = elements_of(mesh)
    rng = np.random.default_rng(7)
    sides = np.roll(elements.nodes[: elements.quads], 1, axis=1)
    xy = np.concatenate([
        rng.uniform(-0.5, 6.5, (400, 2)), mesh.xy[:100], mesh.xy[np.stack([sides, elements.nodes[: elements.quads]])].mean(axis=0)[:40].reshape(-1, 2)
    ])  # fmt: skip
    away = shapely.distance(shapely.points(xy)[:, None], elements.shapes[None])
    for within in (1e-6, 0.05):
        element = find(elements, xy, within)
        assert ((element < 0) == (away.min(axis=1) > within)).all()
        met = np.flatnonzero(element >= 0)
        assert away[met, element[met]] == pytest.approx(away[met].min(axis=1), abs=1e-12)
    assert len(find(elements, np.zeros((0, 2)))) == 0


def test_elements_of_parts_that_are_far_apart_are_found():
    """A square and a triangle at opposite ends of what a plan may hold, in a grid that holds no more than they do."""
    far = 190_000.0
    xy = np.array([(0, 0), (1, 0), (1, 1), (0, 1), (far, far), (far + 1, far), (far, far + 1)], dtype=float)
    elements = indexed(xy, np.array([(0, 1, 2, 3), (4, 5, 6, -1)]), 1)
    points = np.array([(0.4, 0.7), (far + 0.3, far + 0.2), (far + 0.7, far + 0.7), (far / 2, far / 2), (0.5, far), (1.0, 0.5)])
    assert find(elements, points).tolist() == [0, 1, -1, -1, -1, 0]
    assert elements.cells.bytes_held < 1000


def grid_of_supports(nx, ny, ax, ay, side=0.4):
    return [Held(f"{i}-{j}", box(-side / 2, -side / 2, side / 2, side / 2).buffer(0)) if not (i or j)
            else Held(f"{i}-{j}", shapely.affinity.translate(box(-side / 2, -side / 2, side / 2, side / 2), i * ax, j * ay))
            for i in range(nx) for j in range(ny)]  # fmt: skip


@settings(max_examples=20, deadline=None)
@given(st.integers(2, 5), st.integers(2, 4), st.floats(5, 9), st.floats(5, 9), st.floats(-40, 40))
def test_axes_and_panels_of_a_turned_grid(nx, ny, ax, ay, turn):
    held = [Held(h.label, rotate(h.shape, turn, origin=(0, 0))) for h in grid_of_supports(nx, ny, ax, ay)]
    region = rotate(box(-0.2, -0.2, (nx - 1) * ax + 0.2, (ny - 1) * ay + 0.2), turn, origin=(0, 0))
    angle = main_angle(held)
    off = (np.degrees(angle) - turn + 45) % 90 - 45
    assert abs(off) < 0.01
    along, across = axes(held, region, np.radians(turn)), axes(held, region, np.radians(turn) + np.pi / 2)
    assert [len(a.bearings) for a in along] == [nx] * ny
    assert [len(a.bearings) for a in across] == [ny] * nx
    panels = derive_panels(region, [*along, *across])
    assert len(panels) == (nx - 1) * (ny - 1)
    # The borders are rounded to the noder's grid.
    assert sum(p.area for p in panels) == pytest.approx(region.area, abs=region.length * GRID)


def test_walls_are_bearings_along_and_across_their_axes():
    held = [
        *grid_of_supports(3, 2, 6, 6),
        Held("W", LineString([[-0.2, 12], [12.2, 12]]), 0.2),
        Held("X", LineString([[3, -1], [3, 13]]), 0.3),
    ]
    region = box(-0.2, -0.2, 12.2, 12.2)
    along = axes(held, region, 0.0)
    assert [round(a.offset, 6) for a in along] == [0, 6, 12]
    first = along[0].bearings
    assert [b.labels[0] for b in first] == ["0-0", "X", "1-0", "2-0"]
    assert (first[1].start, first[1].end) == pytest.approx((2.85, 3.15))
    assert along[2].bearings[0].along
