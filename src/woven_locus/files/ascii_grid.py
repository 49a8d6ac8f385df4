"""Heights as an ASCII grid (the open text raster of the Esri kind): a few header lines, then a row of
numbers per line, the first row being the top of the picture.

``xllcorner`` and ``yllcorner`` (or the same with ``center``) give the world place of the low corner,
``cellsize`` (or ``dx`` and ``dy``, as GDAL writes them) the cell, ``NODATA_value`` the number that
stands for an unknown height. See docs/format.md.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from woven_locus.core.errors import FileProblem
from woven_locus.core.grid.spec import MOST_CELLS, GridSpec
from woven_locus.core.numbers import parse_number, shown
from woven_locus.core.phrase import phrase, said
from woven_locus.core.plan import Heights
from woven_locus.core.value import Value
from woven_locus.files.atomic import read_bytes, write_bytes

NODATA = -9999
_KEYS = (
    *("ncols", "nrows", "xllcorner", "yllcorner", "xllcenter", "yllcenter"),
    *("cellsize", "dx", "dy", "nodata_value"),
)
# A line of a header is short; what is longer is a row of numbers, or no such file.
_LONGEST_HEADER = 200
# Bytes that are read at a time, and of a file at most: 24 for each cell of the largest grid.
_PIECE = 1 << 20
LARGEST = 24 * MOST_CELLS


class AsciiGrid(Value):
    """heights : (H, W) float32, top row first, NaN for no-data.
    low : world place of the low corner, or None.  cell : width and height of a cell, or None."""

    heights: Heights
    low: tuple[float, float] | None = None
    cell: tuple[float, float] | None = None


def load(path: Path) -> AsciiGrid:
    """Read an ASCII grid. Raises FileProblem: file, line, what was expected."""
    return parse(read_bytes(path, LARGEST), path)


def parse(data: bytes, path: object = "grid") -> AsciiGrid:
    """`load` from bytes. Any line ends are read; numbers are written with a point."""
    if data[:3] == b"\xef\xbb\xbf":
        data = data[3:]
    if not data.isascii():
        at = next(k for k in range(0, len(data), _PIECE) if not data[k : k + _PIECE].isascii())
        at += next(k for k, byte in enumerate(data[at : at + _PIECE]) if byte > 127)
        raise FileProblem(
            path,
            phrase("line {line_at}", line_at=_line_at(data, at)),
            phrase("holds a byte that is no ASCII text"),
        )
    head, begin = _header(data, path)
    cols, rows = int(head["ncols"]), int(head["nrows"])
    values = _values(data, begin, cols, rows, head.get("nodata_value"), path)
    return AsciiGrid(values, _low(head), _cell(head))


def _line_at(data: bytes, at: int) -> int:
    """The number, from 1, of the line in which a byte stands."""
    before = data[:at]
    return len(before.replace(b"\r\n", b"\n").replace(b"\r", b"\n").split(b"\n"))


def _lines(data: bytes) -> Iterator[tuple[int, str]]:
    """(where it begins, the line) from the first on; of a long one only the beginning."""
    at = 0
    while at < len(data):
        ends = [end for end in (data.find(b"\n", at), data.find(b"\r", at)) if end >= 0]
        end = min(ends, default=len(data))
        yield at, data[at : min(end, at + _LONGEST_HEADER)].decode("ascii")
        at = end + (2 if data[end : end + 2] == b"\r\n" else 1)


def _header(data: bytes, path: object) -> tuple[dict[str, float], int]:
    """The header's values, and where what follows it begins."""
    head: dict[str, float] = {}
    begin = len(data)
    for number, (at, line) in enumerate(_lines(data), 1):
        words = line.split()
        if not words:
            continue
        key = words[0].lower()
        if not key[0].isalpha() or key in ("nan", "inf"):
            begin = at
            break
        place = phrase("line {number}", number=number)
        if key not in _KEYS:
            raise FileProblem(
                path,
                place,
                phrase(
                    "{shown} is no header of an ASCII grid; expected {names}",
                    shown=shown(words[0]),
                    names=", ".join(_KEYS),
                ),
            )
        if key in head:
            raise FileProblem(path, place, phrase("says {words} a second time", words=words[0]))
        if len(words) != 2:
            raise FileProblem(
                path, place, phrase("expected one number after {words}", words=words[0])
            )
        try:
            is_nan = key == "nodata_value" and words[1].lower() == "nan"
            head[key] = math.nan if is_nan else parse_number(words[1])
        except ValueError as err:
            raise FileProblem(path, place, said(err)) from err
    if problem := _problem_of(head):
        raise FileProblem(path, phrase("header"), problem)
    return head, begin


def _problem_of(head: dict[str, float]) -> str:
    """What is wrong with a header, or nothing."""
    for key in ("ncols", "nrows"):
        if key not in head:
            return phrase("{key} is missing; this is no ASCII grid, or it was cut short", key=key)
        if head[key] < 1 or head[key] % 1:
            return phrase("{key} must be 1 or more, not {head:g}", key=key, head=head[key])
    if head["ncols"] * head["nrows"] > MOST_CELLS:
        return phrase(
            "{cols:,.0f} × {rows:,.0f} cells are too many; the most is {most_cells:,}",
            cols=head["ncols"],
            rows=head["nrows"],
            most_cells=MOST_CELLS,
        )
    for key in ("cellsize", "dx", "dy"):
        if key in head and head[key] <= 0:
            return phrase("{key} must be above 0, not {head:g}", key=key, head=head[key])
    return ""


def _values(
    data: bytes, begin: int, cols: int, rows: int, nodata: float | None, path: object
) -> Heights:
    """(rows, cols) float32 in the file's own order, NaN for no-data. Numbers may be broken over lines
    anyhow. Read piece by piece, so that no more memory is taken than for the result."""
    # Counted before anything is allocated: a header may promise what the file does not hold.
    if len(data) - begin < 2 * cols * rows - 1:
        raise _wrong_count(path, len(data[begin:].split()), cols, rows)
    out = np.empty(cols * rows, np.float32)
    filled, at = 0, begin
    while at < len(data):
        end = _end_of_word(data, at + _PIECE)
        piece = data[at:end]
        try:
            if b"_" in piece:
                raise ValueError
            values = np.array(piece.decode("ascii").split(), np.float64)
        except ValueError:
            raise _no_number(data, at, end, path) from None
        if filled + len(values) > len(out):
            raise _wrong_count(path, len(data[begin:].split()), cols, rows)
        if nodata is not None:
            values[values == nodata] = np.nan
        with np.errstate(over="ignore"):
            kept = values.astype(np.float32)
        if (bad := np.isinf(kept)).any():
            row, col = divmod(filled + int(bad.argmax()), cols)
            what = phrase("is not a finite height, or too large to be kept (above 3e38)")
            raise FileProblem(
                path, phrase("row {row}, column {col}", row=row + 1, col=col + 1), what
            )
        out[filled : filled + len(values)] = kept
        filled, at = filled + len(values), end
    if filled != len(out):
        raise _wrong_count(path, filled, cols, rows)
    return out.reshape(rows, cols)


def _end_of_word(data: bytes, at: int) -> int:
    """The first place from `at` on that is within no word."""
    while at < len(data) and not data[at : at + 1].isspace():
        at += 1
    return min(at, len(data))


def _no_number(data: bytes, at: int, end: int, path: object) -> FileProblem:
    """The first word of a piece that is no number, and its line."""
    for match in re.finditer(rb"\S+", data[at:end]):
        word = match[0].decode("ascii")
        try:
            if word.lower().lstrip("+-") not in ("nan", "inf", "infinity"):
                parse_number(word)
        except ValueError as err:
            return FileProblem(
                path, phrase("line {line_at}", line_at=_line_at(data, at + match.start())), str(err)
            )
    return FileProblem(
        path,
        phrase("line {line_at}", line_at=_line_at(data, at)),
        phrase("holds what is no number"),
    )


def _wrong_count(path: object, found: int, cols: int, rows: int) -> FileProblem:
    what = phrase(
        "holds {found:,} numbers, the header says {cols} × {rows} = {cols2:,}",
        found=found,
        cols=cols,
        rows=rows,
        cols2=cols * rows,
    )
    if found < cols * rows:
        what = phrase("{what}; the file was cut short", what=what)
    return FileProblem(path, "", what)


def _cell(head: dict[str, float]) -> tuple[float, float] | None:
    size = head.get("cellsize")
    wide, tall = head.get("dx", size), head.get("dy", size)
    return None if wide is None or tall is None else (wide, tall)


def _low(head: dict[str, float]) -> tuple[float, float] | None:
    cell = _cell(head)
    found = []
    for axis in (0, 1):
        name = "xy"[axis]
        if f"{name}llcorner" in head:
            found.append(head[f"{name}llcorner"])
        elif f"{name}llcenter" in head and cell is not None:
            found.append(head[f"{name}llcenter"] - cell[axis] / 2)
        else:
            return None
    return found[0], found[1]


def dump(heights: Heights, spec: GridSpec) -> bytes:
    """The bytes of an ASCII grid. heights : (H, W), rows growing with y. Each height with the fewest digits that read back to the same."""
    head = [f"ncols {spec.cols}", f"nrows {spec.rows}"]
    # The grid's y always grows upwards; on a plan with y down it is the plan's with its sign changed.
    low_y = spec.origin_y if spec.y_up else 0.0 - spec.high.y
    head += [f"xllcorner {spec.origin_x!r}", f"yllcorner {low_y!r}"]
    if spec.cell_w == spec.cell_h:
        head.append(f"cellsize {spec.cell_w!r}")
    else:
        head += [f"dx {spec.cell_w!r}", f"dy {spec.cell_h!r}"]
    unknown = NODATA
    while (heights == np.float32(unknown)).any():
        unknown = unknown * 10 - 9  # a number that no height has
    head.append(f"NODATA_value {unknown}")
    parts = ["\n".join(head)]
    # Few different heights occur, as a rule: make each one's text once.
    present, which = np.unique(heights, return_inverse=True)
    texts = np.array([str(unknown) if np.isnan(v) else _shortest(v) for v in present], object)
    rows = which.reshape(heights.shape)
    for row in rows[::-1] if spec.y_up else rows:
        parts.append(" ".join(texts[row].tolist()))
    return ("\n".join(parts) + "\n").encode("ascii")


def _shortest(value: np.float32) -> str:
    text = np.format_float_positional(value, unique=True, trim="-")
    return "0" if text in ("-0", "") else text


def save(heights: Heights, spec: GridSpec, path: Path) -> None:
    """Write an ASCII grid, atomically. Raises FileProblem."""
    write_bytes(path, dump(heights, spec))
