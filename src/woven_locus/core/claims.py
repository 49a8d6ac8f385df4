"""Obstacles and structures take their cells when a plan is made; what contradicts itself is refused."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

import numpy as np
import numpy.typing as npt

from woven_locus.core.books import Funds
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.ground import Obstacle
from woven_locus.core.names import name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.register import LARGEST_NUMBER, Register, Rows, Structure, structure_id
from woven_locus.core.ways.doors import Built, slots_alike


class Ground(Built, Protocol):
    """What the cells of a plan are taken from."""

    road: npt.NDArray[np.uint8]
    barrier: npt.NDArray[np.uint8]
    occupant: npt.NDArray[np.int32]
    obstacles: dict[int, Obstacle]
    register: Register
    funds: Funds | None

    def title_of(self, who: int) -> str:
        """A name for what an occupant number stands for."""


def take_obstacles(plan: Ground, obstacles: Iterable[Obstacle]) -> None:
    """Raises BadPlan."""
    for at, obstacle in enumerate(obstacles):
        where = f"obstacles[{at}]"
        if not 1 <= obstacle.number < LARGEST_NUMBER or obstacle.number in plan.obstacles:
            raise BadPlan(where, phrase("number {number:,} cannot be used", number=obstacle.number))
        _claim(plan, where, obstacle.cells, -obstacle.number)
        plan.obstacles[obstacle.number] = obstacle


def take_structures(plan: Ground, structures: Iterable[Structure], next_number: int) -> None:
    """Raises BadPlan, naming the first row that cannot be."""
    rows = Rows(structures)
    if not _taken_at_once(plan, rows):
        # One by one, to say which and why.
        for at, structure in enumerate(rows):
            where = f"structures[{at}]"
            if problem := _problem_of(plan, structure, plan.register):
                raise BadPlan(where, problem)
            footprint = plan.footprint(plan.kinds[structure.kind], structure.turn)
            _claim(plan, where, footprint.at(structure.cell), structure.number)
            plan.register.put(structure)
    highest = max(plan.register.numbers(), default=0)
    if next_number < 1:
        raise BadPlan(
            "next_number",
            phrase("must be at least 1, not {next_number:,}", next_number=next_number),
        )
    plan.register.next_number = max(next_number, highest + 1)
    if plan.register.next_number > LARGEST_NUMBER:
        raise BadPlan(
            "next_number",
            phrase(
                "must be at most {largest_number:,}, not {next_number:,}",
                largest_number=LARGEST_NUMBER,
                next_number=next_number,
            ),
        )


def _taken_at_once(plan: Ground, rows: Rows) -> bool:
    """Take all of them in a few array passes; nothing is taken, and False returned, where one cannot be."""
    seen: set[int] = set()
    for structure in rows:
        if _problem_of(plan, structure, seen):
            return False
        seen.add(structure.number)
    parts: list[tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]] = []
    for group in rows.alike:
        slots = slots_alike(plan, group)
        parts.append((slots.ravel(), np.repeat(group.numbers, slots.shape[1])))
    if parts:
        slots, who = (np.concatenate(part) for part in zip(*parts, strict=True))
        layers = (plan.occupant, plan.road, plan.barrier)
        if slots.min() < 0 or any(layer.ravel()[slots].any() for layer in layers):
            return False
        plan.occupant.ravel()[slots] = who
        if (plan.occupant.ravel()[slots] != who).any():
            # Two of them want the same cell.
            plan.occupant.ravel()[slots] = 0
            return False
    plan.register.put_all(rows)
    return True


def _problem_of(plan: Ground, structure: Structure, taken: Register | set[int]) -> str:
    """What is wrong with a row of the register, or nothing.  taken : the numbers that there are already."""
    if problem := name_problem(structure.placed):
        return problem.replace("the name", "the time of placing")
    if structure.number in taken:
        return phrase("{structure_id} is there twice", structure_id=structure_id(structure.number))
    if not 1 <= structure.number < LARGEST_NUMBER:
        return phrase(
            "numbers go from 1 to {largest_number:,}, not {number:,}",
            largest_number=LARGEST_NUMBER - 1,
            number=structure.number,
        )
    if structure.kind not in plan.kinds:
        return phrase("no kind {kind!r} in the catalogue", kind=structure.kind)
    late = plan.funds is not None and structure.since > plan.funds.clock
    if structure.since < 0 or late:
        return phrase("since {since} is not a time that has gone by", since=structure.since)
    return ""


def _claim(plan: Ground, where: str, cells: Iterable[Cell], who: int) -> None:
    for cell in cells:
        if not plan.spec.contains(cell):
            raise BadPlan(
                where, phrase("cell {col}, {row} is outside the grid", col=cell.col, row=cell.row)
            )
        slot = plan.spec.slot(cell)
        if plan.occupant[slot] == who:
            raise BadPlan(
                where, phrase("cell {col}, {row} is there twice", col=cell.col, row=cell.row)
            )
        if plan.occupant[slot] or plan.road[slot] or plan.barrier[slot]:
            there = "road" if plan.road[slot] else phrase("a barrier")
            if plan.occupant[slot]:
                there = plan.title_of(int(plan.occupant[slot]))
            raise BadPlan(
                where,
                phrase(
                    "cell {col}, {row} is already taken by {there}",
                    col=cell.col,
                    row=cell.row,
                    there=there,
                ),
            )
        plan.occupant[slot] = who
