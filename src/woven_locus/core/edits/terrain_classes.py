"""Edits of the terrain classes: add, change, merge, remove."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core import names
from woven_locus.core.editing import Change, Edit, Patch, TableChange
from woven_locus.core.errors import Refused
from woven_locus.core.ground import TerrainClass, TerrainTable
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan

_MARKS = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"


def usage(plan: Plan) -> list[int]:
    """Cells of each class."""
    counts = np.zeros(256, np.int64)
    # By strips: counting bytes makes eight of each on the way.
    for row in range(0, plan.spec.rows, 256):
        counts += np.bincount(plan.terrain[row : row + 256].ravel(), minlength=256)
    return [int(count) for count in counts[: len(plan.terrain_table)]]


def fresh_key(table: Sequence[TerrainClass], name: str) -> str:
    """A key made of a name that no class of the table has."""
    return names.fresh_key(name, {item.key for item in table}, "class")


def fresh_mark(table: Sequence[TerrainClass], name: str) -> str:
    """A letter for rows of a file that no class of the table has, from the name if it can be."""
    taken = {item.mark for item in table}
    wished = [ch for ch in name.lower() if ch in _MARKS]
    free: list[str] = [ch for ch in (*wished, *_MARKS) if ch not in taken]
    if not free:
        raise Refused(
            phrase("all {count} letters for terrain classes are taken", count=len(_MARKS))
        )
    return free[0]


def change_class(plan: Plan, code: int, item: TerrainClass) -> Edit:
    """Another name, look or meaning for a class. Raises BadPlan."""
    classes = list(plan.terrain_table)
    old, classes[code] = classes[code], item
    if old == item:
        return Edit("", ())
    label = names.change_label(old.name, item.name)
    return Edit(label, (TableChange(plan.terrain_table, TerrainTable(classes)),))


def add_class(plan: Plan, item: TerrainClass) -> Edit:
    """One more class, last. Raises BadPlan."""
    table = TerrainTable([*plan.terrain_table, item])
    return Edit(phrase("Added {item}", item=item.name), (TableChange(plan.terrain_table, table),))


def remove_class(plan: Plan, code: int) -> Edit:
    """Take away a class that nothing uses. Raises Refused, saying what does."""
    table = plan.terrain_table
    name, count = table[code].name, usage(plan)[code]
    if len(table) == 1:
        raise Refused(phrase("a plan keeps at least one terrain class"))
    if count:
        raise Refused(
            phrase(
                "{name} cannot be removed: {count:,} cells are {name}; merge it into another class",
                name=name,
                count=count,
            )
        )
    return _without(plan, code, 0, phrase("Removed {name}", name=name))


def merge_class(plan: Plan, code: int, into: int) -> Edit:
    """Make all ground of one class another's, and take the class away. Raises Refused."""
    if code == into:
        raise Refused(phrase("a class cannot be merged into itself"))
    table = plan.terrain_table
    label = phrase(
        "Merged {table} into {table2}",
        table=table[code].name,
        table2=table[into].name,
    )
    return _without(plan, code, into, label)


def _without(plan: Plan, code: int, into: int, label: str) -> Edit:
    """The table without a class: what was of it becomes `into`, and all codes above move down."""
    table = plan.terrain_table
    rest = [k for k in range(len(table)) if k != code]
    codes = np.zeros(256, np.uint8)
    codes[rest] = np.arange(len(rest))
    codes[code] = codes[into]
    changes: list[Change] = []
    patch = Patch.of_block(plan, "terrain", plan.spec.box, codes[plan.terrain])
    if patch is not None:
        changes.append(patch)
    changes.append(TableChange(table, TerrainTable([table[k] for k in rest])))
    return Edit(label, tuple(changes))
