"""Values of several bytes as a zlib stream (RFC 1950) of the first bytes of all values, then of their second bytes, and
so on: heights pack better so.

The low bytes of measured or made heights are noise, in which a packer searches for long and finds nothing. Such a plane
goes into the stream as it is (a stored block, RFC 1951, 3.2.4). Any reader of such streams reads that.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from itertools import groupby
from typing import Any

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[Any]

_HEADER = b"\x78\x01"
# A stored block holds no more.
_MOST = 0xFFFF
# Planes of fewer bytes are packed together, whatever they hold.
_SHORT = 1024
# Of so many bytes, bytes drawn evenly from 256 show 101 different ones, give or take 5. Fewer: packing would make them a
# tenth shorter, or more. More: they follow one another in some order.
_LOOKED_AT, _NOISE = 128, range(88, 115)


def packed(values: Array) -> list[bytes]:
    """A stream for each row. values : (rows, N). The same values make the same bytes, on every machine."""
    planes = (
        np.ascontiguousarray(values)
        .view(np.uint8)
        .reshape(*values.shape, values.itemsize)
        .swapaxes(1, 2)
    )
    return [_stream(row.tobytes(), values.shape[1]) for row in np.ascontiguousarray(planes)]


def _stream(whole: bytes, each: int) -> bytes:
    """Of all planes of a row, of so many bytes each."""
    if each < _SHORT:
        return zlib.compress(whole, 1)
    planes = [whole[at : at + each] for at in range(0, len(whole), each)]
    parts = [(noise, b"".join(some)) for noise, some in groupby(planes, _is_noise)]
    pieces = [_HEADER]
    for at, (noise, part) in enumerate(parts):
        pieces += (_stored if noise else _searched)(part, at == len(parts) - 1)
    return b"".join([*pieces, zlib.adler32(whole).to_bytes(4, "big")])


def values_of(data: bytes, dtype: np.dtype[Any]) -> Array:
    """The values whose planes these bytes, unpacked, are: (N,). Raises ValueError when they are none."""
    planes = np.frombuffer(data, np.uint8).reshape(dtype.itemsize, -1)
    return np.ascontiguousarray(planes.T).view(dtype).ravel()


def _is_noise(plane: bytes) -> bool:
    return len(set(plane[:: len(plane) // _LOOKED_AT][:_LOOKED_AT])) in _NOISE


def _stored(part: bytes, last: bool) -> Iterator[bytes]:
    for at in range(0, len(part), _MOST):
        block = part[at : at + _MOST]
        size = len(block)
        yield bytes([last and at + size == len(part)])
        yield size.to_bytes(2, "little") + (size ^ 0xFFFF).to_bytes(2, "little")
        yield block


def _searched(part: bytes, last: bool) -> Iterator[bytes]:
    packer = zlib.compressobj(1, zlib.DEFLATED, -zlib.MAX_WBITS)
    yield packer.compress(part)
    yield packer.flush(zlib.Z_FINISH if last else zlib.Z_SYNC_FLUSH)
