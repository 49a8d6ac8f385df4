"""The edit that makes one plan out of another: what is taken from elsewhere comes as one step, like all else."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from woven_locus.core.editing import (
    AcceptedChange,
    ActorChange,
    Change,
    Edit,
    FundsChange,
    GridChange,
    Keep,
    KeepSideChange,
    KindsChange,
    LayerChange,
    MoneyChange,
    NameChange,
    ObstaclesChange,
    Patch,
    Regrid,
    RoadTableChange,
    SnapChange,
    StructuresChange,
    TableChange,
    TrafficChange,
    WavesChange,
    WindowChange,
)
from woven_locus.core.geometry import Box
from woven_locus.core.layers import LAYERS, Layer
from woven_locus.core.plan import Plan
from woven_locus.core.register import Rows

# Rows and columns of the blocks in which layers are patched, so that two cells far apart do not dirty all between them.
_BLOCK = 256


def becoming(plan: Plan, target: Plan, label: str) -> Edit:
    """All that `target` records in place of what `plan` does; no change where both are the same. `target` is not changed,
    and shares no array with the edit. Raises BadGrid or BadPlan where the grid of `target` cannot hold what the plan has."""
    changes: list[Change] = []
    if plan.spec != target.spec:
        # Whatever becomes of the content: what follows puts it right.
        question = Regrid(target.spec, Keep.INDEX)
        made, _lost = question.work_out(plan)
        changes.append(GridChange(question, made))
        plan = made
    changes += _changes(plan, target)
    return Edit(label, tuple(changes))


def _changes(plan: Plan, target: Plan) -> Iterator[Change]:
    """On one grid. What stands on the map goes first and comes last, so that it always stands on what it knows."""
    for old, new, change in (
        (plan.name, target.name, NameChange),
        (plan.money, target.money, MoneyChange),
        (plan.snap, target.snap, SnapChange),
        (plan.window, target.window, WindowChange),
        (plan.actor, target.actor, ActorChange),
        (plan.accepted, target.accepted, AcceptedChange),
    ):
        if old != new:
            made: Any = change
            yield made(old, new)
    gone, come = _structures(plan, target)
    obstacles_gone = _without(plan.obstacles, target.obstacles)
    obstacles_come = _without(target.obstacles, plan.obstacles)
    if gone:
        yield StructuresChange(gone, Rows())
    if obstacles_gone:
        yield ObstaclesChange(obstacles_gone, ())
    for row in LAYERS:
        yield from _layer(row, plan, target)
    if list(plan.terrain_table) != list(target.terrain_table):
        yield TableChange(plan.terrain_table, target.terrain_table)
    if list(plan.road_table) != list(target.road_table):
        yield RoadTableChange(plan.road_table, target.road_table)
    if plan.keep != target.keep:
        yield KeepSideChange(plan.keep, target.keep)
    if plan.kinds != target.kinds:
        yield KindsChange(plan.kinds, target.kinds)
    if plan.funds != target.funds:
        yield FundsChange(plan.funds, target.funds)
    if obstacles_come:
        yield ObstaclesChange((), obstacles_come)
    numbers = plan.register.next_number, target.register.next_number
    if come or gone or numbers[0] != numbers[1]:
        yield StructuresChange(Rows(), come, numbers)
    if plan.traffic != target.traffic:
        yield TrafficChange(plan.traffic, target.traffic)
    if plan.waves != target.waves:
        yield WavesChange(plan.waves, target.waves)


def _structures(plan: Plan, target: Plan) -> tuple[Rows, Rows]:
    """Rows that go and rows that come. One whose kind covers other cells goes and comes back."""
    other = plan.kinds.reshaped(target.kinds)
    old = {row.number: row for row in plan.register}
    new = {row.number: row for row in target.register}
    stay = {n for n, row in old.items() if new.get(n) == row and row.kind not in other}
    gone = Rows(row for number, row in old.items() if number not in stay)
    return gone, Rows(row for number, row in new.items() if number not in stay)


def _without(items: dict[int, Any], others: dict[int, Any]) -> tuple[Any, ...]:
    return tuple(item for number, item in items.items() if others.get(number) != item)


def _layer(row: Layer, plan: Plan, target: Plan) -> Iterator[Change]:
    old, new = getattr(plan, row.name), getattr(target, row.name)
    if old is None or new is None:
        if old is not new:
            yield LayerChange(row.name, old, None if new is None else new.copy())
        return
    rows, cols = plan.spec.shape
    for top in range(0, rows, _BLOCK):
        for left in range(0, cols, _BLOCK):
            block = Box(top, left, min(top + _BLOCK, rows), min(left + _BLOCK, cols))
            there, here = np.nonzero(~row.same(old[block.slices], new[block.slices]))
            if len(there):
                box = Box(
                    top + int(there.min()),
                    left + int(here.min()),
                    top + int(there.max()) + 1,
                    left + int(here.max()) + 1,
                )
                patch = Patch.of_block(plan, row.name, box, new[box.slices].copy())
                assert patch is not None
                yield patch
