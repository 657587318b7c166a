"""Dense blocks in the sparse matrix, against the sum that is meant: of each entry into a dense one, by its two unknowns."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.fe.pattern import Dense, in_plane, pattern


@settings(max_examples=60, deadline=None)
@given(seed=st.integers(0, 10**6), two=st.booleans())
def test_entries_fall_where_their_unknowns_are(seed: int, two: bool) -> None:
    r = np.random.default_rng(seed)
    nodes, columns = 9, 2
    free = r.random((nodes, 5)) > 0.2
    follows = r.permutation(nodes)[:4].reshape(columns, 2)
    free[follows, 2:] = False
    number = np.where(free, np.cumsum(free.ravel()).reshape(nodes, 5) - 1, -1)
    masters = free.sum() + np.arange(3 * columns).reshape(columns, 3)
    for c, its in enumerate(follows):
        number[its, 2:] = masters[c]
    count = int(masters.max()) + 1
    # A block is a node, or one of its two kinds of unknowns, and each column's axis.
    blocks = np.full(count, 2 * nodes, dtype=np.int64)
    node, which = np.nonzero(free)
    blocks[number[free]] = 2 * node + (which >= 2) if two else node
    blocks[masters] += np.arange(columns)[:, None]
    quads = np.array([r.permutation(nodes)[:4] for _ in range(5)])
    tris = np.array([r.permutation(nodes)[:3] for _ in range(3)])
    alone = (r.random(5) < 0.7) & two
    parts = [Dense(number[quads], alone), Dense(number[tris]), Dense(number[:3][:, None])]
    parts += [Dense(masters[c : c + 1][:, None]) for c in range(columns)] + [Dense(number[its][None, :, :2]) for its in follows]
    entries, expected = [], np.zeros((count, count))
    for part in parts:
        index = part.unknowns.reshape(len(part.unknowns), -1)
        K = r.normal(size=(*index.shape, index.shape[1]))
        K += K.transpose(0, 2, 1)
        if part.apart is not None:
            plane = in_plane(index.shape[1])
            K[part.apart] *= plane[:, None] == plane
        entries.append(K.reshape(*part.unknowns.shape, *part.unknowns.shape[1:]))
        for its, block in zip(index, K, strict=True):
            kept = np.flatnonzero(its >= 0)
            np.add.at(expected, np.ix_(its[kept], its[kept]), block[np.ix_(kept, kept)])
    found = pattern(parts, blocks)
    matrix = found.matrix(found.values(lambda part, mine: entries[part][mine]))
    np.testing.assert_allclose(matrix.toarray(), np.triu(expected), atol=1e-12)
    assert all((np.diff(found.indices[a:b]) > 0).all() for a, b in zip(found.indptr[:-1], found.indptr[1:], strict=True))


def test_what_blocks_keep_apart_has_no_entries() -> None:
    number = np.arange(20).reshape(4, 5)
    element = number[None]
    both, apart = (
        pattern([Dense(element, np.array([alone]))], 2 * (np.arange(20) // 5) + (np.arange(20) % 5 >= 2))
        for alone in (False, True)
    )
    assert (len(both.indices), len(apart.indices)) == (20 * 21 // 2, 8 * 9 // 2 + 12 * 13 // 2)
