"""The published verification cases hold, and the refinement falls at the element's order."""

import pytest

from piastra.core.verification import SPECIMENS, cases, predicted, refinement, report

ALL = cases()


def test_there_are_enough_cases():
    assert len(ALL) >= 14
    assert len({c.name for c in ALL}) == len(ALL)


@pytest.mark.parametrize("case", ALL, ids=lambda c: c.name)
def test_case(case):
    row = case.run()
    assert row.quantities
    assert row.holds, row.line()


def test_refinement_falls_at_order_two_or_better():
    study = refinement()
    for name, steps in study:
        assert abs(steps[-1][1]) < 1e-3, name
        assert steps[-1][2] > 1.8, name
        assert steps[-2][2] > 1.8, name
    text = report([], study)
    assert "| 64 |" in text


def test_measured_slabs_and_beams_are_met():
    """Of the tests one beam and two slabs, the lightest and the heaviest loaded: within a sixth at the end, for nothing is fitted to them. Their moments are
    those that the report names."""
    moments = {"B1-a": 24.9, "B2-b": 16.8, "B3-a": 34.6, "S1-b": 5.28, "S2-a": 9.87, "S3-a": 11.4}
    for s in SPECIMENS:
        assert s.moment == pytest.approx(moments.get(s.name, s.moment), rel=5e-3)
    found = [predicted(s) for s in SPECIMENS if s.name in ("B2-a", "S1-b", "S3-a")]
    assert all(abs(m.ratio - 1) < 1 / 6 for m in found)
    text = report([], [], found)
    assert "Gilbert and Nejadi 2004" in text
    assert f"| S1-b | 5.28 | 2.6 | {found[1].early:.1f} | 19.9 | {found[1].late:.1f} |" in text
