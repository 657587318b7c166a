"""Where the entries of dense blocks fall in the sparse matrix: found once, so that new stiffnesses cost their values only."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.sparse as sp

from piastra.core.fe.threads import at_once

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Places = npt.NDArray[np.int32]


SUMMED = 200_000
"""Entries of the matrix that are summed at once."""


@dataclass(frozen=True, slots=True)
class Pattern:
    """The upper triangle of a symmetric matrix of ``size`` unknowns, as sums of the entries of dense blocks.

    ``indptr``, ``indices``: its rows, columns in order. Entry k is the sum of ``source[start[k]:start[k + 1]]``: numbers of
    the blocks' own entries, one block after the other. Of those in ``twice`` both mirrored entries fall on the diagonal.
    """

    size: int
    indptr: Places
    indices: Places
    source: Places
    start: Places
    twice: Places

    def values(self, entries: Array) -> Array:
        """The matrix's entries (nnz,) for those of all blocks, one block after the other in the order in which the pattern was made."""
        ends = np.append(self.start, np.int32(len(self.source)))
        out = np.empty(len(self.start))

        def fill(some: slice) -> None:
            first, last = ends[some.start], ends[some.stop]
            times = np.ones(last - first)
            mirrored = self.twice[slice(*np.searchsorted(self.twice, (first, last)))]
            times[mirrored - first] = 2.0
            # As a product with a sparse matrix nothing is picked that is not summed at once.
            shape = (some.stop - some.start, len(entries))
            its = ends[some.start : some.stop + 1] - first
            out[some] = sp.csr_matrix((times, self.source[first:last], its), shape=shape, copy=False) @ entries

        at_once(fill, [slice(k, min(k + SUMMED, len(out))) for k in range(0, len(out), SUMMED)])
        return out

    def matrix(self, values: Array) -> sp.csr_matrix:
        """The matrix with these entries."""
        found = sp.csr_matrix((values, self.indices, self.indptr), shape=(self.size, self.size))
        found.has_sorted_indices = True
        return found


def in_plane(count: int) -> npt.NDArray[np.bool_]:
    """Which of so many unknowns of nodes, five each, are displacements in the plane of the floor."""
    return np.arange(count) % 5 < 2


def pattern(unknowns: Sequence[Ints], size: int, apart: Sequence[npt.NDArray[np.bool_]] = ()) -> Pattern:
    """The pattern of dense symmetric blocks at ``unknowns``, (e, d) each; those below nil are left out.

    ``apart`` (e,) of the first ones of these: blocks whose unknowns in the floor's plane have no entries in common with the others.
    """
    row, column, source, mirrored = [], [], [], []
    passed = 0
    for k, index in enumerate(unknowns):
        count, d = index.shape
        every = np.triu_indices(d)
        plane = in_plane(d)
        alone = apart[k] if k < len(apart) else np.zeros(count, dtype=bool)
        for mine, kept in ((~alone, slice(None)), (alone, plane[every[0]] == plane[every[1]])):
            i, j = every[0][kept], every[1][kept]
            small = index[mine].astype(np.int32)
            a, b = small[:, i].ravel(), small[:, j].ravel()
            # Row 0 takes the entries of unknowns that are held.
            row.append(np.minimum(a, b) + np.int32(1))
            column.append(np.maximum(a, b))
            first = (passed + d * d * np.flatnonzero(mine)).astype(np.int32)
            source.append((first[:, None] + (i * d + j).astype(np.int32)).ravel())
            # Nodes of one footprint share unknowns: an entry beside the diagonal then lands on it, with its mirror.
            mirrored.append(((a == b).reshape(len(first), len(i)) & (i != j)).ravel())
        passed += count * d * d
    rows, columns = np.concatenate(row), np.concatenate(column)
    # Sorting by columns and then by rows leaves the columns of each row in order; both passes are linear.
    by_column = _sorted(np.maximum(columns, 0), size)[0]
    by_row, indptr = _sorted(rows[by_column], size + 1)
    indptr = indptr[1:] - indptr[1]
    order = by_column[by_row[len(by_row) - indptr[-1] :]]
    sorted_columns = columns[order]
    new = np.ones(len(order), dtype=bool)
    np.not_equal(sorted_columns[1:], sorted_columns[:-1], out=new[1:])
    new[indptr[:-1][indptr[:-1] < len(order)]] = True
    start = np.flatnonzero(new).astype(np.int32)
    before = np.zeros(len(order) + 1, dtype=np.int32)
    np.cumsum(new, out=before[1:])
    twice = np.flatnonzero(np.concatenate(mirrored)[order]).astype(np.int32)
    return Pattern(size, before[indptr], sorted_columns[start], np.concatenate(source)[order], start, twice)


def _sorted(keys: Places, size: int) -> tuple[Places, Places]:
    """Order that sorts ``keys`` below ``size``, equal ones as they come, and where each key's begin."""
    count = len(keys)
    one = sp.csr_matrix((np.ones(count, dtype=np.int8), keys, np.arange(count + 1, dtype=np.int32)), shape=(count, size)).tocsc()
    return one.indices, one.indptr
