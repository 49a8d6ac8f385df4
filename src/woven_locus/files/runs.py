"""Byte layers as rows of text, run-length coded: ``12m4bm`` is 12 m, 4 b and 1 m.

A row of the file is a row of the map, so that a diff shows which rows moved. Both directions are
array passes; 16 M cells take well under a second.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.distinct import distinct_and_places
from woven_locus.core.errors import BadPlan
from woven_locus.core.phrase import phrase

# One digit more than any count needs; what is longer still is refused.
_MOST_DIGITS = 9


def encode(layer: npt.NDArray[np.uint8], marks: Sequence[str]) -> list[str]:
    """One string per row. layer : (H, W) uint8.  marks : one ASCII letter or dot per code."""
    rows, cols = layer.shape
    edge = np.ones((rows, cols), bool)
    np.not_equal(layer[:, 1:], layer[:, :-1], out=edge[:, 1:])
    starts = np.flatnonzero(edge)
    lengths = np.diff(starts, append=rows * cols)
    keys = layer.ravel()[starts].astype(np.int64) * (cols + 1) + lengths
    # Only few different runs occur: make each one's text once, then look it up.
    present, which = distinct_and_places(keys)
    texts = np.array(
        [
            marks[key // (cols + 1)] if key % (cols + 1) == 1 else f"{n}{marks[key // (cols + 1)]}"
            for key in present.tolist()
            for n in (key % (cols + 1),)
        ],
        object,
    )
    tokens = texts[which].tolist()
    ends = np.searchsorted(starts, np.arange(1, rows + 1) * cols).tolist()
    out, begin = [], 0
    for end in ends:
        out.append("".join(tokens[begin:end]))
        begin = end
    return out


def decode(
    lines: Sequence[str], shape: tuple[int, int], marks: Sequence[str], where: str
) -> npt.NDArray[np.uint8]:
    """The inverse of `encode`; returns `shape` uint8. Raises BadPlan, naming `where[row]`."""
    rows, cols = shape
    if len(lines) != rows:
        raise BadPlan(
            where, phrase("has {count} rows, the grid has {rows}", count=len(lines), rows=rows)
        )
    text = "\n".join(lines) + "\n"
    if not text.isascii() or text.count("\n") != rows:
        for at, line in enumerate(lines):
            if not line.isascii() or "\n" in line:
                raise BadPlan(
                    f"{where}[{at}]", phrase("holds a character that is no digit or mark")
                )
    data = np.frombuffer(text.encode("ascii"), np.uint8)

    code_of = np.full(256, -1, np.int16)
    for code, letter in enumerate(marks):
        code_of[ord(letter)] = code
    digit = (data >= ord("0")) & (data <= ord("9"))
    newline = data == ord("\n")
    mark_at = np.flatnonzero(~digit & ~newline)
    codes = code_of[data[mark_at]]
    line_of = np.cumsum(newline) - newline  # the row that each character stands in

    def fail(at: int, what: str) -> BadPlan:
        row = int(line_of[at])
        column = int(at - (np.flatnonzero(newline)[row - 1] + 1 if row else 0)) + 1
        return BadPlan(
            f"{where}[{row}]", phrase("character {column}: {what}", column=column, what=what)
        )

    if (codes < 0).any():
        at = int(mark_at[np.argmax(codes < 0)])
        known = " ".join(marks)
        raise fail(
            at,
            phrase(
                "{chr!r} is no mark; expected a count or one of {known}",
                chr=chr(data[at]),
                known=known,
            ),
        )
    loose = np.flatnonzero(digit & np.append(newline[1:], True))
    if len(loose):
        raise fail(int(loose[0]), phrase("a count with no mark behind it"))

    counts = _counts(data, digit, mark_at, fail)
    widths = np.bincount(line_of[mark_at], weights=counts, minlength=rows).astype(np.int64)
    if (widths != cols).any():
        row = int(np.argmax(widths != cols))
        raise BadPlan(
            f"{where}[{row}]",
            phrase(
                "has {widths} cells, the grid has {cols} columns", widths=widths[row], cols=cols
            ),
        )
    return np.repeat(codes.astype(np.uint8), counts).reshape(shape)


def _counts(
    data: npt.NDArray[np.uint8],
    digit: npt.NDArray[np.bool_],
    mark_at: npt.NDArray[np.intp],
    fail: Callable[[int, str], BadPlan],
) -> npt.NDArray[np.int64]:
    """The count before each mark, 1 where none is written. fail : makes the error of a character."""
    counts = np.zeros(len(mark_at), np.int64)
    going, before, scale = np.arange(len(mark_at)), mark_at - 1, 1
    for _digit in range(_MOST_DIGITS):
        more = (before >= 0) & digit[before]
        going, before = going[more], before[more]
        if not len(going):
            break
        counts[going] += (data[before] - np.int64(ord("0"))) * scale
        before = before - 1
        scale *= 10
    else:
        raise fail(int(mark_at[going[0]]), phrase("the count is too long"))
    bare = ~digit[np.maximum(mark_at - 1, 0)] | (mark_at == 0)
    counts[bare] = 1
    if (counts == 0).any():
        raise fail(int(mark_at[np.argmax(counts == 0)]), phrase("a run of 0 cells"))
    return counts
