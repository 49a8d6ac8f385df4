"""What differs between two plans as lines to read, each with where it is."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any

from woven_locus.core.compare import Differences, Thing
from woven_locus.core.compare.differ import CellChange, Change
from woven_locus.core.compare.effects import Effects
from woven_locus.core.compare.parts import PARTS
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, replace
from woven_locus.files.compare_json import (
    SINGLE,
    fields_json,
    structures_json,
    things_json,
    value_json,
)
from woven_locus.files.proof_json import finding_json, finding_text
from woven_locus.files.traffic_rows import end_text

# Numbers in a row of what is gone.
_GONE = 7


class Line(Value):
    """sign : + for what came, - for what went, ~ for what is another.  words : what.  low, high : the cells of the box where
    it is; None for what has no place.  thing : what would be taken over to have it as before; None for what cannot be, or
    follows from the others.  follows : whether it does, as findings do."""

    sign: str
    words: str
    low: Cell | None = None
    high: Cell | None = None
    thing: Thing | None = None
    follows: bool = False

    def __str__(self) -> str:
        return f"{self.sign} {self.words}"


def differences_text(found: Differences, effects: Effects) -> str:
    """As lines; the pieces of cells are not told apart."""
    return "\n".join(map(str, lines_of(found, effects))) or phrase("the same")


def lines_of(found: Differences, effects: Effects, pieces: bool = False) -> list[Line]:
    """What differs and what follows from it; none where the two are the same. pieces : cells that hang together have a line
    each."""
    lines = [
        Line("~", phrase("grid {change}", change=_change(item)))
        for item in (fields_json(*found.grid) if found.grid else ())
    ]
    if found.cells is None:
        lines.append(Line("~", phrase("cells: the two lie on different lattices")))
    for change in found.cells or ():
        for piece in (change.pieces if pieces else ()) or (change,):
            lines.append(_cells(piece, found.grid is None))
    for part in PARTS:
        of_part = [line for change in found.of(part.name) for line in _part(part.name, change)]
        # What went, what came, what moved, what is another.
        lines += sorted(of_part, key=lambda line: _rank(line, part.name))
    lines += [
        Line("~", phrase("{name}: in another order", name=name.replace("_", " ")))
        for name in found.reordered
    ]
    for sign, findings in (("+", effects.came), ("-", effects.went)):
        for item in map(finding_json, findings):
            line = _at_cell(
                sign,
                phrase("finding {finding}", finding=finding_text(item)),
                item["cell"],
            )
            lines.append(replace(line, follows=True))
    for route in effects.routes:
        ends = phrase(
            "way from {end_text} to {end_text2}",
            end_text=end_text(route.start),
            end_text2=end_text(route.goal),
        )
        times = " to ".join(map(_seconds, (route.before, route.after)))
        lines.append(Line("~", f"{ends}: {times}", follows=True))
    return lines


def _rank(line: Line, part: str) -> tuple[int, bool]:
    return "-+~".index(line.sign), part == "structures" and ": moved" not in line.words


def _cells(change: CellChange, one_grid: bool) -> Line:
    (c0, r0), (c1, r1) = change.low, change.high
    into = ", ".join(f"{count} {_word(value_json(value))}" for value, count in change.into)
    words = phrase(
        "{aspect}: {count} cells from {c0}, {r0} to {c1}, {r1}",
        aspect=change.aspect,
        count=change.count,
        c0=c0,
        r0=r0,
        c1=c1,
        r1=r1,
    )
    if change.count == 1:
        words = phrase("{aspect}: 1 cell at {c0}, {r0}", aspect=change.aspect, c0=c0, r0=r0)
    thing = Thing(change.aspect, (change.low, change.high)) if one_grid else None
    return Line("~", f"{words}: {into}" if into else words, change.low, change.high, thing)


def _part(part: str, change: Change) -> Iterator[Line]:
    """One thing that differs; one that moved and is another besides has two lines."""
    thing, name = Thing(part, change.key), part.replace("_", " ")
    old, new = value_json(change.before), value_json(change.after)
    if part in SINGLE:
        yield Line(
            "~",
            phrase(
                "{name} {key}: {word} to {word2}",
                name=name,
                key=change.key,
                word=_word(old),
                word2=_word(new),
            ),
            thing=thing,
        )
        return
    found = structures_json([change]) if part == "structures" else things_json([change])
    for sign, key in (("-", "removed"), ("+", "added")):
        for item in found[key]:
            yield replace(_at_cell(sign, f"{name} {_word(item)}", _place(item)), thing=thing)
    for item in found.get("moved", ()):
        words: str = phrase(
            "{name} {item}: moved from {at} to {at2}",
            name=name,
            item=item["structure"],
            at=_at(item["from"]),
            at2=_at(item["to"]),
        )
        yield replace(_at_cell("~", words, item["to"]), thing=thing)
    for item in found["changed"]:
        words = f"{name} {item['what']}: {'; '.join(map(_change, item['fields']))}"
        yield Line("~", words, thing=thing)


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
    return phrase(
        "{name}{word} to {word2}", name=name, word=_word(item["before"]), word2=_word(item["after"])
    )


def _at(cell: Sequence[int]) -> str:
    return f"{cell[0]}, {cell[1]}"


def _seconds(value: float | None) -> str:
    return phrase("no way") if value is None else f"{value:.1f} s"


def value_words(value: Any) -> str:
    """A value of a plan in a few words."""
    return _word(value_json(value))


def _word(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, list) and len(value) == _GONE:
        since, until, *_yields, many, paid, back = value
        return phrase(
            "{many} placed at {since} s, demolished at {until} s: {paid} paid, {back} returned",
            many=many,
            since=since,
            until=until,
            paid=paid,
            back=back,
        )
    if isinstance(value, dict):
        # What it is called comes first in every row.
        named = value.get("name") or value.get("key") or value.get("kind") or value.get("code")
        number = value.get("structure") or value.get("number")
        parts = [f"{number}" if number is not None else "", named or ""]
        if number is None and not named:
            return json.dumps(value, ensure_ascii=False)
        return " ".join(part for part in parts if part)
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
