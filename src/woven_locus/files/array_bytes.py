"""An array as bytes, for the recovery journal: bit for bit, and quickly packed."""

from __future__ import annotations

import zlib
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.side_by_side import each
from woven_locus.files import planes

Array = npt.NDArray[Any]

# How the values follow: one for all of them, or every one, compressed; of several bytes each, plane by plane.
_ONE, _EVERY, _PLANES = b"=", b"z", b"p"
# Bytes that a thread packs at a time.
_BLOCK = 1 << 20


def packed(array: Array) -> bytes:
    """The values of an array; shape and type are kept elsewhere."""
    # By their bits: 0 and -0 are equal, and yet two values.
    bits = array.view(f"u{array.itemsize}")
    if array.size and (bits == bits.flat[0]).all():
        return _ONE + bytes(array.flat[0].tobytes())
    if array.itemsize > 1:
        return _PLANES + _in_planes(array)
    return _EVERY + zlib.compress(np.ascontiguousarray(array).data, 1)


def unpacked(data: bytes, shape: tuple[int, int], dtype: npt.DTypeLike) -> Array:
    """The inverse of `packed`. Raises ValueError, zlib.error."""
    if data[:1] == _ONE:
        return np.full(shape, np.frombuffer(data[1:], dtype)[0])
    if data[:1] == _PLANES:
        return _from_planes(memoryview(data)[1:], np.dtype(dtype)).reshape(shape)
    # A copy: layers are written to in place.
    return np.frombuffer(zlib.decompress(data[1:]), dtype).reshape(shape).copy()


def _in_planes(array: Array) -> bytes:
    """Blocks of values, each as the length of its stream in 4 bytes, little-endian, and its planes: so that two threads can
    pack them."""
    values, many = array.ravel(), _BLOCK // array.itemsize
    blocks = [values[at : at + many] for at in range(0, len(values), many)]
    streams = [b""] * len(blocks)

    def pack(at: int) -> None:
        (stream,) = planes.packed(blocks[at][None])
        streams[at] = len(stream).to_bytes(4, "little") + stream

    each(range(len(blocks)), lambda: pack)
    return b"".join(streams)


def _from_planes(data: memoryview, dtype: np.dtype[Any]) -> Array:
    """The inverse of `_in_planes`: (N,)."""
    parts, at = [np.empty(0, dtype)], 0
    while at < len(data):
        end = at + 4 + int.from_bytes(data[at : at + 4], "little")
        parts.append(planes.values_of(zlib.decompress(data[at + 4 : end]), dtype))
        at = end
    return np.concatenate(parts)
