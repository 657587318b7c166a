"""Where the entries of dense blocks fall in the sparse matrix: found once, so that new stiffnesses cost their values only."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Places = npt.NDArray[np.int32]

AT_ONCE = 256
"""Dense blocks that are worked on at once: they stay in the processor's cache."""

PLANE, OTHERS = 2, 3
"""How many unknowns of a node are displacements in the plane of the floor, which are its first, and how many are not."""


@dataclass(frozen=True, slots=True)
class Some:
    """Of the dense blocks ``mine`` (k,) of a part the entries of the unknowns ``rows`` with the unknowns ``columns`` (of w). They belong to the blocks
    ``first`` and ``second`` (k, c) of the matrix's unknowns, -1: none is free."""

    part: int
    mine: Ints
    rows: slice
    columns: slice
    first: Ints
    second: Ints

    def pairs(self) -> tuple[npt.NDArray[np.bool_], Ints, Ints]:
        """Which pairs (k, c, c) lie in the upper triangle, and the blocks of those that do."""
        first, second = np.broadcast_arrays(self.first[:, :, None], self.second[:, None, :])
        there = (first >= 0) & (first <= second)
        return there, first[there], second[there]


@dataclass(frozen=True, slots=True)
class Pattern:
    """The upper triangle of a symmetric matrix of ``size`` unknowns, as sums of the entries of dense blocks.

    ``indptr``, ``indices``: its rows, columns in order. ``places`` (k, c, w, c, w) of the entries of ``some`` blocks each, among the matrix's entries; one
    past the last of them: they are no part of the triangle.
    """

    size: int
    indptr: Places
    indices: Places
    some: tuple[Some, ...]
    places: tuple[Places, ...]

    def values(self, dense: Callable[[int, Ints], Array]) -> Array:
        """The matrix's entries (nnz,) for those (k, c, w, c, w) that ``dense`` tells of blocks of a part, the k of these numbers."""
        out = np.zeros(len(self.indices) + 1)
        for one, place in zip(self.some, self.places, strict=True):
            for its in _at_once(len(one.mine)):
                block = dense(one.part, one.mine[its])[:, :, one.rows, :, one.columns]
                np.add.at(out, place[its].ravel(), block.ravel())
        return out[:-1]

    def matrix(self, values: Array) -> sp.csr_matrix:
        """The matrix with these entries."""
        found = sp.csr_matrix((values, self.indices, self.indptr), shape=(self.size, self.size))
        found.has_sorted_indices = True
        return found


def _at_once(count: int) -> Iterator[slice]:
    return (slice(start, start + AT_ONCE) for start in range(0, count, AT_ONCE))


def in_plane(count: int) -> npt.NDArray[np.bool_]:
    """Which of so many unknowns of nodes, five each, are displacements in the plane of the floor."""
    return np.arange(count) % (PLANE + OTHERS) < PLANE


@dataclass(frozen=True, slots=True)
class Dense:
    """Dense symmetric blocks at ``unknowns`` (e, c, w), -1: nil. The w unknowns side by side belong to one block of the matrix's unknowns; where they are
    the five of a node, those in the floor's plane to one, and the others to one.

    ``apart`` (e,): blocks whose unknowns in the floor's plane have no entries in common with the others.
    """

    unknowns: Ints
    apart: npt.NDArray[np.bool_] | None = None


def pattern(parts: Sequence[Dense], blocks: Ints) -> Pattern:
    """The pattern of dense symmetric blocks. ``blocks`` (m,), ascending: the block of unknowns, as of one node, that each of the matrix's unknowns belongs
    to; those of two blocks all have entries in common, or none."""
    begins = np.flatnonzero(np.diff(blocks, prepend=-1))
    sizes = np.diff(begins, append=len(blocks))
    of = np.repeat(np.arange(len(begins)), sizes)
    within = np.arange(len(blocks)) - begins[of]
    some = [one for k, part in enumerate(parts) for one in _split(k, part, of)]
    there, first, second = zip(*(one.pairs() for one in some), strict=True)
    rows, columns, number = _told_once(np.concatenate(first), np.concatenate(second), len(begins))
    # The rows of a block have the columns of its pairs side by side, that of its k-th unknown from the k-th of them on.
    before = np.cumsum(sizes[columns]) - sizes[columns]
    length = np.bincount(rows, sizes[columns], len(begins)).astype(np.int64)
    row_begins = np.cumsum(length) - length
    counts = np.maximum(length[of] - within, 0)
    indptr = np.concatenate([[0], np.cumsum(counts)])
    indices = _ranges(begins[columns], sizes[columns])[_ranges(row_begins[of] + within, counts)]
    aside = (before - row_begins[rows]).astype(np.int32)[number]
    row_at, column_at = (indptr[:-1] - within).astype(np.int32), within.astype(np.int32)
    places, passed = [], 0
    for one, its in zip(some, there, strict=True):
        pair = np.zeros(its.shape, dtype=np.int32)
        pair[its] = aside[passed : passed + int(its.sum())]
        passed += int(its.sum())
        places.append(_laid(parts[one.part].unknowns, one, pair, row_at, column_at, len(indices)))
    return Pattern(len(blocks), indptr.astype(np.int32), indices.astype(np.int32), tuple(some), tuple(places))


def _split(k: int, part: Dense, of: Ints) -> list[Some]:
    """The blocks of the k-th part that lie in the matrix in one manner, each. ``of`` (m,): the block that each unknown belongs to."""
    own = np.append(of, -1)[part.unknowns]
    every, whole = slice(None), own.max(axis=2)
    if own.shape[2] != PLANE + OTHERS:
        return [Some(k, np.arange(len(own)), every, every, whole, whole)]
    sides = (slice(0, PLANE), slice(PLANE, None))
    of_sides = [own[:, :, side].max(axis=2) for side in sides]
    apart = np.zeros(len(own), dtype=bool) if part.apart is None else part.apart
    one = ~apart & np.logical_or.reduce([of_sides[0] == of_sides[1], of_sides[0] < 0, of_sides[1] < 0]).all(axis=1)
    out = [Some(k, np.flatnonzero(one), every, every, whole[one], whole[one])]
    for i, j in ((0, 0), (0, 1), (1, 0), (1, 1)):
        mine = np.flatnonzero(~one & ~apart) if i != j else np.flatnonzero(~one)
        out.append(Some(k, mine, sides[i], sides[j], of_sides[i][mine], of_sides[j][mine]))
    return [some for some in out if len(some.mine)]


def _told_once(first: Ints, second: Ints, count: int) -> tuple[Ints, Ints, Ints]:
    """The different pairs of numbers below ``count``, by the first and then the second, and which of them each is."""
    by_second = _sorted(second, count)
    order = by_second[_sorted(first[by_second], count)]
    rows, columns = first[order], second[order]
    new = np.ones(len(order), dtype=bool)
    new[1:] = (rows[1:] != rows[:-1]) | (columns[1:] != columns[:-1])
    number = np.empty(len(order), dtype=np.int64)
    number[order] = np.cumsum(new) - 1
    return rows[new], columns[new], number


def _sorted(keys: Ints, size: int) -> Places:
    """Order that sorts ``keys`` below ``size``, equal ones as they come, in a time that is linear in their number."""
    count = len(keys)
    rows = np.arange(count + 1, dtype=np.int32)
    one = sp.csr_matrix((np.ones(count, dtype=np.int8), keys.astype(np.int32), rows), shape=(count, size)).tocsc()
    return np.asarray(one.indices)


def _ranges(begins: Ints, counts: Ints) -> Ints:
    """So many numbers from each beginning on, one range after the other."""
    ends = np.cumsum(counts)
    return np.arange(ends[-1]) + np.repeat(begins - (ends - counts), counts)


def _laid(unknowns: Ints, one: Some, pair: Places, row_at: Places, column_at: Places, none: int) -> Places:
    """The places (k, c, w, c, w) of the entries of some of a part's blocks, ``none`` of those that are no part of the triangle."""
    c, w = unknowns.shape[1:]
    high, wide = len(range(w)[one.rows]), len(range(w)[one.columns])
    out = np.empty((len(one.mine), c, high, c, wide), dtype=np.int32)
    for its in _at_once(len(out)):
        index = unknowns[one.mine[its]].astype(np.int32)
        rows, columns = index[:, :, one.rows, None, None], index[:, None, None, :, one.columns]
        found = np.add(row_at[rows], column_at[columns], out=out[its])
        found += pair[its, :, None, :, None]
        # What is not free comes after all columns.
        found[np.where(rows < 0, len(row_at), rows) > columns] = none
    return out
