"""What a plan says of its waves, as rows of the document and of the journal."""

from __future__ import annotations

from typing import Literal

import msgspec

from woven_locus.core.geometry import Cell
from woven_locus.core.wave_plan import (
    AttackerKind,
    Entry,
    Goal,
    Group,
    Moves,
    Wave,
    WavePlan,
)
from woven_locus.files.row_values import Pair, Strict, dye, num

MovesName = Literal["roads", "ground", "air"]


class EntryRow(Strict, omit_defaults=True):
    """An entry. From version 7 on."""

    id: str
    name: str
    cells: list[Pair]
    goals: list[str] | None = None

    @classmethod
    def of(cls, entry: Entry) -> EntryRow:
        """The row of a value."""
        return cls(entry.id, entry.name, _pairs(entry.cells), list(entry.goals) or None)

    def made(self) -> Entry:
        """The value of the row."""
        return Entry(self.id, self.name, _cells(self.cells), tuple(self.goals or ()))


class GoalRow(Strict):
    """A goal. From version 7 on."""

    id: str
    name: str
    cells: list[Pair]

    @classmethod
    def of(cls, goal: Goal) -> GoalRow:
        """The row of a value."""
        return cls(goal.id, goal.name, _pairs(goal.cells))

    def made(self) -> Goal:
        """The value of the row."""
        return Goal(self.id, self.name, _cells(self.cells))


class AttackerRow(Strict):
    """A kind of attacker. From version 7 on."""

    key: str
    name: str
    dye: str
    size: float
    speed: float
    health: float
    armour: float
    reward: int
    lives: int
    moves: MovesName
    queues: bool

    @classmethod
    def of(cls, kind: AttackerKind) -> AttackerRow:
        """The row of a value."""
        return cls(
            kind.key,
            kind.name,
            kind.dye,
            num(kind.size),
            num(kind.speed),
            num(kind.health),
            num(kind.armour),
            kind.reward,
            kind.lives,
            kind.moves.value,
            kind.queues,
        )

    def made(self, where: str) -> AttackerKind:
        """The value of the row. Raises BadPlan."""
        return AttackerKind(
            self.key,
            self.name,
            dye(self.dye, where),
            float(self.size),
            float(self.speed),
            float(self.health),
            float(self.armour),
            self.reward,
            self.lives,
            Moves(self.moves),
            self.queues,
        )


class GroupRow(Strict):
    """Attackers of one kind from one entry. From version 7 on."""

    entry: str
    kind: str
    count: int
    every: float
    after: float
    spread: float

    @classmethod
    def of(cls, group: Group) -> GroupRow:
        """The row of a value."""
        times = num(group.every), num(group.after), num(group.spread)
        return cls(group.entry, group.kind, group.count, *times)

    def made(self) -> Group:
        """The value of the row."""
        times = float(self.every), float(self.after), float(self.spread)
        return Group(self.entry, self.kind, self.count, *times)


class WaveRow(Strict):
    """A wave. From version 7 on."""

    name: str
    begins: float
    groups: list[GroupRow]

    @classmethod
    def of(cls, wave: Wave) -> WaveRow:
        """The row of a value."""
        return cls(wave.name, num(wave.begins), [GroupRow.of(group) for group in wave.groups])

    def made(self) -> Wave:
        """The value of the row."""
        return Wave(self.name, float(self.begins), tuple(row.made() for row in self.groups))


class DefenceRow(Strict):
    """What holds for all waves. From version 7 on."""

    lives: int = 20
    moves: Literal[4, 8] = 8
    terrain_slows: bool = False
    height_reach: float = 0.0


class WaveRows(Strict):
    """All that a plan says of its waves, as the journal holds it."""

    entries: tuple[EntryRow, ...] = ()
    goals: tuple[GoalRow, ...] = ()
    attackers: tuple[AttackerRow, ...] = ()
    waves: tuple[WaveRow, ...] = ()
    defence: DefenceRow = msgspec.field(default_factory=DefenceRow)

    @classmethod
    def of(cls, plan: WavePlan) -> WaveRows:
        """The rows of a value."""
        return cls(
            tuple(EntryRow.of(entry) for entry in plan.entries),
            tuple(GoalRow.of(goal) for goal in plan.goals),
            tuple(AttackerRow.of(kind) for kind in plan.attackers),
            tuple(WaveRow.of(wave) for wave in plan.waves),
            DefenceRow(plan.lives, plan.moves, plan.terrain_slows, num(plan.height_reach)),  # type: ignore[arg-type]
        )

    def made(self) -> WavePlan:
        """The value of the rows. Raises BadPlan."""
        held = self.defence
        return WavePlan(
            tuple(row.made() for row in self.entries),
            tuple(row.made() for row in self.goals),
            tuple(row.made(f"attackers[{at}]") for at, row in enumerate(self.attackers)),
            tuple(row.made() for row in self.waves),
            held.lives,
            held.moves,
            held.terrain_slows,
            float(held.height_reach),
        )


def _pairs(cells: tuple[Cell, ...]) -> list[Pair]:
    return [(cell.col, cell.row) for cell in cells]


def _cells(pairs: list[Pair]) -> tuple[Cell, ...]:
    return tuple(Cell(*pair) for pair in pairs)
