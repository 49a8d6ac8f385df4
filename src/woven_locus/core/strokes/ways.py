"""Strokes of Ways: roads and barriers drawn from a start to an end, erased, signed and pushed."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum
from itertools import pairwise

from woven_locus.core import edits
from woven_locus.core.editing import Edit, History
from woven_locus.core.edits.pushing import Push, judge_push, push_edit, run_at
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.lines import held_to_axis, staircase
from woven_locus.core.phrase import counted, mark, phrase
from woven_locus.core.placing import Verdict, judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.routing.laying import Weights, lay_line
from woven_locus.core.strokes.base import Stroke
from woven_locus.core.strokes.ends import Caught, caught
from woven_locus.core.value import Value, field
from woven_locus.core.ways.roads import Sign


class Course(Enum):
    """How a line runs from its start to its end. FREE follows the pointer."""

    FREE = mark("Free")
    STRAIGHT = mark("Straight")
    ELBOW = mark("Elbow")
    DIAGONAL = mark("Diagonal")
    LAID = mark("Laid by A*")


class Drawing(Value):
    """How one draws.  code : road class.  rows_first : an elbow goes along the column first.
    reach : cells within which ends snap to road and doors."""

    course: Course = Course.FREE
    code: int = 0
    rows_first: bool = False
    reach: int = 1
    weights: Weights = field(default_factory=Weights)


_PLAIN = Drawing()


def elbow(a: Cell, b: Cell, rows_first: bool = False) -> list[Cell]:
    """Cells from `a` along its row, then along the column of `b`; or the other way round."""
    corner = Cell(a.col, b.row) if rows_first else Cell(b.col, a.row)
    return staircase(a, corner) + staircase(corner, b)[1:]


class LineStroke(Stroke):
    """A road or barrier from the press to the pointer. Nothing is laid before `finish`: both ends and all
    cells in between are shown and judged first. `vias` are points that a laid line has to pass."""

    what = "road"
    label = phrase("Laid road")

    def __init__(self, plan: Plan, history: History, drawing: Drawing = _PLAIN) -> None:
        super().__init__(plan, history)
        self.drawing = drawing
        self._trail: list[Cell] = []
        self._held = False
        self.first: Caught | None = None
        self.last: Caught | None = None
        self.vias: list[Cell] = []
        self.cells: list[Cell] = []
        self.verdict: Verdict = self._judged([])

    def start(self, cell: Cell) -> None:
        self._pressed = cell
        self.first = caught(self.plan, cell, self.drawing.reach, self.what)
        self._trail = [self.first.cell]
        self.to(cell)

    def to(self, cell: Cell, held: bool = False) -> None:
        """The pointer has come to `cell`; `held` keeps the line straight."""
        first = self._trail[0]
        self._held = held or self.drawing.course is Course.STRAIGHT
        end = held_to_axis(first, cell) if self._held else cell
        self.last = caught(self.plan, end, self.drawing.reach, self.what)
        if self._held and first.col != self.last.cell.col and first.row != self.last.cell.row:
            self.last = Caught(end)  # straightness goes before snapping
        if cell == self._pressed:
            # A press alone reaches no further than itself.
            self.last = Caught(cell)
        if not self._held and cell != self._trail[-1]:
            self._trail += staircase(self._trail[-1], cell)[1:]
        self.again()

    def again(self) -> None:
        """Work out the cells anew: an end, a via point or the drawing changed."""
        assert self.last is not None
        first, last, course = self._trail[0], self.last.cell, self.drawing.course
        if self._held or course is Course.DIAGONAL:
            cells = staircase(first, last)
        elif course is Course.ELBOW:
            cells = elbow(first, last, self.drawing.rows_first)
        elif course is Course.LAID:
            cells = lay_line(self.plan, [first, *self.vias, last], self.drawing.weights, self.what)
        else:
            cells = [*self._trail, *staircase(self._trail[-1], last)]
        self.cells = list(dict.fromkeys(cells))
        self.verdict = self._judged(self.cells)
        self.refused = sum(not cell.ok for cell in self.verdict.cells)

    @property
    def lost(self) -> bool:
        """Whether a laid line found no way."""
        return self.drawing.course is Course.LAID and not self.cells

    def bend(self, at: int, to: Cell) -> None:
        """Make a laid line pass a point: `at` is the place among the via points of the one to move, or the
        number of them for one more, put where it makes the line least long."""
        if at < len(self.vias):
            self.vias[at] = to
        else:
            points = [self._trail[0], *self.vias, self.last.cell if self.last else self._trail[0]]
            costs = [_away(a, to) + _away(to, b) - _away(a, b) for a, b in pairwise(points)]
            self.vias.insert(costs.index(min(costs)), to)
        self.again()

    def finish(self) -> None:
        good = sum(cell.ok for cell in self.verdict.cells)
        edit = self._edit()
        self.history.do(
            Edit(
                phrase(
                    "{label} of {cells}",
                    label=self.label,
                    cells=counted(good, "{n} cell", "{n} cells"),
                ),
                edit.changes,
            )
        )

    def cancel(self) -> None:
        self._trail, self.cells = self._trail[:1], []

    def _judged(self, cells: Sequence[Cell]) -> Verdict:
        return judge_road(self.plan, cells)

    def _edit(self) -> Edit:
        return edits.lay_road(self.plan, self.cells, self.drawing.code)


def _away(a: Cell, b: Cell) -> int:
    return abs(a.col - b.col) + abs(a.row - b.row)


class RoadStroke(LineStroke):
    """A road."""


class BarrierStroke(LineStroke):
    """A barrier, drawn as a road is."""

    what = "barrier"
    label = phrase("Raised a barrier")

    def _judged(self, cells: Sequence[Cell]) -> Verdict:
        return judge_barrier(self.plan, cells)

    def _edit(self) -> Edit:
        return edits.raise_barrier(self.plan, self.cells)


class EraseRoadStroke(Stroke):
    """Takes roads and barriers away along the drag."""

    label = phrase("Erased road")

    def _touch(self, cells: list[Cell]) -> None:
        self.history.do(edits.erase_road(self.plan, cells))


class EraseBlockStroke(Stroke):
    """Takes away all roads and barriers in a rectangle; nothing goes before `finish`."""

    label = phrase("Erased road")

    def start(self, cell: Cell) -> None:
        self.corner = self.end = cell

    def to(self, cell: Cell, held: bool = False) -> None:
        self.end = cell

    def finish(self) -> None:
        self.history.do(edits.erase_block(self.plan, self.corner, self.end))

    def cancel(self) -> None:
        self.end = self.corner


# Signs that say nothing of a direction.
WHOLE_CELL = (Sign.NONE, Sign.CLOSED, Sign.CROSSING)


class SignStroke(LineStroke):
    """Signs along a drag over road: one way as the drag goes, closed, or open both ways."""

    label = phrase("Signed road")

    def __init__(self, plan: Plan, history: History, sign: Sign) -> None:
        """sign : one of WHOLE_CELL, or any other for one way along the drag."""
        super().__init__(plan, history, Drawing(Course.FREE, reach=0))
        self.sign = sign

    def _judged(self, cells: Sequence[Cell]) -> Verdict:
        return Verdict((), (), ())

    def signs(self) -> list[tuple[Cell, Sign]]:
        """What each cell would get: junctions and ends are left open, since a one-way cell has one way out.
        Where the drag came past twice, the last time counts."""
        path = self.cells if self._held else self._trail
        if self.sign in WHOLE_CELL:
            return [(cell, self.sign) for cell in dict.fromkeys(path) if self._is_road(cell)]
        found: dict[Cell, Sign] = {}
        for k, cell in enumerate(path):
            after = path[k + 1] if k + 1 < len(path) else None
            if after is None or not self._is_road(after):
                # The drag ends here: on as it came.
                if k == 0:
                    continue
                side = _side(path[k - 1], cell)
            else:
                side = _side(cell, after)
            ways = sum(1 for turn in range(4) if self._is_road(cell.beyond(turn)))
            if self._is_road(cell) and ways == 2 and self._is_road(cell.beyond(side)):
                found[cell] = Sign(side + 1)
        return list(found.items())

    def _is_road(self, cell: Cell) -> bool:
        spec = self.plan.spec
        return spec.contains(cell) and bool(self.plan.road[spec.slot(cell)])

    def finish(self) -> None:
        signs = self.signs()
        edit = edits.put_signs(self.plan, [c for c, _ in signs], [s for _, s in signs])
        count = len(signs)
        cells = phrase("{cells} of road", cells=counted(count, "{n} cell", "{n} cells"))
        if self.sign is Sign.CROSSING:
            label = phrase("Let people cross at {cells}", cells=cells)
        else:
            form = {Sign.NONE: mark("Opened {cells}"), Sign.CLOSED: mark("Closed {cells}")}.get(
                self.sign, mark("Made one-way {cells}")
            )
            label = phrase(form, cells=cells)
        self.history.do(Edit(label, edit.changes))


def _side(a: Cell, b: Cell) -> int:
    """The side of a cell beyond which its neighbour lies."""
    return SIDES.index((b.row - a.row, b.col - a.col))


class PushStroke(Stroke):
    """A straight run picked up and pushed aside; nothing moves before `finish`."""

    label = phrase("Pushed road")

    def start(self, cell: Cell) -> None:
        self._from = cell
        run = run_at(self.plan, cell)
        self.push: Push | None = judge_push(self.plan, run, 0) if run is not None else None

    def to(self, cell: Cell, held: bool = False) -> None:
        if self.push is not None:
            run = self.push.run
            # Across the run: along its row it goes up and down.
            by = cell.row - self._from.row if run.along == 1 else cell.col - self._from.col
            if by != self.push.by:
                self.push = judge_push(self.plan, run, by)

    def finish(self) -> None:
        """Raises Refused where it cannot go."""
        if self.push is not None and self.push.by:
            self.history.do(push_edit(self.plan, self.push))

    def cancel(self) -> None:
        self.push = None
