"""Every displayed formula, evaluated with its displayed values, gives its displayed result."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from piastra.core.model import floor_from
from piastra.core.trace.formula import FormulaError, evaluate, names, parts
from piastra.demo.lodge import second_floor
from tests.core.test_beams import tee
from tests.floors import every_kind, flat_slab
from tests.solving import solve_floor

# Exponents of force and length: what a number in kN and m becomes in kip and ft.
DIMENSIONS = {
    "length": (0, 1), "size": (0, 1), "cover": (0, 1), "bar": (0, 1), "deflection": (0, 1), "area": (0, 2), "line_moment": (0, 2),
    "stress": (1, -2), "shear_stress": (1, -2), "pressure": (1, -2), "lineload": (1, -1), "force": (1, 0), "moment": (1, 1),
    "force_per_m": (1, -1), "moment_per_m": (1, 0), "weight": (1, -3), "bedding": (1, -3), "steel_per_m": (0, 1), "none": (0, 0),
    "share": (0, 0), "steel": (0, 2), "per_m": (0, -1),
}  # fmt: skip
KIP, FOOT = 4.4482216152605, 0.3048


def in_kip_and_feet(value):
    force, length = DIMENSIONS[value.quantity]
    return value.coherent / KIP**force / FOOT**length


def broken(step):
    """What is wrong with a step, or nothing."""
    if not step.formula:
        return None
    symbol, expression = parts(step.formula)
    if step.result is None or symbol != step.result.symbol:
        return f"gives {symbol}, but its result is {step.result}"
    if names(expression) != {v.symbol for v in step.values}:
        return f"{step.formula} has the values {[v.symbol for v in step.values]}"
    if not step.clause and step.title.startswith(("Resistance", "Least", "Steel for")):
        return "has no clause"
    readings = [(lambda v: v.value)] if step.empirical else [lambda v: v.coherent, in_kip_and_feet]
    for read in readings:
        found = evaluate(expression, {v.symbol: read(v) for v in step.values})
        if not math.isclose(found, read(step.result), rel_tol=1e-9, abs_tol=1e-9):
            return f"{step.formula} = {found}, told as {read(step.result)}"
    return None


def with_compression_steel():
    document = flat_slab(2, 1, a=8.0, size=1.0)
    document["slabs"][0]["thickness_m"] = 0.16
    document["loads"][0]["q_kPa"] = 25.0
    document["concretes"][0]["strength_MPa"] = 60.0
    return document


def tee_among_chlorides(q):
    """A tee whose concrete is limited in service, with links, flanges and all bars given by mats."""
    document = tee(
        2,
        mats=[{"id": f + d, "face": f, "direction": d, "bar_mm": 12, "spacing_mm": 100} for f in ("bottom", "top") for d in "xy"],
    )
    document["combinations"].append({"id": "C", "limit_state": "characteristic", "factors": {"Q": 1.0}})
    document["loads"][0]["q_kPa"], document["exposure"] = q, "XD1"
    return document


FLOORS = {
    **{f"tee {q}": floor_from(tee_among_chlorides(q)) for q in (10.0, 30.0, 60.0)},
    "lodge": second_floor(),
    "every kind": floor_from(every_kind()),
    "compression steel": floor_from(with_compression_steel()),
}


def agreeing(outcome):
    """Every step of every trace agrees with itself; those that are traced. Demo floors are looked at where they are solved."""
    traced = [r for r in outcome.rows if r.trace]
    assert traced
    for row in traced:
        for step in row.trace.steps:
            assert broken(step) is None, (row.id.key, step.title, broken(step))
        # The last comparison is the row's utilisation, or one of two that it is the greater of.
        uses = [s.result.value for s in row.trace.steps if s.result and s.result.symbol == "use"]
        assert max(uses) == pytest.approx(row.utilisation, rel=1e-9), row.id.key
    keys = [r.id.key for r in outcome.rows]
    assert len(set(keys)) == len(keys)
    return traced


@pytest.mark.parametrize("name", [pytest.param(k, marks=pytest.mark.study) if k == "lodge" else k for k in FLOORS])
def test_every_step_of_every_trace_agrees_with_itself(name):
    traced = agreeing(solve_floor(FLOORS[name]))
    if name == "compression steel":
        formulas = {s.formula for r in traced for s in r.trace.steps}
        assert any("A_s2 / A_s2,prov" in f for f in formulas)
        assert any("ln(1 +" in f for f in formulas)


def test_the_language_of_formulas():
    values = {"a": 3.0, "b": 4.0, "v_Rd,c": 2.0, "rho_l": 0.01, "f'_c": 25.0}
    assert evaluate("sqrt(a^2 + b^2)", values) == 5.0
    assert evaluate("max(a, b - 10, v_Rd,c) · 2", values) == 6.0
    assert evaluate("2^-1 · (100 · rho_l)^(1/3)", values) == pytest.approx(0.5)
    assert evaluate("-a + abs(-b) - 1 - 1", values) == -1.0
    assert evaluate("a / b / 2", values) == 0.375
    assert evaluate("4700 · sqrt(f'_c)", values) == 23500.0
    assert names("max(C_Rd,c · k, v_min) · ln(2)") == {"C_Rd,c", "k", "v_min"}
    for wrong in ("a +", "(a", "a b", "c", "sqrt a", "max(a, b"):
        with pytest.raises(FormulaError):
            evaluate(wrong, values)
    with pytest.raises(FormulaError):
        parts("a + b")


@given(st.floats(0.1, 10), st.floats(0.1, 10), st.floats(0.1, 10))
def test_signs_and_ranks_of_operators(x, y, z):
    values = {"x": x, "y": y, "z": z}
    assert evaluate("x + y · z^2 - x / y", values) == pytest.approx(x + y * z**2 - x / y)
    assert evaluate("x - (y - z) - -x", values) == pytest.approx(x - (y - z) + x)
