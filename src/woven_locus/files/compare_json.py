"""What differs between two plans, and what could not be merged, as JSON, in the terms of the document."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum
from typing import Any

import msgspec

from woven_locus.core.accepted import Accepted
from woven_locus.core.compare import Conflict, Differences
from woven_locus.core.compare.cells import ASPECTS
from woven_locus.core.compare.differ import CellChange, Change
from woven_locus.core.compare.effects import Effects
from woven_locus.core.compare.parts import PARTS
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import Obstacle, TerrainClass
from woven_locus.core.junction_rules import JunctionRule
from woven_locus.core.kinds import Kind
from woven_locus.core.register import Structure, structure_id
from woven_locus.core.value import Value, replace
from woven_locus.core.vehicles import PersonKind, Trip, TripRule, VehicleKind
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Wave
from woven_locus.core.ways.roads import RoadClass
from woven_locus.files.accepted_rows import AcceptedRow
from woven_locus.files.kind_rows import KindRow
from woven_locus.files.plan_rows import (
    GridRow,
    ObstacleRow,
    RoadRow,
    StructureRow,
    TerrainRow,
    WindowRow,
)
from woven_locus.files.proof_json import finding_json
from woven_locus.files.row_values import num
from woven_locus.files.traffic_rows import (
    JunctionRow,
    PersonRow,
    TripRow,
    TripRuleRow,
    VehicleRow,
    end_text,
)
from woven_locus.files.wave_rows import AttackerRow, EntryRow, GoalRow, WaveRow

_ROWS: dict[type, Any] = {
    Accepted: AcceptedRow,
    AttackerKind: AttackerRow,
    BuildWindow: WindowRow,
    Entry: EntryRow,
    Goal: GoalRow,
    GridSpec: GridRow,
    JunctionRule: JunctionRow,
    Kind: KindRow,
    Obstacle: ObstacleRow,
    PersonKind: PersonRow,
    RoadClass: RoadRow,
    Structure: StructureRow,
    TerrainClass: TerrainRow,
    Trip: TripRow,
    TripRule: TripRuleRow,
    VehicleKind: VehicleRow,
    Wave: WaveRow,
}
# Parts that hold one value by name each.
SINGLE = ("plan", "snap", "funds", "defence")


def value_json(value: Any) -> Any:
    """A value of a plan as the document has it."""
    row = _ROWS.get(type(value))
    if row is not None:
        return msgspec.to_builtins(row.of(value))
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, Value):
        return {name: value_json(getattr(value, name)) for name in value.__struct_fields__}
    if isinstance(value, tuple | list):
        return [value_json(item) for item in value]
    return num(value) if isinstance(value, float) else value


def differences_json(found: Differences, effects: Effects) -> dict[str, Any]:
    """A part for every part of a plan; see docs/command-line.md."""
    whole: dict[str, Any] = {"same": not found, "grid": _grid(found)}
    cells = {change.aspect: change for change in found.cells or ()}
    for aspect in ASPECTS:
        whole[aspect] = _cells(cells.get(aspect))
    whole["cells_compared"] = found.cells is not None
    for part in PARTS:
        changes = found.of(part.name)
        if part.name in SINGLE:
            whole[part.name] = [_values(change) for change in changes]
        elif part.name == "structures":
            whole["structures"] = structures_json(changes)
        else:
            whole[part.name] = things_json(changes)
    whole["reordered"] = list(found.reordered)
    whole["findings"] = {
        "came": [finding_json(item) for item in effects.came],
        "went": [finding_json(item) for item in effects.went],
    }
    whole["routes"] = [
        {
            "from": end_text(route.start),
            "to": end_text(route.goal),
            "before": route.before,
            "after": route.after,
        }
        for route in effects.routes
    ]
    return whole


def _grid(found: Differences) -> list[dict[str, Any]]:
    return fields_json(*found.grid) if found.grid is not None else []


def fields_json(before: Any, after: Any) -> list[dict[str, Any]]:
    """What differs of one thing, field by field."""
    old, new = value_json(before), value_json(after)
    if not (isinstance(old, dict) and isinstance(new, dict)):
        return [{"field": "", "before": old, "after": new}]
    return [
        {"field": name, "before": old.get(name), "after": new.get(name)}
        for name in dict.fromkeys((*old, *new))
        if old.get(name) != new.get(name)
    ]


def _cells(change: CellChange | None) -> dict[str, Any]:
    if change is None:
        return {"cells": 0, "box": None, "into": []}
    return {
        "cells": change.count,
        "box": [*change.low, *change.high],
        "into": [{"value": value, "cells": count} for value, count in change.into],
    }


def _values(change: Change) -> dict[str, Any]:
    return {
        "what": change.key,
        "before": value_json(change.before),
        "after": value_json(change.after),
    }


def things_json(changes: Sequence[Change]) -> dict[str, Any]:
    """Added, removed and changed things of a part."""
    return {
        "added": [value_json(change.after) for change in changes if change.before is None],
        "removed": [value_json(change.before) for change in changes if change.after is None],
        "changed": [
            {"what": change.words, "fields": fields_json(change.before, change.after)}
            for change in changes
            if change.before is not None and change.after is not None
        ],
    }


def structures_json(changes: Sequence[Change]) -> dict[str, Any]:
    """Also those that stand elsewhere, or turned."""
    moved = []
    other = []
    for change in changes:
        old, new = change.before, change.after
        if old is None or new is None or (old.cell, old.turn) == (new.cell, new.turn):
            other.append(change)
            continue
        moved.append(
            {
                "structure": structure_id(new.number),
                "from": [*old.cell],
                "to": [*new.cell],
                "turn": [old.turn % 4, new.turn % 4],
                "mirror": [old.turn > 3, new.turn > 3],
            }
        )
        still = replace(old, cell=new.cell, turn=new.turn)
        if still != new:
            other.append(replace(change, before=still))
    found = things_json(other)
    for row in (*found["added"], *found["removed"]):
        row["structure"] = structure_id(row["number"])
    found["moved"] = moved
    return found


def conflicts_json(conflicts: Sequence[Conflict]) -> list[dict[str, Any]]:
    """As `woven-locus merge` prints them."""
    return [
        {
            "part": item.part,
            "what": item.what,
            "ours": value_json(item.ours),
            "theirs": value_json(item.theirs),
        }
        for item in conflicts
    ]
