"""What is in hand: a kind off the shelf, a structure that was lifted, or a copied block; and its ghost on
the map, judged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from woven_locus.core.edits.blocks import Block, judge_block
from woven_locus.core.edits.many import best_turn
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import low_cell
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.turns import flipped
from woven_locus.core.placing import Verdict, judge, nearest_spot

if TYPE_CHECKING:
    from woven_locus.ui.session.session import Session

# Cells around a refused ghost that are searched for a better spot while the pointer moves.
NEAR = 24


@dataclass(frozen=True, slots=True)
class Ghost:
    """The kind in hand where it would stand. lifted : number of the structure being moved, or 0."""

    kind: Kind
    cell: Cell
    turn: int
    lifted: int
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class BlockGhost:
    """The block in hand where it would lie."""

    block: Block
    cell: Cell
    verdict: Verdict


class Hand:
    """kind : key of the kind in hand, or None.  lifted : the structure being moved, or 0.  block : the
    copied block in hand, or None.  pulled : it was picked up by a drag and goes down with the button.

    A ghost stays where it was when the pointer leaves the map, so that one can read about it.
    """

    def __init__(self, session: Session) -> None:
        self._session = session
        self.kind: str | None = None
        self.lifted = 0
        self.pulled = False
        self.turn = 0
        self.block: Block | None = None
        self.ghost: Ghost | None = None
        self.block_ghost: BlockGhost | None = None
        self._near: tuple[object, Cell | None] = (None, None)

    @property
    def empty(self) -> bool:
        return self.kind is None and self.block is None

    def take_kind(self, key: str) -> None:
        kind = self._session.plan.kinds[key]
        turn = best_turn(kind, self.turn if self.kind else 0)
        self.drop()
        self.kind, self.turn = key, turn

    def lift(self, number: int) -> None:
        row = self._session.plan.register[number]
        self.drop()
        self.kind, self.lifted, self.turn = row.kind, number, row.turn

    def take_block(self, block: Block) -> None:
        self.drop()
        self.block = block

    def drop(self) -> None:
        self.kind, self.lifted, self.pulled, self.block = None, 0, False, None
        self.ghost = self.block_ghost = None

    def turned(self, quarters: int) -> None:
        """Turn what is in hand; a kind goes on to the next turn that it takes."""
        kinds = self._session.plan.kinds
        if self.block is not None:
            for _ in range(quarters % 4):
                self.block = self.block.turned(kinds)
        elif self.kind is not None:
            self.turn = kinds[self.kind].next_turn(self.turn, quarters)

    def mirrored(self) -> bool:
        """Mirror what is in hand; False for a kind that takes no mirroring."""
        kinds = self._session.plan.kinds
        if self.block is not None:
            self.block = self.block.mirrored(kinds)
            return True
        if self.kind is None:
            return False
        turn = flipped(self.turn)
        kind = kinds[self.kind]
        if not kind.may_turn(turn):
            turn = best_turn(kind, turn)
            if (turn >= 4) == (self.turn >= 4):
                return False
        self.turn = turn
        return True

    def judge(self) -> None:
        """Where would it stand, and may it? Asked with every move and every edit."""
        session = self._session
        plan, hover = session.plan, session.hover
        old, old_block = self.ghost, self.block_ghost
        self.ghost = self.block_ghost = None
        if self.kind is not None:
            kind = plan.kinds[self.kind]
            footprint = plan.footprint(kind, self.turn)
            if hover is not None:
                cell = low_cell(plan.spec, *hover.point, footprint.cols, footprint.rows)
            elif old is not None:
                cell = old.cell
            else:
                return
            verdict = judge(plan, kind, cell, self.turn, self.lifted)
            self.ghost = Ghost(kind, cell, self.turn, self.lifted, verdict)
        elif self.block is not None:
            if hover is not None:
                cell = low_cell(plan.spec, *hover.point, self.block.cols, self.block.rows)
            elif old_block is not None:
                cell = old_block.cell
            else:
                return
            try:
                verdict = judge_block(plan, self.block, cell)
            except WovenError as err:
                session.say(str(err), "no")
                self.block = None
                return
            self.block_ghost = BlockGhost(self.block, cell, verdict)

    def near(self) -> Cell | None:
        """A legal spot near to a refused ghost; None when there is none close by."""
        ghost = self.ghost
        if ghost is None or ghost.verdict:
            return None
        key = (self._session.document.revision, ghost.kind, ghost.cell, ghost.turn, ghost.lifted)
        if self._near[0] != key:
            spot = nearest_spot(
                self._session.plan, ghost.kind, ghost.turn, ghost.cell, ghost.lifted, NEAR
            )
            self._near = (key, spot)
        return self._near[1]

    def point_for(self, cell: Cell) -> Point:
        """Where the pointer is when the ghost's lowest cell is `cell`."""
        plan = self._session.plan
        assert self.kind is not None
        footprint = plan.footprint(plan.kinds[self.kind], self.turn)
        low = plan.spec.corner(cell)
        return Point(
            low.x + footprint.cols * plan.spec.cell_w / 2,
            low.y + footprint.rows * plan.spec.cell_h / 2,
        )
