"""Strokes: what a drag means, cell by cell, as one gesture of the history."""

from __future__ import annotations

from woven_locus.core import edits
from woven_locus.core.editing import Edit, History
from woven_locus.core.edits.many import Wish, free_spots, place_apart, row_spots
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.lines import held_to_axis, staircase
from woven_locus.core.phrase import phrase
from woven_locus.core.placing import CellVerdict, Reason, Verdict, judge
from woven_locus.core.plan import Plan


class Stroke:
    """One press-drag-release. `start` opens the gesture, `finish` or `cancel` ends it."""

    label = ""

    def __init__(self, plan: Plan, history: History) -> None:
        self.plan, self.history = plan, history
        self.refused = 0
        self._last: Cell | None = None

    def start(self, cell: Cell) -> None:
        """The button went down on a cell: the gesture begins."""
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
        """The button came up: the gesture is one step."""
        self._last = None
        self.history.commit(self.label)

    def cancel(self) -> None:
        """The gesture is taken back, all of it."""
        self._last = None
        self.history.cancel()

    def _touch(self, cells: list[Cell]) -> None:
        raise NotImplementedError


class PlaceStroke(Stroke):
    """Places at the press, then at each next free spot that the drag comes to, never a pile."""

    def __init__(
        self,
        plan: Plan,
        history: History,
        kind_key: str,
        turn: int,
        when: str,
        verdict: Verdict | None = None,
    ) -> None:
        """verdict : what `judge` says of the first cell now, from whoever has just asked."""
        super().__init__(plan, history)
        self.kind_key, self.turn, self.when = kind_key, turn, when
        self._verdict = verdict
        self.placed: list[int] = []
        self.first_refusal = ""
        self.label = phrase("Placed {kinds}", kinds=plan.kinds[kind_key].name)

    def start(self, cell: Cell) -> None:
        self._first = cell
        super().start(cell)

    def to(self, cell: Cell, held: bool = False) -> None:
        # Held, it goes along the row or column of the press, however the pointer strays.
        super().to(held_to_axis(self._first, cell) if held else cell)

    def _touch(self, cells: list[Cell]) -> None:
        """cells : lowest cells of the ghost along the drag."""
        kind = self.plan.kinds[self.kind_key]
        for cell in cells:
            # Ask first: a refusal is the normal case while dragging over what was just placed.
            verdict, self._verdict = self._verdict, None
            if verdict is None:
                verdict = judge(self.plan, kind, cell, self.turn)
            if verdict:
                edit = edits.place(self.plan, self.kind_key, cell, self.turn, self.when, verdict)
                self.placed.append(self.plan.register.next_number)
                self.history.do(edit)
                self.label = edit.label
            elif not self.placed and not self.first_refusal:
                self.first_refusal = edits.cannot_stand(kind, cell, verdict)
        if len(self.placed) > 1:
            self.label = phrase("Placed {count} {kind}", count=len(self.placed), kind=kind.name)


class RowsStroke(Stroke):
    """A rectangle filled with one kind in rows. Nothing is placed before `finish`: all spots are shown
    first, with what they cost together; those that are refused are left out."""

    label = phrase("Filled rows")

    def __init__(
        self,
        plan: Plan,
        history: History,
        kind_key: str,
        turn: int,
        when: str,
        gaps: tuple[int, int] = (0, 0),
    ) -> None:
        """gaps : free columns and rows between neighbours."""
        super().__init__(plan, history)
        self.kind, self.turn, self.when, self.gaps = plan.kinds[kind_key], turn, when, gaps
        self.spots: list[Cell] = []
        self.free: list[bool] = []
        self.verdict = Verdict((), (), ())
        self.why = ""
        self.placed = 0
        self.refusals: list[str] = []

    def start(self, cell: Cell) -> None:
        self._last = cell
        self._corner = cell
        self.to(cell)

    def to(self, cell: Cell, held: bool = False) -> None:
        """held : one row or column of them."""
        end = held_to_axis(self._corner, cell) if held else cell
        footprint = self.plan.footprint(self.kind, self.turn)
        if held:
            # A single row is as deep as one of them, wherever the pointer is in it.
            end = Cell(
                end.col if end.col != self._corner.col else end.col + footprint.cols - 1,
                end.row if end.row != self._corner.row else end.row + footprint.rows - 1,
            )
        self.spots = row_spots(footprint, self._corner, end, *self.gaps)
        if not self.spots:
            # Too small for one yet: it would stand in the corner.
            self.spots = [self._corner]
        self.free = free_spots(self.plan, self.kind, self.turn, self.spots)
        self.refused = self.free.count(False)
        # All cells, for the marks on the map.
        cells = tuple(
            CellVerdict(cell, () if free else (Reason.OCCUPIED,))
            for spot, free in zip(self.spots, self.free, strict=True)
            for cell in footprint.at(spot)
        )
        self.verdict = Verdict(cells, (Reason.OCCUPIED,) if self.refused else (), ())
        self.why = ""
        if self.refused:
            first = self.spots[self.free.index(False)]
            self.why = judge(self.plan, self.kind, first, self.turn).sentence()

    @property
    def price(self) -> int:
        """Of all that would be placed."""
        return self.free.count(True) * self.kind.price

    def finish(self) -> None:
        wishes = [
            Wish(cell_text(spot), self.kind.key, spot, self.turn)
            for spot, free in zip(self.spots, self.free, strict=True)
            if free
        ]
        edit, self.refusals = place_apart(self.plan, self.kind, wishes, self.when)
        self.placed = len(wishes) - len(self.refusals)
        if self.placed > 1:
            edit = Edit(
                phrase("Placed {placed} {kind} in rows", placed=self.placed, kind=self.kind.name),
                edit.changes,
            )
        self.history.do(edit)

    def cancel(self) -> None:
        self.spots, self.free = [], []
