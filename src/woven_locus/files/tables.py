"""CSV in and out: the one writer and the one reader of tables (RFC 4180, with plain line ends).

A text that a spreadsheet would take for a formula (it begins with =, +, - or @, or with a tab or line end) is
written with an apostrophe before it, which the reader takes off again; so is one that begins with an
apostrophe. Numbers, cells and keys stay as they are: no key begins like that, and no negative number is a
formula.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from functools import partial

from woven_locus.core.errors import FileProblem
from woven_locus.core.numbers import parse_number
from woven_locus.core.phrase import mark, phrase

# A table of a million structures is about as large.
LARGEST = 64 << 20
_FORMULAS = ("=", "+", "-", "@", "\t", "\r", "\n")
_GUARD = "'"
# A cell as trips name it, whose column may be negative.
_CELL = re.compile(r"-?[0-9]+:-?[0-9]+")


def guarded(text: str) -> str:
    """A text as it is written to a table."""
    if text.startswith(_GUARD):
        return _GUARD + text
    if not text.startswith(_FORMULAS) or _CELL.fullmatch(text):
        return text
    try:
        parse_number(text)
    except ValueError:
        return _GUARD + text
    return text


def unguarded(text: str) -> str:
    """The inverse of `guarded`."""
    return text[1:] if text[:1] == _GUARD and guarded(text[1:]) == text else text


def table(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A header and rows of text."""
    return rows_of([header]) + rows_of(rows)


def rows_of(rows: Iterable[Sequence[object]]) -> str:
    """Rows of a table without its header, for who writes one piece by piece."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in rows:
        writer.writerow([guarded(value) if isinstance(value, str) else value for value in row])
    return out.getvalue()


def read_table(
    data: bytes, path: object, known: Sequence[str], needed: Iterable[str]
) -> Iterator[tuple[int, dict[str, str]]]:
    """(line, values by column) of each row, one after the other. Raises FileProblem."""
    text = io.TextIOWrapper(io.BytesIO(data), encoding="utf-8-sig", newline="")
    reader = csv.reader(text, strict=True)
    wrong_head = partial(FileProblem, path, phrase("line 1"))
    try:
        names = [name.strip().lower() for name in next(reader, [])]
        if missing := [name for name in needed if name not in names]:
            form = mark("no column {column!r}; expected some of {names}")
            raise wrong_head(phrase(form, column=missing[0], names=", ".join(known)))
        if strange := [name for name in names if name not in known]:
            form = mark("unknown column {column!r}; known are {names}")
            raise wrong_head(phrase(form, column=strange[0], names=", ".join(known)))
        if twice := [name for at, name in enumerate(names) if name in names[:at]]:
            raise wrong_head(phrase("column {column!r} is there twice", column=twice[0]))
        for row in reader:
            if not row:
                continue
            if len(row) != len(names):
                raise FileProblem(
                    path,
                    phrase("line {line_num}", line_num=reader.line_num),
                    phrase("does not have {count} columns", count=len(names)),
                )
            yield (
                reader.line_num,
                {key: unguarded(value.strip()) for key, value in zip(names, row, strict=True)},
            )
    except UnicodeDecodeError as err:
        raise FileProblem(path, "", phrase("is not UTF-8 text")) from err
    except csv.Error as err:
        raise FileProblem(
            path,
            phrase("line {line_num}", line_num=reader.line_num),
            phrase("is no CSV: {err}", err=err),
        ) from err
