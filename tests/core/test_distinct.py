"""Distinct values, as NumPy's own `unique` has them."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from woven_locus.core.distinct import distinct, distinct_and_places

ARRAYS = hnp.arrays(
    st.sampled_from([np.int64, np.int32]),
    hnp.array_shapes(min_dims=1, max_dims=2, min_side=0, max_side=40),
    elements=st.integers(-3, 60) | st.integers(0, 2**31 - 1),
)


@given(ARRAYS)
def test_as_numpy_has_them(values: np.ndarray) -> None:  # type: ignore[type-arg]
    found, places = np.unique(values, return_inverse=True)
    np.testing.assert_array_equal(distinct(values), found)
    ours, at = distinct_and_places(values)
    np.testing.assert_array_equal(ours, found)
    np.testing.assert_array_equal(at, places.ravel())
