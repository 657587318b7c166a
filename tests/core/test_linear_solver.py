"""Factors of one pattern: each solves its own matrix, whichever was made from which."""

from multiprocessing import get_context
from threading import Event

import numpy as np
import pytest
import scipy.sparse as sp

from piastra.core.fe.linear_solver import SingularError, Underway, factorise
from piastra.core.fe.reuse import in_blocks
from piastra.core.fe.threads import at_once


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
    # What they have in common is each one's own in its turn; one alike does without it.
    link = chain.again(D)
    loose = A.copy()
    loose.data[loose.indptr[7]] = -5.0
    for make in (first.alike, first.again):
        with pytest.raises(SingularError):
            make(loose)
    for factor, dense in ((link, d), (first, a), (chain, c), (link, d), (first, a)):
        assert factor.solve(right) == pytest.approx(np.linalg.solve(dense, right), rel=1e-11)
    link.free()
    chain.free()
    assert first.solve(right) == pytest.approx(np.linalg.solve(a, right), rel=1e-11)
    first.free()
    assert alike.solve(right) == pytest.approx(np.linalg.solve(b, right), rel=1e-11)


def test_a_lack_of_memory_is_not_taken_for_a_floor_that_is_free_to_move(monkeypatch):
    from pypardiso import PyPardisoSolver
    from pypardiso.pardiso_wrapper import PyPardisoError

    ((_, A),) = matrices(1)
    factor = factorise(A, "pardiso")

    def fails(code):
        def call(self, *_):
            if self.phase > 0:  # below it asks for its memory to be freed
                raise PyPardisoError(code)

        monkeypatch.setattr(PyPardisoSolver, "_call_pardiso", call)

    fails(-2)
    for ask in (lambda: factorise(A, "pardiso"), lambda: factor.again(A.copy()), lambda: factor.solve(np.ones((40, 1)))):
        with pytest.raises(MemoryError):
            ask()
    fails(-4)
    with pytest.raises(SingularError):
        factorise(A, "pardiso")


def test_a_factor_under_way_is_waited_for_and_tells_what_went_wrong_to_whoever_uses_it():
    (a, A), (b, B) = matrices(2)
    right, go = np.ones((40, 2)), Event()
    coming = Underway(lambda: factorise(A) if go.wait(30) else None)
    assert coming.seconds == 0
    go.set()
    assert coming.solve(right) == pytest.approx(np.linalg.solve(a, right), rel=1e-11)
    assert coming.alike(B).solve(right) == pytest.approx(np.linalg.solve(b, right), rel=1e-11)
    assert coming.seconds > 0
    coming.free()
    loose = A.copy()
    loose.data[loose.indptr[7]] = -5.0
    spoilt = Underway(lambda: factorise(loose))
    for use in (lambda: spoilt.solve(right), lambda: spoilt.again(A), lambda: spoilt.solve(right)):
        with pytest.raises(SingularError):
            use()
    spoilt.free()


@pytest.mark.parametrize("together", [True, False])
@pytest.mark.parametrize("count", [0, 1, 2, 4, 5, 9, 16])
def test_columns_in_blocks_are_all_made_once_and_lie_where_they_belong(count, together):
    asked = []

    def made(columns):
        asked.append(columns.tolist())
        return np.outer(np.arange(3), columns), 2.0 * columns[None]

    columns = np.arange(10, 10 + count)
    one, two = in_blocks(columns, made, 4, together)
    assert np.array_equal(one, np.outer(np.arange(3), columns))
    assert np.array_equal(two, 2.0 * columns[None])
    assert sorted(c for some in asked for c in some) == columns.tolist()
    assert max(map(len, asked)) <= 4


def test_pieces_of_pieces_come_in_their_order():
    found = at_once(lambda k: at_once(lambda j: (k, j), range(5)), range(6))
    assert found == [[(k, j) for j in range(5)] for k in range(6)]


def in_pieces_and_beside(A, right):
    return at_once(lambda some: Underway(lambda: factorise(A)).solve(some), [right, 2 * right])


def test_a_process_that_is_forked_off_has_threads_of_its_own():
    ((a, A),) = matrices(1)
    right = np.ones((40, 2))
    in_pieces_and_beside(A, right)
    with get_context("fork").Pool(1) as pool:
        found = pool.apply_async(in_pieces_and_beside, (A, right)).get(60)
    assert found[1] == pytest.approx(2 * np.linalg.solve(a, right), rel=1e-11)


def test_an_order_by_blocks_takes_every_unknown_once_and_fills_no_more():
    """A square of 40 by 40 nodes of five unknowns each, the last ones one block of three."""
    side, own = 40, 5
    near = sp.diags([1.0, 1.0], [1, -1], shape=(side, side)) + sp.identity(side)
    pattern = sp.kron(sp.kron(near, near), np.ones((own, own))).tocsr()[: own * side**2 - 2, : own * side**2 - 2]
    count = pattern.shape[0]
    A = sp.triu(pattern + 50 * sp.identity(count)).tocsr()
    blocks = np.arange(count) // own
    given, plain = factorise(A, blocks=blocks), factorise(A)
    assert sorted(given._shared.order_of(A)) == list(range(1, count + 1))
    # Unknowns of a block follow each other.
    assert (np.diff(blocks[given._shared.order_of(A) - 1]) != 0).sum() == len(np.unique(blocks)) - 1
    held = [f._shared._solver.get_iparm(17) for f in (given, plain)]
    assert held[0] <= 1.02 * held[1]
    right = np.random.default_rng(1).normal(size=(count, 2))
    assert given.solve(right) == pytest.approx(plain.solve(right), rel=1e-9, abs=1e-12)


def test_one_solver_takes_matrices_of_several_patterns_in_turns():
    """The second has entries that the first lacks: each is solved in its turn, and a factor alike has the order of its own pattern."""
    n = 60
    first = sp.diags([np.full(n, 4.0), np.full(n - 2, -1.0)], [0, 2]).tocsr()
    second = sp.diags([np.full(n, 4.0), np.full(n - 1, -1.0), np.full(n - 2, -1.0)], [0, 1, 2]).tocsr()
    right = np.random.default_rng(2).normal(size=(n, 2))
    one = factorise(first, blocks=np.arange(n))
    other = one.again(second, np.arange(n))
    whole = [(A + sp.triu(A, 1).T).toarray() for A in (first, second)]
    for _ in range(2):
        for factor, a in zip((one, other), whole, strict=True):
            assert factor.solve(right) == pytest.approx(np.linalg.solve(a, right), rel=1e-11)
    if hasattr(one, "_shared"):
        assert (one.alike(first)._shared.order_of(first) == one._shared.order_of(first)).all()
        assert (other.alike(second)._shared.order_of(second) == one._shared.order_of(second)).all()
    other.free()
    assert one.solve(right) == pytest.approx(np.linalg.solve(whole[0], right), rel=1e-11)
