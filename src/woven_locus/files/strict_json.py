"""JSON read into structs, strictly, whatever the bytes hold: no key twice, and a whole number may be written
with a point (``5.0``), as JSON Schema has it."""

from __future__ import annotations

import json
import re
from typing import Any, TypeVar

import msgspec

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase

Made = TypeVar("Made")
_NEWLINE = b"\n"
# A short string, with the colon behind it if it is a key; the quote that begins another one; or a brace.
_TOKEN = re.compile(rb'"([^"\\]{0,64}+)"(\s*+:)?|["{}]')
_COLON = re.compile(rb"\s*+:")
_QUOTE, _OPEN, _CLOSE, _BACKSLASH = b'"{}\\'
# Errors that a decoder raises for text that is not what it should be.
BROKEN = (msgspec.DecodeError, UnicodeDecodeError, RecursionError)


def decoded(data: bytes, into: type[Made], path: object) -> Made:
    """Raises FileProblem: file, place, what was expected."""
    try:
        made = _decoded(data, into)
    except BROKEN as err:
        raise problem(err, data, path) from err
    twice = duplicate_key(data)
    if twice is not None:
        key, at = twice
        raise FileProblem(path, line_of(data, at), phrase("key {key!r} is there twice", key=key))
    return made


def _decoded(data: bytes, into: type[Made]) -> Made:
    try:
        return msgspec.json.decode(data, type=into)
    except msgspec.ValidationError as err:
        if "got `float`" not in str(err):
            raise
    return msgspec.convert(_whole(msgspec.json.decode(data)), into)


def _whole(value: Any) -> Any:
    """The same with whole numbers where a point was written."""
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, list):
        return [_whole(item) for item in value]
    if isinstance(value, dict):
        return {key: _whole(item) for key, item in value.items()}
    return value


def duplicate_key(data: bytes) -> tuple[str, int] | None:
    """The first key that its object has twice, and where; None without. data : valid JSON."""
    seen: list[set[bytes]] = []
    at: int | None = 0
    while at is not None:
        at_next = None
        for token in _TOKEN.finditer(data, at):
            begin = token.start()
            first = data[begin]
            if first == _OPEN:
                seen.append(set())
                continue
            if first == _CLOSE:
                seen.pop()
                continue
            if (end := token.end(1)) < 0:
                # A row of heights is one string of many kilobytes: its end is looked for, and the search begins anew.
                end = _end_of_string(data, begin)
                at_next = end + 1
                is_key = _COLON.match(data, at_next) is not None
            else:
                is_key = token.end(2) >= 0
            if is_key:
                key = data[begin + 1 : end]
                if b"\\" in key:
                    key = json.loads(b'"' + key + b'"').encode("utf-8", "surrogatepass")
                if key in seen[-1]:
                    return key.decode("utf-8", "replace"), begin
                seen[-1].add(key)
            if at_next is not None:
                break
        at = at_next
    return None


def _end_of_string(data: bytes, begin: int) -> int:
    """Where the quote stands that ends a string."""
    end = begin
    while True:
        end = data.index(_QUOTE, end + 1)
        before = end - 1
        while data[before] == _BACKSLASH:
            before -= 1
        # Two backslashes are one of the text's own.
        if (end - before) % 2:
            return end


def problem(err: Exception, data: bytes, path: object) -> FileProblem:
    """A decoder's error as file, place, words."""
    if data.startswith(b"\xef\xbb\xbf"):
        return FileProblem(
            path, phrase("line 1"), phrase("begins with a byte order mark; save it as plain UTF-8")
        )
    if isinstance(err, RecursionError):
        return FileProblem(path, "", phrase("broken JSON: it is nested too deeply"))
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as bad:
        return FileProblem(path, line_of(data, bad.start), phrase("is not UTF-8 text"))
    text = str(err)
    if not data.strip():
        return FileProblem(path, "", phrase("is empty; expected a document in JSON"))
    if isinstance(err, msgspec.ValidationError):
        what, _, place = text.partition(" - at `")
        return FileProblem(path, place.rstrip("`").removeprefix("$.") or "document", what)
    what, _, place = text.partition(" (byte ")
    if place:
        return FileProblem(
            path, line_of(data, int(place.rstrip(")"))), phrase("broken JSON: {what}", what=what)
        )
    return FileProblem(
        path, line_of(data, len(data)), phrase("broken JSON: the file ends too early")
    )


def line_of(data: bytes, at: int) -> str:
    """The line, from 1, in which a byte stands."""
    return phrase(
        "line {count}, column {at}",
        count=data.count(_NEWLINE, 0, at) + 1,
        at=at - data.rfind(_NEWLINE, 0, at),
    )
