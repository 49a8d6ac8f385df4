"""Drawing a footprint: cells on a small grid, doors on their sides, by mouse or by keys."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from woven_locus.core.errors import BadKind
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.kinds import Door, Footprint
from woven_locus.core.kinds.footprint import LARGEST_SIDE, Off
from woven_locus.core.lines import staircase
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.theme import Theme, colour

_ARROWS = {
    Qt.Key.Key_Up: 0,
    Qt.Key.Key_Right: 1,
    Qt.Key.Key_Down: 2,
    Qt.Key.Key_Left: 3,
}
# The board shows at least so many cells a side.
SMALLEST_BOARD = 8


class FootprintPad(Drawn):
    """A board of up to 64 x 64 cells. Pressing a cell sets or clears it, dragging goes on with that; in
    the doors' mode, pressing near a side sets or clears a door. Arrow keys move a cursor, Space presses,
    Shift with an arrow key is the door on that side."""

    changed = pyqtSignal()

    def __init__(self, theme: Theme, footprint: Footprint | None, dye: str) -> None:
        super().__init__()
        self._theme, self.dye = theme, dye
        self.cells: set[Off] = set()
        self.doors: set[Door] = set()
        self.drawing_doors = False
        self.at = (0, 0)
        self._setting: bool | None = None
        self._last: Off | None = None
        self.board = SMALLEST_BOARD
        self.setAccessibleName(
            tr(
                "Footprint: arrow keys move the cursor, Space sets or clears a cell, "
                "Shift and an arrow key a door"
            )
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 240)
        if footprint is not None:
            self.cells = {(c + 1, r + 1) for c, r in footprint.cells}
            self.doors = {Door(d.col + 1, d.row + 1, d.side) for d in footprint.doors}
            if max(footprint.cols, footprint.rows) > LARGEST_SIDE - 2:
                # No margin is left around the largest.
                self.cells = set(footprint.cells)
                self.doors = set(footprint.doors)
            self.at = min(self.cells, key=lambda cell: (cell[1], cell[0]))
        self._fit()
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(300, 300)

    def _fit(self) -> None:
        """A board with a margin around what is drawn."""
        far = max((max(cell) for cell in self.cells), default=0)
        self.board = min(LARGEST_SIDE, max(SMALLEST_BOARD, far + 3))
        self.update()

    @property
    def footprint(self) -> Footprint:
        """What is drawn, from its own low corner on. Raises BadKind when nothing is."""
        if not self.cells:
            raise BadKind(tr("draw at least one cell of the footprint"))
        low_c, low_r = min(c for c, _ in self.cells), min(r for _, r in self.cells)
        return Footprint(
            tuple((c - low_c, r - low_r) for c, r in self.cells),
            tuple(Door(d.col - low_c, d.row - low_r, d.side) for d in self.doors),
        )

    # --- editing -----------------------------------------------------------------------------

    def set_cell(self, cell: Off, on: bool) -> None:
        """Set or clear a cell; doors that lose their wall go."""
        if not (0 <= cell[0] < LARGEST_SIDE and 0 <= cell[1] < LARGEST_SIDE):
            return
        (self.cells.add if on else self.cells.discard)(cell)
        self.doors = {door for door in self.doors if self._is_open(door)}

    def _is_open(self, door: Door) -> bool:
        d_row, d_col = SIDES[door.side]
        beyond = (door.col + d_col, door.row + d_row)
        return (door.col, door.row) in self.cells and beyond not in self.cells

    def toggle_door(self, door: Door) -> None:
        """A door where a wall is, or none where one was."""
        if door in self.doors:
            self.doors.remove(door)
        elif self._is_open(door):
            self.doors.add(door)
        self._told()

    def clear(self) -> None:
        self.cells, self.doors = set(), set()
        self._fit()
        self._told()

    def _told(self) -> None:
        self.update()
        self.changed.emit()

    # --- places ------------------------------------------------------------------------------

    @property
    def _size(self) -> float:
        return max(1.0, min(self.width() - 2, self.height() - 2) / self.board)

    def place_of(self, cell: Off) -> QPointF:
        """The middle of a cell in the widget."""
        return QPointF((cell[0] + 0.5) * self._size + 1, (cell[1] + 0.5) * self._size + 1)

    def _cell_at(self, at: QPointF) -> Off:
        return int((at.x() - 1) // self._size), int((at.y() - 1) // self._size)

    def _door_at(self, at: QPointF) -> Door:
        col, row = self._cell_at(at)
        middle = self.place_of((col, row))
        x, y = at.x() - middle.x(), at.y() - middle.y()
        side = (1 if x > 0 else 3) if abs(x) > abs(y) else (2 if y > 0 else 0)
        return Door(col, row, side)

    # --- mouse and keys ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        cell = self._cell_at(event.position())
        if not (0 <= cell[0] < self.board and 0 <= cell[1] < self.board):
            return
        self.at = cell
        if self.drawing_doors:
            self.toggle_door(self._door_at(event.position()))
            return
        self._setting, self._last = cell not in self.cells, cell
        self.set_cell(cell, self._setting)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._setting is None or self._last is None:
            return
        cell = self._cell_at(event.position())
        for each in staircase(Cell(*self._last), Cell(*cell)):
            if 0 <= each.col < self.board and 0 <= each.row < self.board:
                self.set_cell((each.col, each.row), self._setting)
        self._last = cell
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._setting is not None:
            self._setting = self._last = None
            self._fit()
            self._told()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        if key in _ARROWS:
            side = _ARROWS[key]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                col, row = self.at
                self.toggle_door(Door(col, row, side))
                return
            d_row, d_col = SIDES[side]
            col, row = self.at[0] + d_col, self.at[1] + d_row
            self.at = (min(max(0, col), self.board - 1), min(max(0, row), self.board - 1))
            self.update()
        elif key == Qt.Key.Key_Space:
            self.set_cell(self.at, self.at not in self.cells)
            self._fit()
            self._told()
        else:
            super().keyPressEvent(event)

    # --- painting ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette, size = self._theme.palette, self._size
        span = self.board * size
        painter.fillRect(QRectF(1, 1, span, span), colour(palette.paper))
        painter.setPen(QPen(colour(palette.line), 1))
        for k in range(self.board + 1):
            at = round(1 + k * size) + 0.5
            painter.drawLine(QPointF(at, 1), QPointF(at, 1 + span))
            painter.drawLine(QPointF(1, at), QPointF(1 + span, at))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(palette.panel), 1))
        painter.setBrush(QColor(self.dye))
        for c, r in self.cells:
            painter.drawRect(
                QRectF(1 + c * size, 1 + r * size, size, size).adjusted(1, 1, -0.5, -0.5)
            )
        painter.setPen(QPen(colour(palette.paper), 1))
        painter.setBrush(colour(palette.ink))
        for door in self.doors:
            self._draw_door(painter, door)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for width, dye in ((4.0, palette.paper), (2.0, palette.indigo)):
                painter.setPen(QPen(colour(dye), width))
                c, r = self.at
                painter.drawRect(
                    QRectF(1 + c * size, 1 + r * size, size, size).adjusted(1, 1, -1, -1)
                )

    def _draw_door(self, painter: QPainter, door: Door) -> None:
        """An arrow out of the cell's side."""
        d_row, d_col = SIDES[door.side]
        half, tip = self._size / 2, max(3.0, self._size * 0.22)
        middle = self.place_of((door.col, door.row))
        edge = middle + QPointF(d_col * half, d_row * half)
        out, along = QPointF(d_col * tip, d_row * tip), QPointF(-d_row * tip, d_col * tip)
        painter.drawPolygon(QPolygonF([edge + out, edge + along, edge - along]))
