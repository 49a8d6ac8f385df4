"""Numbers of structures and obstacles that both sides gave out."""

from __future__ import annotations

from typing import Any

from woven_locus.core.compare.parts import Held, counted
from woven_locus.core.value import replace

Parts = dict[str, Held]


def free_numbers(base: Parts, ours: Parts, theirs: Parts, next_number: int) -> tuple[Parts, Parts]:
    """Both sides, with other numbers for what both placed under the same one. Of two the one that comes first by its cell
    keeps its number, whichever side it is of; trips and accepted findings follow. next_number : from which on numbers of
    structures are free on both sides."""
    moves: tuple[dict[str, dict[int, int]], ...] = ({}, {})
    held = [side["obstacles"] for side in (ours, theirs)]
    free = {"structures": next_number, "obstacles": 1 + max((*held[0], *held[1]), default=0)}  # type: ignore[type-var, operator]
    for sort in ("structures", "obstacles"):
        mine, other = ours[sort], theirs[sort]
        for move in moves:
            move[sort] = {}
        for number in sorted((mine.keys() & other.keys()) - base[sort].keys()):  # type: ignore[type-var]
            if mine[number] == other[number]:
                continue  # the same thing: placed before the two parted
            later = moves[_place(mine[number]) <= _place(other[number])]
            later[sort][number] = free[sort]  # type: ignore[index]
            free[sort] += 1
    return _renumbered(ours, moves[0]), _renumbered(theirs, moves[1])


def _place(item: Any) -> tuple[int, int, str]:
    cell = item.cells[0] if hasattr(item, "cells") else item.cell
    return cell.row, cell.col, repr(item)


def _renumbered(parts: Parts, moves: dict[str, dict[int, int]]) -> Parts:
    if not any(moves.values()):
        return parts

    def moved(number: Any, sort: str = "structures") -> Any:
        return moves[sort].get(number, number) if isinstance(number, int) else number

    found = dict(parts)
    for sort in ("structures", "obstacles"):
        rows = [replace(row, number=moved(row.number, sort)) for row in parts[sort].values()]
        found[sort] = {row.number: row for row in rows}
    trips = parts["trips"].values()
    found["trips"] = counted(
        replace(trip, start=moved(trip.start), goal=moved(trip.goal)) for trip in trips
    )
    taken = [replace(item, structure=moved(item.structure)) for item in parts["accepted"].values()]
    found["accepted"] = {item.key: item for item in taken}
    return found
