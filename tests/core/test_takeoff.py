"""What floors are made of, by hand."""

import pytest

from piastra.core.model import floor_from
from piastra.core.pipeline import scheduled
from piastra.core.readings.takeoff import takeoff
from tests.core.test_beams import HF, WEB, WIDE, H, L, tee
from tests.core.test_tendons import points, strip, tendon
from tests.solving import solve_floor


def test_the_web_of_a_beam_counts_below_the_slab_and_carbon_by_the_floors_factors():
    outcome = solve_floor(floor_from(tee(2, carbon={"concrete_kg_m3": 210.0, "steel_kg_per_kg": 1.7})), rigorous=False)
    bars = scheduled(outcome)
    found = takeoff(outcome, bars)
    # Two spans of slab, and the web without what of it lies in the slab.
    assert found.concrete == pytest.approx(2 * L * (WIDE * HF + WEB * (H - HF)), rel=1e-9)
    assert found.bars == pytest.approx(sum(b.mass for b in bars))
    assert found.bars > 100
    assert (found.strands, found.carbon) == (0.0, pytest.approx(210 * found.concrete + 1.7 * found.bars))


@pytest.mark.parametrize(("given", "per_metre"), [(None, 4 * 150e-6 * 7850), (1.25, 5.0)])
def test_strands_weigh_by_their_own_figure_or_by_their_area(given, per_metre):
    straight = tendon(points((0, -150, "free"), (10, -150, "free")), count=4)
    data = strip([10.0], [straight])
    data["strands"] = [{**s, "area_mm2": 150.0, "mass_kg_m": given} for s in data["strands"]]
    outcome = solve_floor(floor_from(data), rigorous=False)
    found = takeoff(outcome, [])
    assert found.strands == pytest.approx(10 * per_metre, rel=1e-6)
    assert found.carbon == pytest.approx(300 * found.concrete + found.strands)
