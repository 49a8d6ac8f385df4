"""What differs between two plans as lines to read, each with where it is."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from woven_locus.core.compare.cells import ASPECTS
from woven_locus.core.compare.parts import PARTS
from woven_locus.core.geometry import Cell
from woven_locus.files.compare_json import SINGLE
from woven_locus.files.proof_json import finding_text

# Numbers in a row of what is gone.
_GONE = 7


@dataclass(frozen=True, slots=True)
class Line:
    """sign : + for what came, - for what went, ~ for what is another.  words : what.  low, high : the cells of the box where
    it is; None for what has no place.  follows : whether it follows from the others, as findings do."""

    sign: str
    words: str
    low: Cell | None = None
    high: Cell | None = None
    follows: bool = False

    def __str__(self) -> str:
        return f"{self.sign} {self.words}"


def differences_text(whole: dict[str, Any]) -> str:
    """The lines of `differences_json`."""
    return "\n".join(map(str, lines_of(whole))) or "the same"


def lines_of(whole: dict[str, Any]) -> list[Line]:
    """The lines of `differences_json`; none where the two are the same."""
    found = [Line("~", f"grid {_change(item)}") for item in whole["grid"]]
    if not whole["cells_compared"]:
        found.append(Line("~", "cells: the two lie on different lattices"))
    for aspect in ASPECTS:
        if (cells := whole[aspect])["cells"]:
            found.append(_cells(aspect, cells))
    for part in PARTS:
        found += _part(part.name.replace("_", " "), whole[part.name], part.name in SINGLE)
    found += [
        Line("~", f"{name.replace('_', ' ')}: in another order") for name in whole["reordered"]
    ]
    for sign, key in (("+", "came"), ("-", "went")):
        for item in whole["findings"][key]:
            line = _at_cell(sign, f"finding {finding_text(item)}", item["cell"])
            found.append(replace(line, follows=True))
    for route in whole["routes"]:
        times = " to ".join(_seconds(route[key]) for key in ("before", "after"))
        found.append(Line("~", f"way from {route['from']} to {route['to']}: {times}", follows=True))
    return found


def _cells(aspect: str, cells: dict[str, Any]) -> Line:
    c0, r0, c1, r1 = cells["box"]
    into = ", ".join(f"{item['cells']} {_word(item['value'])}" for item in cells["into"])
    words = f"{aspect}: {cells['cells']} cells from {c0}, {r0} to {c1}, {r1}"
    return Line("~", f"{words}: {into}" if into else words, Cell(c0, r0), Cell(c1, r1))


def _part(name: str, found: Any, single: bool) -> Iterator[Line]:
    if single:
        for item in found:
            yield Line(
                "~", f"{name} {item['what']}: {_word(item['before'])} to {_word(item['after'])}"
            )
        return
    for sign, key in (("-", "removed"), ("+", "added")):
        for item in found[key]:
            yield _at_cell(sign, f"{name} {_word(item)}", _place(item))
    for item in found.get("moved", ()):
        words = f"{name} {item['structure']}: moved from {_at(item['from'])} to {_at(item['to'])}"
        yield _at_cell("~", words, item["to"])
    for item in found["changed"]:
        yield Line("~", f"{name} {item['what']}: {'; '.join(map(_change, item['fields']))}")


def _place(row: Any) -> Sequence[int] | None:
    """The first cell of a row of the document that has one."""
    if not isinstance(row, dict):
        return None
    cells = row.get("cells")
    found: Sequence[int] | None = row.get("cell") or (cells[0] if cells else None)
    return found


def _at_cell(sign: str, words: str, cell: Sequence[int] | None) -> Line:
    place = Cell(*cell) if cell is not None else None
    return Line(sign, words, place, place)


def _change(item: dict[str, Any]) -> str:
    name = f"{item['field']} " if item["field"] else ""
    return f"{name}{_word(item['before'])} to {_word(item['after'])}"


def _at(cell: Sequence[int]) -> str:
    return f"{cell[0]}, {cell[1]}"


def _seconds(value: float | None) -> str:
    return "no way" if value is None else f"{value:.1f} s"


def _word(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, list) and len(value) == _GONE:
        since, until, *_yields, many, paid, back = value
        return f"{many} placed at {since} s, demolished at {until} s: {paid} paid, {back} returned"
    if isinstance(value, dict):
        # What it is called comes first in every row.
        named = value.get("name") or value.get("key") or value.get("kind") or value.get("code")
        number = value.get("structure") or value.get("number")
        parts = [f"{number}" if number is not None else "", named or ""]
        if number is None and not named:
            return json.dumps(value, ensure_ascii=False)
        return " ".join(part for part in parts if part)
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
