"""Heights as rows of text: base64 (RFC 4648) of a zlib stream (RFC 1950) of a row's little-endian
float32 values, their first bytes first, then their second bytes, and so on, since that packs best.

A row of the file is a row of the map, so that a diff shows which rows moved.
"""

from __future__ import annotations

import base64
import binascii
import zlib
from collections.abc import Sequence

import numpy as np

from woven_locus.core.errors import BadPlan
from woven_locus.core.plan import Heights

# No-data as one fixed NaN, so that equal heights make equal bytes.
_UNKNOWN = np.array([0x7FC00000], "<u4").view("<f4")[0]


def encode(heights: Heights) -> list[str]:
    """One string per row. heights : (H, W) float32."""
    out = []
    for row in heights:
        values = np.where(np.isnan(row), _UNKNOWN, row).astype("<f4")
        planes = np.ascontiguousarray(values.view(np.uint8).reshape(-1, 4).T)
        out.append(base64.b64encode(zlib.compress(planes.tobytes(), 1)).decode("ascii"))
    return out


def decode(rows: Sequence[str], shape: tuple[int, int], where: str) -> Heights:
    """The inverse of `encode`; returns `shape` float32. Raises BadPlan, naming `where[row]`."""
    if len(rows) != shape[0]:
        raise BadPlan(where, f"has {len(rows)} rows, the grid has {shape[0]}")
    out = np.empty(shape, np.float32)
    size = 4 * shape[1]
    for at, text in enumerate(rows):
        try:
            stream = zlib.decompressobj()
            # A little more than is wanted, and no more: a few bytes may unpack to gigabytes.
            data = stream.decompress(base64.b64decode(text, validate=True), size + 1)
        except (binascii.Error, ValueError, zlib.error) as err:
            raise BadPlan(f"{where}[{at}]", f"cannot be unpacked: {err}") from err
        if len(data) != size or not stream.eof:
            raise BadPlan(
                f"{where}[{at}]",
                f"does not hold {shape[1]} heights of 4 bytes, as the grid has columns",
            )
        planes = np.frombuffer(data, np.uint8).reshape(4, -1)
        out[at] = np.ascontiguousarray(planes.T).view("<f4").ravel()
    return out
