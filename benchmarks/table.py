"""Timing and the table that `make bench` prints."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

REPEATS = 5


@dataclass(frozen=True)
class Row:
    """number : the row of the goals.  ours, reference : text with its unit.  ratio : ours by the
    reference's, or None.  met : whether the goal is met."""

    number: str
    case: str
    ours: str
    reference: str
    ratio: float | None
    goal: str
    met: bool


def best_of(function: Callable[[], object], repeats: int = REPEATS) -> float:
    """Seconds of the quickest of some runs, after one that is not counted."""
    function()
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        function()
        times.append(time.perf_counter() - start)
    return min(times)


def seconds(value: float) -> str:
    for unit, scale in (("s", 1.0), ("ms", 1e-3), ("µs", 1e-6)):
        if value >= scale:
            return f"{value / scale:.2f} {unit}"
    return f"{value * 1e9:.0f} ns"


def show(rows: list[Row]) -> str:
    """The table as text."""
    head = ("#", "case", "ours", "reference", "ratio", "goal", "")
    lines = [head]
    for row in rows:
        ratio = ""
        if row.ratio is not None:
            ratio = f"{row.ratio:.2f}" if row.ratio >= 0.05 else f"1/{1 / row.ratio:.0f}"
        verdict = "met" if row.met else "NOT MET"
        lines.append((row.number, row.case, row.ours, row.reference, ratio, row.goal, verdict))
    widths = [max(len(line[k]) for line in lines) for k in range(len(head))]
    text = [
        "  ".join(part.ljust(width) for part, width in zip(line, widths, strict=True)).rstrip()
        for line in lines
    ]
    text.insert(1, "-" * max(map(len, text)))
    return "\n".join(text)
