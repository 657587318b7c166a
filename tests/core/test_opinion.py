"""The second opinion: frames against closed forms, tributary areas against the load, both beside the finite elements."""

import numpy as np
import pytest

from piastra.core.model import floor_from
from piastra.core.opinion.frame import Frame, equivalent_column, torsion_constant
from piastra.exchange.results_file import second_opinion
from tests.floors import flat_slab
from tests.solving import solve_floor

E = 30e6


def frame(lengths, EI, columns, w, ends=(0.0, 0.0)):
    found = Frame(np.array(lengths), np.full(len(lengths), EI), np.array(columns, dtype=float))
    return found.moments(np.array(w, dtype=float)[:, None], np.array(ends, dtype=float)[:, None])[:, 0]


def test_frames_by_closed_forms():
    """One bay of 6 m, slab 6 x 0.25: EI = 30e6 x 6 x 0.25^3 / 12 = 234,375 kNm2; columns 0.4 square of 3.2 m above and below: 2 x 4 x 30e6 x
    0.4^4 / 12 / 3.2 = 160,000 kNm. w = 60: w L2 / 12 = 180; M = 180 K / (K + 2 EI / L) = 120.94 kNm. Two bays: the middle joint
    does not turn: M = 180 K / (K + 4 EI / L) = 91.07. A cantilever with 50 kNm takes its share off the end: (180 - 50) 0.50597."""
    EI, K = E * 6 * 0.25**3 / 12, 2 * 4 * E * 0.4**4 / 12 / 3.2
    assert pytest.approx((234375, 160000)) == (EI, K)
    assert frame([6.0], EI, [K, K], [60.0]) == pytest.approx([120.94, -120.94], rel=1e-4)
    assert frame([6.0, 6.0], EI, [K, K, K], [60.0, 60.0]) == pytest.approx([91.07, 0.0, -91.07], rel=1e-4, abs=1e-9)
    both = frame([6.0, 6.0], EI, [K, K, K], [60.0, 60.0], (50.0, 50.0))
    assert both == pytest.approx([91.07 * 130 / 180, 0, -91.07 * 130 / 180], rel=1e-4, abs=1e-9)
    # One span loaded: the sum over both spans' patterns is that of both loaded; the middle column takes its part of 180.
    left, right = frame([6.0, 6.0], EI, [K, K, K], [60.0, 0.0]), frame([6.0, 6.0], EI, [K, K, K], [0.0, 60.0])
    assert left + right == pytest.approx([91.07, 0, -91.07], rel=1e-4, abs=1e-9)
    assert left[1] < 0 < right[1]


def test_columns_of_aci_turn_with_torsional_members():
    """h = 0.2, c_1 = 0.4: C = (1 - 0.63 x 0.5) x 0.2^3 x 0.4 / 3 = 7.3067e-4 m4. l_2 = 6, c_2 = 0.4: K_t = 2 x 9 E C / (6 x 0.93333^3) = 80,886
    kNm at E = 30 GPa; with columns of 160,000: 1 / (1 / 160,000 + 1 / 80,886) = 53,726."""
    C = torsion_constant(0.2, 0.4)
    assert pytest.approx(7.3067e-4, rel=1e-4) == C
    assert torsion_constant(0.4, 0.2) == pytest.approx(C)
    assert equivalent_column(160000.0, E, C, 0.4, (6.0, 6.0)) == pytest.approx(53726, rel=1e-3)
    assert equivalent_column(160000.0, E, C, 0.4, ()) == 0.0


@pytest.mark.parametrize("standard", ["EN 1992-1-1", "ACI 318-19"])
def test_a_regular_floor_agrees_with_the_finite_elements(standard):
    data = flat_slab(3, 3, size=0.8, standard=standard)
    outcome = solve_floor(floor_from(data))
    found = {o["column"]: o for o in second_opinion(outcome)}
    full = next(f for f in outcome.combinations if f.limit_state == "ultimate").full
    total = sum(o.force @ full for o in outcome.opinions)
    assert total == pytest.approx(outcome.loads.vectors()[:, 2].sum(axis=0) @ full, rel=1e-6)
    # Corner, edge and inner columns of equal bays: a quarter, half and whole panels of 36 m2, with 0.2 m beyond the outer lines.
    q = total / 18.4**2
    assert found["C00"]["tributary_kN"] == pytest.approx(3.2**2 * q, rel=1e-6)
    assert found["C11"]["tributary_kN"] == pytest.approx(36 * q, rel=1e-6)
    for o in found.values():
        assert len(o["frames"]) == 2
        for f in o["frames"]:
            # Unlike moments of some size agree in sign; edge columns within a third, to both sides of which both methods are known to lie.
            if abs(f["M_kNm"]) > 20:
                assert 0.6 < f["frame_kNm"] / f["M_kNm"] < 1.6
    assert found["C10"]["frames"][1]["frame_kNm"] > 20


def test_lines_that_are_not_regular_have_no_frame():
    data = flat_slab(2, 2, size=1.0)
    data["columns"] = [c for c in data["columns"] if c["id"] != "C11"]
    found = {o["column"]: o for o in second_opinion(solve_floor(floor_from(data)))}
    # Through the missing column only two supports are left on each line.
    assert len(found["C01"]["frames"]) == 1
    assert len(found["C00"]["frames"]) == 2
