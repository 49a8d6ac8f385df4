"""Keys that an object has twice, found in the bytes: as a parser says that counts them."""

import json
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from woven_locus.files.strict_json import duplicate_key

# Few different keys, so that some are there twice; what looks like the end of a string, a key or a brace; very long ones.
WORDS = st.sampled_from(
    ["a", "b", '"', "\\", '\\"', "{", "}:", '":', "é", "\n", "\u2028", "x" * 64, "y" * 200]
)
STRINGS = st.lists(WORDS, max_size=3).map("".join)


class Pairs(list):  # type: ignore[type-arg]
    """An object as the pairs that are written."""


VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | STRINGS,
    lambda inner: (
        st.lists(inner, max_size=3) | st.lists(st.tuples(STRINGS, inner), max_size=4).map(Pairs)
    ),
    max_leaves=12,
)


def written(value: Any, gap: str, ascii_only: bool) -> str:
    if isinstance(value, Pairs):
        inside = ",".join(
            f"{gap}{json.dumps(key, ensure_ascii=ascii_only)}{gap}:{gap}{written(item, gap, ascii_only)}"
            for key, item in value
        )
        return "{" + inside + gap + "}"
    if isinstance(value, list):
        return "[" + ",".join(written(item, gap, ascii_only) for item in value) + "]"
    return json.dumps(value, ensure_ascii=ascii_only)


def has_twice(text: str) -> set[str]:
    found = set()

    def look(pairs: list[tuple[str, Any]]) -> None:
        keys = [key for key, _value in pairs]
        found.update(key for key in keys if keys.count(key) > 1)

    json.loads(text, object_pairs_hook=look)
    return found


@given(VALUES, st.sampled_from(["", " ", "\n\t"]), st.booleans())
def test_as_a_parser_says(value: Any, gap: str, ascii_only: bool) -> None:
    text = written(value, gap, ascii_only)
    expected = has_twice(text)
    found = duplicate_key(text.encode())
    assert (found is not None) == bool(expected)
    if found is not None:
        key, at = found
        assert key in expected
        assert text.encode()[at : at + 1] == b'"'
        assert json.JSONDecoder().raw_decode(text.encode()[at:].decode())[0] == key
