import zlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays

from woven_locus.files import array_bytes
from woven_locus.files.array_bytes import packed, unpacked

SHAPES = st.tuples(st.integers(0, 9), st.integers(0, 9))
KINDS = st.sampled_from(["u1", "i4", "f4"])


@given(
    SHAPES.flatmap(lambda shape: KINDS.flatmap(lambda kind: arrays.arrays(kind, shape))),
    st.integers(4, 40),
)
def test_every_bit_comes_back(array: np.ndarray, block: int) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(array_bytes, "_BLOCK", block)
        for one in (array, array[:, ::-1], array[::2]):
            again = unpacked(packed(one), one.shape, one.dtype)
            assert (again.shape, again.dtype) == (one.shape, one.dtype)
            assert again.tobytes() == one.tobytes()
            assert again.flags.writeable


def test_what_an_older_version_packed_is_read() -> None:
    values = np.arange(12, dtype=np.float32).reshape(3, 4)
    data = b"z" + zlib.compress(values.tobytes(), 1)
    np.testing.assert_array_equal(unpacked(data, (3, 4), np.float32), values)


@pytest.mark.parametrize("spoil", [lambda data: data[:-3], lambda data: data[:7] + b"x" + data[8:]])
def test_what_is_cut_or_spoilt_is_an_error(spoil: object) -> None:
    data = packed(np.arange(99, dtype=np.float32).reshape(9, 11))
    with pytest.raises((ValueError, zlib.error)):
        unpacked(spoil(data), (9, 11), np.float32)  # type: ignore[operator]
