"""Heights as an ASCII grid (the open text raster of the Esri kind): a few header lines, then a row of
numbers per line, the first row being the top of the picture.

``xllcorner`` and ``yllcorner`` (or the same with ``center``) give the world place of the low corner,
``cellsize`` (or ``dx`` and ``dy``, as GDAL writes them) the cell, ``NODATA_value`` the number that
stands for an unknown height. See docs/format.md.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from woven_locus.core.errors import FileProblem
from woven_locus.core.grid.spec import MOST_CELLS, GridSpec
from woven_locus.core.plan import Heights
from woven_locus.files.atomic import read_bytes, write_bytes

NODATA = -9999
_KEYS = (
    *("ncols", "nrows", "xllcorner", "yllcorner", "xllcenter", "yllcenter"),
    *("cellsize", "dx", "dy", "nodata_value"),
)
# A line of a header is short; what is longer is a row of numbers, or no such file.
_LONGEST_HEADER = 200


@dataclass(frozen=True)
class Raster:
    """heights : (H, W) float32, top row first, NaN for no-data.
    low : world place of the low corner, or None.  cell : width and height of a cell, or None."""

    heights: Heights
    low: tuple[float, float] | None = None
    cell: tuple[float, float] | None = None


def load(path: Path) -> Raster:
    """Read an ASCII grid. Raises FileProblem: file, line, what was expected."""
    return parse(read_bytes(path), path)


def parse(data: bytes, path: object = "grid") -> Raster:
    """`load` from bytes. Any line ends are read; numbers are written with a point."""
    if data[:3] == b"\xef\xbb\xbf":
        data = data[3:]
    try:
        text = data.decode("ascii")
    except UnicodeDecodeError as err:
        line = data.count(b"\n", 0, err.start) + 1
        raise FileProblem(path, f"line {line}", "holds a byte that is no ASCII text") from err
    head, lines, at = _header(text.splitlines(), path)
    cols, rows = head["ncols"], head["nrows"]
    values = _values(lines, at, int(cols), int(rows), path)
    nodata = head.get("nodata_value")
    if nodata is not None:
        values[values == nodata] = np.nan
    if np.isinf(values).any():
        row, col = np.argwhere(np.isinf(values))[0]
        raise FileProblem(path, f"row {row + 1}, column {col + 1}", "is not a finite height")
    with np.errstate(over="ignore"):
        kept = np.ascontiguousarray(values, np.float32)
    if np.isinf(kept).any():
        raise FileProblem(path, "", "holds a height too large to be kept (above 3e38)")
    return Raster(kept, _low(head), _cell(head))


def _header(lines: list[str], path: object) -> tuple[dict[str, float], list[str], int]:
    """The header's values, the lines after it, and the number of the first of those."""
    head: dict[str, float] = {}
    at = 0
    for at, line in enumerate(lines):
        words = line[:_LONGEST_HEADER].split()
        if not words:
            continue
        key = words[0].lower()
        if not key[0].isalpha() or key in ("nan", "inf"):
            break
        if key not in _KEYS:
            raise FileProblem(
                path,
                f"line {at + 1}",
                f"{words[0]!r} is no header of an ASCII grid; expected {', '.join(_KEYS)}",
            )
        if len(words) != 2:
            raise FileProblem(path, f"line {at + 1}", f"expected one number after {words[0]}")
        head[key] = _number(words[1], f"line {at + 1}", path, key == "nodata_value")
    for key in ("ncols", "nrows"):
        if key not in head:
            raise FileProblem(
                path, "header", f"{key} is missing; this is no ASCII grid, or it was cut short"
            )
        if head[key] < 1 or head[key] % 1:
            raise FileProblem(path, "header", f"{key} must be 1 or more, not {head[key]:g}")
    if head["ncols"] * head["nrows"] > MOST_CELLS:
        raise FileProblem(
            path,
            "header",
            f"{head['ncols']:,.0f} × {head['nrows']:,.0f} cells are too many; "
            f"the most is {MOST_CELLS:,}",
        )
    for key in ("cellsize", "dx", "dy"):
        if key in head and head[key] <= 0:
            raise FileProblem(path, "header", f"{key} must be above 0, not {head[key]:g}")
    return head, lines[at:], at


def _number(word: str, place: str, path: object, may_be_nan: bool = False) -> float:
    try:
        value = float(word)
    except ValueError as err:
        raise FileProblem(path, place, _no_number(word)) from err
    if not (math.isfinite(value) or (may_be_nan and value != value)):
        raise FileProblem(path, place, f"{word} is not a finite number")
    return value


def _no_number(word: str) -> str:
    shown = word if len(word) <= 20 else f"{word[:20]}…"
    if "," in word:
        return f"{shown!r} is no number: decimals are written with a point, not a comma"
    return f"{shown!r} is no number"


def _values(
    lines: list[str], first: int, cols: int, rows: int, path: object
) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """(rows, cols) float64 in the file's own order. Numbers may be broken over lines anyhow."""
    text = "\n".join(lines)
    # Counted before anything is allocated: a header may promise what the file does not hold.
    if len(text) < 2 * cols * rows - 1:
        found = sum(len(line.split()) for line in lines)
        raise _wrong_count(path, found, cols, rows)
    try:
        values = np.array(text.split(), np.float64)
    except ValueError:
        for at, line in enumerate(lines):
            for word in line.split():
                try:
                    float(word)
                except ValueError as err:
                    raise FileProblem(path, f"line {first + at + 1}", _no_number(word)) from err
        raise
    if len(values) != cols * rows:
        raise _wrong_count(path, len(values), cols, rows)
    return values.reshape(rows, cols)


def _wrong_count(path: object, found: int, cols: int, rows: int) -> FileProblem:
    what = f"holds {found:,} numbers, the header says {cols} × {rows} = {cols * rows:,}"
    if found < cols * rows:
        what += "; the file was cut short"
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
