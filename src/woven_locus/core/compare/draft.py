"""A merged plan while it is put together: its parts, its cells, and what was in conflict so far."""

from __future__ import annotations

from typing import Any

import numpy as np

from woven_locus.core.books import Funds
from woven_locus.core.compare.cells import Codes, Names, shown_signs
from woven_locus.core.compare.numbers import Parts
from woven_locus.core.compare.parts import PARTS, Thing
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec, SnapSettings
from woven_locus.core.ground import TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.plan import Plan
from woven_locus.core.value import Record, Value, field
from woven_locus.core.vehicles import TrafficPlan
from woven_locus.core.wave_plan import WavePlan
from woven_locus.core.ways.roads import SIGN_SHIFT, RoadTable


class Conflict(Value):
    """What could not be brought together. part : as in `parts`, or an aspect of cells.  what : in words.
    ours, theirs : the values of both sides, None for nothing.  things : what of ours gives way where theirs is chosen, see
    `merge`; nothing where ours is all that can be had.  at : a cell of it, where it has a place."""

    part: str
    what: str
    ours: Any
    theirs: Any
    things: tuple[Thing, ...] = ()
    at: Cell | None = None


def _place(item: Any) -> Cell | None:
    """The first cell of a thing that has one."""
    cells = getattr(item, "cells", None) or (getattr(item, "cell", None),)
    return cells[0] if isinstance(cells[0], Cell) else None


class Draft(Record):
    """parts, cells : what is taken so far, by name.  ours, our_cells : those of ours alone, on the same grid; what is in
    conflict goes back to them."""

    spec: GridSpec
    names: Names
    parts: Parts
    cells: dict[str, Codes]
    ours: Parts
    our_cells: dict[str, Codes]
    conflicts: list[Conflict] = field(default_factory=list)

    def clash(
        self,
        part: str,
        what: str,
        ours: Any = None,
        theirs: Any = None,
        things: tuple[Thing, ...] = (),
        at: Cell | None = None,
    ) -> None:
        """Note a conflict."""
        place = at or _place(ours) or _place(theirs)
        self.conflicts.append(Conflict(part, what, ours, theirs, things, place))

    def give_back(self, part: str, key: Any, what: str, things: tuple[Thing, ...] = ()) -> bool:
        """Take ours for one thing of a part, or nothing where ours has none; whether that changed anything. things : of
        ours, for which it has to give way."""
        words = next(each.words for each in PARTS if each.name == part)(key)
        old, mine = self.parts[part].get(key), self.ours[part].get(key)
        if old == mine:
            return False
        self.clash(part, f"{words}: {what}", mine, old, things)
        if mine is None:
            del self.parts[part][key]
        else:
            self.parts[part][key] = mine
        return True

    def built(self, next_number: int) -> Plan:
        """The plan. Raises BadPlan where its parts contradict each other."""
        parts = self.parts
        own = parts["plan"]
        terrain = TerrainTable(list(parts["terrain_classes"].values()))
        roads = RoadTable(list(parts["road_classes"].values()))
        snap = parts["snap"]
        return Plan(
            own["name"],
            self.spec,
            terrain,
            Catalogue(list(parts["kinds"].values())),
            road_table=roads,
            window=own["window"],
            obstacles=parts["obstacles"].values(),
            structures=sorted(parts["structures"].values(), key=lambda row: row.number),
            next_number=next_number,
            money=own["money"],
            funds=self._funds(),
            actor=own["actor"],
            keep=own["keep"],
            traffic=self._traffic(),
            waves=self._waves(),
            accepted=tuple(parts["accepted"].values()),
            snap=SnapSettings(
                *(snap["rule"], *snap["step"], snap["in_cells"], *snap["every"], *snap["offset"])
            ),
            terrain=self._table("terrain", [item.key for item in terrain]),
            road=self._road([road.key for road in roads]),
            reserved=self.cells["reserved"].astype(np.uint8),
            barrier=self.cells["barriers"].astype(np.uint8),
            heights=self.cells["heights"] if own["has_heights"] else None,
        )

    def _funds(self) -> Funds | None:
        held = self.parts["funds"]
        if len(held) < 3:
            return None
        gone = tuple(row for row in self.parts["gone"].values() if row.until <= held["clock"])
        return Funds(held["opening"], held["share"], held["clock"], gone)

    def _traffic(self) -> TrafficPlan:
        parts = self.parts
        return TrafficPlan(
            tuple(parts["vehicles"].values()),
            tuple(parts["trips"].values()),
            tuple(
                sorted(parts["junctions"].values(), key=lambda rule: (rule.cell.row, rule.cell.col))
            ),
            tuple(parts["trip_rules"].values()),
            tuple(parts["people"].values()),
            parts["plan"]["longest_crossing"],
        )

    def _waves(self) -> WavePlan:
        parts, defence = self.parts, self.parts["defence"]
        return WavePlan(
            tuple(parts["entries"].values()),
            tuple(parts["goals"].values()),
            tuple(parts["attackers"].values()),
            tuple(parts["waves"].values()),
            lives=defence["lives"],
            moves=defence["moves"],
            terrain_slows=defence["terrain_slows"],
            height_reach=defence["height_reach"],
        )

    def _table(self, aspect: str, keys: list[str]) -> Any:
        known = self.names.terrain if aspect == "terrain" else self.names.roads
        table = np.zeros(len(known), np.uint8)
        for code, key in enumerate(keys):
            table[known.index(key)] = code
        return table[self.cells[aspect].astype(np.int64)]

    def _road(self, keys: list[str]) -> Any:
        road = self._table("roads", ["", *keys])
        signs = shown_signs(self.cells["signs"].astype(np.uint8), self.spec.y_up)
        return np.where(road, road | signs << np.uint8(SIGN_SHIFT), 0).astype(np.uint8)
