"""Factors of one pattern: each solves its own matrix, whichever was made from which."""

import numpy as np
import pytest
import scipy.sparse as sp

from piastra.core.fe.linear_solver import SingularError, factorise


def matrices(count, n=40):
    """Symmetric positive definite ones of one pattern with n unknowns, dense and as upper triangles."""
    chance = np.random.default_rng(3)
    rows, columns = np.triu_indices(n, 1)
    some = chance.random(len(rows)) < 0.15
    out = []
    for _ in range(count):
        A = np.zeros((n, n))
        A[rows[some], columns[some]] = chance.normal(size=int(some.sum()))
        A += A.T
        A += np.diag(np.abs(A).sum(axis=0) + chance.uniform(0.1, 2.0, n))
        out.append((A, sp.triu(sp.csr_matrix(A)).tocsr()))
    return out


@pytest.mark.parametrize("prefer", ["pardiso", "superlu"])
def test_every_factor_of_a_pattern_solves_its_own_matrix(prefer):
    right = np.random.default_rng(4).normal(size=(40, 3))
    (a, A), (b, B), (c, C), (d, D) = matrices(4)
    first = factorise(A, prefer)
    alike, chain = first.alike(B), first.again(C)
    for factor, dense in ((first, a), (alike, b), (chain, c)):
        assert factor.solve(right) == pytest.approx(np.linalg.solve(dense, right), rel=1e-11)
    # A chain is taken over by its next link; who began it stays, and one alike does without it.
    chain = chain.again(D)
    assert chain.solve(right) == pytest.approx(np.linalg.solve(d, right), rel=1e-11)
    assert first.solve(right) == pytest.approx(np.linalg.solve(a, right), rel=1e-11)
    first.free()
    assert alike.solve(right) == pytest.approx(np.linalg.solve(b, right), rel=1e-11)
    loose = A.copy()
    loose.data[loose.indptr[7]] = -5.0
    for make in (alike.alike, alike.again):
        with pytest.raises(SingularError):
            make(loose)
