"""Lines across an axis through shapes, and cuts through a mesh."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate
from shapely.geometry import LineString, MultiPolygon, Polygon

from piastra.core.geometry.axes import Axis
from piastra.core.mesh.locate import indexed, lengths_inside
from piastra.core.model import floor_from
from piastra.core.strips.crossings import runs
from piastra.core.strips.cuts import PARTS, SLIVER, Met, met_by, sample
from tests.floors import flat_slab
from tests.solving import solve_floor


def comb(seed):
    """A shape with notches, a hole and a part of its own, turned."""
    r = np.random.default_rng(seed)
    teeth = np.sort(r.uniform(0.2, 9.8, 8))
    edge = [(x, 4 + (k % 2) * r.uniform(0.5, 3)) for k, x in enumerate(teeth)]
    body = Polygon([(0, 0), (10, 0), (10, 4), *reversed(edge), (0, 4)], [[(4, 1), (6, 1), (5.5, 2.5), (4, 2)]])
    return rotate(MultiPolygon([body, shapely.box(11, 1, 13, 2 + r.uniform(0, 2))]), float(r.uniform(0, 360)), origin=(0, 0))


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.floats(-3.2, 3.2), st.floats(-5, 5))
def test_lines_across_an_axis_run_through_a_shape_as_its_intersection_says(seed, angle, offset):
    shape, axis = comb(seed), Axis(angle, offset, ())
    at = np.random.default_rng(seed + 1).uniform(-14, 14, 12)
    found = runs(axis, shape, at)
    for k, s in enumerate(at):
        line = LineString(axis.point(np.array([s, s]), np.array([-60.0, 60.0])))
        pieces = [p for p in shapely.get_parts(line.intersection(shape)) if p.length > 1e-9]
        mine = found.line == k
        ends = axis.point(s, np.stack([found.low[mine], found.high[mine]], axis=1))
        assert len(ends) == len(pieces)
        # From right to left along the line.
        for own, piece in zip(ends, sorted(pieces, key=lambda p: line.project(p.centroid)), strict=True):
            assert own == pytest.approx(shapely.get_coordinates(piece)[[0, -1]], abs=1e-9)
        inside = found.within(-2.0, 1.0).length[mine].sum()
        part = LineString(axis.point(np.array([s, s]), np.array([-2.0, 1.0])))
        assert inside == pytest.approx(part.intersection(shape).length, abs=1e-9)


def test_a_corner_that_a_line_meets_counts_once():
    rhomb = Polygon([(0, 0), (2, -1), (4, 0), (2, 1)])
    found = runs(Axis(0.0, 0.0, ()), rhomb, np.array([0.0, 2.0, 4.0]))
    lengths = np.bincount(found.line, found.length, minlength=3)
    assert lengths == pytest.approx([0, 2, 0])
    assert not len(runs(Axis(0.0, 0.0, ()), Polygon(), np.array([1.0])).line)


@pytest.fixture(scope="module")
def outcome():
    document = flat_slab(2, 2, size=0.5)
    document["openings"] = [{"id": "O", "outline": [[7, 7], [9, 7], [9, 8.2], [7, 8.2]]}]
    return solve_floor(floor_from(document))


def test_every_part_of_a_cut_is_summed_over_its_own_quarter(outcome):
    """No sample reaches into two parts: one whose middle lay on their border belonged to the one or the other by rounding, with its whole twist."""
    cuts = outcome.strips.cuts
    way = cuts.ends[:, 1] - cuts.ends[:, 0]
    whole = np.hypot(*way.T)
    samples = cuts.samples
    t = ((samples.xy - cuts.ends[samples.cut, 0]) * way[samples.cut]).sum(axis=1) / whole[samples.cut] ** 2
    of = PARTS * samples.cut + (PARTS * t).astype(int)
    lengths = np.bincount(of, samples.length, minlength=PARTS * len(whole)).reshape(-1, PARTS)
    full = cuts.width > whole - 1e-9
    assert full.sum() > 40
    assert lengths[full] == pytest.approx(np.repeat(whole[full, None] / PARTS, PARTS, axis=1), rel=1e-9)


def test_samples_lie_in_the_elements_that_the_cut_meets_there(outcome):
    elements = outcome.meshed.elements
    samples = outcome.strips.cuts.samples
    gap = shapely.distance(shapely.points(samples.xy), elements.shapes[samples.element])
    assert gap.max() < 1e-9
    # Right through the opening, along lines of the mesh, and beyond the edge.
    ends = np.array([[[8.0, -1.0], [8.0, 13.0]], [[6.0, 0.0], [6.0, 12.0]], [[-1.0, 3.3], [13.0, 3.4]]])
    met = met_by(elements, ends)
    cut, t = np.repeat(np.arange(3), 200), np.tile((np.arange(200) + 0.5) / 200, 3)
    found = met.at(cut, t)
    points = shapely.points(ends[cut, 0] + t[:, None] * (ends[cut, 1] - ends[cut, 0]))
    there = shapely.distance(points, shapely.union_all(elements.shapes)) < 1e-9
    assert ((found >= 0) == there).all()
    assert shapely.distance(points[there], elements.shapes[found[there]]).max() < 1e-9
    assert 0 < there.sum() < len(there)


def test_a_border_next_to_an_end_parts_no_sliver_off(outcome):
    """The depth of the least part of a section would be that of its furthest fibre."""
    elements, ends = outcome.meshed.elements, np.array([[[1.0, 3.0], [5.0, 3.0]]])
    borders = shapely.STRtree([LineString([[x, 0.0], [x, 6.0]]) for x in (1.0002, 1.9996, 2.0004, 2.7, 2.7003, 4.9997)])
    found = sample(elements, met_by(elements, ends), outcome.stiffness.kept, ends, 0.25, borders)
    low, high = (found.xy[:, 0] + side * found.length / 2 for side in (-1, 1))
    assert found.length.min() > SLIVER
    assert found.length.sum() == pytest.approx(4.0, rel=1e-12)
    for x in (2.0, 2.7):
        assert not ((low < x - 1e-9) & (high > x + 1e-9)).any()


def test_no_sample_is_lost_between_two_elements():
    """By rounding: two elements beside each other that leave a hair of a cut between them, and a cut along the side that they share."""
    hair = 4 * np.finfo(float).eps
    met = Met(np.zeros(2, int), np.array([3, 5]), np.array([0.0, 0.5 + hair]), np.array([0.5 - hair, 1.0]))
    assert met.at(np.zeros(4, int), np.array([0.2, 0.5, 0.8, 1.2])).tolist() == [3, 3, 5, -1]
    xy = np.array([[0, 0], [1, 0], [1 + hair, 1], [0, 1], [2, 0], [2, 1]])
    pair = indexed(xy, np.array([[0, 1, 2, 3], [1, 4, 5, 2]]), 2)
    for x in (1.0, 1 + hair / 2, 1 + hair):
        ends = np.array([[[x, 0.0], [x, 1.0]]])
        assert lengths_inside(pair, np.array([0, 1]), ends[[0, 0], 0], ends[[0, 0], 1]) == pytest.approx([1, 1])
        assert (met_by(pair, ends).at(np.zeros(3, int), np.array([0.1, 0.5, 0.9])) >= 0).all()
    # A micrometre beside it a cut lies in one alone.
    ends = np.array([[[1 + 1e-6, 0.0], [1 + 1e-6, 1.0]]])
    assert lengths_inside(pair, np.array([0, 1]), ends[[0, 0], 0], ends[[0, 0], 1]) == pytest.approx([0, 1])
