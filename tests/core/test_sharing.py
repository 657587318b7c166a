"""Panels that share a load vector: which ones may, and what it changes."""

import numpy as np
import pytest
import shapely

from piastra.core.combine.envelope import envelopes
from piastra.core.combine.sharing import COLUMNS, NEAR, ROWS, alone, shared, wanted
from piastra.core.model import floor_from
from piastra.core.stages import StageCache
from tests.floors import flat_slab
from tests.solving import solve_floor


def grid(nx, ny, a=6.0):
    return tuple((f"P{i}-{j}", shapely.box(i * a, j * a, (i + 1) * a, (j + 1) * a)) for j in range(ny) for i in range(nx))


@pytest.fixture(scope="module", params=[(12, 4), (7, 10)], ids=["along a row", "rows apart"])
def both(request):
    """A floor of 12 x 4 bays, where panels of one row share, and one of 7 x 10, where those of two rows do, each panel by itself and shared."""
    document = {**flat_slab(*request.param, 6.0, 1.2), "mats": []}
    return [solve_floor(floor_from({**document, "panels_together": choice})) for choice in ("never", "always")]


def test_panels_share_only_far_away_and_alternate_ones_stay_alternate():
    panels = grid(24, 13)
    groups = shared(panels, 0.0)
    shapes = dict(panels)
    assert sorted(label for group in groups for label in group) == sorted(shapes)
    assert len(groups) == COLUMNS * ROWS == 80
    for group in groups:
        column, row = np.array([[int(n) for n in label[1:].split("-")] for label in group]).T
        assert np.ptp(column % 2) == 0
        assert np.ptp(row % 2) == 0
        far = np.hypot(column[:, None] - column, row[:, None] - row)
        assert far[far > 0].min(initial=np.inf) > 8.9
        for k, label in enumerate(group[1:], 1):
            assert min(shapes[label].distance(shapes[p]) for p in group[:k]) >= NEAR * 6.0


def test_few_panels_are_each_by_itself_unless_it_is_asked_for():
    assert [wanted("auto", n) for n in (60, 61)] == [False, True]
    assert (wanted("never", 500), wanted("always", 2)) == (False, True)
    assert alone(grid(2, 1)) == (("P0-0",), ("P1-0",))
    assert solve_floor(floor_from(flat_slab(2, 2, size=1.5))).loads.apart is None
    # Pieces of a floor that do not touch are counted apart, so equal places may lie side by side.
    twins = (*grid(1, 1), ("far", shapely.box(6.5, 0, 12.5, 6)))
    assert len(shared(twins, 0.0)) == 2


@pytest.mark.study
def test_shared_panels_change_no_envelope_by_more_than_a_ten_thousandth_of_its_peak(both):
    exact, fast = both
    assert (len(exact.loads.units), len(fast.loads.units)) in ((49, 41), (71, 63))
    f, g = exact.combinations[0], fast.combinations[0]
    pairs = [(exact.solution.u[:, 2], fast.solution.u[:, 2]), (exact.solution.reactions[:, 0], fast.solution.reactions[:, 0]),
             (exact.strips.cuts.forces[:, 0], fast.strips.cuts.forces[:, 0])]  # fmt: skip
    pairs += [(exact.forces[:, k], fast.forces[:, k]) for k in range(3, 8)]
    for one, other in pairs:
        for a, b in zip(envelopes(one, [f]), envelopes(other, [g]), strict=True):
            assert np.abs(a - b).max() < 1e-4 * np.abs(a).max()
    # With all panels loaded nothing is left out: displacements to rounding, section forces to the seven figures that are kept of them.
    whole = exact.solution.u @ f.full
    assert np.abs(fast.solution.u @ g.full - whole).max() < 1e-9 * np.abs(whole).max()
    assert (exact.forces.dtype, fast.forces.dtype) == (np.float64, np.float32)
    for k in range(3, 8):
        whole = exact.forces[:, k] @ f.full
        assert np.abs(fast.forces[:, k] @ g.full - whole).max() < 1e-6 * np.abs(whole).max()
    assert fast.solution.reactions[:, 0].sum() == pytest.approx(exact.solution.reactions[:, 0].sum(), rel=1e-9)


@pytest.mark.study
def test_the_change_is_measured_and_told(both):
    exact, fast = both
    assert not [m for m in exact.messages if "bays apart" in m.sentence]
    (note,) = [m for m in fast.messages if "bays apart" in m.sentence]
    told = float(note.sentence.split("moments by ")[1].split(" of")[0])
    assert 1e-7 < told < 1e-4
    unit, _, vector = fast.loads.apart
    assert len(fast.loads.units[unit].panels) == 2
    assert vector[:, 2].sum() == pytest.approx(4.0 * 36.0, rel=0.05)
    # An arrangement names all panels that it loads.
    zone = max(fast.zones, key=lambda z: z.utilisation)
    of_units = {u.panels for u in fast.loads.units if u.case == "Q"}
    named = {p.panel for p in zone.panels if p.case == "Q"}
    assert named
    assert all(set(panels) <= named or not set(panels) & named for panels in of_units)


@pytest.mark.study
def test_forces_that_were_kept_to_seven_figures_are_no_exact_ones():
    """A floor whose panels shared vectors, and then do not, on the mesh and stiffness that there are."""
    document, cache = {**flat_slab(12, 1, 6.0, 2.0), "mats": []}, StageCache()
    shared_ones = solve_floor(floor_from({**document, "panels_together": "always"}), cache)
    exact = solve_floor(floor_from({**document, "panels_together": "never"}), cache)
    anew = solve_floor(floor_from({**document, "panels_together": "never"}), StageCache())
    assert (shared_ones.forces.dtype, exact.forces.dtype) == (np.float32, np.float64)
    assert np.abs(exact.forces - anew.forces).max() < 1e-12 * np.abs(anew.forces).max()


def test_panels_that_are_too_near_to_act_together_leave_no_check_passed(monkeypatch):
    for name, value in (("COLUMNS", 2), ("ROWS", 2), ("ASIDE", 0), ("NEAR", 0.1)):
        monkeypatch.setattr(f"piastra.core.combine.sharing.{name}", value)
    document = flat_slab(5, 1, 6.0, 0.9)
    document["combinations"].append({"id": "C1", "limit_state": "characteristic", "factors": {"G": 1.0, "Q": 1.0}})
    near = solve_floor(floor_from({**document, "panels_together": "always"}))
    for row in near.verdict:
        assert row.status in ("uncovered", "fail")
        (told,) = [r for r in near.rows if r.check == row.check and r.id.part == "pattern load"]
        assert (told.status, told.utilisation) == ("uncovered", None)
        assert "act together" in told.reason
    alone = solve_floor(floor_from({**document, "panels_together": "never"}))
    assert not [r for r in alone.rows if r.id.part == "pattern load"]
