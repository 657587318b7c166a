"""Strips: widths, stations, and the free body of a cut right across the floor."""

import numpy as np
import pytest

from piastra.core.fe.recovery import section_forces
from piastra.core.model import floor_from
from tests.floors import flat_slab
from tests.solving import solve_floor


@pytest.fixture(scope="module")
def outcome():
    return solve_floor(floor_from(flat_slab(3, 3)))


def test_column_strips_are_a_quarter_span_each_side_and_stations_lie_at_faces_and_tenths(outcome):
    layout, cuts = outcome.strips.layout, outcome.strips.cuts
    inner = next(s for s in layout.strips if s.kind == "column" and s.direction == "x" and s.supports == ("C11", "C21"))
    assert (inner.left, inner.right) == pytest.approx((1.5, -1.5))
    edge = next(s for s in layout.strips if s.kind == "column" and s.direction == "x" and s.supports == ("C10", "C20"))
    assert (edge.left, edge.right) == pytest.approx((1.5, -0.2))
    s = cuts.s[cuts.strip == layout.strips.index(inner)]
    assert s == pytest.approx(6.2 + 5.6 * np.arange(11) / 10, abs=0.003)
    assert {len(a.bearings) for a in layout.axes} == {4}


def test_strips_across_the_floor_balance_the_loads_on_one_side_of_the_cut(outcome):
    """Mid-span of the middle bay: sum of strip moments and shears against loads and reactions to its left."""
    layout, cuts = outcome.strips.layout, outcome.strips.cuts
    x = 9.0
    mine = [
        k for k in range(len(cuts.strip))
        if layout.strips[cuts.strip[k]].direction == "x" and abs(cuts.s[k] - x) < 0.02
    ]  # fmt: skip
    assert cuts.width[mine].sum() == pytest.approx(18.4, abs=1e-6)
    for unit in range(len(outcome.loads.units)):
        moment = cuts.forces[mine, 0, unit].sum()
        total = outcome.loads.applied[unit]
        panel = dict(outcome.loads.panels).get(outcome.loads.units[unit].panel)
        bounds = panel.bounds if panel is not None else (-0.2, -0.2, 18.2, 18.2)
        share = np.clip((x - bounds[0]) / (bounds[2] - bounds[0]), 0, 1)
        load_left, arm = total * share, x - (bounds[0] + min(x, bounds[2])) / 2
        held = outcome.stiffness.system.held
        F, _, My = outcome.solution.reactions[:, :, unit].T
        at = np.array(held.centre)[:, 0]
        near = at < x
        expected = (F[near] * (x - at[near])).sum() + My[near].sum() - load_left * arm
        size = max(abs(expected), 0.01 * total * 6)
        assert abs(moment - expected) < 0.01 * size, outcome.loads.units[unit]


def test_strip_moment_of_a_span_is_close_to_its_static_moment(outcome):
    """Self-weight: mean of the ends' hogging plus mid-span sagging, all strips of a bay's width, is q L2/8."""
    layout, cuts = outcome.strips.layout, outcome.strips.cuts
    total = []
    for s, sign in ((6.202, -0.5), (9.0, 1.0), (11.798, -0.5)):
        mine = [k for k in range(len(cuts.strip)) if layout.strips[cuts.strip[k]].direction == "x" and abs(cuts.s[k] - s) < 0.01]
        total.append(sign * cuts.forces[mine, 0, 0].sum())
    q = 25 * 0.25 * 18.4
    assert sum(total) == pytest.approx(q * 5.6**2 / 8, rel=0.02)


def test_recovered_forces_are_linear_in_the_displacements(outcome):
    u = outcome.solution.u
    twice = section_forces(outcome.stiffness.system, outcome.stiffness.kept, 2 * u[..., :1])
    assert np.abs(twice - 2 * outcome.forces[..., :1]).max() < 1e-9 * np.abs(outcome.forces).max()


def test_symmetric_floor_has_symmetric_steel_and_zones(outcome):
    use = {z.column: z.utilisation for z in outcome.zones}
    for group in (("C00", "C30", "C03", "C33"), ("C10", "C20", "C01", "C02", "C31", "C13"), ("C11", "C21", "C12", "C22")):
        values = [use[c] for c in group]
        assert max(values) == pytest.approx(min(values), rel=0.02)
    # Bars along x lie in the outer layer, so the y direction needs the more steel.
    rows = {r.label: r.utilisation for r in outcome.rows if r.check == "flexure"}
    assert rows["top x, column strip C11–C21"] < rows["top y, column strip C11–C12"]


def test_the_column_strip_of_a_short_cantilever_is_as_wide_as_its_column():
    """0.5 m beyond a column of 0.4 m: a quarter of it to each side would be 0.25 m in all. At 1.5 m it is 0.75."""
    for out, width in ((0.5, 0.4), (1.5, 0.75)):
        data = flat_slab(2, 2)
        data["slabs"][0]["outline"] = [[-0.2 - out, -0.2], [12.2, -0.2], [12.2, 12.2], [-0.2 - out, 12.2]]
        layout = solve_floor(floor_from(data)).strips.layout
        found = [s for s in layout.strips if s.cantilever and s.direction == "x" and s.kind == "column"]
        inner = [s.left - s.right for s in found if "C01" in s.supports]
        assert inner == pytest.approx([width], abs=1e-6)
        # At the edge of the floor there is half of it, to one side only where the edge is nearer.
        edge = [s.left - s.right for s in found if "C00" in s.supports]
        assert edge == pytest.approx([min(0.2, width / 2) + width / 2], abs=1e-6)


def test_concrete_that_no_station_runs_through_is_told():
    """A slot into the slab parts a middle strip of 2 m along y, from 2 to 4 m, into 0.85 and 1.05 m, which its stations take."""
    data = flat_slab(2, 1, a=8.0, size=0.6)
    (x0, y0), (x1, y1) = data["slabs"][0]["outline"][0], data["slabs"][0]["outline"][2]
    slot = [[2.85, y0], [2.85, 3.0], [2.95, 3.0], [2.95, y0]]
    data["slabs"][0]["outline"] = [[x0, y0], *slot, [x1, y0], [x1, y1], [x0, y1]]
    outcome = solve_floor(floor_from(data))
    ((direction, piece),) = outcome.strips.layout.beside
    assert direction == "y"
    # As far as half way from 2.48 m, the last station that crosses the slot, to the next one 0.76 m further on.
    assert piece.bounds == pytest.approx((2.0, y0, 2.85, 2.86), abs=1e-3)
    assert piece.area == pytest.approx(0.85 * (2.86 - y0), rel=1e-3)
    told = {r.check: r.status for r in outcome.rows if r.id.part == "y1"}
    assert told["flexure"] == told["crack_width"] == "uncovered"
