"""One small interface to the sparse factorisation: PARDISO where its wheel exists, SuperLU elsewhere."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from threading import Lock
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.sparse.linalg import splu

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class SingularError(ArithmeticError):
    """The matrix is not positive definite: something in the floor is free to move."""


class Factor(Protocol):
    """A factorised symmetric positive definite matrix."""

    def solve(self, right: Array) -> Array:
        """Solutions for right-hand sides (n, r). Raises :class:`MemoryError` where there is none left, as making a factor does."""
        ...

    def again(self, upper: sp.csr_matrix, blocks: Ints | None = None) -> Factor:
        """A factor of a matrix that may have the memory, and where its pattern is the same the analysis, in common with this one: of several that are
        used in turns, each is factorised anew in its turn. Once the first of them is freed, the others must not be used any more. ``blocks`` as of
        :func:`factorise`, where the pattern may be another one.

        Raises :class:`SingularError` when the matrix is not positive definite.
        """
        ...

    def alike(self, upper: sp.csr_matrix) -> Factor:
        """A factor of a matrix of the same pattern that holds an analysis of its own, in the same order of unknowns.

        Raises :class:`SingularError` when the matrix is not positive definite.
        """
        ...

    def free(self) -> None:
        """Give the memory back."""
        ...


@cache
def _pardiso() -> Any:
    """The class of PARDISO's solvers, or None where it is not to be had. It is read when something is solved: it looks for its library, which takes
    longer than most processes that solve nothing have to begin with."""
    try:
        from pypardiso import PyPardisoSolver
    except (ImportError, OSError):  # pragma: no cover - depends on the machine
        return None
    return PyPardisoSolver


def _new_solver() -> Any:
    """A solver for symmetric positive definite matrices, without iterative refinement: two rounds of it, which are the
    default, take three quarters of a solution's time and leave a residual of the same size."""
    solver = _pardiso()(mtype=2)
    # Otherwise every new solver searches the whole environment for its library.
    os.environ.setdefault("PYPARDISO_MKL_RT", solver.libmkl._name)
    for number, value in ((1, 1), (2, 2), (8, 0)):
        solver.set_iparm(number, value)
    return solver


NO_MEMORY = -2
"""PARDISO's code of an error that says nothing of the matrix."""


def _order_of(upper: sp.csr_matrix, blocks: Ints) -> npt.NDArray[np.int32]:
    """An order of the unknowns with little fill, from that of their blocks: the solver finds it many times faster on so much smaller a graph, and a
    better one as well. Numbers from 1, the first to be eliminated first."""
    found, of = np.unique(blocks, return_inverse=True)
    # In a row of the last unknown of a block stands whatever block it shares an element with, and itself.
    rows = upper[np.searchsorted(blocks, found, side="right") - 1]
    graph = sp.csr_matrix((np.ones(rows.nnz), of[rows.indices], rows.indptr), shape=(len(found), len(found)))
    graph.sum_duplicates()
    solver = _new_solver()
    solver.perm = np.zeros(len(found), dtype=np.int32)
    solver.set_iparm(5, 2)
    solver.set_phase(11)
    try:
        solver._call_pardiso(graph, np.zeros((len(found), 1)))
    finally:
        solver.free_memory(everything=True)
    place = np.empty(len(found), dtype=np.int64)
    place[solver.perm - 1] = np.arange(len(found))
    return np.argsort(place[of], kind="stable").astype(np.int32) + 1


Pattern = tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]
"""Where a matrix has entries: ``indptr`` and ``indices``."""


def _pattern_of(upper: sp.csr_matrix) -> Pattern:
    return upper.indptr, upper.indices


def _same(one: Pattern, other: Pattern) -> bool:
    return all(a is b or np.array_equal(a, b) for a, b in zip(one, other, strict=True))


class _Shared:
    """A solver that factors use in turns: its memory is there once, and so is the analysis while they have one pattern."""

    def __init__(self) -> None:
        self.lock = Lock()
        self._solver = _new_solver()
        self._orders: list[tuple[Pattern, Any]] = []
        """Orders of the unknowns by pattern: finding one is half of the analysis."""
        self._analysed: Pattern | None = None
        self._holds: sp.csr_matrix | None = None
        """The matrix that is factorised."""

    def order_of(self, upper: sp.csr_matrix) -> Any:
        """The order of the unknowns in a pattern; None: not known yet."""
        return next((order for of, order in self._orders if _same(of, _pattern_of(upper))), None)

    def factorise(self, upper: sp.csr_matrix, blocks: Ints | None = None, order: Any = None) -> None:
        """Hold this matrix, if it is not held. ``order``: of the unknowns in a pattern that was not met before, where it is known."""
        if self._holds is upper:
            return
        if self._analysed is not None and _same(self._analysed, _pattern_of(upper)):
            self._called(22, upper, np.zeros((upper.shape[0], 1)))
        else:
            if self._analysed is not None:
                self.free()
            known = self.order_of(upper) if order is None else order
            if known is None and blocks is not None:
                known = _order_of(upper, blocks)
            self._solver.perm = np.zeros(upper.shape[0], dtype=np.int32) if known is None else known.copy()
            self._solver.set_iparm(5, 2 if known is None else 1)
            self._called(12, upper, np.zeros((upper.shape[0], 1)))
            self._analysed = _pattern_of(upper)
            if self.order_of(upper) is None:
                self._orders.append((self._analysed, self._solver.perm))
        self._holds = upper

    def solve(self, upper: sp.csr_matrix, right: Array) -> Array:
        self.factorise(upper)
        return self._called(33, upper, right)

    def let_go(self, upper: sp.csr_matrix) -> None:
        """This matrix is not solved with any more."""
        if self._holds is upper:
            self._holds = None

    def free(self) -> None:
        self._solver.free_memory(everything=True)
        self._analysed = self._holds = None

    def _called(self, phase: int, matrix: sp.csr_matrix, right: Array) -> Array:
        self._solver.set_phase(phase)
        try:
            return np.asarray(self._solver._call_pardiso(matrix, right))
        except Exception as error:
            self.free()
            if getattr(error, "value", 0) == NO_MEMORY:
                raise MemoryError(str(error)) from None
            raise SingularError(str(error)) from None


class _Pardiso:
    def __init__(
        self, upper: sp.csr_matrix, shared: _Shared | None = None, blocks: Ints | None = None, order: Any = None
    ) -> None:
        self._matrix, self._own = upper, shared is None
        self._shared = shared or _Shared()
        with self._shared.lock:
            self._shared.factorise(upper, blocks, order)

    def solve(self, right: Array) -> Array:
        if not right.shape[1]:
            return right.copy()
        with self._shared.lock:
            return self._shared.solve(self._matrix, np.asfortranarray(right))

    def again(self, upper: sp.csr_matrix, blocks: Ints | None = None) -> Factor:
        return _Pardiso(upper, self._shared, blocks)

    def alike(self, upper: sp.csr_matrix) -> Factor:
        return _Pardiso(upper, order=self._shared.order_of(self._matrix))

    def free(self) -> None:
        with self._shared.lock:
            if self._own:
                self._shared.free()
            else:
                self._shared.let_go(self._matrix)


class _SuperLU:
    def __init__(self, upper: sp.csr_matrix) -> None:
        full = (upper + sp.triu(upper, 1).T).tocsc()
        try:
            self._lu = splu(full, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
        except RuntimeError as error:
            raise SingularError(str(error)) from None
        # With pivots on the diagonal these are positive of a positive definite matrix, and of no other.
        if not (self._lu.U.diagonal() > 0).all():
            raise SingularError("a pivot is not positive")

    def solve(self, right: Array) -> Array:
        return np.asarray(self._lu.solve(np.ascontiguousarray(right)))

    def again(self, upper: sp.csr_matrix, blocks: Ints | None = None) -> Factor:
        return _SuperLU(upper)

    def alike(self, upper: sp.csr_matrix) -> Factor:
        return _SuperLU(upper)

    def free(self) -> None:
        del self._lu


class Underway:
    """A factorisation that runs beside what does not ask for it. Whoever solves with it waits until it is there, and is told then what went wrong."""

    def __init__(self, make: Callable[[], Factor]) -> None:
        def timed() -> Factor:
            start = time.perf_counter()
            made = make()
            self.seconds = time.perf_counter() - start
            return made

        self.seconds = 0.0
        """What it took, once it is there."""
        self.waited = 0.0
        """What others waited for it."""
        self._coming = _beside().submit(timed)

    def _made(self) -> Factor:
        if self._coming.done():
            return self._coming.result()
        start = time.perf_counter()
        try:
            return self._coming.result()
        finally:
            self.waited += time.perf_counter() - start

    def solve(self, right: Array) -> Array:
        return self._made().solve(right)

    def again(self, upper: sp.csr_matrix, blocks: Ints | None = None) -> Factor:
        return self._made().again(upper, blocks)

    def alike(self, upper: sp.csr_matrix) -> Factor:
        return self._made().alike(upper)

    def free(self) -> None:
        if self._coming.exception() is None:
            self._made().free()


@cache
def _beside() -> ThreadPoolExecutor:
    """The thread in which matrices are factorised one after the other: the solver holds no lock of the interpreter's."""
    return ThreadPoolExecutor(1, "factorising", alone)


# A process that is forked off has none of the threads.
os.register_at_fork(after_in_child=_beside.cache_clear)


def alone() -> None:
    """Let the solver use no more threads than the one from which it is called. Its threads wait for each other without giving way: beside others that
    have work for all cores they took several times as long."""
    if _pardiso() is not None:
        _library().MKL_Set_Num_Threads_Local(1)


@cache
def _library() -> Any:
    return _new_solver().libmkl


def factorise(upper: sp.csr_matrix, prefer: str = "pardiso", blocks: Ints | None = None) -> Factor:
    """Factorise the symmetric positive definite matrix whose upper triangle (CSR, n x n) is given. ``blocks`` (n,), ascending: the block of unknowns, as
    of one node, that each belongs to; those of two blocks all have entries in common, or none.

    Raises :class:`SingularError` when it is not positive definite.
    """
    if prefer == "pardiso" and _pardiso() is not None:
        return _Pardiso(upper, blocks=blocks)
    return _SuperLU(upper)


def residual(upper: sp.csr_matrix, x: Array, right: Array) -> float:
    """Greatest entry of ``A x - right`` over the greatest of ``right``, for the matrix whose upper triangle is given: of the
    order of 1 where the matrix was singular but for rounding."""
    gap = upper @ x + upper.T @ x - upper.diagonal()[:, None] * x - right
    return float(np.abs(gap).max(initial=0.0) / max(np.abs(right).max(initial=0.0), np.finfo(float).tiny))


def bare_work(upper: sp.csr_matrix, right: Array) -> float:
    """CPU seconds of the process for the solver with its defaults: its construction, analysis, numeric factorisation and
    solution for right-hand sides (n, r).

    A yardstick that stays as it is, whatever :func:`factorise` does better: with PARDISO a new solver that looks for its
    library, and two rounds of iterative refinement.
    """
    if _pardiso() is None:
        start = time.process_time()
        _SuperLU(upper).solve(right)
        return time.process_time() - start
    kept = os.environ.pop("PYPARDISO_MKL_RT", None)
    try:
        start = time.process_time()
        solver = _pardiso()(mtype=2)
        solver.factorize(upper)
        solver.set_phase(33)
        solver._call_pardiso(upper, np.asfortranarray(right))
        passed = time.process_time() - start
        solver.free_memory(everything=True)
    finally:
        if kept is not None:
            os.environ["PYPARDISO_MKL_RT"] = kept
    return passed
