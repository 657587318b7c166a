"""Load vectors that differ by a factor are one direction; others are not."""

from __future__ import annotations

import numpy as np
import scipy.sparse as sp
from hypothesis import given, settings
from hypothesis import strategies as st

from piastra.core.fe.reuse import Known, directions_of, responses

LOADED = np.sort(np.random.default_rng(7).choice(46_000, 20_000, replace=False))
VALUES = np.random.default_rng(8).integers(1, 4097, LOADED.size) / 4096 * np.random.default_rng(9).choice((-1, 1), LOADED.size)
"""Of a regular mesh: halves of halves, which lie on the borders between decimals."""


def vectors(*columns: np.ndarray) -> sp.csc_matrix:
    dense = np.zeros((46_000, len(columns)))
    dense[LOADED] = np.column_stack(columns)
    return sp.csc_matrix(dense)


def none(columns: np.ndarray) -> tuple[np.ndarray, ...]:
    raise AssertionError(f"{len(columns)} columns are solved anew")


@settings(max_examples=30, deadline=None)
@given(st.floats(0.01, 100), st.sampled_from((1, -1)))
def test_a_factor_makes_no_new_direction(factor: float, sign: int) -> None:
    """Of 20,000 entries none may be cut to decimals in another way: what they cause is known."""
    first = directions_of(vectors(VALUES, np.abs(VALUES)))
    then = directions_of(vectors(np.abs(VALUES) * factor / 3, VALUES * (sign * factor)), first)
    assert then.keys == first.keys[::-1]
    np.testing.assert_allclose(then.size, first.size[::-1] * [factor / 3, sign * factor], rtol=1e-12)

    caused = np.array([[1.0, 2.0]])
    (found,) = responses(then, Known(first, (caused,)), none)
    np.testing.assert_allclose(found, [[2.0 * factor / 3, 1.0 * sign * factor]], rtol=1e-12)


def test_the_same_direction_is_met_within_one_set() -> None:
    found = directions_of(vectors(VALUES, 2 * VALUES, VALUES / 3))
    assert len(set(found.keys)) == 1
    np.testing.assert_allclose(found.size / found.size[0], [1, 2, 1 / 3], rtol=1e-12)


def test_what_differs_in_one_small_entry_or_place_is_another_direction() -> None:
    k = int(np.abs(VALUES).argmin())
    other = VALUES.copy()
    other[k] += 1e-8 * np.abs(VALUES).max()
    left_out = VALUES.copy()
    left_out[k] = 0
    elsewhere = np.roll(VALUES, 1)
    first = directions_of(vectors(VALUES))
    then = directions_of(vectors(other, left_out, elsewhere, np.zeros_like(VALUES)), first)
    assert len({*first.keys, *then.keys}) == 5
    assert then.size[3] == 0


def test_equally_great_entries_take_no_turns() -> None:
    """Of two of opposite sign, rounding would take now the one and now the other for the greatest."""
    even = VALUES.copy()
    even[100], even[5000] = 2.0, -2.0 * (1 + 1e-15)
    first = directions_of(vectors(even))
    even[100], even[5000] = 2.0 * (1 + 1e-15), -2.0
    assert directions_of(vectors(even), first).keys == first.keys
    assert first.size[0] == 2.0
