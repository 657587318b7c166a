"""The published verification cases hold, and the refinement falls at the element's order."""

import pytest

from piastra.core.verification import cases, refinement, report

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
