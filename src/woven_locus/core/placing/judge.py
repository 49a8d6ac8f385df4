"""The one answer to "may I?"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Kind
from woven_locus.core.placing.rules import ALL_BITS, BIT, ORDER, REASONS_OF, Reason
from woven_locus.core.register import structure_id

if TYPE_CHECKING:
    from woven_locus.core.plan import Plan


class CellVerdict(NamedTuple):
    """One cell of the question: free when there are no reasons."""

    cell: Cell
    reasons: tuple[Reason, ...]

    @property
    def ok(self) -> bool:
        return not self.reasons


class Blocker(NamedTuple):
    """A thing in the way. what : window, structure, obstacle, terrain, reserved or road.
    id : the structure's or obstacle's name (``S12``, ``O3``), else None."""

    what: str
    name: str
    id: str | None


@dataclass(frozen=True, slots=True)
class Verdict:
    """Whether all the cells may be built on. True in a condition when they may.

    cells : every cell asked about, those outside the grid too.
    reasons : why the whole is refused, each once, in the order of the rules.
    blockers : what is in the way, each once.
    """

    cells: tuple[CellVerdict, ...]
    reasons: tuple[Reason, ...]
    blockers: tuple[Blocker, ...]

    def __bool__(self) -> bool:
        return not self.reasons

    def names_for(self, reason: Reason) -> str:
        """The names of what is in the way for one reason, as a list in words."""
        return _listed([b.name for b in self.blockers if b.what == WHAT.get(reason)])

    def sentence(self) -> str:
        """The refusal in words, or an empty string."""
        parts = []
        for reason in self.reasons:
            names = self.names_for(reason) or "the grid"
            parts.append(_SENTENCE[reason].format(names=names))
        return "; ".join(parts)


# Which blockers belong to which reason.
WHAT = {
    Reason.OUTSIDE: "window",
    Reason.TERRAIN: "terrain",
    Reason.RESERVED: "reserved",
    Reason.OBSTACLE: "obstacle",
    Reason.OCCUPIED: "structure",
    Reason.ROAD: "road",
}
_SENTENCE = {
    Reason.OUTSIDE: "part of it lies outside {names}",
    Reason.TERRAIN: "{names} cannot be built on",
    Reason.RESERVED: "the ground is reserved",
    Reason.OBSTACLE: "{names} in the way",
    Reason.OCCUPIED: "occupied by {names}",
    Reason.ROAD: "a road runs there",
}


def _listed(names: Sequence[str]) -> str:
    if len(names) > 3:
        return f"{', '.join(names[:3])} and {len(names) - 3} more"
    return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else "".join(names)


def judge(
    plan: Plan, kind: Kind, cell: Cell, turn: int = 0, lifted: int = 0, care: int = ALL_BITS
) -> Verdict:
    """May a structure of `kind` stand with its turned bounding box's lowest cell at `cell`?

    lifted : number of a structure that is taken as gone (it is being moved), or 0.
    care : the bits of the cell rules that are asked.
    """
    return _judge_cells(plan, plan.footprint(kind, turn).at(cell), lifted, care)


def judge_road(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May road be laid on these cells? Road that is there already is no objection."""
    return _judge_cells(plan, cells, 0, ALL_BITS & ~BIT[Reason.ROAD])


def judge_ground(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May something that grew there stand on these cells, whatever the terrain and its reservation,
    inside the buildable window or not?"""
    ground = BIT[Reason.TERRAIN] | BIT[Reason.RESERVED] | BIT[Reason.OUTSIDE]
    return _judge_cells(plan, cells, 0, ALL_BITS & ~ground)


def judge_cells(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May anything be built on these cells, whatever it is?"""
    return _judge_cells(plan, cells, 0, ALL_BITS)


def _judge_cells(plan: Plan, cells: Sequence[Cell], lifted: int, care: int) -> Verdict:
    spec, blocks, occupant = plan.spec, plan.blocks, plan.occupant
    first_col, first_row, cols, rows = spec.first_col, spec.first_row, spec.cols, spec.rows
    verdicts = []
    seen = 0
    outside = False
    blockers: dict[Blocker, None] = {}
    for cell in cells:
        row, col = cell[1] - first_row, cell[0] - first_col
        if not (0 <= row < rows and 0 <= col < cols):
            outside = True
            verdicts.append(CellVerdict(cell, (Reason.OUTSIDE,)))
            continue
        bits = int(blocks[row, col]) & care
        if lifted and bits & BIT[Reason.OCCUPIED] and occupant[row, col] == lifted:
            bits &= ~BIT[Reason.OCCUPIED]
        if bits:
            seen |= bits
            for blocker in _blockers(plan, row, col, bits):
                blockers[blocker] = None
        verdicts.append(CellVerdict(cell, REASONS_OF[bits]))
    if outside:
        seen |= BIT[Reason.OUTSIDE]
    reasons = REASONS_OF[seen]
    return Verdict(tuple(verdicts), reasons, tuple(blockers))


def _blockers(plan: Plan, row: int, col: int, bits: int) -> list[Blocker]:
    found = []
    who = int(plan.occupant[row, col])
    if bits & BIT[Reason.OUTSIDE]:
        found.append(Blocker("window", "the buildable window", None))
    if bits & BIT[Reason.TERRAIN]:
        found.append(Blocker("terrain", plan.terrain_table[int(plan.terrain[row, col])].name, None))
    if bits & BIT[Reason.RESERVED]:
        found.append(Blocker("reserved", "reserved ground", None))
    if bits & BIT[Reason.OBSTACLE]:
        found.append(Blocker("obstacle", plan.obstacles[-who].name, f"O{-who}"))
    if bits & BIT[Reason.OCCUPIED]:
        found.append(Blocker("structure", plan.title_of(who), structure_id(who)))
    if bits & BIT[Reason.ROAD]:
        found.append(Blocker("road", "road", None))
    return found


def rule_rows(verdict: Verdict) -> list[tuple[Reason, bool, str]]:
    """Every rule with whether it passed and the names of what is in the way."""
    rows = []
    for reason in ORDER:
        rows.append((reason, reason not in verdict.reasons, verdict.names_for(reason)))
    return rows
