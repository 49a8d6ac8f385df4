"""What is in hand: a kind off the shelf, a structure that was lifted, or a copied block; and its ghost on
the map, judged."""

from __future__ import annotations

from collections.abc import Callable
from weakref import ref

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.edits.blocks import Block, judge_block
from woven_locus.core.edits.many import best_turn
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import low_cell
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.turns import flipped
from woven_locus.core.placing import Verdict, judge, nearest_spot
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.ui.language import tr
from woven_locus.ui.session.pointer import Hover

# Cells around a refused ghost that are searched for a better spot while the pointer moves.
NEAR = 24


class Ghost(Value):
    """The kind in hand where it would stand. lifted : number of the structure being moved, or 0."""

    kind: Kind
    cell: Cell
    turn: int
    lifted: int
    verdict: Verdict


class BlockGhost(Value):
    """The block in hand where it would lie."""

    block: Block
    cell: Cell
    verdict: Verdict


class Hand(QObject):
    """kind : key of the kind in hand, or None.  lifted : the structure being moved, or 0.  block : the
    copied block in hand, or None.  pulled : it was picked up by a drag and goes down with the button.
    clipboard : the block that was copied last.

    A ghost stays where it was when the pointer leaves the map, so that one can read about it.
    """

    leaving = pyqtSignal()  # it is about to hold another thing: a stroke in progress ends
    changed = pyqtSignal()  # it holds another thing, or it lies another way
    judged = pyqtSignal()  # the ghost or its verdict is another

    def __init__(
        self, plan: Callable[[], Plan], hover: Callable[[], Hover | None], parent: QObject
    ) -> None:
        """plan : the open one.  hover : where the pointer is."""
        super().__init__(parent)
        self._plan, self._hover = plan, hover
        self.kind: str | None = None
        self.lifted = 0
        self.pulled = False
        self.turn = 0
        self.block: Block | None = None
        self.ghost: Ghost | None = None
        self.block_ghost: BlockGhost | None = None
        # Of which plan its verdict is, and of which state of that.
        self._judged_of: tuple[Callable[[], Plan | None], int] = (lambda: None), 0
        self.clipboard: Block | None = None
        self._refusal = ""
        self._near: tuple[object, Cell | None] = (None, None)

    @property
    def empty(self) -> bool:
        return self.kind is None and self.block is None

    def take_kind(self, key: str) -> None:
        kind = self._plan().kinds[key]
        turn = best_turn(kind, self.turn if self.kind else 0)
        self._empty()
        self.kind, self.turn = key, turn
        self._told()

    def lift(self, number: int) -> None:
        """A placed structure, to put it elsewhere."""
        row = self._plan().register[number]
        self._empty()
        self.kind, self.lifted, self.turn = row.kind, number, row.turn
        self._told()

    def take_block(self, block: Block) -> None:
        self._empty()
        self.block = block
        self._told()

    def copy(self, block: Block) -> None:
        """Keep a block, to take it in hand later."""
        self.clipboard = block
        self.changed.emit()

    def drop(self) -> bool:
        """Put down what is in hand; False when nothing was."""
        if self.empty:
            return False
        self._empty()
        self._told()
        return True

    def _empty(self) -> None:
        self.leaving.emit()
        self.kind, self.lifted, self.pulled, self.block = None, 0, False, None
        self.ghost = self.block_ghost = None

    def _told(self) -> None:
        self._work_out()
        self.changed.emit()
        self.judged.emit()

    def turned(self, quarters: int) -> bool:
        """Turn what is in hand; a kind goes on to the next turn that it takes. False where it has none."""
        kinds, before = self._plan().kinds, self.turn
        if self.block is not None:
            for _ in range(quarters % 4):
                self.block = self.block.turned(kinds)
        elif self.kind is not None:
            self.turn = kinds[self.kind].next_turn(self.turn, quarters)
            if self.turn == before:
                return False
        self._told()
        return True

    def mirrored(self) -> bool:
        """Mirror what is in hand; False for a kind that takes no mirroring."""
        kinds = self._plan().kinds
        if self.block is not None:
            self.block = self.block.mirrored(kinds)
        elif self.kind is not None:
            turn = flipped(self.turn)
            kind = kinds[self.kind]
            if not kind.may_turn(turn):
                turn = best_turn(kind, turn)
                if (turn >= 4) == (self.turn >= 4):
                    return False
            self.turn = turn
        else:
            return False
        self._told()
        return True

    def judge(self) -> None:
        """Where would it stand, and may it? Asked with every move and every edit."""
        had = not (self.ghost is None and self.block_ghost is None)
        if not self.empty or had:
            self._work_out()
            self.judged.emit()

    def _work_out(self) -> None:
        plan, hover = self._plan(), self._hover()
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
            # A pointer that moves within a cell changes nothing, and thousands of cells take a while.
            if old_block is not None and self._is_judged(old_block, self.block, cell):
                self.block_ghost = old_block
                return
            try:
                verdict = judge_block(plan, self.block, cell)
            except WovenError as err:
                self.block = None
                self._refusal = tr(err)
                return
            self.block_ghost = BlockGhost(self.block, cell, verdict)
            # After it, since it may have tried the block on the plan.
            self._judged_of = ref(plan), plan.version

    def _is_judged(self, ghost: BlockGhost, block: Block, cell: Cell) -> bool:
        """Whether a ghost is that of a block at a cell of the plan as it is."""
        plan, (of, version) = self._plan(), self._judged_of
        same = ghost.block is block and ghost.cell == cell
        return same and of() is plan and version == plan.version

    def refusal(self) -> str:
        """Why a block could not be kept in hand, in words; once."""
        words, self._refusal = self._refusal, ""
        return words

    def near(self) -> Cell | None:
        """A legal spot near to a refused ghost; None when there is none close by."""
        ghost = self.ghost
        if ghost is None or ghost.verdict:
            return None
        key = (
            self._plan(),
            self._plan().revision,
            ghost.kind,
            ghost.cell,
            ghost.turn,
            ghost.lifted,
        )
        if self._near[0] != key:
            spot = nearest_spot(
                self._plan(), ghost.kind, ghost.turn, ghost.cell, ghost.lifted, NEAR
            )
            self._near = (key, spot)
        return self._near[1]

    def point_for(self, cell: Cell) -> Point:
        """Where the pointer is when the ghost's lowest cell is `cell`."""
        plan = self._plan()
        assert self.kind is not None
        footprint = plan.footprint(plan.kinds[self.kind], self.turn)
        low = plan.spec.corner(cell)
        return Point(
            low.x + footprint.cols * plan.spec.cell_w / 2,
            low.y + footprint.rows * plan.spec.cell_h / 2,
        )
