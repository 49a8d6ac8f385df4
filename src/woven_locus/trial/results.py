"""The rows of a trial as they are read: settings and what was noted, as text and as numbers."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value
from woven_locus.files.atomic import read_bytes
from woven_locus.trial.runs import digest
from woven_locus.trial.spec import Spec
from woven_locus.trial.table import whole_rows

_WORDS = {"true": 1.0, "false": 0.0}


class Results(Value):
    """columns : of the table, without the plan's digest.  rows : the cells of each run, in the trial's order; as many as
    are there yet.  stale : which rows are of a plan as it is no more, or of other seconds."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    stale: frozenset[int]

    def short(self, column: str) -> str:
        """The last part of a key, where that tells the column from all others."""
        last = column.rsplit(".", 1)[-1]
        alone = sum(name.rsplit(".", 1)[-1] == last for name in self.columns) == 1
        return last if alone else column

    def numbers(self, column: str) -> npt.NDArray[np.float64]:
        """(rows,) of a column; true and false are 1 and 0, anything else that is no number is NaN."""
        at = self.columns.index(column)
        return np.array([_number(row[at]) for row in self.rows], np.float64)

    def is_numeric(self, column: str) -> bool:
        """Whether most cells of a column, of those that hold something, are numbers."""
        at = self.columns.index(column)
        filled = [row[at] for row in self.rows if row[at] not in ("", "null")]
        known = sum(not np.isnan(_number(cell)) for cell in filled)
        return known * 2 > len(filled)

    def groups(self, column: str) -> dict[str, list[int]]:
        """The rows that have each value of a column, values in the order in which they come."""
        at = self.columns.index(column)
        found: dict[str, list[int]] = {}
        for k, row in enumerate(self.rows):
            found.setdefault(row[at], []).append(k)
        return found


def _number(cell: str) -> float:
    try:
        return _WORDS[cell] if cell in _WORDS else float(cell)
    except ValueError:
        return float("nan")


def read_results(spec: Spec, path: Path) -> Results:
    """The rows of a table that a trial has written so far; none where there is no file yet. Raises FileProblem where it
    holds something else."""
    columns = spec.columns
    shown = tuple(name for name in columns if name != "plan_digest")
    if not path.exists():
        return Results(shown, (), frozenset())
    text = read_bytes(path).decode("utf-8", "replace")
    rows = whole_rows(text)
    if (rows and rows[0] != columns) or len(rows) - 1 > spec.count:
        raise FileProblem(path, "", phrase("holds something other than this trial"))
    kept = []
    stale = set()
    at = columns.index("plan_digest")
    made_of: dict[tuple[bytes, float], str] = {}
    for k, (row, (_plan, data, settings)) in enumerate(zip(rows[1:], spec.jobs(), strict=False)):
        if len(row) != len(columns):
            raise FileProblem(
                path,
                phrase("row {k}", k=k + 1),
                phrase("expected {count} cells", count=len(columns)),
            )
        key = data, spec.seconds_of(settings)
        if key not in made_of:
            made_of[key] = digest(data, spec.run, key[1])
        if row[at] != made_of[key]:
            stale.add(k)
        kept.append(tuple(cell for place, cell in enumerate(row) if place != at))
    return Results(shown, tuple(kept), frozenset(stale))


def setting(spec: Spec, row: int) -> tuple[Path, dict[str, Any]]:
    """The plan and the settings of a row."""
    return next(itertools.islice(spec.runs(), row, None))


class Spread(Value):
    """How values lie: a box plot (Tukey 1977). name : of the group.  count : of values.  low, high : the ends of the
    whiskers, the farthest values within 1.5 times the box beyond it.  first, middle, third : the quartiles.  far : the
    values beyond the whiskers."""

    name: str
    count: int
    low: float
    first: float
    middle: float
    third: float
    high: float
    far: tuple[float, ...]


def spreads(results: Results, noted: str, by: str) -> list[Spread]:
    """Of a noted column, for each value of another one; groups without a number are left out."""
    values = results.numbers(noted)
    found = []
    for name, rows in results.groups(by).items():
        mine = values[rows]
        mine = np.sort(mine[~np.isnan(mine)])
        if not len(mine):
            continue
        first, middle, third = np.percentile(mine, (25, 50, 75)).tolist()
        reach = 1.5 * (third - first)
        within = mine[(mine >= first - reach) & (mine <= third + reach)]
        far = mine[(mine < first - reach) | (mine > third + reach)]
        # Between values the quartiles are interpolated: a whisker never ends within the box.
        low, high = min(float(within[0]), first), max(float(within[-1]), third)
        found.append(Spread(name, len(mine), low, first, middle, third, high, tuple(far.tolist())))
    return found
