"""Entries and goals, kinds of attacker, and waves as CSV, out and in. See docs/format.md."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from woven_locus.core.errors import BadPlan, FileProblem, WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.core.phrase import phrase, said
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import (
    AttackerKind,
    Entry,
    Goal,
    Group,
    Moves,
    Wave,
    WavePlan,
)
from woven_locus.files.atomic import read_bytes
from woven_locus.files.row_values import dye, num
from woven_locus.files.tables import LARGEST, read_table, table

PLACES_CSV, ATTACKERS_CSV, WAVES_CSV = "places-csv", "attackers-csv", "waves-csv"
PLACES = ("id", "name", "cells", "goals")
ATTACKERS = (
    *("key", "name", "dye", "size", "speed", "health", "armour"),
    *("reward", "lives", "moves", "queues"),
)
WAVES = ("wave", "begins", "entry", "kind", "count", "every", "after", "spread")


def places_csv(plan: Plan) -> str:
    """A place a line, entries first; cells as ``3:4 3:5``."""
    waves = plan.waves
    rows = [[e.id, e.name, _cells_text(e.cells), " ".join(e.goals)] for e in waves.entries]
    rows += [[g.id, g.name, _cells_text(g.cells), ""] for g in waves.goals]
    return table(PLACES, rows)


def attackers_csv(plan: Plan) -> str:
    """A kind a line."""
    return table(
        ATTACKERS,
        (
            [
                *(kind.key, kind.name, kind.dye),
                *map(num, (kind.size, kind.speed, kind.health, kind.armour)),
                *(kind.reward, kind.lives, kind.moves.value, "yes" if kind.queues else "no"),
            ]
            for kind in plan.waves.attackers
        ),
    )


def waves_csv(plan: Plan) -> str:
    """A group a line; groups of one wave follow one another. A wave without any is a line without an entry."""
    rows: list[list[object]] = []
    for wave in plan.waves.waves:
        head = [wave.name, num(wave.begins)]
        for group in wave.groups:
            times = map(num, (group.every, group.after, group.spread))
            rows.append([*head, group.entry, group.kind, group.count, *times])
        if not wave.groups:
            rows.append([*head, *[""] * 6])
    return table(WAVES, rows)


def load(form: str, path: Path, plan: Plan) -> WavePlan:
    """What a plan says of its waves with one part out of a table, in place of its own. Raises FileProblem for a file that
    is no such table, and for a line that makes no sense there."""
    return parse(form, read_bytes(path, LARGEST), path, plan)


def parse(form: str, data: bytes, path: object, plan: Plan) -> WavePlan:
    """See `load`."""
    read = {PLACES_CSV: _places, ATTACKERS_CSV: _attackers, WAVES_CSV: _waves}[form]
    try:
        return read(data, path, plan)
    except BadPlan as err:
        raise FileProblem(path, err.where, err.what) from None


def _lines(
    data: bytes,
    path: object,
    known: tuple[str, ...],
    needed: tuple[str, ...],
    made: Callable[[dict[str, str]], object],
) -> Iterator[object]:
    for line, values in read_table(data, path, known, needed):
        try:
            yield made(values)
        except BadPlan as err:
            raise FileProblem(path, phrase("line {line}", line=line), err.what) from None
        except (ValueError, WovenError) as err:
            raise FileProblem(path, phrase("line {line}", line=line), said(err)) from None


def _places(data: bytes, path: object, plan: Plan) -> WavePlan:
    def made(values: dict[str, str]) -> Entry | Goal:
        cells = tuple(_cell(text) for text in values["cells"].split())
        for cell in cells:
            if not plan.spec.contains(cell):
                where = plan.spec.describe_range()
                raise ValueError(
                    phrase(
                        "cell {col}:{row} is outside the grid ({where})",
                        col=cell.col,
                        row=cell.row,
                        where=where,
                    )
                )
        goals = tuple(values.get("goals", "").split())
        if values["id"][:1] == "G":
            return Goal(values["id"], values["name"], cells)
        return Entry(values["id"], values["name"], cells, goals)

    found = list(_lines(data, path, PLACES, ("id", "name", "cells"), made))
    entries = tuple(place for place in found if isinstance(place, Entry))
    goals = tuple(place for place in found if isinstance(place, Goal))
    # Checked before what refers to places that are gone is dropped.
    WavePlan(entries, goals)
    return plan.waves.with_places(entries, goals)


def _attackers(data: bytes, path: object, plan: Plan) -> WavePlan:
    def made(values: dict[str, str]) -> AttackerKind:
        moves = values.get("moves") or Moves.GROUND.value
        if moves not in list(Moves):
            raise ValueError(phrase("moves is roads, ground or air, not {moves!r}", moves=moves))
        queues = (values.get("queues") or "no").lower()
        if queues not in ("yes", "no"):
            raise ValueError(phrase("queues is yes or no, not {queues!r}", queues=queues))
        kind = AttackerKind(
            values["key"],
            values["name"],
            dye(values.get("dye") or "#A5383F", "dye"),
            _number(values["size"], "size"),
            _number(values["speed"], "speed"),
            _number(values["health"], "health"),
            _number(values.get("armour") or "0", "armour"),
            _whole(values.get("reward") or "0", "reward"),
            _whole(values.get("lives") or "1", "lives"),
            Moves(moves),
            queues == "yes",
        )
        WavePlan(attackers=(kind,))
        return kind

    needed = ("key", "name", "size", "speed", "health")
    kinds = [k for k in _lines(data, path, ATTACKERS, needed, made) if isinstance(k, AttackerKind)]
    return replace(plan.waves, attackers=tuple(kinds))


def _waves(data: bytes, path: object, plan: Plan) -> WavePlan:
    def made(values: dict[str, str]) -> Wave:
        groups: tuple[Group, ...] = ()
        if values["entry"]:
            groups = (
                Group(
                    values["entry"],
                    values["kind"],
                    _whole(values.get("count") or "1", "count"),
                    _number(values.get("every") or "1", "every"),
                    _number(values.get("after") or "0", "after"),
                    _number(values.get("spread") or "0", "spread"),
                ),
            )
        wave = Wave(values["wave"], _number(values["begins"], "begins"), groups)
        replace(plan.waves, waves=(wave,))
        return wave

    found: list[Wave] = []
    for wave in _lines(data, path, WAVES, ("wave", "begins", "entry", "kind"), made):
        assert isinstance(wave, Wave)
        last = found[-1] if found else None
        if last is not None and (last.name, last.begins) == (wave.name, wave.begins):
            found[-1] = replace(last, groups=(*last.groups, *wave.groups))
        else:
            found.append(wave)
    return replace(plan.waves, waves=tuple(found))


def _cells_text(cells: tuple[Cell, ...]) -> str:
    return " ".join(f"{cell.col}:{cell.row}" for cell in cells)


def _cell(text: str) -> Cell:
    try:
        col, row = map(parse_whole, text.split(":"))
    except ValueError:
        raise ValueError(
            phrase("a cell is written as column:row, like 14:9, not {text!r}", text=text)
        ) from None
    return Cell(col, row)


def _number(text: str, what: str) -> float:
    try:
        return parse_number(text)
    except ValueError:
        raise ValueError(
            phrase("{what} is a number, not {text!r}", what=what, text=text[:40])
        ) from None


def _whole(text: str, what: str) -> int:
    try:
        return parse_whole(text)
    except ValueError:
        raise ValueError(
            phrase("{what} is a whole number, not {text!r}", what=what, text=text[:40])
        ) from None
