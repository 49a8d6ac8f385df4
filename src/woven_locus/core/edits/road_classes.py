"""Edits of the road classes: add, change, remove."""

from __future__ import annotations

import numpy as np

from woven_locus.core import names
from woven_locus.core.editing import Change, Edit, Patch, RoadTableChange
from woven_locus.core.errors import Refused
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.ways.roads import CLASS_BITS, RoadClass, RoadTable

_MARKS = "wabcdefghijklmnopqrstuvxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"


def usage(plan: Plan) -> list[int]:
    """Cells of each class."""
    counts = np.bincount(plan.road[plan.road != 0] & CLASS_BITS, minlength=CLASS_BITS + 1)
    return [int(count) for count in counts[1 : len(plan.road_table) + 1]]


def change_class(plan: Plan, code: int, item: RoadClass) -> Edit:
    """Another name, look or meaning for a class. Raises BadPlan."""
    classes = list(plan.road_table)
    old, classes[code] = classes[code], item
    if old == item:
        return Edit("", ())
    label = names.change_label(old.name, item.name)
    return Edit(label, (RoadTableChange(plan.road_table, RoadTable(classes)),))


def add_class(plan: Plan, like: RoadClass, name: str) -> Edit:
    """One more class, last, that is otherwise like another. Raises Refused, BadPlan."""
    table = plan.road_table
    free = [mark for mark in _MARKS if mark not in {item.mark for item in table}]
    key = names.fresh_key(name, {item.key for item in table}, "road")
    item = RoadClass(key, name, free[0], like.speed, like.cost, like.lanes, like.dye)
    return Edit(
        phrase("Added {name}", name=name),
        (RoadTableChange(table, RoadTable([*table, item])),),
    )


def remove_class(plan: Plan, code: int) -> Edit:
    """Take away a class that no road has. Raises Refused, saying how much has it."""
    table = plan.road_table
    name, count = table[code].name, usage(plan)[code]
    if len(table) == 1:
        raise Refused(phrase("a plan keeps at least one road class"))
    if count:
        raise Refused(
            counted(
                count,
                "{name} cannot be removed: {n:,} cell of road is {name}; lay another class over it first",
                "{name} cannot be removed: {n:,} cells of road are {name}; lay another class over it first",
                name=name,
            )
        )
    rest = RoadTable([item for at, item in enumerate(table) if at != code])
    changes: list[Change] = []
    # Those behind it move up by one.
    classes = plan.road & np.uint8(CLASS_BITS)
    moved = classes > code + 1
    if moved.any():
        after = np.where(moved, plan.road - np.uint8(1), plan.road)
        patch = Patch.of_block(plan, "road", plan.spec.box, after)
        if patch is not None:
            changes.append(patch)
    changes.append(RoadTableChange(table, rest))
    return Edit(phrase("Removed {name}", name=name), tuple(changes))
