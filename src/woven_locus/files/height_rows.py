"""Heights as rows of text: base64 (RFC 4648) of a zlib stream (RFC 1950) of a row's little-endian
float32 values, their first bytes first, then their second bytes, and so on, since that packs best.

A row of the file is a row of the map, so that a diff shows which rows moved.
"""

from __future__ import annotations

import base64
import binascii
import zlib
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Heights
from woven_locus.files import planes

Answer = TypeVar("Answer")
# Cells from which on a second thread pays.
LARGE = 1 << 20
# Rows that a thread packs at a time.
_BLOCK = 64
# No-data as one fixed NaN, so that equal heights make equal bytes.
_UNKNOWN = np.array([0x7FC00000], "<u4").view("<f4")[0]


def encode_beside(heights: Heights) -> Callable[[], list[str]]:
    """Begin to make one string per row while the caller goes on; call what is returned for the rows. heights : (H, W) float32."""
    parts = _begun(
        lambda at: _packed(heights[at : at + _BLOCK]), len(heights), heights.size >= LARGE
    )
    return lambda: [row for part in parts() for row in part]


def _begun(work: Callable[[int], Answer], rows: int, large: bool) -> Callable[[], list[Answer]]:
    """Work on each block of rows, told the first of them: begun on two threads for a large map, since packing and unpacking let
    go of the interpreter, and else done when the answers are asked for."""
    blocks = range(0, rows, _BLOCK)
    if not large:
        return lambda: [work(at) for at in blocks]
    pool = ThreadPoolExecutor(2)
    parts = [pool.submit(work, at) for at in blocks]
    pool.shutdown(wait=False)
    return lambda: [part.result() for part in parts]


def _packed(block: Heights) -> list[str]:
    values = np.where(np.isnan(block), _UNKNOWN, block).astype("<f4")
    return [base64.b64encode(row).decode("ascii") for row in planes.packed(values)]


def decode_beside(rows: Sequence[str], shape: tuple[int, int], where: str) -> Callable[[], Heights]:
    """The inverse of `encode_beside`: begin to read rows while the caller goes on; call what is returned for the heights, `shape`
    float32. Raises BadPlan, naming `where[row]`, then or now."""
    if len(rows) != shape[0]:
        raise BadPlan(
            where, phrase("has {count} rows, the grid has {shape}", count=len(rows), shape=shape[0])
        )
    out = np.empty(shape, np.float32)

    def unpack(begin: int) -> None:
        for at in range(begin, min(begin + _BLOCK, shape[0])):
            out[at] = _unpacked(rows[at], shape[1], f"{where}[{at}]")

    parts = _begun(unpack, shape[0], out.size >= LARGE)

    def wait() -> Heights:
        parts()
        return out

    return wait


def _unpacked(text: str, cols: int, where: str) -> npt.NDArray[np.float32]:
    """The heights of a row. Raises BadPlan."""
    size = 4 * cols
    try:
        stream = zlib.decompressobj()
        # A little more than is wanted, and no more: a few bytes may unpack to gigabytes.
        data = stream.decompress(base64.b64decode(text, validate=True), size + 1)
    except (binascii.Error, ValueError, zlib.error) as err:
        raise BadPlan(where, phrase("cannot be unpacked: {err}", err=err)) from err
    if len(data) != size or not stream.eof:
        raise BadPlan(
            where,
            phrase("does not hold {shape} heights of 4 bytes, as the grid has columns", shape=cols),
        )
    return planes.values_of(data, np.dtype("<f4"))
