"""The share of cracked sections by curvature, and how near the quick estimate comes to where its solutions end."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from piastra.core.history import estimate
from piastra.core.history.cracks import Branches, share_by_curvature, share_of
from piastra.core.pipeline import solve_floor
from piastra.exchange.floor_file import floor_from
from tests.floors import flat_slab


def bent(worst, before=0.0, soft=4.0, trial=10.0):
    """A section of unit flexibility whole and ``soft`` cracked, that cracks at a moment of ``trial / worst``, tried under a moment ``trial``."""
    one = np.array([1.0])
    return Branches(one * worst, one * worst / trial, (one * trial, one), (one * soft * trial, one * soft), one * before)


def curvature(M, cracks_at, beta, soft=4.0, before=0.0):
    z = share_of(np.array([max(M / cracks_at, before)]), beta)
    return (1 - z) * M + z * soft * M


@given(st.floats(0.2, 4.0), st.floats(0.3, 3.0), st.sampled_from([0.5, 1.0, 0.0]), st.floats(1.5, 20.0))
def test_the_share_is_that_of_the_moment_that_the_curvature_belongs_to(M, worst, beta, soft):
    """Whatever moment is tried: both branches are straight lines here, so that the answer is exact."""
    cracks_at = 1.0
    tried = bent(worst, soft=soft, trial=worst * cracks_at)
    k = curvature(M, cracks_at, beta, soft)
    if abs(M - 1) > 1e-6:
        assert share_by_curvature(tried, k, beta) == pytest.approx(share_of(np.array([M]), beta), abs=1e-7)


def test_over_the_leap_the_moment_stays_and_the_share_grows_in_a_line():
    """Cracking moment 10, curvature 10 whole and 40 open: (7.18) leaps to a share of 0.5, a curvature of 25."""
    for worst in (0.4, 1.0, 2.5):
        tried = bent(worst, trial=10 * worst)
        for k, share in ((5.0, 0.0), (10.0, 0.0), (13.0, 0.1), (17.5, 0.25), (24.99, 0.4997)):
            assert share_by_curvature(tried, np.array([k]), 0.5)[0] == pytest.approx(share, abs=1e-4)


def test_what_has_cracked_does_not_close():
    """Tension twice the strength once: a share of 0.875 at all lower moments, and curvatures 0.125 + 0.875 * 4 times the moment."""
    tried = bent(0.5, before=2.0, trial=5.0)
    assert share_by_curvature(tried, np.array([3.625 * 8.0]), 0.5)[0] == pytest.approx(0.875)
    # Beyond that it opens further: at three times the strength (30) to 1 - 0.5 / 9.
    z = 1 - 0.5 / 9
    assert share_by_curvature(tried, np.array([30 * (1 - z + 4 * z)]), 0.5)[0] == pytest.approx(z)


def test_a_section_that_is_not_softer_cracked_has_no_leap():
    tried = bent(0.9, soft=0.8, trial=9.0)
    found = share_by_curvature(tried, np.array([8.0]), 0.5), share_by_curvature(tried, np.array([12.0]), 0.5)
    assert found[0] == pytest.approx(0.0)
    assert found[1] == pytest.approx(share_of(np.array([1.2]), 0.5), abs=1e-6)


@pytest.mark.study
def test_the_estimate_ends_near_where_it_would_come_to_rest(monkeypatch):
    """Spans and cantilevers beside each other: what its end leaves open is next to nothing of each sag, not of the greatest alone."""
    data = flat_slab(3, 2, size=0.5)
    data["slabs"][0].update(thickness_m=0.2, outline=[[-0.2, -0.2], [20.2, -0.2], [20.2, 12.2], [-0.2, 12.2]])
    data["loads"] = [{"id": "d", "case": "G", "kind": "area", "q_kPa": 4.0}]
    data["design_bars"] = True
    floor = floor_from(data)
    found = solve_floor(floor, remedies=False)
    monkeypatch.setattr(estimate, "ROUNDS", 100)
    monkeypatch.setattr(estimate, "SETTLED", 3e-4)
    rest = solve_floor(floor, remedies=False)
    assert rest.long_term.change < 3e-4
    assert found.long_term.cracked.any(axis=0).mean() > 0.05
    for own, still in zip(found.sags, rest.sags, strict=True):
        assert own.utilisation == pytest.approx(still.utilisation, rel=0.02, abs=0.004), own.line.id


@pytest.mark.parametrize(("moved", "told"), [(0.021, True), (0.019, False)])
def test_an_estimate_that_still_moves_is_no_pass(monkeypatch, moved, told):
    """Beyond 2 % from one solution to the next, whatever it says of each line."""
    inner = estimate._bent
    monkeypatch.setattr(estimate, "_bent", lambda *given: (*inner(*given)[:3], moved))
    outcome = solve_floor(floor_from(flat_slab(2, 1, size=1.0)), remedies=False)
    rows = [r for r in outcome.rows if r.check == "deflection"]
    assert any(r.id.part == "estimate" for r in rows) == told
    worst = next(r for r in outcome.verdict if r.check == "deflection")
    assert worst.status == ("uncovered" if told else "pass"), worst


@pytest.mark.parametrize(("share", "told"), [(0.02, True), (0.005, False)])
def test_a_section_open_in_part_has_cracked_although_its_last_forces_lie_below(monkeypatch, share, told):
    """A slab with bottom bars alone, far below cracking: where sections are open to more than a hundredth, it is told that their top has no bars."""
    inner = estimate._bent

    def bent(*given):
        u, forces, trial, change = inner(*given)
        return u, forces, replace(trial, zeta=np.full_like(trial.zeta, share)), change

    monkeypatch.setattr(estimate, "_bent", bent)
    data = flat_slab(2, 1, a=3.0, size=0.75)
    data["slabs"][0]["thickness_m"] = 0.4
    data.update(design_bars=False, mats=[m for m in data["mats"] if m["face"] == "bottom"])
    found = solve_floor(floor_from(data), remedies=False).long_term
    assert found.worst.max() < 1
    assert (found.cracked.all(), found.bare.any()) == (told, told)


@pytest.mark.parametrize("rounds", [16, 3])
def test_solutions_between_change_no_unit_loads_deflection(monkeypatch, rounds):
    """Each unit load's own deflection is that of the last sections' stiffness, and not that of the factorisation which the way there was found with, whether
    the way came to rest or ended before."""
    monkeypatch.setattr(estimate, "ROUNDS", rounds)
    data = flat_slab(2, 2, size=0.75)
    data["slabs"][0]["thickness_m"] = 0.18
    data["loads"] = [{"id": "d", "case": "G", "kind": "area", "q_kPa": 4.0}]
    data["design_bars"] = False
    found = solve_floor(floor_from(data), remedies=False).long_term
    # Nothing is near enough: each solution is exact.
    monkeypatch.setattr(estimate, "NEAR", -1.0)
    exact = solve_floor(floor_from(data), remedies=False).long_term
    assert found.cracked.any(axis=0).mean() > 0.1
    most = np.abs(exact.w).max(axis=0)
    assert (np.abs(found.w - exact.w).max(axis=0) <= 0.01 * most + 1e-5).all()
