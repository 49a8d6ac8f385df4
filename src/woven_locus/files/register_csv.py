"""The register as CSV, out and in. See docs/format.md."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from woven_locus.core.edits.many import Wish
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import MIRRORED
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, structure_id
from woven_locus.files.atomic import read_bytes, write_bytes
from woven_locus.files.catalogue import whole
from woven_locus.files.row_values import num
from woven_locus.files.tables import LARGEST, read_table, table

COLUMNS = (
    "number",
    "kind",
    "col",
    "row",
    "turn",
    "mirror",
    "cells",
    "x",
    "y",
    "price",
    "placed",
    "since",
    "connected",
)


def dump(plan: Plan, is_linked: Callable[[int], bool]) -> str:
    """Every placed structure on a line: x, y is its bounding box's middle in world units."""

    def values(row: Structure) -> list[object]:
        mirror, turn = divmod(row.turn, MIRRORED)
        middle = plan.middle_of(row)
        return [
            structure_id(row.number),
            row.kind,
            row.cell.col,
            row.cell.row,
            turn,
            "yes" if mirror else "no",
            len(plan.footprint_of(row).cells),
            num(middle.x),
            num(middle.y),
            row.price,
            row.placed,
            row.since,
            "yes" if is_linked(row.number) else "no",
        ]

    return table(COLUMNS, map(values, plan.register))


def save(plan: Plan, is_linked: Callable[[int], bool], path: Path) -> None:
    """Raises FileProblem."""
    write_bytes(path, dump(plan, is_linked).encode("utf-8"))


def load(path: Path) -> tuple[list[Wish], list[str]]:
    """What a table asks for, and each line that asks for nothing one could understand. Only kind, col and
    row are needed; turn and mirror count, all else is passed over, since numbers are never used again.
    Raises FileProblem for a file that is no table."""
    return parse(read_bytes(path, LARGEST), path)


def parse(data: bytes, path: object = "table") -> tuple[list[Wish], list[str]]:
    """See `load`."""
    wishes: list[Wish] = []
    strange: list[str] = []
    for line, values in read_table(data, path, COLUMNS, ("kind", "col", "row")):
        try:
            cell = Cell(whole(values["col"], "col"), whole(values["row"], "row"))
            turn = whole(values.get("turn") or "0", "turn")
            if not 0 <= turn < MIRRORED:
                raise ValueError(
                    phrase("turn is 0 to {mirrored}, not {turn}", mirrored=MIRRORED - 1, turn=turn)
                )
            if max(abs(n) for n in cell) > 2**31:
                raise ValueError(
                    phrase("cell {col}, {row} is on no map", col=cell.col, row=cell.row)
                )
        except ValueError as err:
            strange.append(phrase("line {line}: {err}", line=line, err=err))
            continue
        mirror = MIRRORED if values.get("mirror", "").lower() == "yes" else 0
        wishes.append(Wish(phrase("line {line}", line=line), values["kind"], cell, turn + mirror))
    return wishes, strange
