"""The steel of no arrangement exceeds what is told: by brute force over all of them."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.combine.envelope import Factors, envelopes
from piastra.core.model import floor_from
from piastra.core.model.materials import Concrete, Rebar
from piastra.core.reinforcement.stations import ultimate_pair
from piastra.core.reinforcement.worst import Responses
from piastra.core.standards import standard_named
from piastra.core.standards.protocol import Sections
from tests.floors import flat_slab
from tests.solving import solve_floor

PAIR = (Concrete(id="C30", strength_MPa=30.0), Rebar(id="B500", yield_MPa=500.0))
H, D, D2 = 0.25, 0.21, 0.04
ARM = D - H / 2


def combination(always, pattern=None, name="U"):
    always = np.array(always, dtype=float)
    return Factors(name, "ultimate", always, np.zeros(len(always)) if pattern is None else np.array(pattern, dtype=float))


def bound(moment, axial, twist, combinations, standard):
    """Pair and steel of one section whose unit responses are given."""
    found = Responses(np.array([moment]), np.array([twist]), np.array([axial]), np.array([ARM]))
    one = np.ones(1)
    pick = ultimate_pair(found, H * one, D * one, D2 * one, standard, np.zeros(1, dtype=int), (PAIR,), combinations)
    return pick, steel(pick.m[0], pick.n[0], standard)


def steel(m, n, standard):
    one = np.ones(1)
    return standard.flexure.design(np.array([m]), np.array([n]), Sections(H * one, D * one, D2 * one, *PAIR)).tension[0]


def brute(moment, axial, twist, combinations, standard):
    """The greatest steel of every combination under every choice of its pattern units."""
    most = 0.0
    for c in combinations:
        units = np.flatnonzero(c.pattern)
        for on in product((0.0, 1.0), repeat=len(units)):
            factor = c.always.copy()
            factor[units] += np.array(on) * c.pattern[units]
            n = float(axial @ factor)
            m = float(moment @ factor) + np.abs(twist @ factor).sum() - n * ARM
            most = max(most, steel(m, n, standard))
    return most


@pytest.mark.parametrize("name", ["EN 1992-1-1", "ACI 318-19"])
def test_of_two_combinations_the_one_that_asks_for_more_steel_governs(name):
    """(60, -300) has the greater moment about the steel, 60 + 300 x 0.085 = 85.5, but (60, 0) needs the more steel."""
    standard = standard_named(name)
    units = [60.0, 60.0], [-300.0, 0.0], [[0.0, 0.0]]
    pick, found = bound(*(np.array(u) for u in units), [combination([1, 0]), combination([0, 1])], standard)
    assert (pick.m[0], pick.n[0], pick.combination[0]) == pytest.approx((60.0, 0.0, 1))
    assert found == pytest.approx(steel(60.0, 0.0, standard), rel=1e-9)
    if name == "EN 1992-1-1":
        # mu = 60 / (20000 x 0.0441) = 0.06803, omega = 0.07052, x 20000 x 0.21 / 434783 = 681 mm2/m.
        assert found == pytest.approx(681e-6, rel=1e-3)


numbers = st.floats(-80, 80)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(numbers, st.floats(-150, 150), st.floats(-20, 20), st.floats(-20, 20)), min_size=2, max_size=5),
       st.sampled_from(["EN 1992-1-1", "ACI 318-19"]))  # fmt: skip
def test_no_arrangement_needs_more_steel_than_the_bound(units, name):
    """Random units, two combinations with pattern load, with and without twist in two halves of the width."""
    standard = standard_named(name)
    m, n, t1, t2 = (np.array(a) for a in zip(*units, strict=True))
    first = np.zeros(len(m))
    first[0] = 1.35
    live = np.where(first > 0, 0.0, 1.5)
    combinations = [combination(first, live), combination(first / 1.35, 0.8 * live, "V")]
    for twist in (np.zeros((1, len(m))), t1[None], np.stack([t1, t2])):
        most = brute(m, n, twist, combinations, standard)
        _, found = bound(m, n, twist, combinations, standard)
        assert found >= most * (1 - 1e-9) - 1e-12
    # Where units pull the same way in moment and force, the bound is the worst arrangement itself.
    same = brute(np.abs(m), np.abs(n) / 10, np.zeros((1, len(m))), combinations, standard)
    assert bound(np.abs(m), np.abs(n) / 10, np.zeros((1, len(m))), combinations, standard)[1] == pytest.approx(same, rel=1e-6)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(st.floats(-3, 3), min_size=5, max_size=5), min_size=1, max_size=3), st.integers(0, 2**32 - 1))
def test_least_and_greatest_are_those_of_all_arrangements(patterns, seed):
    """Five units, some with factors below nought or of none, under one combination and several."""
    values = np.random.default_rng(seed).normal(size=(4, 5))
    combinations = [combination(np.linspace(-1, 1, 5), p) for p in patterns]
    on = np.array(list(product((0.0, 1.0), repeat=5)))
    every = np.stack([values @ (c.always + on * c.pattern).T for c in combinations], axis=1)
    least, greatest = envelopes(values, combinations)
    assert least == pytest.approx(every.min(axis=2), abs=1e-12)
    assert greatest == pytest.approx(every.max(axis=2), abs=1e-12)


@pytest.mark.parametrize("thickening", [None, pytest.param(0.45, marks=pytest.mark.study)])
def test_no_station_of_a_floor_has_less_steel_than_any_arrangement_asks_for(thickening):
    """All 2^4 arrangements of a floor of 2 x 2 bays, with drop panels that give axial forces."""
    data = flat_slab(2, 2, size=0.8)
    data["combinations"].append({"id": "U2", "limit_state": "ultimate", "factors": {"G": 1.0, "Q": 1.5}})
    if thickening:
        data["thickenings"] = [
            {"id": "D", "kind": "drop_panel", "outline": [[5, 5], [7, 5], [7, 7], [5, 7]], "thickness_m": thickening}
        ]
    outcome = solve_floor(floor_from(data))
    cuts, told = outcome.strips.cuts, outcome.steel.stations
    width = cuts.width[:, None]
    ultimate = [f for f in outcome.combinations if f.limit_state == "ultimate"]
    for face, sign in ((0, 1.0), (1, -1.0)):
        at = told.faces[face].at
        most = np.zeros(len(cuts.strip))
        for c in ultimate:
            units = np.flatnonzero(c.pattern)
            assert len(units) == 4
            for on in product((0.0, 1.0), repeat=len(units)):
                factor = c.always.copy()
                factor[units] += np.array(on) * c.pattern[units]
                n = cuts.forces[:, 3] @ factor / width[:, 0]
                m = sign * cuts.forces[:, 0] @ factor / width[:, 0] + np.abs(cuts.twists @ factor / width).sum(axis=1)
                sections = Sections(at.h, at.d, at.d2, *at.materials[0])
                m = m - n * (at.d - at.h / 2)
                most = np.maximum(most, outcome.standard.flexure.design(m, n, sections).tension)
        strength = told.faces[face].provisions["strength"]
        assert (strength >= most * (1 - 1e-9) - 1e-12).all()
        # And not much more than that: the bound costs little.
        needed = most > 1e-4
        assert strength[needed].sum() < 1.02 * most[needed].sum()


def test_twist_at_the_corner_of_a_slab_held_down_on_four_sides_asks_for_top_steel():
    """Corner of a square slab on hard supports: m_xy = 0.046 q a^2 (Timoshenko and Woinowsky-Krieger, table 8: 0.0463 for
    nu = 0.3 ... 0.0529 for nu = 0.2) with no moment; both faces need it, and over a strip it does not cancel."""
    data = flat_slab(1, 1, size=0.3)
    data["columns"] = []
    corners = [[0, 0], [6, 0], [6, 6], [0, 6]]
    data["slabs"][0]["outline"] = corners
    data["supports"] = [
        {"id": f"L{k}", "kind": "line", "line": [corners[k], corners[(k + 1) % 4]], "vertical": "fixed", "rotation": "free"} for k in range(4)
    ]  # fmt: skip
    outcome = solve_floor(floor_from(data))
    cuts, steel = outcome.strips.cuts, outcome.steel.stations
    layout = outcome.strips.layout
    q = 1.35 * 6.25 + 1.5 * 4
    edge = [
        k
        for k in range(len(cuts.strip))
        if layout.strips[cuts.strip[k]].kind == "column" and abs(cuts.s[k] - layout.strips[cuts.strip[k]].start) < 0.01
    ]
    assert len(edge) == 4
    for k in edge:
        # Over the quarter of the span beside the edge the twist falls off; its mean is between 0.6 and 1 of the corner's.
        corner = 0.0463 * (1 - 0.2) / (1 - 0.3) * q * 36
        m = steel.faces[1].at.m[k]
        assert 0.6 * corner < m < 1.02 * corner
