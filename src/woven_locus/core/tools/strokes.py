"""Strokes: what a drag means, cell by cell, as one gesture of the history."""

from __future__ import annotations

from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import Verdict, judge, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.tools import edits
from woven_locus.core.tools.lines import held_to_axis, staircase


class Stroke:
    """One press-drag-release. `start` opens the gesture, `finish` or `cancel` ends it."""

    label = ""

    def __init__(self, plan: Plan, history: History) -> None:
        self.plan, self.history = plan, history
        self.refused = 0
        self._last: Cell | None = None

    def start(self, cell: Cell) -> None:
        self.history.begin(self.label)
        self._last = cell
        self._touch([cell])

    def to(self, cell: Cell, held: bool = False) -> None:
        """The pointer has come to `cell`; `held` keeps the stroke to one axis."""
        if self._last is None or cell == self._last:
            return
        run = staircase(self._last, cell)[1:]
        self._last = cell
        self._touch(run)

    def finish(self) -> None:
        self._last = None
        self.history.commit(self.label)

    def cancel(self) -> None:
        self._last = None
        self.history.cancel()

    def _touch(self, cells: list[Cell]) -> None:
        raise NotImplementedError


class EraseRoadStroke(Stroke):
    """Takes road away."""

    label = "Erased road"

    def _touch(self, cells: list[Cell]) -> None:
        self.history.do(edits.erase_road(self.plan, cells))


class RoadStroke(Stroke):
    """Road from the press to the pointer. Nothing is laid before `finish`: the cells in between are
    shown and judged first. Free, the stroke follows the pointer; held, it is one straight run."""

    label = "Laid road"

    def __init__(self, plan: Plan, history: History) -> None:
        super().__init__(plan, history)
        self._free: list[Cell] = []
        self._held_end: Cell | None = None
        self.verdict: Verdict = judge_road(plan, [])

    def start(self, cell: Cell) -> None:
        self._free = [cell]
        self._judge()

    def to(self, cell: Cell, held: bool = False) -> None:
        if held:
            self._held_end = held_to_axis(self._free[0], cell)
        else:
            self._held_end = None
            if cell != self._free[-1]:
                self._free += staircase(self._free[-1], cell)[1:]
        self._judge()

    @property
    def cells(self) -> list[Cell]:
        """The cells proposed, each once, from the start on."""
        if self._held_end is not None:
            return staircase(self._free[0], self._held_end)
        return list(dict.fromkeys(self._free))

    def _judge(self) -> None:
        self.verdict = judge_road(self.plan, self.cells)
        self.refused = sum(not cell.ok for cell in self.verdict.cells)

    def finish(self) -> None:
        good = sum(cell.ok for cell in self.verdict.cells)
        edit = edits.lay_road(self.plan, self.cells)
        self.history.begin(self.label)
        self.history.do(edit)
        self.history.commit(f"Laid road of {good} cell{'s' * (good != 1)}")

    def cancel(self) -> None:
        self._free = []


class PlaceStroke(Stroke):
    """Places at the press, then at each next free spot that the drag comes to, never a pile."""

    def __init__(self, plan: Plan, history: History, kind_key: str, turn: int, when: str) -> None:
        super().__init__(plan, history)
        self.kind_key, self.turn, self.when = kind_key, turn, when
        self.placed: list[int] = []
        self.first_refusal = ""
        self.label = f"Placed {plan.kinds[kind_key].name}"

    def _touch(self, cells: list[Cell]) -> None:
        """cells : lowest cells of the ghost along the drag."""
        kind = self.plan.kinds[self.kind_key]
        for cell in cells:
            # Ask first: a refusal is the normal case while dragging over what was just placed.
            verdict = judge(self.plan, kind, cell, self.turn)
            if verdict:
                edit = edits.place(self.plan, self.kind_key, cell, self.turn, self.when)
                self.placed.append(self.plan.register.next_number)
                self.history.do(edit)
                self.label = edit.label
            elif not self.placed and not self.first_refusal:
                self.first_refusal = edits.cannot_stand(kind, cell, verdict)
        if len(self.placed) > 1:
            self.label = f"Placed {len(self.placed)} {kind.name}"
