"""The springs told of columns and walls are those that the analysis has, and follow by hand."""

import numpy as np
import pytest

from piastra.core.fe.springs import springs
from piastra.core.model import floor_from
from piastra.core.standards import standard_of
from piastra.core.trace.formula import evaluate, parts
from tests.floors import one_bay
from tests.solving import solve_floor

STOREYS = {"below": {"height_m": 3.2, "far_end": "fixed"}, "above": {"height_m": 3.0, "far_end": "pinned"}}


def summed(steps):
    """Results by symbol and direction, those of both storeys together."""
    found = {}
    for s in steps:
        if s.result:
            place = s.result.meaning.rsplit(", ", 1)[0] if "," in s.result.meaning else ""
            found[s.result.symbol, place] = found.get((s.result.symbol, place), 0.0) + s.result.value
    return found


@pytest.fixture(scope="module")
def held():
    document = one_bay()
    document["columns"][0] |= {**STOREYS, "shape": {"kind": "rectangle", "b_m": 0.5, "d_m": 0.3}}
    document["columns"].append(
        {**document["columns"][0], "id": "R", "at": [4, 4], "shape": {"kind": "circle", "diameter_m": 0.4}}
    )
    document["walls"][0] |= STOREYS
    document["walls"].append({**document["walls"][0], "id": "H", "line": [[0, 2], [0, 5]], "top": "hinged", "above": None})
    floor = floor_from(document)
    outcome = solve_floor(floor)
    return floor, outcome.stiffness.system.held, standard_of(floor).materials.modulus(floor.concretes[0])


def test_what_is_told_of_a_column_is_what_the_analysis_has(held):
    floor, springs_, E = held
    for k, label in enumerate(("C1", "R")):
        block, sway = springs_.master_block[k], springs_.master_sway[k]
        told = summed(springs(floor, "columns", label, E))
        round_ = label == "R"
        ways = ("", "") if round_ else ("along its width b", "along its depth d")
        assert told["k_z", ""] == pytest.approx(block[0, 0])
        assert [told["k_t", w] for w in ways] == pytest.approx([block[1, 1], block[2, 2]])
        assert [told["k_s", w] for w in ways] == pytest.approx([sway[0, 0], sway[1, 1]])
    # By hand: 4 E I / 3.2 + 3 E I / 3.0 with I = 0.3 x 0.5^3 / 12, E = 32,837 MPa.
    I = 0.3 * 0.5**3 / 12
    assert pytest.approx(32.837e6, rel=1e-4) == E
    assert summed(springs(floor, "columns", "C1", E))["k_t", "along its width b"] == pytest.approx(E * I * (4 / 3.2 + 3 / 3.0))


def test_what_is_told_of_a_wall_is_what_the_analysis_has(held):
    floor, springs_, E = held
    _, owner, block, _ = springs_.springs()
    for label in ("W1", "H"):
        mine = block[owner == springs_.labels.index(label)].sum(axis=0)
        told = summed(springs(floor, "walls", label, E))
        along = 0 if label == "W1" else 1
        assert told["k_z", ""] == pytest.approx(mine[2, 2])
        assert told["k_s", "along the wall"] == pytest.approx(mine[along, along])
        if label == "W1":
            assert told["k_t", "across the wall"] == pytest.approx(mine[4, 4])
        else:
            assert np.abs(mine[3:, 3:]).max() == 0.0
            assert ("k_t", "across the wall") not in told
    assert "hinged" in springs(floor, "walls", "H", E)[-1].note


def test_every_step_gives_its_result_and_a_member_that_only_stands_above_holds_nothing_up(held):
    floor, _, E = held
    for kind, label in (("columns", "C1"), ("columns", "R"), ("walls", "W1")):
        for s in springs(floor, kind, label, E):
            if s.formula:
                assert evaluate(parts(s.formula)[1], {v.symbol: v.coherent for v in s.values}) == pytest.approx(s.result.coherent)
    document = one_bay()
    document["columns"][0] |= {"below": None, "above": STOREYS["above"]}
    told = springs(floor_from(document), "columns", "C1", E)
    assert "does not hold the floor up" in told[0].note
    assert not any(s.result and s.result.symbol == "k_z" for s in told)
    with pytest.raises(KeyError):
        springs(floor, "walls", "nobody", E)
