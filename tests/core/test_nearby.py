"""Solutions by a factorisation of another stiffness than their own."""

import numpy as np
import pytest
import scipy.sparse as sp
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.fe.linear_solver import factorise
from piastra.core.fe.nearby import Reached, solve_near
from piastra.core.fe.states import frozen
from piastra.core.verification.case import solved
from tests.floors import flat_slab


def pair(seed, softest, n=60):
    """A positive definite matrix, and another one whose energy is between ``softest`` and 1 times as great."""
    chance = np.random.default_rng(seed)
    root = chance.normal(size=(n, n)) * (chance.random((n, n)) < 0.1) + 3 * np.eye(n)
    share = chance.uniform(softest, 1.0, n)
    return root.T @ root, root.T @ (share[:, None] * root)


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10**6), softest=st.floats(0.3, 1.0), near=st.sampled_from([0.25, 1e-3, 1e-9]))
def test_it_comes_as_near_as_it_is_asked_to_or_says_that_it_does_not(seed, softest, near):
    stiff, soft = pair(seed, softest)
    right, first = np.random.default_rng(seed + 1).normal(size=(2, len(stiff)))
    start = np.linalg.solve(stiff, first)
    factor = factorise(sp.triu(sp.csr_matrix(stiff)).tocsr())
    found = solve_near(
        factor,
        lambda x: (soft - stiff) @ x,
        right,
        Reached(start, first),
        lambda way, left: np.abs(left).max() <= near * np.abs(way).max(),
    )
    exact = np.linalg.solve(soft, right)
    if found is None:
        assert near < 1e-2
        assert softest < 1.0
        return
    # What is told to be left is what the old stiffness makes of the forces that are: of the softer one it is at most 1 / softest of that.
    assert np.linalg.norm(found.x - exact) <= 10 * near / softest * np.linalg.norm(exact - start) + 1e-9
    assert found.product == pytest.approx(stiff @ found.x, rel=1e-7, abs=1e-7)


def test_a_stiffness_that_is_none_is_not_near():
    stiff, _ = pair(3, 1.0)
    factor = factorise(sp.triu(sp.csr_matrix(stiff)).tocsr())
    nought = np.zeros(len(stiff))
    assert solve_near(factor, lambda x: -2 * stiff @ x, np.ones(len(stiff)), Reached(nought, nought), lambda *_: False) is None


def test_what_elements_take_up_more_is_the_difference_of_their_stiffnesses():
    """Quadrilaterals and triangles, bars askew, some elements with another law than before."""
    document = flat_slab(2, 1)
    document["slabs"][0]["outline"][1] = [12.4, 0.1]
    system = solved(document).outcome.stiffness.system
    chance = np.random.default_rng(5)
    u = chance.normal(size=(len(system.mesh.xy), 5))
    families = frozen(system, np.full(sum(len(f.nodes) for f in system.families), 0.3))
    assert len(families) == 2
    for family in families:
        law = family.elastic_law()
        new = np.flatnonzero(chance.random(len(law)) < 0.4)
        more = chance.uniform(-0.5, 0.5, len(new))[:, None, None] * law[new]
        other = law.copy()
        other[new] += more
        differ = family.with_law(other).stiffness - family.with_law(law).stiffness
        nodes = family.family.nodes
        expected = np.zeros_like(u)
        force = differ @ u[nodes].reshape(len(nodes), -1, 1)
        np.add.at(expected, nodes, force.reshape(*nodes.shape, 5))
        assert family.stiffer(more, new, u) == pytest.approx(expected, rel=1e-9, abs=1e-6)
