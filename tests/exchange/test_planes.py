"""Values that are kept as whole numbers come back as they were."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from piastra.exchange.planes import along_curve, planes, values_of


@settings(deadline=None, max_examples=60)
@given(
    arrays(np.float64, array_shapes(min_dims=1, max_dims=3, max_side=6), elements=st.floats(-1e9, 1e9, allow_subnormal=False)),
    st.sampled_from([7, 17, 19, 31]),
    st.integers(0, 2**32 - 1),
)
# Of a peak next to nothing the factor to whole numbers is more than a number holds.
@example(np.array([3.7e-307]), 31, 0)
def test_values_come_back_within_half_a_step_of_their_rows_peak(values, bits, seed):
    order = np.random.default_rng(seed).permutation(values.shape[-1])
    back = values_of(*planes(values, order, bits), order, bits)
    half = np.abs(values).max(axis=-1, keepdims=True) / (2**bits - 1) / 2
    assert (np.abs(back - values) <= half * (1 + 1e-6) + 1e-300).all()


def test_the_greatest_steps_wrap_around_and_back():
    values = np.array([[1.0, -1.0, 1.0, -1.0, 0.0]])
    order = np.arange(5)
    assert np.array_equal(values_of(*planes(values, order, 31), order, 31), values)


def test_neighbours_along_the_curve_are_neighbours_in_the_plan():
    # Of a square of 2^k x 2^k points the curve goes from each to one beside it.
    y, x = np.mgrid[0:64, 0:64]
    xy = np.column_stack([x.ravel(), y.ravel()]) / 63 * 64 * (1 - 1e-12)
    order = along_curve(xy)
    assert sorted(order) == list(range(64 * 64))
    steps = np.abs(np.diff(np.column_stack([x.ravel(), y.ravel()])[order], axis=0)).sum(axis=1)
    assert (steps == 1).all()


def test_what_is_no_number_is_refused():
    with pytest.raises(ValueError, match="finite"):
        planes(np.array([1.0, np.nan]), np.arange(2), 19)
