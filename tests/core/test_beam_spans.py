"""Spans of beams: what bears them, and that it does not matter in how many pieces they are drawn."""

import numpy as np
import pytest
from shapely.geometry import Point

from piastra.core.geometry.axes import Held
from piastra.core.mesh.plan import make_linework, make_plan, ranks_of
from piastra.core.model import floor_from
from piastra.core.strips.crossings import runs
from piastra.core.strips.layout import ends_of, make_axes, make_layout, stations
from piastra.core.strips.whole_beams import whole_beams
from piastra.exchange.results_file import results
from tests.core.tees import WEB, WIDE, H, L, tee
from tests.floors import flat_slab, turned
from tests.solving import solve_floor


def drawn(*lines, **more):
    return [{"id": f"B{k}", "line": line, "width_m": WEB, "depth_m": H, "concrete": "C", **more} for k, line in enumerate(lines)]


@pytest.mark.parametrize("aside", [0.0, 1e-7, -0.001, 0.09])
def test_a_wall_that_runs_on_where_a_beam_ends_bears_it(aside):
    wall = {
        "id": "W",
        "line": [[3.0, 1.0 - aside], [8.0, 1.0 + aside]],
        "thickness_m": 0.2,
        "concrete": "C",
        "below": {"height_m": 3.0},
    }
    beam = {"id": "B", "line": [[8.0, 1.0], [16.0, 1.0]], "width_m": WEB, "depth_m": H, "concrete": "C"}
    strips = solve_floor(floor_from(tee(2, walls=[wall], beams=[beam]))).strips.layout.strips
    (own,) = [s for s in strips if s.beam]
    assert own.supports == ("W", "L2")
    assert (own.start, own.end) == pytest.approx((8.0, 16.0), abs=0.02)


def laid_out(floor):
    plan = make_plan(floor, make_linework(floor), ranks_of(floor))
    return make_layout(floor, plan, make_axes(floor, plan))


def not_cut(layout, strips):
    """The most (m) that any station leaves of a strip's outline."""
    most = 0.0
    for strip in strips:
        at = stations(strip)
        found = runs(layout.axes[strip.axis], strip.outline, at)
        cut = ends_of(layout.axes[strip.axis], strip, at)
        most = max(most, float((np.bincount(found.line, found.length) - np.hypot(*(cut[:, 1] - cut[:, 0]).T)).max()))
    return most


def with_beam(degrees, beyond, away=0.0):
    data = flat_slab(1, 2, a=6.37)
    low, x, y = -beyond, 6.37 + beyond, 2 * 6.37 + beyond
    data["slabs"][0]["outline"] = [[low, low], [x, low], [x, y], [low, y]]
    data["beams"] = [{"id": "E", "line": [[0.0, 6.37], [6.37, 6.37]], "width_m": 0.3, "depth_m": 0.6, "concrete": "C30"}]
    data = turned(data, degrees)
    for item in (*data["slabs"], *data["columns"], *data["beams"]):
        for key in {"outline", "line"} & set(item):
            item[key] = [[x + away, y] for x, y in item[key]]
        if "at" in item:
            item["at"] = [item["at"][0] + away, item["at"][1]]
    return laid_out(floor_from(data))


@pytest.mark.parametrize("degrees", [27.3, 48.7])
def test_a_beam_has_its_strip_whichever_way_the_floor_is_turned(degrees):
    """At the second of these angles sides that coincide but for rounding once had nothing in common."""
    (own,) = [s for s in with_beam(degrees, 0.2).strips if s.beam]
    assert own.outline.area == pytest.approx(6.37 * 0.3, rel=1e-5)


@pytest.mark.parametrize("beyond", [0.0, 0.5])
@pytest.mark.parametrize(("degrees", "away"), [(0.0, 0.0), (18.9, 0.0), (27.3, 0.0), (61.2, 0.0), (18.9, 60e3)])
def test_strips_to_both_sides_of_a_beam_have_stations_though_it_ends_short_of_the_edge(degrees, away, beyond):
    """The slab goes on by 0.5 m beyond the columns at which the beam ends: what it parts hangs together there."""
    layout = with_beam(degrees, beyond, away)
    beside = [s for s in layout.strips if not s.beam and s.supports == ("C01", "C11")]
    assert not_cut(layout, beside) < 1e-3
    assert sum(s.kind == "column" for s in beside) == 2
    area = sum(s.outline.area for s in layout.strips if s.direction == beside[0].direction)
    assert area == pytest.approx((6.37 + 2 * beyond) * (2 * 6.37 + 2 * beyond), rel=1e-5)


def test_columns_a_little_off_their_axis_leave_nothing_between_strips():
    """The middle row stands half a bay further on, and its columns 0.1 m to either side of their axis: strips to both sides meet half way to the axis."""
    data = flat_slab(3, 2)
    for i, c in enumerate(c for c in data["columns"] if c["at"][1] == 6.0):
        c["at"] = [c["at"][0] + 2.0, 6.0 + 0.1 * (-1) ** i]
    data["slabs"][0]["outline"] = [[-0.3, -0.3], [20.3, -0.3], [20.3, 12.3], [-0.3, 12.3]]
    layout = laid_out(floor_from(data))
    strips = [s for s in layout.strips if s.direction == "x" and s.kind != "whole"]
    assert len(strips) > 9
    assert not_cut(layout, strips) < 1e-3


@pytest.mark.parametrize("aside", [0.0, 0.001])
def test_a_vertex_on_a_straight_beam_is_no_end_of_a_span(aside):
    line = [[0.0, WIDE / 2], [3.0, WIDE / 2], [5.0, WIDE / 2 + aside], [L, WIDE / 2]]
    whole, parted = (
        solve_floor(floor_from(tee(beams=[{"id": "B", "line": at, "width_m": WEB, "depth_m": H, "concrete": "C"}])))
        for at in ([line[0], line[-1]], line)
    )
    one, other = ([s for s in found.strips.layout.strips if s.beam] for found in (whole, parted))
    assert [(s.supports, s.cantilever) for s in one] == [(s.supports, s.cantilever) for s in other] == [(("L0", "L1"), False)]
    moment = [next(r for r in found.rows if r.id.of.kind == "beams").utilisation for found in (whole, parted)]
    assert moment[1] == pytest.approx(moment[0], rel=0.01)


def test_beams_drawn_bay_by_bay_go_on_over_their_column():
    post = {
        "id": "C",
        "at": [L, WIDE / 2],
        "shape": {"kind": "rectangle", "b_m": 0.3, "d_m": 0.3},
        "concrete": "C",
        "below": {"height_m": 3.0},
    }
    kept = [s for s in tee(2)["supports"] if s["id"] != "L1"]
    bays = [
        {"id": f"B{k}", "line": [[k * L, WIDE / 2], [(k + 1) * L, WIDE / 2]], "width_m": WEB, "depth_m": H, "concrete": "C"}
        for k in (0, 1)
    ]
    alone, apart = (
        [s for s in solve_floor(floor_from(tee(2, supports=kept, columns=[post], **more))).strips.layout.strips if s.beam]
        for more in ({}, {"beams": bays})
    )
    assert [s.beam for s in apart] == ["B0", "B1"]
    for one, other in zip(alone, apart, strict=True):
        assert [h.last for h in one.holds] == [h.last for h in other.holds]
        assert (other.left, other.right) == pytest.approx((one.left, one.right), rel=1e-9)


def test_a_beam_drawn_in_pieces_between_its_bearings_is_one():
    """Two spans, drawn at once; in three pieces of either sense, one of which lies on both sides of the bearing and one to the millimetre beside the line."""
    y = WIDE / 2
    at_once = solve_floor(floor_from(tee(2)))
    pieces = drawn([[3.0, y], [0.0, y]], [[3.0, y], [12.0, y + 0.001]], [[16.0, y], [12.0, y + 0.001]])
    apart = solve_floor(floor_from(tee(2, beams=pieces)))
    one, other = ([s for s in found.strips.layout.strips if s.beam] for found in (at_once, apart))
    assert [(s.supports, s.cantilever) for s in other] == [(("L0", "L1"), False), (("L1", "L2"), False)]
    assert [s.beams for s in other] == [("B1", "B0"), ("B1", "B2")]
    for a, b in zip(one, other, strict=True):
        assert (b.left, b.right, b.start, b.end) == pytest.approx((a.left, a.right, a.start, a.end), abs=2e-3)
    # A row for every span, of the longest piece, and none that is missing for the others.
    bars = [[r for r in found.rows if r.id.of.kind == "beams"] for found in (at_once, apart)]
    assert {r.id.of.id for r in bars[1]} == {"B1"}
    for a, b in zip(*bars, strict=True):
        assert (b.check, b.status) == (a.check, a.status)
        assert b.utilisation == pytest.approx(a.utilisation, rel=0.02)
    assert [(r["id"], r["pieces"]) for r in results(apart)["beams"]] == [("B1", ["B0"]), ("B1", ["B2"])]


def test_a_piece_whose_web_is_a_deeper_beams_is_not_checked_as_part_of_another():
    y = WIDE / 2
    pieces = drawn([[0.0, y], [5.0, y]], [[5.0, y], [8.0, y]])
    deeper = {**drawn([[5.0, y], [8.0, y]], depth_m=H + 0.2)[0], "id": "D"}
    outcome = solve_floor(floor_from(tee(beams=[*pieces, deeper])))
    assert {r.id.of.id for r in outcome.rows if r.check == "beams" and r.status == "uncovered"} >= {"B1"}
    assert "B1" not in {b for s in outcome.strips.layout.strips for b in s.beams}


def test_what_is_no_piece_of_a_beam_stays_one_of_its_own():
    y, whole = WIDE / 2, [[0.0, WIDE / 2], [16.0, WIDE / 2]]
    held = [Held("C", Point(8.0, y).buffer(0.2))]

    def names(beams, bearings=held):
        return sorted(tuple(w.pieces) for w in whole_beams(floor_from(tee(2, beams=beams)).beams, bearings))

    at = [[0.0, y], [5.0, y], [16.0, y]]
    assert names(drawn(at[:2], at[1:])) == [("B1", "B0")]
    # Over a support; of another section; around a corner; apart by a joint; back along itself.
    assert names(drawn(whole[:1] + [[8.0, y]], [[8.0, y]] + whole[1:])) == [("B0",), ("B1",)]
    for other in (
        {"depth_m": H + 0.1},
        {"width_m": WEB + 0.1},
        {"top_offset_m": 0.1},
        {"torsion": "compatibility"},
        {"priority": 1},
    ):
        assert names([*drawn(at[:2]), {**drawn(at[1:])[0], "id": "B1", **other}]) == [("B0",), ("B1",)]
    assert names(drawn(at[:2], [at[1], [5.0, 2.0]])) == [("B0",), ("B1",)]
    assert names(drawn(at[:2], [[5.02, y], at[2]])) == [("B0",), ("B1",)]
    assert names(drawn(at[:2], [at[1], [2.0, y]])) == [("B0",), ("B1",)]
    # A beam that crosses there bears these if it is deeper.
    across = [[5.0, 0.0], [5.0, WIDE]]
    assert names([*drawn(at[:2], at[1:]), {**drawn(across)[0], "id": "A"}]) == [("A",), ("B1", "B0")]
    assert names([*drawn(at[:2], at[1:]), {**drawn(across, depth_m=H + 0.2)[0], "id": "A"}]) == [("A",), ("B0",), ("B1",)]
    # Four that are drawn from where they cross are two.
    parted = drawn(at[:2], at[1:], [[5.0, 0.0], [5.0, y]], [[5.0, y], [5.0, WIDE]])
    assert names(parted) == [("B1", "B0"), ("B2", "B3")]
