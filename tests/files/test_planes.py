import zlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from woven_locus.files import planes

PLANES = st.lists(st.sampled_from(["noise", "one", "few", "ramp"]), min_size=4, max_size=4)
MADE = {
    "noise": lambda rng, count: rng.integers(0, 256, count),
    "one": lambda _rng, count: np.full(count, 7),
    "few": lambda rng, count: rng.integers(0, 9, count),
    "ramp": lambda _rng, count: np.arange(count) % 256,
}


def values(kinds: list[str], count: int, seed: int = 1) -> np.ndarray:
    """(count,) float32 whose first, second, third and fourth bytes are of these kinds."""
    rng = np.random.default_rng(seed)
    return (
        np.stack([MADE[kind](rng, count) for kind in kinds], axis=1)
        .astype(np.uint8)
        .view("<f4")
        .ravel()
    )


@given(
    PLANES, st.sampled_from([0, 1, 1023, 1024, 4096, 65_535, 65_536, 140_000]), st.integers(0, 99)
)
def test_any_reader_of_zlib_streams_reads_it(kinds: list[str], count: int, seed: int) -> None:
    whole = values(kinds, count, seed)
    data = planes.packed(whole[None])[0]
    bytes_of = zlib.decompress(data)
    assert bytes_of == np.ascontiguousarray(whole.view(np.uint8).reshape(-1, 4).T).tobytes()
    assert planes.values_of(bytes_of, whole.dtype).tobytes() == whole.tobytes()
    stream = zlib.decompressobj()
    stream.decompress(data + b"after")
    assert (stream.eof, stream.unused_data) == (True, b"after")


def test_noise_is_not_searched_and_all_else_packs_as_well_as_before() -> None:
    noise = values(["noise", "noise", "few", "one"], 4096)
    # Two planes as they are, and a marker of five bytes for each.
    kept = noise.view(np.uint8).reshape(-1, 4).T[:2].tobytes()
    assert kept[:4096] in planes.packed(noise[None])[0]
    for kinds in (["one"] * 4, ["ramp", "few", "few", "one"], ["ramp"] * 4):
        whole = values(kinds, 4096)
        at_once = zlib.compress(whole.view(np.uint8).reshape(-1, 4).T.tobytes(), 1)
        assert len(planes.packed(whole[None])[0]) <= len(at_once) + 16


def test_short_rows_are_packed_as_ever() -> None:
    """Plans of a usual size are saved with the same bytes as by versions before."""
    whole = values(["noise", "noise", "few", "one"], 1023)
    assert planes.packed(whole[None])[0] == zlib.compress(
        whole.view(np.uint8).reshape(-1, 4).T.tobytes(), 1
    )


def test_rows_are_packed_each_by_itself() -> None:
    rows = np.stack([values(["noise", "few", "one", "ramp"], 2000, seed) for seed in range(3)])
    assert planes.packed(rows) == [planes.packed(row[None])[0] for row in rows]


def test_bytes_that_are_no_planes_are_an_error() -> None:
    with pytest.raises(ValueError, match="reshape"):
        planes.values_of(b"123", np.dtype("<f4"))
